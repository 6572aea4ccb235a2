"""The open logbook: list and search, kit with undo, files in and out, backups, the second folder, certificates."""

import sqlite3
from dataclasses import replace
from datetime import UTC, datetime, timedelta, timezone

import pypdf
import pytest

from fenmist.errors import FileFormatError, OutOfRangeError, RecordError
from fenmist.kit.generic import starter_shelf
from fenmist.procedures.comparison.make import cross_check, plan_points
from fenmist.reading.event import EventKind, Slot
from fenmist.records import store
from fenmist.records.codec import record_hash
from fenmist.session.backup import backups
from fenmist.session.duedates import due_dates
from fenmist.session.paper import issue, next_number, save_issued, to_issue
from fenmist.session.session import Session
from fenmist.session.trial import Tried


class Clock:
    def __init__(self, year=2026, month=11, day=25):
        self.at = datetime(year, month, day, 9, 0, tzinfo=timezone(timedelta(hours=1)))

    def __call__(self):
        self.at += timedelta(seconds=10)
        return self.at


@pytest.fixture
def clock():
    return Clock()


@pytest.fixture
def session(tmp_path, clock):
    made = Session(tmp_path / "book" / "log.fenlog", clock, second_folder=tmp_path / "second")
    yield made
    made.close()


def a_job(session, job_id="job", points=2, **more):
    plan = plan_points([7e6 + 1e6 * n for n in range(points)], [50.0], "200")
    made = cross_check(job_id, f"job {job_id}", starter_shelf(), plan, created_at=session.now())
    session.logbook.add_job(replace(made, **more))
    return session.open(job_id)


def read(job):
    for point in job.job.plan:
        job.enter(Slot(point.id, 1, 0), "141 Vpp")
        job.enter(Slot(point.id, 1, 1), "49.5")


def test_a_logbook_is_new_until_it_holds_a_job_or_a_name(session):
    assert session.is_new
    a_job(session)
    assert not session.is_new


def test_of_each_device_the_latest_day_on_a_page_is_due(session):
    """Two pages of one meter, the later job's day counts; of another meter its own."""
    for name, serial, day in (("one", "1", "2027-03-01"), ("two", "1", "2027-09-01"), ("other", "2", "2028-01-01")):
        made = a_job(session, name, next_due=day)
        made.edit(made.job.with_part(replace(made.job.dut_part, serial=serial)), "serial")
        read(made)

    found = [(item.on, item.why) for item in due_dates(session) if "page of" in item.why]
    assert found == [("2027-09-01", "on the page of “job two”"), ("2028-01-01", "on the page of “job other”")]


# list and search


def test_search_finds_every_word_anywhere_on_record(session):
    job = a_job(session, customer="Ferry Knot")
    a_job(session, "other")
    read(job)
    job.strike(Slot("p1", 1, 1), "source moved")

    assert [line.id for line in session.summaries("KNOT moved")] == ["job"]
    assert [line.id for line in session.summaries("141")] == ["job"]
    assert session.summaries("knot heron") == ()
    assert {line.id for line in session.summaries()} == {"job", "other"}


def test_summaries_are_made_anew_only_where_the_record_changed(session, monkeypatch):
    job = a_job(session)
    a_job(session, "other")
    session.summaries()
    made = []
    from fenmist.session import summaries

    real = summaries.summary
    monkeypatch.setattr(summaries, "summary", lambda it: made.append(it.id) or real(it))
    session.summaries()
    assert made == []

    job.enter(Slot("p1", 1, 0), "141")

    assert next(line for line in session.summaries() if line.id == "job").points_read == 0
    assert made == ["job"]


def test_after_a_new_edition_one_meters_history_waits_for_its_own_jobs_only(session, monkeypatch):
    read(a_job(session, "one"))
    meter = session.open("one").job.dut
    a_job(session, "other", dut="generic-transmitter")
    session.summaries()
    from fenmist.session import summaries

    monkeypatch.setattr(summaries, "EDITION", "next")
    assert session.listed("") == ()

    assert session.history(meter)
    assert [line.id for line in session.listed("")] == ["one"]
    assert session.catch_up(0.0) == 0
    assert {line.id for line in session.listed("")} == {"one", "other"}


