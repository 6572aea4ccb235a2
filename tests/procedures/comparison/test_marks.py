"""Ranges that a set control makes: what a mark stands for, where that holds, and where it doesn't."""

import math
from dataclasses import replace

import pytest

from fenmist.errors import OutOfRangeError
from fenmist.kit.dialsheet import SET_RANGES, set_ranges
from fenmist.kit.draft import draft_from_part, part_from_draft
from fenmist.procedures.comparison.correction import correction_table
from fenmist.procedures.comparison.marks import marks
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.surface import stands_for
from fenmist.procedures.procedure import Seen
from fenmist.procedures.table import room_of
from fenmist.reading.event import AS_FOUND
from studies.builders import WHEN, job

ROOM = room_of("comparison")


def volts(watts):
    """Vpp across 50 Ω."""
    return f"{2 * math.sqrt(2 * 50 * watts):.3f} Vpp"


def read_on(set_range: str):
    """50 W by an oscilloscope across 50 Ω at three frequencies; the needle at 50, 51.6 and 48 W."""
    shown = ((7e6, "50.0 W"), (14e6, "51.6 W"), (21e6, "48.0 W"))
    made = job(
        [[(volts(50.0), text)] for _, text in shown], frequencies_hz=tuple(f for f, _ in shown), level_w=50.0,
        range_id="50", load="50", ranges=(20.0, 50.0),
    )  # fmt: skip
    part = made.dut_part
    return made.with_part(replace(part, settings={**part.settings, SET_RANGES: set_range} if set_range else {}))


def test_a_mark_stands_for_the_power_at_which_the_needle_stands_on_it():
    """50 W/1.032 = 48.45 W at 14 MHz, 50 W/0.96 = 52.08 W at 21 MHz; U as large a share as the ratio's."""
    result = reduce(read_on("50"))
    found = marks(result.job, result)

    assert [mark.value_w for mark in found] == pytest.approx([50.0, 48.45, 52.08], abs=0.05)
    for mark in found:
        share = mark.point.expanded_u_ratio / mark.point.ratio
        assert mark.expanded_u_w == pytest.approx(mark.value_w * share)
    assert marks(read_on(""), reduce(read_on(""))) == ()


def test_it_is_said_where_it_was_checked_and_nowhere_else():
    made = read_on("50")
    result = reduce(made)
    seen = Seen(made, AS_FOUND, result)
    notes = {note.code: note for note in ROOM.judge(made, result, WHEN.date(), AS_FOUND, None)}
    said = [text.replace("\u202f", " ") for text in ROOM.page(seen).statements if "set control" in text]

    assert len(said) == 3
    assert "the 50 W mark stands for 48.5 ± 3.6 W at 14 MHz, checked there only" in said[1]
    assert "hold at 7 MHz, 14 MHz, 21 MHz alone" in notes["comparison.set_range"].what.replace("\u202f", " ")
    assert "at these frequencies only" in ROOM.cards(seen, "1")[0].foot
    assert "at these frequencies only" not in ROOM.cards(Seen(read_on(""), AS_FOUND, reduce(read_on(""))), "1")[0].foot


def test_nothing_is_looked_up_between_and_no_curve_is_drawn():
    set_by_control, fixed = reduce(read_on("50")), reduce(read_on(""))

    assert stands_for(set_by_control, 50.0, 14e6).value_w == pytest.approx(48.45, abs=0.05)
    with pytest.raises(OutOfRangeError, match="fixed by its set control"):
        stands_for(set_by_control, 50.0, 10e6)
    assert 48.45 < stands_for(fixed, 50.0, 10e6).value_w < 50.0
    drawn = [ROOM.chart(result.job, result, None, "frequency", True).series[0].between
             for result in (set_by_control, fixed)]  # fmt: skip
    assert [bool(curve) for curve in drawn] == [False, True]


def test_it_makes_no_correction_of_a_reference():
    assert correction_table(reduce(read_on("50")), "x", "2026-11-28") is None
    assert correction_table(reduce(read_on("")), "x", "2026-11-28") is not None


def test_it_is_typed_in_the_kit_and_must_be_one_of_its_ranges():
    part = read_on("").dut_part
    typed = part_from_draft(part, {**draft_from_part(part), "set_ranges": "50 W"})

    assert set_ranges(typed) == ("50",)
    assert draft_from_part(typed)["set_ranges"] == "50 W"
    again = part_from_draft(typed, {**draft_from_part(typed), "set_ranges": ""})
    assert set_ranges(again) == () and SET_RANGES not in again.settings
    (problem,) = part_from_draft(part, {**draft_from_part(part), "set_ranges": "30 W"})
    assert (problem.field, "no range of 30" in problem.what) == ("set_ranges", True)
