"""One meter through the years: its error at the same point, the drift, and when that would leave the tolerance.

The drift is a weighted straight line through the errors as found over time (before an adjustment the meter is what time
made of it); an adjustment starts a new line. Weights are 1/u². Three comparisons are needed before a line is drawn, two
give a slope without a check. How likely the meter is outside on a day follows from the line there and what it is known
to, normally distributed. Page: docs/method/history.md.
"""

import math
from collections import defaultdict
from collections.abc import Sequence
from datetime import date, timedelta
from functools import lru_cache
from operator import attrgetter, mul

import msgspec

from fenmist.frozen import dataclass

SAME_FREQUENCY, SAME_LEVEL = 0.01, 0.1
"""Relative distance within which two points are one through the years (Fenmist's own, no source)."""

YEAR_DAYS = 365.25

RISK = 0.05
"""Chance of being outside its tolerance at which a meter is due again (common practice, no source)."""

LEAST_YEARS = 0.5
"""Span of a line from which its slope says what moves in a year (Fenmist's own)."""

FARTHEST_YEARS = 20.0
"""As far ahead as anything is said."""


class Past(msgspec.Struct, frozen=True, array_like=True, gc=False):
    """An error at one point on one day, as a ratio less one.

    A struct, as a meter of a busy workshop has tens of thousands of them: read in a fifth of a dataclass's time.
    """

    on: str  # ISO date
    frequency_hz: float
    level_w: float
    error: float  # relative: indicated/reference − 1
    expanded_u: float  # relative
    tolerance: float  # relative, half-width; 0 where nothing is claimed
    as_left: bool
    job: str
    question: str = "comparison"  # what it was an answer to: only answers to one question are one line
    unit: str = "%"  # of the error where it isn't relative
    leg: str = ""  # which visit of its job it was read on, where each has an answer of its own


@dataclass(frozen=True)
class Drift:
    """A straight line through what was found at one point since the last adjustment."""

    frequency_hz: float
    level_w: float
    found: tuple[Past, ...]  # of the present line, rising in time
    per_year: float  # relative
    u_per_year: float  # standard
    crosses_on: str  # ISO date on which the line leaves the tolerance; empty where it doesn't within 20 years
    mean: float  # of the line on the day below
    u_mean: float  # standard
    mean_on: str  # ISO date around which it turns
    unit: str = "%"  # of the slope where it isn't relative
    question: str = "comparison"

    def chance_outside(self, on: date) -> float:
        """How likely it is outside its tolerance on a day; 0 where nothing is claimed."""
        tolerance = self.found[-1].tolerance
        if tolerance <= 0.0:
            return 0.0
        years = (on - date.fromisoformat(self.mean_on)).days / YEAR_DAYS
        at = self.mean + self.per_year * years
        u = math.hypot(self.u_mean, self.u_per_year * years)
        from statistics import NormalDist  # on first use

        normal = NormalDist(at, max(u, 1e-12))
        return 1.0 - (normal.cdf(tolerance) - normal.cdf(-tolerance))

    def likely_outside_on(self, chance: float) -> str:
        """The day from which that is as likely, ISO; the last comparison's where it is so already, else empty."""
        first = date.fromisoformat(self.found[-1].on)
        if self.chance_outside(first) >= chance:
            return first.isoformat()
        low, high = 0, int(FARTHEST_YEARS * YEAR_DAYS)
        if self.chance_outside(first + timedelta(days=high)) < chance:
            return ""
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (
                (low, middle) if self.chance_outside(first + timedelta(days=middle)) >= chance else (middle, high)
            )
        return (first + timedelta(days=high)).isoformat()

    @property
    def is_seen(self) -> bool:
        """True where the slope is more than twice its uncertainty."""
        return abs(self.per_year) > 2.0 * self.u_per_year


def drifts(past: Sequence[Past]) -> tuple[Drift, ...]:
    """A line for each point that was compared twice or more since the last adjustment."""
    made = (_drift(group) for group in _by_point(past))
    return tuple(item for item in made if item is not None)


def due_again(lines: Sequence[Drift]) -> tuple[str, Drift] | None:
    """The first day on which any point is outside as likely as may be, with its line; none where none gets there."""
    found = [(day, line) for line in lines if (day := line.likely_outside_on(RISK))]
    return min(found, key=lambda pair: pair[0], default=None)


