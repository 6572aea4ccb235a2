"""From start to the demo's job table painted and a typed digit on screen, against a bare Qt window with numpy."""

import os
import statistics
import subprocess
import sys
import tempfile
import time
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

_FENMIST = """
import sys
from pathlib import Path
from PySide6.QtCore import QSettings
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from fenmist.desk.bench import READINGS
from fenmist.desk.shell import Shell
from fenmist.desk.theme import ThemeHolder, load_fonts
from fenmist.session.session import Session
session = Session(Path(sys.argv[1]))
app = QApplication([])
load_fonts()
shell = Shell(session, ThemeHolder(app), QSettings(sys.argv[1] + ".ini", QSettings.Format.IniFormat))
shell.show()
app.processEvents()
shell.grab()
shell.open_job("demo-teal")
shell.go_step(READINGS)
QTest.keyClicks(QApplication.focusWidget(), "6")
app.processEvents()
shell.grab()
assert QApplication.focusWidget().text() == "6"
"""


def lines() -> list[str]:
    """The ratio, with both times in ms."""
    from fenmist.demo.world import make_demo

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "demo.fenlog"
        make_demo(path)
        bare, full = [], []
        for _ in range(RUNS):  # in turn, so that what else the machine does meets both
            bare.append(_seconds(_BARE))
            full.append(_seconds(_FENMIST, str(path)))
    a, b = statistics.median(bare), statistics.median(full)
    return [f"first paint: {1e3 * b:.0f} ms, bare window with numpy {1e3 * a:.0f} ms: {b / a:.2f}x (aim 2x)"]


def _seconds(code: str, *arguments: str) -> float:
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    begun = time.perf_counter()
    subprocess.run([sys.executable, "-c", code, *arguments], check=True, env=env, stderr=subprocess.DEVNULL)
    return time.perf_counter() - begun
