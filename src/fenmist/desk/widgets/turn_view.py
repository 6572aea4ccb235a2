"""Errors of one range over its readings, moved by a control: as found hollow, as it would be solid."""

import math

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSlider

from fenmist.desk.theme import ThemeHolder, font_scale, px, sans
from fenmist.desk.widgets.painted import Painted
from fenmist.methods.trim import Setting
from fenmist.session.adjust import Turned, place_said
from fenmist.units.display import percent

HIGH = 222
LEFT, RIGHT, TOP, FOOT = 58.0, 14.0, 12.0, 46.0


class TurnMarks(Painted):
    """Names below a slider, each with a tip where it stands; those that would meet stand lower."""

    def __init__(self, themes: ThemeHolder, slider: QSlider) -> None:
        super().__init__()
        self._themes, self._slider = themes, slider
        self._marks: list[tuple[int, str]] = []
        self.be_high(54)

    def show_marks(self, marks: list[tuple[int, str]]) -> None:
        """Marks by the slider's value."""
        self._marks = sorted(marks)
        self.setAccessibleDescription("; ".join(name for _, name in self._marks))
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter, theme = self.painter(), self._themes.theme
        begin = self.mapFromGlobal(self._slider.mapToGlobal(QPoint(0, 0))).x() / font_scale()
        wide, low = self._slider.width() / font_scale(), self._slider.minimum()
        span = self._slider.maximum() - low
        painter.setFont(sans(11))
        ends = [-1.0, -1.0, -1.0]
        for value, name in self._marks:
            x = begin + 7.0 + (wide - 14.0) * min(max((value - low) / span, 0.0), 1.0)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("rust"))
            painter.drawPolygon(QPolygonF([QPointF(x, 0.0), QPointF(x - 4.0, 7.0), QPointF(x + 4.0, 7.0)]))
            half = 3.2 * len(name)
            row = next((n for n, end in enumerate(ends) if x - half > end), len(ends) - 1)
            ends[row] = x + half + 8.0
            painter.setPen(theme.color("second"))
            box = QRectF(x - half - 4.0, 8.0 + 15.0 * row, 2.0 * half + 8.0, 15.0)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)


class TurnView(Painted):
    """Draws what a setting leaves at each reading of a range."""

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self.found: Turned | None = None
        self.setting: Setting | None = None
        self.be_high(HIGH)
        self.setMinimumWidth(px(360))
        self.setAccessibleName("errors as turned")

    def sizeHint(self) -> QSize:
        return QSize(px(620), px(HIGH))

    def show_turned(self, found: Turned | None, setting: Setting | None) -> None:
        """Draw a range as one setting leaves it, or nothing."""
        self.found, self.setting = found, setting
        said = "" if found is None or setting is None else "; ".join(
            f"{place_said(item)}: {percent(found.error(item, setting), plus=True)}" for item in found.turnable.places
        )  # fmt: skip
        self.setAccessibleDescription(said)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if self.found is None or self.setting is None:
            return
        painter, theme = self.painter(), self._themes.theme
        places = self.found.turnable.places
        was = [item.indicated_w / item.reference_w - 1.0 for item in places]
        now = [self.found.error(item, self.setting) for item in places]
        ends = [each + side * item.expanded_u for each, item in zip(now, places, strict=True) for side in (-1.0, 1.0)]
        most = 1.15 * max(map(abs, (*was, *ends, *(item.tolerance for item in places), 0.01)))
        wide = (self.across() - LEFT - RIGHT) / max(len(places), 1)

        def y(error: float) -> float:
            return TOP + (HIGH - TOP - FOOT) * (1.0 - error / most) / 2.0

        self._grid(painter, most, y)
        for number, item in enumerate(places):
            x = LEFT + wide * (number + 0.5)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("teal_wash"))
            painter.drawRect(QRectF(x - wide / 2, y(item.tolerance), wide, y(-item.tolerance) - y(item.tolerance)))
        for number, (item, before, after) in enumerate(zip(places, was, now, strict=True)):
            x = LEFT + wide * (number + 0.5)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.color("second"), 1.2))
            painter.drawEllipse(QPointF(x - 4.0, y(before)), 3.5, 3.5)
            ink = theme.color("teal" if abs(after) <= item.tolerance else "rust")
            painter.setPen(QPen(ink, 1.5))
            painter.drawLine(QPointF(x + 4.0, y(after - item.expanded_u)), QPointF(x + 4.0, y(after + item.expanded_u)))
            painter.setBrush(ink)
            painter.drawEllipse(QPointF(x + 4.0, y(after)), 4.0, 4.0)
            self._say(painter, place_said(item), x, wide, number)
        painter.setPen(QPen(theme.color("ink"), 1.0))
        painter.drawLine(QPointF(LEFT, y(0.0)), QPointF(self.across() - RIGHT, y(0.0)))

    def _grid(self, painter: QPainter, most: float, y: "object") -> None:
        theme = self._themes.theme
        painter.setFont(sans(11))
        step = 10.0 ** math.floor(math.log10(most))
        step = next(each for each in (step * 0.2, step * 0.5, step, step * 2.0) if most / each <= 4.5)
        for number in range(-math.floor(most / step), math.floor(most / step) + 1):
            at = y(number * step)  # type: ignore[operator]
            painter.setPen(QPen(theme.color("hairline"), 1.0))
            painter.drawLine(QPointF(LEFT, at), QPointF(self.across() - RIGHT, at))
            painter.setPen(theme.color("second"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(0.0, at - 9.0, LEFT - 8.0, 18.0), right, percent(number * step, plus=True))

    def _say(self, painter: QPainter, text: str, x: float, wide: float, number: int) -> None:
        """Level over frequency below a reading, or every so many where they are narrow."""
        every = max(math.ceil(62.0 / wide), 1)
        if number % every:
            return
        painter.setPen(self._themes.theme.color("second"))
        level, _, at = text.partition(" at ")
        for line, said in enumerate((level, at)):
            box = QRectF(x - 40.0, HIGH - FOOT + 6.0 + 16.0 * line, 80.0, 16.0)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, said)
