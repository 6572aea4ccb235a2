"""The reflection plane as a drawing: ring, spot, centre, and the rim where everything comes back. No grid.

A meter knows only how large a reflection is: its reading is a ring as thick as its claims allow. A known end is a spot
with its U; what the meter may show with that is a bar along the way from the centre to the spot. Where all of it lies
near the centre the drawing looks closer, and says by how much the rim lies outside.
"""

import math
from collections.abc import Iterator

from fenmist.procedures.page import Rings, Spot
from fenmist.reports.strokes import Inks, circle, line, sheet, text

SIZE = 290.0
"""Height of the drawing in the units of the width."""

PLANE = 0.56
"""Part of the width that the plane takes at most."""

MARGIN = 14.0
SMALLEST_SPOT = 4.0
"""Radius of the dot that marks a spot."""

SMALLEST_NAMED = 24.0
"""Radius from which a circle has its SWR beside it."""

LETTERS = 6.2
"""Mean width of a letter in units of the drawing: texts are broken by it."""


def height_of(_picture: Rings) -> float:
    """Height of the drawing in the units of its width."""
    return SIZE


def rings_svg(picture: Rings, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    across = min(SIZE, PLANE * width)
    plane = "".join(_plane(picture, inks, across / 2.0))
    body = f'<g transform="translate(0 {(SIZE - across) / 2.0:.1f})">{plane}</g>'
    body += "".join(_beside(picture, inks, across + 16.0, width))
    return sheet(body, inks, width, SIZE)


def _plane(picture: Rings, inks: Inks, middle: float) -> Iterator[str]:
    unit = (middle - MARGIN) / picture.reach
    ink = inks.teal if picture.agrees else inks.rust
    low, high = unit * picture.low, unit * min(picture.high, 1.0)
    yield _ring(middle, low, high, inks.wash)
    yield circle(middle, middle, high, ink, 1.0)
    if low > 0.5:
        yield circle(middle, middle, low, ink, 1.0)
    yield circle(middle, middle, unit * min(picture.shown, 1.0), ink, 1.5, dash="5 4")
    if picture.other is not None:
        for radius in picture.other:
            if 0.5 < unit * radius <= middle:
                yield circle(middle, middle, unit * radius, inks.second, 1.5, dash="2 3")
    if unit <= middle - MARGIN:
        yield circle(middle, middle, unit, inks.hairline, 1.5)
    yield f'<path d="M{middle - 5:.1f} {middle:.1f}h10M{middle:.1f} {middle - 5:.1f}v10" stroke="{inks.second}"/>'
    for spot in picture.spots:
        yield from _spot(picture, spot, inks, middle, unit)
    for radius, said in picture.marks:
        if SMALLEST_NAMED < unit * radius < middle - 4.0:
            above = -3.0 if radius >= picture.high else 12.0  # of the inner edge on its inner side
            yield text(middle, middle - unit * radius + above, said, inks.second, "middle")


def _ring(middle: float, low: float, high: float, ink: str) -> str:
    """Between two circles, the inner one left out."""

    def round_at(r: float) -> str:
        return (
            f"M{middle - r:.1f} {middle:.1f}a{r:.1f} {r:.1f} 0 1 0 {2 * r:.1f} 0a{r:.1f} {r:.1f} 0 1 0 {-2 * r:.1f} 0"
        )

    inner = round_at(low) if low > 0.5 else ""
    return f'<path d="{round_at(high)}{inner}" fill="{ink}" fill-rule="evenodd"/>'


def _spot(picture: Rings, spot: Spot, inks: Inks, middle: float, unit: float) -> Iterator[str]:
    x, y = middle + unit * spot.x, middle - unit * spot.y
    if not spot.is_here:
        if math.hypot(spot.x, spot.y) > picture.reach:
            return
        yield circle(x, y, 3.0, inks.second, 1.0)
        return
    size = math.hypot(spot.x, spot.y)
    if not picture.has_phase and size > 0.0:
        yield circle(middle, middle, unit * size, inks.ink, 1.0, dash="1 3")
    way = (spot.x / size, spot.y / size) if size > 0.0 else (1.0, 0.0)
    ends = [(middle + unit * r * way[0], middle - unit * r * way[1]) for r in picture.window]
    (x1, y1), (x2, y2) = ends
    yield line(x1, y1, x2, y2, inks.second, 2.0)
    for end_x, end_y in ends:
        across_x, across_y = 4.0 * way[1], 4.0 * way[0]
        yield line(end_x - across_x, end_y - across_y, end_x + across_x, end_y + across_y, inks.second, 2.0)
    yield (
        f'<ellipse cx="{x:.1f}" cy="{y:.1f}" rx="{max(unit * spot.u_x, 1.0):.1f}" ry="{max(unit * spot.u_y, 1.0):.1f}" '
        f'fill="none" stroke="{inks.ink}"/>'
    )
    yield circle(x, y, SMALLEST_SPOT, inks.ink, 0.0, inks.ink)


def _beside(picture: Rings, inks: Inks, left: float, width: float) -> Iterator[str]:
    """What ring, spot and bar are, in words, beside the plane."""
    room = max(int((width - left) / LETTERS), 12)
    verdict = "ring and spot touch" if picture.agrees else "ring and spot stand apart"
    lines = [(f"{verdict}, {picture.where}", inks.ink if picture.agrees else inks.rust)]
    lines += [(said, inks.ink) for said in picture.lines]
    if any(not item.is_here and math.hypot(item.x, item.y) < picture.reach for item in picture.spots):
        lines.append(("small circles: the other ends", inks.second))
    if picture.reach < 1.0:
        times = f"{1.0 / picture.reach:.2g}"
        lines.append((f"the rim, where everything comes back, is {times} times as far out", inks.second))
    y = 20.0
    for said, ink in lines:
        for part in _broken(said, room):
            yield text(left, y, part, ink)
            y += 15.0
        y += 7.0


def _broken(text: str, room: int) -> Iterator[str]:
    """Lines of at most so many letters, broken between words."""
    so_far = ""
    for word in text.split(" "):
        if so_far and len(so_far) + 1 + len(word) > room:
            yield so_far
            so_far = word
        else:
            so_far = f"{so_far} {word}".strip()
    yield so_far
