"""Working a job out again after a change: only the points whose readings changed, the others as they were."""

from collections.abc import Callable, Container, Iterable, Mapping, Sequence
from dataclasses import replace
from itertools import chain
from operator import is_
from typing import Any, ClassVar, Generic, Protocol, TypeVar, cast

import numpy as np

from fenmist.calibration.beside import forget, hand_on, keep, made_so_far, once
from fenmist.calibration.job import Job
from fenmist.calibration.rounds import PointReadings, readings_by_point, readings_moved_on
from fenmist.frozen import dataclass
from fenmist.uncertainty.estimate import Estimate, Places, joined, joined_inputs

P = TypeVar("P")
P_co = TypeVar("P_co", covariant=True)


class Worked(Protocol[P_co]):
    """What the engine made of some points, in their order: a dataclass."""

    __dataclass_fields__: ClassVar[dict[str, Any]]

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
"""What is worked out together to one result: a point that was read, or all of a group. What was read is the same as
long as its objects are: units are keys."""

W = TypeVar("W")
D = TypeVar("D", bound=Worked[Any])


def singly(found: Sequence[PointReadings]) -> tuple[Unit, ...]:
    """Each point that was read by itself."""
    return tuple((item,) for item in found if item.rounds)


FOR_NOW = "linear, for now"
"""Engine of a point made while one types: nobody has looked yet whether it must be drawn."""

TO_DRAW = "linear, until it is drawn"
"""Engine of a point at which the linear picture doesn't hold, and whose turn to be drawn is still to come."""


def _any(_: object) -> bool:
    return True


def will_do(former: "Kept[Any] | None", most: int | None) -> Callable[[Any], bool]:
    """Whether what was made of a point before will do, where so many are drawn at most; all that must be without."""
    if most == 0:
        return _any
    waiting = [point for point in former.points if point.engine == TO_DRAW] if former is not None else []
    due = set(map(id, waiting[:most]))
    return lambda point: point.engine != FOR_NOW and id(point) not in due


def drawn_now(bent: Sequence[int], points: int, most: int | None) -> Sequence[int]:
    """Which of so many points worked out together are drawn at once, of those that bend: all, or so many at most.

    Where that many are asked for somebody waits: of several points none, they are drawn one after the other later on.
    """
    return bent if most is None else bent[:most] if points == 1 else ()


def engines(points: int, bent: Sequence[int], drawn: Container[int], most: int | None) -> tuple[str, ...]:
    """The engine of each of some points, of which some bend and some of those were drawn."""
    usual, late = ("linear" if most != 0 else FOR_NOW), {column for column in bent if column not in drawn}
    return tuple(TO_DRAW if column in late else usual for column in range(points))


@dataclass(frozen=True, eq=False)
class Again(Generic[P, W]):
    """All points of a job, and what was made of them together where all were."""

    readings: tuple[PointReadings, ...]
    points: tuple[P, ...]
    whole: W | None  # where every point was worked out now
    fresh: dict[Unit, tuple[W, int]]  # what was worked out now: in what, and its place there
    is_same: bool  # as before: nothing that was read changed


def alone(units: Sequence[Unit]) -> tuple[PointReadings, ...]:
    """The points of units that hold one each."""
    return tuple(one for (one,) in units)


def again(
    job: Job, phase: str, kept: Kept[P] | None, work: Callable[[tuple[Unit, ...]], W],
    points_of: Callable[[W], Sequence[P]], units: Callable[[Sequence[PointReadings]], tuple[Unit, ...]] = singly,
    stays: Callable[[P], bool] = _any,
) -> Again[P, W]:  # fmt: skip
    """Work a job's phase out; `kept` is what came of it before, where that holds for points that didn't change.

    Parameters
    ----------
    work, points_of : callable
        Makes a whole of some units, with a result for each.
    units : callable
        Units that can be worked out of what was read.
    stays : callable
        Whether what was made of a point before will do.
    """
    since = job.events_since(kept.job) if kept is not None else None
    if kept is None or since is None:
        found = readings_by_point(job, phase)
    else:
        move_on = readings_moved_on if job.plan is kept.job.plan else readings_by_point
        found = move_on(job, phase, kept.readings, job.points_of(since))
    done = dict(zip(kept.units, kept.points, strict=True)) if kept else {}
    if stays is not _any:
        done = {item: point for item, point in done.items() if stays(point)}
    wanted = units(found)
    fresh = tuple([item for item in wanted if item not in done])
    whole = work(fresh) if fresh else None
    if whole is not None:
        done |= zip(fresh, points_of(whole), strict=True)
    points = tuple(map(done.__getitem__, wanted))
    same = kept is not None and len(points) == len(kept.points) and all(map(is_, points, kept.points))
    here = {item: (whole, place) for place, item in enumerate(fresh)} if whole is not None else {}
    return Again(found, points, whole if len(fresh) == len(points) else None, here, same)


