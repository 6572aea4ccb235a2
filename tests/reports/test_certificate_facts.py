"""Every fact and sentence of the certificate, compared with what the job and its results hold."""

from dataclasses import replace
from datetime import date, timedelta

import pytest

from fenmist.calibration.decision import Decision, Verdict, Zone
from fenmist.calibration.edit import with_as_left
from fenmist.calibration.job import Rule
from fenmist.calibration.receipt import FINE, LOOK_OVER, NOT_FINE, Look
from fenmist.calibration.references import VERSION
from fenmist.findings.note import Answer, Note, Severity
from fenmist.kit import shelf
from fenmist.kit.part import CalibrationRecord
from fenmist.procedures.comparison.card import card
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.page import LID
from fenmist.reading.event import AS_LEFT, Event, EventKind, Slot
from fenmist.reports.certificate import history_in_words, hookup_in_words
from fenmist.reports.paper import cards_pages, certificate_pages, sheet_pages
from fenmist.reports.runsheet import run_sheet
from studies.builders import WHEN, enter, job
from support.paper import page_of
from support.results import point_result, results
from support.texts import spaced

SURE = Decision(Zone.INSIDE, Verdict.ACCEPT, 0.9999, 0.0001, 8.0)
REJECTED = Decision(Zone.OUTSIDE, Verdict.REJECT, 0.012, 0.012, 8.0)
OPEN = Decision(Zone.INSIDE_WITHIN, Verdict.CANNOT_DECIDE, 0.6, None, 0.5)


def page(made, result=None, notes=(), left=None, record="0123456789abcdef"):
    return page_of(made, result, notes, record, left)


def facts(made, result=None, left=None) -> dict[str, str]:
    return {name: spaced(text) for name, text in page(made, result, left=left).facts}


def read_job(**changes):
    return replace(job([[("102 Vpp", "25.6")]], level_w=25.0), **changes)


def test_a_bare_job_says_only_what_is_known():
    assert facts(read_job()) == {
        "device": "Bittern", "ranges": "20 W; 200 W", "state": "as found",
        "quantity": "incident power at the meter's output, steady carrier, 50 Ω",
        "method": f"oscilloscope across the load: Sedge as the reference, version {VERSION}",
        "hook-up": "Plover – Bittern – tee – Reedmace; on the tee: lead – Sedge",
        "decision rule": "±5 % of full scale, simple acceptance: accepted where the error is within the tolerance, "
        "whatever U is",
        "read on": "2026-11-24", "rounds": "1 of 1 planned",
    }  # fmt: skip


def test_all_that_was_written_down_stands_on_the_page():
    made = read_job(
        customer="C", place="P", technician="T", conditions="21 °C", next_due="2027-11-24", rule=Rule.GUARDED
    )
    receipt = replace(
        made.receipt, received_on="2026-11-20", inventory="A-17", ports="left", switches="average", condition="dusty"
    )
    made = replace(made, receipt=receipt).with_part(replace(made.dut_part, serial="S-1"))
    found = facts(made)

    assert found["device"] == "Bittern, serial S-1, A-17"
    assert {name: found[name] for name in ("customer", "place", "technician", "conditions", "next due")} == {
        "customer": "C", "place": "P", "technician": "T", "conditions": "21 °C", "next due": "2027-11-24",
    }  # fmt: skip
    assert {name: found[name] for name in ("received", "ports", "settings", "condition")} == {
        "received": "2026-11-20", "ports": "left", "settings": "average", "condition": "dusty",
    }  # fmt: skip
    assert found["decision rule"].endswith("accepted where error and U together are within the tolerance")


@pytest.mark.parametrize(
    ("looks", "said"),
    [
        ({}, None), ({"case": Look("")}, None),
        ({"case": Look(FINE), "needle": Look("")}, "1 of 8 items, nothing found"),
        ({name: Look(FINE) for name in LOOK_OVER}, "8 of 8 items, nothing found"),
    ],
)  # fmt: skip
def test_the_inspection_is_counted(looks, said):
    made = read_job()
    assert facts(replace(made, receipt=replace(made.receipt, looks=looks))).get("inspection") == said


