"""Levels of a whole plan: each hook-up at every planned frequency with the highest power planned there.

A hook-up for which nothing is planned yet is looked at with the plan of the whole job, so that any bench can be
checked on paper first. Worked out once for a job's definition; entries change nothing in it.
"""

from collections.abc import Mapping
from functools import cached_property

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.errors import FenmistError
from fenmist.frozen import dataclass
from fenmist.hookup.levels import LevelPlan, LineLevels, Overload, line_levels
from fenmist.hookup.staircase import Stair, staircase
from fenmist.kit.part import Part
from fenmist.uncertainty.influence import FloatArray


@dataclass(frozen=True, eq=False)
class PlannedLevels:
    """One hook-up under its plan."""

    parts: Mapping[str, Part]
    lines: LineLevels  # at every planned frequency, switches as they are set
    power_w: FloatArray  # the highest planned at each of them
    top: int  # place of the highest power; of several alike, the highest frequency

    @cached_property
    def highest(self) -> LevelPlan:
        """Levels at the highest power, with every position of the switches."""
        at = self.lines.frequency_hz[self.top : self.top + 1]
        return line_levels(self.lines.hookup, self.parts, at).plan(self.parts, float(self.power_w[self.top]))

    @cached_property
    def stairs(self) -> tuple[Stair, ...]:
        """Those as a staircase."""
        return staircase(self.lines.hookup, self.parts, self.highest)

    @cached_property
    def _bears_w(self) -> FloatArray:
        """A hair less than overloads nothing, at each of them."""
        return self.lines.bears_w(self.parts) * (1.0 - 1e-9)

    @cached_property
    def overloads(self) -> tuple[tuple[float, Overload], ...]:
        """What the plan overloads anywhere, the worst of each, with its frequency in Hz."""
        found: dict[tuple[str, str, str], tuple[float, Overload]] = {}
        for place in np.flatnonzero(self.power_w > self._bears_w):
            for over in self.lines.overloads(self.parts, float(self.power_w[place]), int(place)):
                key = (over.element, over.component, over.what)
                if key not in found or over.planned / over.limit > found[key][1].planned / found[key][1].limit:
                    found[key] = (float(self.lines.frequency_hz[place]), over)
        return tuple(found.values())

    def overload_of(self, point: PlanPoint) -> Overload | None:
        """What one point would overload by more than the plan is known to, or nothing."""
        place = int(np.argmin(np.abs(self.lines.frequency_hz - point.frequency_hz)))
        if point.target_w <= self._bears_w[place]:
            return None
        found = self.lines.overloads(self.parts, point.target_w, place)
        return next((over for over in found if not over.is_marginal), None)


def planned_levels(job: Job) -> Mapping[str, PlannedLevels]:
    """Levels by hook-up id; a hook-up whose line begins nowhere has none, nor has any while nothing is planned."""
    return job.once("levels", lambda: _made(job))


def _made(job: Job) -> Mapping[str, PlannedLevels]:
    found = {}
    for hookup in job.hookups:
        own = [point for point in job.plan if point.hookup == hookup.id] or list(job.plan)
        highest: dict[float, float] = {}
        for point in own:
            highest[point.frequency_hz] = max(highest.get(point.frequency_hz, 0.0), point.target_w)
        if not highest:
            continue
        f = np.array(sorted(highest))
        power = np.array([highest[float(item)] for item in f])
        try:
            lines = line_levels(hookup, job.parts, f, risks=False)
        except FenmistError:
            continue  # said where the hook-up is looked at
        top = int(np.lexsort((f, power))[-1])
        found[hookup.id] = PlannedLevels(job.parts, lines, power, top)
    return found