def test_a_new_logbook_is_two_transactions_its_tables_and_what_it_begins_with(tmp_path, monkeypatch):
    said = []
    real = sqlite3.connect

    def traced(*args, **more):
        made = real(*args, **more)
        made.set_trace_callback(said.append)
        return made

    monkeypatch.setattr(sqlite3, "connect", traced)
    Session(tmp_path / "new.fenlog").close()
    assert sum(line.strip().startswith("COMMIT") for line in said) == 2


def test_search_words_are_never_sql(session):
    a_job(session)

    assert session.summaries("%' OR '1'='1") == ()


# history


def test_history_of_a_meter_comes_from_all_its_jobs_but_the_one_in_hand(session):
    read(a_job(session, "one"))
    read(a_job(session, "two"))
    meter = session.open("two").job.dut

    assert {past.job for past in session.history(meter)} == {"one", "two"}
    assert {past.job for past in session.history(meter, but="two")} == {"one"}


# kit


def test_edits_of_the_kit_are_undone_and_redone_and_jobs_keep_their_snapshot(session):
    job = a_job(session)
    part = next(item for item in session.kit if item.id == job.job.dut)
    session.save_part(replace(part, label="Renamed"))

    session.commands.undo()
    assert next(item for item in session.kit if item.id == part.id).label == part.label
    session.commands.redo()
    assert next(item for item in session.kit if item.id == part.id).label == "Renamed"
    assert session.open("job").job.dut_part.label == part.label


def test_undoing_a_new_part_takes_it_off_the_list_and_redo_brings_it_back(session):
    part = replace(session.kit[0], id="new", label="New one")
    session.save_part(part)

    session.commands.undo()
    assert "new" not in {item.id for item in session.kit}
    session.commands.redo()
    assert "new" in {item.id for item in session.kit}


def test_used_in_names_the_jobs_that_hold_a_part(session):
    job = a_job(session)

    assert [line.id for line in session.used_in(job.job.dut)] == ["job"]
    assert session.used_in("nobody") == ()


# files


def test_a_job_handed_over_is_taken_in_by_another_logbook_whole(session, tmp_path, clock):
    job = a_job(session)
    read(job)
    path = session.hand_over("job", tmp_path / "job.fenjob.json")

    other = Session(tmp_path / "other.fenlog", clock, second_folder=tmp_path / "second")
    taken = other.take_in(path)
    found = other.logbook.job(taken)
    other.close()

    assert taken == "job"
    assert record_hash(found) == record_hash(job.job)


def test_taken_in_twice_it_becomes_a_copy_that_gives_the_same_results(session, tmp_path):
    job = a_job(session)
    read(job)
    job.strike(Slot("p1", 1, 1), "misread")
    path = session.hand_over("job", tmp_path / "job.fenjob.json")

    copy = session.open(session.take_in(path))

    assert copy.job.id != "job"
    assert [point.error_w for point in copy.view.result.points] == [point.error_w for point in job.view.result.points]
    assert len(copy.job.standing) == len(job.job.standing)


def test_a_job_of_which_one_entry_is_here_already_becomes_a_copy(session):
    """Under a name of its own, with an entry of another job and one that nobody has: none is kept twice."""
    job = a_job(session)
    read(job)
    known, other = job.job.events[:2]
    strange = replace(job.job, id="strange", events=(replace(other, id="nobody's"), known))

    copy = session.open(session.keep(Tried(strange, {})))

    assert copy.job.id not in ("job", "strange")
    assert not {event.id for event in copy.job.events} & {"nobody's", known.id}
    fresh = replace(strange, events=(replace(other, id="new"),))
    assert session.keep(Tried(fresh, {})) == "strange"


def test_a_bad_file_leaves_the_logbook_as_it_was(session, tmp_path):
    path = tmp_path / "bad.json"
    path.write_text('{"format": "fenmist-job", "version": 1, "job": {}}')

    with pytest.raises(FileFormatError):
        session.take_in(path)

    assert session.summaries() == ()


# backups


