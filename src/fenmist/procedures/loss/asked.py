"""What is asked of a job about a loss, as it is typed."""

from collections.abc import Mapping
from dataclasses import replace

from fenmist.calibration.asked import HEATED, READING, judged_draft, whose_draft, with_judged
from fenmist.calibration.job import Job, Rule
from fenmist.findings.note import Problem
from fenmist.kit.part import SpecKind
from fenmist.kit.sheet import Field

FOR_THE_LINE = (HEATED,)
"""What is asked about the hook-ups."""

FOR_THE_PLAN = (
    Field("tolerance", "may lose, at most", "0.2 dB", "In dB, as its data sheet states it"),
    Field("rule", "rule", choices=tuple(str(rule) for rule in Rule)),
    *READING,
)
"""What is asked before anything is read."""


def job_draft(job: Job) -> dict[str, str]:
    """Everything that is asked of a job, as texts."""
    return {**whose_draft(job), **judged_draft(job)}


def job_from_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    made = with_judged(job, {**draft, "of": "dB"})
    if isinstance(made, tuple):
        return made
    if any(term.kind is not SpecKind.DB for term in made.tolerances):
        return (Problem("tolerance", "What it may lose is in dB.", "Type for example 0.2 dB."),)
    return replace(made, tolerance=made.tolerance)
