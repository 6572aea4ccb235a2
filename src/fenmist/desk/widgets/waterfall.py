"""From the raw volts to the corrected power, a step a row: each can be left out to see what it was worth."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPaintEvent, QPen
from PySide6.QtWidgets import QCheckBox, QGridLayout, QLabel, QWidget

from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.labels import label, set_text
from fenmist.desk.widgets.painted import Painted
from fenmist.methods.power_from_volts import Correction, PowerAnswer
from fenmist.units.display import plain, rounded, with_uncertainty

_HEIGHT = 24


class StepBar(Painted):
    """Where one step leads from and to, on the scale of all."""

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self.ends = (0.0, 0.0)
        self.scale = (0.0, 1.0)
        self.applied = True
        self.total = False
        self.be_high(_HEIGHT)
        self.setMinimumWidth(px(120))

    def sizeHint(self) -> QSize:
        return QSize(px(220), px(_HEIGHT))

    def show_step(self, ends: tuple[float, float], scale: tuple[float, float], applied: bool, total: bool) -> None:
        """Ends in W; a total is a whole bar with U as its ends' distance from the middle."""
        self.ends, self.scale, self.applied, self.total = ends, scale, applied, total
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        theme = self._themes.theme
        painter = self.painter()
        low, high = self.scale

        def x(value: float) -> float:
            return 2 + (self.across() - 4) * (value - low) / (high - low)

        first, last = sorted(self.ends)
        bar = QRectF(x(first), 6, max(x(last) - x(first), 1.5), _HEIGHT - 12)
        if not self.applied:
            painter.setPen(QPen(theme.color("second"), 1, Qt.PenStyle.DashLine))
            painter.drawRect(bar)
            return
        if self.total:
            middle = (first + last) / 2.0
            painter.fillRect(QRectF(x(low), 8, x(middle) - x(low), _HEIGHT - 16), theme.color("teal_wash"))
            painter.setPen(QPen(theme.color("teal"), 2))
            painter.drawLine(int(x(middle)), 5, int(x(middle)), _HEIGHT - 5)
            painter.setPen(QPen(theme.color("teal"), 1))
            painter.drawLine(int(x(first)), _HEIGHT // 2, int(x(last)), _HEIGHT // 2)
            return
        painter.fillRect(bar, theme.color("rust" if self.ends[1] < self.ends[0] else "teal"))


class Waterfall(QWidget):
    """Rows: a box to leave the step out, its bar, dB, the power after it, and why."""

    switched = Signal(frozenset)  # names of the corrections left out

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(12)
        self._grid.setVerticalSpacing(1)
        self._grid.setColumnStretch(1, 1)
        self.boxes: dict[str, QCheckBox] = {}
        self._rows: dict[str, tuple[QLabel | QCheckBox, StepBar, QLabel, QLabel, QLabel]] = {}
        self.setAccessibleName("from the raw volts to the power")

    @property
    def left_out(self) -> frozenset[str]:
        """Names of the corrections whose boxes are empty."""
        return frozenset(name for name, box in self.boxes.items() if not box.isChecked())

    def show_answer(self, answer: PowerAnswer | None) -> None:
        """Show the steps of an answer, or none."""
        steps = answer.corrections if answer else ()
        names = ["raw", *(step.name for step in steps), "net", "incident"] if answer else []
        if names != list(self._rows):
            self._make_rows(names, steps)
        if answer is not None:
            self._fill(answer)

    def _make_rows(self, names: list[str], steps: tuple[Correction, ...]) -> None:
        for row in self._rows.values():
            for widget in row:
                self._grid.removeWidget(widget)
                widget.deleteLater()
        self._rows, kept = {}, self.left_out
        self.boxes = {}
        correctable = {step.name for step in steps}
        for place, name in enumerate(names):
            head: QLabel | QCheckBox = label("", "")
            if name in correctable:
                head = QCheckBox(name)
                head.setChecked(name not in kept)
                head.setAccessibleName(f"correct for {name}")
                head.toggled.connect(lambda _=False: self.switched.emit(self.left_out))
                self.boxes[name] = head
            row = (head, StepBar(self._themes), label(), label(), label("", "second"))
            for column, widget in enumerate(row):
                self._grid.addWidget(widget, place, column)
            self._rows[name] = row

    def _fill(self, answer: PowerAnswer) -> None:
        power = answer.vrms_v**2 / 50.0
        ends: dict[str, tuple[float, float]] = {"raw": (power, power)}
        for step in answer.corrections:
            ends[step.name] = (power, power * step.factor)
            power *= step.factor if step.applied else 1.0
        low, high = answer.net_interval_w
        incident, u = float(answer.incident.value[0]), float(answer.incident.expanded_u[0])
        ends |= {"net": (low, high), "incident": (incident - u, incident + u)}
        everything = [end for pair in ends.values() for end in pair]
        margin = 0.08 * (max(everything) - min(everything)) + 1e-12
        scale = (min(everything) - margin, max(everything) + margin)
        self._say("raw", "V²/50 Ω", "", plain(answer.vrms_v**2 / 50.0, "W"), f"{plain(answer.vrms_v, 'V')} rms as read")
        power = answer.vrms_v**2 / 50.0
        for step in answer.corrections:
            power *= step.factor if step.applied else 1.0
            after = plain(power, "W") if step.applied else "left out"
            self._say(step.name, None, f"{rounded(step.db, 2, plus=True)} dB", after, step.why)
        net = answer.net
        shown = with_uncertainty(float(net.value[0]), float(net.expanded_u[0]), "W")
        self._say("net", "net in the load", "", shown, answer.interval_text or f"U, k = {net.k[0]:.2f}")
        self._say("incident", "incident there", "", with_uncertainty(incident, u, "W"), "what a forward scale shows")
        applied = {step.name: step.applied for step in answer.corrections}
        for name, row in self._rows.items():
            row[1].show_step(ends[name], scale, applied.get(name, True), name in ("net", "incident", "raw"))

    def _say(self, name: str, head: str | None, db: str, power: str, why: str) -> None:
        first, bar, *rest = self._rows[name]
        if head is not None and isinstance(first, QLabel):
            set_text(first, head)
        for widget, text in zip(rest, (db, power, why), strict=True):
            set_text(widget, text)
        bar.setAccessibleName(f"{name}: {power} {db}".strip())
