"""What a key in the readings step costs at 300 points: from the key event to painted digits, error and notes.

All keys of a run count, Enter too. The limit is one frame of 16 ms; the peer is the same at twelve points. What follows
when the hands rest (route, notes of the whole job, chart) is told beside it.
"""

import os
import statistics
import tempfile
import time
from pathlib import Path
from typing import TYPE_CHECKING

from fenmist.units.moment import moment_from_text

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

FRAME_MS = 16.0
MANY = 300
READ = 12
"""Points read while it is measured."""

HAND_S = 0.15
"""Between two keys of a quick hand; what follows a burst of keys (chart, notes of the whole job) falls in there."""


def lines() -> list[str]:
    """A line per size of plan."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtWidgets import QApplication

    from fenmist.desk.theme import load_fonts

    application = QApplication.instance() or QApplication([])
    load_fonts()
    return [_line(application, points) for points in (12 + READ, MANY)]


def _line(application: object, points: int) -> str:
    import numpy as np
    from PySide6.QtCore import QSettings, Qt
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from fenmist.desk.shell import Shell
    from fenmist.desk.stepnumbers import READINGS
    from fenmist.desk.theme import ThemeHolder
    from fenmist.kit.generic import starter_shelf
    from fenmist.procedures.comparison.make import cross_check, plan_points
    from fenmist.reading.event import Slot
    from fenmist.session.session import Session

    if not isinstance(application, QApplication):
        raise SystemExit("no application")
    with tempfile.TemporaryDirectory() as folder:
        session = Session(Path(folder) / "book.fenlog", second_folder=Path(folder))
        plan = plan_points(np.linspace(2e6, 30e6, points), [100.0], "200")
        session.logbook.add_job(
            cross_check("job", "bench", starter_shelf(), plan, created_at=moment_from_text("2026-01-01T00:00:00+00:00"))
        )
        job = session.open("job")
        for point in plan[:-READ]:
            job.enter(Slot(point.id, 1, 0), "200")
            job.enter(Slot(point.id, 1, 1), "99")
        settings = QSettings(str(Path(folder) / "s.ini"), QSettings.Format.IniFormat)
        shell = Shell(session, ThemeHolder(application), settings)
        shell.show()
        shell.open_job("job")
        shell.go_step(READINGS)
        _settle(application, shell, 1.0)
        spent: dict[str, list[float]] = {"digit": [], "Enter": []}
        worked: list[float] = []  # processor time: without what else the machine does
        rest: list[float] = []
        for number in range(READ):
            for text in (f"19{number % 10}", f"9{number % 10}.5"):
                for key in text:
                    _settle(application, shell, HAND_S)
                    begun, work = time.perf_counter(), time.process_time()
                    QTest.keyClicks(_focus(), key)
                    application.processEvents()
                    spent["digit"].append(1e3 * (time.perf_counter() - begun))
                    worked.append(1e3 * (time.process_time() - work))
                _settle(application, shell, HAND_S)
                begun, work = time.perf_counter(), time.process_time()
                QTest.keyClick(_focus(), Qt.Key.Key_Enter)
                application.processEvents()
                spent["Enter"].append(1e3 * (time.perf_counter() - begun))
                worked.append(1e3 * (time.process_time() - work))
            begun = time.perf_counter()
            if shell.bench is not None:
                shell.bench._catch_up()
            application.processEvents()
            rest.append(1e3 * (time.perf_counter() - begun))
            _settle(application, shell, 0.0)
        shell.close()
        session.close()
    every = [*spent["digit"], *spent["Enter"]]
    p95, own = statistics.quantiles(every, n=20)[18], statistics.quantiles(worked, n=20)[18]
    return (
        f"a key at {points} points: p95 {own:.1f} ms of processor time = {own / FRAME_MS:.2f} of a frame, {p95:.1f} ms "
        f"by the clock (median of digits {statistics.median(spent['digit']):.1f}, of Enter "
        f"{statistics.median(spent['Enter']):.1f} ms); at rest, route and all notes {statistics.median(rest):.0f} ms"
    )


def _focus() -> "QWidget":
    from PySide6.QtWidgets import QApplication

    widget = QApplication.focusWidget()
    if widget is None:
        raise SystemExit("nothing has the keyboard")
    return widget


def _settle(application: object, shell: object, seconds: float) -> None:
    end = time.monotonic() + seconds
    while time.monotonic() < end or getattr(shell.bench, "is_behind", False):  # type: ignore[attr-defined]
        application.processEvents()  # type: ignore[attr-defined]
