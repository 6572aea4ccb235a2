"""Error and factor over frequency and level at once: what a reading stands for, and what would be shown.

Each level read over several frequencies is a curve; between two of them the logarithm of the ratio goes straight over
the logarithm of the level. Beyond the levels read at a frequency, one level's curve is moved along by what the level
did elsewhere only where three corner points or more show that level and frequency can be taken apart; else it holds
within a factor of two of its level. Page: docs/method/curve.md.
"""

import math
from collections.abc import Iterator, Sequence
from itertools import groupby

import numpy as np

from fenmist.calibration.beside import once
from fenmist.calibration.planning import range_for
from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.kit.dialsheet import set_ranges
from fenmist.procedures.comparison.curve import Curve, CurvePoint, curve_through, curves_over_frequency
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.units.display import frequency, percent, plain, with_uncertainty

NEAR_LEVEL = 2.0
"""Factor around a level read within which its curve is taken alone (Fenmist's own)."""

SAME_LEVEL = 1.1
"""Factor around a level read within which it is that level (Fenmist's own)."""

_AS_READ = ("between the frequencies read", "as read")
"""In words, whether it was."""

CORNERS = 3
"""Corner points that have to agree before level and frequency are taken apart (common practice, no source)."""

FAR_OFF = 2.0
"""Times too much or too little from which a span isn't worth using (Fenmist's own)."""

HALVINGS, NEARLY = 40, 1e-6
"""Times that a span is halved to find a power, and how near its ends count as inside."""

POORLY_KNOWN = 0.2
"""U of a factor from which a span isn't worth using (Fenmist's own)."""


@dataclass(frozen=True)
class Corner:
    """A point off the row and the column that were read whole, and how far it is off their product."""

    point: PointResult
    off: float  # of ln(indicated/reference)
    expanded_u: float  # k = 2, with what all four share taken out

    @property
    def agrees(self) -> bool:
        """Whether it is there within U."""
        return abs(self.off) <= self.expanded_u


@dataclass(frozen=True)
class CorrectionFound:
    """What a correction says at one place."""

    at: CurvePoint
    way: str  # in words


@dataclass(frozen=True, eq=False)
class Surface:
    """The correction of one range: a curve for each level, rising."""

    range_id: str
    rows: tuple[Curve, ...]
    column: Curve | None  # over level, at the frequency with most levels
    corners: tuple[Corner, ...]
    by_control: bool  # fixed by a set control: nothing is known between frequencies

    @property
    def is_separable(self) -> bool:
        """Whether level and frequency can be taken apart."""
        return len(self.corners) >= CORNERS and all(item.agrees for item in self.corners)

    def span(self, frequency_hz: float) -> tuple[float, float]:
        """Lowest and highest power by the reference that something is known of at a frequency that was read."""
        levels = [row.fixed for row in self.rows if _covers(row, frequency_hz)]
        low, high = min(levels) / NEAR_LEVEL, max(levels) * NEAR_LEVEL
        if self.is_separable and self.column is not None and all(_covers(self.column, level) for level in levels):
            low, high = min(low, float(self.column.x[0])), max(high, float(self.column.x[-1]))
        return low, high

    def at(self, frequency_hz: float, level_w: float) -> CorrectionFound:
        """The ratio at a frequency and a power by the reference.

        Raises
        ------
        OutOfRangeError
            Where nothing was read, at that frequency or near that level.
        """
        here = [row for row in self.rows if _covers(row, frequency_hz)]
        if not here:
            raise OutOfRangeError(
                f"Nothing was read at {frequency(frequency_hz)} on range {self.range_id}.",
                "A correction is not taken past what was read.",
            )
        below = [row for row in here if row.fixed <= level_w * (1.0 + 1e-6)]
        above = [row for row in here if row.fixed >= level_w * (1.0 - 1e-6)]
        if below and above:
            return self._between(below[-1], above[0], frequency_hz, level_w)
        near = (below or above)[-1 if below else 0]
        column = self.column
        if self.is_separable and column is not None and all(_covers(column, at) for at in (level_w, near.fixed)):
            return self._moved(near, column, frequency_hz, level_w)
        if not 1.0 / NEAR_LEVEL <= level_w / near.fixed <= NEAR_LEVEL:
            raise OutOfRangeError(
                f"Nothing was read near {plain(level_w, 'W', 3)} at {frequency(frequency_hz)}.",
                "Read a level within a factor of two of it.",
            )
        found = self._along(near, frequency_hz)
        if 1.0 / SAME_LEVEL <= level_w / near.fixed <= SAME_LEVEL:
            return CorrectionFound(found, _AS_READ[found.measured])
        return CorrectionFound(found, f"by the curve at {plain(near.fixed, 'W')}")

    def _along(self, row: Curve, frequency_hz: float) -> CurvePoint:
        found = row.at(frequency_hz)
        if self.by_control and not found.measured:
            raise OutOfRangeError(
                f"Range {self.range_id} is fixed by its set control: nothing is known between frequencies.",
                f"It was checked at {', '.join(frequency(float(f)) for f in row.x)}.",
            )
        return found

    def _between(self, low: Curve, high: Curve, frequency_hz: float, level_w: float) -> CorrectionFound:
        one, other = self._along(low, frequency_hz), self._along(high, frequency_hz)
        if low is high:
            return CorrectionFound(one, _AS_READ[one.measured])
        t = math.log(level_w / low.fixed) / math.log(high.fixed / low.fixed)
        return CorrectionFound(_mixed(one, other, t), "between the levels read")

    def _moved(self, row: Curve, column: Curve, frequency_hz: float, level_w: float) -> CorrectionFound:
        here, there, then = self._along(row, frequency_hz), column.at(row.fixed), column.at(level_w)
        middle = math.log(here.ratio) + math.log(then.ratio / there.ratio)
        down, up = (
            math.hypot(*(math.log(item.ratio_interval[side] / item.ratio) for item in (here, then))) for side in (0, 1)
        )
        made = CurvePoint(math.exp(middle), (math.exp(middle - down), math.exp(middle + up)), False)
        return CorrectionFound(made, "level and frequency taken apart")


