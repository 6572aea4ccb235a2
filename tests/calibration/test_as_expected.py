"""What a channel should show, bounds as readings, what visits share, what is stated: each by hand."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.calibration.channels import channel_on, match_channels, readable, supply_of
from fenmist.calibration.expected import digit_of, expected_si, power_of
from fenmist.calibration.gather import end_part, ends_of, load_of
from fenmist.calibration.job import PlanPoint
from fenmist.calibration.keydown import clock_set_back
from fenmist.calibration.legs import between_visits, half_moved, joined_legs
from fenmist.calibration.outcome import Stated
from fenmist.calibration.planning import DEFAULT_POWER_W, full_power_w, range_for
from fenmist.calibration.rounds import readings_by_point
from fenmist.errors import OutOfRangeError, UnknownIdError
from fenmist.hookup import editing
from fenmist.kit import generic, shelf
from fenmist.measurand import Kind
from fenmist.reading.event import Reading
from fenmist.uncertainty.influence import each_point, influence
from fenmist.waveform.series import Series
from studies.builders import job, read
from studies.matches import ENDS, match_job, typed
from studies.references import BENCHES


@pytest.mark.parametrize(("load", "net"), [("50", 1.0), ("75", 0.96)])
def test_volts_across_a_load_are_expected_of_the_incident_watts(load, net):
    """V² = P·(1 - ρ²)·R, Vpp = 2√2·V; 75 Ω takes 96 % of what comes in, in ratio of R (V² = 1.2²·50·P)."""
    made = job([], load=load)
    point = made.plan[0]
    ohm = float(load)
    vpp = math.sqrt(8.0 * point.target_w * net * ohm)

    assert expected_si(made, point, "scope") == pytest.approx(vpp, rel=1e-4)
    assert power_of(made, point, "scope", Reading(vpp, "Vpp", 0.1)) == pytest.approx(point.target_w, rel=1e-4)
    assert power_of(made, point, "scope", Reading(vpp / math.sqrt(8.0), "Vrms", 0.1)) == pytest.approx(
        point.target_w, rel=1e-4
    )
    assert expected_si(made, point, "meter") == point.target_w
    assert power_of(made, point, "meter", Reading(12.0, "W", 0.1)) == 12.0


@pytest.mark.parametrize("name", list(BENCHES))
def test_what_is_expected_of_every_channel_stands_for_what_is_planned(name):
    made = BENCHES[name]()
    for point in made.plan:
        for channel in point.sequence:
            expected = expected_si(made, point, channel)
            if expected is None:
                continue
            unit = made.indicator(channel).unit
            unit = unit if unit in ("Vpp", "Vpk", "Vrms", "A") else "V" if unit == "V" else "W"
            if unit == "V":
                continue
            assert power_of(made, point, channel, Reading(expected, unit, 0.1)) == pytest.approx(
                point.target_w, rel=1e-9
            )


def test_a_match_is_expected_as_its_plane_sees_the_end():
    """25 Ω behind the meter: SWR 2, ρ 1/3; a null shows 1."""
    made = match_job()
    at = {point.leg: point for point in made.plan}
    for leg, swr in (("null", 1.0), ("r25", 2.0), ("r100", 2.0), ("r150", 3.0)):
        swr_channel = next(c for c in at[leg].sequence if made.channel(c).measurand.kind is Kind.SWR)
        assert expected_si(made, at[leg], swr_channel) == pytest.approx(swr, rel=0.03)


@pytest.mark.parametrize(("text", "value", "u"), [
    ("<1.05", 1.025, 0.025 / math.sqrt(3)),  # anything between 1 and 1.05
    (">3", 1.0 + 0.75 / 0.125 * 2 - 5, None),
])  # fmt: skip
def test_a_bound_on_a_match_is_anything_between_it_and_the_end(text, value, u):
    """Above 3, ρ from 1/2 to 1: its middle is 0.75, SWR 7; a rectangle's u of ρ is 0.25/√3."""
    made = typed(match_job(), {"r25": text})
    point = next(p for p in made.plan if p.leg == "r25")
    found = next(item for item in readings_by_point(made) if item.point is point)
    (one,) = found.rounds
    reading = next(t.reading for t in (*one.duts, *one.others) if t.reading.unit == "")

    if u is not None:
        assert (reading.value, reading.u) == pytest.approx((value, u))
    else:
        less = 0.75 - 0.25 / math.sqrt(3)
        assert (reading.value, reading.u) == pytest.approx((7.0, 7.0 - (1 + less) / (1 - less)))
    assert found.bounded == 1


