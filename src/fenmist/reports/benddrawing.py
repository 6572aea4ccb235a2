"""A gain's plateau as a drawing: readings, the two lines through them, the knee as a band, the gain to set."""

from collections.abc import Iterator
from itertools import pairwise

from fenmist.procedures.page import Bend
from fenmist.reports.strokes import Inks, centred, dot, line, sheet, text, wash

HEIGHT = 300.0
LEFT, RIGHT, TOP, BOTTOM = 58.0, 22.0, 34.0, 48.0


def height_of(_picture: Bend) -> float:
    """Height of the drawing in the units of its width."""
    return HEIGHT


def bend_svg(picture: Bend, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    return sheet(_body(picture, inks, width), inks, width, HEIGHT)


def _body(picture: Bend, inks: Inks, width: float) -> Iterator[str]:
    gains, powers = [x for x, _ in picture.points], [y for _, y in picture.points]
    first, last, most = min(gains), max(gains), 1.1 * max(powers)

    def x(gain: float) -> float:
        return LEFT + (width - LEFT - RIGHT) * (gain - first) / ((last - first) or 1.0)

    def y(power: float) -> float:
        return TOP + (HEIGHT - TOP - BOTTOM) * (1.0 - max(power, 0.0) / most)

    yield text(LEFT, 16.0, f"{picture.value_title} in {picture.unit}, over {picture.axis_title}", inks.second, "start")
    yield line(LEFT, y(0.0), width - RIGHT, y(0.0), inks.hairline, 1.5)
    if picture.knee is not None:
        low, high = x(max(picture.low, first)), x(min(picture.high, last))
        yield wash(low, TOP, max(high - low, 1.5), y(0.0) - TOP, inks.wash)
        yield centred((low + high) / 2.0, TOP - 4.0, "knee", inks.teal)
        for (gain, power), (after, then) in pairwise(picture.lines):
            yield line(x(gain), y(power), x(after), y(then), inks.teal, 1.5)
    for gain, power in picture.points:
        yield dot(x(gain), y(power), 4.0, inks.ink)
        yield centred(x(gain), y(0.0) + 17.0, f"{gain:g}", inks.second)
    named = {0.0, max(powers)} if picture.knee is None else {0.0, picture.plateau}
    for power in sorted(named):
        yield text(LEFT - 8.0, y(power) + 4.0, f"{power:.3g}", inks.second, "end")
    if picture.setting is not None:
        at = x(picture.setting)
        yield line(at, TOP, at, y(0.0), inks.rust, 2.0, "5 3")
        yield centred(at, y(0.0) + 33.0, f"set {picture.setting:g}", inks.rust)
