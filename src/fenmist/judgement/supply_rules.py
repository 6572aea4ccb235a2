"""What goes into a source as DC, with its drive, against the RF that comes out: more can't come out than went in."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from statistics import fmean

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Outcome
from fenmist.calibration.rounds import PointReadings, Taken
from fenmist.calibration.sent import mean_part
from fenmist.findings.note import Note, Severity
from fenmist.judgement.entry_rules import at_point
from fenmist.kit.part import Part
from fenmist.kit.stated import Shown, influences_of
from fenmist.measurand import Kind
from fenmist.units.display import opening, percent, plain, with_uncertainty


@dataclass(frozen=True)
class Supplied:
    """DC into a source at one point, W, with its standard uncertainty, and the most that its drive can add."""

    dc_w: float
    u_w: float
    drive_w: float

    @property
    def ceiling_w(self) -> float:
        """The most RF that can come out, at two standard uncertainties."""
        return self.dc_w + 2.0 * self.u_w + self.drive_w


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
    """A reference that says more than goes in; else what part of it comes out."""
    shares: list[tuple[float, float, PointReadings, Supplied]] = []
    for found in outcome.read:
        into, power = supplied(job, found), outcome.power_at(found.point.id)
        if into is None or power is None:
            continue
        mean, source = mean_part(found.point), _source(job, found)
        if mean is None:
            continue
        low, value, high = (mean * end for end in power)  # DC is a mean: PEP is never held against it
        if low > into.ceiling_w:
            yield Note(
                "supply.more_out", Severity.DOUBT, found.point.id,
                f"More comes out of {source.label} than goes in {at_point(found.point)}.",
                f"{with_uncertainty(value, (high - low) / 2.0, 'W')} against {plain(into.dc_w, 'W')} of DC"
                + (f" and {plain(into.drive_w, 'W')} of drive" if into.drive_w else "")
                + f", at most {plain(into.ceiling_w, 'W')} with what their meters allow.",
                "Look at the references (scale, ratio, load) and at the supply's meters; say the drive in the source's "
                "sheet where a driven stage passes it on.",
                {"out_w": value, "dc_w": into.dc_w, "drive_w": into.drive_w, "ceiling_w": into.ceiling_w},
            )  # fmt: skip
        else:
            shares.append((value / (into.dc_w + into.drive_w), value, found, into))
    if shares:
        yield _efficiency(job, shares)


def _source(job: Job, found: PointReadings) -> Part:
    return job.part_read(
        next(item.entry.channel for one in found.rounds for item in one.others if job.is_supply(item.entry.channel))
    )


def _efficiency(job: Job, shares: list[tuple[float, float, PointReadings, Supplied]]) -> Note:
    least, most = min(shares, key=lambda item: item[0]), max(shares, key=lambda item: item[0])
    share, out, found, into = least
    source = _source(job, found)
    span = percent(share) if len(shares) == 1 else f"{percent(share)} to {percent(most[0])}"
    return Note(
        "supply.efficiency", Severity.GOOD_TO_KNOW, source.id,
        f"{opening(source.label)} makes RF of {span} of what goes in.",
        f"Least {at_point(found.point)}: {plain(out, 'W')} of {plain(into.dc_w + into.drive_w, 'W')}; the rest, "
        f"{plain(into.dc_w + into.drive_w - out, 'W')}, is heat in it.",
        "The DC bounds the answer only where it was read while the power was; a mean is held against a mean.",
        {"least": share, "most": most[0], "heat_w": into.dc_w + into.drive_w - out},
    )  # fmt: skip