def _covers(curve: Curve, x: float) -> bool:
    return bool(curve.x[0] * (1.0 - 1e-6) <= x <= curve.x[-1] * (1.0 + 1e-6))


def _mixed(one: CurvePoint, other: CurvePoint, t: float) -> CurvePoint:
    """Between two levels: straight in the logarithms, less certain mid-way by half of their change as a limit."""
    logs = math.log(one.ratio), math.log(other.ratio)
    middle = (1.0 - t) * logs[0] + t * logs[1]
    bend = 2.0 * 0.5 * 4.0 * t * (1.0 - t) * abs(logs[1] - logs[0]) / math.sqrt(3.0)  # expanded, k = 2
    ends = []
    for side in (0, 1):
        away = [abs(math.log(item.ratio_interval[side] / item.ratio)) for item in (one, other)]
        ends.append(math.hypot((1.0 - t) * away[0] + t * away[1], bend))
    return CurvePoint(math.exp(middle), (math.exp(middle - ends[0]), math.exp(middle + ends[1])), False)


def surfaces(result: Result) -> tuple[Surface, ...]:
    """One for each range that was read with a steady carrier, in their order."""
    return once(result, "surfaces", lambda: tuple(_made(result)))


def _made(result: Result) -> Iterator[Surface]:
    by_control = set_ranges(result.job.dut_part)
    curves = sorted(curves_over_frequency(result), key=lambda row: (row.range_id, row.fixed))
    for range_id, some in groupby(curves, key=lambda row: row.range_id):
        rows = tuple(some)
        column = _column(rows)
        yield Surface(range_id, rows, column, tuple(_corners(result, rows, column)), range_id in by_control)


def _column(rows: Sequence[Curve]) -> Curve | None:
    """The curve over level at the frequency where most levels were read; none through one."""
    by_frequency: dict[float, list[PointResult]] = {}
    for row in rows:
        for item in row.points:
            by_frequency.setdefault(item.point.frequency_hz, []).append(item)
    found = max(by_frequency.values(), key=len, default=[])
    if len(found) < 2:
        return None
    return curve_through("level", found[0].point.frequency_hz, found, lambda item: item.point.target_w)


def _corners(result: Result, rows: Sequence[Curve], column: Curve | None) -> Iterator[Corner]:
    """Points off the longest row and the column, with what their product would make of them."""
    log_ratio = result.log_ratio
    at_level = {item.point.target_w: item for item in column.points} if column is not None else {}
    crossing = [row for row in rows if row.fixed in at_level]
    if column is None or log_ratio is None or not crossing:
        return
    row = max(crossing, key=lambda row: row.x.size)
    at_frequency = {item.point.frequency_hz: item for item in row.points}
    place = {item.point.id: n for n, item in enumerate(result.points)}
    covariance = log_ratio.covariance()
    signs = np.array([1.0, -1.0, -1.0, 1.0])
    for other in rows:
        for item in other.points:
            f = item.point.frequency_hz
            if other is row or f == column.fixed or f not in at_frequency or other.fixed not in at_level:
                continue
            four = [item, at_frequency[f], at_level[other.fixed], at_level[row.fixed]]
            at = [place[each.point.id] for each in four]
            variance = float(signs @ covariance[np.ix_(at, at)] @ signs)
            yield Corner(item, float(signs @ log_ratio.value[at]), 2.0 * math.sqrt(max(variance, 0.0)))


# looking up


@dataclass(frozen=True)
class LookedUp:
    """What a reading of the meter stands for, or what a power would show."""

    value_w: float
    interval_w: tuple[float, float]
    range_id: str
    found: CorrectionFound


