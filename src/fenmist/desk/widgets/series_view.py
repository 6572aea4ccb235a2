"""Power against time at the point in hand: what was read as it came, with its lowest, highest and mean."""

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.painted import Painted
from fenmist.errors import FenmistError
from fenmist.session.present import series_text
from fenmist.units.display import plain
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.series import Series

LEFT, RIGHT, TOP, BOTTOM = 56.0, 14.0, 8.0, 20.0


class _Drawing(Painted):
    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self.series: tuple[Series, ...] = ()
        self.limit_w: float | None = None
        self.setMinimumHeight(px(90))
        self.setAccessibleName("power against time, drawing")

    def paintEvent(self, _: QPaintEvent) -> None:
        if not self.series:
            return
        painter = self.painter()
        theme = self._themes.theme
        span = max([1e-9, *(item.span_s for item in self.series)])
        limit = () if self.limit_w is None else (self.limit_w,)
        top = 1.06 * max(*limit, *(item.highest_w for item in self.series), 0.0)
        low = min(*limit, *(item.lowest_w for item in self.series), top)
        floor = 0.0 if low < 0.7 * top else 0.97 * low

        def at(seconds: float, watts: float) -> QPointF:
            x = LEFT + seconds / span * (self.across() - LEFT - RIGHT)
            y = self.down() - BOTTOM - (watts - floor) / (top - floor) * (self.down() - TOP - BOTTOM)
            return QPointF(x, y)

        painter.setFont(sans(11))
        painter.setPen(theme.color("second"))
        for watts in (floor, top / 1.06):
            box = QRectF(0, at(0, watts).y() - 8, LEFT - 6, 16)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, plain(watts, "W", 3))
        painter.drawText(QPointF(LEFT, self.down() - 5), "0\u2009s")
        painter.drawText(QPointF(self.across() - 60, self.down() - 5), plain(span, "s", 3))
        if self.limit_w is not None:
            painter.setPen(QPen(theme.color("rust"), 1.0, Qt.PenStyle.DashLine))
            painter.drawLine(at(0, self.limit_w), at(span, self.limit_w))
        for item in self.series:
            places = [at(t, p) for t, p in zip(item.seconds, item.powers_w, strict=True)]
            self._draw(painter, places, item.of_device)

    def _draw(self, painter: QPainter, places: list[QPointF], of_device: bool) -> None:
        theme = self._themes.theme
        color = theme.color("ink" if of_device else "teal")
        style = Qt.PenStyle.DotLine if of_device else Qt.PenStyle.SolidLine
        painter.setPen(QPen(color, 1.5, style))
        painter.drawPolyline(places)
        painter.setPen(QPen(color, 1.5))
        painter.setBrush(theme.color("mist") if of_device else color)
        for place in places:
            painter.drawEllipse(place, 3.0, 3.0)


class SeriesView(QWidget):
    """The drawing with its line of numbers, and a level to be above."""

    closed = Signal()

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self.setAccessibleName("power against time")
        self.drawing = _Drawing(themes)
        self.said = label("", "second", wrap=True)
        self.limit = LineEdit()
        self.limit.setAccessibleName("time above a level")
        self.limit.setPlaceholderText("10 W")
        self.limit.setFixedWidth(px(90))
        self.limit.textEdited.connect(lambda _: self._refresh())
        self.leave = button("back to the errors", "link")
        self.leave.clicked.connect(self.closed)
        row = QHBoxLayout()
        row.addWidget(label("Power against time: solid the references, dotted the meter. Time above", "second"))
        row.addWidget(self.limit)
        row.addStretch(1)
        row.addWidget(self.leave)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(2)
        box.addLayout(row)
        box.addWidget(self.drawing, 1)
        box.addWidget(self.said)
        self._series: tuple[Series, ...] = ()
        self._names: dict[str, str] = {}

    def show_series(self, series: tuple[Series, ...], names: dict[str, str]) -> None:
        """Show what was read at a point."""
        self._series, self._names = series, names
        self._refresh()

    def _limit_w(self) -> float | None:
        try:
            return (
                value_from_text(self.limit.text(), UNITS["W"], "level", "10 W") if self.limit.text().strip() else None
            )
        except FenmistError:
            return None

    def _refresh(self) -> None:
        limit = self._limit_w()
        self.drawing.series, self.drawing.limit_w = self._series, limit
        self.drawing.update()
        lines = [series_text(item, self._names.get(item.channel, item.channel), limit) for item in self._series]
        said = (
            "   ".join(lines)
            or "Nothing with a known time was read here yet: press * for another round while it changes."
        )
        set_text(self.said, said)
