"""Starts Fenmist on one logbook after the other, as `python -m fenmist` does, and tells what each window says.

    start_child.py CASES.json

CASES.json is a list of [logbook, settings folder]. For each a line of JSON is printed: the exit code and the words that
stand in the window; a traceback of whatever was not said in words stands on standard error.
"""

import json
import os
import sys
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from PySide6.QtCore import QSettings, QTimer
from PySide6.QtWidgets import QApplication, QLabel, QPushButton, QTableWidget, QWidget

from fenmist.__main__ import main

LOOK_MS = 60


def words(window: QWidget) -> str:
    """All that can be read in a window."""
    said: list[QLabel | QPushButton] = [*window.findChildren(QLabel), *window.findChildren(QPushButton)]
    found = [item.text() for item in said if item.isVisible()]
    for table in window.findChildren(QTableWidget):
        if table.isVisible():
            cells = (table.item(r, c) for r in range(table.rowCount()) for c in range(table.columnCount()))
            found += [cell.text() for cell in cells if cell is not None]
    return " | ".join(text for text in found if text)


def one(application: QApplication, path: str, settings: str) -> None:
    """Start, look, close."""
    QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, settings)
    seen: list[str] = []

    def look() -> None:
        windows = [item for item in application.topLevelWidgets() if item.isVisible() and item.windowTitle()]
        said = " || ".join(words(window) for window in windows)
        if "still to come" in said:  # the list is made anew
            QTimer.singleShot(LOOK_MS, look)
            return
        seen.append(said)
        application.closeAllWindows()
        QTimer.singleShot(0, application.quit)

    QTimer.singleShot(LOOK_MS, look)
    code = main([path])
    print(json.dumps({"code": code, "words": " ".join(seen)}), flush=True)
    sys.excepthook = sys.__excepthook__


if __name__ == "__main__":
    made = QApplication(["fenmist"])
    for case in json.loads(Path(sys.argv[1]).read_text()):
        one(made, *case)
