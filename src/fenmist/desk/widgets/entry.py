"""One entry of a reading: instrument, what is typed, its unit, and what follows from it."""

from typing import ClassVar

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from fenmist.desk.keypad import AFTER_COMMAND, Keypad
from fenmist.desk.theme import px
from fenmist.desk.widgets.labels import label, set_state, set_text
from fenmist.desk.widgets.line_edit import LineEdit


class EntryField(LineEdit):
    """A large field; Enter keeps, the keypad's other keys steer. In an empty field `/` waits for a digit.

    Where less than nothing can be shown (a level, a drifting zero) `-` begins a number; behind a blank, as in
    `-3 dB on +5`, `+` is a sign.
    """

    committed = Signal(str)
    steered = Signal(str)  # a name of `steering.COMMANDS`, "carrier", or "nudge ±1"

    _KEYS: ClassVar = {
        Qt.Key.Key_Up: "up", Qt.Key.Key_Down: "down",
        Qt.Key.Key_PageDown: "next point", Qt.Key.Key_PageUp: "former point",
    }  # fmt: skip

    def __init__(self, keypad: Keypad, *, is_signed: bool = False) -> None:
        super().__init__()
        self._keypad, self._is_signed = keypad, is_signed
        self.setProperty("role", "entry")
        self.setMaxLength(40)
        self.fresh = True  # nothing typed yet over what stands there

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, text = event.key(), event.text()
        shift = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.committed.emit(self.text())
        elif shift and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.steered.emit("nudge +1" if key == Qt.Key.Key_Up else "nudge -1")
        elif key in self._KEYS:
            self.steered.emit(self._KEYS[Qt.Key(key)])
        elif self.fresh and key == Qt.Key.Key_R and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.steered.emit("wire round" if shift else "wire channel")
        elif self.fresh and key == Qt.Key.Key_T and not event.modifiers():
            self.steered.emit("wire trace")
        elif text and text == self._keypad.repeat:
            self.steered.emit("repeat")
        elif text and text == self._keypad.carrier and not self._is_sign(text):
            self.steered.emit("carrier")
        elif self.text() == self._keypad.command and text in AFTER_COMMAND:
            self.setText("")
            self.fresh = True
            self.steered.emit(AFTER_COMMAND[text][0])
        elif text and text in (self._keypad.command, self._keypad.back) and self.fresh and not self._is_sign(text):
            self._start_command(text)
        else:
            if text and self.fresh:
                self.setText("")
            super().keyPressEvent(event)
            self.fresh = self.fresh and not text

    def _is_sign(self, text: str) -> bool:
        """Whether a key stands for the sign of a number here."""
        if text == "-":
            return self._is_signed and self.fresh
        return text == "+" and not self.fresh and self.text()[: self.cursorPosition()].endswith(" ")

    def _start_command(self, text: str) -> None:
        if text == self._keypad.back:
            self.steered.emit("back")
        else:
            self.fresh = False
            self.setText(text)
            self.textEdited.emit(text)


LONG = 9
"""Letters of an entry above which they are smaller, so that all of them stand there."""

NAME_LINES = 2.4
"""Width of a name beside its field, in lines: what wrapping loses makes it three."""


class EntryRow(QWidget):
    """The field with its name at the left and what follows at the right."""

    def __init__(self, name: str, unit: str, keypad: Keypad, *, is_signed: bool = False) -> None:
        super().__init__()
        self.name = label(name, "section", name, wrap=True)
        self.name.setFixedWidth(px(108))
        self.name.setText(_fitted(name, self.name))
        self.name.setToolTip(name)
        self.field = EntryField(keypad, is_signed=is_signed)
        self.field.setAccessibleName(f"{name}, in {unit}")
        self.field.setFixedWidth(px(222, at_arm=True))
        self.unit = label(unit, "unit")
        self.unit.setFixedWidth(px(32))
        self.beside = label("", "second", wrap=True)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 3, 0, 3)
        box.setSpacing(10)
        box.addWidget(self.name)
        box.addWidget(self.field)
        box.addWidget(self.unit)
        box.addWidget(self.beside, 1)

    def show_entry(self, text: str, is_open: bool, beside: str) -> None:
        """Show what stands here; a field that is being typed into is left alone."""
        if self.field.fresh and self.field.text() != text:
            self.field.setText(text)
        set_state(self.field, open=is_open, long=self.field.fresh and len(text) > LONG)
        set_text(self.beside, beside)


def _fitted(name: str, place: QLabel) -> str:
    """A name in no more lines than stand beside a field, each word no wider than its label."""
    place.ensurePolished()
    metrics, width, cut = place.fontMetrics(), place.maximumWidth(), Qt.TextElideMode.ElideRight
    whole = metrics.elidedText(name, cut, int(NAME_LINES * width))
    return " ".join(metrics.elidedText(word, cut, width) for word in whole.split())
