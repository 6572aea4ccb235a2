"""A power from volts put into a job: into the one on the bench, or into a new one with its parts."""

from dataclasses import replace

from fenmist.calibration.job import PlanPoint
from fenmist.calibration.planning import free_names, on_each_leg, range_for
from fenmist.errors import FenmistError
from fenmist.methods.power_from_volts import PowerAnswer, PowerRequest
from fenmist.reading.event import Event
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session

SAME_FREQUENCY = 0.005
"""Relative distance within which a planned frequency is taken for the tool's (Fenmist's own, no source)."""


def into_job(job: OpenJob, request: PowerRequest) -> Event:
    """Keep the tool's volts as the reference reading of the first empty round at its frequency; plan it if need be.

    The job's own kit decides the corrections from there on.

    Raises
    ------
    FenmistError
        Where the request can't be worked out.
    """
    answer = request()
    point = _point_for(job, answer)
    slots = [slot for slot in job.view.slots(point) if job.job.is_reference(point.sequence[slot.position])]
    empty = next((slot for slot in slots if slot not in job.view.standing), None)
    slot = empty or replace(slots[0], round=1 + max(slot.round for slot in slots))
    return job.enter(slot, request.volts.strip())


def _point_for(job: OpenJob, answer: PowerAnswer) -> PlanPoint:
    frequency = float(answer.readings.frequency_hz[0])
    level = float(answer.incident.value[0])
    near = [p for p in job.job.plan if abs(p.frequency_hz / frequency - 1.0) < SAME_FREQUENCY]
    if near:
        return min(near, key=lambda p: abs(p.target_w - level))
    rounded = float(f"{level:.2g}")
    used = range_for(job.job.device_ranges, rounded)
    made = on_each_leg(job.job, free_names(job.job), PlanPoint("", "", frequency, rounded, used, ()))
    job.edit(replace(job.job, plan=(*job.job.plan, *made)), "a point from the tool")
    return made[0]


def into_new_job(session: Session, request: PowerRequest) -> OpenJob:
    """A new job whose oscilloscope, lead or probe, and load are what was typed in the tool, with its volts read.

    Raises
    ------
    FenmistError
        Where the request can't be worked out; then no job is made.
    """
    answer = request()
    job = session.new_job(f"Power from volts, {request.frequency.strip()}")
    try:
        described = job.view.procedure.with_power_parts
        if described is not None:
            job.edit(described(job.job, request, answer), "parts from the tool")
        into_job(job, request)
    except FenmistError:
        session.changed.tell()
        raise
    return job
