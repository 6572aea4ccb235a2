"""A value against time as a drawing: straight between readings, the level that is asked about, when it is above."""

from collections.abc import Iterator
from itertools import pairwise

from fenmist.procedures.page import Course
from fenmist.reports.strokes import Inks, centred, dot, line, sheet, text, wash

HEIGHT = 280.0
LEFT, RIGHT, TOP, BOTTOM = 58.0, 22.0, 34.0, 34.0

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
    most = 1.1 * max(picture.limit, *(value for _, value in drawn))

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
    for name, points in picture.others:
        for (t1, p1), (t2, p2) in pairwise(points):
            yield line(x(t1), y(p1), x(t2), y(p2), inks.second, 1.0)
        yield text(x(points[0][0]) + 4.0, y(points[0][1]) - 5.0, name, inks.second)
    if picture.label:
        yield text(x(picture.points[0][0]) + 4.0, y(picture.points[0][1]) - 5.0, picture.label, inks.teal)
    for (t1, p1), (t2, p2) in pairwise(picture.points):
        yield line(x(t1), y(p1), x(t2), y(p2), inks.teal, 1.5)
    if len(picture.points) <= FEW:
        for time, value in picture.points:
            yield dot(x(time), y(value), 3.5, inks.teal)
    for value in (0.0, picture.limit, max(value for _, value in picture.points)):
        ink = inks.rust if value == picture.limit else inks.second
        yield text(LEFT - 8.0, y(value) + 4.0, f"{value:.3g}", ink, "end")
    for part in range(5):
        yield centred(x(last * part / 4.0), bottom + 17.0, f"{last * part / 4.0:.3g}", inks.second)
