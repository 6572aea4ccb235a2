"""What arrives of what is set as a drawing: stations along, parts of it up, a line a sighting; odds as bars below."""

import math
from collections.abc import Iterator
from itertools import pairwise

from fenmist.methods.triage import odds_said
from fenmist.procedures.page import Arrivals
from fenmist.reports.strokes import Inks, centred, dot, line, sheet, text, wash

LEFT, RIGHT, TOP, LEVELS, BETWEEN, BAR = 58.0, 190.0, 36.0, 150.0, 54.0, 24.0
_TICKS = (1.0, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01, 0.001, 1e-4)
_TICKS_FROM = 0.5
"""Part of what is set down to which the axis goes at least."""
LETTERS = 13.0
"""Height of a line of letters."""
_FALLS = 0.8
"""Part of the station before from which a step down is marked."""


def height_of(picture: Arrivals) -> float:
    """Height of the drawing in the units of its width."""
    return TOP + LEVELS + BETWEEN + BAR * len(picture.odds)


def arrivals_svg(picture: Arrivals, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    return sheet((*_levels(picture, inks, width), *_bars(picture, inks, width)), inks, width, height_of(picture))


def _levels(picture: Arrivals, inks: Inks, width: float) -> Iterator[str]:
    shown = [part for item in picture.sightings for part in item.parts if part]
    low, high = min((*shown, _TICKS_FROM)) / 1.2, max((*shown, 1.0)) * 1.1
    low = max(low, 1e-4)
    step = (width - LEFT - RIGHT) / max(len(picture.stations) - 1, 1)

    def y(part: float) -> float:
        return TOP + LEVELS * math.log(high / max(part, low)) / math.log(high / low)

    yield text(LEFT, 14.0, "of what is set", inks.second)
    for tick in _TICKS:
        if low <= tick <= high:
            yield line(LEFT, y(tick), width - RIGHT, y(tick), inks.hairline)
            yield text(LEFT - 8.0, y(tick) + 4.0, f"{100.0 * tick:g} %", inks.second, "end")
    for place, station in enumerate(picture.stations):
        yield centred(LEFT + place * step, TOP + LEVELS + 20.0, station, inks.second)
    ends: list[float] = []
    for number, item in enumerate(picture.sightings):
        last = number == len(picture.sightings) - 1
        marks = [(LEFT + place * step, y(part), part) for place, part in enumerate(item.parts) if part is not None]
        for (x1, y1, before), (x2, y2, after) in pairwise(marks):
            falls = after < _FALLS * before
            yield line(x1, y1, x2, y2, inks.rust if falls else inks.teal, 2.0 if last else 1.0)
        for x, at, _ in marks:
            yield dot(x, at, 4.0 if last else 3.0, inks.teal)
        if marks:
            ends.append(_free(marks[-1][1], ends))
            yield text(
                width - RIGHT + 12.0, ends[-1] + 4.0, f"{number + 1}: {item.name}", inks.ink if last else inks.second
            )


def _free(at: float, taken: list[float]) -> float:
    """The nearest place for a line of letters beside those that are there, above the stations' names."""
    steps = range(2 * len(taken) + 2)
    places = (at + LETTERS * ((step + 1) // 2) * (1 if step % 2 else -1) for step in steps)
    free = (place for place in places if place <= TOP + LEVELS and all(abs(place - one) >= LETTERS for one in taken))
    return next(free, at)


def _bars(picture: Arrivals, inks: Inks, width: float) -> Iterator[str]:
    begin, room = LEFT + 210.0, width - LEFT - 210.0 - 70.0
    for row, (what, odds) in enumerate(picture.odds):
        at = TOP + LEVELS + BETWEEN + BAR * row
        yield text(begin - 12.0, at + 12.0, what, inks.ink if row == 0 else inks.second, "end")
        yield wash(begin, at, max(room * odds, 1.0), 16.0, inks.teal if row == 0 else inks.wash)
        yield text(begin + room * odds + 8.0, at + 12.0, odds_said(odds), inks.second)
