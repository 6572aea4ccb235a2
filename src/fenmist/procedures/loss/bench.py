"""What benches must have for a loss to be read on them."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.hookup.line import HookUp, main_way


def trouble(job: Job, hookup: HookUp) -> str:
    """Why a hook-up that is read could not be read any more, or nothing."""
    names = [stop.element for stop in main_way(hookup, job.parts)]
    parts = [hookup.element(name).part for name in names]
    if hookup.id == job.bench.id:
        if job.dut not in parts or hookup.stated.element != names[parts.index(job.dut)]:
            return "power is stated where it comes into the part that is asked about"
        return ""
    if job.dut in parts:
        return "the part that is asked about isn't on this one"
    return "" if hookup.stated.element in names else "power is stated where it comes into what follows"


def flaws(job: Job) -> Iterator[str]:
    """What keeps a job from elsewhere from being one about a loss."""
    read = {leg.hookup for leg in job.visits}
    if len(read) != 2 or job.bench.id not in read:
        yield "it isn't read with its part and without it"
        return
    for hookup in read:
        if sum(item.hookup == hookup for item in job.channels) != 2:
            yield f"on “{hookup}” there aren't two instruments, in front and behind"
    known = {item.id for item in job.channels}
    for point in job.plan:
        wanted = {item.id for item in job.channels if item.hookup == point.hookup}
        if point.hookup in read and not wanted <= set(point.sequence) & known:
            yield f"point “{point.id}” doesn't read both instruments"
