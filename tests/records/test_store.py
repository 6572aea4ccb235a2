"""The logbook: append-only, durable, and careful with files that aren't its own."""

import hashlib
import json
import os
import signal
import sqlite3
import subprocess
import sys
import textwrap
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import msgspec
import pytest

from fenmist.errors import (
    DamagedLogbookError,
    FenmistError,
    LockedLogbookError,
    NewerLogbookError,
    RecordError,
    UnkeepableError,
    UnknownIdError,
)
from fenmist.kit import shelf
from fenmist.reading.event import Event, EventKind, Slot
from fenmist.records.codec import decode, encode, record_hash
from fenmist.records.migrate import migrations
from fenmist.records.store import Issued, Logbook, Summary
from studies.builders import WHEN, enter, job

READ = [[("102 Vpp", "25.6"), ("101,5", "1,250"), ("103", "20/1.5")]]


@pytest.fixture
def path(tmp_path):
    return tmp_path / "book.fenlog"


@pytest.fixture
def logbook(path):
    made = Logbook(path)
    yield made
    made.close()


def test_a_job_comes_back_as_it_was(path):
    made = job(READ, load="52 @ -8", jumper=shelf.jumper("j", "jumper", 0.1, 0.02))
    first = Logbook(path)
    first.add_job(made)
    first.close()

    again = Logbook(path)
    try:
        assert again.job("job") == made
        assert record_hash(again.job("job")) == record_hash(made)
    finally:
        again.close()


def test_edits_are_revisions_and_the_newest_counts(logbook, path):
    logbook.add_job(job())
    logbook.save_definition(replace(job(), title="renamed"), WHEN, "title")

    assert logbook.job("job").title == "renamed"
    with sqlite3.connect(path) as other:
        assert other.execute("SELECT count(*) FROM definition").fetchone()[0] == 2


@pytest.mark.parametrize("table", ["event", "definition", "part"])
@pytest.mark.parametrize("what", ["DELETE FROM {}", "UPDATE {} SET payload = ''"])
def test_nothing_on_record_can_be_changed_or_taken_away(logbook, path, table, what):
    logbook.add_job(job(READ))
    logbook.save_parts([shelf.tee("tee", "tee")], WHEN)

    with sqlite3.connect(path) as other, pytest.raises(sqlite3.IntegrityError, match=r"kept|final"):
        other.execute(what.format(table))


REPLACING = {
    "event": "SELECT job, seq, 'other', kind, at, payload, chain_sha256 FROM event LIMIT 1",
    "event (rowid, job, seq, id, kind, at, payload, chain_sha256)": (
        "SELECT rowid, job, seq + 50, 'other', kind, at, payload, chain_sha256 FROM event LIMIT 1"
    ),
    "event ": "SELECT job, seq + 50, id, kind, at, payload, chain_sha256 FROM event LIMIT 1",
    "definition": "SELECT job, revision, saved_at, 'x', payload, row_sha256 FROM definition LIMIT 1",
    "part": "SELECT id, revision, content_hash, saved_at, '{}', row_sha256 FROM part LIMIT 1",
    "job": "SELECT id, '1999', row_sha256 FROM job LIMIT 1",
    "head": "SELECT job, 9, 9, chain_sha256, row_sha256 FROM head LIMIT 1",
    "attachment": "SELECT sha256, 'x', saved_at, packed, row_sha256 FROM attachment LIMIT 1",
    "issue": "SELECT number, revision, job, 7, 'x', issued_at, record_sha256, content, pdf_sha256, pdf, row_sha256 "
    "FROM issue LIMIT 1",
}


@pytest.fixture
def filled(logbook):
    logbook.add_job(job(READ))
    logbook.save_parts([shelf.tee("tee", "tee")], WHEN)
    logbook.attach(b"trace", "t.csv", WHEN)
    logbook.issue(Issued("26-001", 1, "job", None, "", WHEN, "r", hashlib.sha256(b"pdf").hexdigest()), "{}", b"pdf")
    return logbook


@pytest.mark.parametrize("table", REPLACING)
def test_no_row_can_be_put_in_the_place_of_another(filled, path, table):
    """INSERT OR REPLACE passes triggers on DELETE and UPDATE by."""
    with sqlite3.connect(path) as other, pytest.raises(sqlite3.IntegrityError, match=r"kept|final"):
        other.execute(f"INSERT OR REPLACE INTO {table} {REPLACING[table]}")


