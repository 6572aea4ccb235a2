"""A budget as a sorted list of bars: share, source, what it rests on; and what if a line were known better.

A line is chosen with the arrow keys or a click; left and right halve and double its uncertainty, 0 takes it away,
Backspace takes all of it back. Enter or a click on the last line shows the smaller ones. Nothing of that is kept.
"""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QKeySequence, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QScrollArea

from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.labels import scrolled
from fenmist.desk.widgets.painted import Painted
from fenmist.reports.resultfile import text_table
from fenmist.uncertainty.estimate import BudgetRow
from fenmist.units.display import percent

_ROW = 25


class BudgetBars(Painted):
    """The largest lines of a budget; the rest is summed."""

    asked = Signal(dict)  # factor on the uncertainty by influence id: what if
    height_changed = Signal(int)
    chosen_moved = Signal(int)  # to a line whose middle is at so many pixels

    def __init__(self, themes: ThemeHolder, most: int = 7) -> None:
        super().__init__()
        self._themes = themes
        self._most = most
        self.lines: list[tuple[str, str, float]] = []
        self._ids: list[str] = []
        self._said: dict[str, tuple[str, str]] = {}  # label and basis by id
        self._rows: tuple[BudgetRow, ...] = ()
        self.known: dict[str, float] = {}
        self.all_shown = False
        self.chosen = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip("↑ ↓ choose a line · ← → halve or double its uncertainty · 0 treat as exact · ⌫ undo")
        self.setAccessibleName("uncertainty budget")

    def show_budget(self, rows: tuple[BudgetRow, ...]) -> None:
        """Show a budget, largest share first; while something is asked the lines stay in their places."""
        by_id = {row.influence.id: row for row in rows}
        if not self.known:
            self._rows = rows
            top = [row for row in rows[: self._most] if row.share > 5e-4]
            if self.all_shown:
                top = [row for row in rows if row.contribution > 0]
            self._ids = [row.influence.id for row in top]
            self._said = {
                row.influence.id: (row.influence.label, f"{row.influence.basis}, type {row.influence.kind}")
                for row in top
            }
        self.lines = [
            (*self._said[name], by_id[name].share if name in by_id else 0.0)  # known exactly, it has no row
            for name in self._ids
        ]
        self.chosen = min(self.chosen, max(len(self._ids) - 1, 0))
        rest = [row.share for row in rows if row.influence.id not in self._ids]
        if rest and not self.all_shown and any(rest):
            self.lines.append((f"{len(rest)} smaller ones: Enter shows", "", sum(rest)))
        self._describe()
        self.setMinimumHeight(px(_ROW * max(len(self.lines), 1)))
        self.height_changed.emit(self.minimumHeight())
        self.updateGeometry()
        self.update()

    def forget(self) -> None:
        """Take back what was asked, without telling."""
        self.known = {}

    def show_all(self) -> None:
        """Show every line, or the largest only again."""
        self.all_shown = not self.all_shown
        if not self.known:
            self.show_budget(self._rows)
        self._move(min(self.chosen, max(len(self._ids) - 1, 0)))

    def _move(self, place: int) -> None:
        self.chosen = place
        self.chosen_moved.emit(place * _ROW + _ROW // 2)
        self.update()

    def _describe(self) -> None:
        said = [
            f"{name} {percent(share)}{self._asked_text(place)}" for place, (name, _, share) in enumerate(self.lines)
        ]
        self.setAccessibleDescription("; ".join(said))

    def _asked_text(self, place: int) -> str:
        factor = self.known.get(self._ids[place]) if place < len(self._ids) else None
        if factor is None:
            return ""
        return ", known exactly" if factor == 0 else f", u × {factor:g}"

    def sizeHint(self) -> QSize:
        return QSize(px(420), px(_ROW * max(len(self.lines), 1)))

    # asking

    def copied(self) -> str:
        """The whole budget as text with headings, parted by tabs."""
        rows = [
            [row.influence.label, row.influence.basis, f"type {row.influence.kind}", f"{row.contribution:.4g}",
             percent(row.share)]
            for row in self._rows
        ]  # fmt: skip
        return text_table([["influence", "from", "evaluation", "contribution", "share"], *rows])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if event.matches(QKeySequence.StandardKey.Copy):
            QApplication.clipboard().setText(self.copied())
        elif not self._ids or event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._move((self.chosen + (1 if key == Qt.Key.Key_Down else -1)) % len(self._ids))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.show_all()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            factor = self.known.get(self._ids[self.chosen], 1.0) or (0.5 if key == Qt.Key.Key_Left else 1.0 / 16.0)
            self._ask(self.chosen, factor * (0.5 if key == Qt.Key.Key_Left else 2.0))
        elif key == Qt.Key.Key_0:
            self._ask(self.chosen, 0.0)
        elif key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete) and self.known:
            self.known = {}
            self.asked.emit({})
        else:
            super().keyPressEvent(event)

    def _ask(self, place: int, factor: float) -> None:
        self.known[self._ids[place]] = min(max(factor, 1.0 / 64.0), 64.0) if factor else 0.0
        if factor == 1.0:
            del self.known[self._ids[place]]
        self.asked.emit(dict(self.known))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = int(self.at(event).y() // _ROW)
        if len(self._ids) <= place < len(self.lines):
            self.show_all()
        elif place < len(self._ids):
            if place == self.chosen and self.hasFocus():
                self._ask(place, self.known.get(self._ids[place], 1.0) * 0.5)
            self.setFocus()
            self._move(place)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    # drawing

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = self.painter()
        name_width = min(250.0, self.across() * 0.56)
        for place in range(len(self.lines)):
            self._draw_line(painter, place, name_width)

    def _draw_line(self, painter: QPainter, place: int, name_width: float) -> None:
        theme = self._themes.theme
        name, basis, share = self.lines[place]
        top, asked = place * _ROW, self._asked_text(place).removeprefix(", ")
        if self.hasFocus() and place == self.chosen and place < len(self._ids):
            painter.setPen(QPen(theme.color("teal"), 1))
            painter.drawRect(QRectF(0.5, top + 0.5, self.across() - 1, _ROW - 1))
        painter.setFont(sans(12.5))
        painter.setPen(theme.color("rust" if asked else "ink"))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        said = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(name_width) - 10)
        painter.drawText(QRectF(4, top, name_width - 4, _ROW), flags, said)
        bar_width = max(self.across() - name_width - 60.0, 20.0)
        bar = QRectF(name_width, top + 6, max(bar_width * share, 1.0), _ROW - 12)
        painter.fillRect(bar, theme.color("rust" if asked else "teal"))
        painter.setPen(theme.color("rust" if asked else "second"))
        painter.setFont(sans(11))
        basis = asked or basis
        after = QRectF(bar.right() + 6, top, self.across() - bar.right() - 6, _ROW)
        shown = percent(share) if share >= 0.001 else f"below {percent(0.001)}" if share > 0 else percent(0.0)
        painter.drawText(after, flags, f"{shown}   {basis}" if after.width() > 60 + 6 * len(basis) else shown)


def scrolled_bars(bars: BudgetBars) -> QScrollArea:
    """A budget that scrolls where all its lines are shown; the chosen line stays in sight."""
    area = scrolled(bars)
    bars.height_changed.connect(lambda height: area.setFixedHeight(min(height, px(8 * _ROW))))
    bars.chosen_moved.connect(lambda y: area.ensureVisible(0, px(y), 0, px(_ROW)))
    return area
