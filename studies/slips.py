"""The slips study: whole runs on the simulated bench, one slip planted in each, and runs with none.

A run: five frequencies, two levels on two ranges (50 and 200 W), two rounds; bench, meter error and load drawn anew.
What is asked of the notes: is the entry named (by a stop or a doubt) where the slip stands? Slips that *count* move
the result at their point by more than its U and lie outside what the other round and the neighbouring points show, by
more than those show among themselves; the others nobody could tell. Nothing of the rules under test is used to decide
what counts.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date
from itertools import pairwise

import numpy as np

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, Severity
from fenmist.procedures.comparison.make import cross_check, plan_points
from fenmist.procedures.comparison.reduction import Result, reduce
from fenmist.procedures.comparison.rules import judge, judge_entries
from fenmist.reading.event import AS_FOUND, Slot
from fenmist.simulation.bench import TrueBench, TrueLine, observe
from fenmist.simulation.reader import read_needle, read_screen
from studies.builders import WHEN, bench_kit, enter

FREQUENCIES = (2.2e6, 4.1e6, 6.2e6, 8.3e6, 12.3e6)
LEVELS = ((30.0, "50"), (120.0, "200"))
KINDS = ("decimal", "range", "arc", "transposed digits", "unit", "Vpp/Vrms", "swapped ports")
LOAD = 51.0 + 2.0j
RANGES = (50.0, 200.0)


@dataclass(frozen=True)
class Typed:
    """One entry as it is typed, with what was truly shown."""

    slot: Slot
    channel: str
    text: str
    shown: float  # W or Vpp


@dataclass(frozen=True)
class Planted:
    """What became of a run with a slip."""

    kind: str
    counts: bool  # moves the result by more than U, and can be told
    at_once: bool  # named by a doubt as soon as it was kept
    named: bool  # named by a doubt at the end of the run
    where: str


def empty_job() -> Job:
    """The plan and the bench as they are stated."""
    kit = bench_kit(
        load=f"{LOAD.real}+j{LOAD.imag}", bandwidth_hz=200e6, lead_m=0.2, ranges=RANGES, harmonics_dbc=-45.0,
    )  # fmt: skip
    plan = [
        replace(point, range_id=used) for level, used in LEVELS for point in plan_points(FREQUENCIES, [level], used, 2)
    ]
    plan.sort(key=lambda point: (point.frequency_hz, point.target_w))
    named = tuple(replace(point, id=f"p{number}") for number, point in enumerate(plan, start=1))
    return cross_check("slips", "slips", kit, named, created_at=WHEN)


def drawn_run(job: Job, rng: np.random.Generator) -> list[Typed]:
    """What a technician would type, slot by slot, on a bench drawn for this run."""
    offset, slope = rng.normal(0.0, 0.15), rng.normal(0.0, 0.03)

    def meter_db(f: float) -> float:
        return float(offset + slope * (f / 1e6 - 6.0))

    bench = TrueBench(
        load_ohm=lambda _: LOAD * (1.0 + 0.004 * rng.standard_normal()), meter_error_db=meter_db,
        lead=TrueLine(50.0, 0.2, 0.66), capacitance_f=16e-12, scope_gain=1.0 + rng.uniform(-0.015, 0.015),
        scope_bandwidth_hz=200e6,
    )  # fmt: skip
    return [typed for point in job.plan for typed in _at_point(job, point.id, bench, rng)]


def _at_point(job: Job, point_id: str, bench: TrueBench, rng: np.random.Generator) -> Iterator[Typed]:
    point = job.point(point_id)
    for number in range(1, point.repeats + 1):
        # a transmitter's level steps and droops; nobody sets it to the watt
        seen = observe(bench, point.frequency_hz, point.target_w * (1.0 + 0.03 * rng.standard_normal()))
        volts = seen.volts_peak_to_peak
        yield Typed(Slot(point.id, number, 0), "scope", read_screen(volts, 3, 0.003, rng), volts)
        used = job.range_of(point, "meter")
        assert used is not None and used.scale is not None
        division = used.scale.division_at(seen.meter_w / used.factor) * used.factor
        needle = read_needle(seen.meter_w, division, 0.25, rng)
        yield Typed(Slot(point.id, number, 1), "meter", f"{needle:g}", seen.meter_w)


def entered(job: Job, typed: list[Typed]) -> Job:
    """The job with all of it."""
    for item in typed:
        job = enter(job, item.slot, item.text)
    return job


# planting


def slipped(kind: str, item: Typed, rng: np.random.Generator) -> str | None:
    """The text as it would be typed by such a slip, or none where this entry can't have it."""
    value = float(item.text)
    is_meter = item.channel == "meter"
    if kind == "decimal":
        return f"{value * (10.0 if rng.integers(2) else 0.1):.6g}"
    if kind == "range":  # the knob stood on the higher range; the figures read are this one's
        fits = is_meter and _other_range(item) > _range(item)
        return f"{value * _range(item) / _other_range(item):.4g}" if fits else None
    if kind == "arc":  # read on the figures of the other range
        return f"{value * _other_range(item) / _range(item):.4g}" if is_meter else None
    if kind == "transposed digits":
        return _transposed(item.text, rng)
    if kind == "unit":
        if not is_meter:
            return f"{value:g} mVpp"
        return f"{value:g} mW" if rng.integers(2) else f"{10.0 * math.log10(value / 1e-3):.1f}"
    if kind == "Vpp/Vrms":
        return None if is_meter else f"{value / (8.0**0.5 if rng.integers(2) else 2.0):.1f}"
    return f"{value * rng.uniform(0.0005, 0.01):.2g}" if is_meter else None  # what comes back from a good load


