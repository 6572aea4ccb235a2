"""One meter through the years: its error at the same point, the drift, and when that would leave the tolerance.

The drift is a weighted straight line through the errors as found over time (before an adjustment the meter is what time
made of it); an adjustment starts a new line. Weights are 1/u². Three comparisons are needed before a line is drawn, two
give a slope without a check. How likely the meter is outside on a day follows from the line there and what it is known
to, normally distributed. Page: docs/method/history.md.
"""

import math
import struct
import sys
from array import array
from binascii import a2b_base64, b2a_base64
from collections.abc import Iterable, Sequence
from datetime import date, timedelta
from functools import partial
from itertools import starmap
from operator import attrgetter
from typing import TYPE_CHECKING, Any, Self

import msgspec
from msgspec.structs import replace

from fenmist.frozen import dataclass

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Numbers = NDArray[np.float64]
    Places = NDArray[np.int64]
    _Array = array[float]
else:
    _Array = array  # Python 3.11 doesn't say of what

SAME_FREQUENCY, SAME_LEVEL = 0.01, 0.1
"""Relative distance within which two points are one through the years (Fenmist's own, no source)."""

YEAR_DAYS = 365.25

RISK = 0.05
"""Chance of being outside its tolerance at which a meter is due again (common practice, no source)."""

LEAST_YEARS = 0.5
"""Span of a line from which its slope says what moves in a year (Fenmist's own)."""

FARTHEST_YEARS = 20.0
"""As far ahead as anything is said."""

_LEAST_U = 1e-6  # an error is never taken as known better


class Column(_Array):
    """Numbers of one kind, eight bytes each: `Column("d", values)`."""

    def kept(self) -> str:
        """As text: base64 (RFC 4648) of their bytes, the lowest first, read in a third of the time that digits take.

        Raises ValueError where one isn't finite.
        """
        if not all(map(math.isfinite, self)):
            raise ValueError("an error found, its uncertainty or its tolerance is no finite number")
        return b2a_base64(struct.pack(f"<{len(self)}d", *self), newline=False).decode()

    @classmethod
    def of_kept(cls, text: str) -> Self:
        """What was kept; raises ValueError where that isn't numbers."""
        made = cls("d")
        made.frombytes(a2b_base64(text))
        if sys.byteorder == "big":
            made.byteswap()
        return made


Row = tuple[float, float, float, float, float]


class Past(msgspec.Struct, frozen=True, array_like=True, gc=False):
    """What a meter was found to err by on one day, at many points, as ratios less one.

    By column, as a meter of a busy workshop has tens of thousands of errors: so they are kept, read and reckoned with.
    """

    on: str  # ISO date
    as_left: bool
    job: str
    frequency_hz: Column
    level_w: Column
    error: Column  # relative: indicated/reference − 1
    expanded_u: Column  # relative
    tolerance: Column  # relative, half-width; 0 where nothing is claimed
    question: str = "comparison"  # what it was an answer to: only answers to one question are one line
    unit: str = "%"  # of the error where it isn't relative
    leg: str = ""  # which visit of its job it was read on, where each has an answer of its own

    @classmethod
    def of_rows(cls, on: str, as_left: bool, job: str, rows: Iterable[Row], *asked: str) -> Self:
        """From frequency, level, error, expanded uncertainty and tolerance at each point; then question, unit, leg."""
        hertz, level_w, error, expanded_u, tolerance = (Column("d", values) for values in zip(*rows, strict=True))
        return cls(on, as_left, job, hertz, level_w, error, expanded_u, tolerance, *asked)

    def taken(self, places: Sequence[int]) -> "Past":
        """What it holds at some of its places."""
        names = ("frequency_hz", "level_w", "error", "expanded_u", "tolerance")
        return replace(self, **{name: Column("d", [getattr(self, name)[place] for place in places]) for name in names})


@dataclass(frozen=True)
class Drift:
    """A straight line through what was found at one point since the last adjustment."""

    frequency_hz: float
    level_w: float
    since: str  # ISO date of the first that the line goes through
    latest_on: str  # and of the last
    tolerance: float  # of the last, half-width; 0 where nothing is claimed
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
        if self.tolerance <= 0.0:
            return 0.0
        years = (on - date.fromisoformat(self.mean_on)).days / YEAR_DAYS
        at = self.mean + self.per_year * years
        u = math.hypot(self.u_mean, self.u_per_year * years)
        from statistics import NormalDist  # on first use

        normal = NormalDist(at, max(u, 1e-12))
        return 1.0 - (normal.cdf(self.tolerance) - normal.cdf(-self.tolerance))

    def likely_outside_on(self, chance: float) -> str:
        """The day from which that is as likely, ISO; the last comparison's where it is so already, else empty."""
        first = date.fromisoformat(self.latest_on)
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
    return (date.fromisoformat(line.latest_on) - date.fromisoformat(line.since)).days / YEAR_DAYS


def at_point(past: Sequence[Past], asked: tuple[str, str], frequency_hz: float, level_w: float) -> tuple[Past, ...]:
    """What answered a question on a leg at one point, as far as the years go."""
    import numpy as np  # on first use

    found = []
    for item in past:
        if (item.question, item.leg) == asked:
            at = np.frombuffer(item.frequency_hz), np.frombuffer(item.level_w)
            places = np.flatnonzero(_is_at(at, frequency_hz, level_w)).tolist()
            found += [item.taken(places)] if places else []
    return tuple(found)


