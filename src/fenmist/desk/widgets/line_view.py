"""The line: the RF path as it is plugged together, source to load, with what hangs on it.

Full size in the hook-up step, a slim strip at the top of the others. Each connector carries a flag with its planned
level; what is over its rating says so on the part itself; the plane where power is stated is marked.
"""

from collections.abc import Mapping
from datetime import datetime
from itertools import pairwise
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from fenmist.calibration.job import Job
from fenmist.calibration.levels import planned_levels
from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.painted import Painted
from fenmist.frozen import dataclass
from fenmist.hookup.levels import LevelPlan, Overload, PlaneLevel
from fenmist.hookup.line import HookUp
from fenmist.kit.network import setting_text
from fenmist.kit.part import SOURCES, Part, PartKind
from fenmist.reports.linelayout import Box, Layout, Measures, lay_out
from fenmist.units.display import frequency, plain, rounded, swr, with_unit
from fenmist.units.level import dbm_from_watts

if TYPE_CHECKING:
    from fenmist.session.wires import Wires

UNITS = ("W", "dBm", "V", "SWR")

KEYS: Mapping[Qt.Key, str] = {
    Qt.Key.Key_Return: "choose", Qt.Key.Key_Enter: "choose", Qt.Key.Key_Insert: "insert", Qt.Key.Key_I: "insert",
    Qt.Key.Key_Delete: "remove", Qt.Key.Key_R: "turn", Qt.Key.Key_H: "hang", Qt.Key.Key_P: "state",
    Qt.Key.Key_M: "read", Qt.Key.Key_D: "decide",
    Qt.Key.Key_BracketRight: "switch", Qt.Key.Key_BracketLeft: "switch back",
}  # fmt: skip
"""What a key asks for, of the selected part."""

_JOINTS = (PartKind.TEE,)
"""Drawn as a dot on the line."""


@dataclass(frozen=True)
class Placed:
    """An element where it is drawn."""

    element: str
    label: str
    kind: PartKind
    box: QRectF
    over: str = ""  # what it says when over its rating
    stops: bool = False  # over it by more than the plan is known to
    row: int = 0


