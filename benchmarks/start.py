"""From start to the painted list, into the job that was open last, and to a typed digit; against a bare Qt window.

Processor time of processes of their own, taken in turn, so that what else the machine does meets all of them.
"""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

RUNS = 7

_BARE = """
import numpy
from PySide6.QtWidgets import QApplication, QLabel
app = QApplication([])
window = QLabel("bare")
window.resize(1280, 800)
window.show()
app.processEvents()
window.grab()
"""

_LIST = """
import sys
from pathlib import Path
from fenmist.desk.app import Start, application
app = application()
from PySide6.QtCore import QSettings
start = Start(app)
start.settings = QSettings(sys.argv[1] + ".ini", QSettings.Format.IniFormat)
assert start.open(Path(sys.argv[1]))
shell = start.shell
app.processEvents()
shell.grab()
"""

_REMEMBERED = _LIST + "assert shell.bench is not None and shell.bench.isVisible()\n"

_DIGIT = (
    _REMEMBERED
    + """
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
QTest.keyClicks(QApplication.focusWidget(), "6")
app.processEvents()
shell.grab()
assert QApplication.focusWidget().text() == "6"
"""
)

_LEAVE = (
    _LIST
    + """
from fenmist.desk.stepnumbers import READINGS
shell.open_job("demo-teal")
shell.go_step(READINGS)
app.processEvents()
shell.close()
start.end()
"""
)


def lines() -> list[str]:
    """The three ratios, with times in ms."""
    from benchmarks.jobs import demo_copy

    with tempfile.TemporaryDirectory() as folder:
        fresh, left = (demo_copy(Path(folder) / name) for name in ("demo.fenlog", "left.fenlog"))
        _seconds(_LIST, fresh)  # files and bytecode are warm
        _seconds(_LEAVE, left)
        kinds = {"bare": (_BARE, fresh), "list": (_LIST, fresh), "job": (_REMEMBERED, left), "digit": (_DIGIT, left)}
        times: dict[str, list[float]] = {name: [] for name in kinds}
        for _ in range(RUNS):
            for name, (code, path) in kinds.items():
                times[name].append(_seconds(code, path))
    bare, *others = (statistics.median(found) for found in times.values())
    said = (("painted list", 1.5), ("remembered job", 2.0), ("first digit", 2.5))
    return [
        f"start, {name}: {1e3 * taken:.0f} ms, bare window with numpy {1e3 * bare:.0f} ms: {taken / bare:.2f}x "
        f"(aim {aim:g}x)"
        for (name, aim), taken in zip(said, others, strict=True)
    ]


def _seconds(code: str, path: Path) -> float:
    """Processor time of a process."""
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    env.pop("OPENBLAS_NUM_THREADS", None)  # set by Fenmist for itself; a bare window has what it comes with
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run([sys.executable, "-c", code, str(path)], check=True, env=env, stderr=subprocess.DEVNULL)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
