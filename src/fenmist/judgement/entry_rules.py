"""Rules about single entries: slips of the decimal point, readings at the bottom of a scale, open entries."""

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from typing import TypeVar
from weakref import WeakKeyDictionary

from fenmist.calibration.beside import once
from fenmist.calibration.expected import powers_of
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.rounds import AMPLITUDES
from fenmist.calibration.sent import level_said
from fenmist.findings import keys
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.reading.event import Entry, Reading, Slot
from fenmist.reading.ledger import PointLedger
from fenmist.units.display import THIN, by_uncertainty, frequency, percent, plain
from fenmist.units.typed import Censoring

T = TypeVar("T")

NEAR = 0.08
"""How near log10 of a ratio must lie to a whole number to look like a slipped point: ± 20 %."""

AGREES = 0.2
"""log10 of a ratio of powers within which two readings of a round confirm each other: a factor of 1.6."""

BOTTOM = 0.10
"""Part of full scale below which a needle tells little (common practice, no source)."""


def slipped_decades(ratio: float) -> int:
    """Decades of a slip that `ratio` looks like, 0 for none; ±1 to ±3."""
    return _decades(math.log10(ratio)) if ratio > 0 else 0


def _decades(log: float) -> int:
    nearest = round(log)
    return nearest if 1 <= abs(nearest) <= 3 and abs(log - nearest) <= NEAR else 0


Read = Mapping[Slot, Entry]
"""Entries at one point that could be read."""


def each_point(job: Job, phase: str, name: str, make: Callable[[PlanPoint, Read], T]) -> Iterator[T]:
    """What follows from a phase's entries at each planned point and the job's definition alone, made once for each.

    An entry more makes the tables of its own point anew, and nothing else is looked at again.
    """
    kept: WeakKeyDictionary[PointLedger, T] = job.once(f"{name} {phase}", WeakKeyDictionary)
    for point in job.plan:
        here = job.ledger.points.get(point.id)
        if here is not None:
            found = kept.get(here)
            if found is None:
                found = kept[here] = make(point, dict(_read_at(job, phase, here)))
            yield found


def _read_at(job: Job, phase: str, here: PointLedger) -> Iterator[tuple[Slot, Entry]]:
    for slot, event in here.standing.items():
        entry = event.entry
        if slot.phase == phase and entry is not None and entry.reading is not None and not job.is_supply(entry.channel):
            yield slot, entry


def powers_read(job: Job, phase: str) -> Mapping[Slot, float]:
    """What entries at planned points stand for, W."""
    return once(job, f"powers read {phase}", lambda: {
        slot: power
        for powers in each_point(job, phase, "all powers", lambda *read: powers_at(job, phase, *read))
        for slot, power in powers.items()
    })  # fmt: skip


def powers_at(job: Job, phase: str, point: PlanPoint, entries: Read) -> Mapping[Slot, float]:
    """The same of the entries of one point: of those that stand for a power; worked out once for all rules."""
    kept: WeakKeyDictionary[PointLedger, Mapping[Slot, float]] = job.once(f"powers {phase}", WeakKeyDictionary)
    here = job.ledger.points[point.id]
    found = kept.get(here)
    if found is None:
        found = kept[here] = _powers(job, entries)
    return found


def _powers(job: Job, entries: Read) -> Mapping[Slot, float]:
    stands = {
        slot: entry
        for slot, entry in entries.items()
        if not job.is_of_match(entry.channel) and not job.is_beside(entry.channel)
    }
    return powers_of(job, stands) if stands else {}


def at_point(point: PlanPoint) -> str:
    return f"at {frequency(point.frequency_hz)}, {level_said(point)}"


def decimal_slips(job: Job, phase: str) -> Iterator[Note]:
    """An entry ten, a hundred or a thousand times off the plan (also mW for W), unless its partner confirms it.

    Where the carrier was simply set to another power than planned, both readings of a round say so and none of them
    is a slip. Where three readings of an instrument or more are off alike one note speaks of all of them.
    """
    found: dict[tuple[str, int], list[_Slip]] = {}
    for some in each_point(job, phase, "slips", lambda *read: tuple(_slips(job, phase, *read))):
        for slip in some:
            found.setdefault((slip.entry.channel, slip.decades), []).append(slip)
    for slips in found.values():
        if len(slips) < ALIKE:
            yield from map(_slip_note, slips)
        else:
            first, others = _slip_note(slips[0]), len(slips) - 1
            yield replace(first, what=f"{first.what.rstrip('.')}, and {others} more of that instrument do.")


ALIKE = 3
"""Readings of one instrument that are off alike, from which it is the instrument rather than a reading."""


@dataclass(frozen=True)
class _Slip:
    """An entry that looks like one."""

    entry: Entry
    reading: Reading
    point: PlanPoint
    decades: int


