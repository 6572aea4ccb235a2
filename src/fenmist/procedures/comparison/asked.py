"""What a comparison is asked, as it is typed: where power is stated, how it is read, by what it is judged."""

from collections.abc import Mapping
from dataclasses import replace

from fenmist.calibration.asked import HEATED, READING, TOLERANCE, judged_draft, whose_draft, with_judged, with_order
from fenmist.calibration.channels import match_channels
from fenmist.calibration.gather import stated_at_input
from fenmist.calibration.job import Job
from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.findings.note import Problem
from fenmist.hookup.line import main_way
from fenmist.kit.sheet import Field
from fenmist.measurand import Kind

FOR_THE_LINE = (Field("stated", "power is stated at", choices=("the meter's output", "the meter's input")), HEATED)
"""What is asked about the hook-up."""

_BESIDE = ("not read", "read as well")

_ORDERS = ("REF-DUT", "REF-DUT-REF", "DUT-REF-DUT")

FOR_THE_PLAN = (
    *TOLERANCE,
    Field("order", "reading order", help="REF what it is compared with, DUT the meter", choices=_ORDERS),
    Field("beside", "its reflected power", help="Tells a coupler's corner from one arm's", choices=_BESIDE),
    *READING,
)
"""What is asked before anything is read."""

_STATED = {"the meter's output": False, "the meter's input": True}


def job_draft(job: Job) -> dict[str, str]:
    """Everything that is asked of a job, as texts."""
    return {
        **whose_draft(job),
        **judged_draft(job),
        "stated": next(name for name, at_input in _STATED.items() if at_input is stated_at_input(job)),
        "beside": _BESIDE[any(job.is_beside(item) for item in job.order)],
        "order": next((name for name in _ORDERS if _sequence(job, name) == job.order), _ORDERS[0]),
    }


def job_from_draft(job: Job, draft: Mapping[str, str]) -> Job | tuple[Problem, ...]:
    """The job with those fields as typed, or what is wrong with them."""
    made = with_judged(job, draft)
    if isinstance(made, tuple):
        return made
    try:
        made = _with_beside(made, draft["beside"] == _BESIDE[1])
    except FenmistError as error:
        return (Problem("beside", error.headline, error.hint),)
    return with_order(_with_stated(made, _STATED[draft["stated"]]), _sequence(made, draft["order"]))


def _sequence(job: Job, order: str) -> tuple[str, ...]:
    """The channels of a round: REF stands for the references one after the other, DUT for the device, then the rest."""
    device, each = job.device_channel.id, tuple(dict.fromkeys(job.order))
    references = tuple(item for item in each if job.is_reference(item))
    rest = tuple(item for item in each if item != device and item not in references)
    return (*(name for place in order.split("-") for name in (references if place == "REF" else (device,))), *rest)


def _with_beside(job: Job, wanted: bool) -> Job:
    """The job with the device's reflected power read last in each round to come, or not any more."""
    here = [item.id for item in job.channels if item.beside]
    if wanted is any(item in job.order for item in here):
        return job
    if not wanted:
        return replace(job, order=tuple(item for item in job.order if item not in here))
    if job.legs:
        raise OutOfRangeError("Instruments are read in turn here.", "Read it where both are on one line.")
    channels = job.channels
    if all(item.quantity is not Kind.REFLECTED for item in job.dut_part.indicators):
        raise OutOfRangeError(f"{job.dut_part.label} shows no reflected power.", "Leave it at “not read”.")
    if not here:
        made = match_channels(job.bench, job.device_channel.element, job.dut_part, {item.id for item in channels})
        found = [replace(item, beside=True) for item in made if item.measurand.kind is Kind.REFLECTED]
        channels, here = (*channels, *found), [item.id for item in found]
    return replace(job, channels=channels, order=(*job.order, *here))


def _with_stated(job: Job, at_input: bool) -> Job:
    """The job with its power stated at the meter's input or output; the meter's own loss lies between."""
    if stated_at_input(job) is at_input:
        return job
    hookup = job.bench
    stop = next(item for item in main_way(hookup, job.parts) if item.element == hookup.stated.element)
    plane = replace(hookup.stated, port=stop.entry if at_input else stop.exit or stop.entry)
    return job.with_hookup(replace(hookup, stated=plane)).stated_at(plane)
