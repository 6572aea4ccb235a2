"""How references agree, as a drawing: each with its U on one axis, the consensus as a band, ties for what two share."""

import math
from collections.abc import Iterator

from fenmist.procedures.page import Voice, Voices
from fenmist.reports.strokes import Inks, circle, line, sheet, text, wash
from fenmist.units.display import percent, plain, with_uncertainty

TOP, ROW, FOOT, LINE = 34.0, 34.0, 28.0, 15.0
"""Of paper; names and values take what they need, the axis has the rest."""

NAMES, VALUES = 150.0, 112.0
"""Width of the names before the axis, and of the values behind it."""

LETTER = 5.6
"""Width of a letter of the names, about."""


def height_of(picture: Voices) -> float:
    """Height of the drawing in the units of its width."""
    return TOP + ROW * len(picture.voices) + FOOT + LINE * len(picture.ties)


def voices_svg(picture: Voices, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    return sheet(_Drawing(picture, inks, width).drawn(), inks, width, height_of(picture))


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
        yield wash(at, TOP, wide, self.bottom - TOP, inks.wash)
        middle = self.x(picture.value)
        yield line(middle, TOP - 6.0, middle, self.bottom, inks.teal, 1.5)
        said = f"consensus {with_uncertainty(picture.value, (picture.high - picture.low) / 2.0, picture.unit)}"
        half = 0.5 * LETTER * len(said)
        yield text(min(max(middle, half), self.width - half), TOP - 12.0, said, inks.teal, "middle")

    def _voice(self, voice: Voice, y: float) -> Iterator[str]:
        inks = self.inks
        colour = inks.rust if voice.is_odd else inks.ink if voice.is_reference else inks.second
        yield from self._interval(voice, y, colour)
        yield text(0.0, y - 2.0, _fitted(voice.name, self.left - 10.0), colour)
        odd = "stands apart" if voice.is_odd else "no reference here" if not voice.is_reference else ""
        yield text(0.0, y + 11.0, odd or f"weight {percent(voice.weight)}", colour if odd else inks.second)
        half = (voice.high - voice.low) / 2.0
        yield text(self.right + 12.0, y + 4.0, with_uncertainty(voice.value, half, self.picture.unit), colour)

    def _interval(self, voice: Voice, y: float, colour: str) -> Iterator[str]:
        if not self.low <= voice.value <= self.high:  # far off: at the edge, pointing to where it lies
            away = -1.0 if voice.value < self.low else 1.0
            tip = self.x(voice.value)
            yield f'<path d="M {tip:.1f} {y:g} l {-9 * away:g} -5 v 10 z" fill="{colour}"/>'
            return
        low, high, at = self.x(voice.low), self.x(voice.high), self.x(voice.value)
        yield line(low, y, high, y, colour, 1.5, "" if voice.is_reference else "3 3")
        for end in (low, high):
            yield line(end, y - 5.0, end, y + 5.0, colour, 1.5)
        if voice.is_odd:
            yield wash(at - 4.5, y - 4.5, 9.0, 9.0, colour)
        else:
            yield circle(at, y, 4.0, colour, fill=colour if voice.is_reference else "none")

    def _axis(self) -> Iterator[str]:
        inks, y = self.inks, self.bottom
        yield line(self.left, y, self.right, y, inks.hairline, 1.0)
        step = _step(self.low, self.high)
        figures = max(math.ceil(math.log10(max(abs(self.low), abs(self.high)) / step)) + 1, 3)
        ends = -math.inf  # of what is named so far
        for number in range(math.ceil(self.low / step), math.floor(self.high / step) + 1):
            at, said = self.x(number * step), plain(number * step, self.picture.unit, figures)
            half = 0.5 * LETTER * len(said)
            yield line(at, y, at, y + 4.0, inks.hairline, 1.0)
            if at - half > ends + LETTER:
                yield text(at, y + 17.0, said, inks.second, "middle")
                ends = at + half

    def _ties(self) -> Iterator[str]:
        """A bracket for each pair that leans on one thing, and beneath the axis what that is."""
        names = [item.name for item in self.picture.voices]
        for place, tie in enumerate(self.picture.ties):
            a, b, at = self.y(tie.a), self.y(tie.b), self.width - 2.0 - 5.0 * (place % 3)
            way = f"M {at - 8:g} {a:g} H {at:g} V {b:g} H {at - 8:g}"
            yield f'<path d="{way}" fill="none" stroke="{self.inks.second}"/>'
            said = f"{names[tie.a]} and {names[tie.b]} share {percent(tie.correlation)}: {tie.by}"
            y = self.bottom + FOOT + LINE * (place + 0.6)
            yield text(0.0, y, _fitted(said, self.width), self.inks.second)


def _step(low: float, high: float) -> float:
    """The largest round step of which three or more fall between two values."""
    decade = 10.0 ** math.ceil(math.log10(high - low))
    steps = (decade * times for times in (1.0, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01))
    return next(step for step in steps if math.floor(high / step) - math.ceil(low / step) >= 2)


def _fitted(text: str, width: float) -> str:
    """A name that is wider than its place ends in a sign for more."""
    most = max(int(width / LETTER), 2)
    return text if len(text) <= most else f"{text[: most - 1]}…"
