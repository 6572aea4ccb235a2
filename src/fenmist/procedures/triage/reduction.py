"""From a job to odds: what was read at each sighting, and the power behind it as that of a source.

Page: docs/method/triage.md.
"""

import statistics
from collections.abc import Iterable, Mapping
from functools import cached_property
from types import MappingProxyType

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Stated
from fenmist.calibration.rounds import PointReadings, Taken
from fenmist.frozen import dataclass
from fenmist.measurand import Kind
from fenmist.methods.chain import Sighting
from fenmist.methods.triage import Answer, weighed
from fenmist.procedures.output.reduction import OfPower
from fenmist.procedures.output.reduction import reduce as reduce_power
from fenmist.procedures.triage.asked import alarm_swr
from fenmist.procedures.triage.make import sighted
from fenmist.reading.event import AS_FOUND


@dataclass(frozen=True)
class Seen:
    """A sighting with its point."""

    found: PointReadings
    sighting: Sighting


@dataclass(frozen=True, eq=False)
class Triage(OfPower):
    """All sightings, and the powers that follow from the meter behind the transmitter."""

    @property
    def stated(self) -> tuple[Stated, ...]:
        """What the transmitter's own meter is off by, or what is given less what is set, at each sighting."""
        return self.power.stated

    @cached_property
    def seen(self) -> tuple[Seen, ...]:
        """Every sighting at which something was read, in the plan's order."""
        made = ((found, self._sighting(found)) for found in self.readings if found.rounds)
        return tuple(Seen(found, one) for found, one in made if one is not None)

    def seen_at(self, frequency_hz: float) -> tuple[Seen, ...]:
        """Those at one frequency: a fault may be another one elsewhere."""
        return tuple(item for item in self.seen if item.found.point.frequency_hz == frequency_hz)

    @cached_property
    def answers(self) -> Mapping[float, Answer]:
        """Odds at each frequency, Hz."""
        tones = dict.fromkeys(item.found.point.frequency_hz for item in self.seen)
        alarm = alarm_swr(self.job)
        return {f: weighed([item.sighting for item in self.seen_at(f)], alarm) for f in tones}

    @property
    def main_hz(self) -> float | None:
        """The frequency with most sightings: what the job says; none where nothing was read."""
        return max(self.answers, key=lambda f: len(self.seen_at(f)), default=None)

    @property
    def answer(self) -> Answer | None:
        """The odds there."""
        return None if self.main_hz is None else self.answers[self.main_hz]

    def _sighting(self, found: PointReadings) -> Sighting | None:
        job, point = self.job, found.point
        into, exchanged = sighted(point.leg)
        others = [item for one in found.rounds for item in one.others]
        own = _mean(item for one in found.rounds for item in one.duts)
        external = _mean(item for one in found.rounds for item in one.references)
        swr = _mean(item for item in others if job.channel(item.entry.channel).measurand.kind is Kind.SWR)
        volts = _mean(item for item in others if job.channel(item.entry.channel).measurand.kind is Kind.SUPPLY_VOLTAGE)
        if own is None and external is None and swr is None:
            return None
        own, external = (None if watts is None else max(watts, 0.0) for watts in (own, external))
        return Sighting(
            point.target_w, into, own, external, None if swr is None else max(swr, 1.0), volts, exchanged
        )  # fmt: skip


def _mean(taken: Iterable[Taken]) -> float | None:
    values = [item.reading.value for item in taken]
    return statistics.fmean(values) if values else None


def reduce(
    job: Job, phase: str = AS_FOUND, known: Mapping[str, float] = MappingProxyType({}), former: Triage | None = None
) -> Triage:
    """Work a job out as far as its readings reach; see `output.reduction.reduce`."""
    power = reduce_power(job, phase, known, former.power if former is not None else None)
    return Triage(job, phase, known, power.readings, power)
