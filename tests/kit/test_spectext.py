"""Stated performance as data sheets say it."""

import pytest

from fenmist.errors import FenmistError, UnreadableError
from fenmist.kit.draft import blank_part, draft_from_part, part_from_draft
from fenmist.kit.part import UNKNOWN_SHARE, Part, PartKind, SpecKind
from fenmist.kit.spectext import spec_from_text, text_of_spec
from fenmist.uncertainty.influence import Distribution


@pytest.mark.parametrize(("text", "terms"), [
    ("5 %", [(SpecKind.OF_READING, 0.05)]), ("±5 % of full scale", [(SpecKind.OF_RANGE, 0.05)]),
    ("±(3 % of full scale + 1 digit)", [(SpecKind.OF_RANGE, 0.03), (SpecKind.DIGITS, 1.0)]),
    ("2 % of reading + 0.2 W", [(SpecKind.OF_READING, 0.02), (SpecKind.ABSOLUTE, 0.2)]),
    ("0.5 dB", [(SpecKind.DB, 0.5)]), ("unknown", [(SpecKind.UNKNOWN, UNKNOWN_SHARE)]),
    ("2,5 % of range + 2 digits", [(SpecKind.OF_RANGE, 0.025), (SpecKind.DIGITS, 2.0)]), ("", []),
])  # fmt: skip
def test_statements_are_read_and_said_again(text, terms):
    made = spec_from_text(text, "W")

    assert [(term.kind, pytest.approx(term.value)) for term in made] == terms
    assert spec_from_text(text_of_spec(made), "W") == made


def test_the_distribution_is_chosen_and_seen():
    (term,) = spec_from_text("0.2 dB; normal k=2", "dB")

    assert term.distribution is Distribution.NORMAL
    assert text_of_spec((term,)) == "0.2 dB; normal k=2"


@pytest.mark.parametrize("text", ["about right", "5 % of fun", "-1 dB", "3 %; flat", "1 furlong"])
def test_what_is_no_statement_is_said(text):
    with pytest.raises(UnreadableError):
        spec_from_text(text, "W")


@pytest.mark.parametrize(("kind", "field", "text"), [
    (PartKind.ATTENUATOR, "loss", "lots"), (PartKind.ATTENUATOR, "positions", "0 dB; 0 dB"),
    (PartKind.TAP, "r1", "-5 Ω"), (PartKind.TAP, "r1_measured", "2455 ± x"), (PartKind.POWER_METER, "power", ""),
    (PartKind.POWER_METER, "accuracy", "good"), (PartKind.POWER_METER, "zero", "1 %"),
    (PartKind.POWER_METER, "linearity", "1 nW"), (PartKind.POWER_METER, "linearity", "120 %"),
    (PartKind.CABLE, "length", ""), (PartKind.COUPLER, "span", "30 to 2 MHz"), (PartKind.MISMATCH, "nominal", "0 Ω"),
    (PartKind.SWR_METER, "swr", "0.5"), (PartKind.DIVIDER, "r2", ""),
])  # fmt: skip
def test_what_can_not_be_on_a_sheet_is_said_at_its_field(kind, field, text):
    part = blank_part("x", kind)

    problems = part_from_draft(part, {**draft_from_part(part), field: text})

    assert not isinstance(problems, Part)
    assert [problem.field for problem in problems] == [field]


@pytest.mark.parametrize("kind", list(PartKind))
def test_every_kind_can_be_begun_and_edited(kind):
    part = blank_part("x", kind)

    made = part_from_draft(part, {**draft_from_part(part), "label": "mine", "serial": "7"})

    assert isinstance(made, Part)
    assert (made.kind, made.label, made.serial) == (kind, "mine", "7")


def test_a_tap_is_described_by_what_was_measured_of_it():
    part = blank_part("x", PartKind.TAP)
    made = part_from_draft(part, {**draft_from_part(part), "r1_measured": "2455 ± 5 Ω", "r1_power": "6 W"})

    assert isinstance(made, Part)
    r1 = next(item for item in made.components if item.id == "R1")
    assert (r1.value, r1.u, r1.power_limit_w) == (2455.0, 5.0, 6.0)


def test_a_step_attenuator_is_typed_by_its_positions():
    part = blank_part("x", PartKind.ATTENUATOR)
    made = part_from_draft(part, {**draft_from_part(part), "positions": "0 dB; 10 dB: 10.1 dB; 20 dB"})

    assert isinstance(made, Part)
    assert [p.label for p in made.switches[0].positions] == ["0 dB", "10 dB", "20 dB"]
    assert made.at({"step": "10 dB"})["loss_db"].value == pytest.approx(10.1)


@pytest.mark.parametrize(("text", "fits"), [
    ("1000 %", True), ("1001 %", False), ("1000 % of full scale", True), ("1001 % of full scale", False),
    ("60 dB", True), ("61 dB", False), ("1000000 digits", True), ("1100000 digits", False),
])  # fmt: skip
def test_a_limit_beyond_belief_is_a_slip(text, fits):
    if fits:
        assert len(spec_from_text(text, "W")) == 1
    else:
        with pytest.raises(FenmistError):
            spec_from_text(text, "W")
