"""Power against time at one point: a tune cycle, a drooping carrier, anything that isn't steady.

Readings of one point are taken in the order of their times, whatever round they stand in; the mean is weighted by time
(straight between readings), and so is the time spent above a level.
"""

from dataclasses import dataclass
from itertools import pairwise

from fenmist.calibration.reduction import PointResult
from fenmist.calibration.rounds import PointReadings
from fenmist.waveform.sine import RMS_PER_UNIT


@dataclass(frozen=True)
class Series:
    """Powers in W at seconds from the first reading, rising in time."""

    channel: str
    of_device: bool
    seconds: tuple[float, ...]
    powers_w: tuple[float, ...]

    @property
    def lowest_w(self) -> float:
        """Lowest power read."""
        return min(self.powers_w)

    @property
    def highest_w(self) -> float:
        """Highest power read."""
        return max(self.powers_w)

    @property
    def span_s(self) -> float:
        """From the first to the last reading."""
        return self.seconds[-1] - self.seconds[0]

    @property
    def mean_w(self) -> float:
        """Mean over time, straight between readings; over the readings where no time passed."""
        if self.span_s == 0.0:
            return sum(self.powers_w) / len(self.powers_w)
        pairs = pairwise(zip(self.seconds, self.powers_w, strict=True))
        return sum((t2 - t1) * (p1 + p2) / 2.0 for (t1, p1), (t2, p2) in pairs) / self.span_s

    def seconds_above(self, limit_w: float) -> float:
        """Time spent above a level, straight between readings."""
        total = 0.0
        for (t1, p1), (t2, p2) in pairwise(zip(self.seconds, self.powers_w, strict=True)):
            total += (t2 - t1) * _share_above(p1, p2, limit_w)
        return total


def _share_above(first: float, second: float, limit: float) -> float:
    low, high = min(first, second), max(first, second)
    if limit >= high:
        return 0.0
    return 1.0 if limit <= low else (high - limit) / (high - low)


def series_at(readings: PointReadings, result: PointResult | None) -> tuple[Series, ...]:
    """What was read at a point against time, one for each channel, references first; none without times.

    Volts become the power they make by the point's own reduction (its reference over the square of its volts).
    """
    per_volt2 = _watts_per_volt2(readings, result)
    made = []
    read = [(False, item) for one in readings.rounds for item in one.references]
    read += [(True, item) for one in readings.rounds for item in one.duts]
    for of_device, channel in dict.fromkeys((of_device, item.entry.channel) for of_device, item in read):
        here = (item for _, item in read if item.entry.channel == channel)
        taken = sorted(((item.at_s, item.reading) for item in here if item.at_s is not None), key=lambda pair: pair[0])
        if not taken:
            continue
        powers = [
            (reading.value * RMS_PER_UNIT[reading.unit]) ** 2 * per_volt2
            if reading.unit in RMS_PER_UNIT
            else reading.value
            for _, reading in taken
        ]
        if any(power > 0 for power in powers):
            start = taken[0][0]
            made.append(Series(channel, of_device, tuple(at - start for at, _ in taken), tuple(powers)))
    return tuple(made)


def _watts_per_volt2(readings: PointReadings, result: PointResult | None) -> float:
    if result is None:
        return 0.0
    volts2 = [
        (item.reading.value * RMS_PER_UNIT[item.reading.unit]) ** 2
        for one in readings.rounds
        for item in one.references
        if item.reading.unit in RMS_PER_UNIT
    ]
    return result.reference_w * len(volts2) / sum(volts2) if volts2 else 0.0
