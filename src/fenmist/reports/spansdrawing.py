"""One quantity by several ways as a drawing: each with its interval on an axis of ratios, the limit across all."""

import math
from collections.abc import Callable, Iterator

from fenmist.procedures.page import Span, Spans
from fenmist.reports.strokes import Inks, centred, dot, line, sheet, text, wash
from fenmist.units.display import plain

ROW, TOP, BOTTOM, LEFT, RIGHT = 44.0, 40.0, 34.0, 96.0, 30.0
_ROOM = 1.4
"""Factor by which the axis goes beyond what is drawn."""


def height_of(picture: Spans) -> float:
    """Height of the drawing in the units of its width."""
    return TOP + ROW * len(picture.spans) + BOTTOM


def spans_svg(picture: Spans, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    return sheet(_body(picture, inks, width), inks, width, height_of(picture))


def _body(picture: Spans, inks: Inks, width: float) -> Iterator[str]:
    limits = [picture.limit] if picture.limit is not None else []
    low = min((*(item.low for item in picture.spans), *limits)) / _ROOM
    high = max((*(item.high for item in picture.spans), *limits)) * _ROOM

    def x(value: float) -> float:
        return LEFT + (width - LEFT - RIGHT) * math.log(value / low) / math.log(high / low)

    bottom = TOP + ROW * len(picture.spans)
    yield text(LEFT, 16.0, f"{picture.value_title} in {picture.unit}", inks.second)
    yield line(LEFT, bottom, width - RIGHT, bottom, inks.hairline, 1.5)
    for value in _ticks(low, high):
        yield line(x(value), bottom, x(value), bottom + 4.0, inks.hairline)
        yield centred(x(value), bottom + 17.0, f"{value:g}", inks.second)
    for row, item in enumerate(picture.spans):
        yield from _span(item, TOP + ROW * (row + 0.5), x, inks)
    if picture.limit is not None:
        at = x(picture.limit)
        yield line(at, TOP - 6.0, at, bottom, inks.rust, 1.5, "5 3")
        yield centred(at, TOP - 11.0, picture.limit_name, inks.rust)


def _span(item: Span, y: float, x: Callable[[float], float], inks: Inks) -> Iterator[str]:
    ink = inks.teal if item.is_stated else inks.second
    if item.is_stated:
        yield wash(x(item.low), y - 11.0, x(item.high) - x(item.low), 22.0, inks.wash)
    yield line(x(item.low), y, x(item.high), y, ink, 2.0)
    for end in (item.low, item.high):
        yield line(x(end), y - 5.0, x(end), y + 5.0, ink, 2.0)
    yield dot(x(item.value), y, 4.0, ink)
    yield text(LEFT - 12.0, y + 4.0, item.name, ink, "end")
    for end in (item.low, item.high):
        yield centred(x(end), y - 9.0, plain(end, "", 2), inks.second)


def _ticks(low: float, high: float) -> Iterator[float]:
    """Powers of ten between the ends, with two and five times them where few fit."""
    steps = (1.0, 2.0, 5.0) if high / low < 1e3 else (1.0,)
    for decade in range(math.floor(math.log10(low)), math.ceil(math.log10(high)) + 1):
        for step in steps:
            value = float(f"{step}e{decade}")
            if low <= value <= high:
                yield value
