"""Evidence to notes: what a good colleague would remark, most severe first, one note per rule."""

from collections.abc import Iterable, Iterator
from dataclasses import replace
from datetime import date

import numpy as np

from fenmist.calibration.gather import is_scope_across_load, load_at, load_of, scope_readings
from fenmist.calibration.job import Job
from fenmist.calibration.reduction import Result
from fenmist.findings.note import Note, in_order
from fenmist.judgement import (
    agreement_rules,
    bench_rules,
    drift_rules,
    entry_rules,
    job_rules,
    pattern_rules,
    plan_rules,
    round_rules,
    run_rules,
)
from fenmist.judgement.physics_rules import bandwidth_note, feed_note, load_notes
from fenmist.methods.scope_across_load import ScopeReadings, power_corrections
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
    return in_order(_of_bench(notes, job.stated.plane.hookup))


def judge_bench(job: Job, hookup_id: str, as_of: date | None = None) -> tuple[Note, ...]:
    """What is to be said of one hook-up on paper: of any bench that is described, whether it is read or not."""
    notes = [*job_rules.overload_notes(job), *bench_rules.bench_notes(job), *plan_rules.outside_span(job)]
    if as_of:
        notes += bench_rules.histories(job, hookup_id, as_of)
    return in_order(_of_bench(notes, hookup_id))


def _of_bench(notes: Iterable[Note], hookup_id: str) -> tuple[Note, ...]:
    """Without those that are about another hook-up."""
    return tuple(note for note in notes if note.evidence.get("hookup", hookup_id) == hookup_id)


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
    if job.to_read:
        yield from reference_notes(job)
    yield from bench_rules.bench_notes(job)
    yield from plan_rules.outside_span(job)
    yield from plan_rules.poor_load(job)
    yield from plan_rules.probe_setting(job)


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
    yield from agreement_rules.references_agree(job, result)
    yield from pattern_rules.constant_factor(result)
    yield from pattern_rules.shape_over_frequency(result)
    yield from pattern_rules.low_corner(result)
    yield from pattern_rules.low_end_of_scale(result)
    yield from pattern_rules.ranges_meet(result)
    yield from pattern_rules.one_support(job, result)


def reference_notes(job: Job) -> tuple[Note, ...]:
    """What bandwidth, lead and load will do at the planned points: known before anything is read."""
    load = load_of(job)
    if load is None or not is_scope_across_load(job):  # the rules of any bench speak of it
        return ()
    frequencies = np.array(sorted({point.frequency_hz for point in job.to_read}))
    ones = np.ones_like(frequencies)
    inputs = scope_readings(job, frequencies, ones, 0.0 * ones)
    nominal = load.properties["nominal_ohm"].value
    _, state = load_at(job, frequencies)
    limits = dict(job.methods[0].parameters)
    return (*physics_notes(inputs, limits, "scope", "lead"), *load_notes("load", frequencies, state, nominal))


def physics_notes(
    inputs: ScopeReadings, limits: dict[str, float], about_scope: str, about_lead: str
) -> tuple[Note, ...]:
    """Bandwidth and lead, for a job's points or for one power from volts."""
    frequencies = inputs.frequency_hz
    found = [
        bandwidth_note(
            about_scope,
            frequencies,
            inputs.chain.bandwidth_hz,
            power_corrections(inputs)["bandwidth"],
            limits,
        )
    ]
    found.append(feed_note(about_lead, inputs.chain))
    return tuple(note for note in found if note is not None)
