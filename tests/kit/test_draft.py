"""Parts as they are typed."""

import pytest

from fenmist.kit.draft import blank_part, draft_from_part, fields_for, part_from_draft
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import Part, PartKind
from fenmist.kit.snapshot import content_hash


@pytest.mark.parametrize("part", starter_shelf(), ids=lambda part: str(part.kind))
def test_a_part_survives_its_own_form(part):
    draft = draft_from_part(part)

    assert set(draft) <= {field.id for field in fields_for(part.kind)}
    assert part_from_draft(part, draft) == part


@pytest.mark.parametrize(
    ("kind", "field", "text"),
    [
        (PartKind.OSCILLOSCOPE, "bandwidth", "fast"),
        (PartKind.OSCILLOSCOPE, "bandwidth", ""),
        (PartKind.OSCILLOSCOPE, "accuracy", "300 %"),
        (PartKind.LEAD, "velocity_factor", "1.4"),
        (PartKind.LEAD, "length", "0.3 V"),
        (PartKind.INLINE_METER, "ranges", "-20 W"),
        (PartKind.INLINE_METER, "divisions", "4 4"),
        (PartKind.LOAD, "power", "1,250 W"),
        (PartKind.TRANSMITTER, "label", "  "),
        (PartKind.LOAD, "due", "next spring"),
    ],
)
def test_what_can_not_be_is_said_at_its_field(kind, field, text):
    part = blank_part("x", kind)

    problems = part_from_draft(part, {**draft_from_part(part), field: text})

    assert not isinstance(problems, Part)
    assert [problem.field for problem in problems] == [field]
    assert problems[0].what


def test_a_new_comparison_is_added_to_the_history_and_the_old_one_stays():
    part = blank_part("x", PartKind.OSCILLOSCOPE)
    first = part_from_draft(part, {**draft_from_part(part), "compared_on": "2025-03-01", "compared_by": "room"})
    assert isinstance(first, Part)

    second = part_from_draft(first, {**draft_from_part(first), "compared_on": "2026-03-01"})

    assert isinstance(second, Part)
    assert [item.on for item in second.history] == ["2025-03-01", "2026-03-01"]


def test_the_hash_moves_with_anything_that_is_stated():
    part = blank_part("x", PartKind.LEAD)
    other = part_from_draft(part, {**draft_from_part(part), "length": "0.31 m"})

    assert isinstance(other, Part)
    assert content_hash(part) == content_hash(blank_part("x", PartKind.LEAD)) != content_hash(other)
