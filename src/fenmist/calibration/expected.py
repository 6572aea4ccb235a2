"""What the bench leads to expect: the power that a reading stands for, and what a channel should show at a point.

Of a match a perfect meter's SWR, ρ, return loss or reflected watts are expected, as its plane sees the end of the line.

By the transfer at its estimates, without the instrument's own small corrections: good enough to tell a slip.
"""

import math
from collections.abc import Mapping

import numpy as np

from fenmist.calibration.beside import once
from fenmist.calibration.job import HEAT, Channel, Job, PlanPoint
from fenmist.calibration.references import shown_per_watt
from fenmist.calibration.rounds import AMPLITUDES
from fenmist.calibration.sent import part_shown
from fenmist.hookup.line import HookUp
from fenmist.hookup.seen import seen_match
from fenmist.measurand import Kind, PlaneRef
from fenmist.methods.match_shown import as_shown
from fenmist.reading.event import Entry, Reading, Slot
from fenmist.reading.interpret import shown_on
from fenmist.units.unit import UNITS

FIGURES = 3
"""Figures to which a display or a screen is taken to be read (common practice, no source)."""


def power_of(job: Job, point: PlanPoint, channel: str, reading: Reading) -> float:
    """Rough power in W at the stated plane that a reading of a channel stands for: PEP of a waveform."""
    return _stands_for(job, _per_watt(job)[point.id, channel], point, channel, reading)


def powers_of(job: Job, entries: Mapping[Slot, Entry]) -> dict[Slot, float]:
    """The same of all entries at planned points that could be read."""
    if not entries:
        return {}
    per_watt = _per_watt(job)
    return {
        slot: _stands_for(job, per_watt[slot.point, entry.channel], job.point(slot.point), entry.channel, entry.reading)
        for slot, entry in entries.items()
        if entry.reading is not None and job.has_point(slot.point)
    }


def _stands_for(job: Job, per_watt: float, point: PlanPoint, channel: str, reading: Reading) -> float:
    square = (reading.value * AMPLITUDES[reading.unit]) ** 2 if reading.unit in AMPLITUDES else reading.value
    return square / per_watt / part_shown(job, point, channel, reading)


def expected_si(job: Job, point: PlanPoint, channel: str) -> float | None:
    """What a channel should show at a point's planned power: V or A as its indicator takes them, or W.

    Of a source's supply, or of a detector's output, nothing is expected: they aren't known beforehand.
    """
    if job.is_supply(channel) or job.channel(channel).measurand.kind is Kind.DETECTED:
        return None
    if job.is_of_match(channel):
        rho, watts = _reflections(job)[point.id, channel], np.array(point.target_w * part_shown(job, point, channel))
        return float(as_shown(job.channel(channel).measurand.kind, np.array(rho), watts))
    square, unit = point.target_w * _per_watt(job)[point.id, channel], job.indicator(channel).unit
    square *= part_shown(job, point, channel)
    return float(square**0.5 / AMPLITUDES[unit]) if unit in AMPLITUDES else float(square)


def expected_entry(job: Job, slot: Slot) -> Entry:
    """What will be read in a slot as if it had been, as the bench leads to expect; of what isn't expected, 1."""
    point = job.point(slot.point)
    channel = job.channel(point.sequence[slot.position])
    indicator, value = job.indicator(channel.id), expected_si(job, point, channel.id) or 1.0
    used = job.range_of(point, channel.id) or shown_on(indicator, value)
    reading = Reading(value, UNITS[indicator.unit].base, digit_of(value))
    return Entry(slot, channel.id, channel.element, indicator.id, used.id if used else "", "", reading)


def digit_of(value: float) -> float:
    """The last digit to which a value is taken to be read."""
    return float(10.0 ** (math.floor(math.log10(value)) - FIGURES + 1))


def _per_watt(job: Job) -> Mapping[tuple[str, str], float]:
    """V², A² or W shown for each watt at the stated plane, by point and channel."""
    return once(job, "expected", lambda: job.once_of_all("expected", _made))


def _reflections(job: Job) -> Mapping[tuple[str, str], float]:
    """ρ that each meter of a match sees at its own plane, by point and channel."""
    return job.once_of_all("expected reflections", _made_reflections)


def _made_reflections(job: Job) -> dict[tuple[str, str], float]:
    found: dict[tuple[str, str], float] = {}
    for hookup in job.hookups:
        points = [point for point in job.plan if point.hookup == hookup.id]
        planes: dict[PlaneRef, list[str]] = {}
        for item in job.channels:
            if item.hookup == hookup.id and job.is_of_match(item.id):
                planes.setdefault(item.measurand.plane, []).append(item.id)
        if not points:
            continue
        f, place = np.unique([point.frequency_hz for point in points], return_inverse=True)
        for plane, channels in planes.items():
            seen = seen_match(hookup, job.parts, f, plane, job.method.parameters.get(HEAT))
            sizes = np.broadcast_to(np.abs(seen.gamma(seen.estimates)), f.shape)[place]
            for point, size in zip(points, sizes, strict=True):
                found.update({(point.id, channel): float(size) for channel in channels})
    return found


def _made(job: Job) -> dict[tuple[str, str], float]:
    found: dict[tuple[str, str], float] = {}
    for hookup in job.hookups:
        points = [point for point in job.plan if point.hookup == hookup.id]
        channels = tuple(
            item.id
            for item in job.channels
            if item.hookup == hookup.id
            and not _at_stated(job, hookup, item)
            and not job.is_supply(item.id)
            and not job.is_of_match(item.id)
            and not item.beside
        )
        if not points or not any(item.hookup == hookup.id for item in job.channels):
            continue
        f, place = np.unique([point.frequency_hz for point in points], return_inverse=True)
        for channel, per_watt in zip(channels, shown_per_watt(job, hookup, f, channels), strict=True):
            found.update({(point.id, channel): float(one) for point, one in zip(points, per_watt[place], strict=True)})
        for item in job.channels:
            if item.hookup == hookup.id and _at_stated(job, hookup, item) and not job.is_of_match(item.id):
                found.update({(point.id, item.id): 1.0 for point in points})
    return found


def _at_stated(job: Job, hookup: HookUp, channel: Channel) -> bool:
    """Whether a channel is what the device shows of the very power that is stated."""
    return job.is_device(channel.id) and channel.measurand.plane == hookup.stated
