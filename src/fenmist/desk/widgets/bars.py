"""A budget as a sorted list of bars: share, source, what it rests on."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from fenmist.desk.theme import ThemeHolder, sans
from fenmist.uncertainty.estimate import BudgetRow
from fenmist.units.display import percent

_ROW = 25


class BudgetBars(QWidget):
    """The largest lines of a budget; the rest is summed."""

    def __init__(self, themes: ThemeHolder, most: int = 7) -> None:
        super().__init__()
        self._themes = themes
        self._most = most
        self.lines: list[tuple[str, str, float]] = []
        self.setAccessibleName("uncertainty budget")

    def show_budget(self, rows: tuple[BudgetRow, ...]) -> None:
        """Show a budget, largest share first."""
        top, rest = rows[: self._most], rows[self._most :]
        self.lines = [
            (row.influence.label, f"{row.influence.basis}, type {row.influence.kind}", row.share)
            for row in top
            if row.share > 5e-4
        ]
        small = sum(row.share for row in rest)
        if small > 5e-5:
            self.lines.append((f"{len(rest)} smaller ones", "", small))
        self.setAccessibleDescription("; ".join(f"{name} {percent(share)}" for name, _, share in self.lines))
        self.setMinimumHeight(_ROW * max(len(self.lines), 1))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(420, _ROW * max(len(self.lines), 1))

    def paintEvent(self, _: QPaintEvent) -> None:
        theme = self._themes.theme
        painter = QPainter(self)
        name_width = min(250.0, self.width() * 0.56)
        bar_width = max(self.width() - name_width - 60.0, 20.0)
        for number, (name, basis, share) in enumerate(self.lines):
            top = number * _ROW
            painter.setFont(sans(12.5))
            painter.setPen(theme.color("ink"))
            flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
            said = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(name_width) - 6)
            painter.drawText(QRectF(0, top, name_width, _ROW), flags, said)
            bar = QRectF(name_width, top + 6, max(bar_width * share, 1.0), _ROW - 12)
            painter.fillRect(bar, theme.color("teal"))
            painter.setPen(theme.color("second"))
            painter.setFont(sans(11))
            after = QRectF(bar.right() + 6, top, self.width() - bar.right() - 6, _ROW)
            shown = percent(share) if share >= 0.001 else f"below {percent(0.001)}"
            text = f"{shown}   {basis}" if after.width() > 60 + 6 * len(basis) else shown
            painter.drawText(after, flags, text)
