"""Once in a real window, under a real X server."""

import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from fenmist.desk.app import display_problem

TESTS = Path(__file__).parent.parent


@pytest.fixture
def display() -> Iterator[str]:
    """A display of our own."""
    if shutil.which("Xvfb") is None:
        pytest.fail("Xvfb is missing: ./test.sh installs it, or apt-get install xvfb")
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[write], stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(write)
    with os.fdopen(read) as number:
        found = f":{number.readline().strip()}"
    yield found
    server.terminate()
    server.wait()


@pytest.mark.xvfb
def test_the_whole_job_in_a_real_window(display, tmp_path):
    env = {**os.environ, "DISPLAY": display, "QT_QPA_PLATFORM": "xcb", "PYTHONPATH": str(TESTS)}
    done = subprocess.run(
        [sys.executable, str(TESTS / "support" / "real_window.py"), str(tmp_path)],
        capture_output=True, text=True, env=env, timeout=120, check=False,
    )  # fmt: skip

    assert done.stdout.split() == ["xcb", "2"], done.stderr
    assert (tmp_path / "page.pdf").read_bytes().startswith(b"%PDF")


@pytest.mark.xvfb
def test_a_display_that_answers_is_told_from_one_that_does_not(display, monkeypatch):
    monkeypatch.delenv("QT_QPA_PLATFORM", raising=False)
    monkeypatch.delenv("WAYLAND_DISPLAY", raising=False)
    monkeypatch.setenv("DISPLAY", display)
    assert display_problem() == ""

    monkeypatch.setenv("DISPLAY", ":4711")

    assert "doesn't answer" in display_problem()


@pytest.mark.xvfb
def test_the_readmes_command_opens_the_demo(display, tmp_path):
    """`./run.sh --demo` as a process of its own: it stays open and makes its logbook."""
    env = {**os.environ, "DISPLAY": display, "QT_QPA_PLATFORM": "xcb", "XDG_DATA_HOME": str(tmp_path)}
    process = subprocess.Popen([sys.executable, "-m", "fenmist", "--demo"], env=env)
    made = tmp_path / "fenmist" / "demo.fenlog"
    end = time.monotonic() + 30
    while not made.exists() and process.poll() is None and time.monotonic() < end:
        time.sleep(0.1)
    time.sleep(1.0)

    still_open = process.poll() is None
    process.terminate()
    process.wait()
    assert made.exists()
    assert still_open
