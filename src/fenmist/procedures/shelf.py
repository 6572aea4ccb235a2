"""What a shelf can decide: every bench that a kit allows for a question, ranked by the uncertainty it would reach."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Any

from fenmist.calibration.job import Job
from fenmist.calibration.planning import points_at
from fenmist.calibration.prediction import Predicted, predicted
from fenmist.errors import FenmistError
from fenmist.hookup.templates import Bench, from_template
from fenmist.kit.due import State, due
from fenmist.kit.part import Part
from fenmist.procedures.benches import candidates
from fenmist.procedures.procedure import Procedure


@dataclass(frozen=True)
class Ranked:
    """A bench, what it would say over a device's span, and what of its parts is overdue."""

    bench: Bench
    job: Job  # on it, with the points that were looked at
    points: tuple[Predicted, ...]
    overdue: tuple[str, ...]  # names of parts, the device left out

    @property
    def free(self) -> tuple[Predicted, ...]:
        """Points at which something could be said."""
        return tuple(item for item in self.points if not item.blocked)

    @property
    def worst(self) -> float:
        """Largest relative U where something could be said; infinite where nothing could."""
        return max((item.expanded_u for item in self.free), default=float("inf"))

    @property
    def name(self) -> str:
        """Hook-up and what is read there."""
        parts, read = self.job.parts, self.bench.read
        names = [parts[self.bench.hookup.element(item).part].label for item in read]
        return f"{self.bench.hookup.label}: {', '.join(names)}"


def devices(room: Procedure[Any], kit: Sequence[Part]) -> tuple[Part, ...]:
    """Parts that a question may be asked of."""
    return tuple(part for part in kit if part.kind in room.devices and not part.retired)


def device_on(bench: Bench) -> str:
    """The part at which a bench states its answer."""
    return bench.hookup.element(bench.hookup.stated.element).part


def first_bench(room: Procedure[Any], kit: Sequence[Part], device_id: str = "") -> Bench:
    """The first bench that a kit allows; raises UnknownIdError, naming what the kit lacks for the usual one."""
    there = devices(room, kit)
    device = next((part for part in there if part.id == device_id), there[0] if there else None)
    if device is not None:
        for benches in candidates(room.templates, kit, device):
            return benches[0]
    fitting = [item for item in room.templates if device is None or device.kind is item.stated]
    return from_template((fitting or room.templates)[0], kit, "line")


def ranked(
    room: Procedure[Any],
    kit: Sequence[Part],
    device: Part,
    frequencies_hz: Sequence[float],
    level_w: float,
    as_of: date,
    made_at: datetime,
) -> tuple[Ranked, ...]:
    """The best bench for each instrument in each usual hook-up, those that say most first.

    Parameters
    ----------
    frequencies_hz, level_w : sequence, float
        Where it is looked at, and at which power at the stated plane.
    as_of : date
        The day on which parts may be overdue.
    made_at : datetime
        When the jobs are made that show it; none of them is kept.
    """
    found = []
    middle = sorted(frequencies_hz)[len(frequencies_hz) // 2]
    for benches in candidates(room.templates, kit, device):
        bench = _best(room, benches, device, middle, level_w, made_at)
        if bench is None:
            continue
        full = _looked_at(room, bench, device, frequencies_hz, level_w, made_at)
        if full is not None:
            leaned = (part for part in bench.parts if part.id != device.id)
            late = tuple(part.label for part in leaned if due(part, as_of).state is State.OVERDUE)
            found.append(Ranked(bench, *full, late))
    return tuple(sorted(found, key=lambda item: (-len(item.free), round(item.worst, 3), len(item.bench.parts))))


FREE_ENOUGH = 4
"""Benches of one instrument that could be read, after which no more are looked at."""


def _best(
    room: Procedure[Any], benches: Sequence[Bench], device: Part, frequency_hz: float, level_w: float,
    made_at: datetime,
) -> Bench | None:  # fmt: skip
    """The one of several that would say most at one frequency."""
    best: tuple[bool, float] | None = None
    chosen, free = None, 0
    for bench in benches:
        found = _looked_at(room, bench, device, [frequency_hz], level_w, made_at)
        if found is None:
            continue
        (point,) = found[1]
        rank = bool(point.blocked), point.expanded_u
        if best is None or rank < best:
            best, chosen = rank, bench
        free += not point.blocked
        if free == FREE_ENOUGH:
            break
    return chosen


def _looked_at(
    room: Procedure[Any], bench: Bench, device: Part, frequencies_hz: Sequence[float], level_w: float,
    made_at: datetime,
) -> tuple[Job, tuple[Predicted, ...]] | None:  # fmt: skip
    """A job on a bench with its predictions; none where that bench can't be worked out."""
    try:
        job = room.begin("shelf", "shelf", bench, device.id, made_at)
        job = replace(job, plan=points_at(job, frequencies_hz, [level_w]))
        return job, predicted(job)
    except FenmistError:
        return None