def test_what_was_not_fine_is_named_instead():
    made = read_job()
    made = replace(made, receipt=replace(made.receipt, looks={"case": Look(NOT_FINE, "cracked"), "zero": Look(FINE)}))

    assert "cracked" in facts(made)["inspection"]
    assert "nothing found" not in facts(made)["inspection"]


def test_days_are_from_the_first_reading_to_the_last():
    made = read_job()
    other = made.events[1]
    late = replace(other, id="late", at=WHEN + timedelta(days=2))
    made = replace(made, events=(made.events[0], late))

    assert facts(made)["read on"] == "2026-11-24 to 2026-11-26"
    assert page(made).date == "2026-11-26"


def test_what_was_left_out_is_said_with_its_reason():
    made = job([[("102 Vpp", "25.6")]] * 2, frequencies_hz=(7e6, 14e6), level_w=25.0)
    made = replace(made, plan=(made.plan[0], replace(made.plan[1], blocked="no antenna relay")))
    skip = Event("s", EventKind.SKIP, WHEN, reason="load too hot", slot=Slot("p1", 2, 0))
    made = made.with_event(skip)

    assert facts(made)["not read"] == "14 MHz, 25 W (no antenna relay); round 2 at 7 MHz, 25 W (load too hot)"


def test_another_version_of_the_method_is_said():
    made = read_job()
    made = replace(made, method=replace(made.method, version=1))

    assert (
        facts(made)["method"]
        == f"oscilloscope across the load: Sedge as the reference, version 1, worked out by version {VERSION}"
    )


def test_the_head_of_the_page():
    made = read_job(demo=True)
    found = page(made)

    assert (found.title, found.number, found.supersedes) == ("Comparison of an RF wattmeter", "", "")
    assert (found.record, found.date, found.demo) == ("0123456789ab", "2026-11-24", True)
    assert found.columns == (
        "frequency", "level", "reference ± U", "indicated", "error ± U", "per cent", "dB", "factor", "T", "p",
        "verdict",
    )  # fmt: skip
    assert found.hookup_svg.startswith("<svg")


@pytest.mark.parametrize(
    ("decision", "p", "verdict"),
    [(SURE, "< 0.1 %", "accept"), (REJECTED, "1.2 %", "reject"), (OPEN, "—", "cannot decide")],
)
def test_a_row_ends_in_tolerance_risk_and_verdict(decision, p, verdict):
    made = results(point_result(decision=decision, expanded_u_w=1.0))
    (row,) = page(made.job, made).rows

    assert [spaced(cell) for cell in row] == [
        "7.125 MHz", "50 W", "50.0 ± 1.1 W", "49.0 W", "−1.0 ± 1.0 W", "−2.0 ± 2.4", "−0.09", "1.020", "±10 W", p,
        verdict,
    ]  # fmt: skip


def test_the_verdict_counts_and_tells_the_largest_risk():
    made = results(
        point_result(at_id="a", decision=SURE), point_result(at_id="b", decision=REJECTED),
        point_result(at_id="c", decision=SURE), point_result(at_id="d", decision=OPEN),
    )  # fmt: skip

    assert spaced(page(made.job, made).verdict) == (
        "By simple acceptance against ±5 % of full scale: accept at 2, reject at 1, cannot decide at 1 of 4 points. "
        "The largest probability that one of these verdicts is wrong is 1.2 %."
    )
    assert page(job()).verdict == "Nothing has been read, so there is no verdict."


@pytest.mark.parametrize(
    ("ks", "said"),
    [((2.0, 2.004), "k = 2.00."), ((2.0, 2.03), "k = 2.00 to 2.03."), ((2.0, 2.4), "k by row: 2.00, 2.40.")],
)
def test_the_coverage_factor_is_stated_as_it_is(ks, said):
    made = results(*(point_result(at_id=f"p{n}", k=k) for n, k in enumerate(ks)))
    said_first = spaced(page(made.job, made).statements[0])

    assert said_first == "U is the expanded uncertainty for a coverage of about 95 % (JCGM 100:2008), " + said


