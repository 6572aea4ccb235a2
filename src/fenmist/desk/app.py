"""Composition root: display, fonts, theme, logbook, window."""

import builtins
import ctypes
import gc
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from fenmist.errors import FenmistError, LockedLogbookError, RecordError

if TYPE_CHECKING:
    from PySide6.QtWidgets import QApplication

    from fenmist.desk.shell import Shell
    from fenmist.desk.single import Doorbell
    from fenmist.desk.startup import StartupTrouble
    from fenmist.session.session import Session

APPLICATION = "fenmist"
STANDS_AFTER_MS = 50
"""After which a window was painted."""

_SPACE = "Free some space, or check the folder's permissions."


def display_problem() -> str:
    """Why no window can be opened, in one line, or nothing."""
    platform = os.environ.get("QT_QPA_PLATFORM", "")
    if platform and not platform.startswith(("xcb", "wayland")):
        return ""
    if os.environ.get("WAYLAND_DISPLAY"):
        return ""
    display = os.environ.get("DISPLAY")
    if not display:
        return "there is no display: DISPLAY and WAYLAND_DISPLAY are not set. Start it from a desktop session."
    return "" if _display_answers(display) else f"the display “{display}” doesn't answer. Is its X server running?"


def _display_answers(display: str) -> bool:
    """Whether an X server takes a connection (asked before Qt, which would abort)."""
    try:
        xcb = ctypes.CDLL("libxcb.so.1")
    except OSError:  # Qt says so better
        return True
    xcb.xcb_connect.restype = ctypes.c_void_p
    xcb.xcb_connect.argtypes = [ctypes.c_char_p, ctypes.c_void_p]
    xcb.xcb_connection_has_error.argtypes = [ctypes.c_void_p]
    xcb.xcb_disconnect.argtypes = [ctypes.c_void_p]
    connection = xcb.xcb_connect(display.encode(), None)
    fine = bool(xcb.xcb_connection_has_error(connection) == 0)
    xcb.xcb_disconnect(connection)
    return fine


def data_folder() -> Path:
    """Where logbooks are kept unless a file is named."""
    from platformdirs import user_data_path

    return user_data_path(APPLICATION, appauthor=False)


def logbook_path(demo: bool, logbook: str | None) -> Path:
    """The logbook to open; the demonstration's is made on its first start."""
    if demo:
        path = Path(logbook) if logbook else data_folder() / "demo.fenlog"
        if not path.exists():
            from fenmist.demo.world import make_demo

            try:
                make_demo(path)
            except OSError as error:
                raise RecordError(f"The demonstration {path} could not be made: {error}.", _SPACE) from error
        return path
    return Path(logbook) if logbook else data_folder() / "logbook.fenlog"


class Start:
    """Opens a logbook's window, or the page that says why it can't be opened."""

    def __init__(self, application: "QApplication") -> None:
        from PySide6.QtCore import QSettings

        from fenmist.desk.theme import ThemeHolder

        self.application = application
        self.themes = ThemeHolder(application)
        self.settings = QSettings(QSettings.Format.IniFormat, QSettings.Scope.UserScope, APPLICATION, APPLICATION)
        self.session: Session | None = None
        self.shell: Shell | None = None
        self.doorbell: Doorbell | None = None
        self.trouble: StartupTrouble | None = None

    def open(self, path: Path) -> bool:
        """Open a logbook; false where another window has it and was raised."""
        from fenmist.session.session import Session

        try:
            self.session = Session(path)
        except LockedLogbookError as error:
            from fenmist.desk.single import raise_other  # brings its own library

            if raise_other(path):
                print(f"fenmist: {path} is open already; its window was raised.")
                return False
            self.show_trouble(path, error)
        except FenmistError as error:
            self.show_trouble(path, error)
        else:
            self._show_window(path, self.session)
        return True

    def _show_window(self, path: Path, session: "Session") -> None:
        from PySide6.QtCore import QTimer

        from fenmist.desk.faults import install
        from fenmist.desk.shell import Shell
        from fenmist.session.workable import showing

        try:
            with showing(path.name):
                self.shell = Shell(session, self.themes, self.settings)
        except FenmistError as error:
            session.close()
            self.session = None
            self.show_trouble(path, error)
            return
        install(self.shell.say, data_folder() / "faults.log")
        self.shell.show()
        QTimer.singleShot(STANDS_AFTER_MS, self.shell, lambda: self._once_it_stands(path))
        if self.trouble is not None:
            self.trouble.close()
            self.trouble = None

    def _once_it_stands(self, path: Path) -> None:
        """What the first picture of a window needn't wait for: other starts can raise it, and a copy of the day."""
        if self.session is None or self.shell is None:
            return
        from fenmist.desk.single import Doorbell  # brings its own library

        self.doorbell = Doorbell(path, self.shell.raise_it)
        said = self.session.back_up()
        if said:
            self.shell.say(said)

    def show_trouble(self, path: Path, error: FenmistError) -> None:
        """Say in a window, and on the terminal, why a logbook can't be opened."""
        from fenmist.desk.startup import StartupTrouble

        print(f"fenmist: {error}", file=sys.stderr)
        former, self.trouble = self.trouble, StartupTrouble(path, error)
        self.trouble.open_wanted.connect(self.open)
        self.trouble.demo_wanted.connect(lambda: self.open(logbook_path(demo=True, logbook=None)))
        self.trouble.show()
        if former is not None:
            former.close()

    def end(self) -> None:
        """Close what is open."""
        if self.doorbell is not None:
            self.doorbell.close()
        if self.session is not None:
            self.session.close()
            self.session = None


def application() -> "QApplication":
    """The one application with its name, icon and fonts.

    Python's cyclic collector rests from here on, for a start makes much and throws little away; `run` lets it go on.
    """
    gc.disable()
    plainly = builtins.__import__
    from PySide6.QtGui import QIcon
    from PySide6.QtWidgets import QApplication

    builtins.__import__ = plainly  # Qt's own reads the source of every module, for other spellings that we don't use
    from fenmist.desk.theme import load_fonts
    from fenmist.reports.fonts import icon_file

    here = QApplication.instance()
    made = here if isinstance(here, QApplication) else QApplication([APPLICATION])
    made.setApplicationName(APPLICATION)
    made.setDesktopFileName("io.fenmist.Fenmist")
    made.setWindowIcon(QIcon(str(icon_file("fenmist.svg"))))
    load_fonts()
    return made


def run(demo: bool = False, logbook: str | None = None) -> int:
    """Open the window; returns the exit code, 1 where there is no display."""
    problem = display_problem()
    if problem:
        print(f"fenmist: {problem}", file=sys.stderr)
        return 1
    here = application()
    start = Start(here)
    if not start.open(logbook_path(demo, logbook)):
        return 0
    from PySide6.QtCore import QTimer

    QTimer.singleShot(0, _collect_on)
    code = here.exec()
    start.end()
    return code


def _collect_on() -> None:
    """What a start made stays: no key waits until all of it was looked through again."""
    from fenmist.desk.runner import COLLECTOR

    gc.freeze()
    COLLECTOR.go_on()
