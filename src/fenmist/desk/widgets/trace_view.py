"""A captured trace: its first periods as sampled, with the fitted sine through them; pens from the theme."""

import math
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF

from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.painted import Painted
from fenmist.units.display import plain
from fenmist.waveform.analysis import Trace
from fenmist.waveform.capture import Channel, trace_columns

_Place = Callable[[float, float], QPointF]
"""From sample and volts to a place on the widget."""

PERIODS = 4.0
"""Periods that are drawn."""


class TraceView(Painted):
    """Samples in teal, the fit in rust; fitted crests as lines."""

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self._channel: Channel | None = None
        self._trace: Trace | None = None
        self.setMinimumSize(px(250), px(150))
        self.setAccessibleName("captured trace")

    def show_trace(self, channel: Channel | None, trace: Trace | None) -> None:
        """Show a channel with what was fitted to it, if anything."""
        self._channel, self._trace = channel, trace
        said = "nothing to draw"
        if channel is not None:
            fitted = f", fitted crest {plain(trace.fit.amplitude_v, 'V')}" if trace else ""
            said = f"{channel.name}, {channel.volts.size} samples{fitted}"
        self.setAccessibleDescription(said)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._channel is None:
            return
        theme = self._themes.theme
        painter = self.painter()
        box = QRectF(64, 8, self.across() - 72, self.down() - 30)
        volts = self._shown()
        middle = self._trace.fit.offset_v if self._trace else float(volts.mean())
        reach = 1.12 * max(float(np.max(np.abs(volts - middle))), 1e-12)

        def at(place: float, value: float) -> QPointF:
            x = box.left() + box.width() * place / max(volts.size - 1, 1)
            return QPointF(x, box.center().y() - (value - middle) / reach * box.height() / 2.0)

        painter.setPen(QPen(theme.color("hairline"), 1))
        painter.drawLine(at(0, middle), at(volts.size - 1, middle))
        self._draw_samples(painter, volts, at)
        if self._trace is not None:
            self._draw_fit(painter, volts.size, at)
        painter.setFont(sans(11))
        painter.setPen(theme.color("second"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for value in (float(volts.max()), float(volts.min())):
            y = at(0, value).y()
            painter.drawText(QRectF(0, y - 9, 58, 18), right, plain(value, "V", 3))
        if self._trace is not None:
            span = plain((volts.size - 1) * self._trace.fit.step_s, "s", 3)
            place = QRectF(box.left(), box.bottom() + 4, box.width(), 16)
            whole = plain(self._channel.volts.size * self._trace.fit.step_s, "s", 3)
            painter.drawText(place, right, f"{span} of {whole}")

    def _shown(self) -> np.ndarray:
        """The first periods, or the whole where none was fitted."""
        volts = self._channel.volts if self._channel is not None else np.zeros(2)
        if self._trace is None:
            return volts
        return volts[: max(math.ceil(PERIODS * self._trace.fit.samples_per_period), 16)]

    def _draw_samples(self, painter: QPainter, volts: np.ndarray, at: _Place) -> None:
        teal = self._themes.theme.color("teal")
        if volts.size > 4 * self.across():
            low, high = trace_columns(volts, max(int(self.across()) // 2, 1))
            painter.setPen(QPen(teal, 1))
            step = math.ceil(volts.size / low.size)  # samples a column
            for n, (a, b) in enumerate(zip(low, high, strict=True)):
                painter.drawLine(at(n * step, float(a)), at(n * step, float(b)))
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(teal)
        radius = 2.2 if volts.size < 200 else 1.4
        for n, value in enumerate(volts):
            painter.drawEllipse(at(n, float(value)), radius, radius)

    def _draw_fit(self, painter: QPainter, size: int, at: _Place) -> None:
        trace = self._trace
        if trace is None:
            return
        fit = trace.fit
        places = np.linspace(0, size - 1, int(4 * self.across()))
        angle = 2 * math.pi * fit.frequency_hz * fit.step_s * (places - (fit.samples - 1) / 2.0) + fit.phase_rad
        values = fit.offset_v + fit.amplitude_v * np.cos(angle)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self._themes.theme.color("rust"), 1))
        painter.drawPolyline(QPolygonF([at(p, v) for p, v in zip(places, values, strict=True)]))
        painter.setPen(QPen(self._themes.theme.color("rust"), 1, Qt.PenStyle.DashLine))
        for sign in (1.0, -1.0):
            crest = fit.offset_v + sign * fit.amplitude_v
            painter.drawLine(at(0, crest), at(size - 1, crest))