def test_the_largest_error_is_the_one_of_the_widest_decibels():
    made = results(point_result(at_id="a"), point_result(at_id="b", at_frequency_hz=14e6, ratio=0.8, error_w=-10.0))

    assert "The largest error is 0.97 dB low." in map(spaced, page(made.job, made).statements)


def test_the_sentences_below_the_table():
    _, second, third, fourth, *more = page(read_job()).statements

    assert second == "T is the tolerance, p the probability that the verdict of a row is wrong (JCGM 106:2012)."
    assert third == "Traceability: these results are not traceable: Reedmace and Sedge have no calibration on record."
    assert spaced(fourth).startswith("The largest error is ")
    assert more[0] == "The results hold for the device as it was, at the points read, on the day they were read."
    assert more[1] == "This page is the technician's own record and claims no accreditation."


def calibrated(made, names, reference=""):
    record = CalibrationRecord("2026-01-10", "a room", "2027-01-10", reference)
    for name in names:
        made = made.with_part(replace(made.part(name), history=(record,)))
    return made


@pytest.mark.parametrize(
    ("names", "reference", "said"),
    [
        (("scope",), "", "not traceable: Reedmace has no calibration on record."),
        (("load",), "", "not traceable: Sedge has no calibration on record."),
        (("scope", "load"), "", "compared with the parts named above; where no certificate is named, no chain to the "
         "unit is claimed."),
        (("scope", "load"), "N-7", "traceable through the certificates named above, as far as those are."),
    ],
)  # fmt: skip
def test_traceability_is_what_the_history_holds(names, reference, said):
    assert page(calibrated(read_job(), names, reference)).statements[2] == f"Traceability: these results are {said}"


def test_references_stand_with_their_history_the_latest_first():
    made = read_job()
    old, new = (CalibrationRecord(on, by, due, ref) for on, by, due, ref in (
        ("2024-01-10", "room one", "", "N-1"), ("2026-01-10", "room two", "2026-06-01", "N-2"),
    ))  # fmt: skip
    made = made.with_part(replace(made.part("scope"), serial="S-9", history=(old, new)))
    found = page(made).references

    assert found == (
        ("Reedmace", "", "impedance measured with an analyser of unknown history"),
        ("Sedge", "S-9", "calibrated 2026-01-10 by room two (N-2), due 2026-06-01 (overdue on 2026-11-24)"),
        ("", "", "before: 2024-01-10 by room one (N-1)"),
    )


def test_other_parts_stand_with_what_is_stated_of_them():
    others = {row[0]: spaced(row[2]) for row in page(read_job()).others}

    assert list(others) == ["Plover", "tee", "lead"]
    assert others["Plover"] == "power 250 W, harmonic 2 −120 dB, harmonic 3 −120 dB"
    assert "length" in others["lead"] and "line 50 Ω" in others["lead"]


@pytest.mark.parametrize(
    ("part", "said"),
    [
        (shelf.dummy_load("l", "load", 100.0), "no calibration on record: not traceable"),
        (
            replace(shelf.tee("t", "tee"), history=(CalibrationRecord("2026-01-02", "me"),)),
            "calibrated 2026-01-02 by me",
        ),
    ],
)
def test_a_past_in_words(part, said):
    assert history_in_words(part) == said


def test_a_switch_stands_in_the_words_of_the_hook_up():
    from fenmist.hookup.templates import TEMPLATES, from_template
    from fenmist.kit.generic import starter_shelf
    from fenmist.procedures.benchwork import with_new_hookup

    template = next(item for item in TEMPLATES if "pad" in item.label)
    made = with_new_hookup(job(), from_template(template, starter_shelf(), "x"))
    made = replace(made, hookups=made.hookups[::-1])

    assert " – " in hookup_in_words(made)
    assert hookup_in_words(job()) == "Plover – Bittern – tee – Reedmace; on the tee: lead – Sedge"


