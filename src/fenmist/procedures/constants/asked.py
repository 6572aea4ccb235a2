"""What is asked of a job about constants, as it is typed: by which law, for each band or all, what is in use now."""

from collections.abc import Mapping
from dataclasses import replace

from fenmist.calibration.asked import HEATED, READING, TOLERANCE, judged_draft, whose_draft, with_judged
from fenmist.calibration.job import Job
from fenmist.errors import FenmistError
from fenmist.findings.note import Problem
from fenmist.kit.sheet import Field
from fenmist.methods.constants import LAWS, Law
from fenmist.units.typed import number_from_text

FOR_THE_LINE = (HEATED,)
"""What is asked about the hook-up."""

_BANDS = ("each frequency", "all frequencies together")

LAW, TOGETHER, IN_USE = "law", "together", "in_use_"
"""Names in the job's method: which law, whether all frequencies share constants, and those in use by place."""

FOR_THE_PLAN = (
    Field("law", "law", choices=tuple(LAWS), help="Quadratic in volts, a logarithmic detector, or a diode's own"),
    Field("bands", "constants for", choices=_BANDS),
    Field("in_use", "constants in use", "1.02 0.1 0", "In the law's order; held against the readings; may be empty"),
    *TOLERANCE,
    *READING,
)
"""What is asked before anything is read."""


def law_of(job: Job) -> Law:
    """The law by which a job's constants are found."""
    laws = tuple(LAWS.values())
    return laws[min(max(int(job.method.parameters.get(LAW, 0.0)), 0), len(laws) - 1)]


def is_together(job: Job) -> bool:
    """Whether all frequencies have constants in common."""
    return bool(job.method.parameters.get(TOGETHER, 0.0))


def in_use(job: Job) -> tuple[float, ...]:
    """Constants that the firmware has now, in the law's order; none where nobody said."""
    found = [job.method.parameters.get(f"{IN_USE}{place}") for place in range(len(law_of(job).names))]
    return tuple(value for value in found if value is not None) if None not in found else ()


def job_draft(job: Job) -> dict[str, str]:
    """Everything that is asked of a job, as texts."""
    return {
        **whose_draft(job), **judged_draft(job), "law": law_of(job).id, "bands": _BANDS[is_together(job)],
        "in_use": " ".join(f"{value:.12g}" for value in in_use(job)),
    }  # fmt: skip


def job_from_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    made = with_judged(job, draft)
    if isinstance(made, tuple):
        return made
    law = LAWS[draft["law"]]
    try:
        typed = [number_from_text(word)[0] for word in draft["in_use"].replace(";", " ").split()]
    except FenmistError as error:
        return (Problem("in_use", error.headline, error.hint),)
    if typed and len(typed) != len(law.names):
        return (Problem("in_use", f"The law has {len(law.names)} constants: {', '.join(law.names)}."),)
    if law.id == "detector" and any(value <= 0.0 for value in typed):
        return (Problem("in_use", "Constants of a detector are above 0.", "Type for example 4.1 0.05."),)
    parameters = {
        name: value
        for name, value in made.method.parameters.items()
        if name not in (LAW, TOGETHER) and not name.startswith(IN_USE)
    }
    parameters |= {LAW: float(list(LAWS).index(law.id)), TOGETHER: float(_BANDS.index(draft["bands"]))}
    parameters |= {f"{IN_USE}{place}": value for place, value in enumerate(typed)}
    return made if parameters == made.method.parameters else replace(
        made, method=replace(made.method, parameters=parameters)
    )  # fmt: skip
