"""The shape of the error over all points: each rule inside, outside, and a near miss."""

import math
from dataclasses import replace
from datetime import date

import pytest

from fenmist.findings.note import Severity
from fenmist.procedures.comparison.make import plan_points
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.reading.event import AS_LEFT, Slot
from support.builders import enter, job

FREQUENCIES = (2e6, 4e6, 8e6, 16e6, 28e6)
TODAY = date(2026, 11, 24)


def over_frequency(error, frequencies=FREQUENCIES, fine=True):
    """A meter whose ratio to the truth at f is `error(f)`; 50 W in 50 Ω, an eye that reads a dial finely."""
    made = job([], frequencies_hz=frequencies, load="50", level_w=50.0)
    if fine:
        made = replace(made, part_of_division=0.01)
    for point in made.plan:
        made = enter(made, Slot(point.id, 1, 0), "141.421")
        made = enter(made, Slot(point.id, 1, 1), f"{50 * error(point.frequency_hz):.6g}")
    return made


def notes(made, code, phase="as found"):
    found = reduce(made)
    result = found if phase == "as found" else reduce(made, phase)
    return [note for note in judge(made, result, TODAY, phase, found) if note.code == code]


# one factor everywhere


@pytest.mark.parametrize(
    ("typed", "words"),
    [("50 Vpp", "rms taken for peak-to-peak"), ("70.71 Vpp", "peak taken for peak-to-peak"),
     ("50 Vpk", "rms volts taken for peak"), ("70.71 Vrms", "peak volts taken for rms"),
     ("141.4 Vpk", "peak-to-peak taken for peak"), ("141.4 Vrms", "peak-to-peak taken for rms")],
)  # fmt: skip
def test_volts_taken_in_the_wrong_form_all_along_are_named(typed, words):
    """50 W in 50 Ω are 50 Vrms, 70.7 Vpk, 141.4 Vpp: each number typed in another form, a right meter beside it."""
    made = job([], frequencies_hz=FREQUENCIES, load="50", level_w=50.0)
    for point in made.plan:
        made = enter(enter(made, Slot(point.id, 1, 0), typed), Slot(point.id, 1, 1), "50")

    assert words in notes(made, "errors.constant")[0].why


# shapes over frequency


def test_a_shape_that_could_be_misreading_is_not_named():
    """A quarter division at 50 W is ±2.5 %: f² of 5 % can't be told from it."""
    assert notes(over_frequency(lambda f: 1 - 0.05 * (f / 28e6) ** 2, fine=False), "errors.square") == []


def _corner(corner_hz):
    return lambda f: 1 / (1 + (corner_hz / f) ** 2)


@pytest.mark.parametrize(("corner", "count"), [(2e6, 1), (1e6, 1), (0.3e6, 0), (0.0, 0)])
def test_a_couplers_corner_at_the_low_end(corner, count):
    """One half at the corner, a third at f_L/f = √2 (derived; "about a third near 470 kHz": common practice)."""
    found = notes(over_frequency(_corner(corner)), "errors.low_corner")

    assert len(found) == count
    if count:
        assert found[0].evidence["corner_hz"] == pytest.approx(corner, rel=0.1)


def test_a_meter_that_is_only_low_at_one_odd_point_has_no_corner():
    made = over_frequency(lambda f: 0.8 if f == 2e6 else 1.0 + (0.1 if f == 16e6 else 0.0))

    assert notes(made, "errors.low_corner") == []


# the low end of the scale


def over_level(error, levels=(10.0, 20.0, 50.0, 100.0, 150.0)):
    made = replace(job([], load="50", level_w=50.0), part_of_division=0.01)
    made = replace(made, plan=plan_points((7e6,), levels, "200"))
    for point in made.plan:
        made = enter(made, Slot(point.id, 1, 0), f"{math.sqrt(8 * 50 * point.target_w):.6g}")
        made = enter(made, Slot(point.id, 1, 1), f"{point.target_w * error(point.target_w):.6g}")
    return made


@pytest.mark.parametrize(
    ("low", "count"), [(0.8, 1), (1.3, 1), (0.97, 0), (1.0, 0)], ids=["diode", "zero", "within U", "right"]
)
def test_an_error_at_the_low_end_of_the_scale_only(low, count):
    made = over_level(lambda w: low if w < 40 else 1.0)

    assert len(notes(made, "errors.low_scale")) == count


def test_an_error_all_along_the_scale_is_no_low_end():
    assert notes(over_level(lambda w: 0.8 + 0.4 * w / 150), "errors.low_scale") == []


# ranges


def two_ranges(first, second):
    made = replace(job([], load="50", level_w=18.0, range_id="20"), part_of_division=0.01)
    low = plan_points((7e6,), (18.0,), "20")[0]
    made = replace(made, plan=(low, replace(low, id="p2", range_id="200")))
    for point, factor in zip(made.plan, (first, second), strict=True):
        made = enter(made, Slot(point.id, 1, 0), f"{math.sqrt(8 * 50 * 18):.6g}")
        made = enter(made, Slot(point.id, 1, 1), f"{18 * factor:.6g}")
    return made


@pytest.mark.parametrize(
    ("first", "second", "count"), [(1.0, 1.04, 1), (0.95, 1.0, 1), (1.0, 1.003, 0), (1.05, 1.05, 0)],
    ids=["4 % apart", "5 % apart", "as near as can be read", "both high"],
)  # fmt: skip
def test_two_ranges_that_do_not_meet_are_told(first, second, count):
    """Far below the 6 % that each error is uncertain by: what both share drops out."""
    assert len(notes(two_ranges(first, second), "ranges.differ")) == count


# leaning on one part


def test_a_single_point_leans_on_nothing_in_common():
    assert notes(over_frequency(lambda _: 1.0, FREQUENCIES[:1]), "result.one_support") == []


# as left


def adjusted(before, after):
    made = over_frequency(lambda _: before, FREQUENCIES[:2])
    for point in made.plan:
        made = enter(made, Slot(point.id, 1, 0, AS_LEFT), "141.421")
        made = enter(made, Slot(point.id, 1, 1, AS_LEFT), f"{50 * after:.6g}")
    return made


@pytest.mark.parametrize(
    ("before", "after", "severity"),
    [(0.9, 0.8, Severity.DOUBT), (0.9, 1.2, Severity.DOUBT), (0.9, 0.99, None), (0.9, 0.897, None), (1.0, 1.001, None)],
    ids=["worse", "worse the other way", "better", "the same", "nothing to speak of"],
)
def test_an_adjustment_that_made_it_worse_is_doubted(before, after, severity):
    found = notes(adjusted(before, after), "adjust.worse", AS_LEFT)

    assert [note.severity for note in found] == ([severity] if severity else [])


def test_as_found_nothing_is_said_of_an_adjustment():
    assert notes(adjusted(0.9, 0.8), "adjust.worse") == []
