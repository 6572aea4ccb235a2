"""What a bench must have for the power of its source to be read."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.hookup.line import HookUp, main_way


def trouble(job: Job, hookup: HookUp) -> str:
    """Why a hook-up that is read could not be read any more, or nothing."""
    names = [stop.element for stop in main_way(hookup, job.parts)]
    first = hookup.element(names[0]).part if names else ""
    if first != job.dut:
        return "power is stated of the source at its left end"
    return ""


def flaws(job: Job) -> Iterator[str]:
    """What keeps a job from elsewhere from being one about a source."""
    for item in job.channels:
        if job.is_device(item.id) and item.measurand != job.stated:
            yield f"its claim “{item.id}” is of another quantity than the one that is stated"
    for point in job.plan:
        if not job.references_of(point):
            yield f"point “{point.id}” reads nothing but the source's own claim"