def test_a_bound_on_a_power_is_no_reading():
    made = read(job([]), ("<102 Vpp", "25.6"))
    (found, *_) = readings_by_point(made)
    assert (found.rounds, found.bounded) == ((), 1)


def test_shares_and_decibels_of_what_is_stated():
    point = PlanPoint("p1", "line", 7e6, 50.0, "200", ())
    ratio = Stated(point, 0.06, (0.02, 0.10), 0.02, 2.0, "W", 0.05, None, "linear", True, 0.06, (0.02, 0.10), 0.05)
    db = replace(ratio, unit="dB", share=0.5, share_interval=(0.3, 0.7), share_unit="dB")

    assert (ratio.share_scale, db.share_scale) == (100.0, 1.0)
    assert ratio.expanded_u == pytest.approx(0.04)
    assert ratio.relative_u == pytest.approx(0.04 / 1.06)
    assert db.relative_u == pytest.approx(0.2 * math.log(10) / 10)
    assert ratio.tolerance_used == pytest.approx(1.2)
    assert replace(ratio, value=-0.06).tolerance_used == pytest.approx(1.2)
    assert replace(ratio, tolerance=0.0).tolerance_used == 0.0


def test_half_of_what_a_ratio_moved_by_between_visits():
    class Leg:
        def __init__(self, value, rounds):
            self.value, self.rounds = value, [0] * rounds

    def ratio(leg):
        return leg.value

    assert half_moved((Leg(0.1, 2), Leg(0.5, 2), Leg(0.3, 2)), ratio) == pytest.approx(0.1)
    assert half_moved((Leg(0.3, 1), Leg(0.1, 2)), ratio) == pytest.approx(0.1)
    assert half_moved((Leg(0.1, 1), Leg(0.3, 1)), ratio) == 0.0  # their scatter says it
    assert half_moved((Leg(0.1, 3),), ratio) == 0.0
    (moved,) = between_visits(np.array([0.0, 0.06]), "A over B")
    assert moved.standard_u == pytest.approx([0.0, 0.06 / math.sqrt(3)])
    assert between_visits(np.zeros(2), "A over B") == ()


def test_what_two_visits_share_is_one_error_as_large_in_each_as_its_own_reading_makes_it():
    one = influence("gain", "gain", 1.0, 0.02, points=1)
    other = influence("gain", "gain", 2.0, 0.06, points=1)
    reading = influence("s.reading", "reading", 5.0, 0.1, points=1, sharing=each_point(1))
    legs = joined_legs([("direct", (one, reading)), ("through", (other, replace(reading, estimate=np.array([7.0]))))])

    assert [item.id for item in legs.influences] == ["gain", "s.reading", "s.reading, through"]
    moved = {"gain": np.array([1.02]), "s.reading": np.array([5.0]), "s.reading, through": np.array([7.3])}
    assert legs.of(0, moved)["gain"] == pytest.approx([1.02])
    assert legs.of(1, moved) == {"gain": pytest.approx([2.06]), "s.reading": pytest.approx([7.3])}
    nothing = joined_legs([("a", (one,)), ("b", (replace(other, standard_u=np.zeros(1)),))])
    assert [item.id for item in nothing.influences] == ["gain", "gain, b"]
    own = joined_legs([("a", (one,)), ("b", (one,))], lambda name: name == "gain")
    assert [item.id for item in own.influences] == ["gain", "gain, b"]


@pytest.mark.parametrize(("value", "digit"), [(123.4, 1.0), (0.0456, 1e-4), (9.99, 0.01), (1000.0, 10.0)])
def test_an_expected_reading_is_taken_to_three_figures(value, digit):
    assert digit_of(value) == pytest.approx(digit)


