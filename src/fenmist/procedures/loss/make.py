"""Makes a job about what a part loses: an instrument in front of it and one behind, with it and without it in turn.

One instrument does where the source is steady: it stands behind the part and then in front, or where the part was.
"""

from dataclasses import replace
from datetime import datetime

from fenmist.calibration.channels import channel_on
from fenmist.calibration.job import Channel, Job, Leg, Method
from fenmist.calibration.references import KIND, VERSION
from fenmist.errors import UnknownIdError
from fenmist.hookup.line import HookUp
from fenmist.hookup.templates import Bench
from fenmist.kit.part import Part, SpecKind, SpecTerm
from fenmist.measurand import Kind, Measurand, PlaneRef, Statistic
from fenmist.waveform.response import COMFORT_LIMIT, REFERENCE_LIMIT

ID = "loss"
"""Of the room, as it stands in a job."""

LIMITS = {"reference_limit": REFERENCE_LIMIT, "comfort_limit": COMFORT_LIMIT, "lead_limit": 1.0}
"""Where an instrument stops being one: parts of its bandwidth; power added by a lead, as a fraction."""

LOSS = "loss_db"
"""What a part's sheet says it loses."""

USUAL_DB = 0.5
"""Ceiling of a loss that nobody states (Fenmist's own, no source)."""


def begin(job_id: str, title: str, bench: Bench, device_id: str, created_at: datetime) -> Job:
    """A job on a bench about the loss of a part on it.

    Raises
    ------
    UnknownIdError
        Where the part isn't on the bench, or nothing is read, or more than two things are.
    OutOfRangeError
        Where something shows nothing that a power follows from.
    """
    parts = {part.id: part for part in bench.parts}
    element = next((item.id for item in bench.hookup.elements if item.part == device_id), "")
    if not element or len(bench.read) not in (1, 2) or not bench.others:
        raise UnknownIdError(
            "What is asked about, or what reads the power beside it, isn't on this bench.",
            "Choose another bench.",
        )
    through = _stated_in_front(bench.hookup, element)
    others = tuple(
        _stated_in_front(hookup, element) if on_it(hookup, device_id) else _stated_behind(hookup)
        for hookup in bench.others
    )
    channels: list[Channel] = []
    for hookup in (through, *others):
        for name in bench.read:
            taken = {item.id for item in channels}
            channels.append(channel_on(hookup, name, parts[hookup.element(name).part], taken))
    stated = Measurand(Kind.INCIDENT, Statistic.CARRIER, through.stated, through.z0_ohm)
    claim, more = claimed(parts[device_id])
    return Job(
        id=job_id, title=title, dut=device_id, kit=bench.parts, hookups=(through, *others), stated=stated,
        channels=tuple(channels), order=tuple(item.id for item in channels), question=ID,
        legs=_legs(bench, device_id), method=Method("ratio", KIND, VERSION, LIMITS), plan=(),
        tolerance=claim, tolerance_more=more, purpose="loss of a part", created_at=created_at,
    )  # fmt: skip


def on_it(hookup: HookUp, device_id: str) -> bool:
    """Whether the part that is asked about stands on a hook-up."""
    return any(item.part == device_id for item in hookup.elements)


def _legs(bench: Bench, device_id: str) -> tuple[Leg, ...]:
    """The visits; where the line ends in several things in turn, each has an answer of its own."""
    with_part = {item.id: item for item in (bench.hookup, *bench.others) if on_it(item, device_id)}
    kits = {frozenset(element.part for element in item.elements) for item in with_part.values()}
    return tuple(Leg(leg, name, by_itself=len(kits) > 1 and name in with_part) for leg, name in bench.visits)


def _stated_in_front(hookup: HookUp, element: str) -> HookUp:
    """The hook-up with power stated where it comes into a part."""
    ends = [end for joint in hookup.joints for end in (joint.a, joint.b) if end[0] == element]
    port = next(port for _, port in ends if port != hookup.stated.port)
    return replace(hookup, stated=PlaneRef(hookup.id, element, port))


def _stated_behind(hookup: HookUp) -> HookUp:
    """The hook-up without the part, with power stated where it comes into what follows."""
    at = (hookup.stated.element, hookup.stated.port)
    mate = hookup.mate(*at)
    return replace(hookup, stated=PlaneRef(hookup.id, *mate)) if mate is not None else hookup


def claimed(part: Part) -> tuple[SpecTerm, tuple[SpecTerm, ...]]:
    """What a part may lose by its sheet: its loss is a ceiling, in dB."""
    stated = part.properties.get(LOSS)
    most = stated.value + (stated.spec.value if stated.spec else 0.0) if stated else USUAL_DB
    return SpecTerm(SpecKind.DB, most or USUAL_DB, "dB", basis="data sheet" if stated else "common practice"), ()
