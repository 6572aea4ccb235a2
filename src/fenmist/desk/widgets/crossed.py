"""Two needles over one dial: forward and reflected power from their own scales, and the SWR on which they cross.

Each needle turns about its own pivot; lines of equal SWR run through where they cross. Dragging moves the needle that
is nearer.
"""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.painted import Painted
from fenmist.frozen import dataclass
from fenmist.kit.part import Range
from fenmist.reading.crossing import Crossing, crossing

_LOWEST, _HIGHEST = 6.0, 50.0
"""Degrees above the ground line of a needle at its stop and at full scale."""

_REACH = 1.8
"""Length of a needle over half the distance of both pivots."""

_LINES = (1.5, 2.0, 3.0)
"""SWRs whose lines are drawn."""

_STEPS = 20


@dataclass(frozen=True)
class Needle:
    """One of both: its range, where it stands, and whether that is still being typed."""

    used: Range
    value: float | None
    draft: bool = False

    @property
    def deflection(self) -> float | None:
        """0 at its stop, 1 at full scale."""
        if self.value is None or self.used.scale is None:
            return None
        return self.used.scale.deflection(self.value / self.used.factor)


class CrossedDial(Painted):
    """The drawn dial; forward turns about the left pivot, reflected about the right one."""

    value_dragged = Signal(bool, float)  # whether it is the reflected one; the value

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self._needles: tuple[Needle, Needle] | None = None
        self._part = 0.25
        self.setMinimumWidth(px(250))
        self.be_high(196)
        self.setAccessibleName("dial with two crossing needles")

    def sizeHint(self) -> QSize:
        return QSize(px(320), px(196))

    def show_needles(self, forward: Needle, reflected: Needle, part_of_division: float) -> None:
        """Put both needles where they stand."""
        self._needles, self._part = (forward, reflected), part_of_division
        self.setAccessibleDescription(self.caption())
        self.update()

    @property
    def crossing(self) -> Crossing | None:
        """Where both cross; none where one has no value."""
        if self._needles is None:
            return None
        forward, reflected = self._needles
        if forward.value is None or reflected.value is None:
            return None
        return crossing(forward.value, reflected.value, forward.used, reflected.used, self._part)

    def caption(self) -> str:
        """What they cross on, in words."""
        found = self.crossing
        if found is None:
            return "both needles, then where they cross is the SWR"
        low, high = found.swr_range
        if found.is_bound:
            return f"they cross where lines bunch up: SWR below {high:.2f}"
        if math.isinf(high):
            return f"they cross at SWR {found.swr:.1f} or more"
        return f"they cross at SWR {found.swr:.2f} ({low:.2f} to {high:.2f})"

    # geometry

    def _pivot(self, place: int) -> tuple[QPointF, float]:
        """The pivot of the forward needle (0) or the reflected one (1), and half the distance of both."""
        high = (self.down() - 44.0) / (_REACH * math.sin(math.radians(_HIGHEST)))
        half = min(self.across() / 2.0 - 12.0, high)
        return QPointF(self.across() / 2.0 + (half if place else -half), self.down() - 12.0), half

    def _at(self, place: int, deflection: float, length: float) -> QPointF:
        """A point of a needle, so many half distances from its pivot."""
        pivot, half = self._pivot(place)
        angle = math.radians(_LOWEST + (_HIGHEST - _LOWEST) * deflection)
        way = -1.0 if place else 1.0
        return QPointF(pivot.x() + way * length * half * math.cos(angle), pivot.y() - length * half * math.sin(angle))

    def _cross(self, forward: float, reflected: float) -> QPointF | None:
        """Where needles at two deflections cross; none where they don't on the dial."""
        ahead, back = (math.tan(math.radians(_LOWEST + (_HIGHEST - _LOWEST) * one)) for one in (forward, reflected))
        left, half = self._pivot(0)
        x = 2.0 * half * back / (ahead + back)
        y = x * ahead
        if math.hypot(x, y) > _REACH * half or math.hypot(2.0 * half - x, y) > _REACH * half:
            return None
        return QPointF(left.x() + x, left.y() - y)

    # painting

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._needles is None:
            return
        painter, theme = self.painter(), self._themes.theme
        self._paint_lines(painter)
        for place, needle in enumerate(self._needles):
            self._paint_arc(painter, place, needle.used)
        for place, needle in enumerate(self._needles):
            if needle.deflection is None:
                continue
            pen = QPen(theme.color("rust" if place == 0 else "teal"), 2.0)
            pen.setStyle(Qt.PenStyle.DashLine if needle.draft else Qt.PenStyle.SolidLine)
            painter.setPen(pen)
            painter.drawLine(self._pivot(place)[0], self._at(place, needle.deflection, _REACH + 0.03))

    def _paint_arc(self, painter: QPainter, place: int, used: Range) -> None:
        scale, theme = used.scale, self._themes.theme
        if scale is None:
            return
        painter.setFont(sans(11))
        arc = QPolygonF([self._at(place, n / _STEPS, _REACH) for n in range(_STEPS + 1)])
        painter.setPen(QPen(theme.color("ink"), 1.5))
        painter.drawPolyline(arc)
        for value in (*scale.minor_marks(), *scale.marks):
            long = value in scale.marks
            where = scale.deflection(value)
            painter.setPen(QPen(theme.color("ink" if long else "second"), 1.5 if long else 1.0))
            painter.drawLine(self._at(place, where, _REACH), self._at(place, where, _REACH + (0.09 if long else 0.05)))
            if long:
                at = self._at(place, where, _REACH + 0.2)
                painter.drawText(
                    QRectF(at.x() - 22, at.y() - 8, 44, 16), Qt.AlignmentFlag.AlignCenter, f"{value * used.factor:g}"
                )
        pivot, _ = self._pivot(place)
        painter.setPen(QPen(theme.color("second"), 1.0))
        said, align = ("reflected", Qt.AlignmentFlag.AlignRight) if place else ("forward", Qt.AlignmentFlag.AlignLeft)
        painter.drawText(QRectF(pivot.x() - (80 if place else 0), pivot.y() - 2, 80, 14), align, said)

    def _paint_lines(self, painter: QPainter) -> None:
        """Lines of equal SWR: where both needles cross at any power."""
        if self._needles is None:
            return
        (forward, reflected), theme = self._needles, self._themes.theme
        painter.setFont(sans(11))
        for swr in _LINES:
            share = ((swr - 1.0) / (swr + 1.0)) ** 2
            line = []
            for n in range(1, _STEPS + 1):
                watts = forward.used.full_scale * n / _STEPS
                ahead, back = Needle(forward.used, watts).deflection, Needle(reflected.used, watts * share).deflection
                at = self._cross(ahead, back) if ahead is not None and back is not None and back <= 1.0 else None
                line += [at] if at is not None else []
            if len(line) > 1:
                painter.setPen(QPen(theme.color("second"), 0.8))
                painter.drawPolyline(QPolygonF(line))
                painter.setPen(QPen(theme.color("second"), 1.0))
                painter.drawText(QRectF(line[-1].x() - 16, line[-1].y() - 15, 32, 14), Qt.AlignmentFlag.AlignCenter,
                                 f"{swr:g}")  # fmt: skip

    # dragging

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._drag_to(self.at(event))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._drag_to(self.at(event))

    def _drag_to(self, position: QPointF) -> None:
        if self._needles is None:
            return
        turns = [self._turn(place, position) for place in (0, 1)]
        away = [
            abs(turn - needle.deflection) if needle.deflection is not None else 1.0
            for turn, needle in zip(turns, self._needles, strict=True)
        ]
        unset = [place for place in (0, 1) if self._needles[place].value is None]
        place = unset[0] if unset else int(away[1] < away[0])
        used = self._needles[place].used
        if used.scale is None:
            return
        printed = used.scale.value_at(min(max(turns[place], 0.0), 1.0))
        step = used.scale.division_at(printed) * self._part
        self.value_dragged.emit(bool(place), round(printed / step) * step * used.factor)

    def _turn(self, place: int, position: QPointF) -> float:
        """The deflection of a needle that points to a position."""
        pivot, _ = self._pivot(place)
        across = (pivot.x() - position.x()) if place else (position.x() - pivot.x())
        angle = math.degrees(math.atan2(pivot.y() - position.y(), across))
        return (angle - _LOWEST) / (_HIGHEST - _LOWEST)
