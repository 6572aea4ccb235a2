"""Edits of a job as pure replacements: the plan cell by cell, what is asked, parts chosen, a load's table."""

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

from fenmist.calibration.gather import end_part, load_of
from fenmist.calibration.job import Job, Phase, PlanPoint
from fenmist.calibration.planning import (
    free_names,
    full_power_w,
    group_at,
    on_each_leg,
    range_for,
    waveform_for,
    with_block,
)
from fenmist.calibration.sent import level_said
from fenmist.errors import FenmistError, OutOfRangeError, UnreadableError
from fenmist.kit.impedance import HOT_IMPEDANCE, IMPEDANCE, table_from_rows
from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.reading.event import AS_LEFT
from fenmist.units.display import frequency, plain
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

PLAN_HEADINGS = ("frequency", "level", "range", "rounds", "waveform", "hook-up", "left out because")
"""Columns of the plan as it is typed."""

DEFAULT_LOAD_U = 0.01
"""Standard uncertainty of a measured load, part of |Z| (common practice, no source)."""


def plan_rows(job: Job) -> list[list[str]]:
    """The plan as texts."""
    return [
        [
            frequency(point.frequency_hz),
            plain(point.target_w, "W"),
            point.range_id,
            str(point.repeats),
            point.waveform or "carrier",
            point.leg or job.hookup(point.hookup).label,
            point.blocked,
        ]
        for point in job.plan
    ]


MOST_PASTED = 1000
"""Rows that are taken from the clipboard at once."""


def plan_with_cell(job: Job, row: int, column: int, text: str) -> Job:
    """The job with one cell of its plan typed; a row past the end is a new point.

    Raises
    ------
    UnreadableError, OutOfRangeError
        Says what the cell takes.
    """
    new = row >= len(job.plan)
    if PLAN_HEADINGS[column] == "left out because":
        return job if new else with_block(job, job.plan[row].id, text)
    point = _new_point(job) if new else job.plan[row]
    changed = _with_cell(job, point, column, text)
    if new:
        used = changed.range_id if PLAN_HEADINGS[column] == "level" else range_for(job.device_ranges, changed.target_w)
        changed, names = replace(changed, range_id=used), free_names(job)
        alone = replace(changed, id=next(free_names(job)), sequence=job.order)
        return replace(job, plan=(*job.plan, *(on_each_leg(job, names, changed) if job.legs else (alone,))))
    group = {item.id for item in job.planned_with(point.id)}
    if point.group and job.answers_alone(point):
        changed = replace(changed, group=group_at(changed.frequency_hz))
    plan = tuple(
        replace(
            item, **{name: getattr(changed, name) for name in _OF_ALL_LEGS}, hookup=changed.hookup, group=changed.group
        )
        if item.id == point.id
        else replace(item, **{name: getattr(changed, name) for name in _OF_ALL_LEGS})
        if item.id in group
        else item
        for item in job.plan
    )
    return replace(job, plan=plan)


_OF_ALL_LEGS = ("frequency_hz", "target_w", "range_id", "repeats", "waveform")
"""What is typed of one point of a group and holds for all of it."""


def without_headings(rows: Sequence[Sequence[str]]) -> list[Sequence[str]]:
    """Rows from a spreadsheet without a first one that holds no figure at all."""
    return list(rows[1:] if rows and not any(letter.isdigit() for letter in "".join(rows[0])) else rows)


def plan_with_rows(job: Job, row: int, column: int, rows: Sequence[Sequence[str]]) -> Job:
    """The job with rows pasted into its plan from a cell on; past the end they add points.

    Raises
    ------
    UnreadableError, OutOfRangeError
        Names the row and what it lacks; nothing is changed then.
    """
    if len(rows) > MOST_PASTED:
        raise OutOfRangeError(f"{len(rows)} rows were pasted; at most {MOST_PASTED} are taken.", "Paste fewer at once.")
    for number, texts in enumerate(without_headings(rows)):
        for place, text in enumerate(texts):
            if column + place < len(PLAN_HEADINGS) and text.strip():
                try:
                    job = plan_with_cell(job, row + number, column + place, text.strip())
                except FenmistError as error:
                    said = f"Row {number + 1} of what was pasted: {error.headline}"
                    raise UnreadableError(said, error.hint) from error
    return job


def _new_point(job: Job) -> PlanPoint:
    if job.plan:
        return replace(job.plan[-1], group="")
    level = full_power_w(job) / 2.0
    used = job.device_ranges[-1].id if job.device_ranges else ""
    return PlanPoint("", job.stated.plane.hookup, 7e6, level, used, ())


