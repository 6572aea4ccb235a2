"""Readings that don't keep together: each rule inside, outside, and a near miss."""

import math
from dataclasses import replace

import pytest

from fenmist.procedures.comparison.apart_rules import uneven
from fenmist.procedures.comparison.make import plan_points
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import Slot
from studies.builders import enter, job
from support.noted import fine, notes

FREQUENCIES = (2e6, 4e6, 8e6, 16e6, 28e6)
VOLTS = "141.421"  # Vpp: 50 W in 50 Ω


def over_rounds(*ratios, more=()):
    """A point at 8 MHz whose rounds have these ratios, some that move six tenths as far, and steady ones beside it."""
    made = fine(job([], frequencies_hz=FREQUENCIES, load="50", level_w=50.0, repeats=len(ratios)))
    for point in made.plan:
        for turn, ratio in enumerate(ratios, start=1):
            part = 1.0 if point.frequency_hz == 8e6 else 0.6 if point.frequency_hz in more else 0.0
            shown = 1.0 + part * (ratio - 1.0)
            made = enter(made, Slot(point.id, turn, 0), VOLTS)
            made = enter(made, Slot(point.id, turn, 1), f"{50 * shown:.6g}")
    return made


# from round to round


@pytest.mark.parametrize(
    ("ratios", "count"),
    [((1.0, 0.99, 0.98), 1), ((1.0, 1.007, 1.012), 1), ((1.0, 0.997, 0.992), 0), ((1.0, 0.97, 0.985), 0),
     ((1.0, 0.98), 0), ((1.0, 0.995, 0.99, 0.985), 1)],
    ids=["falling", "rising", "below a hundredth", "back again", "two rounds", "four rounds"],
)  # fmt: skip
def test_device_and_reference_that_move_apart_are_noted(ratios, count):
    assert len(notes(over_rounds(*ratios), "rounds.apart")) == count


def test_what_moves_apart_is_told_with_its_place_and_a_test_for_heat():
    (note,) = notes(over_rounds(1.0, 0.99, 0.98, more=(16e6,)), "rounds.apart")

    assert note.about == "p3"
    assert (
        note.what
        == "Bittern and the reference move apart by −2.0\u202f% over 3 rounds at 8\u202fMHz, 50\u202fW, and at 1 more."
    )
    assert "this isn't the transmitter" in note.why
    assert "12\u202fW, 8\u202fMHz" in note.remedy or "13\u202fW, 8\u202fMHz" in note.remedy
    assert note.evidence["change"] == pytest.approx(math.log(0.98), rel=0.01)
    assert note.evidence["points"] == 2.0


def test_rounds_that_scatter_as_much_are_no_drift():
    """A fall of 2 % in a straight line is one where the others scatter by 0.2 %, and none where they do by 0.3 %:
    rounds at +s, −s, +s lie 1.63·s beside their line, and what a line rises over three has √2 of that."""
    for scatter, count in ((0.002, 1), (0.003, 0)):
        made = over_rounds(1.0, 0.99, 0.98)
        for point in made.plan:
            if point.frequency_hz != 8e6:
                for turn, sign in enumerate((1.0, -1.0, 1.0), start=1):
                    made = enter(made, Slot(point.id, turn, 1), f"{50 * (1 + sign * scatter):.6g}")
        assert len(notes(made, "rounds.apart")) == count, scatter


# from point to point


def over_levels(errors, frequencies=(8e6,)):
    """Errors by level in W."""
    made = fine(job([], frequencies_hz=frequencies, load="50", level_w=50.0))
    made = replace(made, plan=tuple(
        replace(point, id=f"p{n}") for n, point in enumerate(plan_points(frequencies, list(errors), "200", 1), start=1)
    ))  # fmt: skip
    for point in made.plan:
        volts = math.sqrt(8.0 * 50.0 * point.target_w)
        made = enter(made, Slot(point.id, 1, 0), f"{volts:.6g}")
        made = enter(made, Slot(point.id, 1, 1), f"{point.target_w * (1 + errors[point.target_w]):.6g}")
    return made


@pytest.mark.parametrize(("change", "count"), [(0.001, 0), (0.018, 0), (0.12, 1), (-0.3, 1)])
def test_an_error_that_differs_by_more_than_its_u_is_noted(change, count):
    """Two levels tell no shape; three are needed."""
    assert len(notes(over_levels({20.0: change, 100.0: 0.0}), "errors.uneven")) == count


def test_two_levels_are_told_apart_by_what_each_is_off():
    (note,) = notes(over_levels({20.0: -0.3, 100.0: 0.0}), "errors.uneven")

    assert note.what == (
        "Its error isn't the same everywhere: −30.0\u202f% at 8\u202fMHz, 20\u202fW, "
        "but 0.0\u202f% at 8\u202fMHz, 100\u202fW."
    )
    assert note.evidence["difference"] == pytest.approx(-math.log(0.7), rel=1e-3)
    assert "a zero not set" in note.remedy
    (coarse,) = notes(replace(over_levels({20.0: -0.3, 100.0: 0.0}), part_of_division=0.1), "errors.uneven")
    assert "−30\u202f% at 8\u202fMHz, 20\u202fW, but 0\u202f%" in coarse.what  # U of 4 %: no tenths


def test_over_frequency_alone_other_things_are_looked_for():
    made = fine(job([], frequencies_hz=(4e6, 8e6), load="50", level_w=50.0))
    for point, ratio in zip(made.plan, (1.0, 1.2), strict=True):
        made = enter(enter(made, Slot(point.id, 1, 0), VOLTS), Slot(point.id, 1, 1), f"{50 * ratio:.6g}")

    (note,) = notes(made, "errors.uneven")

    assert "a tuner or filter left in" in note.remedy


def test_apart_is_what_differs_most_in_its_own_u():
    """5 % at 2 W, where a hundredth of a division is much, beside 3 % at 100 W, where it is nothing."""
    most = uneven(reduce(over_levels({2.0: 0.05, 50.0: 0.0, 100.0: 0.03})))

    assert (most.low.point.target_w, most.high.point.target_w) == (50.0, 100.0)
    assert most.difference == pytest.approx(math.log(1.03), rel=1e-2)


def test_what_all_points_share_is_no_difference():
    """A reference of ± 3 % and a load of ± 1 % are the same at both: U of the difference is what is read alone."""
    most = uneven(reduce(over_levels({20.0: -0.3, 100.0: 0.0})))

    assert most.u < 0.01
    assert (most.low.point.target_w, most.high.point.target_w) == (20.0, 100.0)


def test_a_shape_that_is_named_says_it_already():
    """−3.4 % at 2 MHz to −0.02 %: a coupler's corner, which has a note of its own."""
    made = fine(job([], frequencies_hz=FREQUENCIES, load="50", level_w=50.0))
    for point in made.plan:
        shown = 50.0 / (1.0 + (1e6 / point.frequency_hz) ** 2)
        made = enter(enter(made, Slot(point.id, 1, 0), VOLTS), Slot(point.id, 1, 1), f"{shown:.6g}")

    assert len(notes(made, "errors.corner")) == 1
    assert notes(made, "errors.uneven") == []


def test_one_point_differs_from_nothing():
    made = fine(job([], load="50", level_w=50.0))
    made = enter(enter(made, Slot("p1", 1, 0), VOLTS), Slot("p1", 1, 1), "40")

    assert uneven(reduce(made)) is None
    assert notes(made, "errors.uneven") == []
