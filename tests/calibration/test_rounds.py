"""Rounds in time: interpolation, what a drift may leave, scatter and power against time, all computed by hand."""

import math
from dataclasses import replace
from datetime import timedelta

import pytest

from fenmist.calibration.job import PlanPoint
from fenmist.calibration.rounds import (
    PointReadings,
    Round,
    Taken,
    drift_left,
    readings_by_point,
    readings_moved_on,
    scatter,
)
from fenmist.calibration.series import series_at
from fenmist.errors import UnknownIdError
from fenmist.procedures.comparison.overlap import Overlap, overlaps
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import AS_FOUND, AS_LEFT, Entry, Event, EventKind, Reading, Slot
from fenmist.waveform.series import Series
from studies.builders import WHEN, enter, job
from studies.references import behind_a_pad
from support.results import point_result, results

SEQUENCE = ("scope", "meter", "scope")


def taken(value, unit="W", at=None, digit=0.1, channel="scope", u=None):
    reading = Reading(value, unit, digit, u=u)
    return Taken(reading, at, Entry(Slot("p1", 1, 0), channel, "e", "i", "", "", reading))


def power(log: float, at=None):
    """A reference whose ln P is so much."""
    return taken(math.exp(log), "W", at)


def at_point(*rounds: Round) -> PointReadings:
    return PointReadings(PlanPoint("p1", "line", 7e6, 50.0, "200", SEQUENCE), rounds, 0, 0, 0, {}, len(rounds))


@pytest.mark.parametrize(("unit", "rms"), [("Vpp", 1 / (2 * 2**0.5)), ("Vpk", 1 / 2**0.5), ("Vrms", 1.0)])
def test_volts_stand_for_the_square_of_their_rms(unit, rms):
    assert taken(102.0, unit).log_power == pytest.approx(2 * math.log(102.0 * rms))
    assert taken(25.6, "W").log_power == pytest.approx(math.log(25.6))


def test_the_reference_is_interpolated_to_the_moment_of_the_meter():
    """ln P from 0 at 0 s to 0.4 at 40 s; the meter at 10 s: 0.1."""
    made = Round(1, (power(0.0, 0.0), power(0.4, 40.0)), (taken(math.e, "W", 10.0),), True)

    assert made.log_reference == pytest.approx(0.1)
    assert made.log_ratio == pytest.approx(0.9)
    assert made.change == pytest.approx(0.4)
    assert made.seconds_between("scope") == pytest.approx(10.0)
    late = replace(made, references=made.references[::-1])  # in whatever order they were taken
    assert late.log_reference == pytest.approx(0.1)
    assert late.change == pytest.approx(-0.4)


@pytest.mark.parametrize(("times", "moment"), [((None, 40.0), 10.0), ((0.0, 40.0), None), ((None, None), None)])
def test_without_a_time_the_mean_is_taken(times, moment):
    references = tuple(power(log, at) for log, at in zip((0.0, 0.4), times, strict=True))
    made = Round(1, references, (taken(1.0, "W", moment),), True)

    assert made.log_reference == pytest.approx(0.2)
    assert made.seconds_between("scope") is None
    # then half of the change may be left
    assert drift_left(at_point(made), "scope") == pytest.approx(0.2)


def test_two_readings_of_the_meter_count_as_their_mean_in_value_and_time():
    duts = (taken(math.exp(1.0), "W", 10.0), taken(math.exp(2.0), "W", 30.0))
    made = Round(1, (power(0.0, 0.0), power(0.4, 40.0)), duts, True)

    assert (made.log_dut, made.log_reference, made.seconds_between("scope")) == pytest.approx((1.5, 0.2, 20.0))


def test_a_quarter_of_the_change_may_be_left_between_two_references():
    made = Round(1, (power(0.0, 0.0), power(-0.4, 40.0)), (taken(1.0, "W", 20.0),), True)

    assert drift_left(at_point(made), "scope") == pytest.approx(0.1)


