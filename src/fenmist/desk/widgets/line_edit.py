"""A line of text whose undo is the job's, once nothing is being typed.

Qt's own line edit keeps Ctrl+Z for itself even when it has nothing to undo.
"""

from PySide6.QtCore import QEvent
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QLineEdit

from fenmist.desk.theme import load_letters


class LineEdit(QLineEdit):
    """Gives undo and redo to the window while its text is not modified."""

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self.textChanged.connect(load_letters)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and not self.isModified():
            for key in (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo):
                if event.matches(key):
                    event.ignore()
                    return True
        return super().event(event)
