"""A pair of hands on the real window: keys, clicks, and time to settle."""

import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEvent, QPoint, QSettings, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QFileDialog, QLineEdit, QWidget

from fenmist.desk import bench
from fenmist.desk.places import begin
from fenmist.desk.shell import Shell
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.form import Form
from fenmist.hookup.templates import from_template
from fenmist.procedures.shelf import devices
from fenmist.procedures.table import room_of
from fenmist.session.session import UNNAMED, Session

DEMO_JOBS = 20
"""Jobs in the demonstration's logbook."""

KEYS = {
    "enter": Qt.Key.Key_Enter, "return": Qt.Key.Key_Return, "tab": Qt.Key.Key_Tab, "esc": Qt.Key.Key_Escape,
    "left": Qt.Key.Key_Left, "right": Qt.Key.Key_Right, "up": Qt.Key.Key_Up, "down": Qt.Key.Key_Down,
    "home": Qt.Key.Key_Home, "end": Qt.Key.Key_End, "ins": Qt.Key.Key_Insert, "del": Qt.Key.Key_Delete,
    "pgup": Qt.Key.Key_PageUp, "pgdn": Qt.Key.Key_PageDown, "f1": Qt.Key.Key_F1, "f2": Qt.Key.Key_F2,
    "f5": Qt.Key.Key_F5, "f6": Qt.Key.Key_F6, "space": Qt.Key.Key_Space,
    "backspace": Qt.Key.Key_Backspace, "f7": Qt.Key.Key_F7, "f8": Qt.Key.Key_F8, "f9": Qt.Key.Key_F9,
    "f10": Qt.Key.Key_F10, "f11": Qt.Key.Key_F11, "f12": Qt.Key.Key_F12,
}  # fmt: skip
MODIFIERS = {
    "ctrl": Qt.KeyboardModifier.ControlModifier, "alt": Qt.KeyboardModifier.AltModifier,
    "shift": Qt.KeyboardModifier.ShiftModifier, "pad": Qt.KeyboardModifier.KeypadModifier,
}  # fmt: skip


bench.HANDS_REST_MS = begin.HANDS_REST_MS = 5  # hands that never tire: what follows a rest follows soon