def test_a_dated_backup_is_made_once_a_day_and_ten_are_kept(tmp_path):
    path = tmp_path / "log.fenlog"
    for day in range(1, 14):
        session = Session(path, Clock(day=day), second_folder=tmp_path / "second")
        if not session.has_jobs:
            a_job(session)
        assert session.back_up() == ""
        session.close()

    found = backups(path)
    assert len(found) == 10
    assert found[-1].name == "log 2026-11-13.fenlog"
    copy = Session(found[-1], Clock(day=13), second_folder=tmp_path / "second")
    assert [line.id for line in copy.summaries()] == ["job"]
    copy.close()


# the second folder


def broken(*_args, **_more):
    raise RecordError("The logbook could not be written: database or disk is full.", "Free some space.")


def test_readings_go_to_the_second_folder_while_the_logbook_is_full_and_come_back(session, monkeypatch):
    job = a_job(session)
    with monkeypatch.context() as patch:
        patch.setattr(store.Logbook, "append", broken)
        job.enter(Slot("p1", 1, 0), "141")
        assert "second" in job.trouble
        assert job.view.standing[Slot("p1", 1, 0)].entry.raw_text == "141"

    job.enter(Slot("p1", 1, 1), "49.5")

    assert job.trouble == ""
    assert [e.entry.raw_text for e in session.logbook.job("job").events] == ["141", "49.5"]


def test_what_waits_is_taken_in_when_the_logbook_is_next_opened(tmp_path, clock, monkeypatch):
    path, second = tmp_path / "log.fenlog", tmp_path / "second"
    session = Session(path, clock, second_folder=second)
    job = a_job(session)
    monkeypatch.setattr(store.Logbook, "append", broken)
    job.enter(Slot("p1", 1, 0), "141")
    session.close()
    monkeypatch.undo()

    again = Session(path, clock, second_folder=second)

    assert "1 readings that waited" in again.said_on_open
    assert [e.entry.raw_text for e in again.logbook.job("job").events] == ["141"]
    assert again.second.waiting() == ()
    again.close()


def test_what_waits_for_one_logbook_is_not_taken_into_another_of_the_same_name(tmp_path, clock, monkeypatch):
    second = tmp_path / "second"
    session = Session(tmp_path / "a" / "log.fenlog", clock, second_folder=second)
    job = a_job(session)
    with monkeypatch.context() as patch:
        patch.setattr(store.Logbook, "append", broken)
        job.enter(Slot("p1", 1, 0), "141")
    session.close()

    other = Session(tmp_path / "b" / "log.fenlog", clock, second_folder=second)
    a_job(other)
    assert other.said_on_open == ""
    other.close()
    again = Session(tmp_path / "a" / "log.fenlog", clock, second_folder=second)

    assert "1 readings that waited" in again.said_on_open
    again.close()


def test_what_waits_for_a_job_that_is_not_there_goes_on_waiting(tmp_path, clock, monkeypatch):
    second, path = tmp_path / "second", tmp_path / "log.fenlog"
    session = Session(path, clock, second_folder=second)
    session.close()
    older = path.read_bytes()
    session = Session(path, clock, second_folder=second)
    job = a_job(session)
    with monkeypatch.context() as patch:
        patch.setattr(store.Logbook, "append", broken)
        job.enter(Slot("p1", 1, 0), "141")
    session.close()
    path.write_bytes(older)

    again = Session(path, clock, second_folder=second)

    assert again.said_on_open == ""
    assert len(again.second.waiting()) == 1
    again.close()


def test_where_neither_can_be_written_it_is_said_and_nothing_pretends_to_be_kept(session, monkeypatch, tmp_path):
    job = a_job(session)
    (tmp_path / "second").write_text("a file where the folder should be")
    monkeypatch.setattr(store.Logbook, "append", broken)

    with pytest.raises(RecordError, match="Neither"):
        job.enter(Slot("p1", 1, 0), "141")

    assert Slot("p1", 1, 0) not in job.view.standing


# certificates


def text_of(pdf):
    import io

    return "\n".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(pdf)).pages)


def issue_it(session, job, reason=""):
    request = to_issue(session, job.view, reason)
    return issue(session, request, request())


