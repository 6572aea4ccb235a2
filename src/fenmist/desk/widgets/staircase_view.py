"""The headroom staircase as it is painted: levels as steps, ceilings above, the gap labelled."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen

from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.painted import Painted
from fenmist.hookup.staircase import Stair
from fenmist.units.display import rounded, with_unit

LEFT, RIGHT, TOP, BOTTOM = 52.0, 14.0, 22.0, 34.0
BETWEEN = 26.0
"""Gap before what hangs."""

Height = Callable[[float], float]
Before = tuple[int, float, float]
"""Branch, and where the step before ended."""


class StaircaseView(Painted):
    """Paints stairs; says them in its accessible description."""

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self._stairs: tuple[Stair, ...] = ()
        self.setAccessibleName("headroom staircase")
        self.be_high(190)

    def sizeHint(self) -> QSize:
        return QSize(px(800), self.height())

    def show_stairs(self, stairs: tuple[Stair, ...]) -> None:
        """Draw them."""
        self._stairs = stairs
        rooms = [f"{item.label}: {_db(item.room_db)}" for item in stairs if item.room_db is not None]
        self.setAccessibleDescription("Room up to the rating: " + "; ".join(rooms) if rooms else "No ratings stated.")
        self.update()

    # places

    def _span(self) -> tuple[float, float]:
        names = ("entry_dbm", "exit_dbm", "ceiling_dbm", "worst_dbm", "fault_dbm", "floor_dbm")
        found = (getattr(item, name) for item in self._stairs for name in names)
        levels = [float(value) for value in found if value is not None]
        low, high = min(levels), max(levels)
        return 10.0 * ((low - 6.0) // 10.0), 10.0 * ((high + 14.0) // 10.0)

    def _slots(self) -> list[tuple[float, float]]:
        """Left edge and width of each stair."""
        branches = len({item.branch for item in self._stairs})
        room = self.across() - LEFT - RIGHT - BETWEEN * (branches - 1)
        width = min(room / max(len(self._stairs), 1), 150.0)
        made, x, branch = [], LEFT, 0
        for item in self._stairs:
            x += BETWEEN if item.branch != branch else 0.0
            branch = item.branch
            made.append((x, width))
            x += width
        return made

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = self.painter()
        if not self._stairs:
            painter.setPen(self._themes.theme.color("second"))
            painter.setFont(sans(12))
            said = "Plan a frequency and a level to see each part's level and rating here."
            painter.drawText(QRectF(LEFT, TOP, 600, 20), Qt.AlignmentFlag.AlignLeft, said)
            return
        low, high = self._span()
        down = self.down() - BOTTOM

        def y(dbm: float) -> float:
            return TOP + (high - dbm) / (high - low) * (down - TOP)

        self._paint_grid(painter, low, high, down)
        slots = self._slots()
        before: Before | None = None
        for item, (x, width) in zip(self._stairs, slots, strict=True):
            before = self._paint_steps(painter, item, x, width, y, before)
            self._paint_limits(painter, item, x, width, y)
            self._paint_name(painter, item, x, width, down)

    def _paint_grid(self, painter: QPainter, low: float, high: float, down: float) -> None:
        theme = self._themes.theme
        painter.setFont(sans(11))
        step = 10.0 if high - low <= 70.0 else 20.0
        value = low
        while value <= high + 0.1:
            place = TOP + (high - value) / (high - low) * (down - TOP)
            painter.setPen(QPen(theme.color("hairline"), 1.0))
            painter.drawLine(QPointF(LEFT, place), QPointF(self.across() - RIGHT, place))
            painter.setPen(theme.color("second"))
            text = rounded(value, 0, plus=True)
            align = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(0, place - 8, LEFT - 8, 16), align, text)
            value += step
        painter.drawText(QRectF(0, 0, LEFT - 24, 14), Qt.AlignmentFlag.AlignLeft, "dBm")

    def _paint_steps(
        self, painter: QPainter, item: Stair, x: float, width: float, y: Height, before: Before | None
    ) -> Before:
        theme = self._themes.theme
        entry = item.level_dbm if item.entry_dbm is None else item.entry_dbm
        leaves = entry if item.exit_dbm is None else item.exit_dbm
        painter.setPen(QPen(theme.color("teal"), 2.5))
        if before is not None and before[0] == item.branch:
            painter.drawLine(QPointF(before[1], before[2]), QPointF(x, y(entry)))
        middle = x + width / 2.0
        painter.drawLine(QPointF(x, y(entry)), QPointF(middle, y(entry)))
        painter.drawLine(QPointF(middle, y(entry)), QPointF(middle, y(leaves)))
        painter.drawLine(QPointF(middle, y(leaves)), QPointF(x + width, y(leaves)))
        for level, role, style in (
            (item.fault_dbm, "stop", Qt.PenStyle.DotLine), (item.worst_dbm, "rust", Qt.PenStyle.DashLine),
        ):  # fmt: skip
            if level > item.level_dbm + 0.1:
                painter.setPen(QPen(theme.color(role), 1.5, style))
                painter.drawLine(QPointF(x + 6, y(level)), QPointF(x + width - 6, y(level)))
        return item.branch, x + width, y(leaves)

    def _paint_limits(self, painter: QPainter, item: Stair, x: float, width: float, y: Height) -> None:
        theme = self._themes.theme
        if item.floor_dbm is not None:
            painter.setPen(QPen(theme.color("second"), 1.5, Qt.PenStyle.DashDotLine))
            painter.drawLine(QPointF(x + 6, y(item.floor_dbm)), QPointF(x + width - 6, y(item.floor_dbm)))
        if item.ceiling_dbm is None or item.room_db is None:
            return
        over = item.room_db < -1e-6  # exactly at its rating is not over it
        painter.setPen(QPen(theme.color("stop" if over else "ink"), 2.5 if over else 1.5))
        top = y(item.ceiling_dbm)
        painter.drawLine(QPointF(x + 6, top), QPointF(x + width - 6, top))
        painter.setFont(sans(11, 600 if over else 400))
        painter.setPen(theme.color("stop" if over else "second"))
        text = f"✕ {_db(item.room_db)}" if over else _db(item.room_db)
        place = QRectF(x - 10, top - 15, width + 20, 14)
        painter.drawText(place, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_name(self, painter: QPainter, item: Stair, x: float, width: float, down: float) -> None:
        painter.setPen(self._themes.theme.color("ink"))
        painter.setFont(sans(12))
        room = int(width) - 4
        name = painter.fontMetrics().elidedText(item.label, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(x, down + 4, width, 16), Qt.AlignmentFlag.AlignCenter, name)
        if item.in_volts:
            painter.setPen(self._themes.theme.color("second"))
            painter.setFont(sans(11))
            painter.drawText(QRectF(x, down + 18, width, 14), Qt.AlignmentFlag.AlignCenter, "by volts")


def _db(value: float | None) -> str:
    return "" if value is None else with_unit(rounded(value, 1, plus=True), "dB")