def test_power_against_time_is_straight_between_readings():
    """10 W to 30 W in 4 s, then 30 W for 2 s: mean (80 + 60)/6; above 20 W for 2 s and then 2 s."""
    made = Series("x", "x", (0.0, 4.0, 6.0), (10.0, 30.0, 30.0))

    assert (made.lowest_w, made.highest_w, made.span_s) == (10.0, 30.0, 6.0)
    assert made.mean_w == pytest.approx(140.0 / 6.0)
    assert [made.seconds_above(limit) for limit in (5.0, 20.0, 30.0, 40.0)] == pytest.approx([6.0, 4.0, 0.0, 0.0])
    assert Series("x", "x", (1.0, 1.0), (10.0, 20.0)).mean_w == 15.0


def test_ranges_and_full_power_follow_the_device():
    ranges = shelf.inline_meter("m", "m", (20.0, 200.0), None, 0.05).indicators[0].ranges
    assert [range_for(ranges, level) for level in (5.0, 20.0, 20.1, 900.0)] == ["20", "20", "200", "200"]
    assert range_for((), 5.0) == ""
    made = job([])
    assert full_power_w(made) == 200.0
    bare = replace(made, dut="load")
    assert full_power_w(bare) == 150.0
    assert full_power_w(replace(made, dut="scope")) == DEFAULT_POWER_W == 1.0


def test_channels_are_made_of_what_a_part_shows():
    made = job([])
    hookup, parts = made.bench, made.parts
    meter = next(item.id for item in hookup.elements if item.part == "meter")
    again = channel_on(hookup, meter, parts["meter"], {meter})
    assert again.id == f"{meter}, {hookup.id}"
    assert again.measurand.plane.port == parts["meter"].ends[-1]
    scope = next(item.id for item in hookup.elements if item.part == "scope")
    assert channel_on(hookup, scope, parts["scope"]).measurand.plane.port == parts["scope"].ports[0].id
    load = next(item.id for item in hookup.elements if item.part == "load")
    with pytest.raises(OutOfRangeError, match="shows nothing"):
        channel_on(hookup, load, parts["load"])
    assert readable(parts["load"]) == () and supply_of(hookup, load, parts["load"]) == ()
    with pytest.raises(OutOfRangeError, match="tells nothing of a match"):
        match_channels(hookup, scope, parts["scope"])
    both = next(part for part in generic.generics() if part.id == "generic-digital")
    line = match_job().bench
    kinds = [item.measurand.kind for item in match_channels(line, meter, both)]
    assert kinds[:2] == [Kind.INCIDENT, Kind.REFLECTED] and Kind.SWR in kinds
    turned = match_channels(line, meter, both, is_turned=True)
    assert [item.measurand.kind for item in turned] == [Kind.INCIDENT, Kind.REFLECTED]
    assert [item.measurand.plane.port for item in turned] == [both.ends[0]] * 2


def test_the_end_of_a_line():
    made = job([])
    assert load_of(made).id == "load" and end_part(made).id == "load"
    assert [part.id for part in ends_of(made)] == ["load"]
    matched = match_job()
    assert {part.id for part in ends_of(matched)} == {part.id for part in ENDS}
    assert load_of(matched) is None or load_of(matched).kind.value == "load"
    load = next(item.id for item in made.bench.elements if item.part == "load")
    cut = editing.removed(made.bench, made.parts, load)
    with pytest.raises(UnknownIdError, match="No load ends"):
        end_part(made.with_hookup(cut))


def test_a_clock_that_went_back_by_more_than_a_second_is_seen():
    made = read(job([]), ("102 Vpp", "25.6"))
    first, second = made.events[:2]
    back = replace(made, events=(first, replace(second, at=first.at.replace(year=first.at.year - 1))))
    assert [(a.id, b.id) for a, b in clock_set_back(back)] == [(first.id, second.id)]
    assert list(clock_set_back(made)) == []


def test_nothing_in_the_job_is_found_by_another_name():
    made = job([])
    assert made.has_point("p1") and not made.has_point("p99")
    for ask in (made.point, made.channel, made.part, made.part_read, made.hookup):
        with pytest.raises(UnknownIdError):
            ask("nowhere")
    assert not made.is_device("nowhere") and not made.is_supply("nowhere") and not made.is_of_match("nowhere")
    assert made.is_device("meter") and not made.is_device("scope")
