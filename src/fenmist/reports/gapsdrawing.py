"""Rounds of a difference as a drawing: two ticks and the gap between them, and what came of it on an axis beneath.

What lies below the detection limit is a wash: a value in it reads "less than".
"""

from collections.abc import Iterator
from html import escape

from fenmist.procedures.page import Gap, Gaps
from fenmist.reports.voicesdrawing import NAMES, VALUES, Inks
from fenmist.units.display import THIN, decimals_for, rounded
from fenmist.units.letters import printable

TOP, ROW, AXIS, FOOT = 34.0, 26.0, 74.0, 6.0
"""Heights in the units of the width: above the rows, of a row, of the axis beneath, at the end."""

TICK = 7.0
"""Half the height of a tick."""


def height_of(picture: Gaps) -> float:
    """Height of the drawing in the units of its width."""
    return TOP + ROW * len(picture.rows) + AXIS + FOOT


def gaps_svg(picture: Gaps, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    body = "".join((*_rows(picture, inks, width), *_axis(picture, inks, width)))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height_of(picture):g}" '
        f'font-family="{inks.families}" font-size="11">{body}</svg>'
    )


def _scale(low: float, high: float, left: float, right: float, value: float) -> float:
    span = high - low or 1.0
    return left + (right - left) * min(max((value - low + 0.06 * span) / (1.12 * span), 0.0), 1.0)


def _ends(width: float) -> tuple[float, float]:
    return min(NAMES, 0.24 * width), width - VALUES


def _text(x: float, y: float, text: str, ink: str, anchor: str = "start") -> str:
    said = escape(printable(text))
    return f'<text x="{x:.1f}" y="{y:.1f}" fill="{ink}" text-anchor="{anchor}">{said}</text>'


def _line(x1: float, y1: float, x2: float, y2: float, ink: str, wide: float = 1.5, dash: str = "") -> str:
    dashed = f' stroke-dasharray="{dash}"' if dash else ""
    return (
        f'<line x1="{x1:.1f}" y1="{y1:.1f}" x2="{x2:.1f}" y2="{y2:.1f}" stroke="{ink}" stroke-width="{wide}"{dashed}/>'
    )


def _wash(begin: float, end: float, y: float, half: float, inks: Inks) -> str:
    wide = max(end - begin, 0.5)
    return f'<rect x="{begin:.1f}" y="{y - half:.1f}" width="{wide:.1f}" height="{2 * half:g}" fill="{inks.wash}"/>'


def _rows(picture: Gaps, inks: Inks, width: float) -> Iterator[str]:
    """A row for each round: without the part a tick, with it another one, the gap between them filled."""
    left, right = _ends(width)
    values = [value for row in picture.rows for value in (row.first, row.second)]
    low, high = min(values), max(values)
    decimals = max(decimals_for(max((picture.high - picture.low) / 2.0, 1e-4)), 0)
    yield _text(
        left,
        16.0,
        f"thick {picture.marks[1]}, thin {picture.marks[0]}: ratio in {picture.unit} {picture.where}",
        inks.second,
    )
    for place, row in enumerate(picture.rows):
        y = TOP + ROW * (place + 0.5)
        first, second = (_scale(low, high, left, right, value) for value in (row.first, row.second))
        yield _text(left - 10.0, y + 4.0, row.name, inks.ink, "end")
        begin, end = min(first, second), max(first, second)
        yield _wash(begin, end, y, 3.0, inks)
        yield _line(first, y - TICK, first, y + TICK, inks.second)
        yield _line(second, y - TICK, second, y + TICK, inks.teal, 2.0)
        yield _text(right + 10.0, y + 4.0, _said(row, decimals, picture.unit), inks.ink)


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
    yield _wash(zero, unseen, base, 12.0, inks)
    yield _line(left, base, right, base, inks.hairline, 1.0)
    yield _line(zero, base - 5.0, zero, base + 5.0, inks.second, 1.0)
    yield _text(zero, base + 25.0, f"0{THIN}{picture.unit}", inks.second, "middle")
    decimals = max(decimals_for(max((picture.high - picture.low) / 2.0, 1e-4)), 0)
    if unseen - zero > 60.0:
        yield _text(
            unseen, base + 25.0, f"{rounded(picture.unseen, decimals)}{THIN}{picture.unit}", inks.second, "middle"
        )
    yield _line(begin, base, end, base, inks.teal, 2.0)
    yield f'<circle cx="{value:.1f}" cy="{base:.1f}" r="4.5" fill="{inks.teal}"/>'
    if picture.value < picture.unseen:
        bound = _scale(low, high, left, right, picture.bound)
        yield _line(bound, base - 12.0, bound, base + 12.0, inks.rust, 2.0)
        said, ink = f"less than {rounded(picture.bound, decimals)}{THIN}{picture.unit}", inks.rust
    else:
        said, ink = f"{rounded(picture.value, decimals)}{THIN}{picture.unit}", inks.ink
    yield _text(right + 10.0, base + 4.0, said, ink)
    yield _text(left - 10.0, base + 4.0, "all rounds", inks.ink, "end")
