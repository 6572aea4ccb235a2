"""The line: the RF path as it is plugged together, source to load, with what hangs on it.

Full size in the hook-up step, a slim strip at the top of the others. Each connector carries a flag with its planned
level; what is over its rating says so on the part itself; the plane where power is stated is marked.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from fenmist.calibration.job import Job
from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.painted import Painted
from fenmist.hookup.levels import LevelPlan, PlaneLevel
from fenmist.hookup.line import branches, main_line
from fenmist.judgement.job_rules import highest_level
from fenmist.kit.part import PartKind
from fenmist.units.display import frequency, plain, rounded, with_unit
from fenmist.units.level import dbm_from_watts

UNITS = ("W", "dBm", "V")


@dataclass(frozen=True)
class Placed:
    """An element where it is drawn."""

    element: str
    label: str
    kind: PartKind
    box: QRectF
    over: str = ""  # what it says when over its rating


class LineView(Painted):
    """Paints a hook-up; the full one can be walked and edited by keyboard."""

    part_wanted = Signal(str)  # element whose part is to be chosen
    jumper_wanted = Signal(bool)
    unit_changed = Signal()

    def __init__(self, themes: ThemeHolder, slim: bool = False) -> None:
        super().__init__()
        self._themes = themes
        self._slim = slim
        self._job: Job | None = None
        self._plan: LevelPlan | None = None
        self.selected = 0
        self.unit = "W"
        self.setAccessibleName("the line")
        self.be_high(60 if slim else 226)
        if not slim:
            self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def sizeHint(self) -> QSize:
        return QSize(px(800), self.height())

    def show_job(self, job: Job) -> None:
        """Draw a job's hook-up with the levels of its highest planned power."""
        former, self._job = self._job, job
        if former is not None and all(
            getattr(former, name) is getattr(job, name) for name in ("plan", "hookups", "kit", "dut")
        ):
            return  # entries change nothing on the line
        self._plan = highest_level(job)
        self._describe()
        self.update()

    # what is where

    def placed(self) -> tuple[Placed, ...]:
        """All elements with their boxes: the line first, then what hangs."""
        if self._job is None:
            return ()
        hookup, parts = self._job.hookups[0], self._job.parts
        over = _overload_texts(self._plan)
        names = main_line(hookup, parts)
        gap = 94.0 if self._slim else 88.0
        height, top = (24.0, 20.0) if self._slim else (42.0, 74.0)
        room = self.across() - 30.0
        widths = _widths(self._job, names, room - gap * (len(names) - 1))
        gap = max(gap, min(170.0, (room - sum(widths.values())) / max(len(names) - 1, 1)))
        found: list[Placed] = []
        x = 14.0
        for name in names:
            part = self._job.part(hookup.element(name).part)
            found.append(Placed(name, part.label, part.kind, QRectF(x, top, widths[name], height), over.get(name, "")))
            x += widths[name] + gap
        if not self._slim:
            found += self._hanging(found, over)
        return tuple(found)

    def _hanging(self, line: list[Placed], over: Mapping[str, str]) -> list[Placed]:
        if self._job is None:
            return []
        hookup, parts = self._job.hookups[0], self._job.parts
        found: list[Placed] = []
        by_name = {item.element: item for item in line}
        for tee, names in branches(hookup, parts).items():
            gaps = 74.0 * (len(names) - 1)
            widths = _widths(self._job, names, self.across() - 28.0 - gaps)
            total = sum(widths.values()) + gaps
            x = min(by_name[tee].box.center().x() - widths[names[0]] / 2.0, self.across() - 14.0 - total)
            for name in names:
                part = self._job.part(hookup.element(name).part)
                box = QRectF(x, 154.0, widths[name], 42.0)
                found.append(Placed(name, part.label, part.kind, box, over.get(name, "")))
                x += widths[name] + 74.0
        return found

    def level_text(self, level: PlaneLevel) -> str:
        """A plane's planned level in the unit chosen; volts on a branch, where nothing else means anything."""
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
        self.setAccessibleDescription(f"{item.kind}: {item.label}{', ' + item.over if item.over else ''}")

    # painting

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = self.painter()
        placed = self.placed()
        if not placed or self._job is None:
            return
        self._paint_wires(painter, placed)
        for number, item in enumerate(placed):
            self._paint_part(painter, item, selected=self.hasFocus() and number == self.selected)
        self._paint_stated(painter, placed)
        if not self._slim and self._plan is not None:
            painter.setPen(self._themes.theme.color("second"))
            painter.setFont(sans(12))
            planned = f"{plain(self._plan.power_w, 'W')} at {frequency(self._plan.frequency_hz)}"
            said = f"Levels as planned: {planned}, carrier on."
            painter.drawText(QRectF(14, 190, 460, 18), Qt.AlignmentFlag.AlignVCenter, said)

    def _paint_wires(self, painter: QPainter, placed: tuple[Placed, ...]) -> None:
        theme = self._themes.theme
        line = [item for item in placed if item.box.top() < 100.0]
        painter.setPen(QPen(theme.color("teal"), 2.0 if self._slim else 2.5))
        for left, right in pairwise(line):
            y = left.box.center().y()
            painter.drawLine(QPointF(left.box.right(), y), QPointF(right.box.left(), y))
            self._paint_flag(painter, left, right, y)
        hanging = [item for item in placed if item.box.top() >= 100.0]
        tee = next((item for item in line if item.kind is PartKind.TEE), None)
        if tee is None or not hanging:
            return
        painter.setPen(QPen(theme.color("teal"), 1.5))
        start, first = tee.box.center(), hanging[0].box
        x = min(max(start.x(), first.left() + 8.0), first.right() - 8.0)
        bend = first.top() - 10.0
        painter.drawPolyline(QPolygonF([start, QPointF(start.x(), bend), QPointF(x, bend), QPointF(x, first.top())]))
        for left, right in pairwise(hanging):
            y = left.box.center().y()
            painter.setPen(QPen(theme.color("teal"), 1.5))
            painter.drawLine(QPointF(left.box.right(), y), QPointF(right.box.left(), y))
            self._paint_flag(painter, left, right, y)

    def _paint_flag(self, painter: QPainter, left: Placed, right: Placed, y: float) -> None:
        level = self._level_between(left, right)
        if level is None or (self._slim and left.kind is not PartKind.INLINE_METER):
            return
        painter.save()
        painter.setPen(self._themes.theme.color("second"))
        painter.setFont(sans(12))
        text = self.level_text(level)
        if self._slim:
            text = f"planned {text}"
        middle = (left.box.right() + right.box.left()) / 2.0
        place, align = QRectF(middle - 60, y - 22, 120, 16), Qt.AlignmentFlag.AlignCenter
        if self._slim:
            place, align = QRectF(left.box.right() + 8, y + 4, 120, 16), Qt.AlignmentFlag.AlignLeft
        painter.drawText(place, align, text)
        painter.restore()

    def _level_between(self, left: Placed, right: Placed) -> PlaneLevel | None:
        if self._plan is None or self._job is None:
            return None
        hookup = self._job.hookups[0]
        for joint in hookup.joints:
            if {joint.a[0], joint.b[0]} == {left.element, right.element}:
                return self._plan.at(*joint.b) or self._plan.at(*joint.a)
        return None

    def _paint_part(self, painter: QPainter, item: Placed, selected: bool) -> None:
        theme = self._themes.theme
        edge = "stop" if item.over else "teal"
        painter.setPen(QPen(theme.color(edge), 2.5 if selected or item.over else 1.5))
        painter.setBrush(theme.color("teal_wash" if selected else "rust_wash" if item.over else "paper"))
        if item.kind is PartKind.TEE:
            painter.drawEllipse(item.box.center(), 6.0, 6.0)
            painter.setPen(theme.color("second"))
            painter.setFont(sans(12))
            middle = item.box.center()
            if self._slim:
                # between the tee and the next part on the line
                below = QRectF(middle.x() + 8, middle.y() + 4, 84, 16)
                said = self._hanging_text(item)
                said = painter.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, int(below.width()))
                painter.drawText(below, Qt.AlignmentFlag.AlignLeft, said)
            else:
                below = QRectF(middle.x() - 116, middle.y() + 9, 106, 16)
                painter.drawText(below, Qt.AlignmentFlag.AlignRight, item.label)
            return
        radius = item.box.height() / 2.0 if item.kind is PartKind.TRANSMITTER else 3.0
        painter.drawRoundedRect(item.box, radius, radius)
        painter.setPen(theme.color("ink"))
        painter.setFont(sans(12 if self._slim else 13))
        under = item.over or self._role_text(item)
        name = painter.fontMetrics().elidedText(item.label, Qt.TextElideMode.ElideRight, int(item.box.width()) - 8)
        if self._slim or not under:
            painter.drawText(item.box, Qt.AlignmentFlag.AlignCenter, name)
            return
        painter.drawText(item.box.adjusted(0, 4, 0, -18), Qt.AlignmentFlag.AlignCenter, name)
        painter.setFont(sans(11, 600 if item.over else 400))
        painter.setPen(theme.color("stop" if item.over else "second"))
        painter.drawText(item.box.adjusted(0, 20, 0, -2), Qt.AlignmentFlag.AlignCenter, under)

    def _hanging_text(self, tee: Placed) -> str:
        """What hangs on a tee, from the far end: the instrument that is read comes first."""
        if self._job is None:
            return ""
        hookup, parts = self._job.hookups[0], self._job.parts
        names = branches(hookup, parts).get(tee.element, ())
        return ", ".join(parts[hookup.element(name).part].label for name in reversed(names))

    def _role_text(self, item: Placed) -> str:
        if self._job is None:
            return ""
        on_it = self._job.hookups[0].element(item.element).part
        return "under test" if on_it == self._job.dut else ""

    def _paint_stated(self, painter: QPainter, placed: tuple[Placed, ...]) -> None:
        if self._job is None:
            return
        stated = self._job.hookups[0].stated
        item = next((one for one in placed if one.element == stated.element), None)
        if item is None:
            return
        x, y = item.box.right() + 5.0, item.box.top() - (6.0 if self._slim else 30.0)
        painter.setPen(QPen(self._themes.theme.color("rust"), 1.0, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(x, y), QPointF(x, item.box.center().y()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._themes.theme.color("rust"))
        painter.drawPolygon(QPolygonF([QPointF(x - 6, y - 8), QPointF(x + 6, y - 8), QPointF(x, y)]))
        painter.setPen(self._themes.theme.color("rust"))
        painter.setFont(sans(12))
        kind = str(self._job.methods[0].measurand.kind).split()[0]
        text = f"stated here, {kind}" if self._slim else f"power stated here, {kind}"
        painter.drawText(QRectF(x + 11, y - 13, 260, 16), Qt.AlignmentFlag.AlignVCenter, text)

    # keyboard and mouse

    def keyPressEvent(self, event: QKeyEvent) -> None:
        placed = self.placed()
        key = event.key()
        if not placed or self._slim:
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._select(self.selected + (1 if key == Qt.Key.Key_Right else -1))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.part_wanted.emit(placed[self.selected].element)
        elif key == Qt.Key.Key_U:
            self.unit = UNITS[(UNITS.index(self.unit) + 1) % len(UNITS)]
            self.unit_changed.emit()
            self.update()
        elif key == Qt.Key.Key_Insert:
            self.jumper_wanted.emit(True)
        elif key == Qt.Key.Key_Delete and placed[self.selected].kind is PartKind.JUMPER:
            self.jumper_wanted.emit(False)
        else:
            super().keyPressEvent(event)

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
                self.part_wanted.emit(item.element)


def _overload_texts(plan: LevelPlan | None) -> dict[str, str]:
    if plan is None:
        return {}
    return {
        over.element: f"✕ limit {plain(over.limit, 'W' if over.what == 'power' else 'V', 3)}" for over in plan.overloads
    }


def _widths(job: Job, names: tuple[str, ...], room: float) -> dict[str, float]:
    """Box widths in proportion to the labels, a tee narrow, all within the room."""
    hookup = job.hookups[0]
    wanted = {}
    for name in names:
        part = job.part(hookup.element(name).part)
        wanted[name] = 14.0 if part.kind is PartKind.TEE else max(64.0, 26.0 + 7.2 * len(part.label))
    scale = min(1.0, room / sum(wanted.values())) if wanted else 1.0
    return {name: width * scale for name, width in wanted.items()}