def _with_cell(job: Job, point: PlanPoint, column: int, text: str) -> PlanPoint:
    heading = PLAN_HEADINGS[column]
    if heading == "frequency":
        value = value_from_text(text, UNITS["MHz"], heading, "8.291 MHz")
        return replace(point, frequency_hz=_within(value, 1e3, 1e11, heading, "Hz"))
    if heading == "level":
        level = _within(value_from_text(text, UNITS["W"], heading, "50 W"), 1e-9, 1e5, heading, "W")
        fits = job.device_range(point)
        name = point.range_id if fits and level <= fits.full_scale else range_for(job.device_ranges, level)
        return replace(point, target_w=level, range_id=name)
    if heading == "waveform":
        return replace(point, waveform=waveform_for(job, text))
    if heading == "range":
        ranges = job.device_ranges
        wanted = text.replace("W", "").strip()
        if not any(item.id == wanted for item in ranges):
            has = f"It has {', '.join(item.id for item in ranges)}." if ranges else "Nothing is read on it."
            raise UnreadableError(f"{job.dut_part.label} has no range “{text}”.", has)
        return replace(point, range_id=wanted)
    if heading == "hook-up" and job.legs:
        raise OutOfRangeError("This point is read on each hook-up in turn.", "Take it out, or plan another.")
    if heading == "hook-up":
        return replace(point, hookup=_hookup_named(job, text))
    rounds = value_from_text(text, UNITS[""], heading, "3")
    return replace(point, repeats=round(_within(rounds, 1, 100, heading, "")))


def _hookup_named(job: Job, text: str) -> str:
    """Id of the hook-up whose name, or the beginning of it, was typed; also its number."""
    wanted = text.strip().lower()
    found = [item.id for item in job.hookups if item.label.lower() == wanted]
    found = found or [item.id for item in job.hookups if item.label.lower().startswith(wanted)]
    numbered = {str(number): item.id for number, item in enumerate(job.hookups, start=1)}
    found = found or [numbered[wanted]] if wanted in numbered else found
    if not found:
        names = "; ".join(f"{number} {item.label}" for number, item in enumerate(job.hookups, start=1))
        raise UnreadableError(f"There is no hook-up “{text}” in this job.", f"It has {names}.")
    return found[0]


def _within(value: float, low: float, high: float, name: str, unit: str) -> float:
    if not low <= value <= high:
        raise OutOfRangeError(
            f"A {name} of {plain(value, unit)} makes no sense here.",
            f"It lies from {plain(low, unit)} to {plain(high, unit)}.",
        )
    return value


def plan_without(job: Job, row: int) -> Job:
    """The job without one of its plan's points; a point that was read stays.

    Raises
    ------
    OutOfRangeError
        Where readings stand at that point.
    """
    point = job.plan[row]
    group = {item.id for item in job.planned_with(point.id)}
    if any(event.entry is not None and event.entry.slot.point in group for event in job.events):
        raise OutOfRangeError(
            f"Something was entered at {frequency(point.frequency_hz)}, {level_said(point)}: the point stays.",
            "Strike its entries instead.",
        )
    return replace(job, plan=tuple(item for item in job.plan if item.id not in group))


def with_next_range(job: Job, point_id: str) -> Job:
    """The job with the device's next range at a point.

    Raises
    ------
    OutOfRangeError
        Where the device was read at that point: those readings belong to its range.
    """
    point = job.point(point_id)
    here = (event.entry for event in job.ledger.at(point_id).values())
    if any(entry is not None and not job.is_reference(entry.channel) for entry in here):
        raise OutOfRangeError(
            f"{job.dut_part.label} was read on range {point.range_id} here.",
            "Strike those entries first, or plan another point.",
        )
    names = [item.id for item in job.device_ranges]
    if not names:
        raise OutOfRangeError(f"{job.dut_part.label} has no ranges.", "Nothing has to be chosen.")
    chosen = names[(names.index(point.range_id) + 1) % len(names)] if point.range_id in names else names[0]
    plan = tuple(replace(item, range_id=chosen) if item.id == point_id else item for item in job.plan)
    return replace(job, plan=plan)


def with_rounds(job: Job, point_id: str, rounds: int) -> Job:
    """The job with so many rounds planned at a point."""
    plan = tuple(replace(item, repeats=rounds) if item.id == point_id else item for item in job.plan)
    return replace(job, plan=plan)