def test_three_references_show_the_bend_and_twice_of_it_is_allowed():
    """ln P = 1e-4·t² at 0, 20, 40 s: second difference/2 is 1e-4; over a round of 20 s, twice 1e-4·20²/4 = 0.02."""
    references = [power(1e-4 * t**2, t) for t in (0.0, 20.0, 40.0)]
    first = Round(1, (references[0], references[1]), (taken(1.0, "W", 10.0),), True)
    second = Round(2, (references[2],), (taken(1.0, "W", 40.0),), True)
    # the quarter of the change, 0.01, is less than what the bend allows; of a steeper change it isn't
    assert drift_left(at_point(first, second), "scope") == pytest.approx((0.01 + 0.0) / 2)
    tilted = [power(1e-4 * t**2 + 0.05 * t, t) for t in (0.0, 20.0, 40.0)]
    steep = Round(1, (tilted[0], tilted[1]), (taken(1.0, "W", 10.0),), True)
    other = Round(2, (tilted[2],), (taken(1.0, "W", 40.0),), True)
    assert drift_left(at_point(steep, other), "scope") == pytest.approx(2 * 1e-4 * 20**2 / 4 / 2)


def test_with_one_reference_a_round_the_fastest_change_counts_for_the_seconds_between():
    """From 0 to 0.1 in 100 s, then back 0.3 in 100 s: 0.003 a second, for 20 and 10 s."""
    rounds = [
        Round(n, (power(log, at),), (taken(1.0, "W", at + gap),), True)
        for n, (log, at, gap) in enumerate([(0.0, 0.0, 20.0), (0.1, 100.0, 10.0), (-0.2, 200.0, 0.0)], 1)
    ]

    assert drift_left(at_point(*rounds), "scope") == pytest.approx(0.003 * 30.0 / 3)
    assert drift_left(at_point(rounds[0]), "scope") == 0.0
    untimed = (replace(r, references=(power(0.1 * n, None),)) for n, r in enumerate(rounds))
    assert drift_left(at_point(*untimed), "scope") == 0.0


def test_references_at_one_moment_show_no_bend():
    same = Round(1, (power(0.0, 0.0), power(0.4, 0.0), power(0.2, 40.0)), (taken(1.0, "W", 20.0),), True)

    assert drift_left(at_point(same), "scope") == pytest.approx(0.25 * 0.2)


# what stands at a point


def test_rounds_hold_what_was_read_and_count_what_is_missing():
    made = job(repeats=3, frequencies_hz=(7e6,))
    made = replace(made, plan=(replace(made.plan[0], sequence=SEQUENCE),))
    for slot, text in (
        ((1, 0), "102"),
        ((1, 1), "25.6"),
        ((1, 2), "101"),
        ((2, 0), "102"),
        ((2, 1), "<20"),
        ((3, 0), "1,250"),
    ):
        made = enter(made, Slot("p1", *slot), text)
    (found,) = readings_by_point(made)

    assert [(item.number, item.complete) for item in found.rounds] == [(1, True)]
    assert [len(item.references) for item in found.rounds] == [2]
    assert (found.open_entries, found.bounded, found.entered, found.wanted) == (1, 1, 6, 3)
    assert found.complete_rounds == 1
    # two rounds of three readings are open; two readings of them stand ("<20" is one, the open entry isn't)
    assert found.missing_readings == 4
    whole = reduce(made)
    assert (whole.missing, whole.missing_readings, whole.wanted, whole.complete) == (2, 4, 3, False)


def test_skipped_rounds_and_blocked_points_are_not_wanted():
    made = job([[("102", "25.6")], []], frequencies_hz=(7e6, 14e6), repeats=1)
    made = replace(made, plan=(replace(made.plan[0], repeats=3), replace(made.plan[1], blocked="no relay")))
    made = made.with_event(Event("s", EventKind.SKIP, WHEN, reason="hot", slot=Slot("p1", 2, 0)))
    first, second = readings_by_point(made)

    assert (first.wanted, first.missing_readings, second.wanted, second.missing_readings) == (2, 2, 0, 0)


# two ranges


def test_ranges_that_differ_by_their_uncertainty_just_meet():
    one = point_result()

    assert Overlap(one, one, -0.04, 0.02).normalized == pytest.approx(2.0)
    assert Overlap(one, one, 0.01, 0.02).normalized == pytest.approx(0.5)
    assert Overlap(one, one, 0.01, 0.0).normalized == math.inf
    assert overlaps(results(one, replace(one, point=replace(one.point, id="b")))) == ()


