"""Composition root: display, fonts, theme, logbook, window."""

import ctypes
import ctypes.util
import os
import sys
from pathlib import Path

from fenmist.errors import FenmistError, LockedLogbookError

APPLICATION = "fenmist"


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
    name = ctypes.util.find_library("xcb")
    if name is None:
        return True
    xcb = ctypes.CDLL(name)
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

            make_demo(path)
        return path
    return Path(logbook) if logbook else data_folder() / "logbook.fenlog"


def run(demo: bool = False, logbook: str | None = None) -> int:
    """Open the window; returns the exit code, 1 where it can't be opened."""
    problem = display_problem()
    if problem:
        print(f"fenmist: {problem}", file=sys.stderr)
        return 1
    from PySide6.QtCore import QSettings
    from PySide6.QtGui import QIcon
    from PySide6.QtWidgets import QApplication

    from fenmist.desk.faults import install
    from fenmist.desk.shell import Shell
    from fenmist.desk.theme import ThemeHolder, load_fonts
    from fenmist.reports.fonts import icon_file
    from fenmist.session.session import Session

    application = QApplication.instance() or QApplication([APPLICATION])
    if not isinstance(application, QApplication):
        return 1
    try:
        path = logbook_path(demo, logbook)
        session = Session(path)
    except LockedLogbookError as error:
        from fenmist.desk.single import raise_other

        if raise_other(path):
            print(f"fenmist: {path} is open already; its window was raised.")
            return 0
        print(f"fenmist: {error}", file=sys.stderr)
        return 1
    except FenmistError as error:
        print(f"fenmist: {error}", file=sys.stderr)
        return 1
    application.setApplicationName(APPLICATION)
    application.setDesktopFileName("io.fenmist.Fenmist")
    application.setWindowIcon(QIcon(str(icon_file("fenmist.svg"))))
    load_fonts()
    settings = QSettings(QSettings.Format.IniFormat, QSettings.Scope.UserScope, APPLICATION, APPLICATION)
    shell = Shell(session, ThemeHolder(application), settings)
    install(shell.say, data_folder() / "faults.log")
    shell.show()
    from fenmist.desk.single import Doorbell

    doorbell = Doorbell(path, shell.raise_it)
    code = application.exec()
    doorbell.close()
    session.close()
    return int(code)
