"""Makes a job about what a meter shows on anything but a steady carrier: one bench, the waveforms in turn."""

from dataclasses import replace
from datetime import datetime

from fenmist.calibration.channels import channel_on
from fenmist.calibration.job import Channel, Job, Leg, Method
from fenmist.calibration.references import KIND, VERSION
from fenmist.errors import UnknownIdError
from fenmist.hookup.templates import Bench
from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.measurand import Kind, Measurand, PlaneRef, Statistic

ID = "modulation"
"""Of the room, as it stands in a job."""

CLAIM, PEP_HELD, SCALE = "claim", "pep_held_db", "scale"
"""Method parameters: what the meter claims to show; ± dB to which the PEP is the same; ± by which its scale errs."""

USUAL = {CLAIM: 0.0, PEP_HELD: 0.2, SCALE: 0.03}
"""It claims PEP; a source holds its PEP to a fifth of a decibel; scales err by 3 % (common practice, no source)."""

HONEST = SpecTerm(SpecKind.OF_READING, 0.05, basis="common practice")
"""By how much a peak function may move (handbook 5; common practice, no source)."""

WAVEFORMS = ("carrier", "two-tone", "dots 20 Hz", "dots 1 Hz", "carrier again")
"""What is sent in turn: the first tell what averages, slow dots a hold, the last a source that moved."""

USUAL_W = 50.0
"""PEP at which that is usually done, at most (Fenmist's own)."""


def visits(hookup_id: str, waveforms: tuple[str, ...]) -> tuple[Leg, ...]:
    """The waveforms as visits to one hook-up: the carrier first, which the others are held against."""
    return tuple(Leg(name, hookup_id, number > 0, is_waveform=True) for number, name in enumerate(waveforms))


def begin(job_id: str, title: str, bench: Bench, device_id: str, created_at: datetime) -> Job:
    """A job on a bench about a meter there.

    Raises
    ------
    UnknownIdError
        Where the meter isn't on the bench.
    OutOfRangeError
        Where it shows nothing that a power follows from.
    """
    hookup, parts = bench.hookup, {part.id: part for part in bench.parts}
    element = next((item.id for item in hookup.elements if item.part == device_id), "")
    if not element:
        raise UnknownIdError("The meter that is asked about isn't on this bench.", "Choose another bench.")
    device = parts[device_id]
    plane = PlaneRef(hookup.id, element, device.ends[-1])
    stated = Measurand(Kind.INCIDENT, Statistic.PEP, plane, hookup.z0_ohm)
    channels: list[Channel] = []
    for name in dict.fromkeys((element, *bench.read)):
        found = channel_on(hookup, name, parts[hookup.element(name).part], {item.id for item in channels})
        channels.append(replace(found, measurand=replace(found.measurand, statistic=Statistic.PEP)))
    return Job(
        id=job_id, title=title, dut=device_id, kit=bench.parts, hookups=(replace(hookup, stated=plane),),
        stated=stated, channels=tuple(channels), order=tuple(item.id for item in channels), question=ID,
        legs=visits(hookup.id, WAVEFORMS), method=Method("modulation", KIND, VERSION, USUAL), plan=(),
        tolerance=HONEST, purpose="what it shows on modulation", created_at=created_at,
    )  # fmt: skip


def usual_w(job: Job) -> float:
    """PEP that is usually sent, W."""
    source = job.part(job.bench.elements[0].part)
    return min(source.ports[0].power_limit_w or USUAL_W, USUAL_W)