class LineView(Painted):
    """Paints a hook-up; the full one can be walked and edited by keyboard."""

    asked = Signal(str, str)  # what for (a value of KEYS), of which element
    selection_changed = Signal(str)
    unit_changed = Signal()

    def __init__(self, themes: ThemeHolder, slim: bool = False) -> None:
        super().__init__()
        self._themes = themes
        self._slim = slim
        self._job: Job | None = None
        self._hookup: HookUp | None = None
        self._plan: LevelPlan | None = None
        self._layout = Layout((), (), (), 0.0)
        self.selected = 0
        self.unit = "W"
        self._said: dict[str, str] = {}  # over the wire, by element
        self.setAccessibleName("the line")
        self.be_high(60 if slim else 226)
        if not slim:
            self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def sizeHint(self) -> QSize:
        return QSize(px(800), self.height())

    def show_job(self, job: Job, hookup_id: str = "") -> None:
        """Draw one of a job's hook-ups, its first unless one is named, with the levels of its highest planned power."""
        former = self._job
        hookup = next((item for item in job.hookups if item.id == hookup_id), job.bench)
        same = former is not None and all(
            getattr(former, name) is getattr(job, name) for name in ("plan", "hookups", "kit", "dut")
        )
        if same and self._hookup is hookup:
            self._job = job
            return  # entries change nothing on the line
        here = self.selected_element
        self._job, self._hookup = job, hookup
        levels = planned_levels(job).get(hookup.id)
        self._plan = levels.highest if levels else None
        self._place()
        self._find(here)
        self._describe()
        self.update()

    def show_live(self, wires: "Wires", now: datetime) -> None:
        """Put what instruments say over their wires onto the flags; it says how old it is."""
        said = {}
        if self._hookup is not None:
            for item in self._hookup.elements:
                who = wires.of_part(item.part)
                if who is not None and wires.live(who.id).says_something:
                    said[item.id] = wires.live(who.id).text(now)
        if said != self._said:
            self._said = said
            self.update()

    # what is where

    def _place(self) -> None:
        if self._job is None or self._hookup is None:
            return
        room = self.across()
        measures = (
            Measures(room, 14.0, 20.0, 24.0, 0.0, 94.0, 170.0, 60.0)
            if self._slim
            else Measures(room, 14.0, 74.0, 42.0, 80.0, 46.0, 170.0, 74.0)
        )
        self._layout = lay_out(self._hookup, self._job.parts, _wanted_width, measures)
        if not self._slim:
            rows = max((box.row for box in self._layout.boxes), default=1)
            self.be_high(226 + 80 * max(rows - 1, 0))

    def resizeEvent(self, _: object) -> None:
        self._place()

    def placed(self) -> tuple[Placed, ...]:
        """All elements with their boxes: the line first, then what hangs."""
        if self._job is None or self._hookup is None:
            return ()
        over = _worst_overloads(self._plan)
        boxes = self._layout.line if self._slim else self._layout.boxes
        return tuple(self._placed(box, over.get(box.element)) for box in boxes)

    def _placed(self, box: Box, over: Overload | None) -> Placed:
        part = self._part(box.element)
        said = _overload_text(over) if over else ""
        return Placed(
            box.element, part.label, part.kind, QRectF(box.x, box.y, box.width, box.height), said,
            over is not None and not over.is_marginal, box.row,
        )  # fmt: skip

    def _part(self, element: str) -> Part:
        if self._job is None or self._hookup is None:
            raise LookupError(element)
        return self._job.part(self._hookup.element(element).part)

    @property
    def selected_element(self) -> str:
        """Id of the element that is chosen, or nothing."""
        placed = self.placed()
        return placed[min(self.selected, len(placed) - 1)].element if placed else ""

    def select(self, element: str) -> None:
        """Choose an element."""
        self._find(element)
        self._describe()
        self.update()

    def _find(self, element: str) -> None:
        names = [item.element for item in self.placed()]
        before = min(max(self.selected - 1, 0), max(len(names) - 1, 0))  # where it was taken out
        self.selected = names.index(element) if element in names else before

    def level_text(self, level: PlaneLevel) -> str:
        """A plane's planned level in the unit chosen; volts on a branch, where nothing else means anything."""
        if self.unit == "SWR" and level.swr is not None:
            return f"SWR {swr(level.swr)}"
        if self.unit == "V" or level.incident_w is None:
            return f"{plain(level.volts_rms, 'V', 3)} rms"
        if self.unit == "dBm":
            return with_unit(rounded(float(dbm_from_watts(level.incident_w)), 1, plus=True), "dBm")
        return plain(level.incident_w, "W", 3)

    def _describe(self) -> None:
        placed = self.placed()
        if not placed:
            return
        self.selected = min(self.selected, len(placed) - 1)
        item = placed[self.selected]
        setting = self._setting(item.element)
        said = [f"{item.kind}: {item.label}", *([setting] if setting else []), *([item.over] if item.over else [])]
        self.setAccessibleDescription(", ".join(said))
        self.selection_changed.emit(item.element)

    def _setting(self, element: str) -> str:
        if self._hookup is None:
            return ""
        return setting_text(self._part(element), self._hookup.element(element).settings)

    # painting

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = self.painter()
        placed = self.placed()
        if not placed or self._job is None:
            return
        self._paint_wires(painter)
        for number, item in enumerate(placed):
            self._paint_part(painter, item, selected=self.hasFocus() and number == self.selected)
        self._paint_stated(painter, placed)
        if not self._slim and self._plan is not None:
            painter.setPen(self._themes.theme.color("second"))
            painter.setFont(sans(12))
            planned = f"{plain(self._plan.power_w, 'W')} at {frequency(self._plan.frequency_hz)}"
            said = f"Levels as planned: {planned}, carrier on."
            painter.drawText(QRectF(14, self.down() - 22, 460, 18), Qt.AlignmentFlag.AlignVCenter, said)

    def _paint_wires(self, painter: QPainter) -> None:
        theme = self._themes.theme
        for left, right in pairwise(self._layout.line):
            y = left.y + left.height / 2.0
            painter.setPen(QPen(theme.color("teal"), 2.0 if self._slim else 2.5))
            painter.drawLine(QPointF(left.right, y), QPointF(right.x, y))
            self._paint_flag(painter, left, right, y)
        if self._slim:
            return
        line_y = self._layout.line[0].y + self._layout.line[0].height / 2.0 if self._layout.line else 0.0
        for hanging in self._layout.hanging:
            first = hanging.boxes[0]
            x = min(max(hanging.x, first.x + 8.0), first.right - 8.0)
            bend = first.y - 10.0
            painter.setPen(QPen(theme.color("teal"), 1.5))
            corners = [(hanging.x, line_y), (hanging.x, bend), (x, bend), (x, first.y)]
            painter.drawPolyline(QPolygonF([QPointF(*corner) for corner in corners]))
            self._paint_side_flag(painter, hanging.element, hanging.port, hanging.x, bend)
            for left, right in pairwise(hanging.boxes):
                y = left.y + left.height / 2.0
                painter.setPen(QPen(theme.color("teal"), 1.5))
                painter.drawLine(QPointF(left.right, y), QPointF(right.x, y))
                self._paint_flag(painter, left, right, y)

    def _paint_flag(self, painter: QPainter, left: Box, right: Box, y: float) -> None:
        if left.element in self._said and self._slim:
            self._paint_said(painter, left, y)
            return
        level = self._level_between(left.element, right.element)
        if level is None or (self._slim and self._part(left.element).kind is not PartKind.INLINE_METER):
            return
        painter.save()
        painter.setPen(self._themes.theme.color("second"))
        painter.setFont(sans(12))
        text = self.level_text(level)
        if self._slim:
            text = f"planned {text}"
        middle = (left.right + right.x) / 2.0
        place, align = QRectF(middle - 60, y - 22, 120, 16), Qt.AlignmentFlag.AlignCenter
        if self._slim:
            place, align = QRectF(left.right + 8, y + 4, 120, 16), Qt.AlignmentFlag.AlignLeft
        painter.drawText(place, align, text)
        painter.restore()

    def _paint_said(self, painter: QPainter, box: Box, y: float) -> None:
        """What an instrument on the line says over its wire, behind it."""
        painter.save()
        said = self._said[box.element]
        painter.setPen(self._themes.theme.color("rust" if said.startswith("▲") else "teal"))
        painter.setFont(sans(12))
        painter.drawText(QRectF(box.right + 8, y + 4, 150, 16), Qt.AlignmentFlag.AlignLeft, said)
        painter.restore()

    def _paint_side_flag(self, painter: QPainter, element: str, port: str, x: float, bend: float) -> None:
        """The level on its way down, beside the wire."""
        level = self._plan.at(element, port) if self._plan else None
        if level is None or self._part(element).kind in _JOINTS:
            return
        painter.setPen(self._themes.theme.color("second"))
        painter.setFont(sans(12))
        painter.drawText(QRectF(x + 6, bend - 24, 110, 16), Qt.AlignmentFlag.AlignLeft, self.level_text(level))

    def _level_between(self, left: str, right: str) -> PlaneLevel | None:
        if self._plan is None or self._hookup is None:
            return None
        for joint in self._hookup.joints:
            if {joint.a[0], joint.b[0]} == {left, right}:
                return self._plan.at(*joint.b) or self._plan.at(*joint.a)
        return None

    def _paint_part(self, painter: QPainter, item: Placed, selected: bool) -> None:
        theme = self._themes.theme
        edge = "stop" if item.stops else "teal"
        painter.setPen(QPen(theme.color(edge), 2.5 if selected or item.stops else 1.5))
        painter.setBrush(theme.color("teal_wash" if selected else "rust_wash" if item.stops else "paper"))
        if item.kind in _JOINTS:
            self._paint_joint(painter, item)
            return
        radius = item.box.height() / 2.0 if item.kind in SOURCES else 3.0
        painter.drawRoundedRect(item.box, radius, radius)
        painter.setPen(theme.color("ink"))
        painter.setFont(sans(12 if self._slim else 13))
        under = item.over or self._under(item)
        room = int(item.box.width()) - 8
        name = painter.fontMetrics().elidedText(item.label, Qt.TextElideMode.ElideRight, room)
        if self._slim or not under:
            painter.drawText(item.box, Qt.AlignmentFlag.AlignCenter, name)
            return
        painter.drawText(item.box.adjusted(0, 4, 0, -18), Qt.AlignmentFlag.AlignCenter, name)
        painter.setFont(sans(11, 600 if item.over else 400))
        painter.setPen(theme.color("stop" if item.stops else "second"))
        under = painter.fontMetrics().elidedText(under, Qt.TextElideMode.ElideRight, room + 6)
        painter.drawText(item.box.adjusted(0, 20, 0, -2), Qt.AlignmentFlag.AlignCenter, under)

    def _paint_joint(self, painter: QPainter, item: Placed) -> None:
        middle = item.box.center()
        painter.drawEllipse(middle, 6.0, 6.0)
        hung = [self._said[b.element] for h in self._layout.hanging if h.element == item.element
                for b in h.boxes if b.element in self._said]  # fmt: skip
        painter.setPen(self._themes.theme.color("teal" if hung and self._slim else "second"))
        painter.setFont(sans(11 if hung and self._slim else 12))
        if not self._slim:
            before = max((box.right for box in self._layout.line if box.right < middle.x()), default=0.0)
            is_tight = painter.fontMetrics().horizontalAdvance(item.label) > middle.x() - 10 - before
            below = QRectF(middle.x() - 116, middle.y() + (24 if is_tight else 9), 106, 16)  # under the part before it
            painter.drawText(below, Qt.AlignmentFlag.AlignRight, item.label)
            return
        below = QRectF(middle.x() + 8, middle.y() + 4, 88, 16)  # between it and the next part on the line
        said = painter.fontMetrics().elidedText(
            hung[0] if hung else self._hanging_text(item), Qt.TextElideMode.ElideRight, int(below.width())
        )  # fmt: skip
        painter.drawText(below, Qt.AlignmentFlag.AlignLeft, said)

    def _hanging_text(self, joint: Placed) -> str:
        """What hangs on a part, from the far end: the instrument that is read comes first."""
        hanging = (item for item in self._layout.hanging if item.element == joint.element)
        return ", ".join(self._part(box.element).label for item in hanging for box in reversed(item.boxes))

    def _under(self, item: Placed) -> str:
        """The small line in a box: what it is here, and how its switches are set."""
        if self._job is None or self._hookup is None:
            return ""
        device = "under test" if self._hookup.element(item.element).part == self._job.dut else ""
        here = [
            channel.id for channel in self._job.channels
            if (channel.hookup, channel.element) == (self._hookup.id, item.element) and channel.id in self._job.order
        ]  # fmt: skip
        read = "decides" if self._job.reference in here else "read" if here else ""
        return device or " · ".join(text for text in (self._setting(item.element), read) if text)

    def _paint_stated(self, painter: QPainter, placed: tuple[Placed, ...]) -> None:
        if self._job is None or self._hookup is None:
            return
        stated = self._hookup.stated
        item = next((one for one in placed if one.element == stated.element), None)
        if item is None:
            return
        at_entry = self._is_entry(stated.element, stated.port)
        x, y = (
            item.box.left() - 5.0 if at_entry else item.box.right() + 5.0,
            item.box.top() - (6.0 if self._slim else 30.0),
        )
        painter.setPen(QPen(self._themes.theme.color("rust"), 1.0, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(x, y), QPointF(x, item.box.center().y()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._themes.theme.color("rust"))
        painter.drawPolygon(QPolygonF([QPointF(x - 6, y - 8), QPointF(x + 6, y - 8), QPointF(x, y)]))
        painter.setPen(self._themes.theme.color("rust"))
        painter.setFont(sans(12))
        kind = str(self._job.stated.kind).split()[0]
        text = f"stated here, {kind}" if self._slim else f"power stated here, {kind}"
        left = min(x + 11, self.across() - 160.0)
        painter.drawText(QRectF(left, y - 13, 260, 16), Qt.AlignmentFlag.AlignVCenter, text)

    def _is_entry(self, element: str, port: str) -> bool:
        """Whether a port faces the source: what stands to its left is joined to it."""
        if self._hookup is None:
            return False
        mate = self._hookup.mate(element, port)
        names = [box.element for box in self._layout.line]
        return bool(mate and mate[0] in names and element in names and names.index(mate[0]) < names.index(element))

    # keyboard and mouse

    def keyPressEvent(self, event: QKeyEvent) -> None:
        placed = self.placed()
        key = Qt.Key(event.key())
        if not placed or self._slim:
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._select(self.selected + (1 if key == Qt.Key.Key_Right else -1))
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._step_row(placed, 1 if key == Qt.Key.Key_Down else -1)
        elif key == Qt.Key.Key_U:
            self.unit = UNITS[(UNITS.index(self.unit) + 1) % len(UNITS)]
            self.unit_changed.emit()
            self.update()
        elif key in KEYS and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.asked.emit(KEYS[key], placed[self.selected].element)
        else:
            super().keyPressEvent(event)

    def _step_row(self, placed: tuple[Placed, ...], step: int) -> None:
        """Down to what hangs beneath, up again: the nearest in the next row."""
        here = placed[self.selected]
        rows = [item.row for item in placed]
        wanted = [item for item in placed if item.row == here.row + step] if here.row + step in rows else []
        if wanted:
            nearest = min(wanted, key=lambda item: abs(item.box.center().x() - here.box.center().x()))
            self._select(placed.index(nearest))

    def _select(self, number: int) -> None:
        self.selected = min(max(number, 0), len(self.placed()) - 1)
        self._describe()
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for number, item in enumerate(self.placed()):
            if item.box.adjusted(-6, -6, 6, 6).contains(self.at(event)):
                self._select(number)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        for item in self.placed():
            if not self._slim and item.box.contains(self.at(event)):
                self.asked.emit("choose", item.element)


def _wanted_width(part: Part) -> float:
    """In proportion to its label; a joint is narrow."""
    return 14.0 if part.kind in _JOINTS else max(64.0, 26.0 + 7.2 * len(part.label))


def _worst_overloads(plan: LevelPlan | None) -> dict[str, Overload]:
    """The overload furthest over its limit of each part that has one."""
    return {over.element: over for over in sorted(plan.overloads, key=lambda item: item.times)} if plan else {}


def _overload_text(over: Overload) -> str:
    """What a part says of itself, with a sign: to be watched, or a stop."""
    return f"{'●' if over.is_marginal else '✕'} limit {plain(over.limit, 'W' if over.what == 'power' else 'V', 3)}"
