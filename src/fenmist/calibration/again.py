"""Working a job out again after a change: only the points whose readings changed, the others as they were."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from operator import is_
from typing import Generic, Protocol, TypeVar

from fenmist.calibration.job import Job
from fenmist.calibration.rounds import PointReadings, readings_by_point

P = TypeVar("P")
P_co = TypeVar("P_co", covariant=True)


class Worked(Protocol[P_co]):
    """What the engine made of some points, in their order."""

    @property
    def points(self) -> Sequence[P_co]:
        """A result for each."""


class Kept(Worked[P_co], Protocol[P_co]):
    """What came of a job before."""

    @property
    def job(self) -> Job:
        """As it was."""

    @property
    def readings(self) -> tuple[PointReadings, ...]:
        """Of every plan point."""

    @property
    def read(self) -> tuple[PointReadings, ...]:
        """Those that the points were made from."""


W = TypeVar("W")


@dataclass(frozen=True, eq=False)
class Again(Generic[P, W]):
    """All points of a job, and what was made of them together where all were."""

    readings: tuple[PointReadings, ...]
    points: tuple[P, ...]
    whole: W | None  # where every point was worked out now
    is_same: bool  # as before: nothing that was read changed


def again(
    job: Job, phase: str, kept: Kept[P] | None, work: Callable[[tuple[PointReadings, ...]], W],
    points_of: Callable[[W], Sequence[P]],
) -> Again[P, W]:  # fmt: skip
    """Work a job's phase out; `kept` is what came of it before, where that holds for points that didn't change."""
    since = job.events_since(kept.job) if kept is not None else None
    if kept is None or since is None:
        found = readings_by_point(job, phase)
    else:
        found = readings_by_point(job, phase, kept.readings, job.points_of(since))
    done = {id(item): point for item, point in zip(kept.read, kept.points, strict=True)} if kept else {}
    fresh = tuple(item for item in found if item.rounds and id(item) not in done)
    whole = work(fresh) if fresh else None
    if whole is not None:
        done |= {id(item): point for item, point in zip(fresh, points_of(whole), strict=True)}
    points = tuple(done[id(item)] for item in found if item.rounds)
    same = kept is not None and len(points) == len(kept.points) and all(map(is_, points, kept.points))
    return Again(found, points, whole if len(fresh) == len(points) else None, same)
