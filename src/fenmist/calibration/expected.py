"""What the bench leads to expect: the power that a reading stands for, and what a channel should show at a point.

By the transfer at its estimates, without the instrument's own small corrections: good enough to tell a slip.
"""

from collections.abc import Mapping

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.references import shown_per_watt
from fenmist.calibration.rounds import AMPLITUDES
from fenmist.reading.event import Reading


def power_of(job: Job, point: PlanPoint, channel: str, reading: Reading) -> float:
    """Rough power in W at the stated plane that a reading of a channel stands for."""
    square = (reading.value * AMPLITUDES[reading.unit]) ** 2 if reading.unit in AMPLITUDES else reading.value
    return square / _per_watt(job)[point.id, channel]


def expected_si(job: Job, point: PlanPoint, channel: str) -> float | None:
    """What a channel should show at a point's planned power: V or A as its indicator takes them, or W.

    Of a source's supply nothing is expected: its efficiency isn't known beforehand.
    """
    if job.is_supply(channel):
        return None
    square, unit = point.target_w * _per_watt(job)[point.id, channel], job.indicator(channel).unit
    return float(square**0.5 / AMPLITUDES[unit]) if unit in AMPLITUDES else float(square)


def _per_watt(job: Job) -> Mapping[tuple[str, str], float]:
    """V², A² or W shown for each watt at the stated plane, by point and channel."""
    return job.once("expected", lambda: _made(job))


def _made(job: Job) -> dict[tuple[str, str], float]:
    found: dict[tuple[str, str], float] = {}
    for hookup in job.hookups:
        points = [point for point in job.plan if point.hookup == hookup.id]
        channels = tuple(
            item.id
            for item in job.channels
            if item.hookup == hookup.id and not job.is_device(item.id) and not job.is_supply(item.id)
        )
        if not points or not any(item.hookup == hookup.id for item in job.channels):
            continue
        f = np.array([point.frequency_hz for point in points])
        for channel, per_watt in zip(channels, shown_per_watt(job, hookup, f, channels), strict=True):
            found.update({(point.id, channel): float(one) for point, one in zip(points, per_watt, strict=True)})
        for item in job.channels:
            if item.hookup == hookup.id and job.is_device(item.id):
                found.update({(point.id, item.id): 1.0 for point in points})
    return found
