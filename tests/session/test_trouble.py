"""A job that can't be worked out: listed with its reason, handed over, and no hindrance to any other."""

from dataclasses import replace

import numpy as np
import pytest

from fenmist.errors import (
    DamagedLogbookError,
    FileFormatError,
    RecordError,
    UnkeepableError,
    UnworkableJobError,
)
from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.reading.event import Slot
from fenmist.records.jobfile import job_to_bytes
from fenmist.session.session import Session
from fenmist.session.trial import read_tried, try_whole
from fenmist.session.workable import working_out
from studies.builders import job

READ = [[("102 Vpp", "25.6")]]
NO_TOLERANCE = SpecTerm(SpecKind.OF_RANGE, 0.0)


@pytest.fixture
def session(tmp_path):
    made = Session(tmp_path / "book.fenlog", second_folder=tmp_path)
    yield made
    made.close()


def no_kit(made):
    return replace(made, kit=())


def with_reading(made, **what):
    event = made.events[0]
    entry = replace(event.entry, reading=replace(event.entry.reading, **what))
    return replace(made, events=(replace(event, entry=entry), *made.events[1:]))


def good_and(session, spoiled):
    session.logbook.add_job(job(READ))
    events = tuple(replace(event, id=f"x{n}") for n, event in enumerate(spoiled.events))
    session.logbook.add_job(replace(spoiled, id="spoiled", title="Spoiled", events=events))


@pytest.mark.parametrize(
    "spoil",
    [no_kit, lambda made: with_reading(made, unit="furlong"), lambda made: with_reading(made, value=1e160),
     lambda made: replace(made, question="nothing"), lambda made: replace(made, dut="nobody")],
    ids=["no kit", "furlong", "1e160", "no method", "no device"],
)  # fmt: skip
def test_it_is_a_line_with_its_reason_beside_the_others(session, tmp_path, spoil):
    good_and(session, spoil(job(READ)))

    lines = {line.id: line for line in session.summaries()}

    assert lines["job"].trouble == ""
    assert lines["job"].points_read == 1
    assert "can't be worked out" in lines["spoiled"].trouble
    assert lines["spoiled"].headline.startswith("✕ ")
    assert [line.id for line in session.summaries("spoiled")] in (["spoiled"], [])
    assert session.hand_over("spoiled", tmp_path / "s.json").exists()
    assert session.history("meter", but="nobody") != ()
    with pytest.raises(FileFormatError):
        session.take_in(tmp_path / "s.json")


def test_a_tolerance_of_nothing_is_no_division_by_it(session):
    session.logbook.add_job(replace(job(READ), tolerance=NO_TOLERANCE))

    (line,) = session.summaries()

    assert line.trouble == ""
    assert "reject 1" in line.headline or "cannot decide 1" in line.headline


def test_a_damaged_job_is_a_line_that_says_so(session):
    session.logbook.add_job(job(READ))
    session.logbook._connection.execute("DROP TRIGGER event_is_final")
    session.logbook._connection.execute("UPDATE event SET at = '1999' WHERE seq = 1")

    (line,) = session.summaries()

    assert "not what was written" in line.trouble
    with pytest.raises(DamagedLogbookError):
        session.open("job")


def test_the_list_is_shown_though_nothing_can_be_written(session, monkeypatch):
    session.logbook.add_job(job(READ))

    def full(*_):
        raise RecordError("The disk is full.")

    monkeypatch.setattr(session.logbook, "keep_summaries", full)

    assert [line.points_read for line in session.summaries()] == [1]
    assert session.catch_up(0.0) == 0
    monkeypatch.setattr("fenmist.session.summaries.summary", full)  # it isn't made again and again
    assert [line.points_read for line in session.summaries("bittern")] == [1]
    assert session.summaries("nothing of it") == ()


def test_an_edit_from_which_nothing_could_be_worked_out_is_refused_and_the_job_stays(session):
    session.logbook.add_job(job(READ))
    opened = session.open("job")

    with pytest.raises((UnworkableJobError, LookupError)):
        opened.edit(replace(opened.job, kit=(), events=()), "everything gone")

    assert opened.job == session.logbook.job("job")
    assert opened.commands.undo_label == ""


