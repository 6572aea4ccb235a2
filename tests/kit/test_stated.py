"""Stated performance counts, whatever its kind: on paper by hand, and in the budget of a job."""

import math
from dataclasses import replace
from datetime import date

import numpy as np
import pytest

from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import UNKNOWN_SHARE, Property, SharedWithin, SpecKind, SpecTerm
from fenmist.kit.spectext import spec_from_text
from fenmist.kit.stated import Shown, half_width, influences_of, limits
from fenmist.procedures.comparison.reduction import reduce
from fenmist.uncertainty.influence import Distribution
from studies.builders import job

FIVE = Shown(np.array([50.0, 10.0]), np.array([0.1, 0.1]), np.array([200.0, 20.0]), ("200", "20"), 10.0)


@pytest.mark.parametrize(
    ("text", "watts"),
    [
        ("3 % of reading", (1.5, 0.3)), ("5 % of full scale", (10.0, 1.0)), ("0.2 W", (0.2, 0.2)),
        ("2 digits", (0.2, 0.2)), ("unknown", (12.5, 2.5)), ("0.5 dB", (50.0 * 0.12202, 10.0 * 0.12202)),
        ("3 % of reading + 1 digit", (1.6, 0.4)), ("5 % of full scale + 2 % of reading + 0.1 W", (11.1, 1.3)),
    ],
)  # fmt: skip
def test_a_tolerance_is_all_its_terms_together(text, watts):
    """By hand; 0.5 dB of power is a factor of 1.12202."""
    assert half_width(spec_from_text(text, "W"), FIVE) == pytest.approx(watts, rel=2e-5)


@pytest.mark.parametrize(("per_decade", "share"), [(20.0, 0.059254), (10.0, 0.122018)], ids=["volts", "watts"])
def test_decibels_are_of_volts_or_of_watts(per_decade, share):
    (found,) = limits((SpecTerm(SpecKind.DB, 0.5),), replace(FIVE, per_decade_db=per_decade))

    assert found.share == pytest.approx([share, share], rel=1e-5)


@pytest.mark.parametrize(
    ("shape", "divisor"),
    [(Distribution.RECTANGULAR, math.sqrt(3)), (Distribution.TRIANGULAR, math.sqrt(6)), (Distribution.NORMAL, 2.0)],
)
def test_the_distribution_of_a_term_is_its_own(shape, divisor):
    terms = (SpecTerm(SpecKind.OF_READING, 0.03, distribution=shape), SpecTerm(SpecKind.DIGITS, 1.0))

    first, second = influences_of(terms, FIVE, "meter.accuracy", "meter", "meter")

    assert (first.id, second.id) == ("meter.accuracy", "meter.accuracy.2")
    assert first.standard_u == pytest.approx([0.03 / divisor] * 2)
    assert first.distribution is shape
    assert second.standard_u == pytest.approx([0.1 / 50.0 / math.sqrt(3), 0.1 / 10.0 / math.sqrt(3)])
    assert first.estimate == pytest.approx([1.0, 1.0])


@pytest.mark.parametrize(
    ("within", "sharing"),
    [
        (SharedWithin.INSTRUMENT, [0, 0, 0]), (SharedWithin.RANGE, [0, 1, 0]), (SharedWithin.POINT, [0, 1, 2]),
        (SharedWithin.READING, [0, 1, 2]),
    ],
)  # fmt: skip
def test_what_shares_an_error_decides_the_correlation(within, sharing):
    shown = Shown(np.ones(3), np.ones(3), np.ones(3), ("200", "20", "200"))

    (found,) = influences_of((SpecTerm(SpecKind.OF_READING, 0.03, shared_within=within),), shown, "a", "a", "a")

    assert [list(found.sharing).index(label) for label in found.sharing] == sharing


def test_nothing_stated_is_an_influence_of_nothing():
    (found,) = influences_of((), FIVE, "a", "a", "a")

    assert list(found.standard_u) == [0.0, 0.0]


