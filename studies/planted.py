"""The faults study: whole runs on live benches with one fault planted, and runs with none.

A job is begun on a scenario's bench as its user would, read in time (settling, key down and up, rest), by eye where
there is a needle and to its digits where there is none. A fault *counts* where it moves a result by more than its U
against the same bench in order. It is *named* where a note stands that the clean bench doesn't have.
"""

import math
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Outcome, Stated
from fenmist.calibration.planning import points_at
from fenmist.findings.note import Note, Severity
from fenmist.hookup.templates import from_template
from fenmist.kit.part import PartKind
from fenmist.measurand import Kind
from fenmist.procedures.table import room_of
from fenmist.reading.event import AS_FOUND, Entry, Event, EventKind, Slot
from fenmist.reading.interpret import interpret
from fenmist.simulation.faults import METERS, Fault
from fenmist.simulation.live import LiveBench
from fenmist.simulation.reader import read_needle
from fenmist.simulation.scenarios import Scenario, job_bench, scenario

BEGAN = datetime(2026, 11, 25, 9, 0, tzinfo=UTC)
SETTLE_S, REST_S = 6.0, 60.0
"""Before each reading, and between two points with the key up."""


BESIDE = "read as well"


@dataclass(frozen=True)
class Plan:
    """What is read on a scenario's bench."""

    scene: str
    frequencies_hz: tuple[float, ...]
    levels_w: tuple[float, ...]
    rounds: int = 3


PLANS = {
    "live": Plan("live", (2.2e6, 4.1e6, 8.3e6, 12.3e6), (20.0, 80.0)),
    "probe": Plan("probe", (2.2e6, 4.1e6, 8.3e6, 12.3e6), (20.0, 80.0)),
    "dial": Plan("dial", (2.2e6, 4.1e6, 8.3e6, 12.3e6), (80.0, 150.0)),
    "steps": Plan("steps", (2.2e6, 4.1e6, 8.3e6, 12.3e6), (20.0, 80.0)),
    "tap": Plan("tap", (2.2e6, 4.1e6, 8.3e6, 12.3e6), (20.0, 80.0)),
    "pad": Plan("pad", (2.2e6, 4.1e6, 8.3e6, 12.3e6), (5.0, 80.0)),
    "divider": Plan("divider", (1.4e5, 2.8e5, 4.75e5), (4.0, 12.0)),
}
"""By scenario."""


def job_on(scene: Scenario, plan: Plan) -> Job:
    """The job as it is planned, nothing read."""
    parts = scene.parts()
    device = next(part for part in parts if part.kind in METERS)
    bench = from_template(scene.template, parts, "bench", device)
    job = room_of("comparison").begin("planted", "planted", bench, device.id, BEGAN)
    if any(shows.quantity is Kind.REFLECTED for shows in device.indicators):  # whoever has it reads it, too
        changed = room_of("comparison").from_draft(job, {**room_of("comparison").draft(job), "beside": BESIDE})
        assert isinstance(changed, Job), changed
        job = changed
    return replace(job, plan=points_at(job, plan.frequencies_hz, plan.levels_w, plan.rounds))


def run(plan: Plan, seed: int, faults: dict[str, float | None]) -> Job:
    """The job, read on a bench drawn from a number, with faults in it."""
    job = job_on(scenario(plan.scene), plan)
    live = job_bench(job.bench, job.parts, seed, faults)
    eye = np.random.default_rng([seed, 7])
    at, number = BEGAN, 0
    for point in job.plan:
        for turn in range(1, point.repeats + 1):
            live.set(watts=point.target_w, frequency_hz=point.frequency_hz, on=True)
            for position, channel in enumerate(point.sequence):
                live.advance(SETTLE_S)
                at += timedelta(seconds=SETTLE_S)
                job = _entered(job, Slot(point.id, turn, position), shown(job, live, channel, eye), at, number)
                number += 1
            live.set(on=False)
            live.advance(REST_S)
            at += timedelta(seconds=REST_S)
    return job


def shown(job: Job, live: LiveBench, channel: str, eye: np.random.Generator) -> str:
    """What is typed of what a channel shows."""
    item, part, shows = job.channel(channel), job.part_read(channel), job.indicator(channel)
    value = live.shown(item.element, item.indicator)
    if not math.isfinite(value):
        return "off scale"
    if shows.quantity is Kind.VOLTAGE:  # a screen is let do the rms: its steps show in peak to peak
        return f"{value:.4g} Vrms"
    if part.kind is PartKind.POWER_METER:
        return f"{value * 1e3:.4g} mW"
    scales = [used for used in shows.ranges if used.scale is not None]
    used = next((r for r in scales if r.full_scale >= value), scales[-1] if scales else None)
    if used is None or used.scale is None:
        return f"{value:.2f} W"
    division = used.scale.division_at(value / used.factor) * used.factor
    return f"{max(read_needle(value, division, job.part_of_division, eye), 0.0):g} W"


