"""Killed at any moment nothing acknowledged is lost; a full disk and a read-only folder lose nothing either."""

import random
import subprocess
import sys
from pathlib import Path

import pytest

from fenmist.session.session import Session
from studies.attacks.kills import ENV, check, killed


def many_kills(kind: str, times: int, tmp_path: Path, most_lines: int) -> None:
    draw = random.Random(20261125)
    path = tmp_path / "log.fenlog"
    for _ in range(times):
        said = killed(kind, path, draw.randint(1, most_lines), draw.random() * 0.02, tmp_path)
        check(path, said, tmp_path)


def test_what_was_acknowledged_survives_kills_at_random(tmp_path):
    many_kills("core", 5, tmp_path, 60)


@pytest.mark.long
def test_what_was_acknowledged_survives_a_hundred_kills_at_random(tmp_path):
    many_kills("core", 100, tmp_path, 60)


def test_what_the_window_acknowledged_survives_a_kill(tmp_path):
    many_kills("window", 1, tmp_path, 12)


@pytest.mark.long
def test_what_the_window_acknowledged_survives_five_kills(tmp_path):
    many_kills("window", 5, tmp_path, 20)


_FULL = """
import resource, signal, sys
from pathlib import Path
sys.path.insert(0, {tests!r})
from studies.attacks.working_child import job_in
from fenmist.reading.event import Slot
from fenmist.session.session import Session
path = Path(sys.argv[1])
session = Session(path, second_folder=path.parent / "second")
job = job_in(session)
job.enter(Slot("p1", 1, 0), "100")
signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
size = max(item.stat().st_size for item in path.parent.iterdir() if item.is_file())
resource.setrlimit(resource.RLIMIT_FSIZE, (size, size))
for number in range(1, 30):
    job.enter(Slot(f"p{{number + 1}}", 1, 0), str(100 + number))
    print(number, bool(job.trouble), flush=True)
print("kept", len(job.view.standing), "of these on disk", job.entries_on_disk, flush=True)
"""


def test_on_a_full_disk_readings_go_to_the_second_folder_and_come_back(tmp_path):
    """The disk is full by the system's own limit on file sizes: SQLite itself refuses to write."""
    path = tmp_path / "log.fenlog"
    tests = str(Path(__file__).parents[2])
    done = subprocess.run(
        [sys.executable, "-c", _FULL.format(tests=tests), str(path)],
        capture_output=True,
        text=True,
        env=ENV,
        check=False,
    )
    assert "True" in done.stdout, done.stderr
    assert "kept 30" in done.stdout, done.stderr
    refused = [line.endswith("True") for line in done.stdout.splitlines()]
    assert f"of these on disk {30 - sum(refused)}" in done.stdout

    session = Session(path, second_folder=tmp_path / "second")

    assert "waited" in session.said_on_open
    texts = [e.entry.raw_text for e in session.logbook.job("job").events]
    assert sorted(texts) == sorted(str(100 + n) for n in range(30))
    session.close()


_READ_ONLY = """
import os, sys
from pathlib import Path
sys.path.insert(0, {tests!r})
from fenmist.errors import RecordError
from fenmist.session.session import Session
path = Path(sys.argv[1])
if os.geteuid() == 0:
    os.setgid(65534); os.setuid(65534)
try:
    Session(path, second_folder=path.parent.parent / "second")
except RecordError as error:
    print("said:", error)
"""


def test_a_read_only_folder_is_said_and_nothing_is_written(tmp_path):
    """As another user where the tests run as root, whom permissions don't bind."""
    import tempfile

    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "book"
        folder.mkdir()
        path = folder / "log.fenlog"
        made = Session(path, second_folder=tmp_path)
        made.close()
        before = {item.name: item.read_bytes() for item in folder.iterdir()}
        Path(name).chmod(0o755)
        folder.chmod(0o555)
        path.chmod(0o444)
        tests = str(Path(__file__).parents[2])
        done = subprocess.run(
            [sys.executable, "-c", _READ_ONLY.format(tests=tests), str(path)],
            capture_output=True, text=True, env=ENV, check=False,
        )  # fmt: skip
        folder.chmod(0o755)
        after = {item.name: item.read_bytes() for item in folder.iterdir()}

    assert "said:" in done.stdout, done.stderr
    assert str(path) in done.stdout
    assert before == after
