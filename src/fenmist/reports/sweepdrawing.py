"""A figure over frequency as a drawing: the corridor that is asked for, the design, what was measured with its U."""

import math
from collections.abc import Iterator
from itertools import pairwise

from fenmist.procedures.page import Sweep, SweepLine
from fenmist.reports.strokes import Inks, centred, line, sheet, text, wash

HEIGHT = 212.0
LEFT, RIGHT, TOP, BOTTOM = 52.0, 18.0, 30.0, 36.0
_STEPS = (1.0, 2.0, 5.0)
_NARROW_DB = 8.0


def height_of(_picture: Sweep) -> float:
    """Height of the drawing in the units of its width."""
    return HEIGHT


def sweep_svg(picture: Sweep, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    return sheet(_body(picture, inks, width), inks, width, HEIGHT)


def _body(picture: Sweep, inks: Inks, width: float) -> Iterator[str]:
    places = [f for item in picture.lines for f, _ in item.points]
    first, last, reach = math.log(min(places)), math.log(max(places)), picture.reach
    bottom = HEIGHT - BOTTOM

    def x(f: float) -> float:
        at = min(max(math.log(f), first), last)
        return LEFT + (width - LEFT - RIGHT) * (at - first) / ((last - first) or 1.0)

    def y(value: float) -> float:
        off = min(max(value - picture.aim, -reach), reach)
        return TOP + (bottom - TOP) * (1.0 + off / reach) / 2.0  # more dB lie lower: less comes out

    unit = f" in {picture.unit}" if picture.unit else ""
    yield text(LEFT, 14.0, f"{picture.value_title}{unit}, over MHz", inks.second, "start")
    yield wash(x(picture.low), TOP, x(picture.high) - x(picture.low), bottom - TOP, inks.wash, ' opacity="0.45"')
    for value in (picture.aim - picture.within, picture.aim + picture.within):
        yield line(LEFT, y(value), width - RIGHT, y(value), inks.teal, 0.8, "2 3")
    yield line(LEFT, y(picture.aim), width - RIGHT, y(picture.aim), inks.hairline, 1.0)
    for value in (picture.aim - reach, picture.aim, picture.aim + reach):
        yield text(LEFT - 7.0, y(value) + 4.0, f"{value:.4g}", inks.second, "end")
    yield line(LEFT, bottom, width - RIGHT, bottom, inks.hairline, 1.5)
    for tick in _ticks(math.exp(first), math.exp(last)):
        yield line(x(tick), bottom, x(tick), bottom + 4.0, inks.second)
        yield centred(x(tick), bottom + 16.0, f"{tick:g}", inks.second)
    for (f, low, high), (after, *_) in pairwise(picture.measured_u):
        yield wash(x(f), y(low), x(after) - x(f), max(y(high) - y(low), 1.0), inks.rust, ' opacity="0.16"')
    for item in picture.lines:
        yield from _curve(item, inks, x, y)
    names = [(item.name, _ink(item, inks)) for item in picture.lines]
    at = width - RIGHT
    for name, ink in reversed(names):
        yield text(at, 14.0, name, ink, "end")
        at -= 7.0 * len(name) + 14.0


def _curve(item: SweepLine, inks: Inks, x, y) -> Iterator[str]:  # type: ignore[no-untyped-def]
    dash, wide = (' stroke-dasharray="5 4"', 1.2) if item.role == "beside" else ("", 2.0)
    way = " L".join(f"{x(f):.1f} {y(value):.1f}" for f, value in item.points)
    yield f'<path d="M{way}" fill="none" stroke="{_ink(item, inks)}" stroke-width="{wide:g}"{dash}/>'


def _ink(item: SweepLine, inks: Inks) -> str:
    return {"design": inks.teal, "measured": inks.rust}.get(item.role, inks.second)


def _ticks(low: float, high: float) -> Iterator[float]:
    for decade in range(math.floor(math.log10(low)), math.ceil(math.log10(high)) + 1):
        for step in _STEPS:
            if low * 0.999 <= step * 10.0**decade <= high * 1.001:
                yield step * 10.0**decade
