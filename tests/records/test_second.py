"""The second folder: what it acknowledged comes in; what was torn or damaged is said and never deleted."""

import errno
import os
from dataclasses import replace
from hashlib import sha256

import pytest

from fenmist.errors import RecordError, UnkeepableError
from fenmist.reading.event import Reading, Slot
from fenmist.records import second as module
from fenmist.records.second import SecondFolder, take_in
from fenmist.records.store import Logbook
from studies.builders import enter, job


@pytest.fixture
def logbook(tmp_path):
    made = Logbook(tmp_path / "book.fenlog")
    made.add_job(job())
    yield made
    made.close()


@pytest.fixture
def second(logbook, tmp_path):
    return SecondFolder(logbook, tmp_path / "second")


def event(text, number=0):
    made = enter(job(), Slot("p1", 1, 0), text).events[-1]
    return replace(made, id=f"{text}-{number}")


def texts(logbook):
    return [item.entry.raw_text for item in logbook.job("job").events]


def test_what_waits_comes_in_once_in_order_and_the_file_goes(logbook, second):
    second.append("job", [event("101"), event("102")])
    second.append("job", [event("103")])

    taken = take_in(logbook, second)

    assert (taken.events, taken.said) == (3, ())
    assert texts(logbook) == ["101", "102", "103"]
    assert not second.path.exists()
    assert take_in(logbook, second).events == 0


def test_a_line_torn_by_a_full_disk_is_cut_off_and_the_next_stands_alone(logbook, second, monkeypatch):
    """What used to happen: the next event was glued to the torn one, both were skipped and the file deleted."""
    second.append("job", [event("101")])
    true = os.pwrite

    def full(descriptor, data, place):
        true(descriptor, bytes(data)[:30], place)
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(module.os, "pwrite", full)
    with pytest.raises(RecordError, match="only on the screen"):
        second.append("job", [event("102")])
    monkeypatch.setattr(module.os, "pwrite", true)
    second.append("job", [event("103")])

    taken = take_in(logbook, second)

    assert texts(logbook) == ["101", "103"]
    assert taken.said == ()


def test_a_line_torn_by_a_crash_is_said_and_cut_off(logbook, second):
    second.append("job", [event("101")])
    whole = second.path.read_bytes()
    second.path.write_bytes(whole + whole[:50])

    second.append("job", [event("102")])
    assert [item.events[0].entry.raw_text for item in second.waiting()] == ["101", "102"]

    second.path.write_bytes(second.path.read_bytes() + whole[:50])
    taken = take_in(logbook, second)

    assert texts(logbook) == ["101", "102"]
    assert "cut off in writing" in taken.said[0]


@pytest.mark.parametrize("place", [3, 70, 200])
def test_a_damaged_line_is_set_aside_and_said_and_the_others_come_in(logbook, second, place):
    for text in ("101", "102", "103"):
        second.append("job", [event(text)])
    lines = second.path.read_bytes().splitlines(keepends=True)
    data = bytearray(lines[1])
    data[place] ^= 1
    second.path.write_bytes(lines[0] + bytes(data) + lines[2])

    taken = take_in(logbook, second)

    assert texts(logbook) == ["101", "103"]
    assert "1 lines that waited" in taken.said[0]
    assert second.aside.read_bytes() == bytes(data)
    assert not second.path.exists()


def test_nothing_is_cleared_while_the_logbook_can_not_be_written(logbook, second, monkeypatch):
    second.append("job", [event("101")])
    second.append("job", [event("102")])

    def full(*_):
        raise RecordError("The disk is full.")

    monkeypatch.setattr(logbook, "append", full)
    with pytest.raises(RecordError):
        take_in(logbook, second)

    assert len(second.waiting()) == 2


def test_what_is_in_the_logbook_already_isn_t_taken_in_again(logbook, second):
    second.append("job", [event("101"), event("102")])
    logbook.append("job", [event("101")])

    assert take_in(logbook, second).events == 1
    assert texts(logbook) == ["101", "102"]


def test_what_belongs_to_another_logbooks_job_goes_on_waiting(logbook, second):
    second.append("another", [event("101")])
    second.append("job", [event("102")])

    take_in(logbook, second)

    assert [item.job for item in second.waiting()] == ["another"]
    assert texts(logbook) == ["102"]


def test_files_of_entries_come_along(logbook, second):
    data = b"time,CH1\n"
    digest = sha256(data).hexdigest()
    made = event("101")
    entry = replace(made.entry, attached=digest, attached_name="t.csv")
    second.append("job", [replace(made, entry=entry)], {digest: data})

    take_in(logbook, second)

    assert logbook.attachment(digest) == data


def test_what_no_logbook_could_keep_is_refused_here_too(second):
    made = event("101")
    bad = replace(made, entry=replace(made.entry, reading=Reading(1.0, "W", float("inf"))))

    with pytest.raises(UnkeepableError):
        second.append("job", [bad])
    assert second.waiting() == ()


def test_a_disk_that_takes_a_few_bytes_at_a_time_gets_them_all_in_order(logbook, second, monkeypatch):
    true = os.pwrite
    monkeypatch.setattr(module.os, "pwrite", lambda descriptor, data, place: true(descriptor, bytes(data)[:7], place))

    second.append("job", [event("101"), event("102")])
    second.append("job", [event("103")])
    monkeypatch.undo()

    assert take_in(logbook, second).events == 3
    assert texts(logbook) == ["101", "102", "103"]
