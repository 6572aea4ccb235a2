"""What the ends at one frequency and level say of a meter together: its directivity, its scale, its floor.

A null bounds the leak of its coupler from both sides; three ends of known phase, among them reflections of both signs,
tell leak and scale apart (`methods.match_shown`). The same end at two levels shows what its detector does.
"""

import math
from collections.abc import Sequence
from itertools import combinations

import numpy as np

from fenmist.calibration.job import Job
from fenmist.frozen import dataclass
from fenmist.measurand import Kind
from fenmist.methods.match_shown import Fitted, Known, fit_meter, leak_bounds
from fenmist.procedures.reflection.reduction import Matches, MatchPoint
from fenmist.units.level import DB_PER_NEPER

DECADE = 4.0
"""Ratio of two levels from which a meter is asked whether it shows the same at both (handbook: a decade; Fenmist's own
margin, since plans rarely have a whole one)."""

MOVED = 0.015
"""Change of ρ between two levels below which nobody would look twice: SWR 2.00 and 2.07 (Fenmist's own)."""

ALIKE = 0.03
"""Difference of |Γ| within which two ends reflect alike (Fenmist's own)."""

APART = math.pi / 3.0
"""Difference of phase from which two ends that reflect alike are two phases: a line of λ/12 (Fenmist's own)."""


@dataclass(frozen=True)
class AtOneLevel:
    """A meter at one frequency and level."""

    points: tuple[MatchPoint, ...]
    fitted: Fitted | None
    leak: tuple[float, float]  # least and most

    @property
    def directivity_db(self) -> tuple[float, float]:
        """Lowest and highest directivity that what was read allows; infinite where the leak may be nothing."""
        if self.fitted is not None:
            return self.fitted.directivity_interval_db
        low, high = self.leak
        return _db(high), _db(low)


def _db(leak: float) -> float:
    return -20.0 * math.log10(leak) if leak > 0.0 else math.inf


def by_level(result: Matches) -> tuple[AtOneLevel, ...]:
    """The ends that were read at each frequency and level, together."""
    groups: dict[tuple[float, float], list[MatchPoint]] = {}
    for item in (one for one in result.points if not one.tuned and not one.turned):
        groups.setdefault((item.point.frequency_hz, item.point.target_w), []).append(item)
    return tuple(_together(some) for some in groups.values())


def _together(points: Sequence[MatchPoint]) -> AtOneLevel:
    known = Known(
        np.array([item.gamma for item in points]), np.array([max(item.u_axes) for item in points]),
        np.array([item.shown for item in points]), np.array([item.u_shown for item in points]),
    )  # fmt: skip
    phases = all(item.has_phase for item in points)
    same = [
        (a, b)
        for a, b in combinations(range(len(points)), 2)
        if phases
        and abs(points[a].expected - points[b].expected) < ALIKE
        and abs(np.angle(points[a].gamma / (points[b].gamma or 1.0))) > APART
    ]
    return AtOneLevel(tuple(points), fit_meter(known) if phases else None, leak_bounds(known, same))


@dataclass(frozen=True)
class OverLevels:
    """One end at one frequency, at its lowest and its highest level."""

    low: MatchPoint
    high: MatchPoint

    @property
    def moved(self) -> float:
        """ρ at the higher level less that at the lower one."""
        return self.high.shown - self.low.shown

    @property
    def is_seen(self) -> bool:
        """Whether that is more than what both readings are known to."""
        return abs(self.moved) > max(MOVED, 2.0 * math.hypot(self.high.u_shown, self.low.u_shown))


def over_levels(result: Matches) -> tuple[OverLevels, ...]:
    """Ends that were read at levels far apart."""
    groups: dict[tuple[float, str], list[MatchPoint]] = {}
    for item in (one for one in result.points if not one.tuned):
        groups.setdefault((item.point.frequency_hz, item.point.hookup), []).append(item)
    made = []
    for some in groups.values():
        low, high = (pick(some, key=lambda item: item.point.target_w) for pick in (min, max))
        if high.point.target_w >= DECADE * low.point.target_w:
            made.append(OverLevels(low, high))
    return tuple(made)


@dataclass(frozen=True)
class Balance:
    """A meter on one end, straight and turned round: what its arms make of the same wave."""

    straight: MatchPoint
    turned: MatchPoint

    @property
    def db(self) -> float:
        """Watts of the reflected arm over those of the forward arm, dB."""
        return 10.0 * math.log10((self.turned.forward_w or 1.0) / (self.straight.forward_w or 1.0))

    @property
    def expanded_u_db(self) -> float:
        """U (k = 2) of that by the readings and their scatter; what the source did meanwhile isn't in it."""
        return 2.0 * DB_PER_NEPER * math.hypot(self.straight.u_forward, self.turned.u_forward)

    @property
    def swr_2_shows(self) -> float:
        """What it makes of a true SWR of 2, as ρ: reflected volts are off by that against forward ones."""
        return float(min(10.0 ** (self.db / 20.0) / 3.0, 1.0))


def balances(result: Matches) -> tuple[Balance, ...]:
    """Where the meter was read both ways, with the same behind it."""
    read = [item for item in result.points if item.forward_w and not item.tuned]
    key = {id(item): (item.point.frequency_hz, item.point.target_w) for item in read}
    return tuple(
        Balance(straight, turned)
        for turned in read
        if turned.turned
        for straight in read
        if not straight.turned
        and key[id(straight)] == key[id(turned)]
        and end_of(result.job, turned).startswith(end_of(result.job, straight))
    )


def from_watts(item: MatchPoint) -> float | None:
    """ρ by the meter's own forward and reflected watts; none where it shows SWR alone, or nothing else."""
    if item.kind is Kind.REFLECTED or item.forward_w is None or item.reflected_w is None or item.forward_w <= 0.0:
        return None
    return math.sqrt(max(item.reflected_w, 0.0) / item.forward_w)


def end_of(job: Job, item: MatchPoint) -> str:
    """Name of what ends the line."""
    return item.point.leg or job.hookup(item.point.hookup).label