def drift_per_year(lines: Sequence[Drift]) -> float:
    """What a meter moves in a year, relative: root of the mean square of its slopes over half a year or more.

    0 where nothing was seen for so long.
    """
    slopes = [line.per_year for line in lines if line.unit == "%" and _years(line) >= LEAST_YEARS]
    return math.sqrt(sum(slope**2 for slope in slopes) / len(slopes)) if slopes else 0.0


def _years(line: Drift) -> float:
    first, last = (date.fromisoformat(item.on) for item in (line.found[0], line.found[-1]))
    return (last - first).days / YEAR_DAYS


_ASKED = attrgetter("frequency_hz", "level_w", "question", "leg")
_WHEN, _ON, _AS_LEFT = attrgetter("on", "as_left"), attrgetter("on"), attrgetter("as_left")


def _by_point(past: Sequence[Past]) -> list[list[Past]]:
    """In rising frequency, so that a group is left for good once the frequency is beyond it."""
    planned_alike: defaultdict[tuple[float, float, str, str], list[Past]] = defaultdict(list)
    for asked, item in zip(map(_ASKED, past), past, strict=True):
        planned_alike[asked].append(item)
    groups: list[list[Past]] = []
    near: list[list[Past]] = []
    for (hertz, level_w, *asked_for), some in sorted(planned_alike.items(), key=lambda pair: pair[0]):
        near = [group for group in near if hertz / group[0].frequency_hz - 1.0 < SAME_FREQUENCY]
        fitting = (group for group in near if is_at(group[0], hertz, level_w))
        found = next((group for group in fitting if [group[0].question, group[0].leg] == asked_for), None)
        if found is None:
            found = []
            groups.append(found)
            near.append(found)
        found.extend(some)
    return groups


def is_at(item: Past, frequency_hz: float, level_w: float) -> bool:
    """Whether it is the same point, as far as the years go."""
    return (
        abs(item.frequency_hz / frequency_hz - 1.0) < SAME_FREQUENCY and abs(item.level_w / level_w - 1.0) < SAME_LEVEL
    )


def _drift(group: list[Past]) -> Drift | None:
    # tens of thousands of errors: sums of products by `map`, which is quicker than naming each of them
    line = _since_adjustment(group)
    days = [_day(item.on) for item in line]
    first, last = days[0], days[-1]
    if first == last:
        return None
    years = [(day - first) / YEAR_DAYS for day in days]
    errors = [item.error for item in line]
    weights = [4.0 / (u * u) if (u := item.expanded_u) > 1e-6 else 4e12 for item in line]
    total = sum(weights)
    mean_t, mean_e = sum(map(mul, weights, years)) / total, sum(map(mul, weights, errors)) / total
    away = [year - mean_t for year in years]
    leaning = list(map(mul, weights, away))
    spread = sum(map(mul, leaning, away))
    slope = sum(map(mul, leaning, errors)) / spread
    latest = line[-1]
    now = mean_e + slope * (years[-1] - mean_t)
    return Drift(
        latest.frequency_hz, latest.level_w, tuple(line), slope, 1.0 / math.sqrt(spread),
        _crossing(date.fromordinal(last), now, slope, latest.tolerance),
        mean_e, 1.0 / math.sqrt(total), date.fromordinal(first + round(mean_t * YEAR_DAYS)).isoformat(),
        latest.unit, latest.question,
    )  # fmt: skip


@lru_cache(maxsize=4096)
def _day(on: str) -> int:
    """Number of a day given as an ISO date."""
    return date.fromisoformat(on).toordinal()


def _since_adjustment(group: list[Past]) -> list[Past]:
    """In time, from the last reading as left on (it begins the line); what was found before it ended another."""
    if not any(map(_AS_LEFT, group)):
        return sorted(group, key=_ON)
    ordered = sorted(group, key=_WHEN)
    return ordered[max(place for place, item in enumerate(ordered) if item.as_left) :]


def _crossing(on: date, error: float, per_year: float, tolerance: float) -> str:
    if tolerance <= 0.0:
        return ""
    if abs(error) >= tolerance:
        return on.isoformat()
    if per_year == 0.0:
        return ""
    years = (math.copysign(tolerance, per_year) - error) / per_year
    return (on + timedelta(days=years * YEAR_DAYS)).isoformat() if years < FARTHEST_YEARS else ""
