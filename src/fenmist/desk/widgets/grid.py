"""A small table that is typed into: rows of texts with one empty row at the end to add by typing."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence, QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QApplication, QHeaderView, QTableWidget, QTableWidgetItem

from fenmist.desk.theme import load_letters, px


class Grid(QTableWidget):
    """Columns up to `editable` can be typed into; the others show what follows from them."""

    cell_typed = Signal(int, int, str)
    row_removed = Signal(int)
    pasted = Signal(int, int, object)  # row and column of the first cell, rows of texts
    row_chosen = Signal(int)  # the current row changed
    row_opened = Signal(int)  # Enter or a double click

    def __init__(self, headings: Sequence[str], editable: int, name: str, grows: bool = True) -> None:
        super().__init__(0, len(headings))
        self._editable = editable
        self._grows = grows
        self._filling = False
        self._typed = set(range(editable))
        self._headings = list(headings)
        self.setHorizontalHeaderLabels(list(headings))
        self.setAccessibleName(name)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(px(28))
        self.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.horizontalHeader().setHighlightSections(False)
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.horizontalHeader().setStretchLastSection(True)
        self.setShowGrid(False)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setTabKeyNavigation(False)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        if not editable:
            self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
            self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.itemChanged.connect(self._on_changed)
        self.cellDoubleClicked.connect(self._on_double_click)
        self.currentCellChanged.connect(self._on_current)

    def make_editable(self, column: int) -> None:
        """Let one more column be typed into (F2, or typing); Enter still opens the row."""
        self._typed.add(column)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.EditKeyPressed
            | QAbstractItemView.EditTrigger.AnyKeyPressed
            | QAbstractItemView.EditTrigger.DoubleClicked
        )

    def set_headings(self, headings: Sequence[str]) -> None:
        """Other columns than before, none of them typed into."""
        self._headings = list(headings)
        self.setColumnCount(len(headings))
        self.setHorizontalHeaderLabels(list(headings))

    def fill(self, rows: Sequence[Sequence[str]]) -> None:
        """Show these rows; the current cell stays where it was."""
        self._filling = True
        header = self.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)  # columns are measured once, not cell by cell
        load_letters("".join(cell for row in rows for cell in row))
        here = (self.currentRow(), self.currentColumn())
        self.setRowCount(len(rows) + (1 if self._grows else 0))
        for r in range(self.rowCount()):
            for c in range(self.columnCount()):
                text = rows[r][c] if r < len(rows) and c < len(rows[r]) else ""
                item = self.item(r, c)
                if item is None:
                    item = QTableWidgetItem()
                    if c not in self._typed:
                        item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
                    self.setItem(r, c, item)
                elif item.text() == text:
                    continue
                item.setText(text)
                item.setToolTip(text if len(text) > 30 else "")
        if here[0] >= 0:
            self.setCurrentCell(min(here[0], self.rowCount() - 1), max(here[1], 0))
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self._filling = False

    def resizeEvent(self, event: QResizeEvent) -> None:
        """What is chosen stays in sight where the table gives way."""
        super().resizeEvent(event)
        if self.currentItem() is not None:
            self.scrollToItem(self.currentItem())

    def fit_height(self) -> None:
        """Be as high as the rows, no more."""
        rows = self.rowCount() * self.verticalHeader().defaultSectionSize()
        self.setFixedHeight(rows + self.horizontalHeader().sizeHint().height() + 4)

    def texts(self, row: int) -> list[str]:
        """What stands in a row."""
        return [item.text() if (item := self.item(row, c)) else "" for c in range(self.columnCount())]

    def copied(self) -> str:
        """The whole table as text with headings, parted by tabs."""
        from fenmist.reports.resultfile import text_table  # on first use

        rows = [self.texts(r) for r in range(self.rowCount() - (1 if self._grows else 0))]
        return text_table([self._headings, *rows])

    def copy(self) -> None:
        """Put the table on the clipboard."""
        QApplication.clipboard().setText(self.copied())

    def _paste(self) -> None:
        """Tell of the rows on the clipboard, from the present cell on."""
        text = QApplication.clipboard().text()
        rows = [line.split("\t") for line in text.replace("\r", "").split("\n") if line.strip()]
        if rows:
            self.pasted.emit(max(self.currentRow(), 0), max(self.currentColumn(), 0), rows)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if event.matches(QKeySequence.StandardKey.Paste) and self._editable:
            self._paste()
            return
        if event.matches(QKeySequence.StandardKey.Copy) and self.state() != QAbstractItemView.State.EditingState:
            self.copy()
            return
        editing = self.state() == QAbstractItemView.State.EditingState
        if key == Qt.Key.Key_Delete and self._grows and not editing and self.currentRow() < self.rowCount() - 1:
            self.row_removed.emit(self.currentRow())
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and not editing:
            if self._editable and key == Qt.Key.Key_Space:
                super().keyPressEvent(event)
            elif self._editable:
                self.edit(self.currentIndex())
            else:
                self.row_opened.emit(self.currentRow())
        else:
            super().keyPressEvent(event)

    def _on_double_click(self, row: int, column: int) -> None:
        if not self._editable and column not in self._typed:
            self.row_opened.emit(row)

    def _on_changed(self, item: QTableWidgetItem) -> None:
        if not self._filling:
            self.cell_typed.emit(item.row(), item.column(), item.text().strip())

    def _on_current(self, row: int, _column: int, former: int, _former_column: int) -> None:
        if not self._filling and row != former and not self._editable:
            self.row_chosen.emit(row)
