"""What comes of a job, whatever its question is: what is stated at its points, and what is still missing.

Each room under `procedures` makes an outcome of its own kind; history, lists, verdicts, worst points and budgets read
only what stands here.
"""

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import replace
from functools import cached_property

from fenmist.calibration.decision import Decision
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.rounds import PointReadings
from fenmist.frozen import dataclass
from fenmist.uncertainty.estimate import BudgetRow, Estimate


@dataclass(frozen=True)
class Stated:
    """One value that is stated at a point, with its interval and what the agreed rule makes of it."""

    point: PlanPoint
    value: float  # in `unit`
    interval: tuple[float, float]  # about 95 %; symmetric unless drawn
    u: float  # standard
    k: float
    unit: str
    tolerance: float  # half-width; 0 where nothing is claimed
    decision: Decision | None  # none where nothing is claimed
    engine: str  # "linear", or "Monte Carlo" where the linear picture doesn't hold
    usable: bool  # false where it is shown, but no verdict leans on it
    share: float  # the value as it is followed through the years: relative, or in dB
    share_interval: tuple[float, float]
    share_tolerance: float  # 0 where nothing is claimed
    drift_limit: float = 0.0  # ± relative: what may be left of the carrier's drift
    share_unit: str = "%"  # in which shares are drawn and followed; else they are in that unit themselves

    @property
    def share_scale(self) -> float:
        """What a share is multiplied by to be in that unit."""
        return 100.0 if self.share_unit == "%" else 1.0

    @property
    def relative_u(self) -> float:
        """Half of the interval as a part of a power: of dB to first order."""
        if self.share_unit == "dB":
            return self.expanded_u_share * math.log(10.0) / 10.0
        return self.expanded_u_share / max(1.0 + self.share, 1e-12)

    @property
    def expanded_u(self) -> float:
        """Half of the interval."""
        return (self.interval[1] - self.interval[0]) / 2.0

    @property
    def expanded_u_share(self) -> float:
        """Half of the share's interval."""
        return (self.share_interval[1] - self.share_interval[0]) / 2.0

    @property
    def tolerance_used(self) -> float:
        """Size of the value as a share of the tolerance; 0 where nothing is claimed."""
        return abs(self.value) / self.tolerance if self.tolerance > 0 else 0.0


def by_part(job: Job, rows: tuple[BudgetRow, ...]) -> tuple[BudgetRow, ...]:
    """A budget with a line for each part it leans on, largest share first; what no part brings is the rounds'."""
    parts = job.parts
    grouped: dict[str, list[BudgetRow]] = {}
    for row in rows:
        grouped.setdefault(row.influence.source_id, []).append(row)
    made = []
    for source, some in grouped.items():
        label = parts[source].label if source in parts else source or "rounds"
        basis = f"{len(some)} line{'' if len(some) == 1 else 's'}"
        line = replace(some[0].influence, id=f"part {source}", label=label, basis=basis)
        made.append(
            BudgetRow(line, 1.0, math.hypot(*(row.contribution for row in some)), sum(row.share for row in some))
        )
    return tuple(sorted(made, key=lambda row: (-row.share, row.influence.id)))


@dataclass(frozen=True, eq=False)
class Outcome(ABC):
    """All points of a job that could be worked out."""

    job: Job
    phase: str
    known: Mapping[str, float]  # what if: factors on standard uncertainties by influence id
    readings: tuple[PointReadings, ...]  # every plan point

    @property
    @abstractmethod
    def stated(self) -> tuple[Stated, ...]:
        """What is stated at the points that could be worked out, in the plan's order."""

    @property
    @abstractmethod
    def quantities(self) -> Mapping[str, Estimate]:
        """Estimates by name over the points of `stated`; empty where nothing was read."""

    @abstractmethod
    def budget(self, point_id: str) -> tuple[BudgetRow, ...]:
        """Budget of what is stated at a point, largest share first; empty where there is nothing."""

    def power_at(self, point_id: str) -> tuple[float, float, float] | None:
        """Power at the stated plane at a point with its interval, W: low, value, high; none where it isn't known."""
        del point_id
        return None

    def budgets(self, point_id: str) -> Mapping[str, tuple[BudgetRow, ...]]:
        """Every budget that there is at a point, by the name of what it is of, that of what is stated first."""
        rows = self.budget(point_id)
        return {"": rows} if rows else {}

    def stated_at(self, point_id: str) -> Stated | None:
        """What is stated at a point, or nothing yet."""
        return self.job.among(self.stated, point_id)

    @property
    def says_nothing(self) -> bool:
        """Whether nothing is stated at any point yet."""
        return not self.stated

    @property
    def worst(self) -> Stated | None:
        """What uses most of its tolerance; where nothing is claimed, what is known least."""
        return max(self.stated, key=lambda item: (item.tolerance_used, item.expanded_u_share), default=None)

    @cached_property
    def read(self) -> tuple[PointReadings, ...]:
        """The readings that results were made from, in the plan's order."""
        return tuple(item for item in self.readings if item.rounds)

    @cached_property
    def units(self) -> tuple[tuple[PointReadings, ...], ...]:
        """What each result was made from: here each point by itself."""
        return tuple((item,) for item in self.read)

    def holds_for(self, job: Job, phase: str, known: Mapping[str, float]) -> bool:
        """Whether what was worked out at a point still stands where its readings do: nothing else counts there."""
        mine, other = self.job, job
        return (
            self.phase == phase
            and self.known == known
            and (mine.method is other.method and mine.channels == other.channels)
            and _same_bench(mine, other)
            and (mine.dut, mine.tolerances, mine.rule) == (other.dut, other.tolerances, other.rule)
            and (mine.reference, mine.stated) == (other.reference, other.stated)
            and mine.part_of_division == other.part_of_division
            and mine.shortest_interval == other.shortest_interval
        )

    def readings_at(self, point_id: str) -> PointReadings:
        """What stands at a point of the plan; raises KeyError."""
        found = self.job.among(self.readings, point_id)
        if found is None:
            raise KeyError(point_id)
        return found

    @property
    def missing(self) -> int:
        """Rounds still to be read, over the whole plan."""
        return sum(max(item.wanted - item.complete_rounds, 0) for item in self.readings)

    @property
    def missing_readings(self) -> int:
        """Readings still to be made, over the whole plan: those of rounds that aren't complete."""
        return sum(item.missing_readings for item in self.readings)

    @property
    def wanted(self) -> int:
        """Rounds to be read, over the whole plan."""
        return sum(item.wanted for item in self.readings)

    @property
    def complete(self) -> bool:
        """True when every planned round stands."""
        return bool(self.readings) and self.missing == 0


def _same_bench(mine: Job, other: Job) -> bool:
    """Whether the hook-ups that are read are the same, part by part; any other has no say in the results."""
    if mine.legs != other.legs:
        return False
    benches = [mine.hookup(leg.hookup) for leg in mine.visits]
    if mine.kit is not other.kit:
        parts, others = mine.parts, other.parts
        names = {item.part for bench in benches for item in bench.elements} | {mine.dut}
        if any(parts[name] is not others.get(name) for name in names):
            return False
    return all(bench is other.hookup(bench.id) for bench in benches)
