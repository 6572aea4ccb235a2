"""A line of text whose undo is the job's, once nothing is being typed, and that never ends in mid-letter.

Qt's own line edit keeps Ctrl+Z for itself even when it has nothing to undo, and cuts what is too long where it may.
"""

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence, QPainter, QPaintEvent
from PySide6.QtWidgets import QLineEdit

from fenmist.desk.theme import load_letters


class LineEdit(QLineEdit):
    """Gives undo and redo to the window while its text is not modified."""

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self._tip = ""
        self.textChanged.connect(load_letters)
        self.textChanged.connect(self._say_whole)

    def _say_whole(self, text: str) -> None:
        """Its tip says what may not fit, unless it says something else."""
        if self.toolTip() in ("", self._tip):
            self._tip = text
            self.setToolTip(text)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.hasFocus() or not self.text():
            super().paintEvent(event)
            return
        from PySide6.QtWidgets import QStyle, QStyleOptionFrame  # bring names by the hundred: on first use

        option = QStyleOptionFrame()
        self.initStyleOption(option)
        room = self.style().subElementRect(QStyle.SubElement.SE_LineEditContents, option, self).adjusted(2, 0, -2, 0)
        if self.fontMetrics().horizontalAdvance(self.text()) <= room.width():
            super().paintEvent(event)
            return
        painter = QPainter(self)
        self.style().drawPrimitive(QStyle.PrimitiveElement.PE_PanelLineEdit, option, painter, self)
        shown = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, room.width())
        painter.setPen(self.palette().color(self.foregroundRole()))
        painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and not self.isModified():
            for key in (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo):
                if event.matches(key):
                    event.ignore()
                    return True
        return super().event(event)
