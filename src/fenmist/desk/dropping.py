"""What becomes of a file that is dropped on the window, or opened from it."""

import sys
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QProcess

from fenmist.desk.filing import CAPTURES, PICTURES, TABLES, TOUCHSTONES
from fenmist.desk.stepnumbers import READINGS

if TYPE_CHECKING:
    from fenmist.desk.shell import Shell


EVERYTHING = tuple(dict.fromkeys((".json", ".fenlog", *CAPTURES, *TOUCHSTONES, *TABLES, *PICTURES)))
"""Endings of all that has a place here."""


def take_dropped(shell: "Shell", path: Path) -> None:
    """Take a job, a capture, a photo, a table or a logbook where it belongs; what is none of them is said."""
    name = path.name.lower()
    if name.endswith(".json"):
        shell.go("logbook")
        shell.logbook.take_in(path)
    elif name.endswith(".fenlog"):
        QProcess.startDetached(sys.executable, ["-m", "fenmist", str(path)])
    elif name.endswith(PICTURES) and shell.bench is not None:
        shell.go_step(0)
        shell.bench.step.take_photo(path)
    elif name.endswith(TOUCHSTONES) or (name.endswith(TABLES) and shell.here == "kit"):
        shell.go("kit")
        shell.kit.open_table(path)
    elif name.endswith(CAPTURES) and shell.bench is not None:
        shell.go_step(READINGS)
        shell.bench.step.open_capture(path)
    else:
        shell.say(f"{path.name} can't be opened here. A job's .json, a .fenlog, a capture, a table or a photo can.")
