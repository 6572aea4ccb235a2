"""Error against frequency with U bars and tolerance corridor; pens from the theme.

The plotting library is imported when the plot is first shown, and redrawn at most once in 50 ms.
"""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from fenmist.calibration.outcome import Stated
from fenmist.desk.listening import listen_while_alive
from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.labels import label, set_text
from fenmist.procedures.charts import stated_point
from fenmist.procedures.page import FREQUENCY, LEVEL, YEARS, Chart

COALESCE_MS = 50

SOON_MS = 120
"""After a key: a chart of many points takes longer than any key, and half of this is over before it is painted on a
slow machine.
"""

BESIDE = 0.03
"""Part of the width within which points stand beside each other under the mouse."""

_UNITS = {FREQUENCY: "MHz", LEVEL: "W", YEARS: ""}
_SYMBOLS = ("o", "s", "t1", "d", "t", "+", "x")


class ErrorPlot(QWidget):
    """The error chart on screen."""

    def __init__(self, themes: ThemeHolder, compact: bool = False) -> None:
        super().__init__()
        self._themes = themes
        self._compact = compact
        self._chart = Chart(())
        self._draft: Stated | None = None
        self._chosen = ""
        self._plot: Any = None
        self._cross: list[Any] = []
        self._later: Callable[[], None] | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._on_due)
        self._box = box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(2)
        self.key = label("", "second", wrap=True)
        self.key.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Maximum)
        self.key.setAlignment(Qt.AlignmentFlag.AlignRight)
        box.addWidget(self.key)
        self.values = label("", "second", "values at the crosshair")
        box.addWidget(self.values)
        if compact:
            self.values.hide()
        self.setAccessibleName("error over frequency")
        listen_while_alive(self, themes.changed, self._redraw)

    def show_chart(self, chart: Chart, draft: Stated | None = None, chosen: str = "") -> None:
        """Show a chart, with a draft point hollow and a chosen point ringed."""
        self._chart, self._draft, self._chosen = chart, draft, chosen
        self._describe()
        if not self._timer.isActive():
            self._timer.start(COALESCE_MS)

    def show_chart_soon(self, chart: Callable[[], Chart], draft: Callable[[], Stated | None]) -> None:
        """Work the chart out and show it once the key is painted that asks for it, for all that ask until then."""
        is_waiting = self._later is not None
        self._later = lambda: self.show_chart(chart(), draft())
        if not is_waiting:  # readings by wire may come without end: they don't put it off
            self._timer.start(SOON_MS)

    def _describe(self) -> None:
        points = [point for line in self._chart.series for point in line.points]
        worst = max(points, key=lambda point: abs(point.value), default=None)
        said = ""
        if worst:
            largest = f"largest {self._chart.quantity} {worst.value:.1f} {self._chart.unit}"
            said = f"{len(points)} points; {largest} at {worst.x:g} {_UNITS[self._chart.over]}"
        self.setAccessibleDescription(said or "no points yet")

    def _show_cross(self, point: Any) -> None:
        """Lines through a point and its values in words; none takes them away."""
        if self._plot is None or self._compact:
            return
        for line, value in zip(self._cross, (point.x, point.value) if point else (None, None), strict=True):
            line.setVisible(value is not None)
            if value is not None:
                line.setPos(value)
        set_text(self.values, self._chart.said_at(point) if point else "")

    def _on_mouse(self, position: Any) -> None:
        """The point nearest across, of several beside each other nearest in height; off the drawing, the chosen one."""
        box = self._plot.vb
        if not box.sceneBoundingRect().contains(position):
            self._show_cross(self._chosen_point())
            return
        at = box.mapSceneToView(position)
        low, high = box.viewRange()[0]
        across = [
            (abs(point.x + self._shift(number) - at.x()), point)
            for number, line in enumerate(self._chart.series)
            for point in line.points
        ]
        beside = min((off for off, _ in across), default=0.0) + BESIDE * (high - low)
        near = (point for off, point in across if off <= beside)
        self._show_cross(min(near, key=lambda point: abs(point.value - at.y()), default=None))

    def _chosen_point(self) -> Any:
        points = (point for line in reversed(self._chart.series) for point in line.points)
        return next((point for point in points if point.point_id == self._chosen), None)

    def _on_due(self) -> None:
        if self._later is not None:
            later, self._later = self._later, None
            later()
            return
        self._redraw()

    def _redraw(self) -> None:
        if not self.isVisible():
            return
        if self._plot is None:
            self._make()
        self._plot.clear()
        self._widget.setVisible(bool(self._chart.series) or self._draft is not None)
        theme = self._themes.theme
        import pyqtgraph as pg

        self._plot.addItem(pg.InfiniteLine(pos=0, angle=0, pen=pg.mkPen(theme.color("hairline"), width=1)))
        corridors = {line.group: line.points for line in reversed(self._chart.series)}
        for number, group in enumerate(sorted(corridors)):
            if any(point.tolerance for point in corridors[group]):
                self._draw_corridor(pg, corridors[group], number)
        for number, line in enumerate(self._chart.series):
            self._draw_series(pg, line, number)
        self._draw_draft(pg)
        for line in self._cross:
            line.setPen(pg.mkPen(theme.color("second"), width=1, style=Qt.PenStyle.DotLine))
            self._plot.addItem(line, ignoreBounds=True)
        self._show_cross(self._chosen_point())
        self._style_axes(pg)
        set_text(self.key, _key_text(self._chart))

    def _make(self) -> None:
        import pyqtgraph as pg  # 0.6 s to import: on first use

        pg.setConfigOptions(antialias=True)
        widget = pg.PlotWidget()
        widget.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        widget.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Ignored)
        widget.setMenuEnabled(False)
        widget.setMouseEnabled(False, False)
        widget.hideButtons()
        widget.setAccessibleName("error over frequency, drawing")
        self._box.addWidget(widget, 1)
        self._widget = widget
        self._plot = widget.getPlotItem()
        self._plot.layout.setContentsMargins(0, px(7), 0, 0)  # half a tick's label at the top
        if not self._compact:
            self._cross = [pg.InfiniteLine(angle=90), pg.InfiniteLine(angle=0)]
            widget.scene().sigMouseMoved.connect(self._on_mouse)

    def _draw_corridor(self, pg: Any, points: tuple[Any, ...], number: int) -> None:
        theme = self._themes.theme
        x = [point.x for point in points]
        y = [point.tolerance for point in points]
        if len(x) == 1:
            x, y = [x[0] * 0.97, x[0] * 1.03], [y[0], y[0]]
        if number == 0:
            clear = pg.mkPen((0, 0, 0, 0))
            upper, lower = pg.PlotDataItem(x, y, pen=clear), pg.PlotDataItem(x, [-v for v in y], pen=clear)
            self._plot.addItem(pg.FillBetweenItem(upper, lower, brush=theme.color("teal_wash")))
            return
        pen = pg.mkPen(theme.color("teal"), width=1, style=Qt.PenStyle.DashLine)
        for sign in (1, -1):
            self._plot.addItem(pg.PlotDataItem(x, [sign * v for v in y], pen=pen))

    def _draw_series(self, pg: Any, line: Any, number: int) -> None:
        theme = self._themes.theme
        import numpy as np

        shift = self._shift(number)
        x = np.array([point.x + shift for point in line.points])
        edge = 0.97 * self._reach()
        y, high, low = (
            np.clip([getattr(point, name) for point in line.points], -edge, edge) for name in ("value", "high", "low")
        )
        above, below = high - y, y - low
        pen = pg.mkPen(theme.color("teal"), width=1)
        if line.between:
            places, errors = zip(*line.between, strict=True)
            style = Qt.PenStyle.SolidLine if line.solid else Qt.PenStyle.DotLine
            drawn = pg.mkPen(theme.color("teal"), width=1, style=style)
            self._plot.addItem(pg.PlotDataItem(np.array(places) + shift, np.array(errors), pen=drawn))
        self._plot.addItem(pg.ErrorBarItem(x=x, y=y, top=above, bottom=below, beam=self._span() * 0.004, pen=pen))
        brush = theme.color("teal") if line.solid else theme.color("mist")
        self._plot.addItem(
            pg.ScatterPlotItem(x=x, y=y, symbol=_SYMBOLS[line.group % len(_SYMBOLS)], size=8, pen=pen, brush=brush)
        )
        for point, at in zip(line.points, x, strict=True):
            if point.point_id == self._chosen:
                ring = pg.mkPen(theme.color("rust"), width=2)
                place = float(np.clip(point.value, -edge, edge))
                self._plot.addItem(pg.ScatterPlotItem(x=[at], y=[place], size=16, pen=ring, brush=None))

    def _draw_draft(self, pg: Any) -> None:
        if self._draft is None:
            return
        theme = self._themes.theme
        if self._chart.over == YEARS:
            return
        point = stated_point(self._draft, self._chart.over)
        x, y, bar = point.x, point.value, self._draft.share_scale * self._draft.expanded_u_share
        pen = pg.mkPen(theme.color("rust"), width=1, style=Qt.PenStyle.DashLine)
        self._plot.addItem(pg.PlotDataItem([x, x], [y - bar, y + bar], pen=pen))
        edge = pg.mkPen(theme.color("rust"), width=1)
        self._plot.addItem(pg.ScatterPlotItem(x=[x], y=[y], size=9, pen=edge, brush=theme.color("mist")))

    def _span(self) -> float:
        found = self._chart.places
        least = 1.0 if self._chart.over == YEARS else 0.1 * found[-1] if found else 1.0
        return max(found[-1] - found[0], least) if found else 1.0

    def _shift(self, number: int) -> float:
        if self._chart.over == YEARS:
            return 0.0
        return (number - (len(self._chart.series) - 1) / 2.0) * self._span() * 0.014

    def _reach(self) -> float:
        draft = 0.0
        if self._draft is not None:
            draft = self._draft.share_scale * (abs(self._draft.share) + self._draft.expanded_u_share)
        return 1.1 * max(self._chart.reach, min(draft, 200.0))

    def _style_axes(self, pg: Any) -> None:
        theme = self._themes.theme
        self._widget.setBackground(theme.color("mist"))
        reach, found = self._reach(), self._chart.places
        self._plot.setYRange(-reach, reach, padding=0)
        if found:
            self._plot.setXRange(found[0] - 0.09 * self._span(), found[-1] + 0.1 * self._span(), padding=0)
        for side in ("left", "bottom"):
            axis = self._plot.getAxis(side)
            axis.setPen(pg.mkPen(theme.color("hairline")))
            axis.setTextPen(theme.color("second"))
            axis.setTickFont(sans(px(11)))
            axis.setStyle(tickLength=3)
        self._plot.getAxis("left").setWidth(46)
        self._plot.getAxis("bottom").setTicks([list(self._chart.ticks)])
        self._plot.getAxis("left").setTicks([_ticks(reach)])
        if not self._compact:
            style = {"color": theme.second, "font-size": f"{px(12)}px"}
            self._plot.setLabel("bottom", self._chart.axis_title, **style)
            self._plot.setLabel("left", self._chart.value_title, **style)
            self._plot.getAxis("left").setWidth(66)
            for side in ("left", "bottom"):
                self._plot.getAxis(side).label.setFont(sans(px(12)))


def _key_text(chart: Chart) -> str:
    """Which sign is which level or frequency, and what corridor belongs to it."""
    signs = ("●", "■", "▲", "◆", "▼", "+", "×")
    said = [f"{signs[group % len(signs)]} {name}" for group, name in chart.groups]
    if not said:
        return ""
    first = chart.groups[0][1]
    corridor = "corridor: tolerance" if len(said) == 1 else f"wash: tolerance at {first}, dashed: others"
    if not any(point.tolerance for line in chart.series for point in line.points):
        corridor = ""
    return "    ".join(text for text in (*said, chart.phases_said, "bars: U", corridor) if text)


def _ticks(reach: float) -> list[tuple[float, str]]:
    """A few round values on both sides of zero, with true minus."""
    step = next((s for s in (0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500) if reach / s <= 2.9), 1000)
    count = int(reach // step)
    return [(n * step, f"{'+' if n > 0 else '−' if n < 0 else ''}{abs(n * step):g}") for n in range(-count, count + 1)]
