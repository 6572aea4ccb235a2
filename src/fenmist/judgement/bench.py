"""What is to be said of a hook-up on paper: of any bench that is described, whether it is read or not."""

from collections.abc import Iterable
from datetime import date

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, in_order
from fenmist.judgement import bench_rules, job_rules, plan_rules


def judge_bench(job: Job, hookup_id: str, as_of: date | None = None) -> tuple[Note, ...]:
    """All notes on one hook-up of a job."""
    notes = [*job_rules.overload_notes(job), *bench_rules.bench_notes(job), *plan_rules.outside_span(job)]
    if as_of:
        notes += bench_rules.histories(job, hookup_id, as_of)
    return in_order(of_bench(notes, hookup_id))


def of_bench(notes: Iterable[Note], hookup_id: str) -> tuple[Note, ...]:
    """Without those that are about another hook-up, and what is said of one thing twice once."""
    here = (note for note in notes if note.evidence.get("hookup", hookup_id) == hookup_id)
    return tuple({(note.key, note.what): note for note in reversed(tuple(here))}.values())[::-1]
