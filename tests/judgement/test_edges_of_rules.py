"""Where rules turn: which of several points is spoken of, what confirms a reading, what follows from nothing."""

from dataclasses import replace
from datetime import date

import pytest

from fenmist.findings.note import Severity
from fenmist.judgement.bench_rules import planned_frequencies, used_spans
from fenmist.judgement.drift_rules import reference_moved
from fenmist.judgement.entry_rules import decimal_slips, slipped_decades
from fenmist.judgement.headline import nothing_in_hand, parts_headline
from fenmist.judgement.job_rules import improvement_of, tur_note
from fenmist.kit.impedance import table_from_rows
from fenmist.procedures.comparison.make import plan_points
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.reading.event import Slot
from studies.builders import enter, job, read
from studies.matches import match_job

AROUND = ("scope", "meter", "scope")


def two_points(first, second):
    """Reference, meter, reference at 7 and at 14 MHz."""
    made = job([], load="50", frequencies_hz=(7e6, 14e6))
    plan = tuple(replace(point, sequence=AROUND) for point in made.plan)
    made = replace(made, plan=plan)
    for point, texts in zip(plan, (first, second), strict=True):
        for position, text in enumerate(texts):
            made = enter(made, Slot(point.id, 1, position), text)
    return made


@pytest.mark.parametrize(("first", "second", "moved"), [
    (("100.0", "25", "98.5"), ("100.0", "25", "97.0"), -0.06),
    (("100.0", "25", "97.0"), ("100.0", "25", "101.5"), -0.06),
    (("100.0", "25", "98.5"), ("100.0", "25", "103.0"), 0.06),
])  # fmt: skip
def test_of_several_points_the_one_that_moved_most_is_spoken_of_with_its_sign(first, second, moved):
    (note,) = reference_moved(reduce(two_points(first, second)))

    assert note.evidence["change"] == pytest.approx(moved, abs=2e-3)
    assert "at 2 points" in note.what and note.severity is Severity.WATCH
    assert "taken out by time" in note.why and note.remedy == "Let it warm up, or read faster."


def test_a_change_of_a_tenth_is_no_drift_any_more():
    (note,) = reference_moved(reduce(two_points(("100.0", "25", "100.0"), ("100.0", "25", "94.5"))))
    assert note.severity is Severity.DOUBT
    assert "folds back" in note.why and "read the round again" in note.remedy
    assert "at 14" in note.what


@pytest.mark.parametrize(("scope", "meter", "slips"), [
    ("316.2", "250", 0),  # ten times the plan, by both: the carrier was set to that
    ("253.0", "250", 0), ("249.0", "250", 1),  # 160 W confirm 250 W, 155 W don't: within log10 of 0.2, 1.585 times
    ("100.0", "250", 1),
])  # fmt: skip
def test_another_reading_of_the_round_confirms_one_that_is_far_from_the_plan(scope, meter, slips):
    assert len(list(decimal_slips(read(job([], load="50"), (scope, meter)), "as found"))) == slips


@pytest.mark.parametrize(("count", "notes"), [(2, 2), (3, 1), (4, 1)])
def test_slips_of_one_instrument_that_are_alike_are_one_note_from_three_on(count, notes):
    found = list(decimal_slips(job([[("100.0 Vpp", "250")] * count], load="50"), "as found"))
    assert len(found) == notes
    assert found[0].what.endswith(f", and {count - 1} more of that instrument do.") is (notes == 1)


def test_a_slip_is_as_large_as_the_rounds_other_reading_says():
    """25 W are planned, 0.25 W sent: 10 Vpp, typed a thousand times too large, are a hundred times the plan's volts."""
    made = read(job([], load="50"), ("10000", "0.25"))
    note = next(item for item in decimal_slips(made, "as found") if "10000" in item.what)
    assert note.evidence["decades"] == 3.0
    assert "1000 times" in note.why


