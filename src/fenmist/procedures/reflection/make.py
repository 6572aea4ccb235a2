"""Makes a job about a meter of match: known ends of the line in turn, what the meter shows with each."""

from dataclasses import replace
from datetime import datetime

from fenmist.calibration.channels import match_channels
from fenmist.calibration.job import Channel, Job, Leg, Method
from fenmist.calibration.references import KIND, VERSION
from fenmist.errors import UnknownIdError
from fenmist.hookup.line import HookUp, main_way
from fenmist.hookup.templates import Bench
from fenmist.kit.part import Indicator, Part, SpecKind, SpecTerm
from fenmist.measurand import OF_MATCH, Kind, Measurand, PlaneRef, Statistic
from fenmist.methods.match_shown import USUAL_DIRECTIVITY_DB

ID = "reflection"
"""Of the room, as it stands in a job."""

DIRECTIVITY = "directivity_db"
"""What a meter's sheet says of its coupler."""


def begin(job_id: str, title: str, bench: Bench, device_id: str, created_at: datetime) -> Job:
    """A job on a bench about what a meter shows of the match behind it.

    Raises
    ------
    UnknownIdError
        Where the meter isn't on the bench.
    OutOfRangeError
        Where it tells nothing of a match.
    """
    parts = {part.id: part for part in bench.parts}
    device = parts.get(device_id)
    element = next((item.id for item in bench.hookup.elements if item.part == device_id), "")
    if device is None or not element:
        raise UnknownIdError("The meter that is asked about isn't on this bench.", "Choose another bench.")
    first = _stated_behind(bench.hookup, element, device)
    others_stated = (
        hookup if is_turned(hookup, device) else _stated_behind(hookup, element, device) for hookup in bench.others
    )
    hookups = (first, *others_stated)
    channels: list[Channel] = []
    others = [name for name in bench.read if name != element]
    for hookup in hookups:
        for name in (element, *others):
            part = parts[hookup.element(name).part]
            turned = name == element and is_turned(hookup, device)
            channels += match_channels(hookup, name, part, {item.id for item in channels}, is_turned=turned)
    stated = Measurand(Kind.INCIDENT, Statistic.CARRIER, first.stated, first.z0_ohm)
    claim, more = claimed(device)
    return Job(
        id=job_id, title=title, dut=device_id, kit=bench.parts, hookups=hookups, stated=stated,
        channels=tuple(channels), order=tuple(item.id for item in channels), question=ID,
        legs=tuple(Leg(name, hookup, True) for name, hookup in bench.visits),
        method=Method("known ends", KIND, VERSION, {}), plan=(), tolerance=claim, tolerance_more=more,
        purpose="check of an SWR meter", created_at=created_at,
    )  # fmt: skip


USUAL_W = 10.0
"""Power at which a match is usually checked: a few watts are friendlier (common practice, no source)."""


def bearable(job: Job) -> float:
    """Power at which all ends of a job can be read, at most what is usual, W."""
    limits = []
    for leg in job.visits:
        hookup = job.hookup(leg.hookup)
        end = main_way(hookup, job.parts)[-1]
        limits.append(job.part(hookup.element(end.element).part).port(end.entry).power_limit_w)
    return min([USUAL_W, *(limit for limit in limits if limit)])


def is_turned(hookup: HookUp, device: Part) -> bool:
    """Whether the line leaves a meter by its input: it stands the other way round."""
    return len(device.ends) == 2 and hookup.stated.port == device.ends[0]


def _stated_behind(hookup: HookUp, element: str, device: Part) -> HookUp:
    """The hook-up with power stated where it leaves the meter."""
    if hookup.stated.element == element and hookup.stated.port != device.ends[0]:
        return hookup
    return replace(hookup, stated=PlaneRef(hookup.id, element, device.ends[-1]))


def judged_indicator(part: Part) -> Indicator | None:
    """What a meter says of a match in the first place: its SWR, ρ or return loss, else its reflected power."""
    for kind in (*OF_MATCH[1:], OF_MATCH[0]):
        for item in part.indicators:
            if item.quantity is kind:
                return item
    return None


def tells_of_match(part: Part) -> bool:
    """Whether a meter says something of a match: reflected power counts beside forward power alone."""
    kinds = {item.quantity for item in part.indicators}
    return bool(kinds & set(OF_MATCH[1:])) or {Kind.INCIDENT, Kind.REFLECTED} <= kinds


def claimed(part: Part) -> tuple[SpecTerm, tuple[SpecTerm, ...]]:
    """What a meter claims: its directivity, and the terms of its scale."""
    stated = part.properties.get(DIRECTIVITY)
    first = SpecTerm(
        SpecKind.DB, stated.value if stated else USUAL_DIRECTIVITY_DB, "dB",
        basis="data sheet" if stated else "common practice",
    )  # fmt: skip
    shows = judged_indicator(part)
    return first, tuple(term for term in shows.stated if term.kind is not SpecKind.UNKNOWN) if shows else ()