@pytest.mark.parametrize("table", ["job", "head", "issue", "attachment"])
def test_nothing_else_on_record_can_be_taken_away(filled, path, table):
    with sqlite3.connect(path) as other, pytest.raises(sqlite3.IntegrityError, match=r"kept"):
        other.execute(f"DELETE FROM {table}")


def test_a_head_grows_and_never_shrinks(filled, path):
    with sqlite3.connect(path) as other, pytest.raises(sqlite3.IntegrityError, match="kept"):
        other.execute("UPDATE head SET seq = seq - 1")


def changed_on_disk(path, sql):
    """As a hand in the file would, past the triggers, which are put back."""
    with sqlite3.connect(path, isolation_level=None) as other:
        triggers = other.execute("SELECT name, sql FROM sqlite_schema WHERE type = 'trigger'").fetchall()
        for name, _ in triggers:
            other.execute(f"DROP TRIGGER {name}")
        other.execute(sql)
        for _, text in triggers:
            other.execute(text)
    other.close()


@pytest.mark.parametrize("sql", [
    "DELETE FROM event WHERE seq = 6", "DELETE FROM event WHERE seq = 2",
    "UPDATE event SET payload = (SELECT payload FROM event WHERE seq = 2) WHERE seq = 1",
    "UPDATE event SET kind = 'strike' WHERE seq = 1",
    "UPDATE event SET at = '2020-01-01T00:00:00+00:00' WHERE seq = 3", "UPDATE definition SET label = 'x'",
    "UPDATE definition SET revision = 2",
])  # fmt: skip
def test_a_record_changed_on_disk_is_found_when_it_is_read(filled, path, sql):
    changed_on_disk(path, sql)

    with pytest.raises(DamagedLogbookError, match="not what was written"):
        filled.job("job")


@pytest.mark.parametrize("sql", [
    "UPDATE part SET payload = replace(payload, 'tee', 'eet')", "UPDATE issue SET reason = 'x'",
    "UPDATE job SET created_at = '1999'", "UPDATE logbook SET value = 'x'", "DELETE FROM head",
    "UPDATE head SET revision = 9",
])  # fmt: skip
def test_what_everything_leans_on_is_looked_over_when_a_logbook_opens(path, sql):
    book = Logbook(path)
    book.add_job(job(READ))
    book.save_parts([shelf.tee("tee", "tee")], WHEN)
    book.set_setting("workshop", "Sallow Reach")
    book.issue(Issued("26-001", 1, "job", None, "", WHEN, "r", hashlib.sha256(b"pdf").hexdigest()), "{}", b"pdf")
    book.close()
    changed_on_disk(path, sql)

    with pytest.raises(DamagedLogbookError):
        Logbook(path)


def test_a_part_is_kept_once_and_again_only_when_it_changed(logbook, path):
    logbook.save_parts([shelf.tee("tee", "tee")], WHEN)
    logbook.save_parts([shelf.tee("tee", "tee")], WHEN)
    logbook.save_parts([shelf.tee("tee", "better tee")], WHEN)

    assert [part.label for part in logbook.kit()] == ["better tee"]
    with sqlite3.connect(path) as other:
        assert other.execute("SELECT count(*) FROM part").fetchone()[0] == 2


def test_an_unknown_job_is_named(logbook):
    with pytest.raises(UnknownIdError, match="nothing"):
        logbook.job("nothing")
    with pytest.raises(UnknownIdError):
        logbook.save_definition(job(), WHEN, "title")


def test_a_number_that_json_can_not_hold_is_refused_by_name(logbook):
    bad = replace(job(), part_of_division=float("nan"))

    with pytest.raises(UnkeepableError, match="part_of_division"):
        logbook.add_job(bad)
    assert logbook.job_stamps() == {}


def test_a_second_process_is_told_that_the_logbook_is_open(logbook, path):
    with pytest.raises(LockedLogbookError, match="open in another"):
        Logbook(path)


def test_a_newer_logbook_is_named_and_left_alone(path):
    Logbook(path).close()
    with sqlite3.connect(path) as other:
        other.execute(f"PRAGMA user_version = {max(migrations()) + 1}")
    other.close()
    before = path.read_bytes()

    with pytest.raises(NewerLogbookError, match="newer"):
        Logbook(path)
    assert path.read_bytes() == before


@pytest.mark.parametrize(
    "content", [b"not a database at all, but a letter" * 100, b"SQLite format 3\0" + b"\xff" * 4000]
)
def test_a_damaged_file_is_named_and_left_alone(path, content):
    path.write_bytes(content)

    with pytest.raises(DamagedLogbookError) as caught:
        Logbook(path)
    assert str(path) in caught.value.headline
    assert path.read_bytes() == content


