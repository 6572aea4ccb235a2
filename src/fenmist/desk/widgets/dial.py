"""Needle echo: the dial drawn from its own scale, the needle at what is being typed.

A wrong arc is seen at once. Dragging the needle, or nudging it by quarter divisions, is the other way in.
"""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPicture

from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.painted import Painted
from fenmist.kit.part import Range
from fenmist.units.display import plain

_FROM, _TO = 152.0, 28.0
"""Degrees of the left and the right stop, counter-clockwise from the right."""


class Dial(Painted):
    """A drawn dial. Values are in the range's unit."""

    value_dragged = Signal(float)

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self._range: Range | None = None
        self._part = 0.25
        self.value: float | None = None
        self.draft = False
        self._recorded: tuple[tuple[object, ...], QPicture] | None = None
        self.setMinimumWidth(px(250))
        self.be_high(196)
        self.setAccessibleName("dial")

    def sizeHint(self) -> QSize:
        return QSize(px(320), px(196))

    def show_range(self, used: Range | None, part_of_division: float) -> None:
        """Draw the arc of a range."""
        self._range, self._part = used, part_of_division
        self.update()

    def show_value(self, value: float | None, draft: bool) -> None:
        """Put the needle at a value; a draft's needle is dashed."""
        self.value, self.draft = value, draft
        shown = "no value" if value is None else plain(value, self._range.unit if self._range else "")
        self.setAccessibleDescription(f"needle at {shown}")
        self.update()

    def nudged(self, steps: int) -> float | None:
        """The value so many quarter divisions further, or none without a scale."""
        if self._range is None or self._range.scale is None:
            return None
        value = self.value or 0.0
        # downwards the division below the needle counts
        probe = value * (1.0 - 1e-9) if steps < 0 else value
        step = self._range.scale.division_at(probe / self._range.factor) * self._range.factor * self._part
        lowest = self._range.scale.marks[0] * self._range.factor
        return min(max((round(value / step) + steps) * step, lowest), self._range.full_scale)

    def caption(self) -> str:
        """What the needle can be read to where it stands."""
        if self._range is None or self._range.scale is None:
            return ""
        printed = (self.value or 0.5 * self._range.full_scale) / self._range.factor
        step = self._range.scale.division_at(printed) * self._range.factor * self._part
        times = "" if self._range.factor == 1 else f" · printed × {self._range.factor:g}"
        part = {0.25: "a quarter", 0.5: "half a", 1.0: "a whole"}.get(self._part, f"{self._part:g} of a")
        return f"range {self._range.id}{times} · {part} division here is {plain(step, self._range.unit, 2)}"

    # geometry

    def _centre(self) -> tuple[QPointF, float]:
        radius = min(self.across() / 2.0 - 34.0, self.down() - 62.0)
        return QPointF(self.across() / 2.0, radius + 42.0), radius

    def _place(self, deflection: float, radius: float) -> QPointF:
        centre, _ = self._centre()
        angle = math.radians(_FROM + (_TO - _FROM) * deflection)
        return QPointF(centre.x() + radius * math.cos(angle), centre.y() - radius * math.sin(angle))

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._range is None or self._range.scale is None:
            return
        theme = self._themes.theme
        painter = self.painter()
        painter.drawPicture(0, 0, self._scale_picture())
        if self.value is not None:
            deflection = self._range.scale.deflection(self.value / self._range.factor)
            _, radius = self._centre()
            pen = QPen(theme.color("rust"), 2.0)
            if self.draft:
                pen.setStyle(Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawLine(self._place(deflection, 8.0), self._place(deflection, radius + 4.0))

    def _scale_picture(self) -> QPicture:
        """The arc with its marks, recorded once: only the needle moves with each key."""
        key = (self._range, self.across(), self.down(), self._themes.theme.name)
        if self._recorded is None or self._recorded[0] != key:
            picture = QPicture()
            painter = QPainter(picture)
            self._paint_scale(painter)
            painter.end()
            self._recorded = key, picture
        return self._recorded[1]

    def _paint_scale(self, painter: QPainter) -> None:
        if self._range is None or self._range.scale is None:
            return
        theme, scale = self._themes.theme, self._range.scale
        centre, radius = self._centre()
        painter.setPen(QPen(theme.color("ink"), 1.5))
        box = QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius)
        painter.drawArc(box, round(_TO * 16), round((_FROM - _TO) * 16))
        painter.setFont(sans(12))
        for value in scale.minor_marks():
            place = scale.deflection(value)
            painter.setPen(QPen(theme.color("second"), 1.0))
            painter.drawLine(self._place(place, radius), self._place(place, radius + 6.0))
        for value in scale.marks:
            place = scale.deflection(value)
            painter.setPen(QPen(theme.color("ink"), 1.5))
            painter.drawLine(self._place(place, radius), self._place(place, radius + 11.0))
            at = self._place(place, radius + 24.0)
            painter.drawText(QRectF(at.x() - 22, at.y() - 9, 44, 18), Qt.AlignmentFlag.AlignCenter, f"{value:g}")

    # dragging

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._drag_to(self.at(event))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._drag_to(self.at(event))

    def _drag_to(self, position: QPointF) -> None:
        if self._range is None or self._range.scale is None:
            return
        centre, _ = self._centre()
        angle = math.degrees(math.atan2(centre.y() - position.y(), position.x() - centre.x()))
        deflection = min(max((angle - _FROM) / (_TO - _FROM), 0.0), 1.0)
        printed = self._range.scale.value_at(deflection)
        step = self._range.scale.division_at(printed) * self._part
        self.value_dragged.emit(round(printed / step) * step * self._range.factor)
