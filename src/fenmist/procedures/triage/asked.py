"""What is asked of a job about what is wrong, as it is typed."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from fenmist.calibration.asked import HEATED, READING, TOLERANCE, judged_draft, whose_draft, with_judged
from fenmist.calibration.job import Job
from fenmist.errors import OutOfRangeError
from fenmist.findings.note import Problem
from fenmist.kit.sheet import Field
from fenmist.procedures.triage.make import sighted, sightings

FOR_THE_LINE = (HEATED,)
"""What is asked about the hook-up."""

FOR_THE_PLAN = (
    Field(
        "sighted", "sighted in turn", "load; antenna; load, new jumper",
        "Parted by semicolons: into load, antenna or far load (at the far end of the line); “, new …” for what was "
        "exchanged",
    ),
    *TOLERANCE,
    *READING,
)  # fmt: skip
"""What is asked before anything is read."""


def job_draft(job: Job) -> dict[str, str]:
    """Everything that is asked of a job, as texts."""
    return {**whose_draft(job), **judged_draft(job), "sighted": "; ".join(leg.id for leg in job.legs)}


def job_from_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    made = with_judged(job, draft)
    names = tuple(" ".join(text.split()) for text in draft["sighted"].split(";") if text.strip())
    problems = [*made] if isinstance(made, tuple) else []
    if said := problem_of(names):
        problems.append(Problem("sighted", f"{said[0].upper()}{said[1:]}.", "Look at the example."))
    elif gone := {point.leg for point in job.plan} - set(names):
        problems.append(Problem("sighted", f"“{min(gone)}” is planned.", "Take its points out of the plan first."))
    if problems or isinstance(made, tuple):
        return tuple(problems)
    return made if names == tuple(leg.id for leg in job.legs) else replace(made, legs=sightings(job.bench.id, names))


def problem_of(names: Sequence[str]) -> str:
    """What is wrong with the names of sightings, or nothing."""
    if not names:
        return "nothing is sighted"
    if len(set(names)) < len(names):
        return "a sighting stands there twice"
    try:
        for name in names:
            sighted(name)
    except OutOfRangeError as error:
        return error.headline.rstrip(".")
    return ""
