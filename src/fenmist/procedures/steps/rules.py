"""What is remarked of a job about steps: where an indicator leaves its law, ranges that don't meet, blind spots."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import date

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, Severity
from fenmist.judgement import entry_rules, run_rules
from fenmist.judgement.any_job import before_reading, narrowed, of_the_outcome, of_the_run
from fenmist.judgement.judge import Judge, Rules, all_in_order, but
from fenmist.procedures.steps.findings import Ladder, ladders
from fenmist.procedures.steps.headline import departure_said, step_name
from fenmist.procedures.steps.reduction import StepPoint, Steps, sides
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import frequency, opening, plain, rounded

CANCELS = ("load.unknown_here", "load.phase_unknown", "load.not_nominal", "reference.history", "load.poor")
"""What a ratio of ratios doesn't lean on: the end of the line, and how true each instrument is."""

FLOOR_TIMES = 10.0
"""Times its noise floor below which an instrument behind is near it: 10 % of the reading (derived)."""


@Judge
def judge(job: Job, result: Steps, as_of: date, phase: str = AS_FOUND, _found: Steps | None = None) -> Rules:
    """All notes on a job on a day; see `Procedure.judge`."""
    yield from but(before_reading(job, as_of), CANCELS)
    yield from _entries(job, phase)
    yield from of_the_run(job, result, phase)
    yield from of_the_outcome(job, result)
    yield from _patterns(job, result)


def judge_entries(job: Job, result: Steps, phase: str, point_id: str) -> tuple[Note, ...]:
    """Notes on the entries of one point: what must be said as soon as an entry is kept."""
    near = replace(result, readings=(result.readings_at(point_id),), points=())
    return all_in_order(_entries(narrowed(job, near.readings), phase))


def _entries(job: Job, phase: str) -> Rules:
    yield entry_rules.decimal_slips(job, phase)
    yield entry_rules.off_scale(job, phase)
    yield entry_rules.open_entries(job, phase)
    yield run_rules.doubted_entries(job, phase)


def _patterns(job: Job, result: Steps) -> Rules:
    found = ladders(result)
    yield near_floor(job, result)
    yield leaves_law(job, found)
    yield ranges(found)
    yield blind(job, result)


def leaves_law(job: Job, found: tuple[Ladder, ...]) -> Iterator[Note]:
    """Departures that grow towards an end of the ladder, said once for each end."""
    floors = [item for item in found if item.floor_db is not None]
    ceilings = [item for item in found if item.ceiling_db is not None]
    name = opening(job.dut_part.label)
    if floors:
        ladder = max(floors, key=lambda item: item.floor_db or 0.0)
        worst = ladder.steps[-1]
        yield Note(
            "steps.floor", Severity.WATCH, worst.point.id,
            f"{name} leaves its law from {_at(ladder.floor_db)} down {_where(worst)}.",
            f"It shows too much of too little: {departure_said(worst)} at {step_name(worst.point)}. A zero, a noise "
            "floor, or leakage past an attenuator does that.",
            "Zero it with RF off and read again; use it above that step.",
            {"from_db": ladder.floor_db or 0.0, "departure_db": worst.departure_db},
        )  # fmt: skip
    if ceilings:
        ladder = min(ceilings, key=lambda item: item.ceiling_db or 0.0)
        worst = ladder.steps[0]
        yield Note(
            "steps.ceiling", Severity.WATCH, worst.point.id,
            f"{name} leaves its law from {_at(ladder.ceiling_db)} up {_where(worst)}.",
            f"It shows too little of too much: {departure_said(worst)} at {step_name(worst.point)}. Compression, or a "
            "diode that leaves its square law, does that.",
            "Use it below that step, or put a pad in front.",
            {"from_db": ladder.ceiling_db or 0.0, "departure_db": worst.departure_db},
        )  # fmt: skip


def _at(db: float | None) -> str:
    return f"{rounded(db or 0.0, 1, plus=True)}\u2009dB"


def _where(item: StepPoint) -> str:
    return f"at {frequency(item.point.frequency_hz)}"


def ranges(found: tuple[Ladder, ...]) -> Iterator[Note]:
    """Two ranges that don't meet."""
    jumps = [item for ladder in found for item in ladder.jumps]
    if jumps:
        worst = max(jumps, key=lambda item: abs(item.departure_db))
        yield Note(
            "steps.ranges", Severity.WATCH, worst.point.id,
            f"The departure jumps where the range changes to {worst.range_id} {_where(worst)}.",
            f"{departure_said(worst)} at {step_name(worst.point)}: two ranges of what reads behind don't meet.",
            "Read one step on both ranges.", {"departure_db": worst.departure_db, "range": worst.range_id},
        )  # fmt: skip


def near_floor(job: Job, result: Steps) -> Iterator[Note]:
    """What is held to be the reference reads near its own floor."""
    back = sides(job, job.bench.id)[1]
    part = job.part_read(back)
    floor = part.properties.get("noise_floor_w")
    if floor is None or part.id == job.dut:
        return
    low = [item for item in result.points if item.behind_w < FLOOR_TIMES * floor.value]
    if low:
        worst = min(low, key=lambda item: item.behind_w)
        yield Note(
            "steps.near_floor", Severity.DOUBT, worst.point.id,
            f"{part.label} reads near its own floor at {step_name(worst.point)} {_where(worst)}.",
            f"It shows {plain(worst.behind_w, 'W', 3)}, its noise is {plain(floor.value, 'W', 2)}: a departure there "
            "may be its own.",
            "Begin at a higher level, or leave the weakest steps out.",
            {"behind_w": worst.behind_w, "floor_w": floor.value},
        )  # fmt: skip


def blind(job: Job, result: Steps) -> Iterator[Note]:
    """Said once: both wrong alike can't be seen."""
    if any(not item.is_reference for item in result.points):
        front, back = (job.part_read(name).label for name in sides(job, job.bench.id))
        yield Note(
            "steps.blind", Severity.GOOD_TO_KNOW, "job",
            f"Where {front} and {back} are wrong alike, this can't see it.",
            "Only ratios count: a gain cancels, and so does a departure that both have.",
            "A step attenuator with a certificate, or a third instrument of another principle, tells.", {"points": 1.0},
        )  # fmt: skip