def stands_for(result: Result, indicated_w: float, frequency_hz: float) -> LookedUp:
    """The power that a reading stands for.

    Parameters
    ----------
    indicated_w : float
        What the meter shows, above 0.
    frequency_hz : float
        Within the frequencies read.

    Raises
    ------
    OutOfRangeError
        Where nothing was read, at that frequency or near that level.
    """
    surface = _surface(result, indicated_w, frequency_hz)
    low, high = surface.span(frequency_hz)
    shown = [end * surface.at(frequency_hz, end).at.ratio for end in (low, high)]
    if not shown[0] * (1.0 - NEARLY) <= indicated_w <= shown[1] * (1.0 + NEARLY):
        raise OutOfRangeError(
            f"Nothing was read near {plain(indicated_w, 'W', 3)} at {frequency(frequency_hz)}.",
            f"What is known goes from {plain(shown[0], 'W', 3)} to {plain(shown[1], 'W', 3)} shown.",
        )
    for _ in range(HALVINGS):  # the power whose ratio makes that of it
        middle = math.sqrt(low * high)
        is_above = middle * surface.at(frequency_hz, middle).at.ratio > indicated_w
        low, high = (low, middle) if is_above else (middle, high)
    found = surface.at(frequency_hz, math.sqrt(low * high))
    low, high = (indicated_w / end for end in reversed(found.at.ratio_interval))
    return LookedUp(indicated_w / found.at.ratio, (low, high), surface.range_id, found)


def would_show(result: Result, power_w: float, frequency_hz: float) -> LookedUp:
    """What the meter would show of a power, W above 0; raises OutOfRangeError as `stands_for` does."""
    surface = _surface(result, power_w, frequency_hz)
    found = surface.at(frequency_hz, power_w)
    low, high = (power_w * end for end in found.at.ratio_interval)
    return LookedUp(power_w * found.at.ratio, (low, high), surface.range_id, found)


def _surface(result: Result, power_w: float, frequency_hz: float) -> Surface:
    """That of the range on which such a power is read, or of any other where nothing was read on it there."""
    usual = range_for(result.job.device_ranges, power_w)
    known = [item for item in surfaces(result) if any(_covers(row, frequency_hz) for row in item.rows)]
    if not known:
        raise OutOfRangeError(
            f"Nothing was read at {frequency(frequency_hz)}.", "A correction is not taken past what was read."
        )

    def distance(surface: Surface) -> tuple[bool, float]:
        levels = [row.fixed for row in surface.rows if _covers(row, frequency_hz)]
        away = max(min(levels) / power_w, power_w / max(levels), 1.0)
        return away > NEAR_LEVEL, 0.0 if surface.range_id == usual else away

    return min(known, key=distance)


# spans that aren't worth using


def not_worth_using(result: Result) -> Iterator[str]:
    """Spans of each range where it reads half or twice, or where nobody knows its factor well."""
    for surface in surfaces(result):
        at: dict[float, list[PointResult]] = {}
        for row in surface.rows:
            for item in row.points:
                at.setdefault(item.point.frequency_hz, []).append(item)
        opening = f"range {surface.range_id}, " if len(surfaces(result)) > 1 else ""
        for bad, some in groupby(sorted(at.items()), key=lambda pair: any(_is_poor(item) for item in pair[1])):
            if bad:
                yield _span_said(list(some), opening)


def _is_poor(item: PointResult) -> bool:
    return not 1.0 / FAR_OFF < item.ratio < FAR_OFF or item.expanded_u_ratio / item.ratio > POORLY_KNOWN


def _span_said(span: Sequence[tuple[float, list[PointResult]]], opening: str) -> str:
    ends = [max(some, key=lambda item: abs(math.log(item.ratio))) for _, some in (span[0], span[-1])]
    said = [f"{part_said(item.ratio)} (multiply by {factor_said(item)})" for item in ends]
    if len(span) == 1:
        where = f"at {frequency(span[0][0])} it reads {said[0]}"
    else:
        where = f"between {frequency(span[0][0])} and {frequency(span[-1][0])} it reads from {said[0]} to {said[1]}"
    sentence = f"{opening}{where}: correct it, or use another meter there."
    return sentence[0].upper() + sentence[1:]


_PARTS = {2: "a half", 3: "a third", 4: "a quarter", 5: "a fifth", 10: "a tenth"}


def part_said(ratio: float) -> str:
    """How much of the truth is read, in words where people have one."""
    near = next((name for n, name in _PARTS.items() if abs(ratio * n - 1.0) < 0.06), "")
    if near:
        return f"about {near}"
    return f"{plain(ratio, '', 2)} times too much" if ratio > 1.0 else percent(ratio)


def factor_said(item: PointResult) -> str:
    """A factor with its U, both to the place that U allows."""
    return with_uncertainty(item.factor, item.factor * item.expanded_u_ratio / item.ratio, "")
