"""What a bench will say before anything is read: against the same readings worked out, and where it says nothing."""

import math
from dataclasses import replace

import pytest

from fenmist.calibration.edit import fitted_to_device, plan_with_cell
from fenmist.calibration.expected import expected_si
from fenmist.calibration.job import PlanPoint
from fenmist.calibration.planning import Grid, points_from_grid
from fenmist.calibration.prediction import Predicted, predicted, reached
from fenmist.calibration.rounds import Round, Taken, readings_by_point, scatter
from fenmist.kit import shelf
from fenmist.kit.spectext import spec_from_text
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import Entry, Event, EventKind, Reading, Slot
from studies.builders import WHEN, enter, job, read
from studies.references import BENCHES, without_device

POINT = PlanPoint("p1", "line", 7e6, 50.0, "200", ())


@pytest.mark.parametrize(("u", "tolerance", "blocked", "decides"), [
    (0.04, 0.05, "", True), (0.05, 0.05, "", True), (0.051, 0.05, "", False), (0.0, 0.05, "", False),
    (math.inf, 0.05, "", False), (0.04, 0.05, "off its scale", False), (0.04, 0.0, "", False), (0.9, 1.0, "", True),
])  # fmt: skip
def test_a_bench_decides_where_u_is_known_and_no_larger_than_what_is_claimed(u, tolerance, blocked, decides):
    assert Predicted(POINT, u, tolerance, blocked).decides is decides
    assert reached(0.053, "%").replace("\u202f", " ") == "5.3 %"
    assert reached(0.053, "dB").replace("\u202f", " ") == "0.053 dB"


@pytest.mark.parametrize(
    "name",
    [
        "sensor behind a tap",
        "sensor behind a coupler",
        "ammeter in the line",
        "better meter in line",
    ],
)
def test_what_is_predicted_is_what_the_same_readings_say(name):
    """Each channel read once as expected, to three figures: U of the error relative to the reading."""
    made = BENCHES[name]()
    (said, *_) = predicted(made)
    read = made
    point = made.plan[0]
    for place, channel in enumerate(point.sequence):
        unit = made.indicator(channel).unit
        value = expected_si(made, point, channel)
        text = (
            f"{10 * math.log10(value / 1e-3):.3f} dBm"
            if unit == "dBm"
            else f"{value:.4g} {unit if unit != 'W' else ''}"
        )
        read = enter(read, Slot(point.id, 1, place), text.strip())
    found = reduce(read).points[0]
    # a round read once: nothing scatters; digits differ by what is typed
    assert said.expanded_u == pytest.approx(found.expanded_u_ratio / found.ratio, rel=0.25)
    assert said.tolerance == pytest.approx(found.tolerance_w / found.reference_w, rel=0.1)


def test_what_is_off_its_scale_or_more_than_the_source_gives_is_blocked():
    made = BENCHES["sensor behind a tap"]()
    loud = replace(made, plan=tuple(replace(point, target_w=5e3, range_id=point.range_id) for point in made.plan))
    assert all(item.blocked and item.expanded_u == math.inf for item in predicted(loud))


def test_a_source_that_gives_too_little_is_said_with_both_numbers():
    made = job([])
    weak = made.with_part(replace(shelf.transmitter("tx", "Plover", 20.0)))
    (said,) = predicted(weak)
    assert said.blocked.replace("\u202f", " ").startswith("Plover gives 20 W, 25.3 W are needed")
    enough = made.with_part(shelf.transmitter("tx", "Plover", 24.9))  # within 2 % of it
    assert predicted(enough)[0].blocked == ""


def _taken(log, channel, at=None):
    reading = Reading(math.exp(log), "W", 0.1)
    return Taken(reading, at, Entry(Slot("p1", 1, 0), channel, "e", "i", "", "", reading))


def test_each_of_several_references_scatters_against_their_mean():
    """Its distance from a mean that it is part of, times √(m/(m − 1)); of one alone nothing."""
    both = Round(1, (_taken(1.0, "a"), _taken(1.4, "b")), (), True)
    assert both.log_scatter("a") == pytest.approx(math.sqrt(2) * 0.2)
    assert both.log_scatter("b") == pytest.approx(-math.sqrt(2) * 0.2)
    three = Round(1, (_taken(1.0, "a"), _taken(1.4, "b"), _taken(1.8, "c")), (), True)
    assert three.log_scatter("a") == pytest.approx(math.sqrt(1.5) * 0.4)
    assert Round(1, (_taken(1.0, "a"),), (), True).log_scatter("a") == 0.0
    device = Round(1, (_taken(1.0, "a"),), (_taken(1.3, "d"),), True)
    assert device.log_scatter("a") == pytest.approx(0.3)
    assert replace(device, at_floor=True).log_scatter("a") == 1.0


