"""A process that works on a logbook, killed at any moment: what it acknowledged is there."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

from fenmist.reading.event import EventKind
from fenmist.session.session import Session

CHILD = Path(__file__).parent / "working_child.py"
ENV = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}


def killed(kind: str, path: Path, lines: int, delay: float, tmp_path: Path) -> list[list[str]]:
    """Run a child until so many acknowledgements came and a moment more; kill it; what it said."""
    env = {**ENV, **{name: str(tmp_path / name) for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME")}}
    with subprocess.Popen(
        [sys.executable, str(CHILD), kind, str(path)],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        env=env,
    ) as child:
        assert child.stdout is not None and child.stderr is not None
        said = []
        for line in child.stdout:
            said.append(line.split())
            if len(said) >= lines:
                break
        time.sleep(delay)
        child.send_signal(signal.SIGKILL)
        # a line that was cut off by the kill acknowledges nothing
        said += [line.split() for line in child.stdout.read().splitlines(keepends=True) if line.endswith("\n")]
        trouble = child.stderr.read()
    assert len(said) >= lines, trouble
    return said


def check(path: Path, said: list[list[str]], tmp_path: Path) -> None:
    """Everything acknowledged is in the logbook, which opens without a word."""
    session = Session(path, second_folder=tmp_path)
    job = session.logbook.job("job")
    texts = [e.entry.raw_text for e in job.events if e.kind is EventKind.ENTER and e.entry is not None]
    reasons = {e.reason for e in job.events if e.kind is EventKind.STRIKE}
    for what, *words in said:
        if what == "entry":
            assert words[0] in texts
        elif what == "strike":
            assert f"reason {words[0]}" in reasons
        elif what == "file":
            assert session.logbook.attachment(words[0]).startswith(b"file ")
    edits = [int(words[0]) for what, *words in said if what == "edit"]
    assert not edits or int(job.conditions.split()[1]) >= edits[-1]
    assert session.said_on_open == ""
    session.close()
