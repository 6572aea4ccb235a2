"""Working a job out again after a change: only the points whose readings changed, the others as they were."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from operator import is_
from typing import Any, Generic, Protocol, TypeVar

from fenmist.calibration.beside import hand_on, keep
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
    def units(self) -> tuple["Unit", ...]:
        """What each of the points was made from."""


Unit = tuple[PointReadings, ...]
"""What is worked out together to one result: a point that was read, or all of a group."""

W = TypeVar("W")


def singly(found: Sequence[PointReadings]) -> tuple[Unit, ...]:
    """Each point that was read by itself."""
    return tuple((item,) for item in found if item.rounds)


@dataclass(frozen=True, eq=False)
class Again(Generic[P, W]):
    """All points of a job, and what was made of them together where all were."""

    readings: tuple[PointReadings, ...]
    points: tuple[P, ...]
    whole: W | None  # where every point was worked out now
    is_same: bool  # as before: nothing that was read changed


def alone(units: Sequence[Unit]) -> tuple[PointReadings, ...]:
    """The points of units that hold one each."""
    return tuple(one for (one,) in units)


def again(
    job: Job, phase: str, kept: Kept[P] | None, work: Callable[[tuple[Unit, ...]], W],
    points_of: Callable[[W], Sequence[P]], units: Callable[[Sequence[PointReadings]], tuple[Unit, ...]] = singly,
) -> Again[P, W]:  # fmt: skip
    """Work a job's phase out; `kept` is what came of it before, where that holds for points that didn't change.

    Parameters
    ----------
    work, points_of : callable
        Makes a whole of some units, with a result for each.
    units : callable
        Units that can be worked out of what was read.
    """
    since = job.events_since(kept.job) if kept is not None else None
    if kept is None or since is None:
        found = readings_by_point(job, phase)
    else:
        found = readings_by_point(job, phase, kept.readings, job.points_of(since))
    done = {_key(item): point for item, point in zip(kept.units, kept.points, strict=True)} if kept else {}
    wanted = units(found)
    fresh = tuple(item for item in wanted if _key(item) not in done)
    whole = work(fresh) if fresh else None
    if whole is not None:
        done |= {_key(item): point for item, point in zip(fresh, points_of(whole), strict=True)}
    points = tuple(done[_key(item)] for item in wanted)
    same = kept is not None and len(points) == len(kept.points) and all(map(is_, points, kept.points))
    return Again(found, points, whole if len(fresh) == len(points) else None, same)


def _key(unit: Unit) -> tuple[int, ...]:
    """The same as long as what was read is."""
    return tuple(map(id, unit))


class Reduced(Kept[P_co], Protocol[P_co]):
    """What comes of a job by a room's own reduction."""

    def holds_for(self, job: Job, phase: str, known: Mapping[str, float]) -> bool:
        """Whether it still stands where readings do."""


R = TypeVar("R", bound=Reduced[Any])

WHOLE = "worked"
"""Name under which what was made of all points together is kept beside an outcome."""


def reduced_again(
    kind: Callable[..., R], job: Job, phase: str, known: Mapping[str, float], former: R | None,
    work: Callable[[tuple[Unit, ...]], Worked[Any]],
    units: Callable[[Sequence[PointReadings]], tuple[Unit, ...]] = singly,
) -> R:  # fmt: skip
    """What comes of a job's phase, built on what came of it before.

    Parameters
    ----------
    kind : callable
        Makes it of job, phase, known, readings and points.
    former : optional
        Of the same job before a change: what didn't change is taken from it.
    work, units
        As for `again`.
    """
    kept = former if former is not None and former.holds_for(job, phase, known) else None
    made = again(job, phase, kept, work, lambda worked: worked.points, units)
    result = kind(job, phase, known, made.readings, made.points)
    if kept and made.is_same:
        hand_on(kept, result, WHOLE)
    if made.whole is not None:
        keep(result, WHOLE, made.whole)  # all of them were made together: no need to do it again
    return result
