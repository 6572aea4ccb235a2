"""When what is keyed, how long, and how long a load has to rest before: the run laid out in time, an estimate.

In the order of the plan, round by round: 20 s a reading; a band change and a change of hook-up take their own time,
during which everything cools. A load rests as long as its first-order model asks for, so that each round stays within
its rating. Page: docs/method/heat.md.
"""

import math
from collections.abc import Mapping

from fenmist.calibration.job import Job, PlanPoint
from fenmist.frozen import dataclass
from fenmist.hookup.heat import HeatModel, heat_model
from fenmist.hookup.line import first_of_kind
from fenmist.kit.part import PartKind

READING_S = 20.0
"""A reading by hand with settling (Fenmist's own, no source)."""

BAND_S = 30.0
"""Changing frequency: tuning, and the meter's switch (Fenmist's own, no source)."""

HOOKUP_S = 300.0
"""Changing the hook-up: carrier off, unscrewing, tightening, looking again (Fenmist's own, no source)."""


@dataclass(frozen=True)
class Stint:
    """One round at one point."""

    point: PlanPoint
    round: int
    rest_s: float  # before it; infinite where its load could never bear it
    key_down_s: float
    rise_after: float  # of its load, part of what the rating allows; 0 without a rating


@dataclass(frozen=True)
class Schedule:
    """The whole run."""

    stints: tuple[Stint, ...]
    change_s: float  # for bands and hook-ups

    @property
    def carrier_s(self) -> float:
        """Carrier on."""
        return sum(item.key_down_s for item in self.stints)

    @property
    def rest_s(self) -> float:
        """Rests asked for by loads; infinite where a round is more than its load bears."""
        return sum(item.rest_s for item in self.stints)

    @property
    def total_s(self) -> float:
        """From first key to last."""
        return self.carrier_s + self.rest_s + self.change_s

    @property
    def too_much(self) -> Stint | None:
        """The first round that its load could never bear."""
        return next((item for item in self.stints if math.isinf(item.rest_s)), None)

    def of_point(self, point_id: str) -> tuple[Stint, ...]:
        """The rounds of a point."""
        return tuple(item for item in self.stints if item.point.id == point_id)


def schedule(job: Job) -> Schedule:
    """The run of a job's whole plan, blocked points left out."""
    return job.once("schedule", lambda: _made(job))


def _made(job: Job) -> Schedule:
    models = {hookup.id: _model(job, hookup.id) for hookup in job.hookups}
    rises: dict[str, float] = {}
    stints: list[Stint] = []
    before: PlanPoint | None = None
    changes = 0.0
    for point in (item for item in job.plan if not item.blocked):
        change = _change_s(before, point)
        changes += change
        _cool(rises, models, change)
        for number in range(1, point.repeats + 1):
            stint = _stint(point, number, models.get(point.hookup), rises.get(point.hookup, 0.0))
            if math.isfinite(stint.rest_s):
                _cool(rises, models, stint.rest_s + stint.key_down_s, but=point.hookup)
                rises[point.hookup] = stint.rise_after
            stints.append(stint)
        before = point
    return Schedule(tuple(stints), changes)


def _model(job: Job, hookup_id: str) -> HeatModel | None:
    load = first_of_kind(job.hookup(hookup_id), job.parts, PartKind.LOAD)
    return heat_model(job.part(job.hookup(hookup_id).element(load).part)) if load else None


def _change_s(before: PlanPoint | None, point: PlanPoint) -> float:
    if before is None:
        return 0.0
    if before.hookup != point.hookup:
        return HOOKUP_S
    return BAND_S if before.frequency_hz != point.frequency_hz else 0.0


def _cool(rises: dict[str, float], models: Mapping[str, HeatModel | None], seconds: float, but: str = "") -> None:
    for name, model in models.items():
        if model is not None and name != but and name in rises:
            rises[name] = model.after(rises[name], 0.0, seconds)


def _stint(point: PlanPoint, number: int, model: HeatModel | None, rise: float) -> Stint:
    seconds = READING_S * len(point.sequence)
    if model is None:
        return Stint(point, number, 0.0, seconds, 0.0)
    rest = model.rest_before(rise, point.target_w, seconds)
    after = rise if math.isinf(rest) else model.after(model.after(rise, 0.0, rest), point.target_w, seconds)
    return Stint(point, number, rest, seconds, after)