def test_levels_up_to_a_quarter_apart_are_compared():
    made = job([[("63.25", "10")], [("70.71", "12.5")], [("72.1", "13")]], frequencies_hz=(7e6,))
    base = made.plan[0]
    plan = tuple(
        replace(base, id=f"p{n}", target_w=w, range_id=used)
        for n, (w, used) in enumerate([(10.0, "20"), (12.5, "200"), (12.51, "200")], 1)
    )
    made = replace(job(), plan=plan)
    for n, (volts, watts) in enumerate([("63.25", "10"), ("70.71", "12.5"), ("72.1", "13")], 1):
        made = enter(enter(made, Slot(f"p{n}", 1, 0), volts), Slot(f"p{n}", 1, 1), watts)

    assert [(item.one.point.id, item.other.point.id) for item in overlaps(reduce(made))] == [("p1", "p2")]


# power against time

RAMP = Series("meter", True, (0.0, 10.0, 20.0, 40.0), (0.0, 10.0, 10.0, 30.0))


def test_power_against_time_is_weighted_by_time():
    """0 to 10 in 10 s, 10 for 10 s, 10 to 30 in 20 s: (50 + 100 + 400)/40 W."""
    assert (RAMP.lowest_w, RAMP.highest_w, RAMP.span_s) == (0.0, 30.0, 40.0)
    assert RAMP.mean_w == pytest.approx(13.75)
    assert Series("meter", True, (5.0, 5.0), (10.0, 30.0)).mean_w == 20.0


@pytest.mark.parametrize(
    ("limit", "seconds"), [(-1.0, 40.0), (0.0, 40.0), (5.0, 35.0), (10.0, 20.0), (20.0, 10.0), (30.0, 0.0), (99.0, 0.0)]
)
def test_time_above_a_level_is_straight_between_readings(limit, seconds):
    assert RAMP.seconds_above(limit) == pytest.approx(seconds)


def test_volts_become_the_power_that_the_point_makes_of_them():
    made = job(frequencies_hz=(7e6,), level_w=25.0, repeats=2)
    for number, (volts, watts) in enumerate((("102 Vpp", "25.6"), ("51 Vpp", "6.4")), 1):
        made = enter(enter(made, Slot("p1", number, 0), volts), Slot("p1", number, 1), watts)
    timed = tuple(
        replace(event, entry=replace(event.entry, observed_at=WHEN + timedelta(seconds=10 * (3 - n))))
        for n, event in enumerate(made.events)
    )
    made = replace(made, events=timed)
    result = reduce(made)
    (readings,), (point,) = result.readings, result.points
    reference, device = series_at(readings, point.reference_w)

    assert (reference.channel, device.channel) == ("scope", "meter")
    assert reference.seconds == (0.0, 20.0) and device.seconds == (0.0, 20.0)  # in time, not in reading order
    assert device.powers_w == (6.4, 25.6)
    # rounds are averaged as logarithms: √(x·4x) makes the point's reference, and each is what it says alone
    alone = [reduce(job([[(volts, "25.6")]])).points[0].reference_w for volts in ("51 Vpp", "102 Vpp")]
    assert reference.powers_w == pytest.approx((point.reference_w / 2, 2 * point.reference_w))
    assert reference.powers_w == pytest.approx(alone)
    assert [item.channel for item in series_at(readings, None)] == ["meter"]
    assert series_at(reduce(job([[("102", "25.6")]])).readings[0], point.reference_w) == ()


# what is derived of a result


def test_neighbours_of_a_point_are_those_of_the_plan():
    made = reduce(job([[("102", "25.6")]] * 5, frequencies_hz=[(n + 1) * 1e6 for n in range(5)]))

    assert [item.point.id for item in made.near("p3", 1).points] == ["p2", "p3", "p4"]
    assert [item.point.id for item in made.near("p1", 2).points] == ["p1", "p2", "p3"]
    assert made.of("p9") is None
    with pytest.raises(KeyError):
        made.readings_at("p9")


