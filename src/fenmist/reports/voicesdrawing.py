"""How references agree, as a drawing: each with its U on one axis, the consensus as a band, ties for what two share."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from html import escape

from fenmist.procedures.page import Voice, Voices
from fenmist.reports.fonts import PAPER_FAMILIES
from fenmist.units.display import percent, plain, with_uncertainty
from fenmist.units.letters import printable

WIDTH, TOP, ROW, FOOT, LINE = 680.0, 34.0, 34.0, 28.0, 15.0
"""Of paper; names and values take what they need, the axis has the rest."""

NAMES, VALUES = 150.0, 112.0
"""Width of the names before the axis, and of the values behind it."""

LETTER = 5.6
"""Width of a letter of the names, about."""


@dataclass(frozen=True)
class Inks:
    """Colours of a drawing by their role."""

    ink: str = "#1B2A30"
    second: str = "#50626B"
    hairline: str = "#C9D3D7"
    teal: str = "#0E5A66"
    wash: str = "#D3E6E8"
    rust: str = "#A9480F"
    families: str = ", ".join(PAPER_FAMILIES)


def height_of(picture: Voices) -> float:
    """Height of the drawing in the units of its width."""
    return TOP + ROW * len(picture.voices) + FOOT + LINE * len(picture.ties)


def voices_svg(picture: Voices, inks: Inks = Inks(), width: float = WIDTH) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    body = "".join(_Drawing(picture, inks, width).drawn())
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height_of(picture):g}" '
        f'font-family="{inks.families}" font-size="11">{body}</svg>'
    )


class _Drawing:
    """One picture at one width."""

    def __init__(self, picture: Voices, inks: Inks, width: float) -> None:
        self.picture, self.inks, self.width = picture, inks, width
        self.left = min(NAMES, 0.3 * width)
        self.right = width - VALUES - (16.0 if picture.ties else 0.0)
        low, high = picture.reach
        margin = 0.08 * (high - low or 1.0)
        self.low, self.high = low - margin, high + margin
        self.bottom = TOP + ROW * len(picture.voices)

    def x(self, value: float) -> float:
        """Where a value stands; one that lies far outside stands at the edge."""
        share = (value - self.low) / (self.high - self.low)
        return self.left + (self.right - self.left) * min(max(share, 0.0), 1.0)

    def y(self, place: int) -> float:
        """Middle of a row."""
        return TOP + ROW * (place + 0.5)

    def drawn(self) -> Iterator[str]:
        """All of it, from the ground up."""
        yield from self._band()
        for place, voice in enumerate(self.picture.voices):
            yield from self._voice(voice, self.y(place))
        yield from self._axis()
        yield from self._ties()

    def _band(self) -> Iterator[str]:
        picture, inks = self.picture, self.inks
        at, wide = self.x(picture.low), self.x(picture.high) - self.x(picture.low)
        yield (f'<rect x="{at:.1f}" y="{TOP:g}" width="{wide:.1f}" height="{self.bottom - TOP:g}" fill="{inks.wash}"/>')
        middle = self.x(picture.value)
        yield _line(middle, TOP - 6.0, middle, self.bottom, inks.teal, 1.5)
        said = f"consensus {with_uncertainty(picture.value, (picture.high - picture.low) / 2.0, picture.unit)}"
        half = 0.5 * LETTER * len(said)
        yield _text(min(max(middle, half), self.width - half), TOP - 12.0, said, inks.teal, "middle")

    def _voice(self, voice: Voice, y: float) -> Iterator[str]:
        inks = self.inks
        colour = inks.rust if voice.is_odd else inks.ink if voice.is_reference else inks.second
        yield from self._interval(voice, y, colour)
        yield _text(0.0, y - 2.0, _fitted(voice.name, self.left - 10.0), colour)
        odd = "stands apart" if voice.is_odd else "no reference here" if not voice.is_reference else ""
        yield _text(0.0, y + 11.0, odd or f"weight {percent(voice.weight)}", colour if odd else inks.second)
        half = (voice.high - voice.low) / 2.0
        yield _text(self.right + 12.0, y + 4.0, with_uncertainty(voice.value, half, self.picture.unit), colour)

    def _interval(self, voice: Voice, y: float, colour: str) -> Iterator[str]:
        if not self.low <= voice.value <= self.high:  # far off: at the edge, pointing to where it lies
            away = -1.0 if voice.value < self.low else 1.0
            tip = self.x(voice.value)
            yield f'<path d="M {tip:.1f} {y:g} l {-9 * away:g} -5 v 10 z" fill="{colour}"/>'
            return
        dash = "" if voice.is_reference else ' stroke-dasharray="3 3"'
        low, high, at = self.x(voice.low), self.x(voice.high), self.x(voice.value)
        yield f'<line x1="{low:.1f}" y1="{y:g}" x2="{high:.1f}" y2="{y:g}" stroke="{colour}" stroke-width="1.5"{dash}/>'
        for end in (low, high):
            yield _line(end, y - 5.0, end, y + 5.0, colour, 1.5)
        if voice.is_odd:
            yield f'<rect x="{at - 4.5:.1f}" y="{y - 4.5:g}" width="9" height="9" fill="{colour}"/>'
        else:
            fill = colour if voice.is_reference else "none"
            yield f'<circle cx="{at:.1f}" cy="{y:g}" r="4" fill="{fill}" stroke="{colour}"/>'

    def _axis(self) -> Iterator[str]:
        inks, y = self.inks, self.bottom
        yield _line(self.left, y, self.right, y, inks.hairline, 1.0)
        step = _step(self.low, self.high)
        for number in range(math.ceil(self.low / step), math.floor(self.high / step) + 1):
            at = self.x(number * step)
            yield _line(at, y, at, y + 4.0, inks.hairline, 1.0)
            yield _text(at, y + 17.0, plain(number * step, self.picture.unit, 3), inks.second, "middle")

    def _ties(self) -> Iterator[str]:
        """A bracket for each pair that leans on one thing, and beneath the axis what that is."""
        names = [item.name for item in self.picture.voices]
        for place, tie in enumerate(self.picture.ties):
            a, b, at = self.y(tie.a), self.y(tie.b), self.width - 2.0 - 5.0 * (place % 3)
            way = f"M {at - 8:g} {a:g} H {at:g} V {b:g} H {at - 8:g}"
            yield f'<path d="{way}" fill="none" stroke="{self.inks.second}"/>'
            said = f"{names[tie.a]} and {names[tie.b]} share {percent(tie.correlation)}: {tie.by}"
            y = self.bottom + FOOT + LINE * (place + 0.6)
            yield _text(0.0, y, _fitted(said, self.width), self.inks.second)


def _step(low: float, high: float) -> float:
    """The largest round step of which three or more fall between two values."""
    decade = 10.0 ** math.ceil(math.log10(high - low))
    steps = (decade * times for times in (1.0, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01))
    return next(step for step in steps if math.floor(high / step) - math.ceil(low / step) >= 2)


def _line(x1: float, y1: float, x2: float, y2: float, colour: str, width: float) -> str:
    ends = f'x1="{x1:.1f}" y1="{y1:g}" x2="{x2:.1f}" y2="{y2:g}"'
    return f'<line {ends} stroke="{colour}" stroke-width="{width:g}"/>'


def _text(x: float, y: float, text: str, colour: str, anchor: str = "start") -> str:
    return f'<text x="{x:.1f}" y="{y:g}" fill="{colour}" text-anchor="{anchor}">{escape(printable(text))}</text>'


def _fitted(text: str, width: float) -> str:
    """A name that is wider than its place ends in a sign for more."""
    most = max(int(width / LETTER), 2)
    return text if len(text) <= most else f"{text[: most - 1]}…"
