"""What is asked of a job about what is wrong, as it is typed."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

from fenmist.calibration.asked import HEATED, READING, TOLERANCE, judged_draft, whose_draft, with_judged
from fenmist.calibration.job import Job
from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.findings.note import Problem
from fenmist.kit.sheet import Field
from fenmist.methods.triage import ALARM_SWR
from fenmist.procedures.triage.make import sighted, sightings
from fenmist.rf.reflection import swr_from_reflection
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

ALARM = "alarm_swr"
"""Name in the job's method."""

LEAST_ALARM, MOST_ALARM = 1.1, 10.0

FOR_THE_LINE = (HEATED,)
"""What is asked about the hook-up."""

FOR_THE_PLAN = (
    Field(
        "sighted", "sighted in turn", "load; antenna; load, new jumper",
        "Parted by semicolons: into load, antenna or far load (at the far end of the line); “, new …” for what was "
        "exchanged",
    ),
    Field("alarm", "stop at an SWR of", "2.0", "1.5, 2 and 2.5 are common, or a part of the power: 10 %"),
    *TOLERANCE,
    *READING,
)  # fmt: skip
"""What is asked before anything is read."""


def job_draft(job: Job) -> dict[str, str]:
    """Everything that is asked of a job, as texts."""
    return {
        **whose_draft(job), **judged_draft(job), "sighted": "; ".join(leg.id for leg in job.legs),
        "alarm": f"{alarm_swr(job):.4g}",
    }  # fmt: skip


def alarm_swr(job: Job) -> float:
    """SWR at which the workshop stops and looks."""
    return job.method.parameters.get(ALARM, ALARM_SWR)


def _alarm(text: str) -> float:
    """An SWR, or a part of the power that comes back, as an SWR; raises UnreadableError, OutOfRangeError."""
    if "%" in text:
        share = value_from_text(text, UNITS["%"], "part that comes back", "10 %")
        swr = float(swr_from_reflection(math.sqrt(share))) if 0.0 <= share < 1.0 else math.inf
    else:
        swr = value_from_text(text, UNITS[""], "SWR", "2.0")
    if not LEAST_ALARM <= swr <= MOST_ALARM:
        raise OutOfRangeError("That is no SWR to stop at.", "1.5, 2 and 2.5 are common, or 10 %.")
    return swr


def job_from_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    made = with_judged(job, draft)
    names = tuple(" ".join(text.split()) for text in draft["sighted"].split(";") if text.strip())
    problems = [*made] if isinstance(made, tuple) else []
    if said := problem_of(names):
        problems.append(Problem("sighted", f"{said[0].upper()}{said[1:]}.", "Look at the example."))
    elif gone := {point.leg for point in job.plan} - set(names):
        problems.append(Problem("sighted", f"“{min(gone)}” is planned.", "Take its points out of the plan first."))
    try:
        alarm = _alarm(draft["alarm"])
    except FenmistError as error:
        problems.append(Problem("alarm", error.headline, error.hint))
        alarm = ALARM_SWR
    if problems or isinstance(made, tuple):
        return tuple(problems)
    if draft["alarm"].strip() != f"{alarm_swr(job):.4g}":
        made = replace(made, method=replace(made.method, parameters={**made.method.parameters, ALARM: alarm}))
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
