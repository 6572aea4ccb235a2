"""Makes a job from what is chosen at its beginning: the kit, the plan, the tolerance."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from itertools import pairwise

from fenmist.calibration.job import Channel, Job, Method, PlanPoint
from fenmist.calibration.references import KIND, VERSION
from fenmist.errors import UnknownIdError
from fenmist.hookup.line import SIDE_PORT, Element, HookUp, Joint
from fenmist.kit.part import Part, PartKind, SpecKind, SpecTerm
from fenmist.measurand import Kind, Measurand, PlaneRef, Statistic
from fenmist.waveform.response import COMFORT_LIMIT, REFERENCE_LIMIT

LIMITS = {"reference_limit": REFERENCE_LIMIT, "comfort_limit": COMFORT_LIMIT, "lead_limit": 1.0}
"""Where the reference stops being one: parts of the scope's bandwidth; power added by the lead, as a fraction."""

LINE = "line"
"""Id of the first hook-up of a job."""

SCOPE, METER = "scope", "meter"
"""Ids of its channels: each is named by the element that it is read on."""

ORDER = (SCOPE, METER)
"""What a round reads where nothing else is asked for."""


def plan_points(
    frequencies_hz: Iterable[float],
    levels_w: Sequence[float],
    range_id: str,
    repeats: int = 1,
    sequence: tuple[str, ...] = ORDER,
) -> tuple[PlanPoint, ...]:
    """Every frequency with every level, rising, on one range."""
    grid = [(float(f), float(level)) for f in sorted(frequencies_hz) for level in sorted(levels_w)]
    return tuple(
        PlanPoint(f"p{number}", LINE, f, level, range_id, sequence, repeats)
        for number, (f, level) in enumerate(grid, start=1)
    )


def scope_across_load(hookup_id: str, chosen: Iterable[Part]) -> HookUp:
    """The usual hook-up: transmitter, meter, jumper if there is one, tee on the load, lead or probe, oscilloscope.

    Parameters
    ----------
    hookup_id : str
        Its id in the job.
    chosen : parts
        The first of each kind counts; the jumper may be left out, and a probe takes the place of the lead.
    """
    by_kind: dict[PartKind, Part] = {}
    for part in chosen:
        by_kind.setdefault(PartKind.LEAD if part.kind is PartKind.PROBE else part.kind, part)
    names = {
        PartKind.TRANSMITTER: "source", PartKind.INLINE_METER: "meter", PartKind.JUMPER: "jumper",
        PartKind.TEE: "tee", PartKind.LOAD: "load", PartKind.LEAD: "lead", PartKind.OSCILLOSCOPE: "scope",
    }  # fmt: skip
    missing = [kind for kind in names if kind not in by_kind and kind is not PartKind.JUMPER]
    if missing:
        raise UnknownIdError(f"The hook-up lacks a {missing[0]}.", "Choose one from the kit, or describe one there.")
    elements = tuple(Element(names[kind], by_kind[kind].id) for kind in names if kind in by_kind)
    part_of = {names[kind]: part for kind, part in by_kind.items() if kind in names}
    line = [name for name in ("source", "meter", "jumper", "tee", "load") if name in part_of]
    joints = [Joint((a, part_of[a].ends[-1]), (b, part_of[b].ends[0])) for a, b in pairwise(line)]
    joints += [
        Joint(("tee", SIDE_PORT), ("lead", part_of["lead"].ends[0])),
        Joint(("lead", part_of["lead"].ends[-1]), ("scope", part_of["scope"].ends[0])),
    ]
    stated = PlaneRef(hookup_id, "meter", part_of["meter"].ends[-1])
    return HookUp(hookup_id, "oscilloscope across the load", elements, tuple(joints), stated)


_NEEDED = (
    PartKind.TRANSMITTER, PartKind.INLINE_METER, PartKind.TEE, PartKind.LEAD, PartKind.OSCILLOSCOPE, PartKind.LOAD,
)  # fmt: skip
"""Kinds that a new job's hook-up takes; a jumper may be added, a probe may take the lead's place."""


def begin(job_id: str, title: str, kit: Sequence[Part], device_id: str, created_at: datetime) -> Job:
    """A job with the first part of each kind in a kit, on the device that is named; raises UnknownIdError."""
    chosen = [_first(kit, kind, device_id) for kind in _NEEDED]
    return cross_check(job_id, title, [part for part in chosen if part], created_at=created_at)


def _first(kit: Sequence[Part], kind: PartKind, wanted: str) -> Part | None:
    fitting = [part for part in kit if part.kind is kind]
    return next((part for part in fitting if part.id == wanted), fitting[0] if fitting else None)


def cross_check(
    job_id: str,
    title: str,
    kit: Sequence[Part],
    plan: tuple[PlanPoint, ...] = (),
    tolerance: SpecTerm | None = None,
    *,
    created_at: datetime,
) -> Job:
    """A job with one meter against an oscilloscope across the load.

    Parameters
    ----------
    kit : parts
        The first of each kind the hook-up needs is taken; the in-line wattmeter is the device under test.
    tolerance : SpecTerm, optional
        The meter's own stated accuracy where none is given.

    Raises
    ------
    UnknownIdError
        Names the kind of part that is missing.
    """
    hookup = scope_across_load(LINE, kit)
    used = {item.part for item in hookup.elements}
    kit = tuple(part for part in kit if part.id in used)
    meter = next(part for part in kit if part.kind is PartKind.INLINE_METER)
    stated = meter.indicators[0].stated
    measurand = Measurand(Kind.INCIDENT, Statistic.CARRIER, hookup.stated)
    scope = next(part for part in kit if part.kind is PartKind.OSCILLOSCOPE)
    volts = Measurand(Kind.VOLTAGE, Statistic.CARRIER, PlaneRef(LINE, SCOPE, scope.ports[0].id))
    channels = (
        Channel(SCOPE, SCOPE, scope.indicators[0].id, volts),
        Channel(METER, METER, meter.indicators[0].id, measurand),
    )
    return Job(
        id=job_id, title=title, dut=meter.id, kit=kit, hookups=(hookup,), stated=measurand,
        channels=channels, order=ORDER,
        method=Method("reference", KIND, VERSION, LIMITS),
        plan=plan, tolerance=tolerance or (stated[0] if stated else SpecTerm(SpecKind.OF_RANGE, 0.05)),
        tolerance_more=() if tolerance else stated[1:], created_at=created_at,
    )  # fmt: skip
