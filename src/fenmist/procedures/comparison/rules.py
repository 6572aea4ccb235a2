"""Evidence to notes: what a good colleague would remark, most severe first, one note per rule."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import date

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, in_order
from fenmist.judgement import (
    agreement_rules,
    bench_rules,
    drift_rules,
    entry_rules,
    job_rules,
    plan_rules,
    reference_rules,
    run_rules,
)
from fenmist.judgement.bench import of_bench
from fenmist.procedures.comparison import pattern_rules, round_rules
from fenmist.procedures.comparison.reduction import Result
from fenmist.reading.event import AS_FOUND


def judge(
    job: Job, result: Result, as_of: date, phase: str = AS_FOUND, found: Result | None = None
) -> tuple[Note, ...]:
    """All notes on a job.

    Parameters
    ----------
    job, result
        The job and what `reduce` made of it, for the phase.
    as_of : date
        The day it is looked at, ISO 8601: nothing else here knows today.
    phase : str
        Whose entries are judged.
    found : Result, optional
        The results as found, where `result` is as left.
    """
    notes: list[Note] = [*job_rules.overload_notes(job), *job_rules.voltage_caution(job)]
    notes += job_rules.reference_history(job, as_of)
    notes += _before(job)
    notes += _entries(job, result, phase)
    notes += _in_time(result)
    notes += _run(job, phase)
    notes += _after(job, result)
    if found is not None and phase != AS_FOUND:
        notes += pattern_rules.worse_as_left(found, result)
    return in_order(of_bench(notes, job.stated.plane.hookup))


NEIGHBOURS = 2
"""Points on both sides that a rule on one entry looks at."""


def judge_entries(job: Job, result: Result, phase: str, point_id: str) -> tuple[Note, ...]:
    """Notes on the entries of one point and its neighbours: what must be said as soon as an entry is kept."""
    near = result.near(point_id, NEIGHBOURS)
    plan = tuple(item.point for item in near.readings)
    standing = [event for point in near.readings for event in job.ledger.at(point.point.id).values()]
    doubts = (job.ledger.doubts[event.id] for event in standing if event.id in job.ledger.doubts)
    events = (*standing, *doubts)
    return in_order(tuple(_entries(replace(job, plan=plan, events=events), near, phase)))


def _before(job: Job) -> Iterator[Note]:
    yield from job_rules.accuracy_not_evaluated(job)
    yield from reference_rules.reference_notes(job)
    yield from bench_rules.bench_notes(job)
    yield from plan_rules.outside_span(job)
    yield from plan_rules.poor_load(job)


def _entries(job: Job, result: Result, phase: str) -> Iterator[Note]:
    yield from entry_rules.decimal_slips(job, phase)
    yield from round_rules.wrong_form(job, result)
    yield from round_rules.wrong_arc(job, result)
    yield from round_rules.level_as_watts(job, result)
    yield from round_rules.reversed_ports(job, result, phase)
    yield from round_rules.transposed_digits(job, result)
    yield from round_rules.other_level(job, result)
    yield from round_rules.outliers(job, result)
    yield from round_rules.forms_differ(result)
    yield from entry_rules.bottom_of_scale(job, phase)
    yield from entry_rules.off_scale(job, phase)
    yield from entry_rules.open_entries(job, phase)
    yield from run_rules.doubted_entries(job, phase)


def _in_time(result: Result) -> Iterator[Note]:
    yield from drift_rules.reference_moved(result)
    yield from drift_rules.drift_curves(result)
    yield from drift_rules.drift_unseen(result)
    yield from drift_rules.times_unknown(result)


def _run(job: Job, phase: str) -> Iterator[Note]:
    yield from run_rules.received_faults(job)
    yield from run_rules.heat_planned(job)
    yield from run_rules.heat_reached(job, phase)
    yield from run_rules.clock_went_back(job)


def _after(job: Job, result: Result) -> Iterator[Note]:
    yield from job_rules.letters_on_paper(job)
    yield from job_rules.tur_note(result)
    yield from job_rules.engine_note(result)
    yield from agreement_rules.references_agree(job, result.points)
    yield from pattern_rules.constant_factor(result)
    yield from pattern_rules.shape_over_frequency(result)
    yield from pattern_rules.low_corner(result)
    yield from pattern_rules.low_end_of_scale(result)
    yield from pattern_rules.ranges_meet(result)
    yield from pattern_rules.one_support(job, result)
