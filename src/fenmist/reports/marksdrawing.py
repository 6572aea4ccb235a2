"""What a meter shows at each waveform as a drawing: a bar on a scale of the carrier, beside what detectors would show.

One sees which of the four it is: the marks that the bars reach at every waveform.
"""

from collections.abc import Iterator

from fenmist.procedures.page import Marked, Marks
from fenmist.reports.strokes import Inks, centred, line, sheet, text, wash

ROW, LEFT, RIGHT, TOP, BOTTOM = 58.0, 128.0, 24.0, 40.0, 34.0
MOST = 1.15
"""Fraction at the right end."""

NEAR = 56.0
"""Names closer than that don't stand beside each other."""

LINES = (28.0, 39.0)
"""Below a bar's middle, where names stand."""


def height_of(picture: Marks) -> float:
    """Height of the drawing in the units of its width."""
    return TOP + ROW * len(picture.rows) + BOTTOM


def marks_svg(picture: Marks, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    return sheet(_body(picture, inks, width), inks, width, height_of(picture))


def _x(fraction: float, width: float) -> float:
    return LEFT + (width - LEFT - RIGHT) * min(max(fraction, 0.0), MOST) / MOST


def _body(picture: Marks, inks: Inks, width: float) -> Iterator[str]:
    yield text(LEFT, 16.0, f"shown, in per cent of the carrier {picture.where}", inks.second, "start")
    bottom = TOP + ROW * len(picture.rows)
    for tenth in range(0, 11, 2):
        x = _x(tenth / 10.0, width)
        yield line(x, TOP - 8.0, x, bottom, inks.hairline)
        yield centred(x, bottom + 16.0, f"{10 * tenth}", inks.second)
    for number, row in enumerate(picture.rows):
        yield from _row(row, picture, inks, TOP + ROW * number, width)


def _row(row: Marked, picture: Marks, inks: Inks, top: float, width: float) -> Iterator[str]:
    middle = top + 14.0
    yield text(LEFT - 12.0, middle + 4.0, row.name, inks.ink if row.is_here else inks.second, "end")
    yield wash(LEFT, middle - 6.0, _x(row.value, width) - LEFT, 12.0, inks.wash)
    low, high = _x(row.low, width), _x(row.high, width)
    yield line(low, middle, high, middle, inks.teal, 2.5)
    yield line(_x(row.value, width), middle - 9.0, _x(row.value, width), middle + 9.0, inks.teal, 3.0)
    taken: list[tuple[float, float]] = []
    for mark in sorted(row.marks, key=lambda item: (item.name != picture.found, item.value)):
        x = _x(mark.value, width)
        ink = inks.rust if mark.name == picture.found else inks.second
        yield line(x, middle - 12.0, x, middle + 16.0, ink, 1.5)
        free = (below for below in LINES if all(abs(x - other) > NEAR or below != at for other, at in taken))
        if (below := next(free, None)) is not None:
            yield centred(x, middle + below, mark.name, ink)
            taken.append((x, below))
