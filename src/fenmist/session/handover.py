"""A power from volts put into a job: into the one on the bench, or into a new one with its parts."""

from dataclasses import replace

from fenmist.calibration.edit import load_part
from fenmist.calibration.job import Job, PlanPoint, free_point_number
from fenmist.calibration.make import LINE, range_for
from fenmist.errors import FenmistError
from fenmist.kit import shelf
from fenmist.kit.impedance import IMPEDANCE, table_from_rows
from fenmist.kit.part import FEEDS, Part, PartKind, Property
from fenmist.methods.scope_chain import Lead, Probe
from fenmist.reading.event import Event
from fenmist.session.openjob import OpenJob
from fenmist.session.power import PowerAnswer, PowerRequest
from fenmist.session.session import Session
from fenmist.units.moment import day_of

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
    slots = [slot for slot in job.view.slots(point) if not job.job.is_device(point.sequence[slot.position])]
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
    used = range_for(job.job.dut_part, rounded)
    made = PlanPoint(f"p{free_point_number(job.job.plan)}", LINE, frequency, rounded, used, job.job.order)
    job.edit(replace(job.job, plan=(*job.job.plan, made)), "a point from the tool")
    return made


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
        job.edit(with_parts_of(job.job, request, answer), "parts from the tool")
        into_job(job, request)
    except FenmistError:
        session.changed.tell()
        raise
    return job


def with_parts_of(job: Job, request: PowerRequest, answer: PowerAnswer) -> Job:
    """The job with the parts that a request describes in its snapshot; the kit's own stay as they are."""
    readings = answer.readings
    job = _with_scope(job, request, answer)
    feed = next(job.part(item.part) for item in job.hookups[0].elements if job.part(item.part).kind in FEEDS)
    job = _with_feed(job, feed, readings.feed)
    frequency = float(readings.frequency_hz[0])
    load = load_part(job)
    u_relative = float(readings.load.u_resistance_ohm[0] / abs(complex(readings.load.resistance_ohm[0])))
    table = table_from_rows([(frequency, request.load)], u_relative, "typed in the tool", day_of(job.created_at))
    others = tuple(item for item in load.characterisations if item.quantity != IMPEDANCE)
    return job.with_part(replace(load, characterisations=(*others, table)))


def _with_scope(job: Job, request: PowerRequest, answer: PowerAnswer) -> Job:
    scope = next(part for part in job.kit if part.kind is PartKind.OSCILLOSCOPE)
    stated = answer.readings.scope
    made = shelf.oscilloscope(
        scope.id, scope.label, stated.bandwidth_hz, accuracy=stated.accuracy, model=str(stated.response),
        limit_vpk=scope.ports[0].volts_limit_vpk, serial=scope.serial, form=answer.readings.forms[0],
        noise=stated.noise_ratio,
    )  # fmt: skip
    properties = dict(made.properties)
    if not request.bandwidth:
        properties.pop("bandwidth_hz")
    feed = answer.readings.feed
    if isinstance(feed, Lead):
        properties["capacitance_f"] = replace(properties["capacitance_f"], value=feed.capacitance_f)
    return job.with_part(replace(made, properties=properties, history=scope.history))


def _with_feed(job: Job, place: Part, feed: Lead | Probe | None) -> Job:
    made: Part
    if isinstance(feed, Probe):
        made = shelf.probe(
            place.id, "probe from the tool", ratio=feed.ratio, capacitance_f=feed.capacitance_f,
            ground_m=feed.ground_m, bandwidth_hz=feed.bandwidth_hz if feed.bandwidth_hz < 1e12 else 1e12,
            setting=feed.setting,
        )  # fmt: skip
    elif isinstance(feed, Lead):
        made = shelf.lead(
            place.id, f"lead {feed.length_m:g} m", feed.length_m, feed.velocity_factor, feed.line_ohm,
            feed.cable.label if feed.cable else "",
        )  # fmt: skip
    else:
        bare = shelf.lead(place.id, "no lead", 0.0)
        known = Property(0.0, "m", shelf.limit(0.0, shelf.COMMON_PRACTICE))
        made = replace(bare, properties={**bare.properties, "length_m": known})
    return job.with_part(made)
