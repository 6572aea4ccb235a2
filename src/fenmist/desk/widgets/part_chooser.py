"""A part out of the kit: typed to find, by kind, with mouse and keys."""

from collections.abc import Callable, Iterable
from itertools import groupby

from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from fenmist.desk.theme import px
from fenmist.desk.widgets.labels import label
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.kit.part import Part

WIDTH_PX, ROW_PX, MOST_ROWS = 340, 26, 14
_MOVES = {
    Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: MOST_ROWS - 2, Qt.Key.Key_PageUp: 2 - MOST_ROWS,
}  # fmt: skip


class PartChooser(QFrame):
    """Pops up over the line; what is typed must stand in the part's name, serial number or kind, word by word.

    Parameters
    ----------
    parts : iterable of Part
        In the order offered; kinds stay together.
    chosen : callable
        Given the part.
    """

    def __init__(self, parent: QWidget, title: str, parts: Iterable[Part], chosen: Callable[[Part], None]) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("chooser")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        kept = tuple(parts)
        first = list(dict.fromkeys(part.kind for part in kept))
        self._parts = sorted(kept, key=lambda part: first.index(part.kind))
        self._chosen = chosen
        self.field = LineEdit()
        self.field.setPlaceholderText("type a name or a kind")
        self.field.setAccessibleName(f"{title}: find a part")
        self.field.textChanged.connect(self._fill)
        self.field.installEventFilter(self)
        self.list = QListWidget()
        self.list.setAccessibleName("parts that fit")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemClicked.connect(self._take)
        self.said = label("Nothing that fits matches.", "second")
        box = QVBoxLayout(self)
        box.setContentsMargins(10, 8, 10, 10)
        box.setSpacing(6)
        for widget in (label(title, "second"), self.field, self.list, self.said):
            box.addWidget(widget)
        self.setFixedWidth(px(WIDTH_PX))
        self._fill("")

    def pop_up(self, at: QPoint) -> None:
        """Show it at a place on the screen, whole, with the keyboard in it."""
        self.adjustSize()
        room = self.screen().availableGeometry()
        x = max(room.left(), min(at.x(), room.right() - self.width()))
        self.move(x, max(room.top(), min(at.y(), room.bottom() - self.sizeHint().height())))
        self.show()
        self.field.setFocus()

    def _fill(self, text: str) -> None:
        words = text.lower().split()
        self.list.clear()
        fitting = [part for part in self._parts if all(word in _words(part) for word in words)]
        for kind, group in groupby(fitting, key=lambda part: part.kind):
            heading = QListWidgetItem(str(kind), self.list)
            heading.setFlags(Qt.ItemFlag.NoItemFlags)
            for part in group:
                item = QListWidgetItem(f"   {part.label}", self.list)
                item.setToolTip(f"{part.label}, {kind}{f', No. {part.serial}' if part.serial else ''}")
                item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{part.label}, {kind}")
                item.setData(Qt.ItemDataRole.UserRole, part)
        rows = min(self.list.count(), MOST_ROWS)
        self.list.setFixedHeight(px(ROW_PX) * rows + 4)
        self.list.setVisible(bool(fitting))
        self.said.setVisible(not fitting)
        self.list.setCurrentRow(1 if fitting else -1)
        self.adjustSize()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            key = Qt.Key(event.key())
            if key in _MOVES:
                self._move(_MOVES[key])
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take(self.list.currentItem())
                return True
        return super().eventFilter(watched, event)

    def _move(self, by: int) -> None:
        """So many parts further, headings passed over."""
        rows = [row for row in range(self.list.count()) if self.list.item(row).flags()]
        if rows:
            here = rows.index(self.list.currentRow()) if self.list.currentRow() in rows else 0
            self.list.setCurrentRow(rows[max(0, min(here + by, len(rows) - 1))])

    def _take(self, item: QListWidgetItem | None) -> None:
        part = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if part is not None:
            self.close()
            self._chosen(part)


def _words(part: Part) -> str:
    return f"{part.label} {part.serial} {part.kind}".lower()