def with_as_left(job: Job) -> Job:
    """The job with a phase after an adjustment."""
    return job if job.is_adjusted else replace(job, phases=(*job.phases, Phase(AS_LEFT, AS_LEFT)))


# parts


UNCLAIMED = (SpecTerm(SpecKind.OF_RANGE, 0.05),)
"""Tolerance of a meter that states nothing: 5 % of full scale (common practice, no source)."""


def fitted_to_device(job: Job, former: Job) -> Job:
    """The job with ranges of the device that is now under test, and its claim where the former's was the tolerance."""
    plan = tuple(replace(point, range_id=range_for(job.device_ranges, point.target_w)) for point in job.plan)
    was, stated = (item.device_shows.stated if item.device_shows else () for item in (former, job))
    if not stated or former.tolerances != (was or UNCLAIMED):
        return replace(job, plan=plan)
    return replace(job, plan=plan, tolerance=stated[0], tolerance_more=stated[1:])


def without_unused(job: Job) -> Job:
    """The job with only those parts in its snapshot that stand somewhere."""
    names = {item.part for hookup in job.hookups for item in hookup.elements} | {job.dut}
    kept = tuple(part for part in job.kit if part.id in names)
    return job if len(kept) == len(job.kit) else replace(job, kit=kept)


# the load's table: of the one that ends the line, or of another end by its part's id


class LoadRow(NamedTuple):
    """A line of the load's table: frequency in Hz, impedance as typed, cold and hot."""

    frequency_hz: float
    cold: str
    hot: str = ""


def load_rows(job: Job, end: str = "") -> list[LoadRow]:
    """What is measured, and empty rows for what the plan still needs."""
    if not end and load_of(job) is None:
        return []
    load = end_part(job, end)
    typed: dict[float, list[str]] = {}
    for place, quantity in enumerate((IMPEDANCE, HOT_IMPEDANCE)):
        table = load.characterisation(quantity)
        for f, raw in zip(table.frequency_hz, table.raw, strict=True) if table else ():
            typed.setdefault(f, ["", ""])[place] = raw
    for point in job.to_read:
        typed.setdefault(point.frequency_hz, ["", ""])
    return sorted(LoadRow(f, *texts) for f, texts in typed.items())


def load_with_rows(rows: Sequence[LoadRow], pasted: Sequence[Sequence[str]]) -> list[LoadRow]:
    """A load's table with pasted rows of frequency, cold and hot impedance; those of one frequency are replaced.

    Raises
    ------
    UnreadableError
        Names the row whose frequency can't be read.
    """
    found = {row.frequency_hz: row for row in rows}
    for number, texts in enumerate(without_headings(pasted), start=1):
        try:
            f = value_from_text(texts[0].strip(), UNITS["MHz"], "frequency", "8.291 MHz")
        except FenmistError as error:
            raise UnreadableError(f"Row {number} of what was pasted: {error.headline}", error.hint) from error
        cold, hot = (texts[place].strip() if len(texts) > place else "" for place in (1, 2))
        before = found.get(f, LoadRow(f, "", ""))
        found[f] = LoadRow(f, cold or before.cold, hot or before.hot)
    return sorted(found.values())


def with_load_rows(job: Job, rows: Sequence[LoadRow], u_relative: float, measured_on: str, end: str = "") -> Job:
    """The job with its load's table as typed; rows without an impedance are left out.

    Raises
    ------
    UnreadableError, OutOfRangeError
        Where a text can't be read.
    """
    load = end_part(job, end)
    others = tuple(item for item in load.characterisations if item.quantity not in (IMPEDANCE, HOT_IMPEDANCE))
    cold = [(row.frequency_hz, row.cold) for row in rows if row.cold.strip()]
    hot = [(row.frequency_hz, row.hot) for row in rows if row.hot.strip()]
    made = tuple(
        table_from_rows(filled, u_relative, "analyser", measured_on, quantity)
        for filled, quantity in ((cold, IMPEDANCE), (hot, HOT_IMPEDANCE))
        if filled
    )
    return job.with_part(replace(load, characterisations=(*others, *made)))


def load_u(job: Job, end: str = "") -> float:
    """Standard uncertainty of the load's table, part of |Z|."""
    load = job.part(end) if end else load_of(job)
    table = load.characterisation(IMPEDANCE) if load is not None else None
    return table.u_relative if table else DEFAULT_LOAD_U