class Reduced(Kept[P_co], Protocol[P_co]):
    """What comes of a job by a room's own reduction."""

    def holds_for(self, job: Job, phase: str, known: Mapping[str, float]) -> bool:
        """Whether it still stands where readings do."""


R = TypeVar("R", bound=Reduced[Any])

_WHOLE, _PIECES = "worked", "pieces"
"""Names under which what was made of all points together is kept beside an outcome, and what it can be joined from."""

Pieces = tuple[tuple[W, int], ...]
"""For each unit what it was made in, and its place there."""


def reduced_again(
    kind: Callable[..., R], job: Job, phase: str, known: Mapping[str, float], former: R | None,
    work: Callable[[tuple[Unit, ...]], Worked[Any]],
    units: Callable[[Sequence[PointReadings]], tuple[Unit, ...]] = singly, stays: Callable[[Any], bool] = _any,
) -> R:  # fmt: skip
    """What comes of a job's phase, built on what came of it before.

    Parameters
    ----------
    kind : callable
        Makes it of job, phase, known, readings and points.
    former : optional
        Of the same job before a change: what didn't change is taken from it.
    work, units, stays
        As for `again`.
    """
    kept = former if former is not None and former.holds_for(job, phase, known) else None
    made = again(job, phase, kept, work, lambda worked: worked.points, units, stays)
    result = kind(job, phase, known, made.readings, made.points)
    if kept and made.is_same:
        hand_on(kept, result, _WHOLE, _PIECES)
    elif made.whole is not None:
        keep(result, _WHOLE, made.whole)  # all of them were made together: no need to do it again
    elif kept is not None:
        before = _pieces(kept)
        if before is not None:
            found = dict(zip(kept.units, before, strict=True)) | made.fresh
            keep(result, _PIECES, tuple(map(found.__getitem__, result.units)))
    return result


def _pieces(outcome: Reduced[Any]) -> Pieces[Any] | None:
    whole = made_so_far(outcome, _WHOLE)
    if whole is not None:
        return tuple((whole, place) for place in range(len(outcome.units)))
    return cast("Pieces[Any] | None", made_so_far(outcome, _PIECES))


def whole_of(outcome: Reduced[Any], work: Callable[[tuple[Unit, ...]], D]) -> D | None:
    """What the engine makes of all points of an outcome together, or none where nothing was read.

    It is joined of what was made before where it can be, else `work` makes it from nothing.
    """

    def make() -> D | None:
        if not outcome.units:
            return None
        pieces = made_so_far(outcome, _PIECES)
        if pieces is None:
            return work(outcome.units)
        forget(outcome, _PIECES)
        several: dict[int, tuple[D, list[int], list[int]]] = {}
        for place, (piece, column) in enumerate(cast("Pieces[D]", pieces)):
            _, places, columns = several.setdefault(id(piece), (piece, [], []))
            places.append(place)
            columns.append(column)
        some = list(several.values())
        return together([one for one, *_ in some], [np.array(p) for _, p, _ in some], [np.array(c) for *_, c in some])

    return once(outcome, _WHOLE, make)


def alike(read: Sequence[Unit], work: Callable[[tuple[Unit, ...]], D]) -> D:
    """What the engine makes of units, once for all that read the same channels on the same hook-ups."""
    groups: dict[tuple[tuple[str, frozenset[str]], ...], list[int]] = {}
    for place, unit in enumerate(read):
        key = tuple((item.point.hookup, frozenset(item.point.sequence)) for item in unit)
        groups.setdefault(key, []).append(place)
    made = [work(tuple(read[place] for place in some)) for some in groups.values()]
    if len(made) == 1:
        return made[0]
    points = dict(zip(chain(*groups.values()), chain(*(one.points for one in made)), strict=True))
    in_order = tuple(points[place] for place in range(len(read)))
    return together(made, [np.array(some) for some in groups.values()], points=in_order)


def together(pieces: Sequence[D], places: Places, columns: Places | None = None, **more: object) -> D:
    """What was made of some points each as if it had been made of all at once; parameters as for `joined`.

    Every estimate of theirs, and every mapping of estimates that all have alike; `more` are the other fields.
    """
    first = pieces[0]
    known = columns or [np.arange(place.size) for place in places]
    estimates = {name: item for name, item in vars(first).items() if isinstance(item, Estimate)}
    inputs = joined_inputs([getattr(piece, next(iter(estimates))).inputs for piece in pieces], places, known)

    def all_of(several: Iterable[Estimate]) -> Estimate:
        return joined(tuple(several), places, known, inputs)

    made: dict[str, object] = {name: all_of(getattr(piece, name) for piece in pieces) for name in estimates}
    for name, item in vars(first).items():
        if isinstance(item, Mapping):
            keys = tuple(item) if all(getattr(piece, name).keys() == item.keys() for piece in pieces) else ()
            made[name] = {key: all_of(getattr(piece, name)[key] for piece in pieces) for key in keys}
    return replace(first, **{"points": (), **made, **more})
