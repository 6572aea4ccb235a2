"""Evidence to notes: what a good colleague would remark, most severe first, one note per rule."""

from dataclasses import replace
from datetime import date

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, Severity
from fenmist.judgement import agreement_rules, entry_rules, run_rules
from fenmist.judgement.any_job import before_reading, narrowed, of_the_outcome, of_the_run
from fenmist.judgement.judge import Judge, Rules, all_in_order
from fenmist.procedures.comparison import apart_rules, pattern_rules, round_rules
from fenmist.procedures.comparison.marks import by_control
from fenmist.procedures.comparison.reduction import Result
from fenmist.procedures.comparison.substitution import reads_device
from fenmist.procedures.comparison.why import why_notes
from fenmist.reading.event import AS_FOUND


@Judge
def judge(job: Job, result: Result, as_of: date, phase: str = AS_FOUND, found: Result | None = None) -> Rules:
    """All notes on a job on a day; `found` are the results as found, where `result` is as left."""
    yield from before_reading(job, as_of)
    yield from _entries(job, result, phase)
    yield from of_the_run(job, result, phase)
    yield from of_the_outcome(job, result)
    yield from _patterns(job, result)
    if found is not None and phase != AS_FOUND:
        yield pattern_rules.worse_as_left(found, result)


NEIGHBOURS = 2
"""Points on both sides that a rule on one entry looks at."""


def judge_entries(job: Job, result: Result, phase: str, point_id: str) -> tuple[Note, ...]:
    """Notes on the entries of one point and its neighbours: what must be said as soon as an entry is kept."""
    near = result.near(point_id, NEIGHBOURS)
    return all_in_order(_entries(narrowed(job, near.readings), near, phase))


def _entries(job: Job, result: Result, phase: str) -> Rules:
    yield entry_rules.decimal_slips(job, phase)
    if job.legs:  # what is read without the device has no ratio of its own
        result = replace(result, readings=tuple(item for item in result.readings if reads_device(job, item)))
    yield round_rules.wrong_form(job, result)
    yield round_rules.wrong_arc(job, result)
    yield round_rules.level_as_watts(job, result)
    yield round_rules.reversed_ports(job, result, phase)
    yield round_rules.transposed_digits(job, result)
    yield round_rules.other_level(job, result)
    yield round_rules.outliers(job, result)
    yield round_rules.forms_differ(result)
    yield entry_rules.bottom_of_scale(job, phase)
    yield entry_rules.off_scale(job, phase)
    yield entry_rules.open_entries(job, phase)
    yield run_rules.doubted_entries(job, phase)


def _patterns(job: Job, result: Result) -> Rules:
    yield agreement_rules.references_agree(job, result.points)
    shapes = list(why_notes(result))
    yield shapes
    if all(note.severity is Severity.GOOD_TO_KNOW for note in shapes):  # nothing yet says how they differ
        yield apart_rules.errors_uneven(result)
    yield apart_rules.moves_apart(job, result)
    yield pattern_rules.ranges_meet(result)
    yield pattern_rules.reflects_more(job, result)
    yield by_control(job, result)
    yield pattern_rules.one_support(job, result)
