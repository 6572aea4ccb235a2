"""One process holds a logbook, by whatever name; what is missing beside it is said."""

import os
import shutil
import sqlite3
import subprocess
import sys
from contextlib import closing

import pytest

from fenmist.errors import DamagedLogbookError, LockedLogbookError
from fenmist.records.store import Logbook
from studies.builders import job


@pytest.fixture
def path(tmp_path):
    made = Logbook(tmp_path / "book.fenlog")
    made.add_job(job())
    made.close()
    return tmp_path / "book.fenlog"


def test_closed_a_logbook_is_one_file(path, tmp_path):
    assert [item.name for item in tmp_path.glob("book*")] == ["book.fenlog"]


@pytest.mark.parametrize("link", [os.symlink, os.link], ids=["symlink", "hard link"])
def test_the_lock_holds_through_another_name(path, tmp_path, link):
    other = tmp_path / "other.fenlog"
    link(path, other)
    made = Logbook(path)
    try:
        with pytest.raises(LockedLogbookError):
            Logbook(other)
    finally:
        made.close()

    Logbook(other).close()


_CRASH = """
import os, sys
from pathlib import Path
from fenmist.records.store import Logbook
book = Logbook(Path(sys.argv[1]))
book.set_setting("workshop", "Sallow Reach")
os._exit(9)
"""


def crashed(path):
    subprocess.run([sys.executable, "-c", _CRASH, str(path)], check=False)
    assert path.with_name("book.fenlog-wal").exists()


def test_after_a_crash_everything_is_there_and_nothing_is_said(path):
    crashed(path)

    book = Logbook(path)

    assert book.setting("workshop") == "Sallow Reach"
    assert book.said_on_open == ()
    book.close()


def test_after_a_crash_the_log_is_found_through_a_second_hard_link(path, tmp_path):
    os.link(path, tmp_path / "another.fenlog")
    for number in range(3):  # other logbooks beside it, with logs of their own
        (tmp_path / f"a{number}.fenlog").write_bytes(b"")
        (tmp_path / f"a{number}.fenlog-wal").write_bytes(b"log")
    crashed(path)

    book = Logbook(tmp_path / "another.fenlog")

    assert book.setting("workshop") == "Sallow Reach"
    assert book.said_on_open == ()
    book.close()


def test_a_log_that_is_missing_is_said_and_the_rest_opens(path):
    crashed(path)
    path.with_name("book.fenlog-wal").unlink()

    book = Logbook(path)

    assert "book.fenlog-wal is missing" in book.said_on_open[0]
    assert book.has_job("job")
    book.close()
    again = Logbook(path)
    assert again.said_on_open == ()
    again.close()


def test_a_damaged_commit_in_the_log_is_said(path):
    crashed(path)
    log = path.with_name("book.fenlog-wal")
    data = bytearray(log.read_bytes())
    data[-10] ^= 1
    log.write_bytes(data)

    book = Logbook(path)

    assert "could not be read" in book.said_on_open[0]
    assert book.setting("workshop") == ""
    book.close()


def test_a_commit_that_was_never_finished_is_nobodys_loss(path):
    """Frames without a commit behind the last whole one are what a kill leaves of an unfinished write."""
    crashed(path)
    log = path.with_name("book.fenlog-wal")
    data = log.read_bytes()
    page = int.from_bytes(data[8:12], "big")
    unfinished = bytearray(data[32 : 32 + 24 + page])
    unfinished[4:8] = b"\0\0\0\0"
    log.write_bytes(data + unfinished)

    book = Logbook(path)

    assert book.said_on_open == ()
    assert book.setting("workshop") == "Sallow Reach"
    book.close()


def test_an_empty_file_is_begun_anew_and_that_is_said(tmp_path):
    (tmp_path / "b.fenlog").write_bytes(b"")

    book = Logbook(tmp_path / "b.fenlog")

    assert "was empty (0 bytes)" in book.said_on_open[0]
    book.close()


def test_an_empty_file_beside_a_log_is_left_alone(tmp_path):
    """SQLite would throw the log away."""
    path = tmp_path / "b.fenlog"
    path.write_bytes(b"")
    path.with_name("b.fenlog-wal").write_bytes(b"x" * 100)

    with pytest.raises(DamagedLogbookError, match="its log"):
        Logbook(path)

    assert path.with_name("b.fenlog-wal").read_bytes() == b"x" * 100


def test_the_first_bytes_of_a_logbook_are_no_logbook(path):
    path.write_bytes(path.read_bytes()[:40])

    with pytest.raises(DamagedLogbookError, match="all but 40 bytes"):
        Logbook(path)


def test_a_loop_of_links_is_said(tmp_path):
    (tmp_path / "a.fenlog").symlink_to(tmp_path / "b.fenlog")
    (tmp_path / "b.fenlog").symlink_to(tmp_path / "a.fenlog")

    with pytest.raises(OSError, match="can't be opened"):
        Logbook(tmp_path / "a.fenlog")


@pytest.mark.parametrize(
    "sql",
    ["DROP TRIGGER event_is_final", "CREATE TABLE more (x TEXT)", "DROP TABLE summary", "DROP INDEX issue_by_job"],
)
def test_tables_that_are_not_as_they_were_made_are_damage(path, sql):
    with closing(sqlite3.connect(path)) as other:
        other.execute(sql)

    with pytest.raises(DamagedLogbookError, match="not those of a logbook"):
        Logbook(path)


def test_a_damaged_event_of_an_older_format_is_not_brought_over(tmp_path):
    """Its hash is looked at before the new one is made."""
    from pathlib import Path

    path = tmp_path / "old.fenlog"
    shutil.copy(Path(__file__).parent / "kept" / "format1.fenlog", path)
    with closing(sqlite3.connect(path, isolation_level=None)) as other:
        (sql,) = other.execute("SELECT sql FROM sqlite_schema WHERE name = 'event_is_final'").fetchone()
        other.execute("DROP TRIGGER event_is_final")
        other.execute("UPDATE event SET payload = replace(payload, '25.6', '26.6')")
        other.execute(sql)
    before = path.read_bytes()

    with pytest.raises(DamagedLogbookError):
        Logbook(path)

    assert path.read_bytes() == before


def test_the_copy_before_a_migration_holds_what_was_there(tmp_path):
    from pathlib import Path

    path = tmp_path / "old.fenlog"
    shutil.copy(Path(__file__).parent / "kept" / "format1.fenlog", path)

    Logbook(path).close()

    with closing(sqlite3.connect(tmp_path / "old.format1.fenlog")) as copy:
        assert copy.execute("PRAGMA user_version").fetchone()[0] == 1
        assert copy.execute("SELECT count(*) FROM event").fetchone()[0] > 0
