"""Notes as values: which is which, whether an answer still holds, and in which order they stand."""

from dataclasses import replace

import pytest

from fenmist.findings.note import Answer, Note, Severity, in_order, unanswered
from fenmist.units.moment import moment_from_text

WHEN = moment_from_text("2026-11-25T09:00:00+01:00")
NOTE = Note("load.poor", Severity.DOUBT, "load", "what", "why", "remedy", {"swr": 2.4, "count": 3.0})


def answer(note: Note) -> Answer:
    return Answer(note.key, note.fingerprint, "meant so", "A. Technician", WHEN)


def test_a_note_is_the_same_while_rule_and_subject_are():
    assert NOTE.key == "load.poor@load"
    assert replace(NOTE, what="other words", severity=Severity.WATCH).key == NOTE.key
    assert replace(NOTE, about="p1/1/0").key != NOTE.key != replace(NOTE, code="lead.stub").key


@pytest.mark.parametrize(
    ("evidence", "holds"),
    [({"swr": 2.404, "count": 3.0}, True), ({"count": 3.0, "swr": 2.4}, True), ({"swr": 2.41, "count": 3.0}, False),
     ({"swr": 2.4, "count": 4.0}, False), ({"swr": 2.4}, False), ({"swr": "2.40e+00", "count": 3.0}, True)],
)  # fmt: skip
def test_an_answer_holds_while_the_evidence_is_the_same_to_three_digits(evidence, holds):
    moved = replace(NOTE, evidence=evidence)

    assert answer(NOTE).holds_for(moved) is holds
    assert not replace(answer(NOTE), note_key="other").holds_for(NOTE)


def test_only_stops_and_doubts_want_an_answer():
    notes = tuple(replace(NOTE, severity=item, about=item) for item in Severity)

    assert [note.severity for note in unanswered(notes, {})] == [Severity.STOP, Severity.DOUBT]
    answers = {note.key: answer(note) for note in notes[:2]}
    assert unanswered(notes, answers) == ()
    moved = replace(notes[0], evidence={"swr": 9.0})
    assert unanswered((moved, *notes[1:]), answers) == (moved,)


def test_stops_first_then_the_point_in_hand_then_by_severity():
    order = [
        ("a", Severity.WATCH, "p1/1/0"), ("b", Severity.DOUBT, "job"), ("c", Severity.GOOD_TO_KNOW, "p2/1/1"),
        ("d", Severity.STOP, "load"), ("e", Severity.DOUBT, "p2"), ("f", Severity.DOUBT, "p22/1/0"),
    ]  # fmt: skip
    notes = tuple(replace(NOTE, code=code, severity=severity, about=about) for code, severity, about in order)

    assert "".join(note.code for note in in_order(notes)) == "dbefac"
    assert "".join(note.code for note in in_order(notes, "p2")) == "decbfa"
    assert [item.rank for item in Severity] == [0, 1, 2, 3]
