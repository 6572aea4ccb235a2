"""A logbook of 100,000 readings: its list, and a job of 300 points with its results, against reading the rows alone.

Results as the logbook keeps them, and worked out anew; those of three references against those of one.

The peer is sqlite3 reading the very rows that the screen needs: the summaries for the list, the job's definition and
events for the job.
"""

import os
import sqlite3
import statistics
import tempfile
import time
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from benchmarks import clock
from benchmarks.clock import in_turn_seconds, median_seconds
from benchmarks.jobs import read_session
from fenmist.units.moment import moment_from_text

if TYPE_CHECKING:
    from fenmist.reading.event import Event
    from fenmist.session.session import Session

JOBS, POINTS, ROUNDS = 167, 300, 1


def lines() -> list[str]:
    """The list, a search, and a job."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from fenmist.session.session import Session

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "book.fenlog"
        session = Session(path, second_folder=Path(folder))
        readings = _fill(session)
        session.summaries()
        made = [*_list_lines(session, readings), _row_line(session), _job_line(session), _three_line(session)]
        session.close()
    return made


def _fill(session: object) -> int:
    """Jobs of one written pattern under many names; returns how many readings there are."""
    import numpy as np

    from fenmist.kit.generic import starter_shelf
    from fenmist.procedures.comparison.make import cross_check, plan_points
    from fenmist.reading.event import Slot
    from fenmist.session.session import Session

    if not isinstance(session, Session):
        raise SystemExit("no session")
    plan = plan_points(np.linspace(2e6, 30e6, POINTS), [100.0], "200")
    first = cross_check(
        "job0", "bench 0", starter_shelf(), plan, created_at=moment_from_text("2026-01-01T00:00:00+00:00")
    )
    session.logbook.add_job(first)
    job = session.open("job0")
    for point in plan:
        job.enter(Slot(point.id, 1, 0), "200")
        job.enter(Slot(point.id, 1, 1), "99.5")
    for number in range(1, JOBS):
        events = tuple(_later(event, number, place) for place, event in enumerate(job.job.events))
        session.logbook.add_job(replace(job.job, id=f"job{number}", title=f"bench {number}", events=events))
    return JOBS * POINTS * 2 * ROUNDS


def _later(event: "Event", number: int, place: int) -> "Event":
    """The same event in the same job a fortnight later for each job before: a history is one of many days."""
    after = timedelta(days=14 * number)
    entry = event.entry
    if entry is not None and entry.observed_at is not None:
        entry = replace(entry, observed_at=entry.observed_at + after)
    return replace(event, id=f"{number}-{place}", at=event.at + after, entry=entry)


def _list_lines(session: object, readings: int) -> list[str]:
    from fenmist.session.session import Session

    if not isinstance(session, Session):
        raise SystemExit("no session")
    path = session.logbook.path

    def rows() -> None:
        connection = sqlite3.connect(path)
        connection.execute("SELECT id, created_at FROM job ORDER BY created_at DESC, id").fetchall()
        connection.execute("SELECT job, payload FROM summary").fetchall()
        connection.close()

    peer = median_seconds(rows, 7)
    listed = median_seconds(session.summaries, 7)
    searched = median_seconds(lambda: session.summaries("bench 99"), 7)
    return [
        f"list of {JOBS} jobs with {readings} readings: {1e3 * listed:.0f} ms = {listed / peer:.1f}x reading the rows; "
        f"a search {1e3 * searched:.0f} ms",
    ]


def _row_line(session: object) -> str:
    """An arrow key in the list, and the history that follows when the hands rest."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from fenmist.desk.places.logbook import HANDS_REST_MS, LogbookPlace
    from fenmist.desk.theme import load_fonts
    from fenmist.session.session import Session

    application = QApplication.instance() or QApplication([])
    load_fonts()
    if not isinstance(session, Session) or not isinstance(application, QApplication):
        raise SystemExit("no session")
    place = LogbookPlace(session)
    place.resize(1280, 700)
    place.show()
    place.enter()
    keys, rests = [], []
    for _ in range(min(9, clock.most_runs)):
        begun = time.process_time()
        QTest.keyClick(place.table, Qt.Key.Key_Down)
        application.processEvents()
        keys.append(time.process_time() - begun)
        begun = time.process_time()
        QTest.qWait(2 * HANDS_REST_MS)
        rests.append(time.process_time() - begun)
    place.close()
    key, later = statistics.median(keys), statistics.median(rests[1:] or rests)
    first = keys[0] - key + rests[0]  # on a slow machine hands have rested before the first key is done
    return (
        f"an arrow key in the list of {JOBS} jobs: {1e3 * key:.1f} ms of processor time to the row = {key / 0.016:.2f} "
        f"of a frame (aim 1), {1e3 * first:.0f} ms to the history of one meter with all of them, {1e3 * later:.0f} "
        "ms to that of another of its jobs (aim 100)"
    )


def _job_line(session: object) -> str:
    from fenmist.session.session import Session

    if not isinstance(session, Session):
        raise SystemExit("no session")
    path = session.logbook.path

    def rows() -> None:
        connection = sqlite3.connect(path)
        connection.execute(
            "SELECT payload FROM definition WHERE job = 'job9' ORDER BY revision DESC LIMIT 1"
        ).fetchone()
        connection.execute(
            "SELECT seq, id, kind, at, payload, chain_sha256 FROM event WHERE job = 'job9' ORDER BY seq"
        ).fetchall()
        connection.close()

    def again() -> None:
        view = session.open("job9").view
        if view.former is None:
            raise SystemExit("its results weren't kept")
        _ = view.result.stated

    works = (rows, lambda: session.logbook.job("job9"), again, lambda: _worked_out(session, "job9"))
    peer, read, shown, anew = in_turn_seconds(works, 15)
    return (
        f"a job of {POINTS} points: read and checked {1e3 * read:.0f} ms = {read / peer:.1f}x reading the rows "
        f"({1e3 * peer:.1f} ms), with its results as they were kept {1e3 * shown:.0f} ms = {shown / peer:.1f}x (aim "
        f"15x), worked out anew {1e3 * anew:.0f} ms = {anew / peer:.1f}x"
    )


def _worked_out(of: "Session", job_id: str) -> None:
    """As a window asks for results that aren't kept: what is to be drawn is drawn once it stands."""
    from fenmist.session.view import View

    _ = View(of.logbook.job(job_id), of.now(), most=1).result.stated


def _three_line(session: object) -> str:
    from fenmist.session.session import Session

    if not isinstance(session, Session):
        raise SystemExit("no session")
    with read_session(POINTS) as other:
        works = (lambda: _worked_out(session, "job9"), lambda: _worked_out(other, "job"))
        one, three = in_turn_seconds(works, 9)
    return (
        f"a job of {POINTS} points with three references: worked out anew, before points are drawn, "
        f"{1e3 * three:.0f} ms = {three / one:.1f}x that with one ({1e3 * one:.0f} ms)"
    )
