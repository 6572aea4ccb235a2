"""Makes a job about steps: a level in front, an instrument behind, and steps of a switch or of the level between."""

from dataclasses import replace
from datetime import datetime

from fenmist.calibration.channels import channel_on
from fenmist.calibration.job import Channel, Job, Leg, Method
from fenmist.calibration.references import KIND, VERSION
from fenmist.errors import UnknownIdError
from fenmist.hookup.line import HookUp
from fenmist.hookup.templates import Bench
from fenmist.kit.part import Part, PartKind, SpecKind, SpecTerm
from fenmist.measurand import Kind, Measurand, PlaneRef, Statistic
from fenmist.units.level import DB_PER_NEPER

ID = "linearity"
"""Of the room, as it stands in a job."""

LINEARITY, LOSS = "linearity", "loss_db"
"""What a sheet says of an instrument's linearity, and of an attenuator's positions."""

USUAL_DB = 0.5
"""Departure that is taken to be claimed where nobody states one (Fenmist's own, no source)."""

REFERENCE_STEP = "reference_step"
"""Method parameter: which step the others are held against; 0 the strongest, 1 the middle one, 2 the weakest."""

MOST_W = 10.0
"""Level at which meters in line are usually stepped, at most (Fenmist's own)."""


def begin(job_id: str, title: str, bench: Bench, device_id: str, created_at: datetime) -> Job:
    """A job on a bench about the steps of a device on it.

    Raises
    ------
    UnknownIdError
        Where the device isn't on the bench, or there aren't two things to be compared.
    OutOfRangeError
        Where something shows nothing that a power follows from.
    """
    parts = {part.id: part for part in bench.parts}
    device = next((item.id for item in bench.hookup.elements if item.part == device_id), "")
    names = list(dict.fromkeys((*bench.read, *([device] if parts[device_id].indicators else []))))
    order = [item.id for item in bench.hookup.elements]
    read = sorted((name for name in names if name), key=order.index)
    if not device or len(read) != 2:
        raise UnknownIdError(
            "What is asked about, or what its steps are held against, isn't on this bench.", "Choose another bench."
        )
    hookups = tuple(_stated_in_front(hookup, read[0], parts) for hookup in (bench.hookup, *bench.others))
    channels: list[Channel] = []
    for hookup in hookups:
        for name in read:
            taken = {item.id for item in channels}
            channels.append(channel_on(hookup, name, parts[hookup.element(name).part], taken))
    first = hookups[0]
    visits = bench.visits or (("", first.id),)
    return Job(
        id=job_id, title=title, dut=device_id, kit=bench.parts, hookups=hookups,
        stated=Measurand(Kind.INCIDENT, Statistic.CARRIER, first.stated, first.z0_ohm), channels=tuple(channels),
        order=tuple(item.id for item in channels), question=ID,
        legs=tuple(Leg(name, hookup, True, True) for name, hookup in visits),
        method=Method("steps", KIND, VERSION, {REFERENCE_STEP: 0.0}), plan=(), tolerance=claimed(parts[device_id]),
        purpose="do the steps step?", created_at=created_at,
    )  # fmt: skip


def _stated_in_front(hookup: HookUp, element: str, parts: dict[str, Part]) -> HookUp:
    """The hook-up with power stated where it comes into what follows the first instrument: its match counts then."""
    port = parts[hookup.element(element).part].ends[-1]
    follows = hookup.mate(element, port) or (element, port)
    return replace(hookup, stated=PlaneRef(hookup.id, *follows))


def claimed(part: Part) -> SpecTerm:
    """By how much a step may depart from what it should be, dB: as its sheet states it."""
    limits = [0.0]
    for position in (item for switch in part.switches for item in switch.positions):
        stated = position.properties.get(LOSS)
        limits.append(stated.spec.value if stated is not None and stated.spec is not None else 0.0)
    own = part.properties.get(LINEARITY)
    if own is not None and own.spec is not None:
        limits.append(own.spec.value if own.spec.kind is SpecKind.DB else DB_PER_NEPER * own.spec.value)
    if part.kind in (PartKind.GENERATOR, PartKind.INLINE_METER, PartKind.POWER_METER):
        terms = part.indicators[0].stated if part.indicators else ()
        limits += [item.value if item.kind is SpecKind.DB else DB_PER_NEPER * item.value for item in terms
                   if item.kind in (SpecKind.DB, SpecKind.OF_READING)]  # fmt: skip
    most = max(limits)
    return SpecTerm(SpecKind.DB, most or USUAL_DB, "dB", basis="data sheet" if most else "common practice")


def usual_w(job: Job) -> float:
    """Level at which steps are usually begun, W: what the generator gives, or a few watts."""
    source = job.part(job.bench.elements[0].part)
    limit = source.ports[0].power_limit_w
    return min(limit or MOST_W, MOST_W)
