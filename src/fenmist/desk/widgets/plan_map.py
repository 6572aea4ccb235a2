"""The plan as a map: frequency across, level up, a cell per point with a sign for its state."""

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen

from fenmist.calibration.job import PlanPoint
from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.painted import Painted
from fenmist.frozen import dataclass
from fenmist.session.planview import PlanState
from fenmist.units.display import frequency, plain

LEFT, TOP, BOTTOM, RIGHT = 64.0, 8.0, 24.0, 10.0


@dataclass(frozen=True)
class _Cell:
    point: PlanPoint
    box: QRectF


class PlanMap(Painted):
    """Cells can be clicked; the table beside it does the same by keyboard."""

    point_clicked = Signal(str)

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self._plan: tuple[PlanPoint, ...] = ()
        self._states: Mapping[str, PlanState] = {}
        self.current = ""
        self.setAccessibleName("map of the plan")

    def sizeHint(self) -> QSize:
        return QSize(px(400), self.height())

    def show_plan(self, plan: tuple[PlanPoint, ...], states: Mapping[str, PlanState], current: str = "") -> None:
        """Show a plan with the state of each point."""
        self._plan, self._states, self.current = plan, states, current
        levels = len({point.target_w for point in plan})
        self.be_high(round(min(TOP + BOTTOM + 30.0 * levels, 150.0)) if levels else 0)
        counts = [f"{list(states.values()).count(state)} {state}" for state in PlanState if state in states.values()]
        self.setAccessibleDescription(", ".join(counts))
        self.update()

    def cells(self) -> list[_Cell]:
        """Where each point is drawn; points of one frequency and level on two ranges share a place."""
        tones = sorted({point.frequency_hz for point in self._plan})
        levels = sorted({point.target_w for point in self._plan})
        if not tones:
            return []
        width = min((self.across() - LEFT - RIGHT) / len(tones), 92.0)
        height = min((self.down() - TOP - BOTTOM) / len(levels), 30.0)
        base = self.down() - BOTTOM
        shared: dict[tuple[float, float], list[PlanPoint]] = {}
        for point in self._plan:
            shared.setdefault((point.frequency_hz, point.target_w), []).append(point)
        made = []
        for (f, level), points in shared.items():
            x, y = LEFT + tones.index(f) * width, base - (levels.index(level) + 1) * height
            part = width / len(points)
            for n, point in enumerate(points):
                made.append(_Cell(point, QRectF(x + n * part + 1.5, y + 1.5, part - 3.0, height - 3.0)))
        return made

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = self.painter()
        cells = self.cells()
        for cell in cells:
            self._paint_cell(painter, cell)
        self._paint_edges(painter, cells)

    def _paint_cell(self, painter: QPainter, cell: _Cell) -> None:
        theme, state = self._themes.theme, self._states.get(cell.point.id, PlanState.PLANNED)
        painter.setPen(QPen(theme.color("teal" if state is not PlanState.BLOCKED else "second"), 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if state is PlanState.READ:
            painter.setBrush(theme.color("teal_wash"))
        elif state is PlanState.UNSERVED:
            painter.setBrush(theme.color("rust_wash"))
            painter.setPen(QPen(theme.color("rust"), 1.0))
        elif state is PlanState.BLOCKED:
            painter.setPen(QPen(theme.color("second"), 1.0, Qt.PenStyle.DashLine))
        painter.drawRect(cell.box)
        if cell.point.id == self.current:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.color("rust"), 2.0))
            painter.drawRect(cell.box.adjusted(-1, -1, 1, 1))
        painter.setPen(theme.color("ink" if state is not PlanState.BLOCKED else "second"))
        painter.setFont(sans(12, 600))
        if cell.box.height() > 9 and cell.box.width() > 9:
            painter.drawText(cell.box, Qt.AlignmentFlag.AlignCenter, state.sign)

    def _paint_edges(self, painter: QPainter, cells: list[_Cell]) -> None:
        painter.setPen(self._themes.theme.color("second"))
        painter.setFont(sans(11))
        tones = {cell.point.frequency_hz: cell.box for cell in cells}
        last = -100.0
        for f in sorted(tones):
            x = tones[f].left()
            if x - last > 54.0:
                painter.drawText(QPointF(x, self.down() - 8.0), frequency(f))
                last = x
        levels = {cell.point.target_w: cell.box for cell in cells}
        last = 1e9
        for level in sorted(levels):
            y = levels[level].center().y()
            if last - y > 13.0:
                box = QRectF(0, y - 8, LEFT - 8, 16)
                painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, plain(level, "W"))
                last = y

    def mousePressEvent(self, event: QMouseEvent) -> None:
        hit = next((cell for cell in self.cells() if cell.box.contains(self.at(event))), None)
        if hit is not None:
            self.point_clicked.emit(hit.point.id)
