"""Plans laid out as a grid of frequencies, levels and ranges, in an order that spares time; and what can't be measured.

Levels are watts, or per cent of each range's full scale (10, 20, 50, 80, 100 % are common practice, no source). The
level rises, so that the load warms slowly and a fault shows before full power.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import count

from fenmist.calibration.job import Job, PlanPoint, free_point_number
from fenmist.calibration.levels import planned_levels
from fenmist.calibration.sent import level_said, waveform_typed
from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.findings.note import Problem
from fenmist.frozen import dataclass
from fenmist.kit.part import Range
from fenmist.units.display import frequency, plain
from fenmist.units.typed import values_from_text

DEFAULT_POWER_W = 1.0
"""Planned where nothing says what a device gives or bears (Fenmist's own)."""

MOST_POINTS = 1000
"""Points that one grid may make."""


def range_for(ranges: Sequence[Range], level_w: float) -> str:
    """Id of the lowest range that shows a level, or the highest there is; nothing where there are none."""
    rising = sorted(ranges, key=lambda item: item.full_scale)
    return next((item.id for item in rising if level_w <= item.full_scale), rising[-1].id if rising else "")


BY_FREQUENCY, BY_LEVEL = "band by band, rising level", "level by level, rising frequency"
ORDERS = (BY_FREQUENCY, BY_LEVEL)


@dataclass(frozen=True)
class Grid:
    """A plan as it is typed: lists parted by spaces or semicolons."""

    frequencies: str
    levels: str
    ranges: str = ""  # all where empty
    rounds: str = "3"
    order: str = BY_FREQUENCY
    waveform: str = ""  # of all; a steady carrier where empty


def full_power_w(job: Job) -> float:
    """Full scale of the device's highest range, W; of a device without ranges the most that its connectors bear."""
    if job.device_ranges:
        return job.device_ranges[-1].full_scale
    stated = job.dut_part.properties.get("power_w")
    limits = [port.power_limit_w for port in job.dut_part.ports if port.power_limit_w]
    return stated.value if stated else max(limits, default=DEFAULT_POWER_W)


def points_from_grid(job: Job, grid: Grid) -> tuple[PlanPoint, ...] | tuple[Problem, ...]:
    """The points that a grid makes beyond those already planned, or what is wrong with it, by field."""
    problems: list[Problem] = []
    frequencies = _listed(grid.frequencies, "MHz", "frequencies", "2.2 8.3 16.4 MHz", problems)
    shares = grid.levels.strip().endswith("%")
    levels = _listed(grid.levels, "%" if shares else "W", "levels", "20 50 100 W, or 10 50 100 %", problems)
    rounds = _listed(grid.rounds, "", "rounds", "3", problems)
    ranges = _ranges(job, grid.ranges, problems)
    sent = ""
    try:
        sent = waveform_for(job, grid.waveform)
    except FenmistError as error:
        problems.append(Problem("waveform", error.headline, error.hint))
    if not problems and not (1 <= rounds[0] <= 100 and min(frequencies) >= 1e3 and min(levels) > 0):
        problems.append(Problem("levels", "Frequencies start at 1 kHz, levels above 0, rounds from 1 to 100."))
    if problems:
        return tuple(problems)
    wanted = _wanted(job, frequencies, levels, ranges, shares)
    key = (lambda item: (item[0], item[1])) if grid.order == BY_FREQUENCY else (lambda item: (item[1], item[0]))
    there = {(p.frequency_hz, p.target_w, p.range_id) for p in job.plan if p.waveform == sent}
    fresh = [item for item in sorted(set(wanted), key=key) if item not in there]
    if len(fresh) > MOST_POINTS:
        return (Problem("frequencies", f"That is {len(fresh)} points; one grid makes at most {MOST_POINTS}."),)
    names = free_names(job)
    return tuple(
        point
        for f, level, used in fresh
        for point in on_each_leg(job, names, PlanPoint("", "", f, level, used, (), round(rounds[0]), waveform=sent))
    )


def waveform_for(job: Job, text: str) -> str:
    """What is sent at a point, as it is typed; raises UnreadableError, OutOfRangeError."""
    if text.strip() and any(leg.is_waveform for leg in job.legs):
        raise OutOfRangeError("Each visit of this job sends its own waveform.", "Change them under “sent in turn”.")
    return waveform_typed(text)


def points_at(
    job: Job, frequencies_hz: Sequence[float], levels_w: Sequence[float], rounds: int = 1
) -> tuple[PlanPoint, ...]:
    """Every frequency with every level, rising, on the lowest range that shows it, beyond what is planned."""
    names = free_names(job)
    return tuple(
        point
        for f in sorted(frequencies_hz)
        for level in sorted(levels_w)
        for point in on_each_leg(
            job, names, PlanPoint("", "", float(f), float(level), range_for(job.device_ranges, level), (), rounds)
        )
    )


def on_each_leg(job: Job, names: Iterator[str], point: PlanPoint) -> tuple[PlanPoint, ...]:
    """A point for each visit of the run, of a `point` that has none yet: in one group, but those that stand alone.

    Where some visits have answers of their own and some haven't, each of the first is worked out with the others.
    """
    visits = job.visits
    made = [
        replace(point, id=next(names), hookup=leg.hookup, sequence=job.order_on(leg.hookup), leg=leg.id)
        for leg in visits
    ]
    group = made[0].id if len(visits) > 1 else ""
    alone = "" if all(leg.by_itself for leg in visits) else group
    return tuple(
        replace(item, group=group_at(item.frequency_hz) if leg.beside else alone if leg.by_itself else group)
        for item, leg in zip(made, visits, strict=True)
    )


def group_at(frequency_hz: float) -> str:
    """Name of the group of all points at one frequency."""
    return f"at {frequency_hz:.10g}\u202fHz"


def _wanted(
    job: Job, frequencies: Sequence[float], levels: Sequence[float], ranges: Sequence[str], shares: bool
) -> list[tuple[float, float, str]]:
    full = {item.id: item.full_scale for item in job.device_ranges}
    if not full:
        most = full_power_w(job)
        return [(f, level * most if shares else level, "") for f in frequencies for level in levels]
    if shares:
        return [(f, share * full[used], used) for f in frequencies for share in levels for used in ranges]
    return [
        (f, level, used)
        for f in frequencies
        for level in levels
        for used in [min((r for r in ranges if full[r] >= level), key=lambda r: full[r], default=ranges[-1])]
    ]


def _listed(text: str, unit: str, name: str, example: str, problems: list[Problem]) -> tuple[float, ...]:
    """SI values of a list, or 1 where something is wrong with it."""
    try:
        return values_from_text(text, unit, name, example)
    except FenmistError as error:
        problems.append(Problem(name, error.headline, f"Type for example {example}."))
        return (1.0,)


def _ranges(job: Job, text: str, problems: list[Problem]) -> tuple[str, ...]:
    known = [item.id for item in sorted(job.device_ranges, key=lambda item: item.full_scale)]
    words = [word for word in text.replace(";", " ").split() if word != "W"]
    unknown = [word for word in words if word not in known]
    if unknown:
        said = f"{job.dut_part.label} has no range “{unknown[0]}”."
        problems.append(Problem("ranges", said, f"It has {', '.join(known)}."))
    return tuple(name for name in known if not words or name in words)


def free_names(job: Job) -> Iterator[str]:
    """Names that no point carries yet."""
    return (f"p{number}" for number in count(free_point_number(job.plan)))


def with_points(job: Job, points: Sequence[PlanPoint], order: str) -> Job:
    """The job with more points, the whole plan in an order, visit by visit; what was read keeps its points."""
    plan = (*job.plan, *points)
    visits = {(leg.hookup, leg.id): number for number, leg in enumerate(job.visits)}
    others = {hookup.id: len(visits) + number for number, hookup in enumerate(job.hookups)}

    def key(p: PlanPoint) -> tuple[float, ...]:
        visit = visits.get((p.hookup, p.leg), others[p.hookup])
        return (visit, p.target_w, p.frequency_hz) if order == BY_LEVEL else (visit, p.frequency_hz, p.target_w)

    return replace(job, plan=tuple(sorted(plan, key=key)))


def with_block(job: Job, point_id: str, reason: str) -> Job:
    """The job with a point blocked for a reason, or free again where there is none.

    Raises
    ------
    OutOfRangeError
        Where readings stand at the point.
    """
    point = job.point(point_id)
    if reason and any(job.ledger.at(item.id) for item in job.planned_with(point_id)):
        raise OutOfRangeError(
            f"{frequency(point.frequency_hz)}, {level_said(point)} was read: it can't be blocked.",
            "Strike its entries first.",
        )
    group = {item.id for item in job.planned_with(point_id)}
    plan = tuple(replace(item, blocked=reason) if item.id in group else item for item in job.plan)
    return replace(job, plan=plan)


def cannot_serve(job: Job) -> Mapping[str, str]:
    """Points that this hook-up or the meter can't serve, with the reason, by point id."""
    return job.once("cannot serve", lambda: {
        point.id: reason for point in job.plan if (reason := why_not(job, point))
    })  # fmt: skip


def why_not(job: Job, point: PlanPoint) -> str:
    """Why this hook-up or the meter can't serve a point, planned or not; nothing where they can."""
    if not job.is_read(point.hookup):
        return f"“{job.hookup(point.hookup).label}” is looked at on paper; no method reads it yet"
    device = job.dut_part
    spans = [(port.frequency_min_hz, port.frequency_max_hz) for port in device.ports]
    known = [(low, high) for low, high in spans if low and high]
    if known and not any(low <= point.frequency_hz <= high for low, high in known):
        return f"{frequency(point.frequency_hz)} is outside the span of {device.label}"
    used = job.device_range(point)
    if used is not None and point.target_w > used.full_scale * (1.0 + 1e-9):
        return f"{level_said(point)} is beyond range {used.id}"
    levels = planned_levels(job).get(point.hookup)
    over = levels.overload_of(point) if levels else None
    if over is not None:
        part = job.part(job.hookup(point.hookup).element(over.element).part)
        unit = "W" if over.what == "power" else "V"
        return f"{part.label} would see {plain(over.planned, unit, 3)}, its rating is {plain(over.limit, unit, 3)}"
    return ""