def test_the_budget_is_of_the_worst_point_and_of_lines_that_count():
    made = job([[("102 Vpp", "25.6")], [("102 Vpp", "40")]], frequencies_hz=(7e6, 14e6), level_w=25.0)
    result = reduce(made)
    found = page(made, result)
    rows = [row for row in result.budget("p2") if row.share >= 5e-4]

    assert spaced(found.budget_title).startswith("Uncertainty of the error at 14 MHz, 25 W: ")
    assert [row[0] for row in found.budget] == [row.influence.label for row in rows]
    assert found.budget[0][0] == "Sedge, accuracy"
    assert found.budget[0][1] == "±3 % of reading, rectangular"
    shares = [float(spaced(row[3]).split()[0]) for row in found.budget]
    assert shares == sorted(shares, reverse=True) and sum(shares) == pytest.approx(100.0, abs=1.0)
    # 3 % rectangular of volts is 2·3 %/√3 of power: 0.784 W of 22.65 W
    assert found.budget[0][2].replace("\u202f", " ") == "780 mW"


def test_notes_stand_with_their_answers_while_these_hold():
    note = Note("a.rule", Severity.DOUBT, "job", "What.", "Why.", "Do.", {"x": 1.0})
    other = replace(note, code="b.rule", severity=Severity.WATCH)
    made = read_job()
    answer = Answer(note.key, note.fingerprint, "checked", "me", WHEN)
    stale = Answer(other.key, "of other evidence", "old", "me", WHEN)
    for number, item in enumerate((answer, stale)):
        made = made.with_event(Event(f"a{number}", EventKind.ANSWER, WHEN, answer=item))

    assert page(made, notes=(note, other)).notes == (
        ("doubt", "What.", "Why.", "answered 2026-11-24: checked"), ("watch", "What.", "Why.", ""),
    )  # fmt: skip


def test_as_left_is_judged_and_as_found_stands_below():
    made = with_as_left(read_job())
    made = enter(enter(made, Slot("p1", 1, 0, AS_LEFT), "102 Vpp"), Slot("p1", 1, 1, AS_LEFT), "22.6")
    found, left = reduce(made), reduce(made, AS_LEFT)
    both = page(made, found, left=left)

    assert (both.rows[0][3][:2], both.rows_found[0][3][:2]) == ("22", "25")
    assert dict(both.facts)["state"] == "adjusted: as left, with as found below"
    assert [line.solid for line in both.chart.series] == [False, True]
    assert both.headline.startswith("As left, ")
    unread = page(with_as_left(read_job()), left=reduce(with_as_left(read_job()), AS_LEFT))
    assert (unread.rows_found, dict(unread.facts)["state"]) == ((), "as found")


def test_the_day_of_a_page_never_looks_at_today():
    assert page(job()).date == "2026-11-24"
    assert date.today() != date(2026, 11, 24)


def test_where_nothing_is_decided_no_verdict_can_be_wrong():
    made = results(point_result(decision=OPEN))

    assert spaced(page(made.job, made).verdict).endswith("is wrong is 0 %.")


@pytest.mark.parametrize(("dots", "width"), [({}, 794), ({"dots_per_inch": 50.0}, 414)])
def test_pages_have_the_dots_asked_for(dots, width):
    """A4 is 210 mm wide: 793.7 dots at 96 an inch, 413.4 at 50."""
    made = read_job()
    result = reduce(made)
    pages = [
        certificate_pages(page(made), **dots)[0],
        cards_pages([card(made, result, LID)], "2026-11-24", **dots)[0],
        sheet_pages(run_sheet(made, (), "2026-11-24"), **dots)[0],
    ]

    assert [int.from_bytes(data[16:20], "big") for data in pages] == [pytest.approx(width, abs=1)] * 3