def test_the_reference_counts_at_the_moment_of_the_device():
    """1.0 at 0 s, 1.4 at 40 s; the device at 10 s."""
    made = Round(1, (_taken(1.4, "a", 40.0), _taken(1.0, "a", 0.0)), (_taken(2.0, "d", 10.0),), True)
    assert made.log_of("a") == pytest.approx(1.1)
    assert made.change_of("a") == pytest.approx(-0.4)  # in the order read
    assert made.seconds_between("a") == 10.0
    unknown = replace(made, duts=(_taken(2.0, "d"),))
    assert unknown.log_of("a") == pytest.approx(1.2) and unknown.seconds_between("a") is None


@pytest.mark.parametrize(("grid", "wrong"), [
    (Grid("7 MHz", "10 0 W"), True), (Grid("7 MHz", "0 10 W"), True), (Grid("7 0.0009 MHz", "10 W"), True),
    (Grid("7 MHz", "10 W", rounds="0"), True), (Grid("7 MHz", "10 W", rounds="101"), True),
    (Grid("0.001 MHz", "10 W", rounds="100"), False), (Grid("7 14 MHz", "10 20 W"), False),
])  # fmt: skip
def test_every_level_frequency_and_round_of_a_grid_makes_sense(grid, wrong):
    made = points_from_grid(replace(job([]), plan=()), grid)
    assert (not isinstance(made[0], PlanPoint)) is wrong


def test_shares_of_a_device_without_ranges_are_of_what_it_bears():
    bare = replace(job([]), dut="load", plan=())
    made = points_from_grid(bare, Grid("7 MHz", "10 50 %"))
    assert [point.target_w for point in made] == [15.0, 75.0]


def test_a_round_that_is_skipped_or_blocked_is_not_wanted():
    made = job([])
    slot = Slot("p1", 1, 0)
    assert made.is_wanted(slot)
    skipped = made.with_event(Event("s1", EventKind.SKIP, WHEN, slot=slot))
    assert not skipped.is_wanted(slot) and skipped.is_wanted(Slot("p1", 2, 0))
    blocked = replace(made, plan=(replace(made.plan[0], blocked="x"),))
    assert not blocked.is_wanted(slot)


def test_a_device_that_shows_nothing_at_times_is_averaged_as_it_is():
    """0, 0.4 and 0.2 W: 0.2 W on average, known to s/√3 of what it scatters by, in watts."""
    made = read(job([], level_w=0.5, repeats=3), ("14 Vpp", "0"), ("14.1 Vpp", "0.4"), ("13.9 Vpp", "0.2"))
    (found,) = readings_by_point(made)
    mean = scatter(made, (found,))
    (device,) = mean.device

    assert mean.at_floor.tolist() == [True]
    assert device.watts == pytest.approx([0.2])
    assert device.u_repeat_w == pytest.approx([0.2 / math.sqrt(3)])
    assert device.dof_repeat.tolist() == [2.0]
    rows = {row.influence.id: row for row in reduce(made).budget("p1")}
    assert rows["repeat.meter"].influence.standard_u == pytest.approx([0.2 / math.sqrt(3)])
    seen = read(job([], level_w=0.5, repeats=2), ("14 Vpp", "0.5"), ("14.1 Vpp", "0.4"))
    assert scatter(seen, readings_by_point(seen)).at_floor.tolist() == [False]
    assert "repeat.meter" not in {row.influence.id for row in reduce(seen).budget("p1")}


def test_without_a_device_the_rounds_scatter_as_the_source():
    made = without_device("sensor behind a tap")
    made = replace(made, plan=tuple(replace(point, repeats=2) for point in made.plan))
    channel = made.plan[0].sequence[0]
    for number, level in enumerate(("0.00 dBm", "0.10 dBm"), start=1):
        made = enter(made, Slot("p1", number, made.plan[0].sequence.index(channel)), level)
    mean = scatter(made, readings_by_point(made)[:1])
    logs = [math.log(10 ** (db / 10)) for db in (0.0, 0.1)]
    assert mean.u_source == pytest.approx([abs(logs[1] - logs[0]) / math.sqrt(2) / math.sqrt(2)])
    assert mean.dof_source.tolist() == [1.0] and mean.device == ()


def test_a_new_point_is_like_the_last_and_another_device_brings_its_own_claim():
    made = job([], frequencies_hz=(7e6, 14e6, 21e6))
    grown = plan_with_cell(made, len(made.plan), 1, "50 W")
    assert (grown.plan[-1].frequency_hz, grown.plan[-1].target_w) == (21e6, 50.0)
    terms = spec_from_text("3 % of reading + 1 digit", "W")
    other = replace(made.dut_part, indicators=(replace(made.dut_part.indicators[0], ranges=tuple(
        replace(item, spec=terms) for item in made.dut_part.indicators[0].ranges)),))  # fmt: skip
    fitted = fitted_to_device(made.with_part(other), made)
    assert (fitted.tolerance, fitted.tolerance_more) == (terms[0], terms[1:])
