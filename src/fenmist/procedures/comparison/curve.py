"""Error and factor between the points that were read: over frequency at one level, over level at one frequency.

The logarithm of the ratio is interpolated monotone between neighbours (PCHIP), so it never swings past what was read,
and never outside them. Between two points half of the change between them is added as a limit, full mid-way, nothing
at the points: the rule for tables. Page: docs/method/curve.md.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike

from fenmist.errors import OutOfRangeError
from fenmist.kit.dialsheet import set_ranges
from fenmist.kit.lookup import shape_keeping
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.display import frequency


@dataclass(frozen=True)
class CurvePoint:
    """What a curve says at one place."""

    ratio: float  # indicated over reference
    ratio_interval: tuple[float, float]
    measured: bool  # at a point that was read

    @property
    def factor(self) -> float:
        """What the indication is to be multiplied by."""
        return 1.0 / self.ratio


@dataclass(frozen=True, eq=False)
class Curve:
    """Ratios over x, rising; arrays have shape (n,), n >= 1."""

    over: str  # "frequency" in Hz, or "level" in W as indicated
    fixed: float  # the other one
    range_id: str
    x: FloatArray
    log_ratio: FloatArray
    log_low: FloatArray
    log_high: FloatArray
    points: tuple[PointResult, ...]

    def at(self, x: float) -> CurvePoint:
        """The ratio at a place between the points read.

        Raises
        ------
        OutOfRangeError
            Outside of them: a correction is never taken past what was read.
        """
        tolerance = 1e-6 * abs(x)
        if not self.x[0] - tolerance <= x <= self.x[-1] + tolerance:
            raise OutOfRangeError(
                f"Nothing was read at {x:g}: the curve goes from {self.x[0]:g} to {self.x[-1]:g}.",
                "Read a point there; a correction is not taken past what was read.",
            )
        exact = np.flatnonzero(np.abs(self.x - x) <= tolerance)
        if exact.size:
            here = int(exact[0])
            ends = (math.exp(self.log_low[here]), math.exp(self.log_high[here]))
            return CurvePoint(math.exp(self.log_ratio[here]), ends, True)
        return self._between(x)

    def drawn(self, steps: int) -> list[tuple[float, float]]:
        """Places and ratios along the curve, so many between two points."""
        places = np.concatenate([np.linspace(a, b, steps, endpoint=False) for a, b in pairwise(self.x)])
        places = np.append(places, self.x[-1])
        return list(zip(places.tolist(), np.exp(self._pchip(places)).tolist(), strict=True))

    @cached_property
    def _pchip(self) -> Callable[[ArrayLike], FloatArray]:
        return shape_keeping(self.x, self.log_ratio)

    def _between(self, x: float) -> CurvePoint:
        above = int(np.searchsorted(self.x, x))
        t = (x - self.x[above - 1]) / (self.x[above] - self.x[above - 1])
        middle = float(self._pchip(x))
        change = abs(float(self.log_ratio[above] - self.log_ratio[above - 1]))
        bend = 2.0 * 0.5 * 4.0 * t * (1.0 - t) * change / math.sqrt(3.0)  # expanded, k = 2
        down, up = (
            math.hypot(float(np.interp(x, self.x, side)), bend)
            for side in (self.log_ratio - self.log_low, self.log_high - self.log_ratio)
        )
        return CurvePoint(math.exp(middle), (math.exp(middle - down), math.exp(middle + up)), False)


def curves_over_frequency(result: Result) -> tuple[Curve, ...]:
    """One curve for each level and range, rising in level, of a steady carrier."""
    groups: dict[tuple[float, str], list[PointResult]] = {}
    for item in result.points:
        if item.is_reference and item.is_steady:
            groups.setdefault((item.point.target_w, item.point.range_id), []).append(item)
    return tuple(
        curve_through("frequency", key[0], groups[key], lambda item: item.point.frequency_hz) for key in sorted(groups)
    )


def curve_through(over: str, fixed: float, found: list[PointResult], place: Callable[[PointResult], float]) -> Curve:
    """The curve through points of one range; of two at one place the first counts."""
    ordered: list[PointResult] = []
    for item in sorted(found, key=place):
        if not ordered or place(item) > place(ordered[-1]) * (1.0 + 1e-9):
            ordered.append(item)
    ratios = [[item.ratio, *item.ratio_interval] for item in ordered]
    logs = np.log(np.maximum(np.array(ratios), 1e-12))
    x = np.array([place(item) for item in ordered])
    used = ordered[0].point.range_id
    return Curve(over, fixed, used, x, logs[:, 0], logs[:, 1], logs[:, 2], tuple(ordered))


@dataclass(frozen=True)
class LookedUp:
    """What a reading of the meter stands for, by the curve of the nearest level."""

    power_w: float
    interval_w: tuple[float, float]
    level_w: float  # of the curve
    range_id: str
    measured: bool


def look_up(result: Result, indicated_w: float, frequency_hz: float) -> LookedUp:
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
        Where nothing was read, at that frequency or near that level: between a half and twice a level read.
    """
    curves = sorted(curves_over_frequency(result), key=lambda curve: abs(math.log(curve.fixed / indicated_w)))
    near = [curve for curve in curves if 0.5 <= indicated_w / curve.fixed <= 2.0]
    if not near:
        raise OutOfRangeError(f"Nothing was read near {indicated_w:g} W.", "Read a level within a factor of two of it.")
    here = next((curve for curve in near if curve.x[0] <= frequency_hz <= curve.x[-1]), near[0])
    found = here.at(frequency_hz)
    if not found.measured and here.range_id in set_ranges(result.job.dut_part):
        raise OutOfRangeError(
            f"Range {here.range_id} is fixed by its set control: between frequencies nothing is known of its marks.",
            f"It was checked at {', '.join(frequency(float(f)) for f in here.x)}.",
        )
    low, high = (indicated_w / end for end in reversed(found.ratio_interval))
    return LookedUp(indicated_w / found.ratio, (low, high), here.fixed, here.range_id, found.measured)
