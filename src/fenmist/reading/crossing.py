"""Two needles that cross over one dial: forward power, reflected power, and the SWR on which they cross.

Where the reflected needle stands within what it can be read to of its stop, the lines of SWR bunch up: then only an
upper bound is a fact.
"""

import math

from fenmist.frozen import dataclass
from fenmist.kit.part import Range
from fenmist.reading.dial import reading_limit
from fenmist.reading.event import Reading


@dataclass(frozen=True)
class Crossing:
    """Where two needles cross, as ρ; infinite SWR from 1 on."""

    rho: float
    low: float  # by what both needles can be read to
    high: float

    @property
    def is_bound(self) -> bool:
        """Whether it can't be told from a match."""
        return self.low <= 0.0

    @property
    def swr(self) -> float:
        """Of where they cross."""
        return _swr(self.rho)

    @property
    def swr_range(self) -> tuple[float, float]:
        """What it may be."""
        return _swr(self.low), _swr(self.high)


def _swr(rho: float) -> float:
    return (1.0 + rho) / (1.0 - rho) if rho < 1.0 else math.inf


def crossing(
    forward_w: float, reflected_w: float, forward: Range, reflected: Range, part_of_division: float
) -> Crossing | None:
    """Where needles at two powers cross; none where nothing goes out.

    >>> from fenmist.kit.scale import Scale
    >>> arc = Range("100", 100.0, "W", Scale("arc", (0.0, 50.0, 100.0), (10, 10), 0.5))
    >>> round(crossing(100.0, 25.0, arc, arc, 0.25).swr, 6)
    3.0
    """
    if forward_w <= 0.0:
        return None
    ahead, back = (
        reading_limit(Reading(value, "W", 0.0), used, part_of_division)
        for value, used in ((forward_w, forward), (reflected_w, reflected))
    )
    low = math.sqrt(max(reflected_w - back, 0.0) / (forward_w + ahead))
    high = math.sqrt((reflected_w + back) / max(forward_w - ahead, 1e-12))
    return Crossing(min(math.sqrt(max(reflected_w, 0.0) / forward_w), 1.0), low, min(high, 1.0))
