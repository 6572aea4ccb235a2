"""Rounds of a difference as a drawing: two ticks and the gap between them, and what came of it on an axis beneath.

What lies below the detection limit is a wash: a value in it reads "less than".
"""

from collections.abc import Iterator

from fenmist.procedures.page import Gap, Gaps
from fenmist.reports.strokes import Inks, dot, line, sheet, text, wash
from fenmist.reports.voicesdrawing import NAMES, VALUES
from fenmist.units.display import THIN, decimals_for, rounded

TOP, ROW, AXIS, FOOT = 34.0, 26.0, 74.0, 6.0
"""Heights in the units of the width: above the rows, of a row, of the axis beneath, at the end."""

TICK = 7.0
"""Half the height of a tick."""


def height_of(picture: Gaps) -> float:
    """Height of the drawing in the units of its width."""
    return TOP + ROW * len(picture.rows) + AXIS + FOOT


def gaps_svg(picture: Gaps, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    body = (*_rows(picture, inks, width), *_axis(picture, inks, width))
    return sheet(body, inks, width, height_of(picture))


def _scale(low: float, high: float, left: float, right: float, value: float) -> float:
    span = high - low or 1.0
    return left + (right - left) * min(max((value - low + 0.06 * span) / (1.12 * span), 0.0), 1.0)


def _ends(width: float) -> tuple[float, float]:
    return min(NAMES, 0.24 * width), width - VALUES


def _rows(picture: Gaps, inks: Inks, width: float) -> Iterator[str]:
    """A row for each round: without the part a tick, with it another one, the gap between them filled."""
    left, right = _ends(width)
    values = [value for row in picture.rows for value in (row.first, row.second)]
    low, high = min(values), max(values)
    decimals = max(decimals_for(max((picture.high - picture.low) / 2.0, 1e-4)), 0)
    yield text(
        left,
        16.0,
        f"thick {picture.marks[1]}, thin {picture.marks[0]}: ratio in {picture.unit} {picture.where}",
        inks.second,
    )
    for place, row in enumerate(picture.rows):
        y = TOP + ROW * (place + 0.5)
        first, second = (_scale(low, high, left, right, value) for value in (row.first, row.second))
        yield text(left - 10.0, y + 4.0, row.name, inks.ink, "end")
        begin, end = min(first, second), max(first, second)
        yield wash(begin, y - 3.0, end - begin, 6.0, inks.wash)
        yield line(first, y - TICK, first, y + TICK, inks.second, 1.5)
        yield line(second, y - TICK, second, y + TICK, inks.teal, 2.0)
        yield text(right + 10.0, y + 4.0, _said(row, decimals, picture.unit), inks.ink)


def _said(row: Gap, decimals: int, unit: str) -> str:
    return f"{rounded(row.first - row.second, decimals)}{THIN}{unit}"


def _axis(picture: Gaps, inks: Inks, width: float) -> Iterator[str]:
    """What came of all rounds, with its interval; below the detection limit a wash."""
    left, right = _ends(width)
    base = TOP + ROW * len(picture.rows) + 40.0
    low, high = min(0.0, picture.low), max(picture.high, picture.unseen, picture.bound)
    at = [_scale(low, high, left, right, value) for value in (0.0, picture.unseen, picture.low, picture.high)]
    zero, unseen, begin, end = at
    value = _scale(low, high, left, right, picture.value)
    yield wash(zero, base - 12.0, unseen - zero, 24.0, inks.wash)
    yield line(left, base, right, base, inks.hairline, 1.0)
    yield line(zero, base - 5.0, zero, base + 5.0, inks.second, 1.0)
    yield text(zero, base + 25.0, f"0{THIN}{picture.unit}", inks.second, "middle")
    decimals = max(decimals_for(max((picture.high - picture.low) / 2.0, 1e-4)), 0)
    if unseen - zero > 60.0:
        yield text(
            unseen, base + 25.0, f"{rounded(picture.unseen, decimals)}{THIN}{picture.unit}", inks.second, "middle"
        )
    yield line(begin, base, end, base, inks.teal, 2.0)
    yield dot(value, base, 4.5, inks.teal)
    if picture.value < picture.unseen:
        bound = _scale(low, high, left, right, picture.bound)
        yield line(bound, base - 12.0, bound, base + 12.0, inks.rust, 2.0)
        said, ink = f"less than {rounded(picture.bound, decimals)}{THIN}{picture.unit}", inks.rust
    else:
        said, ink = f"{rounded(picture.value, decimals)}{THIN}{picture.unit}", inks.ink
    yield text(right + 10.0, base + 4.0, said, ink)
    yield text(left - 10.0, base + 4.0, "all rounds", inks.ink, "end")
