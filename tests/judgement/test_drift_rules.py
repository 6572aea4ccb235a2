"""The carrier in time: moved, folded back, bent, unseen, or of unknown times."""

import math
from dataclasses import replace
from datetime import timedelta

import pytest

from fenmist.calibration.job import PlanPoint
from fenmist.findings.note import Severity
from fenmist.measurand import Kind
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import Slot
from studies.benches import bench, read_on
from studies.builders import WHEN, enter, job
from studies.references import DEVICE, QUIET, pad, sensor
from support.noted import notes

AROUND = ("scope", "meter", "scope")


def around(*rounds, seconds=20.0, timed=True, accuracy=0.03, tight=False):
    """A job whose rounds are reference, meter, reference; each reading so many seconds after the one before."""
    made = job([], load="50", accuracy=accuracy)
    point = made.plan[0]
    plan = (PlanPoint("p1", point.hookup, point.frequency_hz, 25.0, "200", AROUND, len(rounds)),)
    made = replace(made, plan=plan)
    if tight:
        made = replace(made, part_of_division=0.001)
    moment = WHEN
    for number, texts in enumerate(rounds, start=1):
        for position, text in enumerate(texts):
            made = enter(made, Slot("p1", number, position), text)
            event = made.events[-1]
            at = moment if timed else None
            made = replace(made, events=(*made.events[:-1], replace(event, entry=replace(event.entry, observed_at=at))))
            moment += timedelta(seconds=seconds)
    return made


@pytest.mark.parametrize(
    ("after", "severity"),
    [("100.0", None), ("99.6", None), ("99.3", Severity.WATCH), ("96", Severity.WATCH), ("90", Severity.DOUBT)],
    ids=["steady", "0.8 % of power", "1.4 %", "8 %", "19 %"],
)
def test_a_carrier_that_moves_within_a_round(after, severity):
    found = notes(around(("100.0", "25", after)), "source.moved")

    assert [note.severity for note in found] == ([severity] if severity else [])


def test_what_the_screen_cannot_show_is_no_move():
    """Whole volts: ±0.5 V of 100 V is ±1 % of power."""
    assert notes(around(("100", "25", "99")), "source.moved") == []


@pytest.mark.parametrize(("after", "count"), [("0.101", 0), ("0.1014", 1), ("0", 0)])
def test_watts_of_a_screen_count_once(after, count):
    """A step of 1 in 100 is ±0.5 % of power: 3·√2·0.01/√12 = 1.2 %; a sensor that shows nothing tells no drift."""
    made = bench(DEVICE, pad("pad", 20.0), sensor("s"), source=QUIET, level_w=80.0)
    made = read_on(made, {"s": ("s", Kind.INCIDENT), "m": ("device", Kind.INCIDENT)})
    plan = tuple(replace(point, sequence=("s", "m", "s"), repeats=1) for point in made.plan)
    made = replace(made, plan=plan)
    for position, text in enumerate(("0.100 W", "10", f"{after} W")):
        made = enter(made, Slot(made.plan[0].id, 1, position), text)

    assert len(notes(made, "source.moved")) == count


def test_a_straight_drift_is_taken_out_by_time():
    """Falling 2 % of power between the references, the meter read half-way: the mean of both."""
    made = around(("100.0", "24.75", "99.0"))

    assert reduce(made).points[0].reference_w == pytest.approx(25.0 * 0.99, rel=1e-4)


def test_the_moment_of_the_meter_counts():
    """The meter read soon after the first reference: three quarters of the drift are still to come."""
    made = around(("100.0", "25", "98.0"))
    events = list(made.events)
    late = WHEN + timedelta(seconds=80)
    events[2] = replace(events[2], entry=replace(events[2].entry, observed_at=late))
    made = replace(made, events=tuple(events))

    assert reduce(made).points[0].reference_w == pytest.approx(25.0 * 0.98 ** (2 * 0.25), rel=1e-4)


def _heating(amount, tau=60.0, times=(0, 20, 40, 60, 80, 100)):
    """Two rounds as a heating transmitter gives them: volts, watts, volts; and the powers."""
    powers = [25 * (1 - amount * (1 - math.exp(-t / tau))) for t in times]
    texts = [
        f"{(8 * 50 * power) ** 0.5:.3f}" if place % 3 != 1 else f"{power:.4f}" for place, power in enumerate(powers)
    ]
    return texts, powers


@pytest.mark.parametrize(("amount", "count"), [(0.3, 1), (0.03, 0), (0.0, 0)])
def test_an_exponential_drift_that_leaves_more_than_a_fifth_of_u_is_told(amount, count):
    texts, _ = _heating(amount)
    made = around(texts[:3], texts[3:], accuracy=0.001, tight=True)

    assert len(notes(made, "drift.curvature")) == count


@pytest.mark.parametrize("amount", [0.05, 0.2, 0.5])
@pytest.mark.parametrize("tau", [20.0, 60.0, 300.0])
def test_the_stated_leftover_covers_what_an_exponential_leaves(amount, tau):
    """Truth known: the power at the meter's moment, against the interpolated one and its limit."""
    texts, powers = _heating(amount, tau)
    found = reduce(around(texts[:3], texts[3:]))
    off = abs(math.log(found.points[0].reference_w / math.sqrt(powers[1] * powers[4])))

    assert 1e-5 < off <= found.points[0].drift_limit * 1.05


@pytest.mark.parametrize(("rounds", "count"), [(1, 1), (2, 0)])
def test_a_single_reference_can_show_no_drift(rounds, count):
    assert len(notes(job([[("102", "25.6")] * rounds]), "drift.unseen")) == count


def test_two_references_in_one_round_are_enough():
    assert notes(around(("100", "25", "100")), "drift.unseen") == []


@pytest.mark.parametrize(("timed", "count"), [(False, 1), (True, 0)])
def test_times_that_are_unknown_are_told_and_cost(timed, count):
    made = around(("100.0", "25", "99.0"), timed=timed)

    assert len(notes(made, "drift.no_times")) == count
    left = reduce(made).points[0].drift_limit
    assert left == pytest.approx(2 * 0.01005 * (0.25 if timed else 0.5), rel=1e-2)


def test_without_times_and_with_one_reference_a_round_nothing_is_said():
    made = job([[("102", "25.6"), ("102", "25.6")]])

    assert notes(made, "drift.no_times") == []
