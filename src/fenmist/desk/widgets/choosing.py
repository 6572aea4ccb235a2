"""A list that does something when one of it is chosen: arrow keys open it instead of doing one after the other."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox


class Choosing(QComboBox):
    """Nothing happens before Enter, or a click."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.showPopup()
        else:
            super().keyPressEvent(event)