def test_a_reference_that_shows_less_than_nothing_at_times_is_averaged_as_it_is():
    """4, −1 and 3 mW of a sensor near its floor: 2 mW, not the 3.46 mW of those above nothing."""
    made = floor_job("4", "-1", "3")
    (point,) = readings_by_point(made)
    (mean,) = scatter(made, (point,)).references

    assert mean.value[0] == pytest.approx(2e-3)
    assert point.silent == 0
    # each round's distance from the mean over it: 1, −1.5, 0.5; scatter of the ratio √(3.5/2)/√3
    assert mean.u_repeat[0] == pytest.approx(math.sqrt(3.5 / 2.0) / math.sqrt(3.0))


def test_a_reference_that_shows_nothing_in_the_mean_says_nothing():
    made = floor_job("1", "-3", "1")
    (point,) = readings_by_point(made)

    assert (point.rounds, point.silent, point.entered) == ((), 3, 6)


def floor_job(*milliwatts: str):
    """A sensor that showed so many mW in three rounds, beside a meter that showed 80 W."""
    made = behind_a_pad()
    for number, text in enumerate(milliwatts, start=1):
        made = enter(enter(made, Slot("p1", number, 0), f"{text} mW"), Slot("p1", number, 1), "80")
    return made


def test_the_coarsest_digit_and_the_least_sure_reading_of_all_rounds_count():
    """Read to 1 and to 0.1 Vpp, and to 1 and 0.1 W: half a digit each way of the coarser, whichever came first."""
    for texts in ([("102.0 Vpp", "25.6"), ("103 Vpp", "26")], [("103 Vpp", "26"), ("102.0 Vpp", "25.6")]):
        made = job([texts])
        (found,) = readings_by_point(made)
        mean = scatter(made, (found,))
        volts = 1.0 / (2.0 * 2.0**0.5)

        assert mean.references[0].digit[0] == pytest.approx(volts)
        assert mean.references[0].u_reading[0] == pytest.approx(volts / math.sqrt(12.0))
        assert mean.device[0].digit[0] == 1.0
    assert Round(1, (), (taken(1.0),), True).change == 0.0


def test_readings_of_points_that_did_not_change_are_the_same_objects():
    made = job([[("102", "25.6")], []], frequencies_hz=(7e6, 14e6))
    first = readings_by_point(made)
    after = enter(enter(made, Slot("p2", 1, 0), "101"), Slot("p2", 1, 1), "25.2")

    again = readings_by_point(after, former=first, changed={"p2"})
    assert again[0] is first[0]
    assert [len(item.rounds) for item in again] == [1, 1]
    same = readings_by_point(after, former=again, changed=set())
    assert all(one is other for one, other in zip(same, again, strict=True))
    anew = readings_by_point(after, former=first)
    assert not any(one is other for one, other in zip(anew, first, strict=True))


def test_readings_moved_on_are_those_worked_out_anew_and_only_what_changed_is_made():
    before = job([[("102", "25.6")], [("101", "25.1")], []], frequencies_hz=(7e6, 14e6, 28e6))
    first = readings_by_point(before)
    after = enter(enter(before, Slot("p3", 1, 0), "100"), Slot("p3", 1, 1), "24.9")
    after = after.with_events([Event("s", EventKind.SKIP, after.created_at, slot=Slot("p2", 1, 0))])

    moved = readings_moved_on(after, AS_FOUND, first, {"p2", "p3", "gone"})
    anew = readings_by_point(after)
    assert moved[0] is first[0]
    assert [item.point.id for item in moved] == ["p1", "p2", "p3"]
    assert [(item.wanted, dict(item.entries)) for item in moved] == [(x.wanted, dict(x.entries)) for x in anew]
    assert [item.wanted for item in moved] == [1, 0, 1]
    assert readings_moved_on(after, AS_LEFT, first[:3], {"p3"})[2].entries == {}


def test_what_is_of_a_point_is_found_among_some_in_the_plans_order():
    made = job([[], [], []], frequencies_hz=(7e6, 14e6, 28e6))
    first, _, third = readings_by_point(made)

    assert [made.place_of(name) for name in ("p1", "p2", "p3")] == [0, 1, 2]
    assert made.among((first, third), "p3") is third
    assert made.among((first, third), "p1") is first
    assert made.among((first, third), "p2") is None
    assert made.among((first,), "p3") is None
    assert made.among((first, third), "elsewhere") is None
    with pytest.raises(UnknownIdError):
        made.place_of("elsewhere")
