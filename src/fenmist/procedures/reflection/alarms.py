"""Alarm levels at the end of a line, as people use them: what each shows on this meter, and what the line loses."""

import numpy as np

from fenmist.calibration.job import Job
from fenmist.frozen import dataclass
from fenmist.hookup.seen import between
from fenmist.measurand import Kind, PlaneRef
from fenmist.methods.match_shown import MeterClaim
from fenmist.procedures.reflection.reduction import seen_at
from fenmist.rf.mismatch import mismatched_line_loss_db
from fenmist.rf.reflection import reflection_from_swr

ALARMS = (("SWR 1.5", float(reflection_from_swr(1.5))), ("SWR 2", float(reflection_from_swr(2.0))),
          ("10\u202f% reflected", float(np.sqrt(0.1))), ("SWR 2.5", float(reflection_from_swr(2.5))))  # fmt: skip
"""Levels at which people stop and look (common practice, no source), as ρ."""


@dataclass(frozen=True)
class Alarm:
    """One level at the end of the line; all as ρ."""

    name: str
    rho: float
    arrives: tuple[float, float]  # at the meter's plane
    shows: tuple[float, float]  # what the meter may show
    line_loss_db: float  # of all that lies between, so mismatched
    matched_loss_db: float


def alarms(job: Job, frequency_hz: float) -> tuple[Alarm, ...]:
    """What each alarm level at the end of the first hook-up shows on the meter, at a frequency in Hz."""
    seen = seen_at(job, job.bench.id, np.array([frequency_hz]))
    names = [stop.element for stop in seen.bench.main]
    last = seen.bench.main[-2]
    claim = MeterClaim(Kind.REFLECTION, job.tolerance.value, ())
    made = []
    for name, rho in ALARMS:
        low = high = np.array([rho])
        loss = 0.0
        if names.index(last.element) > names.index(seen.plane.element):
            way = between(seen, PlaneRef(job.bench.id, last.element, last.exit or last.entry))
            low, high = way.carried(low, high)
            loss = float(way.loss_db[0])
        shows = float(claim.shows(low)[0][0]), float(claim.shows(high)[1][0])
        lost = float(mismatched_line_loss_db(loss, rho))
        made.append(Alarm(name, rho, (float(low[0]), float(high[0])), shows, lost, loss))
    return tuple(made)
