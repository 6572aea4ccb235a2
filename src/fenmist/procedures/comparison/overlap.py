"""Two ranges of one meter at the same frequency and level: do they meet?

Both were compared with the same reference, so what they share (its gain, the load, the lead) drops out of their
difference, and far less uncertainty is left than in either error. Page: docs/method/curve.md.
"""

import math
from itertools import combinations, product

from fenmist.frozen import dataclass
from fenmist.procedures.comparison.reduction import PointResult, Result

SAME_LEVEL = 1.25
"""Ratio of planned levels up to which two ranges are compared (Fenmist's own, no source)."""


@dataclass(frozen=True)
class Overlap:
    """Two points on different ranges, and the difference of their errors."""

    one: PointResult
    other: PointResult
    difference: float  # of ln(indicated/reference)
    expanded_u: float  # k = 2

    @property
    def normalized(self) -> float:
        """|difference| over U: 1 or less agrees (as En in ISO 13528, with the shared parts taken out)."""
        return abs(self.difference) / self.expanded_u if self.expanded_u > 0 else math.inf


def overlaps(result: Result) -> tuple[Overlap, ...]:
    """All pairs of points at one frequency and about one level that were read on different ranges."""
    by_frequency: dict[int, dict[str, list[int]]] = {}
    for column, item in enumerate(result.points):
        ranges = by_frequency.setdefault(round(item.point.frequency_hz), {})
        ranges.setdefault(item.point.range_id, []).append(column)
    pairs = [
        (a, b)
        for ranges in by_frequency.values()
        for first, second in combinations(ranges.values(), 2)
        for a, b in product(first, second)
        if _about_one_level(result.points[a], result.points[b])
    ]
    if not pairs:
        return ()
    log_ratio = result.log_ratio  # asked for late: it costs a propagation
    if log_ratio is None:
        return ()
    covariance = log_ratio.covariance()
    made = []
    for a, b in pairs:
        variance = covariance[a, a] + covariance[b, b] - 2.0 * covariance[a, b]
        difference = float(log_ratio.value[a] - log_ratio.value[b])
        made.append(Overlap(result.points[a], result.points[b], difference, 2.0 * math.sqrt(max(variance, 0.0))))
    return tuple(made)


def _about_one_level(one: PointResult, other: PointResult) -> bool:
    levels = sorted((one.point.target_w, other.point.target_w))
    return levels[1] / levels[0] <= SAME_LEVEL and one.point.waveform == other.point.waveform
