"""A value against time as a drawing: straight between readings, the level that is asked about, when it is above."""

from collections.abc import Iterator
from itertools import pairwise

from fenmist.procedures.page import Course
from fenmist.reports.strokes import Inks, centred, dot, line, sheet, text, wash

HEIGHT = 280.0
LEFT, RIGHT, TOP, BOTTOM = 58.0, 22.0, 34.0, 34.0

DASHES = ("6 3", "2 3", "9 3 2 3", "1 2")
"""Of courses beside the first."""

WIDE, ROWS = 6.5, 18.0
"""Room for a letter, and how many rows of letters fit beside the axis."""

FEW = 40
"""Readings that are marked each; of more only the line is drawn."""


def height_of(_picture: Course) -> float:
    """Height of the drawing in the units of its width."""
    return HEIGHT


def course_svg(picture: Course, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    return sheet(_body(picture, inks, width), inks, width, HEIGHT)


def _body(picture: Course, inks: Inks, width: float) -> Iterator[str]:
    drawn = [*picture.points, *(point for _, points in picture.others for point in points)]
    last = max(time for time, _ in drawn) or 1.0
    most = 1.1 * max(picture.limit, picture.most or 0.0, *(value for _, value in drawn))

    def x(time: float) -> float:
        return LEFT + (width - LEFT - RIGHT) * time / last

    def y(value: float) -> float:
        return TOP + (HEIGHT - TOP - BOTTOM) * (1.0 - value / most)

    bottom = y(0.0)
    yield text(LEFT, 16.0, f"{picture.value_title} in {picture.unit}, over time in s", inks.second)
    for begin, end in picture.above:
        yield wash(x(begin), TOP, x(end) - x(begin), bottom - TOP, inks.wash)
    yield line(LEFT, bottom, width - RIGHT, bottom, inks.hairline, 1.5)
    yield line(LEFT, y(picture.limit), width - RIGHT, y(picture.limit), inks.rust, 1.5, "5 3")
    if picture.most is not None:
        yield line(LEFT, y(picture.most), width - RIGHT, y(picture.most), inks.rust, 1.5)
    for number, (_, points) in enumerate(picture.others):
        for (t1, p1), (t2, p2) in pairwise(points):
            yield line(x(t1), y(p1), x(t2), y(p2), inks.second, 1.0, DASHES[number % len(DASHES)])
    yield from _named(picture, inks, width)
    for (t1, p1), (t2, p2) in pairwise(picture.points):
        yield line(x(t1), y(p1), x(t2), y(p2), inks.teal, 1.5)
    if len(picture.points) <= FEW:
        for time, value in picture.points:
            yield dot(x(time), y(value), 3.5, inks.teal)
    for value in _marked(picture, most):
        ink = inks.rust if value in (picture.limit, picture.most) else inks.second
        yield text(LEFT - 8.0, y(value) + 4.0, f"{value:.3g}", ink, "end")
    for part in range(5):
        yield centred(x(last * part / 4.0), bottom + 17.0, f"{last * part / 4.0:.3g}", inks.second)


def _marked(picture: Course, most: float) -> Iterator[float]:
    """Values named beside the axis: its levels, then what is highest, unless letters already stand there."""
    highest = max(value for points in (picture.points, *(one for _, one in picture.others)) for _, value in points)
    taken: list[float] = []
    for value in (0.0, picture.limit, picture.most, highest):
        if value is not None and all(abs(value - other) >= most / ROWS for other in taken):
            taken.append(value)
            yield value


def _named(picture: Course, inks: Inks, width: float) -> Iterator[str]:
    """A sample of each line with its name, from the right."""
    if not picture.label:
        return
    at = width - RIGHT
    samples = [(name, inks.second, 1.0, DASHES[n % len(DASHES)]) for n, (name, _) in enumerate(picture.others)]
    for name, ink, thick, dash in reversed([(picture.label, inks.teal, 1.5, ""), *samples]):
        at -= WIDE * len(name)
        yield text(at, 16.0, name, ink)
        yield line(at - 28.0, 12.0, at - 5.0, 12.0, ink, thick, dash)
        at -= 42.0
