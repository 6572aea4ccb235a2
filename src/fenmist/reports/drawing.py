"""A chart on paper: SVG from the chart's description, with text as text and the same bytes each time."""

import io
import threading
from typing import Any

from fenmist.procedures.page import YEARS, Chart
from fenmist.reports.fonts import SANS, SANS_FAMILY, font_file

INK, SECOND, HAIRLINE, TEAL, WASH = "#1B2A30", "#50626B", "#C9D3D7", "#0E5A66", "#D3E6E8"
_DRAWING = threading.Lock()
"""The drawing library's settings are global: a preview and a page being written must not meet in them."""

_MARKERS = ("o", "s", "^", "D", "v", "P", "X")


def chart_png(chart: Chart, dots_per_inch: float = 200.0) -> bytes:
    """The same drawing as a picture, on white."""
    return _drawn(chart, 170.0, 62.0, {"format": "png", "dpi": dots_per_inch, "facecolor": "white"})


def chart_svg(chart: Chart, width_mm: float = 170.0, height_mm: float = 62.0) -> bytes:
    """Draw the chart; corridor as a wash, points with bars, a key where there are several levels."""
    how = {"format": "svg", "metadata": {"Date": None, "Creator": "Fenmist"}, "transparent": True}
    return _drawn(chart, width_mm, height_mm, how)


def _drawn(chart: Chart, width_mm: float, height_mm: float, how: dict[str, Any]) -> bytes:
    import matplotlib as mpl  # 0.3 s to import: on first use
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.backends.backend_svg import FigureCanvasSVG
    from matplotlib.figure import Figure
    from matplotlib.font_manager import FontProperties

    font = FontProperties(family=SANS_FAMILY, fname=str(font_file(SANS)), size=7.5)
    with _DRAWING, mpl.rc_context({"svg.fonttype": "none", "svg.hashsalt": "fenmist", "axes.unicode_minus": True}):
        figure = Figure(figsize=(width_mm / 25.4, height_mm / 25.4))
        canvas = FigureCanvasSVG if how["format"] == "svg" else FigureCanvasAgg
        canvas(figure)
        axes = figure.add_axes((0.075, 0.16, 0.855, 0.74))
        draw_on(axes, chart, font)
        out = io.BytesIO()
        figure.savefig(out, **how)
    return out.getvalue()


def draw_on(axes: Any, chart: Chart, font: Any) -> None:
    """Draw a chart on axes of the drawing library; `font` is one of its font properties."""
    for side in ("top", "right", "left"):
        axes.spines[side].set_visible(False)
    axes.spines["bottom"].set_color(HAIRLINE)
    axes.axhline(0.0, color=HAIRLINE, linewidth=0.8)
    spread = 0.0 if chart.over == YEARS else max(chart.places, default=1.0) * 0.009
    drawn: set[int] = set()
    for number, line in enumerate(chart.series):
        if line.group not in drawn and any(p.tolerance for p in line.points):
            _corridor(axes, [(p.x, p.tolerance) for p in line.points], len(drawn))
        named = line.label if line.group not in drawn else None
        drawn.add(line.group)
        x = [point.x + (number - (len(chart.series) - 1) / 2) * spread for point in line.points]
        edge = 1.06 * chart.reach
        y, low, high = (
            [min(max(getattr(p, name), -edge), edge) for p in line.points] for name in ("value", "low", "high")
        )
        if line.between:
            shift = (number - (len(chart.series) - 1) / 2) * spread
            style = "-" if line.solid else ":"
            axes.plot(
                [p + shift for p, _ in line.between], [e for _, e in line.between], style, color=TEAL, linewidth=0.7
            )
        bars = [[e - a for e, a in zip(y, low, strict=True)], [b - e for e, b in zip(y, high, strict=True)]]
        axes.errorbar(
            x, y, yerr=bars, color=TEAL, fmt=_MARKERS[line.group % len(_MARKERS)], markersize=3.6, linewidth=0.8,
            markerfacecolor=TEAL if line.solid else "white", markeredgewidth=0.8, capsize=2.0, label=named,
        )  # fmt: skip
    if len(chart.groups) > 1 or chart.phases_said:
        key = axes.legend(
            loc="lower right", bbox_to_anchor=(1.0, 0.99), frameon=False, ncols=len(chart.groups), prop=font,
            labelcolor=INK, borderpad=0.0,
        )  # fmt: skip
        key.set_zorder(3)
    reach = 1.1 * chart.reach
    axes.set_ylim(-reach, reach)
    axes.set_xticks(*zip(*chart.ticks, strict=True)) if chart.ticks else axes.set_xticks([])
    axes.tick_params(length=2, color=HAIRLINE)
    for label in (*axes.get_xticklabels(), *axes.get_yticklabels()):
        label.set_fontproperties(font)
        label.set_color(SECOND)
    axes.set_xlabel(chart.axis_title, fontproperties=font, color=SECOND)
    axes.set_ylabel(chart.value_title, fontproperties=font, color=SECOND)


def _corridor(axes: Any, points: list[tuple[float, float]], number: int) -> None:
    """The tolerance of one level: a wash for the first, a dashed edge for the others."""
    x, y = [point[0] for point in points], [point[1] for point in points]
    if len(x) == 1:
        x, y = [x[0] * 0.97, x[0] * 1.03], [y[0], y[0]]
    lower = [-value for value in y]
    if number == 0:
        axes.fill_between(x, lower, y, color=WASH, linewidth=0)
        return
    for edge in (y, lower):
        axes.plot(x, edge, color=TEAL, linewidth=0.7, linestyle=(0, (3, 2)))
