"""A gain's plateau as a drawing: readings, the two lines through them, the knee as a band, the gain to set."""

from collections.abc import Iterator
from html import escape

from fenmist.procedures.page import Bend
from fenmist.reports.voicesdrawing import Inks
from fenmist.units.letters import printable

HEIGHT = 300.0
LEFT, RIGHT, TOP, BOTTOM = 58.0, 22.0, 34.0, 48.0


def height_of(_picture: Bend) -> float:
    """Height of the drawing in the units of its width."""
    return HEIGHT


def bend_svg(picture: Bend, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    body = "".join(_body(picture, inks, width))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {HEIGHT:g}" '
        f'font-family="{inks.families}" font-size="11">{body}</svg>'
    )


def _text(x: float, y: float, text: str, ink: str, anchor: str = "middle") -> str:
    said = escape(printable(text))
    return f'<text x="{x:.1f}" y="{y:.1f}" fill="{ink}" text-anchor="{anchor}">{said}</text>'


def _line(x1: float, y1: float, x2: float, y2: float, ink: str, wide: float = 1.0, more: str = "") -> str:
    ends = f'x1="{x1:.1f}" y1="{y1:.1f}" x2="{x2:.1f}" y2="{y2:.1f}"'
    return f'<line {ends} stroke="{ink}" stroke-width="{wide:g}"{more}/>'


def _body(picture: Bend, inks: Inks, width: float) -> Iterator[str]:
    gains, powers = [x for x, _ in picture.points], [y for _, y in picture.points]
    first, last, most = min(gains), max(gains), 1.1 * max(powers)

    def x(gain: float) -> float:
        return LEFT + (width - LEFT - RIGHT) * (gain - first) / ((last - first) or 1.0)

    def y(power: float) -> float:
        return TOP + (HEIGHT - TOP - BOTTOM) * (1.0 - max(power, 0.0) / most)

    yield _text(LEFT, 16.0, f"{picture.value_title} in {picture.unit}, over {picture.axis_title}", inks.second, "start")
    yield _line(LEFT, y(0.0), width - RIGHT, y(0.0), inks.hairline, 1.5)
    if picture.knee is not None:
        low, high = x(max(picture.low, first)), x(min(picture.high, last))
        yield (
            f'<rect x="{low:.1f}" y="{TOP:.1f}" width="{max(high - low, 1.5):.1f}" '
            f'height="{y(0.0) - TOP:.1f}" fill="{inks.wash}"/>'
        )
        yield _text((low + high) / 2.0, TOP - 4.0, "knee", inks.teal)
        begin = picture.plateau + picture.slope * (first - picture.knee)
        yield _line(x(first), y(begin), x(picture.knee), y(picture.plateau), inks.teal, 1.5)
        yield _line(x(picture.knee), y(picture.plateau), x(last), y(picture.plateau), inks.teal, 1.5)
    for gain, power in picture.points:
        yield f'<circle cx="{x(gain):.1f}" cy="{y(power):.1f}" r="4" fill="{inks.ink}"/>'
        yield _text(x(gain), y(0.0) + 17.0, f"{gain:g}", inks.second)
    named = {0.0, max(powers)} if picture.knee is None else {0.0, picture.plateau}
    for power in sorted(named):
        yield _text(LEFT - 8.0, y(power) + 4.0, f"{power:.3g}", inks.second, "end")
    if picture.setting is not None:
        at = x(picture.setting)
        yield _line(at, TOP, at, y(0.0), inks.rust, 2.0, ' stroke-dasharray="5 3"')
        yield _text(at, y(0.0) + 33.0, f"set {picture.setting:g}", inks.rust)
