"""What a shelf can decide: every bench that a kit allows for a question, ranked by the uncertainty it would reach."""

import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import replace
from datetime import date, datetime
from typing import Any

from fenmist.calibration.expected import expected_entry
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.calibration.planning import (
    BY_FREQUENCY,
    DEFAULT_POWER_W,
    cannot_serve,
    free_names,
    full_power_w,
    on_each_leg,
    points_at,
    with_points,
)
from fenmist.calibration.prediction import Predicted, predicted, reached
from fenmist.errors import FenmistError, OutOfRangeError, UnknownIdError
from fenmist.frozen import dataclass
from fenmist.hookup.templates import Bench, from_template
from fenmist.kit.due import State, due
from fenmist.kit.part import SOURCES, Part
from fenmist.procedures.benches import VARIED, candidates, first_made, fits
from fenmist.procedures.procedure import Procedure
from fenmist.reading.event import Event, EventKind, Slot
from fenmist.units.display import plain
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS


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

    def reaches(self, value: float) -> str:
        """A U, or a tolerance, as it is said here."""
        return reached(value, self.points[0].unit if self.points else "%")

    @property
    def instruments(self) -> str:
        """Names of what is read; of what takes the device's place where something does."""
        parts, place = self.job.parts, self.bench.hookup.stated.element
        instead = {item.part for hookup in self.bench.others for item in hookup.elements if item.id == place}
        if instead:
            return ", ".join(parts[name].label for name in sorted(instead))
        return ", ".join(parts[self.bench.hookup.element(item).part].label for item in self.bench.read)

    @property
    def name(self) -> str:
        """Hook-up and what is read there."""
        return f"{self.bench.hookup.label}: {self.instruments}"


def devices(room: Procedure[Any], kit: Sequence[Part]) -> tuple[Part, ...]:
    """Parts that a question may be asked of."""
    there = (part for part in kit if part.kind in room.devices and not part.retired)
    return tuple(part for part in there if room.asks is None or room.asks(part))


def device_on(bench: Bench) -> str:
    """The part at which a bench states its answer."""
    return bench.hookup.element(bench.hookup.stated.element).part


def first_bench(room: Procedure[Any], kit: Sequence[Part], device_id: str = "") -> Bench:
    """The first bench that a kit allows; raises UnknownIdError, naming what the kit lacks for the usual one."""
    there = devices(room, kit)
    device = next((part for part in there if part.id == device_id), there[0] if there else None)
    if device is not None:
        for template in room.templates:
            bench = first_made(template, kit, device)
            if bench is not None:
                return bench
    fitting = [item for item in room.templates if device is None or device.kind is item.stated]
    return from_template((fitting or room.templates)[0], kit, "line", device)


def ranked(
    room: Procedure[Any], kit: Sequence[Part], device: Part, frequencies_hz: Sequence[float], level_w: float,
    as_of: date, made_at: datetime,
) -> tuple[Ranked, ...]:  # fmt: skip
    """The best bench for each instrument in each usual hook-up, those that say most first; see `looked_at`."""
    return in_order(looked_at(room, kit, device, frequencies_hz, level_w, as_of, made_at))


def in_order(found: Iterable[Ranked]) -> tuple[Ranked, ...]:
    """Benches by what they decide, what they leave open, U at worst, and how many parts they take."""
    best: dict[str, Ranked] = {}
    for item in sorted(found, key=_rank):
        best.setdefault(item.name, item)  # of two that are called alike the better one
    return tuple(best.values())


def _rank(item: Ranked) -> tuple[float, ...]:
    decided = sum(point.decides for point in item.points)
    return -decided, -len(item.free), round(item.worst, 3), len(item.bench.parts)


