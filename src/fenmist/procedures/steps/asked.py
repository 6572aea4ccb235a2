"""What is asked of a job about steps, as it is typed."""

from collections.abc import Mapping
from dataclasses import replace

from fenmist.calibration.asked import HEATED, READING, judged_draft, whose_draft, with_judged
from fenmist.calibration.job import Job, Rule
from fenmist.findings.note import Problem
from fenmist.kit.part import SpecKind
from fenmist.kit.sheet import Field
from fenmist.procedures.steps.make import REFERENCE_STEP

FOR_THE_LINE = (HEATED,)
"""What is asked about the hook-ups."""

_STEPS = ("the strongest", "the middle one", "the weakest")

FOR_THE_PLAN = (
    Field("tolerance", "a step may depart by, ±", "0.3 dB", "In dB, as a data sheet states it"),
    Field("reference_step", "held against", help="The step from which the others are counted", choices=_STEPS),
    Field("rule", "rule", choices=tuple(str(rule) for rule in Rule)),
    *READING,
)
"""What is asked before anything is read."""


def job_draft(job: Job) -> dict[str, str]:
    """Everything that is asked of a job, as texts."""
    step = _STEPS[int(job.method.parameters.get(REFERENCE_STEP, 0.0))]
    return {**whose_draft(job), **judged_draft(job), "reference_step": step}


def job_from_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    made = with_judged(job, {**draft, "of": "dB"})
    if isinstance(made, tuple):
        return made
    if made.tolerance_more or made.tolerance.kind is not SpecKind.DB:
        return (Problem("tolerance", "What a step may depart by is one number in dB.", "Type for example 0.3 dB."),)
    place = float(_STEPS.index(draft["reference_step"]))
    if made.method.parameters.get(REFERENCE_STEP, 0.0) == place:
        return made
    return replace(made, method=replace(made.method, parameters={**made.method.parameters, REFERENCE_STEP: place}))