def _range(item: Typed) -> float:
    return RANGES[0] if int(item.slot.point[1:]) % 2 else RANGES[1]


def _other_range(item: Typed) -> float:
    return RANGES[1] if int(item.slot.point[1:]) % 2 else RANGES[0]


def _transposed(text: str, rng: np.random.Generator) -> str | None:
    digits = [place for place, letter in enumerate(text) if letter.isdigit()]
    pairs = [(a, b) for a, b in pairwise(digits) if text[a] != text[b]]
    if not pairs:
        return None
    a, b = pairs[int(rng.integers(len(pairs)))]
    letters = list(text)
    letters[a], letters[b] = letters[b], letters[a]
    return "".join(letters)


def planted(kind: str, job: Job, rng: np.random.Generator) -> Planted:
    """One run with one slip, judged as the window would: when it was kept, and at the end."""
    typed = drawn_run(job, rng)
    while True:
        place = int(rng.integers(len(typed)))
        text = slipped(kind, typed[place], rng)
        if text is not None and text != typed[place].text:
            break
    wrong = [*typed[:place], replace(typed[place], text=text), *typed[place + 1 :]]
    slot = typed[place].slot
    here = entered(job, wrong[: place + 1])
    if typed[place].channel == "scope":  # the round's other reading follows before anyone looks up
        here = entered(job, wrong[: place + 2])
    now = judge_entries(here, reduce(here), AS_FOUND, slot.point)
    whole = entered(job, wrong)
    found = reduce(whole)
    clean = reduce(entered(job, typed))
    end = judge(whole, found, date(2026, 11, 25))
    where = f"{typed[place].text} typed as {text}"
    return Planted(kind, _counts(clean, found, slot), _names(now, slot), _names(end, slot), where)


def _names(notes: tuple[Note, ...], slot: Slot) -> bool:
    """Whether a stop or doubt, or an open entry, stands at that entry or at its partner of the round."""
    places = {f"{slot.point}/{slot.round}/{position}" for position in (0, 1)}
    loud = (Severity.STOP, Severity.DOUBT)
    return any(note.about in places and (note.severity in loud or note.code == "entry.open") for note in notes)


def _counts(clean: Result, slipped_result: Result, slot: Slot) -> bool:
    """Moves the result at its point by more than U, and lies apart from the other round and the neighbours."""
    before, after = clean.of(slot.point), slipped_result.of(slot.point)
    if before is None:
        return False
    if after is None:
        return True  # the point can't be stated at all any more
    if abs(after.error_w - before.error_w) <= before.expanded_u_w:
        return False
    order = [item.point.id for item in clean.readings]
    place = order.index(slot.point)
    near = [item for item in slipped_result.readings if item.point.id in order[max(place - 2, 0) : place + 3]]
    others = [
        one.log_ratio for item in near for one in item.rounds
        if (item.point.id, one.number) != (slot.point, slot.round)
    ]  # fmt: skip
    mine = [
        one.log_ratio for item in near for one in item.rounds
        if (item.point.id, one.number) == (slot.point, slot.round)
    ]  # fmt: skip
    if not mine:
        return True
    span = max(others) - min(others)
    return not min(others) - span <= mine[0] <= max(others) + span


def clean_run(job: Job, rng: np.random.Generator) -> tuple[int, int]:
    """Entries of a run without a slip that a doubt stands at, and entries in all."""
    typed = drawn_run(job, rng)
    whole = entered(job, typed)
    notes = judge(whole, reduce(whole), date(2026, 11, 25))
    alarmed = {note.about for note in notes if "/" in note.about and note.severity.rank <= 1}
    return len(alarmed), len(typed)
