"""Run by the durability tests: works on a logbook until it is killed, and says what was acknowledged, line by line.

working_child.py core LOGBOOK     commands on a job, of every kind
working_child.py window LOGBOOK   readings typed into the real readings step
"""

import itertools
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from fenmist.units.moment import moment_from_text

if TYPE_CHECKING:
    from fenmist.session.openjob import OpenJob
    from fenmist.session.session import Session

PLAN = 40
ROOT = Path(__file__).parents[2]


def job_in(session: "Session") -> "OpenJob":
    """The job that is worked on, begun where there is none."""
    from fenmist.kit.generic import starter_shelf
    from fenmist.procedures.comparison.make import cross_check, plan_points

    if not session.logbook.has_job("job"):
        plan = plan_points([1e6 * (2 + n) for n in range(PLAN)], [100.0], "200", repeats=50)
        made = cross_check(
            "job", "durable", starter_shelf(), plan, created_at=moment_from_text("2026-11-25T09:00:00+01:00")
        )
        session.logbook.add_job(made)
    return session.open("job")


def say(*words: object) -> None:
    """Acknowledge something."""
    print(*words, flush=True)


def core(path: Path) -> None:
    """Every kind of command that writes, each acknowledged when it returns."""
    from dataclasses import replace

    from fenmist.reading.event import Slot
    from fenmist.session.session import Session

    session = Session(path, second_folder=path.parent)
    job = job_in(session)
    done = len(job.job.events)
    for number in itertools.count(done + 1):
        point = f"p{number % PLAN + 1}"
        text = f"{100 + number}"
        slot = Slot(point, number // PLAN + 1, 0)
        job.enter(slot, text)
        say("entry", text)
        if number % 7 == 0:
            job.strike(slot, f"reason {number}")
            say("strike", number)
        if number % 11 == 0:
            job.edit(replace(job.job, conditions=f"note {number}"), "conditions")
            say("edit", number)
        if number % 13 == 0:
            say("file", job.attach(f"file {number}".encode(), "f.txt"))


def window(path: Path) -> None:
    """Digits and Enter in the readings step of the real window."""
    from PySide6.QtWidgets import QApplication

    application = QApplication([])
    from fenmist.desk.theme import load_fonts

    load_fonts()
    from fenmist.session.session import Session

    session = Session(path, second_folder=path.parent)
    job_in(session)
    session.close()
    from support.desk import Hands

    hands = Hands(application, path)
    if hands.shell.bench is None:
        hands.shell.open_job("job")
    hands.press("alt+5")
    say("ready")
    for number in itertools.count(len(hands.shell.bench.job.job.events) + 1):
        text = f"{100 + number}"
        hands.type(text)
        hands.press("enter")
        say("entry", text)


if __name__ == "__main__":
    sys.path[:0] = [str(ROOT), str(ROOT / "tests")]
    {"core": core, "window": window}[sys.argv[1]](Path(sys.argv[2]))
