"""Files stand whole under their names, or not at all."""

import os
import signal
import stat
import subprocess
import sys

import pytest

from fenmist.errors import OutOfRangeError, UnwritableError
from fenmist.files.whole import with_ending, write_whole


@pytest.fixture
def folder(tmp_path):
    made = tmp_path / "here"
    made.mkdir()
    return made


def names(folder):
    return sorted(path.name for path in folder.iterdir())


def test_the_content_replaces_what_stood_there_and_keeps_its_mode(folder):
    path = folder / "a.csv"
    path.write_bytes(b"old")
    path.chmod(0o640)

    assert write_whole(path, lambda: b"new") == path

    assert path.read_bytes() == b"new"
    assert stat.S_IMODE(path.stat().st_mode) == 0o640
    assert names(folder) == ["a.csv"]


def test_a_new_file_has_the_mode_that_the_umask_leaves(folder):
    before = os.umask(0o027)
    try:
        write_whole(folder / "a.csv", lambda: b"new")
    finally:
        os.umask(before)

    assert stat.S_IMODE((folder / "a.csv").stat().st_mode) == 0o640


def test_nobody_may_run_a_new_file(folder):
    before = os.umask(0)
    try:
        write_whole(folder / "a.csv", lambda: b"new")
    finally:
        os.umask(before)

    assert stat.S_IMODE((folder / "a.csv").stat().st_mode) == 0o666


def test_a_link_is_replaced_and_never_followed(folder):
    target = folder / "target"
    target.write_bytes(b"precious")
    link = folder / "link.csv"
    link.symlink_to(target)

    write_whole(link, lambda: b"new")

    assert target.read_bytes() == b"precious"
    assert not link.is_symlink()
    assert link.read_bytes() == b"new"


@pytest.mark.parametrize("name", ["no/such/folder.csv", "a\0b.csv", "x" * 300, "."])
def test_what_can_not_be_written_is_named_and_nothing_is_left(folder, name):
    with pytest.raises(UnwritableError):
        write_whole(folder / name, lambda: b"new")

    assert names(folder) == []


def test_a_device_is_not_replaced(folder):
    pipe = folder / "pipe"
    os.mkfifo(pipe)

    with pytest.raises(UnwritableError, match="not a file"):
        write_whole(pipe, lambda: b"new")

    assert stat.S_ISFIFO(pipe.lstat().st_mode)


def test_content_that_fails_leaves_the_old_file(folder):
    path = folder / "a.csv"
    path.write_bytes(b"old")

    with pytest.raises(ZeroDivisionError):
        write_whole(path, lambda: b"%d" % (1 // 0))

    assert path.read_bytes() == b"old"
    assert names(folder) == ["a.csv"]


_KILLED = """
import os, sys, time
from pathlib import Path
from fenmist.files import whole
os.fsync = lambda _: (print("writing", flush=True), time.sleep(60))
whole.write_whole(Path(sys.argv[1]), lambda: b"half")
"""


def test_what_a_kill_left_is_removed_by_the_next_write_but_not_one_under_way(folder):
    path = folder / "a.csv"
    command = [sys.executable, "-c", _KILLED, str(path)]
    with subprocess.Popen(command, stdout=subprocess.PIPE) as first:
        first.stdout.readline()
        write_whole(folder / "b.csv", lambda: b"whole")
        under_way = [name for name in names(folder) if name.startswith(".fenmist-")]
        first.send_signal(signal.SIGKILL)
        first.wait()
    assert len(under_way) == 1

    write_whole(folder / "c.csv", lambda: b"whole")

    assert names(folder) == ["b.csv", "c.csv"]


def test_another_ending_is_refused_with_an_example(folder):
    assert with_ending(folder / "a.PDF", ".pdf").name == "a.PDF"
    with pytest.raises(OutOfRangeError, match=r"doesn't end in \.pdf"):
        with_ending(folder / "a.txt", ".pdf")
