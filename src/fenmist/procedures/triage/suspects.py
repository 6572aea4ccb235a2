"""The next test as a sighting that can be planned."""

from dataclasses import replace

from fenmist.calibration.job import PlanPoint
from fenmist.calibration.planning import free_names
from fenmist.procedures.triage.make import name_of
from fenmist.procedures.triage.reduction import Triage


def next_point(result: Triage) -> PlanPoint | None:
    """The next test as a point; none where nothing is offered, or it is planned already, or is no other sighting."""
    answer, f = result.answer, result.main_hz
    if answer is None or answer.next_test is None or f is None:
        return None
    seen = result.seen_at(f)
    last, most_w = seen[-1], max(item.sighting.set_w for item in seen)
    at = answer.next_test.at(replace(last.sighting, set_w=most_w))
    leg, point = name_of(at.into, at.exchanged), last.found.point
    same = (item for item in result.job.plan if item.frequency_hz == f and item.target_w == at.set_w)
    if any(item.leg == leg for item in same):
        return None
    return replace(point, id=next(free_names(result.job)), leg=leg, target_w=at.set_w)


def offer(result: Triage) -> str:
    """What the next test is, in words; nothing where none is offered."""
    return "" if result.answer is None or result.answer.next_test is None else result.answer.next_test.what