def test_a_foreign_database_is_left_alone(path):
    with sqlite3.connect(path) as other:
        other.execute("CREATE TABLE recipes (name TEXT)")
    other.close()

    with pytest.raises(DamagedLogbookError, match="not a logbook"):
        Logbook(path)


def test_an_event_that_was_tampered_with_is_found(logbook, path):
    logbook.add_job(job(READ))
    with sqlite3.connect(path) as other:
        other.executescript("DROP TRIGGER event_is_final; UPDATE event SET payload = replace(payload, '25.6', '22.6');")
    other.close()

    with pytest.raises(DamagedLogbookError, match="not what was written"):
        logbook.job("job")


def test_a_folder_that_can_not_be_made_is_named(tmp_path):
    (tmp_path / "file").write_text("in the way")

    with pytest.raises(RecordError, match="can't be opened"):
        Logbook(tmp_path / "file" / "book.fenlog")


def test_folders_that_are_not_there_yet_are_made(tmp_path):
    with closing(Logbook(tmp_path / "new" / "year" / "book.fenlog")) as made:
        made.back_up(tmp_path / "far" / "away" / "copy.fenlog")
    with closing(Logbook(tmp_path / "far" / "away" / "copy.fenlog")) as copy:
        assert copy.said_on_open == ()


def test_a_record_that_does_not_fit_is_damage_not_a_crash():
    with pytest.raises(DamagedLogbookError):
        decode('{"id": 3}', Event)


