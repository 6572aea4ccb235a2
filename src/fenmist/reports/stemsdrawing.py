"""Steps as a drawing: each one's departure as a stem over the ladder, what is claimed as a corridor.

Where the indicator leaves its law, at the floor or at the ceiling, the ladder is shaded.
"""

from collections.abc import Callable, Iterator

from fenmist.procedures.page import Stem, Stems
from fenmist.reports.strokes import Inks, centred, dot, line, sheet, text, wash
from fenmist.units.display import THIN, rounded

Place = Callable[[float], float]
"""Where a value stands, in units of the width."""

HEIGHT = 250.0
LEFT, RIGHT, TOP, BOTTOM = 54.0, 18.0, 34.0, 44.0
FAR = 4.0
"""Tolerances beyond which a bar no longer stretches the drawing."""

LEAST_DB = 0.05
"""Reach of the drawing where nothing departs."""


def height_of(_picture: Stems) -> float:
    """Height of the drawing in the units of its width."""
    return HEIGHT


def stems_svg(picture: Stems, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    return sheet(_body(picture, inks, width), inks, width, HEIGHT)


def _body(picture: Stems, inks: Inks, width: float) -> Iterator[str]:
    bars = max(abs(end) for item in picture.stems for end in (item.low, item.high))
    reach = 1.1 * max(
        [LEAST_DB, picture.tolerance, min(bars, FAR * picture.tolerance), *(abs(item.value) for item in picture.stems)]
    )
    places = [item.at for item in picture.stems]
    low, high = min(places), max(places)
    span = (high - low) or 1.0

    def x(at: float) -> float:
        return LEFT + 14.0 + (width - LEFT - RIGHT - 28.0) * (at - low) / span

    def y(value: float) -> float:
        value = min(max(value, -reach), reach)  # a bar may end at the edge
        return TOP + (HEIGHT - TOP - BOTTOM) * (reach - value) / (2.0 * reach)

    yield text(LEFT, 16.0, f"departure in {picture.unit} {picture.where}, over the ladder in dB", inks.second, "start")
    corridor = y(-picture.tolerance) - y(picture.tolerance)
    yield wash(LEFT, y(picture.tolerance), width - LEFT - RIGHT, corridor, inks.wash)
    yield from _shades(picture, inks, x, (LEFT, width - RIGHT))
    yield line(LEFT, y(0.0), width - RIGHT, y(0.0), inks.hairline, 1.5)
    for value in (picture.tolerance, 0.0, -picture.tolerance):
        yield text(LEFT - 8.0, y(value) + 4.0, f"{rounded(value, 2, plus=True)}", inks.second, "end")
    for item in picture.stems:
        yield from _stem(item, picture, inks, x(item.at), y)


def _shades(picture: Stems, inks: Inks, x: Place, ends: tuple[float, float]) -> Iterator[str]:
    """Where it leaves its law."""
    for at, begin, name in ((picture.floor, ends[0], "floor"), (picture.ceiling, ends[1], "ceiling")):
        if at is None:
            continue
        edge = x(at)
        left, right = min(begin, edge), max(begin, edge)
        yield wash(left, TOP, max(right - left, 6.0), HEIGHT - TOP - BOTTOM, inks.rust, ' fill-opacity="0.12"')
        yield centred((left + right) / 2.0, TOP + 12.0, name, inks.rust)


def _stem(item: Stem, picture: Stems, inks: Inks, at: float, y: Place) -> Iterator[str]:
    ink = inks.rust if abs(item.value) > picture.tolerance else inks.teal
    yield line(at, y(0.0), at, y(item.value), ink, 2.5)
    yield line(at - 4.0, y(item.low), at + 4.0, y(item.low), inks.second)
    yield line(at - 4.0, y(item.high), at + 4.0, y(item.high), inks.second)
    yield line(at, y(item.low), at, y(item.high), inks.second)
    yield dot(at, y(item.value), 5.0 if item.is_here else 3.5, ink)
    yield centred(at, HEIGHT - BOTTOM + 18.0, item.name, inks.ink)
    yield centred(at, HEIGHT - BOTTOM + 33.0, f"{rounded(item.at, 1, plus=True)}{THIN}dB", inks.second)