class Hands:
    """Drives a shell as its user would."""

    def __init__(self, application: QApplication, path: Path) -> None:
        self.application = application
        self.session = Session(path)
        settings = QSettings(str(path.with_suffix(".ini")), QSettings.Format.IniFormat)
        self.shell = Shell(self.session, ThemeHolder(application), settings)
        self.shell.show()
        self.shell.activateWindow()
        self.settle()

    def close(self) -> None:
        """Close window and logbook."""
        self.shell.close()
        self.settle()
        # widgets left over would be styled again with each window to come
        self.shell.deleteLater()
        self.application.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        self.session.close()

    def settle(self, seconds: float = 0.0) -> None:
        """Let events be handled, for at least so long, and until what follows a key has followed."""
        end = time.monotonic() + seconds
        while True:
            self.application.processEvents()
            here = self.shell.bench
            if time.monotonic() >= end and not (here is not None and here.is_behind):
                return
            time.sleep(0.005)

    def start_job(self, bench: str = "oscilloscope across the load", planned: str = "") -> None:
        """Begin a job about the kit's first meter on a bench, as its user would; planned later where nothing is."""
        self.press("ctrl+n")
        self.choose_bench(bench, planned)

    def job_begun(self) -> None:
        """The same without a plan and without the page that asks for it, which tests of their own go through."""
        room, kit = room_of("comparison"), self.session.kit
        template = next(item for item in room.templates if item.label == "oscilloscope across the load")
        device = devices(room, kit)[0]
        self.session.new_job(UNNAMED, device.id, from_template(template, kit, "line", device), "comparison", None)
        self.shell.show_begun()
        self.settle()

    def choose_bench(self, bench: str = "oscilloscope across the load", planned: str = "") -> None:
        """On the page that begins a job: type what is planned, go down to a bench, take it."""
        page = self.shell.places["begin"]
        page.frequencies.setFocus()
        self.press("ctrl+a", "del") if not planned else self.press("ctrl+a")
        self.type(planned)
        rows = page.table
        self.until(
            lambda: not page.is_looking or any(rows.texts(n)[0].startswith(bench) for n in range(rows.rowCount()))
        )
        rows.setFocus()
        while not rows.texts(rows.currentRow())[0].startswith(bench):
            assert page.is_looking or rows.currentRow() < rows.rowCount() - 1, f"there is no “{bench}”"
            self.press("down")
        self.press("enter")

    def until(self, condition: Callable[[], bool], seconds: float = 20.0) -> None:
        """Wait for something to become true."""
        end = time.monotonic() + seconds
        while not condition():
            assert time.monotonic() < end, "it didn't happen in time"
            self.settle(0.01)

    @property
    def focus(self) -> QWidget:
        """Where the keyboard is."""
        popup = QApplication.activePopupWidget()  # has the keys, as with the real ones
        widget = (popup.focusWidget() or popup) if popup is not None else QApplication.focusWidget()
        assert widget is not None
        return widget

    def type(self, text: str) -> None:
        """Type a text, key by key, where the keyboard is."""
        for letter in text:
            QTest.keyClicks(self.focus, letter)
        self.settle()

    def press(self, *names: str) -> None:
        """Press keys such as "enter", "ctrl+z", "alt+5", "shift+up"."""
        for name in names:
            *held, key = [part or "+" for part in name.removesuffix("+").split("+")] if name != "+" else ["+"]
            modifiers = Qt.KeyboardModifier.NoModifier
            for modifier in held:
                modifiers |= MODIFIERS[modifier]
            popup = QApplication.activePopupWidget()
            target = self.focus if popup or QApplication.focusWidget() else self.shell
            code = KEYS[key] if key in KEYS else Qt.Key(ord(key.upper()))
            QTest.keyClick(target, code, modifiers)
            self.settle()

    def tab_to(self, name: str) -> None:
        """Press Tab until something of that name has the keyboard."""
        for _ in range(60):
            if self.focus.accessibleName() == name:
                return
            self.press("tab")
        raise AssertionError(f"no Tab leads to {name}")

    def pad(self, *texts: str) -> None:
        """Type readings on the numeric pad alone: digits, point, signs, and Enter after each."""
        for text in texts:
            for letter in text:
                QTest.keyClick(self.focus, letter, Qt.KeyboardModifier.KeypadModifier)
            QTest.keyClick(self.focus, Qt.Key.Key_Enter, Qt.KeyboardModifier.KeypadModifier)
            self.settle()

    def read(self, *texts: str) -> None:
        """Type readings and keep each with Enter."""
        for text in texts:
            self.type(text)
            self.press("enter")

    def choose_file(self, path: Path) -> None:
        """Choose a file in the system's dialog that is open."""
        dialog = next(item for item in self.shell.findChildren(QFileDialog) if item.isVisible())
        field = dialog.findChild(QLineEdit, "fileNameEdit")
        field.selectAll()
        QTest.keyClicks(field, str(path))
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.shell.activateWindow()
        self.settle()

    def pick(self, box: QComboBox, text: str) -> None:
        """Choose in a list that drops down, by keyboard."""
        box.setFocus()
        rows = [box.itemText(row) for row in range(box.count())]
        for _ in range(abs(move := rows.index(text) - box.currentIndex())):
            self.press("down" if move > 0 else "up")

    def choose(self, box: QComboBox, text: str) -> None:
        """Open a list, go down to a line, take it."""
        box.setFocus()
        self.press("down", *["down"] * [box.itemText(row) for row in range(box.count())].index(text), "enter")
        self.settle(0.1)

    def problem(self, form: Form, field: str) -> str:
        """What is said beneath a field, as a screen reader says it; nothing where it is fine."""
        return form.inputs[field].accessibleDescription()

    def move_to(self, view: QWidget, at: QPoint) -> None:
        """Move the mouse."""
        QTest.mouseMove(view, at)
        self.settle(0.05)

    def click(self, widget: QWidget, at: QPoint | None = None) -> None:
        """Click with the left button."""
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=at or widget.rect().center())
        self.settle()
