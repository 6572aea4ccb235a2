"""What a key in the readings step costs with three references: from the key event to painted digits, error and notes.

All keys of a run count, Enter too. The limit is one frame of 16 ms; the peer is the smallest plan. What follows when
the hands rest is told beside it: the notes of the whole job, and with them the drawing of the point where it bends, the
route and the chart; and the longest of these, for which a key in between has to wait.
"""

import os
import statistics
import time
from dataclasses import dataclass, field
from itertools import pairwise
from typing import TYPE_CHECKING

from benchmarks.jobs import read_session, typed

if TYPE_CHECKING:
    from collections.abc import Iterator

    from PySide6.QtWidgets import QApplication, QWidget

    from fenmist.desk.shell import Shell

FRAME_MS = 16.0
POINTS = (30, 300, 3000)
READ = 12
"""Points read while it is measured."""

HAND_S = 0.15
"""Between two keys of a quick hand; what follows a burst of keys (chart, notes of the whole job) falls in there."""

WAIT_S = 0.002
"""Between two looks whether anything is due."""

PAINTED_S = 0.03
"""From where nothing is due any more until all of it is laid out and painted."""


@dataclass
class _Spent:
    """Processor time in ms."""

    digits: list[float] = field(default_factory=list)
    enters: list[float] = field(default_factory=list)
    notes: list[float] = field(default_factory=list)  # of the whole job, once the hands rest
    rests: list[float] = field(default_factory=list)  # all that follows, these among it
    waits: list[float] = field(default_factory=list)  # the longest piece of it


def lines() -> list[str]:
    """A line per size of plan."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtWidgets import QApplication

    from fenmist.desk.theme import load_fonts

    application = QApplication.instance() or QApplication([])
    load_fonts()
    if not isinstance(application, QApplication):
        raise SystemExit("no application")
    spent = {points: _measured(application, points) for points in POINTS}
    first = _p95(spent[POINTS[0]])
    return [_line(points, it, _p95(it) / first) for points, it in spent.items()]


def _line(points: int, spent: _Spent, growth: float) -> str:
    p95, median = _p95(spent), statistics.median
    return (
        f"a key at {points} points with three references: p95 {p95:.1f} ms of processor time = {p95 / FRAME_MS:.2f} of "
        f"a frame (aim 1), {growth:.1f}x that at {POINTS[0]} points (median of digits {median(spent.digits):.1f}, of "
        f"Enter {median(spent.enters):.1f} ms); at rest all notes {median(spent.notes):.0f} ms (aim "
        f"{100 if points <= 300 else 1000}), with the point's drawing, route and chart {median(spent.rests):.0f} ms, "
        f"the longest piece {median(spent.waits):.0f} ms"
    )


def _p95(spent: _Spent) -> float:
    return statistics.quantiles([*spent.digits, *spent.enters], n=20)[18]


def _measured(application: "QApplication", points: int) -> _Spent:
    from pathlib import Path

    from PySide6.QtCore import QSettings, Qt
    from PySide6.QtTest import QTest

    from fenmist.desk.shell import Shell
    from fenmist.desk.stepnumbers import READINGS
    from fenmist.desk.theme import ThemeHolder

    spent = _Spent()
    with read_session(points, READ) as session:
        settings = QSettings(str(Path(session.logbook.path).with_suffix(".ini")), QSettings.Format.IniFormat)
        shell = Shell(session, ThemeHolder(application), settings)
        shell.show()
        shell.open_job("job")
        shell.go_step(READINGS)
        _settle(application, shell, 1.0)
        plan = session.logbook.job("job").plan
        for point in plan[-READ:]:
            for channel in point.sequence:
                for key in typed(channel):
                    _settle(application, shell, HAND_S)
                    begun = time.process_time()
                    QTest.keyClicks(_focus(), key)
                    application.processEvents()
                    spent.digits.append(1e3 * (time.process_time() - begun))
                _settle(application, shell, HAND_S)
                begun = time.process_time()
                QTest.keyClick(_focus(), Qt.Key.Key_Enter)
                application.processEvents()
                spent.enters.append(1e3 * (time.process_time() - begun))
            _rest(application, shell, spent)
        shell.close()
    return spent


def _rest(application: "QApplication", shell: "Shell", spent: _Spent) -> None:
    """What follows when the hands rest; results and notes are asked for one by one here, and then they are there."""
    if shell.bench is None:
        raise SystemExit("no bench")
    view = shell.bench.job.view
    begun = time.process_time()
    _ = view.result
    drawn, rules = time.process_time() - begun, _pieces(view.judging())
    follows = _settle(application, shell, 0.0)
    spent.notes.append(1e3 * sum(rules))
    spent.rests.append(1e3 * (time.process_time() - begun))
    spent.waits.append(1e3 * max(drawn, *rules, follows))


def _pieces(steps: "Iterator[None]") -> list[float]:
    """Seconds of processor time of each step of something."""
    times = [time.process_time()]
    times += [time.process_time() for _ in steps]
    times.append(time.process_time())
    return [after - before for before, after in pairwise(times)]


def _focus() -> "QWidget":
    from PySide6.QtWidgets import QApplication

    widget = QApplication.focusWidget()
    if widget is None:
        raise SystemExit("nothing has the keyboard")
    return widget


def _settle(application: "QApplication", shell: "Shell", seconds: float) -> float:
    """Let so many seconds pass and what follows be done and painted; waiting itself costs no processor time.

    Returns the longest piece of it, in seconds of processor time.
    """
    end, longest = time.monotonic() + seconds, 0.0
    while True:
        behind = shell.bench is not None and shell.bench.is_behind
        begun = time.process_time()
        application.processEvents()
        longest = max(longest, time.process_time() - begun)
        now = time.monotonic()
        if behind:
            end = max(end, now + PAINTED_S)
        if now >= end:
            return longest
        time.sleep(WAIT_S)