def looked_at(
    room: Procedure[Any], kit: Sequence[Part], device: Part, frequencies_hz: Sequence[float], level_w: float,
    as_of: date, made_at: datetime,
) -> Iterator[Ranked]:  # fmt: skip
    """The best bench for each instrument in each usual hook-up, one after the other.

    Parameters
    ----------
    frequencies_hz, level_w : sequence, float
        Where it is looked at, and at which power at the stated plane.
    as_of : date
        The day on which parts may be overdue.
    made_at : datetime
        When the jobs are made that show it; none of them is kept.
    """
    middle = sorted(frequencies_hz)[len(frequencies_hz) // 2]
    for benches in candidates(room.templates, [*_of_use(kit, frequencies_hz)], device):
        bench = _best(room, benches, device, middle, level_w, made_at)
        full = bench and _looked_at(room, bench, device, frequencies_hz, level_w, made_at)
        if bench and full:
            leaned = (part for part in bench.parts if part.id != device.id)
            late = tuple(part.label for part in leaned if due(part, as_of).state is State.OVERDUE)
            yield Ranked(bench, *full, late)


def _of_use(kit: Sequence[Part], frequencies_hz: Sequence[float]) -> Iterator[Part]:
    """The kit without what would only make blocked benches: parts beside one that covers what is asked, which don't."""
    covered = {part.kind for part in kit if part.kind in VARIED and _covers(part, frequencies_hz)}
    for part in kit:
        if part.kind not in covered or _covers(part, frequencies_hz):
            yield part


def _covers(part: Part, frequencies_hz: Sequence[float]) -> bool:
    """Whether a part is specified for any of the frequencies, or says nothing."""
    spans = [(port.frequency_min_hz or 0.0, port.frequency_max_hz or math.inf) for port in part.ports]
    return not spans or any(low <= f <= high for low, high in spans for f in frequencies_hz)


def missing(room: Procedure[Any], kit: Sequence[Part], device: Part) -> tuple[str, ...]:
    """Usual hook-ups that can't be made for a device, each with the kind of part that the kit lacks."""
    found = []
    for template in room.templates:
        if fits(template, device) and first_made(template, kit, device) is None:
            try:
                from_template(template, kit, "line", device)
            except UnknownIdError as error:
                found.append(f"{template.label} ({error.headline[:1].lower()}{error.headline[1:].rstrip('.')})")
    return tuple(found)


STEPS_OF_SPAN = 6
"""Frequencies at which a device's span is looked at where nobody names any."""


def usual_frequencies(device: Part) -> tuple[float, ...]:
    """Frequencies over a device's span, about evenly as ratios, to two figures; 1.8 to 30 MHz where none is stated."""
    known = [(port.frequency_min_hz, port.frequency_max_hz) for port in device.ports]
    spans = [(low, high) for low, high in known if low and high] or [(1.8e6, 30e6)]
    low, high = min(low for low, _ in spans), max(high for _, high in spans)
    steps = [low * (high / low) ** ((n + 0.5) / STEPS_OF_SPAN) for n in range(STEPS_OF_SPAN)]
    return tuple(float(f"{step:.2g}") for step in steps)


def usual_rounds(room: Procedure[Any]) -> int:
    """Three show the scatter; of a question that is asked further and further one reading says what is next."""
    return 1 if room.next_point is not None else 3


def first_frequencies(room: Procedure[Any], device: Part) -> tuple[float, ...]:
    """Those over a device's span; of such a question the one in its middle."""
    found = usual_frequencies(device)
    return found[len(found) // 2 :][:1] if room.next_point is not None else found


def usual_level(room: Procedure[Any], kit: Sequence[Part], device: Part, made_at: datetime) -> float:
    """Half of what a meter shows, all of what a source gives; never more than the kit's strongest source gives."""
    try:
        job = room.begin("shelf", "shelf", first_bench(room, kit, device.id), device.id, made_at)
    except FenmistError:
        return DEFAULT_POWER_W
    if device.kind in SOURCES:
        return full_power_w(job)
    if room.most_w is not None:
        return min(room.most_w(job), full_power_w(job))
    gives = [port.power_limit_w for part in kit if part.kind in SOURCES for port in part.ports if port.power_limit_w]
    return min([full_power_w(job) / 2.0, *([max(gives)] if gives else [])])


def levels_asked(room: Procedure[Any], level: str) -> str:
    """The levels that a job is planned with, as text: those that a question needs, up to the one that is asked for.

    A text that can't be read stays as it is.
    """
    if len(room.shares) < 2:
        return level
    try:
        most = value_from_text(level, UNITS["W"], "level", "100 W")
    except FenmistError:
        return level
    return " ".join(f"{share * most:.4g}" for share in room.shares) + " W"


def headline(device: Part, found: Sequence[Ranked], level_w: float) -> str:
    """What the shelf can decide, in a sentence."""
    if not found:
        return f"This kit allows no bench for {device.label}: add what is missing in the place “kit” (Ctrl+3)."
    best = found[0]
    if not best.free:
        return f"Nothing here can be read at {plain(level_w, 'W')}: {best.points[0].blocked}."
    claimed = [point for point in best.free if point.tolerance]
    bench = f"{best.instruments} ({best.bench.hookup.label})"
    said = f"With {bench} {device.label} would be known to ±{best.reaches(best.worst)}"
    if not claimed:
        return f"{said} at worst, at {len(best.free)} of {len(best.points)} frequencies."
    decided = [point for point in claimed if point.decides]
    tolerance = min(point.tolerance for point in claimed)
    if not decided:
        return (
            f"Nothing here decides ±{best.reaches(tolerance)} of {device.label}; the nearest knows "
            f"±{best.reaches(best.worst)}."
        )
    where = "everywhere" if len(decided) == len(best.points) else f"at {len(decided)} of {len(best.points)} frequencies"
    return f"{said} at worst: that decides ±{best.reaches(tolerance)} {where}."


def on_bench(job: Job, room: Procedure[Any], bench: Bench) -> Job:
    """The job on another bench, its device, plan and all else as they are.

    Raises
    ------
    OutOfRangeError
        Where something was read: that belongs to the bench it was read on.
    """
    if any(event.entry is not None for event in job.events):
        raise OutOfRangeError(
            "Readings were taken on the present bench.", "Begin another job for another bench (Ctrl+N)."
        )
    made = room.begin(job.id, job.title, bench, job.dut, job.created_at)
    known = job.parts
    kit = tuple(known.get(part.id, part) for part in made.kit)
    moved = replace(
        job, kit=kit, hookups=made.hookups, stated=made.stated, channels=made.channels, order=made.order,
        method=made.method, plan=(), reference="", legs=made.legs,
    )  # fmt: skip
    if not made.legs and not job.legs:
        plan = tuple(replace(point, hookup=made.bench.id, sequence=made.order) for point in job.plan)
        return replace(moved, plan=plan)
    names = free_names(moved)
    first = {(p.frequency_hz, p.target_w, p.range_id) if job.legs else p.id: p for p in reversed(job.plan)}
    fresh = (on_each_leg(moved, names, point) for point in reversed(first.values()))
    return with_points(moved, tuple(point for points in fresh for point in points), BY_FREQUENCY)


FREE_ENOUGH = 2
"""Benches of one instrument that could be read, after which no more are looked at."""


def _best(
    room: Procedure[Any], benches: Sequence[Bench], device: Part, frequency_hz: float, level_w: float,
    made_at: datetime,
) -> Bench | None:  # fmt: skip
    """The one of several that would say most at one frequency."""
    if len(benches) == 1:
        return benches[0]
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
        return job, _as_read(room.predict, job) if room.predict and job.legs else predicted(job)
    except FenmistError:
        return None


def _as_read(predict: Callable[[Job], tuple[Stated, ...]], job: Job) -> tuple[Predicted, ...]:
    """What a job on several hook-ups would say: each channel read once as expected, and worked out; one for a group.

    Of visits that have answers of their own the one that is known least counts at each frequency.
    """
    unserved, made = cannot_serve(job), job
    for point in job.plan:
        for position in range(len(point.sequence)):
            entry = expected_entry(job, Slot(point.id, 1, position))
            made = made.with_event(Event(f"{point.id}.{position}", EventKind.ENTER, job.created_at, entry))
    found = {job.answer_of(item.point): item for item in predict(made)}
    groups: dict[str, list[PlanPoint]] = {}
    for point in job.plan:
        groups.setdefault(job.answer_of(point), []).append(point)
    each = tuple(
        _of_group(points, next((unserved[point.id] for point in points if point.id in unserved), ""), found.get(name))
        for name, points in groups.items()
    )
    together: dict[tuple[float, float], Predicted] = {}
    for item in each:
        key = (item.point.frequency_hz, item.point.target_w)
        known = together.get(key)
        if known is None or _says_less(item, known):
            together[key] = item
    return tuple(together.values())


def _says_less(first: Predicted, second: Predicted) -> bool:
    """Whether the first is known less than the second; what is blocked counts where nothing else is there."""
    if second.expanded_u == 0.0:  # what the others are held against says nothing of itself
        return True
    if bool(first.blocked) is not bool(second.blocked):
        return bool(second.blocked)
    return first.expanded_u * second.tolerance > second.expanded_u * first.tolerance


def _of_group(points: Sequence[PlanPoint], why: str, stated: Stated | None) -> Predicted:
    if why or stated is None:
        return Predicted(points[0], math.inf, 0.0, why or "nothing could be said")
    blocked = "" if stated.usable else "nothing there is a reference"
    return Predicted(stated.point, stated.expanded_u_share, stated.share_tolerance, blocked, stated.share_unit)