def test_issued_it_is_never_altered_and_a_revision_supersedes_it_and_says_so(session, tmp_path):
    job = a_job(session)
    read(job)
    first = issue_it(session, job)
    before = session.logbook.issued_pdf(first.number, 1)
    job.enter(Slot("p1", 1, 1), "48")

    second = issue_it(session, job, "one reading was misread")

    assert session.logbook.issued_pdf(first.number, 1) == before
    assert (second.number, second.revision, second.supersedes) == (first.number, 2, 1)
    page = text_of(session.logbook.issued_pdf(second.number, 2))
    assert f"Supersedes {first.name}" in page
    assert "one reading was misread" in page
    assert f"No. {second.name}" in page
    path = save_issued(session, first, tmp_path / "first.pdf")
    assert path.read_bytes() == before


def test_a_revision_needs_a_change_and_a_reason(session):
    job = a_job(session)
    read(job)
    issue_it(session, job)

    with pytest.raises(OutOfRangeError, match="Nothing changed"):
        to_issue(session, job.view, "why not")
    job.enter(Slot("p1", 1, 1), "48")
    with pytest.raises(OutOfRangeError, match="supersedes"):
        to_issue(session, job.view)


def test_nothing_is_issued_of_nothing(session):
    with pytest.raises(OutOfRangeError, match="nothing to certify"):
        to_issue(session, a_job(session).view)


def test_numbers_count_on_by_the_workshops_own_pattern(session):
    session.set_setting("numbering", "SR/{year}/")
    for name in ("one", "two"):
        job = a_job(session, name)
        read(job)
        issue_it(session, job)

    assert [item.number for item in session.issued()] == ["SR/26/001", "SR/26/002"]
    assert next_number(session, datetime(2027, 1, 5, tzinfo=UTC)) == "SR/27/001"


# events of the run


def test_skip_doubt_and_reason_are_undone_and_stay_on_record(session):
    job = a_job(session)
    read(job)
    slot = Slot("p1", 1, 1)
    job.doubt(slot, "needle stuck")
    assert "entry.doubted" in {note.code for note in job.view.notes}
    job.commands.undo()
    assert "entry.doubted" not in {note.code for note in job.view.notes}

    job.strike(slot, "misread")
    job.give_reason("wrong range")
    assert job.last_strike.reason == "wrong range"
    job.commands.undo()
    assert job.last_strike.reason == "misread"
    job.commands.undo()
    assert slot in job.view.standing

    job.skip(Slot("p2", 1, 0), "load too hot")
    assert not job.job.is_wanted(Slot("p2", 1, 1))
    job.commands.undo()
    assert job.job.is_wanted(Slot("p2", 1, 1))
    job.commands.redo()
    assert not job.job.is_wanted(Slot("p2", 1, 1))
    job.commands.undo()
    assert job.job.is_wanted(Slot("p2", 1, 1))
    assert [e.kind for e in job.job.events].count(EventKind.SKIP) == 2

    for _ in range(2):
        job.skip(Slot("p2", 1, 0), "load too hot")  # again: read after all
    job.commands.undo()
    assert not job.job.is_wanted(Slot("p2", 1, 1))
    job.commands.redo()
    assert job.job.is_wanted(Slot("p2", 1, 1))


def test_the_carrier_is_inferred_and_corrected(session, clock):
    job = a_job(session)
    slot = Slot("p1", 1, 0)
    assert not job.carrier.is_on
    job.begin_entry(slot)
    assert job.carrier.is_on
    job.enter(slot, "141")
    assert job.carrier.is_on
    job.switch_carrier(slot)
    assert not job.carrier.is_on
    warm = job.warmth(slot)
    assert 0.0 < warm.rise < 0.2
    clock.at += timedelta(hours=1)
    assert job.warmth(slot).rise < warm.rise / 10


def test_equipment_that_was_all_retired_stays_so(tmp_path):
    path = tmp_path / "book.fenlog"
    first = Session(path, second_folder=tmp_path)
    for part in first.kit:
        first.save_part(replace(part, retired=True))
    first.close()
    again = Session(path, second_folder=tmp_path)

    assert again.kit == ()
    again.close()
