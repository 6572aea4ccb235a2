"""Makes a job about which one is wrong: a transmitter, its own meter, one behind it, and what they are sighted into."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from fenmist.calibration.job import Channel, Job, Leg
from fenmist.errors import OutOfRangeError
from fenmist.hookup.templates import Bench
from fenmist.kit.part import Part
from fenmist.measurand import Kind, Measurand, Statistic
from fenmist.methods.chain import ANTENNA, FAR_LOAD, IDS, LOAD, NOTHING
from fenmist.procedures.output.make import begin as begin_power

ID = "triage"
"""Of the room, as it stands in a job."""

NEW = ", new "
"""In the name of a sighting, before what was exchanged for it."""

OWN_METER = "own_meter"
"""Indicator of a source's own meter; its setting is what is planned."""


def begin(job_id: str, title: str, bench: Bench, device_id: str, created_at: datetime) -> Job:
    """A job on a bench about what is wrong there: first into a load.

    Raises
    ------
    UnknownIdError
        Where the transmitter isn't on the bench, or no meter stands behind it.
    OutOfRangeError
        Where something shows nothing that a power follows from.
    """
    made = begin_power(job_id, title, bench, device_id, created_at)
    channels: list[Channel] = []
    for item in made.channels:
        if made.is_device(item.id) and item.indicator != OWN_METER:
            continue
        channels.append(item)
        if made.is_reference(item.id):
            channels += _swr_of(made.part_read(item.id), item)
    return replace(
        made, question=ID, channels=tuple(channels), order=tuple(item.id for item in channels),
        legs=sightings(made.bench.id, (LOAD,)), purpose="what is wrong: transmitter, line or meter",
    )  # fmt: skip


def _swr_of(part: Part, beside: Channel) -> list[Channel]:
    """The SWR that a meter shows beside its forward power."""
    shows = next((item for item in part.indicators if item.quantity is Kind.SWR), None)
    if shows is None:
        return []
    measurand = Measurand(Kind.SWR, Statistic.CARRIER, beside.measurand.plane, beside.measurand.z0_ohm)
    return [Channel(f"{beside.element}, {shows.id}", beside.element, shows.id, measurand, beside=True)]


def sightings(hookup_id: str, names: Sequence[str]) -> tuple[Leg, ...]:
    """Sightings in their order; each has an answer of its own."""
    return tuple(Leg(name, hookup_id, by_itself=True) for name in names)


def sighted(leg: str) -> tuple[str, frozenset[str]]:
    """Into what a sighting of a name is made, and what was exchanged for it.

    Raises
    ------
    OutOfRangeError
        Of a name that says neither.
    """
    into, _, new = leg.partition(NEW)
    exchanged = frozenset(new.replace(",", " ").replace(" and ", " ").split())
    if into not in (LOAD, ANTENNA, FAR_LOAD):
        raise OutOfRangeError(f"Nothing is sighted into “{into}”.", f"There are {LOAD}, {ANTENNA}, {FAR_LOAD}.")
    if strange := exchanged - (set(IDS) - {NOTHING}):
        raise OutOfRangeError(f"“{min(strange)}” is no part that is exchanged.", f"There are {', '.join(IDS[:-1])}.")
    return into, exchanged


def name_of(into: str, exchanged: frozenset[str]) -> str:
    """The name of a sighting."""
    return into + (NEW + " and ".join(sorted(exchanged)) if exchanged else "")
