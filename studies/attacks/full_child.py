"""Readings entered on a disk that fills up and empties again; each is told on standard output once it was acknowledged.

full_child.py LOGBOOK SECOND_FOLDER SEED
"""

import os
import random
import sys
from pathlib import Path

from fenmist.errors import FenmistError
from fenmist.kit.generic import starter_shelf
from fenmist.procedures.comparison.make import cross_check, plan_points
from fenmist.reading.event import Slot
from fenmist.session.session import Session
from fenmist.units.moment import moment_from_text


def main(path: Path, second: Path, seed: int) -> None:
    """Enter until killed, or until a thousand readings were tried."""
    rng = random.Random(seed)
    session = Session(path, second_folder=second)
    if not session.logbook.has_job("job"):
        plan = plan_points([7e6 + 1e3 * n for n in range(50)], [100.0], "200", repeats=20)
        made = cross_check(
            "job", "full", starter_shelf(), plan, created_at=moment_from_text("2026-01-01T00:00:00+00:00")
        )
        session.logbook.add_job(made)
    job = session.open("job")
    ballast = path.parent / f"ballast{seed}"
    for number in range(1000):
        if rng.random() < 0.08:
            _fill(ballast, rng.choice((0, 1, 100, 500, 1000, 4096, 9000)))
        elif rng.random() < 0.05:
            ballast.unlink(missing_ok=True)
        text = f"{seed}{number:04d}"
        try:
            job.enter(Slot(f"p{1 + number % 50}", 1 + number // 50, 0), text)
        except FenmistError:
            continue  # said: it was not kept
        os.write(1, f"{text}\n".encode())


def _fill(ballast: Path, leave: int) -> None:
    """Take all the room but so many bytes."""
    room = os.statvfs(ballast.parent)
    free = room.f_bavail * room.f_frsize
    with ballast.open("ab") as file:
        try:
            file.write(b"x" * max(free - leave, 0))
        except OSError:
            return


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]), int(sys.argv[3]))
