"""Makes a job about a source: the bench, what is read there, and what the source says of itself."""

from dataclasses import replace
from datetime import datetime

from fenmist.calibration.channels import channel_on, readable, supply_of
from fenmist.calibration.job import Channel, Job, Method
from fenmist.calibration.references import KIND, VERSION
from fenmist.errors import UnknownIdError
from fenmist.hookup.templates import Bench
from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.measurand import Kind, Measurand, PlaneRef, Statistic
from fenmist.waveform.response import COMFORT_LIMIT, REFERENCE_LIMIT

ID = "output"
"""Of the room, as it stands in a job."""

LIMITS = {"reference_limit": REFERENCE_LIMIT, "comfort_limit": COMFORT_LIMIT, "lead_limit": 1.0}
"""Where a reference stops being one: parts of its bandwidth; power added by a lead, as a fraction."""

UNCLAIMED = SpecTerm(SpecKind.OF_READING, 0.1, basis="common practice")
"""Tolerance of a source whose claims say nothing of their accuracy (common practice, no source)."""


def begin(job_id: str, title: str, bench: Bench, device_id: str, created_at: datetime) -> Job:
    """A job on a bench about the power that its source gives.

    Raises
    ------
    UnknownIdError
        Where the source isn't on the bench, or nothing is read there.
    OutOfRangeError
        Where something shows nothing that a power follows from.
    """
    hookup, parts = bench.hookup, {part.id: part for part in bench.parts}
    element = next((item.id for item in hookup.elements if item.part == device_id), "")
    references = tuple(
        channel_on(hookup, name, parts[hookup.element(name).part]) for name in bench.read if name != element
    )
    if not element or not references:
        raise UnknownIdError("The source, or what reads its power, isn't on this bench.", "Choose another bench.")
    source = parts[device_id]
    plane = PlaneRef(hookup.id, element, source.ends[-1])
    stated = Measurand(Kind.INCIDENT, Statistic.CARRIER, plane, hookup.z0_ohm)
    claims: list[Channel] = []
    for shows in readable(source):
        claims.append(channel_on(hookup, element, source, {item.id for item in claims}, shows.id))
    claimed = next((shows.stated for shows in readable(source) if shows.stated), ()) or (UNCLAIMED,)
    channels = (*claims, *references, *supply_of(hookup, element, source))
    return Job(
        id=job_id, title=title, dut=device_id, kit=bench.parts, hookups=(replace(hookup, stated=plane),),
        stated=stated, channels=channels, order=tuple(item.id for item in channels), question=ID,
        method=Method("reference", KIND, VERSION, LIMITS), plan=(), tolerance=claimed[0], tolerance_more=claimed[1:],
        purpose="power of a source", created_at=created_at,
    )  # fmt: skip