@pytest.mark.parametrize(("ratio", "decades"), [
    (10.0, 1), (0.1, -1), (1e3, 3), (1e4, 0), (12.0, 1), (12.1, 0), (8.4, 1), (8.2, 0), (2.0, 0), (0.0, 0), (-5.0, 0),
])  # fmt: skip
def test_what_looks_like_a_slipped_point(ratio, decades):
    """Within 0.08 of a whole number of decades, ±20 %, three at most."""
    assert slipped_decades(ratio) == decades


def test_nothing_in_hand_is_said_by_what_is_left():
    made = job([], load="50")
    result = reduce(made)
    assert nothing_in_hand(replace(made, plan=()), result, False).startswith("Nothing is planned")
    assert nothing_in_hand(made, result, True) == ""
    assert "still to be read" in nothing_in_hand(made, result, False)
    done = read(made, ("100.0", "25"))
    assert nothing_in_hand(done, reduce(done), False) == "All 1 points are read."


def test_several_ends_of_a_line_are_measured_all_some_or_none():
    made = match_job()
    names = {leg.id for leg in made.visits}

    def measured(*which):
        kit = tuple(
            replace(part, characterisations=(table_from_rows([(1e6, "50"), (30e6, "50")], 0.01),))
            if part.label in which or part.id in which else part
            for part in made.kit
        )  # fmt: skip
        return parts_headline(replace(made, kit=kit))

    assert measured().startswith("None of the 4 ends")
    assert measured(*names).startswith("All 4 ends")
    assert measured("null").startswith("1 of 4 ends")


@pytest.mark.parametrize(("share", "left"), [(0.75, 0.5), (0.36, 0.8), (1.0, 0.0)])
def test_what_would_be_left_without_the_largest_line(share, left):
    """u² less its share: √(1 − share)."""
    result = reduce(read(job([], load="50"), ("100.0", "25")))
    rows = result.budget("p1")
    said = improvement_of([rows[0]._replace(share=share)], 10.0, "W")

    assert f"without it U would be {10 * left:.2g}"[:30] in said.replace("\u202f", " ") or left == 0.0
    assert improvement_of((), 1.0, "W") == "" and improvement_of(rows, 0.0, "W") == ""


def test_a_tolerance_just_wider_than_u_is_low_but_decides():
    result = reduce(read(job([], load="50"), ("100.0", "25")))
    (item,) = result.points

    def with_tur(tur):
        stated = replace(item, decision=replace(item.decision, tur=tur))
        return next(iter(tur_note(replace(result, points=(stated,)))), None)

    assert with_tur(1.1).severity is Severity.WATCH and "less than 4 times" in with_tur(1.1).what
    assert with_tur(0.99).severity is Severity.DOUBT and "larger than the tolerance" in with_tur(0.99).what
    assert with_tur(4.0) is None


def test_spans_are_those_of_the_ports_that_are_used():
    made = job([], load="50")
    meter = made.part("meter")
    ports = (replace(meter.ports[0], frequency_min_hz=1e6), replace(meter.ports[1], frequency_min_hz=3e6,
                                                                    frequency_max_hz=30e6))  # fmt: skip
    made = made.with_part(replace(meter, ports=ports))
    spans = {part.id: (low, high) for _, part, low, high in used_spans(made, made.bench)}
    assert spans["meter"] == (3e6, 30e6)
    assert spans["tx"][0] == 0.0 or spans["tx"][0] > 0
    assert planned_frequencies(made, made.bench) == {7.125e6}
    blocked = replace(made, plan=tuple(replace(point, blocked="x") for point in made.plan))
    assert planned_frequencies(blocked, blocked.bench) == {p.frequency_hz for p in blocked.to_read}


def test_every_rule_stands_a_job_of_many_points_that_was_not_read():
    made = replace(job([]), plan=plan_points([1e6, 7e6, 50e6], [1.0, 100.0], "200"))
    found = judge(made, reduce(made), date(2026, 11, 24))
    assert all(note.what and note.code for note in found)
