"""What is asked of a job about a loss, as it is typed."""

from collections.abc import Mapping

from fenmist.calibration.asked import HEATED, READING, judged_draft, whose_draft, with_judged, with_order
from fenmist.calibration.job import Job, Rule
from fenmist.findings.note import Problem
from fenmist.kit.part import SpecKind
from fenmist.kit.sheet import Field

FOR_THE_LINE = (HEATED,)
"""What is asked about the hook-ups."""

_ORDERS = ("A-B", "A-B-A", "B-A-B")

FOR_THE_PLAN = (
    Field("tolerance", "may lose, at most", "0.2 dB", "In dB, as its data sheet states it"),
    Field("rule", "rule", choices=tuple(str(rule) for rule in Rule)),
    Field(
        "order",
        "reading order",
        choices=_ORDERS,
        help="A in front of the part, B behind it; A-B-A where one display is switched between both",
    ),
    *READING,
)
"""What is asked before anything is read."""


def job_draft(job: Job) -> dict[str, str]:
    """Everything that is asked of a job, as texts."""
    order = next((name for name in _ORDERS if _sequence(job, name) == job.order), _ORDERS[0])
    return {**whose_draft(job), **judged_draft(job), "order": order}


def _sequence(job: Job, order: str) -> tuple[str, ...]:
    """The channels of a round on each hook-up: A in front of the part, B behind it; of one instrument that alone."""
    made: list[str] = []
    for hookup in dict.fromkeys(item.hookup for item in job.channels):
        front, *behind = (item.id for item in job.channels if item.hookup == hookup)
        made += [front if place == "A" else behind[0] for place in order.split("-")] if behind else [front]
    return tuple(made)


def job_from_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    made = with_judged(job, {**draft, "of": "dB"})
    if isinstance(made, tuple):
        return made
    if any(term.kind is not SpecKind.DB for term in made.tolerances):
        return (Problem("tolerance", "What it may lose is in dB.", "Type for example 0.2 dB."),)
    return with_order(made, _sequence(made, draft["order"]))