def test_what_can_not_be_written_down_is_refused_at_the_key_and_nothing_waits(session):
    """An encoding error is never taken for a full disk."""
    session.logbook.add_job(job(READ))
    opened = session.open("job")

    with pytest.raises(UnkeepableError):
        opened.edit(replace(opened.job, customer="half a sign \ud800", events=()), "customer")

    assert opened.trouble == ""
    assert session.second.waiting() == ()
    assert session.logbook.job("job").customer == ""


def test_0e999_stays_an_open_entry_on_record(session):
    session.logbook.add_job(job(frequencies_hz=(7e6,)))
    session.open("job").enter(Slot("p1", 1, 0), "0e999")

    entry = session.logbook.job("job").standing[Slot("p1", 1, 0)].entry

    assert entry.raw_text == "0e999"
    assert entry.reading is None
    assert "exponent" in entry.why_open


# the border itself


@pytest.mark.parametrize(
    "work",
    [lambda: 1 / 0, lambda: {}["x"], lambda: np.float64(1e300) * np.float64(1e300), lambda: np.log(np.zeros(1)),
     lambda: next(iter(())), lambda: bytes("\ud800", "utf-8")],
    ids=["division", "index", "overflow", "log", "stop", "encoding"],
)  # fmt: skip
def test_whatever_goes_wrong_is_a_sentence_about_that_job(work):
    with pytest.raises(UnworkableJobError, match="“Bittern” can't be worked out"), working_out("Bittern"):
        work()


def test_what_is_said_in_words_already_passes():
    with pytest.raises(RecordError, match="full"), working_out("Bittern"):
        raise RecordError("The disk is full.")


# the trial of a file


def test_the_trial_tells_how_far_it_is_and_stops_when_told():
    told = []
    try_whole(job(READ), told.append)
    assert told[0] == 0.0
    assert told[-1] == 1.0
    assert told == sorted(told)

    def stop(done):
        if done > 0.4:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        try_whole(job(READ), stop)


@pytest.mark.parametrize(("spoil", "words"), [
    (lambda made: replace(made, tolerance=NO_TOLERANCE), "no tolerance"),
    (lambda made: replace(made, part_of_division=0.0), "part of a division"),
    (lambda made: replace(made, next_due="soon"), "a day such as 2026-03-12 - at `$.job.next_due`"),
    (lambda made: replace(made, created_at="yesterday"), "datetime - at `$.job.created_at`"),
    (lambda made: with_reading(made, unit="furlong"), "a reading that makes no sense"),
    (lambda made: with_reading(made, form="out"), "a reading that makes no sense"),
    (lambda made: with_reading(made, value=5e-324), "a reading that makes no sense"),
    (lambda made: with_reading(made, value=2e15), "a reading that makes no sense"),
    (lambda made: with_reading(made, digit=-1.0), "a reading that makes no sense"),
    (lambda made: with_reading(made, u=-1.0), "a reading that makes no sense"),
], ids=["tolerance", "division", "due", "begun", "unit", "form", "tiny", "huge", "digit", "u"])  # fmt: skip
def test_a_file_is_refused_with_what_is_wrong_in_it(tmp_path, spoil, words):
    path = tmp_path / "job.json"
    path.write_bytes(job_to_bytes(spoil(job(READ)), lambda _: b""))

    with pytest.raises(FileFormatError, match="can't be taken in") as caught:
        read_tried(path)

    assert words in str(caught.value)


@pytest.mark.parametrize("value", [1e13, 1e15, 1e-24, 0.0])
def test_a_reading_that_can_be_typed_can_be_taken_in(tmp_path, value):
    path = tmp_path / "job.json"
    path.write_bytes(job_to_bytes(with_reading(job(READ), value=value), lambda _: b""))

    assert read_tried(path).job.events[0].entry.reading.value == value
