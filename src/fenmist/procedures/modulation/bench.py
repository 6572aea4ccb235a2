"""What a bench must have for waveforms to be sent through a meter."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.errors import FenmistError
from fenmist.hookup.line import HookUp, main_way
from fenmist.kit.part import SpecKind
from fenmist.procedures.modulation.waves import problem_of, waveform_of


def trouble(job: Job, hookup: HookUp) -> str:
    """Why a hook-up that is read could not be read any more, or nothing."""
    on_it = {hookup.element(stop.element).part for stop in main_way(hookup, job.parts)}
    return "" if job.dut in on_it else "the meter that is asked about isn't on the line"


def flaws(job: Job) -> Iterator[str]:
    """What keeps a job from elsewhere from being one about modulation."""
    if job.tolerance.kind is not SpecKind.OF_READING or job.tolerance_more:
        yield "what it may move by isn't one share of the reading"
    names = [leg.id for leg in job.legs]
    if said := problem_of(names):
        yield said
    for point in job.plan:
        if not any(job.is_device(name) for name in point.sequence):
            yield f"point “{point.id}” doesn't read the meter that is asked about"
        try:
            waveform_of(point.leg)
        except FenmistError as error:
            yield f"point “{point.id}”: {error.headline}"
