"""What benches must have for a loss to be read on them."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.hookup.line import HookUp, main_way
from fenmist.procedures.loss.make import on_it


def is_through(job: Job, hookup_id: str) -> bool:
    """Whether what is read last on a hook-up stands behind the part that is asked about."""
    return job.once(f"through {hookup_id}", lambda: _is_through(job, job.hookup(hookup_id)))


def _is_through(job: Job, hookup: HookUp) -> bool:
    if not on_it(hookup, job.dut):
        return False
    names = [stop.element for stop in main_way(hookup, job.parts)]
    device = next(item.id for item in hookup.elements if item.part == job.dut)
    *_, last = (item.element for item in job.channels if item.hookup == hookup.id)
    return last not in names[: names.index(device)]


def trouble(job: Job, hookup: HookUp) -> str:
    """Why a hook-up that is read could not be read any more, or nothing."""
    names = [stop.element for stop in main_way(hookup, job.parts)]
    parts = [hookup.element(name).part for name in names]
    if hookup.id == job.bench.id or job.dut in parts:
        if job.dut not in parts or hookup.stated.element != names[parts.index(job.dut)]:
            return "power is stated where it comes into the part that is asked about"
        made = job.with_hookup(hookup)
        everywhere = all(is_through(made, leg.hookup) for leg in made.visits)
        return (
            "the part that is asked about isn't missing, or behind what is read, on any of them" if everywhere else ""
        )
    return "" if hookup.stated.element in names else "power is stated where it comes into what follows"


def flaws(job: Job) -> Iterator[str]:
    """What keeps a job from elsewhere from being one about a loss."""
    read = {leg.hookup for leg in job.visits}
    counts = {sum(item.hookup == hookup for item in job.channels) for hookup in read}
    if len(read) < 2 or job.bench.id not in read:
        yield "it isn't read with its part and without it"
        return
    if counts not in ({1}, {2}):
        yield "there isn't one instrument on each of its hook-ups, or one in front and one behind"
        return
    if all(is_through(job, hookup) for hookup in read):
        yield "it isn't read with its part and without it"
    for point in job.plan:
        wanted = {item.id for item in job.channels if item.hookup == point.hookup}
        if point.hookup in read and not wanted <= set(point.sequence):
            yield f"point “{point.id}” doesn't read every instrument"
