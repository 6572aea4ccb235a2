"""What a bench must have for the constants of a meter to be read."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.hookup.line import HookUp, main_way
from fenmist.measurand import Kind


def trouble(job: Job, hookup: HookUp) -> str:
    """Why a hook-up that is read could not be read any more, or nothing."""
    names = [hookup.element(stop.element).part for stop in main_way(hookup, job.parts)]
    return "" if job.dut in names else "the home-built meter stands on the line"


def flaws(job: Job) -> Iterator[str]:
    """What keeps a job from elsewhere from being one about constants."""
    known = {item.id: item for item in job.channels}
    for item in job.channels:
        if item.measurand.kind is Kind.DETECTED and not item.beside:
            yield f"its detector “{item.id}” isn't read beside the references"
    for point in job.plan:
        read = [known[name] for name in point.sequence if name in known]
        if not any(item.measurand.kind is Kind.DETECTED for item in read):
            yield f"point “{point.id}” reads no detector"
        elif not job.references_of(point):
            yield f"point “{point.id}” reads nothing that tells the power"
