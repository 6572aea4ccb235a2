"""What benches must have for steps to be read on them."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.hookup.line import HookUp, main_way
from fenmist.kit.part import SpecKind


def trouble(job: Job, hookup: HookUp) -> str:
    """Why a hook-up that is read could not be read any more, or nothing."""
    on_it = {hookup.element(stop.element).part for stop in main_way(hookup, job.parts)}
    if job.dut not in on_it:
        return "what is asked about isn't on the line"
    read = {hookup.element(item.element).part for item in job.channels if item.hookup == hookup.id}
    return "" if read <= on_it else "one of the two instruments isn't on the line any more"


def flaws(job: Job) -> Iterator[str]:
    """What keeps a job from elsewhere from being one about steps."""
    if job.tolerance.kind is not SpecKind.DB or job.tolerance_more:
        yield "what a step may depart by isn't one number in dB"
    for leg in job.visits:
        read = [item for item in job.channels if item.hookup == leg.hookup]
        if len(read) != 2:
            yield f"on “{leg.hookup}” there aren't two instruments"
    known = {item.id for item in job.channels}
    for point in job.plan:
        if job.is_read(point.hookup) and not set(job.order_on(point.hookup)) <= set(point.sequence) & known:
            yield f"point “{point.id}” doesn't read both instruments"
        if job.is_read(point.hookup) and not point.group:
            yield f"point “{point.id}” isn't beside the others at its frequency"
