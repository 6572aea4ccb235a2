"""Makes a job from what is chosen at its beginning: the kit, the plan, the tolerance."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from itertools import pairwise

from fenmist.calibration.channels import channel_on, supply_at_source
from fenmist.calibration.edit import UNCLAIMED
from fenmist.calibration.job import Channel, Job, Leg, Method, PlanPoint
from fenmist.calibration.references import KIND, VERSION
from fenmist.errors import UnknownIdError
from fenmist.hookup.line import SIDE_PORT, Element, HookUp, Joint
from fenmist.hookup.templates import Bench
from fenmist.kit.part import Part, PartKind, SpecTerm
from fenmist.measurand import PlaneRef
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


def begin(job_id: str, title: str, bench: Bench, device_id: str, created_at: datetime) -> Job:
    """A job on a bench, with what is read there as references.

    Parameters
    ----------
    device_id : str
        The meter under test, at whose output power is stated.

    Raises
    ------
    UnknownIdError
        Where it isn't on the bench.
    OutOfRangeError
        Where something shows nothing that a power follows from.
    """
    hookup, parts = bench.hookup, {part.id: part for part in bench.parts}
    element = next((item.id for item in hookup.elements if item.part == device_id), "")
    if not element:
        raise UnknownIdError("The device under test isn't on this bench.", "Choose another bench.")
    device = channel_on(hookup, element, parts[device_id])
    stated = device.measurand
    references = tuple(channel_on(hookup, name, parts[hookup.element(name).part]) for name in bench.read)
    supply = supply_at_source(hookup, parts)
    others = _on_others(bench, parts, element, {item.id for item in (*references, device)})
    claims = parts[device_id].indicator(device.indicator).stated or UNCLAIMED
    return Job(
        id=job_id, title=title, dut=device_id, kit=bench.parts,
        hookups=(replace(hookup, stated=stated.plane), *bench.others),
        legs=tuple(Leg(*visit) for visit in bench.visits),
        stated=stated, channels=(*references, device, *supply, *others),
        order=tuple(item.id for item in (*references, device, *supply, *others)),
        method=Method("reference", KIND, VERSION, LIMITS), plan=(), tolerance=claims[0], tolerance_more=claims[1:],
        created_at=created_at,
    )  # fmt: skip


def _on_others(bench: Bench, parts: Mapping[str, Part], element: str, taken: set[str]) -> tuple[Channel, ...]:
    """What is read where a reference stands in the device's place: that, and the rest again."""
    made: list[Channel] = []
    for hookup in bench.others:
        for name in (element, *bench.read):
            known = taken | {item.id for item in made}
            made.append(channel_on(hookup, name, parts[hookup.element(name).part], known))
    return tuple(made)


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
    made = begin(job_id, title, Bench(hookup, kit, (SCOPE,)), hookup.element(METER).part, created_at)
    return (
        replace(made, plan=plan)
        if tolerance is None
        else replace(made, plan=plan, tolerance=tolerance, tolerance_more=())
    )