@pytest.mark.parametrize("kind", SpecKind)
@pytest.mark.parametrize("known", [True, False], ids=["range and digit known", "nothing known"])
def test_no_kind_of_term_is_silent(kind, known):
    shown = FIVE if known else Shown(FIVE.value)

    (found,) = limits((SpecTerm(kind, 0.1),), shown)

    assert np.all(found.share > 0)
    assert found.evaluated is (known or kind not in (SpecKind.OF_RANGE, SpecKind.DIGITS))
    if not found.evaluated:
        assert found.share == pytest.approx([UNKNOWN_SHARE] * 2)
        assert "can't be evaluated" in found.said


@pytest.mark.parametrize("kind", SpecKind)
@pytest.mark.parametrize("part", [item for item in starter_shelf() if item.indicators], ids=lambda part: part.id)
def test_no_kind_of_term_is_silent_for_any_indicator(part, kind):
    for indicator in part.indicators:
        full = np.array([indicator.ranges[0].full_scale]) if indicator.ranges else None
        shown = Shown(np.array([1.0]), np.array([0.01]), full)
        (found,) = influences_of((SpecTerm(kind, 0.05),), shown, "x", part.label, part.id)
        assert found.standard_u[0] > 0


@pytest.mark.parametrize("kind", SpecKind)
def test_no_kind_of_term_is_silent_for_a_property(kind):
    assert Property(50.0, "Ω", SpecTerm(kind, 0.1)).u > 0


# in the budget of a job


def with_accuracy(text):
    made = job([[("102 Vpp", "25.6")]])
    scope = next(part for part in made.kit if part.id == "scope")
    first = replace(scope.indicators[0], spec=spec_from_text(text, "V"))
    return made.with_part(replace(scope, indicators=(first, *scope.indicators[1:])))


@pytest.mark.parametrize(
    ("text", "share"),
    [
        ("3 % of reading", 0.03), ("0.1 V", 0.1 / 102.0), ("2 % of reading + 1 digit", None),
        ("3 % of full scale", UNKNOWN_SHARE), ("0.5 dB", 10 ** 0.025 - 1), ("unknown", UNKNOWN_SHARE),
        ("3 % of reading; normal k=2", None),
    ],
)  # fmt: skip
def test_an_oscilloscope_so_stated_costs_so_much(text, share):
    """The reference's standard uncertainty from gain alone is twice that of the volts."""
    made = with_accuracy(text)
    power = reduce(made).reference
    rows = {row.influence.id: row.contribution for row in power.budget(0)}
    gain = math.hypot(*(size for name, size in rows.items() if name.startswith("scope.gain"))) / power.value[0]

    if text == "2 % of reading + 1 digit":
        assert set(rows) >= {"scope.gain", "scope.gain.2"}
        expected = math.hypot(0.02, 1.0 / 102.0) / math.sqrt(3)
    elif "normal" in text:
        expected = 0.03 / 2.0
    else:
        expected = share / math.sqrt(3)
    assert gain == pytest.approx(2.0 * expected, rel=2e-3)


@pytest.mark.parametrize(
    ("text", "found"), [("3 % of full scale", True), ("1 % of reading + 2 % of full scale", True),
                        ("3 % of reading + 1 digit", False)],
)  # fmt: skip
def test_what_can_not_be_evaluated_is_said(text, found):
    from fenmist.procedures.comparison.rules import judge

    made = with_accuracy(text)
    notes = [note for note in judge(made, reduce(made), date(2026, 11, 24)) if note.code == "spec.not_evaluated"]

    assert [note.about for note in notes] == (["scope"] if found else [])
    if found:
        assert notes[0].evidence["taken"] == UNKNOWN_SHARE


def test_a_meter_2_5_db_off_is_not_inside_its_digit():
    """What used to happen: "1 digit + 3 % of reading" was taken by its first term alone, as ±100 %."""
    made = job([[("102 Vpp", "40.0")]])
    terms = spec_from_text("1 digit + 3 % of reading", "W")
    made = replace(made, tolerance=terms[0], tolerance_more=terms[1:])

    (point,) = reduce(made).points

    assert point.error_db == pytest.approx(2.5, abs=0.1)
    assert point.tolerance_w == pytest.approx(0.1 + 0.03 * point.reference_w, rel=1e-6)
    assert str(point.decision.verdict) == "reject"
