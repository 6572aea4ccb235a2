"""Power against time at one point: a tune cycle, a drooping carrier, anything that isn't steady.

Readings of one point are taken in the order of their times, whatever round they stand in; the mean is weighted by time
(straight between readings), and so is the time spent above a level.
"""

from itertools import pairwise

from fenmist.frozen import dataclass


@dataclass(frozen=True)
class Series:
    """Powers in W at seconds from the first reading, rising in time."""

    channel: str
    of_device: bool
    seconds: tuple[float, ...]
    powers_w: tuple[float, ...]

    @property
    def lowest_w(self) -> float:
        """Lowest power read."""
        return min(self.powers_w)

    @property
    def highest_w(self) -> float:
        """Highest power read."""
        return max(self.powers_w)

    @property
    def span_s(self) -> float:
        """From the first to the last reading."""
        return self.seconds[-1] - self.seconds[0]

    @property
    def mean_w(self) -> float:
        """Mean over time, straight between readings; over the readings where no time passed."""
        if self.span_s == 0.0:
            return sum(self.powers_w) / len(self.powers_w)
        pairs = pairwise(zip(self.seconds, self.powers_w, strict=True))
        return sum((t2 - t1) * (p1 + p2) / 2.0 for (t1, p1), (t2, p2) in pairs) / self.span_s

    def seconds_above(self, limit_w: float) -> float:
        """Time spent above a level, straight between readings."""
        total = 0.0
        for (t1, p1), (t2, p2) in pairwise(zip(self.seconds, self.powers_w, strict=True)):
            total += (t2 - t1) * _share_above(p1, p2, limit_w)
        return total

    def times_above(self, limit_w: float) -> tuple[tuple[float, float], ...]:
        """From when to when it is above a level, straight between readings."""
        found: list[tuple[float, float]] = []
        for (t1, p1), (t2, p2) in pairwise(zip(self.seconds, self.powers_w, strict=True)):
            share = _share_above(p1, p2, limit_w)
            if share <= 0.0:
                continue
            begin, end = (t1, t1 + share * (t2 - t1)) if p1 >= p2 else (t2 - share * (t2 - t1), t2)
            if found and found[-1][1] >= begin:
                found[-1] = (found[-1][0], end)
            else:
                found.append((begin, end))
        return tuple(found)


def _share_above(first: float, second: float, limit: float) -> float:
    low, high = min(first, second), max(first, second)
    if limit >= high:
        return 0.0
    return 1.0 if limit <= low else (high - limit) / (high - low)