def test_json_of_a_record_is_the_same_each_time():
    made = job(READ)

    plain = json.loads(msgspec.json.encode(replace(made, events=())))
    assert encode(made) == json.dumps(plain, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    assert encode(replace(made, plan=())) != encode(made) == encode(job(READ))


def test_an_older_logbook_is_copied_before_it_is_migrated(path, monkeypatch):
    Logbook(path).close()
    from fenmist.records import migrate

    known = migrations()
    monkeypatch.setattr(migrate, "migrations", lambda: {**known, max(known) + 1: "CREATE TABLE added (x TEXT) STRICT"})
    made = Logbook(path)
    made.close()

    assert path.with_name(f"book.format{max(known)}.fenlog").exists()
    with sqlite3.connect(path) as other:
        assert other.execute("PRAGMA user_version").fetchone()[0] == max(known) + 1


def test_a_capture_is_kept_with_its_reading_and_given_back(logbook):
    logbook.add_job(job())
    data = b"time,CH1\n" * 50
    digest = hashlib.sha256(data).hexdigest()
    event = enter(job(), Slot("p1", 1, 0), "102").events[-1]
    entry = replace(event.entry, attached=digest, attached_name="trace.csv")
    logbook.append("job", [replace(event, entry=entry)], {digest: data})
    logbook.append("job", [replace(event, id="again", entry=entry)], {digest: data})

    assert logbook.attachment(digest) == data
    assert logbook.job("job").events[-1].entry.attached_name == "trace.csv"
    with pytest.raises(UnknownIdError):
        logbook.attachment("0" * 64)


@pytest.mark.parametrize("statement", ["DELETE FROM attachment", "UPDATE attachment SET name = 'other'"])
def test_a_kept_file_can_not_be_changed_or_taken_away(logbook, path, statement):
    logbook.add_job(job())
    event = enter(job(), Slot("p1", 1, 0), "102").events[-1]
    logbook.append("job", [replace(event, entry=replace(event.entry, attached="a", attached_name="n"))], {"a": b"x"})

    with sqlite3.connect(path) as other, pytest.raises(sqlite3.IntegrityError):
        other.execute(statement)


def test_a_kept_file_that_is_not_what_was_kept_is_damage(logbook):
    logbook.add_job(job())
    event = enter(job(), Slot("p1", 1, 0), "102").events[-1]
    logbook.append("job", [replace(event, entry=replace(event.entry, attached="w", attached_name="n"))], {"w": b"x"})

    with pytest.raises(DamagedLogbookError):
        logbook.attachment("w")


def test_a_migration_that_fails_changes_nothing(path, monkeypatch):
    Logbook(path).close()
    from fenmist.records import migrate

    known = migrations()
    monkeypatch.setattr(
        migrate, "migrations", lambda: {**known, max(known) + 1: "CREATE TABLE added (x TEXT) STRICT; NONSENSE"}
    )
    with pytest.raises(FenmistError):
        Logbook(path)

    with sqlite3.connect(path) as other:
        assert other.execute("PRAGMA user_version").fetchone()[0] == max(known)
        assert not other.execute("SELECT name FROM sqlite_schema WHERE name = 'added'").fetchall()


_CHILD = """
import sys
from pathlib import Path
from studies.builders import WHEN, enter, job
from fenmist.reading.event import Slot
from fenmist.records.store import Issued, Logbook, Summary
book = Logbook(Path(sys.argv[1]))
made = job([[("", "")] * 1], frequencies_hz=(7e6,))
book.add_job(made)
n = 0
while True:
    n += 1
    made = enter(made, Slot("p1", n, 0), f"{n}")
    book.append("job", made.events[-1:])
    print(n, flush=True)
"""


@pytest.mark.parametrize("after", [3, 17])
def test_what_was_acknowledged_survives_a_kill(path, after):
    """The longer form, a hundred random kills, belongs to the durability study."""
    code = textwrap.dedent(_CHILD)
    env = {**os.environ, "PYTHONPATH": str(Path(__file__).parent.parent)}
    with subprocess.Popen([sys.executable, "-c", code, str(path)], stdout=subprocess.PIPE, text=True, env=env) as child:
        seen = 0
        for line in child.stdout:
            seen = int(line)
            if seen >= after:
                child.send_signal(signal.SIGKILL)
                break
        seen = max([seen, *(int(line) for line in child.stdout.read().split())])

    book = Logbook(path)
    try:
        kept = [event.entry.raw_text for event in book.job("job").events if event.kind is EventKind.ENTER]
        assert kept[:seen] == [str(n) for n in range(1, seen + 1)]
    finally:
        book.close()


def test_entries_are_appended_one_by_one(logbook):
    made = job([[("", "")]])
    logbook.add_job(made)
    one = enter(made, Slot("p1", 1, 0), "102")
    logbook.append("job", one.events[-1:])

    assert logbook.job("job").events == one.events
    assert logbook.event_count("job") == 1


def summary(stamp="s1", words="bittern") -> Summary:
    return Summary("job", stamp, "meter", "0815", "{}", "[]", '["meter", "load"]', words)


def test_the_latest_summary_of_a_job_counts(logbook):
    logbook.add_job(job())
    logbook.keep_summaries([summary()], [])
    logbook.keep_summaries([summary("s2", "bittern reedmace")], [])

    assert logbook.summary_stamps() == {"job": "s2"}
    assert logbook.summary_lines("s", ("bittern", "reed")) == {"job": "{}"}
    assert logbook.summary_lines("s", ("tern", "x")) == logbook.summary_lines("2", ()) == {}
    assert logbook.used_in("load") == frozenset({"job"}) and logbook.used_in("tee") == frozenset()
    for device, serial, found in (("other", "0815", 1), ("meter", "", 1), ("meter", "4711", 0), ("other", "", 0)):
        assert len(logbook.jobs_of(device, serial)) == found
        assert logbook.past_of(device, serial, "s") == ({"job": "[]"} if found else {})
        assert logbook.past_of(device, serial, "2") == {}  # of another edition


@pytest.mark.parametrize(("tamper", "left"), [("", {"job": "s1"}), ("UPDATE summary SET serial = '4711'", {})])
def test_summaries_outlive_a_close_unless_one_was_tampered_with(path, tamper, left):
    """They can be made anew: what was tampered with takes them all away."""
    first = Logbook(path)
    first.add_job(job())
    first.keep_summaries([summary()], [])
    first.close()
    if tamper:
        with closing(sqlite3.connect(path)) as other:
            other.execute(tamper)
            other.commit()
    again = Logbook(path)
    try:
        assert again.summary_stamps() == left
    finally:
        again.close()


def test_a_certificate_is_given_back_byte_for_byte_or_not_at_all(logbook, path):
    logbook.add_job(job())
    pdf = b"%PDF-1.7 page"
    issued = Issued("26-001", 1, "job", None, "", WHEN, "ab", hashlib.sha256(pdf).hexdigest())
    logbook.issue(issued, "{}", pdf)

    assert logbook.issued_pdf("26-001", 1) == pdf
    assert logbook.issued() == logbook.issued("job") == (issued,) and logbook.issued("other") == ()
    for number, revision in (("26-001", 2), ("26-002", 1)):
        with pytest.raises(UnknownIdError, match=f"No certificate {number}, revision {revision}, was issued"):
            logbook.issued_pdf(number, revision)
    with pytest.raises(RecordError):
        logbook.issue(issued, "{}", pdf)
    with pytest.raises(DamagedLogbookError):
        logbook.issue(replace(issued, number="26-002", pdf_sha256="0"), "{}", pdf)
        logbook.issued_pdf("26-002", 1)
