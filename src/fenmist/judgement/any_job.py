"""What is to be said of any job whose references are read, whatever its question is."""

from collections.abc import Iterable
from datetime import date

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Outcome
from fenmist.calibration.rounds import PointReadings
from fenmist.judgement import (
    bench_rules,
    drift_rules,
    job_rules,
    plan_rules,
    reference_rules,
    run_rules,
    supply_rules,
    tuner_rules,
    waveform_rules,
)
from fenmist.judgement.judge import Rules


def before_reading(job: Job, as_of: date) -> Rules:
    """Of the plan, the parts and their past: known before anything is read."""
    yield job_rules.overload_notes(job)
    yield job_rules.voltage_caution(job)
    yield job_rules.reference_history(job, as_of)
    yield job_rules.accuracy_not_evaluated(job)
    yield reference_rules.reference_notes(job)
    yield bench_rules.bench_notes(job)
    yield plan_rules.outside_span(job)
    yield plan_rules.poor_load(job)
    yield waveform_rules.waveform_notes(job)


def of_the_run(job: Job, outcome: Outcome, phase: str) -> Rules:
    """Of the carrier in time, of heat, and of what came in."""
    yield drift_rules.reference_moved(outcome)
    yield drift_rules.drift_curves(outcome)
    yield drift_rules.drift_unseen(outcome)
    yield drift_rules.times_unknown(outcome)
    yield run_rules.received_faults(job)
    yield run_rules.heat_planned(job)
    yield run_rules.heat_reached(job, phase)
    yield run_rules.clock_went_back(job)
    yield run_rules.references_silent(outcome)
    yield supply_rules.supply_notes(job, outcome)
    yield tuner_rules.tune_cycles(job, outcome)


def of_the_outcome(job: Job, outcome: Outcome) -> Rules:
    """Of what is stated, and of the paper it goes on."""
    yield job_rules.letters_on_paper(job)
    yield job_rules.tur_note(outcome)
    yield job_rules.engine_note(outcome)


def narrowed(job: Job, near: Iterable[PointReadings]) -> Job:
    """The job with some points of its plan, and what stands at them, alone: for rules on single entries."""
    points = tuple(item.point for item in near)
    standing = [event for point in points for event in job.ledger.at(point.id).values()]
    doubts = (job.ledger.doubts[event.id] for event in standing if event.id in job.ledger.doubts)
    return job.narrowed(points, (*standing, *doubts))
