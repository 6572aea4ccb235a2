"""Power against time at a point: what was read, references first."""

from statistics import fmean, geometric_mean

from fenmist.calibration.rounds import PointReadings
from fenmist.waveform.series import Series


def series_at(readings: PointReadings, power_w: float | None) -> tuple[Series, ...]:
    """What was read at a point against time, one for each channel, references first; none without times.

    What a reference shows becomes power by the point's own reduction: its mean, taken as there in logarithms unless
    something shows nothing, is the power that came of the point.
    """
    made = []
    read = [(False, item) for one in readings.rounds for item in one.references]
    read += [(True, item) for one in readings.rounds for item in one.duts]
    for of_device, channel in dict.fromkeys((of_device, item.entry.channel) for of_device, item in read):
        here = (item for _, item in read if item.entry.channel == channel and item.stands_for_power)
        taken = sorted(((item.at_s, item.power) for item in here if item.at_s is not None), key=lambda pair: pair[0])
        if not taken:
            continue
        read_w = [power for _, power in taken]
        mean = geometric_mean(read_w) if min(read_w) > 0.0 else fmean(read_w)
        times = 1.0 if of_device or not mean else (power_w or 0.0) / mean
        powers = [times * power for power in read_w]
        if any(power > 0 for power in powers):
            start = taken[0][0]
            made.append(Series(channel, of_device, tuple(at - start for at, _ in taken), tuple(powers)))
    return tuple(made)
