"""What a bench would reach over a span, as a strip: where it decides, where it can't, where nothing can be read."""

from collections.abc import Sequence

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPen
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from fenmist.calibration.prediction import Predicted, reached
from fenmist.desk.theme import ThemeHolder, px

ROLE = Qt.ItemDataRole.UserRole


class Strip(QStyledItemDelegate):
    """Draws the predictions that lie under `ROLE`: a wash where a claim is decided, an outline where it can't be."""

    def __init__(self, themes: ThemeHolder, parent: QWidget) -> None:
        super().__init__(parent)
        self._themes = themes

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        points: Sequence[Predicted] = index.data(ROLE) or ()
        theme = self._themes.theme
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(option.rect, theme.color("teal_wash"))
        painter.setPen(QPen(theme.color("hairline"), 1))
        painter.drawLine(option.rect.bottomLeft(), option.rect.bottomRight())
        rect = QRectF(option.rect).adjusted(px(2), px(7), -px(10), -px(7))
        width = rect.width() / max(len(points), 1)
        for place, point in enumerate(points):
            cell = QRectF(rect.left() + place * width, rect.top(), width - px(3), rect.height())
            self._cell(painter, cell, point)
        painter.restore()

    def _cell(self, painter: QPainter, cell: QRectF, point: Predicted) -> None:
        theme = self._themes.theme
        if point.blocked:
            painter.setPen(QPen(theme.color("second"), 1))
            painter.setBrush(QBrush(theme.color("hairline"), Qt.BrushStyle.BDiagPattern))
            painter.drawRect(cell)
            painter.setPen(theme.color("second"))
            painter.drawText(cell, Qt.AlignmentFlag.AlignCenter, "✕")
            return
        open_ = point.tolerance > 0 and not point.decides
        painter.setPen(QPen(theme.color("rust" if open_ else "teal"), 1.5 if open_ else 1.0))
        painter.setBrush(theme.color("paper") if open_ else theme.color("teal_wash"))
        painter.drawRect(cell)
        painter.setPen(theme.color("rust" if open_ else "ink"))
        text = reached(point.expanded_u, point.unit) if cell.width() > px(40) else ""
        painter.drawText(cell, Qt.AlignmentFlag.AlignCenter, text)
