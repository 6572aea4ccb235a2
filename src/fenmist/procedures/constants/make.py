"""Makes a job about a home-built meter: its detectors, and the references that its constants are found against."""

from dataclasses import replace
from datetime import datetime

from fenmist.calibration.channels import channel_on
from fenmist.calibration.job import Channel, Job, Leg, Method
from fenmist.calibration.references import KIND, VERSION
from fenmist.errors import UnknownIdError
from fenmist.hookup.line import HookUp
from fenmist.hookup.templates import Bench
from fenmist.kit.detectorsheet import detectors
from fenmist.kit.part import Part, SpecKind, SpecTerm
from fenmist.measurand import Kind, Measurand, PlaneRef, Statistic
from fenmist.waveform.response import COMFORT_LIMIT, REFERENCE_LIMIT

ID = "constants"
"""Of the room, as it stands in a job."""

LIMITS = {"reference_limit": REFERENCE_LIMIT, "comfort_limit": COMFORT_LIMIT, "lead_limit": 1.0}
"""Where a reference stops being one: parts of its bandwidth; power added by a lead, as a fraction."""

WANTED = SpecTerm(SpecKind.OF_READING, 0.05, basis="common practice")
"""What constants are wanted to hold to where nobody says (common practice, no source)."""

SHARES = (0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0)
"""Levels that constants are found from, as parts of the highest: two of them in the lowest tenth (Fenmist's own)."""

MOST_W = 100.0
"""Power at which a meter whose connectors bear more is usually calibrated (common practice, no source)."""


def begin(job_id: str, title: str, bench: Bench, device_id: str, created_at: datetime) -> Job:
    """A job on a bench about the constants of a meter.

    Raises
    ------
    UnknownIdError
        Where the meter isn't on the bench, has no detector, or nothing tells the power there.
    OutOfRangeError
        Where something shows nothing that a power follows from.
    """
    parts = {part.id: part for part in bench.parts}
    device = parts.get(device_id)
    element = next((item.id for item in bench.hookup.elements if item.part == device_id), "")
    references = [name for name in bench.read if name != element]
    if device is None or not element or not detectors(device) or not references:
        raise UnknownIdError(
            "A home-built meter with a detector, or what tells the power, isn't on this bench.", "Choose another bench."
        )
    hookups = tuple(
        hookup if hookup.stated.element == element else replace(
            hookup, stated=PlaneRef(hookup.id, element, device.ends[-1])
        )
        for hookup in (bench.hookup, *bench.others)
    )  # fmt: skip
    channels: list[Channel] = []
    for hookup in hookups:
        for name in references:
            taken = {item.id for item in channels}
            channels.append(channel_on(hookup, name, parts[hookup.element(name).part], taken))
        channels.append(_arm(hookup, element, device, {item.id for item in channels}))
    first = hookups[0]
    stated = Measurand(Kind.INCIDENT, Statistic.CARRIER, first.stated, first.z0_ohm)
    return Job(
        id=job_id, title=title, dut=device_id, kit=bench.parts, hookups=hookups, stated=stated,
        channels=tuple(channels), order=tuple(item.id for item in channels), question=ID,
        legs=tuple(Leg(name, hookup, True) for name, hookup in bench.visits),
        method=Method("constants", KIND, VERSION, LIMITS), plan=(), tolerance=WANTED,
        purpose="constants of a home-built meter", created_at=created_at,
    )  # fmt: skip


def _arm(hookup: HookUp, element: str, device: Part, taken: set[str]) -> Channel:
    """The detector that sees what goes out: forward, or reflected where the meter stands the other way round."""
    forward, *others = detectors(device)
    is_turned = hookup.stated.port == device.ends[0]
    if is_turned and not others:
        raise UnknownIdError(f"{device.label} has no detector in its reflected arm.", "Choose another bench.")
    shows = others[0] if is_turned else forward
    name = next(text for text in (element, f"{element}, {hookup.id}") if text not in taken)
    measurand = Measurand(Kind.DETECTED, Statistic.CARRIER, hookup.stated, hookup.z0_ohm)
    return Channel(name, element, shows.id, measurand, beside=True)


def most_w(job: Job) -> float:
    """What a meter without scales is calibrated up to: what its connectors bear, at most what is usual."""
    limits = [port.power_limit_w for port in job.dut_part.ports if port.power_limit_w]
    return min([MOST_W, *limits])
