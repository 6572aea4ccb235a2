"""Jobs that are measured: the demonstration's bench of three references, with as many points as are wanted."""

import atexit
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from functools import cache
from pathlib import Path

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.demo.world import make_demo
from fenmist.reading.event import Slot
from fenmist.session.session import Session


@cache
def _demonstration() -> Path:
    folder = tempfile.TemporaryDirectory()
    atexit.register(folder.cleanup)
    made = Path(folder.name) / "demo.fenlog"
    make_demo(made)
    return made


def demo_copy(path: Path) -> Path:
    """A copy of the demonstration's logbook, which is made once a run."""
    shutil.copy(_demonstration(), path)
    return path


@cache
def _three() -> tuple[Job, dict[str, str]]:
    """The demonstration's job, and what stands in each channel at its first point."""
    with tempfile.TemporaryDirectory() as folder:
        session = Session(demo_copy(Path(folder) / "demo.fenlog"), second_folder=Path(folder))
        job = session.logbook.job("demo-whimbrel")
        session.close()
    first = job.plan[0]
    entries = (job.standing[Slot(first.id, 1, n)].entry for n in range(len(first.sequence)))
    return job, {entry.channel: entry.raw_text for entry in entries if entry is not None}


def three_references(points: int) -> Job:
    """A bench of scope, ammeter and sensor against a meter under a plan of so many frequencies; nothing read."""
    job, _ = _three()
    return replace(job, id="job", events=(), receipt=job.receipt, plan=tuple(_plan(job.plan[0], points)))


def _plan(first: PlanPoint, points: int) -> Iterator[PlanPoint]:
    for number, frequency in enumerate(np.linspace(2e6, 29e6, points), start=1):
        yield replace(first, id=f"p{number}", frequency_hz=float(frequency), repeats=1)


def typed(channel: str) -> str:
    """What is typed for a channel."""
    return _three()[1][channel]


@contextmanager
def read_session(points: int, but: int = 0) -> Iterator[Session]:
    """A logbook with the job of three references, all but so many points read."""
    with tempfile.TemporaryDirectory() as folder:
        session = Session(Path(folder) / "book.fenlog", second_folder=Path(folder))
        session.logbook.add_job(three_references(points))
        job = session.open("job")
        with session.logbook.together():
            for point in job.job.plan[: points - but]:
                for place, channel in enumerate(point.sequence):
                    job.enter(Slot(point.id, 1, place), typed(channel))
        yield session
        session.close()
