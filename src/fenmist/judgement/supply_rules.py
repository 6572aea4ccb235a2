"""What goes into a source as DC, with its drive, against the RF that comes out: more can't come out than went in."""

import math
from collections.abc import Iterator
from statistics import fmean

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Outcome
from fenmist.calibration.rounds import PointReadings, Taken
from fenmist.calibration.sent import mean_part
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.judgement.entry_rules import at_point
from fenmist.kit.amplifier import NOT_SAID, WHOLE_SET
from fenmist.kit.stated import Shown, influences_of
from fenmist.measurand import Kind
from fenmist.methods.efficiency import Amplifier, Converted, remarks, too_much
from fenmist.units.display import opening, percent, plain


@dataclass(frozen=True)
class Supplied:
    """DC into a source at one point, W, with its standard uncertainty, and the most that its drive can add."""

    dc_w: float
    u_w: float
    drive_w: float


def supplied(job: Job, found: PointReadings) -> Supplied | None:
    """What went into the source at a point: the mean over its rounds; none where volts or amperes weren't read."""
    read = [item for one in found.rounds for item in one.others if job.is_supply(item.entry.channel)]
    means = {}
    if any(item.reading.value <= 0.0 for item in read):
        return None  # nothing goes in: no bound follows from that
    for kind in (Kind.SUPPLY_VOLTAGE, Kind.SUPPLY_CURRENT):
        of_kind = [item for item in read if job.channel(item.entry.channel).measurand.kind is kind]
        if not of_kind:
            return None
        means[kind] = fmean(item.reading.value for item in of_kind), _relative_u(job, of_kind)
    (volts, u_volts), (amperes, u_amperes) = means.values()
    dc = volts * amperes
    drive = job.part_read(read[0].entry.channel).properties.get("drive_w")
    return Supplied(dc, dc * math.hypot(u_volts, u_amperes), drive.value if drive else 0.0)


def _relative_u(job: Job, taken: list[Taken]) -> float:
    first = taken[0].entry.channel
    value = np.array([fmean(item.reading.value for item in taken)])
    digit = np.array([max(item.reading.digit for item in taken)])
    part = job.part_read(first)
    terms = influences_of(job.indicator(first).stated, Shown(value, digit), first, part.label, part.id)
    reading = float(digit[0]) / math.sqrt(12.0) / float(value[0])
    return math.hypot(reading, *(float(item.standard_u[0]) for item in terms))


def supply_notes(job: Job, outcome: Outcome) -> Iterator[Note]:
    """A reference that says more than goes in, or than can be made of it; else what part of it comes out."""
    fits: list[tuple[Converted, Amplifier]] = []
    for found in outcome.read:
        into, power = supplied(job, found), outcome.power_at(found.point.id)
        mean = mean_part(found.point)
        if into is None or power is None or mean is None:
            continue
        low, value, high = (mean * end for end in power)  # DC is a mean: PEP is never held against it
        one = Converted(
            into.dc_w, into.u_w, into.drive_w, (low, value, high), f" {at_point(found.point)}", found.point.id,
            mean == 1.0,
        )  # fmt: skip
        source = _amplifier(job, found)
        doubted = too_much(one, source)
        if doubted is not None:
            yield doubted
            continue
        yield from remarks(one, source)
        fits.append((one, source))
    if fits:
        yield _efficiency(fits)


def _amplifier(job: Job, found: PointReadings) -> Amplifier:
    part = job.part_read(
        next(item.entry.channel for one in found.rounds for item in one.others if job.is_supply(item.entry.channel))
    )
    power, heat = (part.properties.get(name) for name in ("power_w", "dissipation_w"))
    return Amplifier(
        part.label, part.id, part.settings.get("class", NOT_SAID), part.settings.get("feeds", WHOLE_SET),
        power.value if power else None, heat.value if heat else None,
    )  # fmt: skip


def _efficiency(fits: list[tuple[Converted, Amplifier]]) -> Note:
    least, source = min(fits, key=lambda item: item[0].share)
    most = max(one.share for one, _ in fits)
    span = percent(least.share) if len(fits) == 1 else f"{percent(least.share)} to {percent(most)}"
    usual = source.usual
    said = (
        "" if usual is None else f" Usual is {percent(usual.low)} to {percent(usual.high)} at full power, less below."
    )
    return Note(
        "supply.efficiency", Severity.GOOD_TO_KNOW, source.id,
        f"{opening(source.label)} makes RF of {span} of what goes in.",
        f"Least{least.where}: {plain(least.out_w[1], 'W')} of {plain(least.into_w, 'W')}; the rest, "
        f"{plain(least.heat_w, 'W')}, is heat in it.{said}",
        "The DC bounds the answer only where it was read while the power was; a mean is held against a mean.",
        {"least": least.share, "most": most, "heat_w": least.heat_w},
    )  # fmt: skip
