"""Makes a job from what is chosen at its beginning: the kit, the plan, the tolerance."""

from collections.abc import Iterable, Sequence
from datetime import datetime

from fenmist.calibration.job import Channel, Job, Method, PlanPoint
from fenmist.calibration.references import KIND, VERSION
from fenmist.hookup.line import scope_across_load
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


def range_for(part: Part, level_w: float) -> str:
    """Id of the lowest range that shows a level, or the highest there is."""
    ranges = sorted(part.indicators[0].ranges, key=lambda item: item.full_scale)
    return next((item.id for item in ranges if level_w <= item.full_scale), ranges[-1].id)


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
        id=job_id, title=title, dut=meter.id, kit=kit, hookups=(hookup,), channels=channels, order=ORDER,
        methods=(Method("reference", KIND, VERSION, LIMITS),),
        plan=plan, tolerance=tolerance or (stated[0] if stated else SpecTerm(SpecKind.OF_RANGE, 0.05)),
        tolerance_more=() if tolerance else stated[1:], created_at=created_at,
    )  # fmt: skip
