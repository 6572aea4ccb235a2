"""What is asked of a job about a source, as it is typed."""

from collections.abc import Mapping

from fenmist.calibration.asked import HEATED, READING, TOLERANCE, judged_draft, whose_draft, with_judged, with_order
from fenmist.calibration.job import Job
from fenmist.findings.note import Problem
from fenmist.kit.sheet import Field

FOR_THE_LINE = (HEATED,)
"""What is asked about the hook-up."""

_ORDERS = ("claims first", "instruments first", "instruments alone")

FOR_THE_PLAN = (
    *TOLERANCE,
    Field("order", "reading order", help="Claims are the source's setting and its own meter", choices=_ORDERS),
    *READING,
)
"""What is asked before anything is read."""


def job_draft(job: Job) -> dict[str, str]:
    """Everything that is asked of a job, as texts."""
    order = next((name for name in _ORDERS if _sequence(job, name) == job.order), _ORDERS[0])
    return {**whose_draft(job), **judged_draft(job), "order": order}


def job_from_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    made = with_judged(job, draft)
    return made if isinstance(made, tuple) else with_order(made, _sequence(made, draft["order"]))


def _sequence(job: Job, order: str) -> tuple[str, ...]:
    """The channels of a round."""
    claims = tuple(item.id for item in job.channels if job.is_device(item.id))
    references = tuple(dict.fromkeys(item for item in job.order if item not in claims))
    return {"claims first": (*claims, *references), "instruments first": (*references, *claims)}.get(order, references)
