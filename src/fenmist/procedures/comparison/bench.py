"""What a bench must have to be read for a comparison."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.hookup.line import HookUp, main_way


def trouble(job: Job, hookup: HookUp) -> str:
    """Why a hook-up that is read could not be read any more, or nothing."""
    names = [stop.element for stop in main_way(hookup, job.parts)]
    device = next((item.element for item in job.channels if item.hookup == hookup.id and job.is_device(item.id)), "")
    if job.legs and not device:
        here = "" if hookup.stated.element in names else "power is stated where the device will stand"
        return here or _not_in_its_place(job, hookup.id)
    if device not in names or hookup.stated.element != device:
        return "power is stated at the device under test, on the line"
    others = {leg.hookup for leg in job.legs} - {hookup.id}
    return next((said for name in sorted(others) if (said := _not_in_its_place(job, name))), "")


def _not_in_its_place(job: Job, reference_id: str) -> str:
    """Why a reference on another hook-up can't be compared with the device by what is read beside both, or nothing."""
    device_id = job.device_channel.hookup
    beside, there = (
        {
            (job.part_read(item.id).id, item.indicator)
            for item in job.channels
            if item.hookup == name and not job.is_device(item.id)
        }
        for name in (device_id, reference_id)
    )
    if not beside & there:
        return "nothing that is read beside the device is read beside the reference too"
    return "" if there - beside else "nothing is read there in the device's place"


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
