"""What benches must have for a reading of a match to be checked on them."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.hookup.line import HookUp, main_way
from fenmist.kit.part import SpecKind
from fenmist.measurand import OF_MATCH


def trouble(job: Job, hookup: HookUp) -> str:
    """Why a hook-up that is read could not be read any more, or nothing."""
    stops = main_way(hookup, job.parts)
    here = next((stop for stop in stops if hookup.element(stop.element).part == job.dut), None)
    if here is None or hookup.stated.element != here.element or hookup.stated.port != here.exit:
        return "the match is stated where the line leaves the meter that is asked about"
    if stops[-1].element == here.element:
        return "nothing ends the line behind the meter"
    return ""


def flaws(job: Job) -> Iterator[str]:
    """What keeps a job from elsewhere from being one about a match."""
    if job.tolerance.kind is not SpecKind.DB or not job.tolerance.value > 0.0:
        yield "it states no directivity in dB"
    of_match = {item.id for item in job.channels if item.measurand.kind in OF_MATCH and job.is_device(item.id)}
    for item in job.channels:
        if job.is_device(item.id) and item.measurand.plane != job.hookup(item.hookup).stated:
            yield f"“{item.id}” isn't read at the plane that is stated"
    for point in job.plan:
        if job.is_read(point.hookup) and not of_match & set(point.sequence):
            yield f"point “{point.id}” reads nothing of a match"