def _slips(job: Job, phase: str, point: PlanPoint, entries: Read) -> Iterator[_Slip]:
    rounds: dict[int, list[tuple[Slot, float]]] = {}
    for slot, power in powers_at(job, phase, point, entries).items():
        if power > 0:
            rounds.setdefault(slot.round, []).append((slot, math.log10(power)))
    for together in rounds.values():
        for slot, log in together:
            partners = [other for beside, other in together if beside is not slot]
            entry = entries[slot]
            reading = entry.reading
            if reading is None or reading.censoring is not Censoring.NONE or reading.value <= 0:
                continue
            if any(abs(log - other) < AGREES for other in partners):
                continue
            # volts go with the root of the power: a slip of one place in volts is two decades of power
            places = 0.5 if reading.unit in AMPLITUDES else 1.0
            from_plan = _decades(places * (log - math.log10(point.target_w)))
            from_partner = next((d for other in partners if (d := _decades(places * (log - other)))), 0)
            if from_plan:
                yield _Slip(entry, reading, point, from_partner or from_plan)


def _slip_note(slip: _Slip) -> Note:
    decades, value, unit = slip.decades, slip.reading.value, slip.reading.unit
    factor = 10 ** abs(decades)
    times = f"{factor} times" if decades > 0 else f"a {'tenth' if factor == 10 else f'{factor}th part'} of"
    milli = " or mW for W" if abs(decades) == 3 and unit == "W" else ""
    return Note(
        "entry.decimal_slip", Severity.DOUBT, slip.entry.slot.place,
        f"“{slip.entry.raw_text}” looks like a slipped decimal point{milli}.",
        f"It is {times} what is planned {at_point(slip.point)}, and no other reading of the round confirms it.",
        f"Was it {plain(value / 10.0**decades, unit)}? Type it again, or answer “checked”.",
        {"value": value, "decades": float(decades), "unit": unit},
    )  # fmt: skip


def bottom_of_scale(job: Job, phase: str) -> Iterator[Note]:
    """A needle in the bottom tenth of its range, said once with the points it holds for."""
    low = [item for some in each_point(job, phase, "bottom", lambda *read: tuple(_low(job, *read))) for item in some]
    if not low:
        return
    point, value, full = min(low, key=lambda item: item[1] / item[2])
    count = len({item[0].id for item in low})
    places = at_point(point) if count == 1 else f"at {count} points"
    used = job.device_range(point)
    per_division = used.scale.division_at(value / used.factor) * used.factor if used and used.scale else 0.0
    part = job.part_of_division * per_division / value if value > 0 else math.inf
    to = f"can be read to {percent(part)} there" if math.isfinite(part) else "can't be told from nothing there"
    yield Note(
        "scale.bottom_tenth", Severity.WATCH, "dut",
        f"The needle is in the bottom tenth of its range {places}.",
        f"{plain(value, 'W')} of {plain(full, 'W')}: the needle {to}, and an error "
        "stated of full scale weighs most.",
        "Read it on the lower range, or at a higher level.",
        {"value_w": value, "full_scale_w": full, "points": float(count)},
    )  # fmt: skip


def _low(job: Job, point: PlanPoint, entries: Read) -> Iterator[tuple[PlanPoint, float, float]]:
    """Readings of the device in the bottom tenth of its range, with its full scale."""
    used = job.device_range(point)
    for entry in entries.values():
        if used is None or entry.reading is None or not job.is_device(entry.channel) or job.is_of_match(entry.channel):
            continue
        if entry.reading.value < BOTTOM * used.full_scale:
            yield point, entry.reading.value, used.full_scale


def off_scale(job: Job, phase: str) -> Iterator[Note]:
    """A reading above the full scale of its range."""
    for notes in each_point(job, phase, "off scale", lambda *read: tuple(_above(job, *read))):
        yield from notes


def _above(job: Job, point: PlanPoint, entries: Read) -> Iterator[Note]:
    for slot, entry in entries.items():
        reading, used = entry.reading, job.range_of(point, entry.channel)
        if reading is None or used is None or reading.censoring is not Censoring.NONE:
            continue
        used = job.indicator(entry.channel).range(entry.range_id) or used  # over the wire it may choose its own
        if reading.value > used.full_scale * 1.001:
            ends, shown = (plain(value, used.unit) for value in (used.full_scale, reading.value))
            yield Note(
                "scale.off", Severity.DOUBT, slot.place,
                f"“{entry.raw_text}” is above the scale.",
                f"The range ends at {ends}; the needle can't show {shown}.",
                "Check range and arc, or type “off scale”.",
                {"value_w": reading.value, "full_scale_w": used.full_scale},
            )  # fmt: skip


def open_entries(job: Job, phase: str) -> Iterator[Note]:
    """Entries that could not be read; they stay out of all results."""
    points = {point.id for point in job.plan}
    for slot, event in job.standing.items():
        entry = event.entry
        if slot.phase != phase or entry is None or entry.reading is not None or slot.point not in points:
            continue
        meant = f"Most likely {entry.likeliest_text}: {keys.TAKE} takes it. " if entry.likeliest_text else ""
        yield Note(
            "entry.open", Severity.WATCH, slot.place,
            f"“{entry.raw_text}” is not read yet.", entry.why_open,
            meant + "Type it again in its place, or strike it.", {"raw": entry.raw_text},
        )  # fmt: skip


def reading_shown(reading: Reading) -> str:
    """A reading as it is listed: value and unit to its own last digit, bounds in words."""
    step = reading.digit if reading.digit > 0 else abs(reading.value) * 1e-3
    text = by_uncertainty(reading.value, 10.0 * step, reading.unit) if reading.value else f"0{THIN}{reading.unit}"
    return text if reading.censoring is Censoring.NONE else f"{reading.censoring.value} {text}"
