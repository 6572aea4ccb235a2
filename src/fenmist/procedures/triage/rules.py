"""What is remarked of a job about what is wrong: the rules of any bench, then those of the sightings."""

from dataclasses import replace
from datetime import date

from fenmist.calibration.job import Job
from fenmist.findings.note import Note
from fenmist.judgement import entry_rules, run_rules
from fenmist.judgement.any_job import before_reading, narrowed, of_the_outcome, of_the_run
from fenmist.judgement.judge import Judge, Rules, all_in_order, but
from fenmist.procedures.triage.reduction import Triage
from fenmist.reading.event import AS_FOUND

CANCELS = ("reference.history", "tur.low", "drift.unseen", "load.unknown_here", "load.not_nominal")
"""What matters to a power that is stated, and not to which part is wrong."""


@Judge
def judge(job: Job, result: Triage, as_of: date, phase: str = AS_FOUND, _found: Triage | None = None) -> Rules:
    """All notes on a job on a day; see `Procedure.judge`."""
    return but(_rules(job, result, as_of, phase), CANCELS)


def _rules(job: Job, result: Triage, as_of: date, phase: str) -> Rules:
    yield from before_reading(job, as_of)
    yield from _entries(job, phase)
    yield from of_the_run(job, result, phase)
    yield from of_the_outcome(job, result)
    if result.answer is not None:
        yield result.answer.notes


def judge_entries(job: Job, result: Triage, phase: str, point_id: str) -> tuple[Note, ...]:
    """Notes on the entries of one point: what must be said as soon as an entry is kept."""
    near = replace(result, readings=(result.readings_at(point_id),))
    return all_in_order(_entries(narrowed(job, near.readings), phase))


def _entries(job: Job, phase: str) -> Rules:
    yield entry_rules.off_scale(job, phase)
    yield entry_rules.open_entries(job, phase)
    yield run_rules.doubted_entries(job, phase)
