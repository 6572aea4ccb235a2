"""What a bench must have to be read for a comparison."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.hookup.line import HookUp, main_way


def trouble(job: Job, hookup: HookUp) -> str:
    """Why a hook-up that is read could not be read any more, or nothing."""
    names = [stop.element for stop in main_way(hookup, job.parts)]
    device = next((item.element for item in job.channels if item.hookup == hookup.id and job.is_device(item.id)), "")
    if job.legs and not device:
        return "" if hookup.stated.element in names else "power is stated where the device will stand"
    if device not in names or hookup.stated.element != device:
        return "power is stated at the device under test, on the line"
    return ""


def flaws(job: Job) -> Iterator[str]:
    """What keeps a job from elsewhere from being a comparison."""
    known = {item.id for item in job.channels}
    device = next((item for item in job.channels if job.is_device(item.id)), None)
    if device is None:
        yield "nothing is read on its device"
        return
    if device.measurand != job.stated:
        yield "its device is taken for another quantity than the one that is stated"
    for point in job.plan:
        if job.legs and not any(job.is_device(item) for item in point.sequence if item in known):
            continue
        if {True, False} != {
            job.is_device(item) for item in point.sequence if item in known and not job.is_beside(item)
        }:
            yield f"point “{point.id}” doesn't read both reference and meter"
        elif job.device_range(point) is None:
            yield f"point “{point.id}” is on a range “{point.range_id}” that the meter hasn't"
