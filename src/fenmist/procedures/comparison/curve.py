"""Error and factor between the points that were read: over frequency at one level, over level at one frequency.

The logarithm of the ratio is interpolated monotone between neighbours (PCHIP), so it never swings past what was read,
and never outside them. Between two points half of the change between them is added as a limit, full mid-way, nothing
at the points: the rule for tables. Page: docs/method/curve.md.
"""

import math
from collections.abc import Callable
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.kit.lookup import shape_keeping
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.uncertainty.influence import FloatArray


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
        if item.is_reference and item.is_steady and not item.shows_nothing:
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