def _is_at(at: tuple[Any, Any], frequency_hz: float, level_w: float) -> Any:
    """Of one point or, by column, of many."""
    return (abs(at[0] / frequency_hz - 1.0) < SAME_FREQUENCY) & (abs(at[1] / level_w - 1.0) < SAME_LEVEL)


def drifts(past: Sequence[Past]) -> tuple[Drift, ...]:
    """A line for each point that was compared twice or more since the last adjustment."""
    import numpy as np  # on first use

    each = np.array([len(item.error) for item in past])
    if not each.sum():
        return ()
    hertz, level_w, error, expanded_u, tolerance = (
        np.frombuffer(b"".join(map(attrgetter(name), past)))
        for name in ("frequency_hz", "level_w", "error", "expanded_u", "tolerance")
    )
    visit = np.repeat(np.arange(len(past)), each)
    days = np.array([date.fromisoformat(item.on).toordinal() for item in past])
    left = np.array([item.as_left for item in past])
    point = _points(past, visit, hertz, level_w)

    # in time at each point, what was left on a day after what was found on it
    order = np.lexsort((left[visit], days[visit], point))
    begins, ends = _runs(point[order])
    # an adjustment ends a line: from the last reading as left on, which begins the next one
    adjusted = np.maximum.reduceat(np.where(left[visit[order]], np.arange(len(order)), 0), begins)
    begins = np.maximum(begins, adjusted)
    moved = days[visit[order[begins]]] < days[visit[order[ends - 1]]]
    begins, ends = begins[moved], ends[moved]
    counts = ends - begins
    starts = np.cumsum(counts) - counts
    line = order[
        np.repeat(begins - starts, counts) + np.arange(counts.sum())
    ]  # what lies on lines, one after the other

    def total(values: "Numbers") -> "Numbers":
        return np.add.reduceat(values, starts)

    first, latest = line[starts], line[starts + counts - 1]
    year = (days[visit[line]] - np.repeat(days[visit[first]], counts)) / YEAR_DAYS
    weight = 4.0 / np.maximum(expanded_u[line], _LEAST_U) ** 2
    weights = total(weight)
    mean_year, mean = total(weight * year) / weights, total(weight * error[line]) / weights
    away = year - np.repeat(mean_year, counts)
    spread = total(weight * away**2)
    slope = total(weight * away * error[line]) / spread
    now = mean + slope * away[starts + counts - 1]
    turns = days[visit[first]] + np.rint(mean_year * YEAR_DAYS).astype(int)
    columns = (
        visit[first], visit[latest], hertz[latest], level_w[latest], tolerance[latest], slope, 1.0 / np.sqrt(spread),
        now, mean, 1.0 / np.sqrt(weights), turns,
    )  # fmt: skip
    return tuple(starmap(partial(_drift, past), zip(*(column.tolist() for column in columns), strict=True)))


def _drift(
    past: Sequence[Past], since: int, until: int, hertz: float, level_w: float, tolerance: float, slope: float,
    u_slope: float, now: float, mean: float, u_mean: float, turns: int,
) -> Drift:  # fmt: skip
    latest = past[until]
    crosses_on = _crossing(date.fromisoformat(latest.on), now, slope, tolerance)
    return Drift(
        hertz, level_w, past[since].on, latest.on, tolerance, slope, u_slope, crosses_on, mean, u_mean,
        date.fromordinal(turns).isoformat(), latest.unit, latest.question,
    )  # fmt: skip


def _runs(values: "Places") -> "tuple[Places, Places]":
    """Where runs of the same begin and end."""
    import numpy as np  # on first use

    changes = np.flatnonzero(np.diff(values)) + 1
    return np.concatenate(([0], changes)), np.concatenate((changes, [len(values)]))


def _points(past: Sequence[Past], visit: "Places", hertz: "Numbers", level_w: "Numbers") -> "Places":
    """A number for each error, the same where question, leg and point are the same as far as the years go."""
    import numpy as np  # on first use

    asked = [(item.question, item.leg) for item in past]
    kinds = {key: number for number, key in enumerate(dict.fromkeys(asked))}
    kind = np.array([kinds[key] for key in asked])[visit]
    point, known = np.empty(len(visit), int), 0
    for number in range(len(kinds)):
        of = np.flatnonzero(kind == number)
        planned, alike = np.unique(hertz[of] + 1j * level_w[of], return_inverse=True)
        groups = _gathered(list(zip(planned.real.tolist(), planned.imag.tolist(), strict=True)))
        point[of] = np.array(groups)[alike] + known
        known += max(groups) + 1
    return point


def _gathered(planned: "list[tuple[float, float]]") -> list[int]:
    """Which group each belongs to, of points in rising frequency: the first that began near enough."""
    groups: list[int] = []
    near: list[tuple[int, tuple[float, float]]] = []
    begun = 0
    for at in planned:
        near = [(group, first) for group, first in near if at[0] / first[0] - 1.0 < SAME_FREQUENCY]
        found = next((group for group, first in near if _is_at(first, *at)), None)
        if found is None:
            found, begun = begun, begun + 1
            near.append((found, at))
        groups.append(found)
    return groups


def _crossing(on: date, error: float, per_year: float, tolerance: float) -> str:
    if tolerance <= 0.0:
        return ""
    if abs(error) >= tolerance:
        return on.isoformat()
    if per_year == 0.0:
        return ""
    years = (math.copysign(tolerance, per_year) - error) / per_year
    return (on + timedelta(days=years * YEAR_DAYS)).isoformat() if years < FARTHEST_YEARS else ""