def _entered(job: Job, slot: Slot, text: str, at: datetime, number: int) -> Job:
    channel = job.channel(job.point(slot.point).sequence[slot.position])
    used = job.range_of(job.point(slot.point), channel.id)
    found = interpret(text, job.indicator(channel.id), None if used and used.scale is None else used)
    entry = Entry(
        slot, channel.id, channel.element, channel.indicator, found.range_id, text, found.reading, found.why_open,
        found.likeliest_text, observed_at=at,
    )  # fmt: skip
    return job.with_event(Event(f"e{number}", EventKind.ENTER, at, entry))


# what came of it


@dataclass(frozen=True)
class Judged:
    """A run with everything said of it."""

    outcome: Outcome
    notes: tuple[Note, ...]

    @property
    def alarms(self) -> set[str]:
        """Codes of its stops and doubts."""
        return {note.code for note in self.notes if note.severity in (Severity.STOP, Severity.DOUBT)}

    @property
    def codes(self) -> set[str]:
        """Codes of all notes that ask to look."""
        return {note.code for note in self.notes if note.severity is not Severity.GOOD_TO_KNOW}


def judged(job: Job) -> Judged:
    """A job worked out and judged."""
    room = room_of(job.question)
    outcome = room.reduce(job, AS_FOUND, {}, None)
    return Judged(outcome, tuple(room.judge(job, outcome, date(2026, 11, 25), AS_FOUND, None)))


def moved(clean: Outcome, faulty: Outcome) -> float:
    """The largest move of a result, in its U; infinite where one can't be stated any more."""
    before = {row.point.id: row for row in clean.stated}
    worst = math.inf if len(faulty.stated) < len(clean.stated) else 0.0
    for row in faulty.stated:
        old = before.get(row.point.id)
        if old is not None:
            worst = max(worst, abs(row.value - old.value) / max(_u(row), _u(old)))
    return worst


def _u(row: Stated) -> float:
    return row.expanded_u


# the study

HAS = {
    "ports": ("live", "dial"), "port": ("live", "dial"), "probe": ("probe",), "termination": ("tap",),
    "resistor": ("divider",), "wet": ("live", "dial"), "drift": ("live",), "tuner": ("live", "dial"), "one": ("live",),
    "arc": ("dial",), "loose": ("live",), "fold-back": ("live",), "hot-pad": ("pad",), "switch": ("steps",),
    "zero": ("pad",), "alike": ("live",),
}  # fmt: skip
"""Benches on which each fault is planted; a hold needs a waveform: `studies/modulated.py` studies that."""

STRENGTHS = {
    "tuner": (1.2, 1.5, 2.0), "fold-back": (1.05, 1.1, 1.3), "termination": (75.0, 150.0, 1e6),
    "zero": (1e-5, 5e-5, 2e-4), "drift": (20.0, 100.0, 200.0), "hot-pad": (0.5, 1.0, 2.0),
}  # fmt: skip
"""At which it is planted; others at a half, one and two times what is usual."""


def strengths(fault: Fault) -> tuple[float, ...]:
    """Strengths at which a fault is planted; one where it has none."""
    usual = (0.5 * fault.usual, fault.usual, 2.0 * fault.usual) if fault.unit else (fault.usual,)
    return STRENGTHS.get(fault.id, usual)


@dataclass(frozen=True)
class Planted:
    """What became of a run with a fault."""

    fault: str
    strength: float
    counts: bool  # moves a result by more than its U
    alarmed: tuple[str, ...]  # stops and doubts that the clean bench doesn't have
    noted: tuple[str, ...]  # the same with what only asks to watch
    rejects: bool  # by the result's own verdict, where the clean bench is accepted

    @property
    def named(self) -> bool:
        """Whether a note speaks of it."""
        return bool(self.noted)


def planted_in(name: str, seed: int, fault: str, strength: float, clean: Judged) -> Planted:
    """One run with a fault, against the clean one of the same number."""
    found = judged(run(PLANS[name], seed, {fault: strength}))
    return Planted(
        fault, strength, moved(clean.outcome, found.outcome) > 1.0, tuple(sorted(found.alarms - clean.alarms - QUIET)),
        tuple(sorted(found.codes - clean.codes - QUIET)), rejected(found) and not rejected(clean),
    )  # fmt: skip


QUIET = {"tur.low", "uncertainty.drawn"}
"""What tells of the bench's own reach, and of no fault."""


def rejected(found: Judged) -> bool:
    """Whether a point lies outside its tolerance by more than U."""
    return any(abs(row.value) - row.expanded_u > row.tolerance > 0.0 for row in found.outcome.stated)


def by_itself(name: str) -> Judged:
    """What is said before anything is read."""
    return judged(job_on(scenario(PLANS[name].scene), PLANS[name]))
