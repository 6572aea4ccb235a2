"""Meters on a running envelope: the envelope, how its time is spread, and four meters that move as they would."""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF

from fenmist.desk.theme import ThemeHolder, mono, px, sans
from fenmist.desk.widgets.painted import Painted
from fenmist.methods.on_waveform import MetersAnswer
from fenmist.session.modulation import name_of
from fenmist.units.display import plain
from fenmist.waveform.movement import Digits
from fenmist.waveform.running import LEVELS, Running

HIGH, STRIP = 430, 172
"""Of the whole, and of the envelope on top of it."""

SPREAD = 110.0
"""Width of the distribution at the right of the envelope."""

TOP = 1.1
"""Power at the right stop of a scale, over PEP."""

_FROM, _TO = 150.0, 30.0
"""Degrees of both stops, counter-clockwise from the right."""


class SpeechView(Painted):
    """Draws a running waveform as it stands; says nothing of time itself."""

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self.running: Running | None = None
        self.answer: MetersAnswer | None = None
        self.device_w: float | None = None  # what the meter in question showed
        self.setMinimumWidth(px(560))
        self.be_high(HIGH)
        self.setAccessibleName("meters on the waveform")

    def sizeHint(self) -> QSize:
        return QSize(px(760), px(HIGH))

    def show_running(self, running: Running | None, answer: MetersAnswer | None) -> None:
        """Draw another waveform, or none."""
        self.running, self.answer = running, answer
        said = "" if answer is None else ", ".join(
            f"{name_of(answer, name)} {plain(item.reading, 'W', 3)}" for name, item in answer.shows.items()
        )  # fmt: skip
        self.setAccessibleDescription(said)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if self.running is None or self.answer is None:
            return
        painter = self.painter()
        self._draw_envelope(painter, self.running, self.answer)
        self._draw_spread(painter, self.running)
        wide = self.across() / len(self.answer.movements)
        for number, name in enumerate(self.answer.movements):
            self._draw_meter(painter, name, QRectF(number * wide, STRIP + 34.0, wide, HIGH - STRIP - 40.0))

    def _box(self) -> QRectF:
        return QRectF(56.0, 14.0, self.across() - SPREAD - 76.0, STRIP - 34.0)

    def _draw_envelope(self, painter: QPainter, running: Running, answer: MetersAnswer) -> None:
        theme, box = self._themes.theme, self._box()
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.setFont(sans(11))
        for fraction, name in ((1.0, "PEP"), (answer.moments.mean, "mean")):
            y = box.bottom() - box.height() * math.sqrt(fraction)
            painter.setPen(QPen(theme.color("hairline" if fraction == 1.0 else "rust"), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right() + SPREAD, y))
            painter.setPen(theme.color("second"))
            if name == "PEP" or fraction < 0.9:
                painter.drawText(QRectF(0, y - 9, 48, 18), right, name)
        columns = max(int(box.width() / 2.0), 2)
        low, high = running.past(columns)
        x = [box.left() + box.width() * n / (columns - 1) for n in range(columns)]
        upper = [QPointF(a, box.bottom() - box.height() * float(v)) for a, v in zip(x, high, strict=True)]
        lower = [QPointF(a, box.bottom() - box.height() * float(v)) for a, v in zip(x, low, strict=True)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("teal_wash"))
        painter.drawPolygon(QPolygonF([QPointF(x[0], box.bottom()), *upper, QPointF(x[-1], box.bottom())]))
        painter.setBrush(theme.color("teal"))
        painter.drawPolygon(QPolygonF([*upper, *reversed(lower)]))
        painter.setPen(QPen(theme.color("teal"), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF(upper))
        painter.setPen(theme.color("second"))
        painter.drawText(
            QRectF(box.left(), box.bottom() + 3, box.width(), 16), right,
            f"volts of the envelope over the last 2 s; {running.now_s:.1f} s have run",
        )  # fmt: skip

    def _draw_spread(self, painter: QPainter, running: Running) -> None:
        """Time at each level, standing up at the right."""
        theme, box = self._themes.theme, self._box()
        left, shares = box.right() + 16.0, running.time_at_levels()
        most = max(float(shares[1:].max()), 1e-9)  # silence, the lowest, may go over the edge
        high = box.height() / LEVELS
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("teal"))
        for level, share in enumerate(shares.tolist()):
            y = box.bottom() - high * (level + 1)
            painter.drawRect(QRectF(left, y + 0.5, (SPREAD - 20.0) * min(share / most, 1.0), high - 1.0))
        painter.setPen(theme.color("second"))
        painter.setFont(sans(11))
        painter.drawText(QRectF(left, box.bottom() + 3, SPREAD, 16), Qt.AlignmentFlag.AlignLeft, "time at each level")

    def _draw_meter(self, painter: QPainter, name: str, box: QRectF) -> None:
        if self.running is None or self.answer is None:
            return
        theme, movement = self._themes.theme, self.answer.movements[name]
        radius = min(box.width() / 2.0 - 26.0, box.height() - 96.0)
        centre = QPointF(box.center().x(), box.top() + radius + 24.0)

        def place(power: float, at: float) -> QPointF:
            share = min(max(power / TOP, 0.0), 1.0)
            share = math.sqrt(share) if movement.squares else share
            angle = math.radians(_FROM + (_TO - _FROM) * share)
            return QPointF(centre.x() + at * math.cos(angle), centre.y() - at * math.sin(angle))

        arc = QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius)
        painter.setPen(QPen(theme.color("ink"), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawArc(arc, round(_TO * 16), round((_FROM - _TO) * 16))
        painter.setFont(sans(11))
        for tenths in (0, 1, 2, 4, 6, 8, 10) if movement.squares else (0, 2, 4, 6, 8, 10):
            value = tenths / 10.0
            painter.setPen(QPen(theme.color("ink"), 1.2))
            painter.drawLine(place(value, radius), place(value, radius + 7.0))
            at = place(value, radius + 17.0)
            text = f"{value * self.answer.pep_w:.3g}"
            painter.drawText(QRectF(at.x() - 22, at.y() - 8, 44, 16), Qt.AlignmentFlag.AlignCenter, text)
        if self.device_w is not None:
            fraction = self.device_w / self.answer.pep_w
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("rust"))
            tip, aside = place(fraction, radius - 2.0), place(fraction, radius - 14.0)
            dx, dy = (aside.y() - tip.y()) / 2.4, (tip.x() - aside.x()) / 2.4
            painter.drawPolygon(
                QPolygonF([tip, QPointF(aside.x() + dx, aside.y() + dy), QPointF(aside.x() - dx, aside.y() - dy)])
            )
        now = self.running.shown[name]
        painter.setPen(QPen(theme.color("teal"), 2.5))
        if isinstance(movement.display, Digits):
            share = min(now / TOP, 1.0)
            share = math.sqrt(share) if movement.squares else share
            inner = arc.adjusted(9, 9, -9, -9)
            painter.setPen(QPen(theme.color("teal"), 7.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawArc(inner, round(_FROM * 16), round(-(_FROM - _TO) * 16 * share))
        else:
            painter.drawLine(place(now, 10.0), place(now, radius + 3.0))
        self._say(painter, name, centre.y() + 6.0, box)

    def _say(self, painter: QPainter, name: str, top: float, box: QRectF) -> None:
        """What it shows now, and about which it stands."""
        if self.running is None or self.answer is None:
            return
        theme, middle = self._themes.theme, Qt.AlignmentFlag.AlignCenter
        pep_w, about = self.answer.pep_w, self.answer.shows[name].reading
        painter.setPen(theme.color("ink"))
        painter.setFont(mono(17))
        now = self.running.shown[name] * pep_w
        painter.drawText(QRectF(box.left(), top, box.width(), 24), middle, plain(now, "W", 2 if now < 10 else 3))
        painter.setFont(sans(12))
        painter.drawText(QRectF(box.left(), top + 26, box.width(), 18), middle, name_of(self.answer, name))
        painter.setPen(theme.color("second"))
        said = f"stands about {plain(about, 'W', 3)}"
        painter.drawText(QRectF(box.left(), top + 44, box.width(), 18), middle, said)
