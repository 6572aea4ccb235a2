"""Power against time at a point: what was read, references first."""

from fenmist.calibration.rounds import PointReadings
from fenmist.calibration.series import Series
from fenmist.waveform.sine import RMS_PER_UNIT


def series_at(readings: PointReadings, power_w: float | None) -> tuple[Series, ...]:
    """What was read at a point against time, one for each channel, references first; none without times.

    Volts become the power they make by the point's own reduction (its power in W over the square of its volts).
    """
    per_volt2 = _watts_per_volt2(readings, power_w)
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


def _watts_per_volt2(readings: PointReadings, power_w: float | None) -> float:
    if power_w is None:
        return 0.0
    volts2 = [
        (item.reading.value * RMS_PER_UNIT[item.reading.unit]) ** 2
        for one in readings.rounds
        for item in one.references
        if item.reading.unit in RMS_PER_UNIT
    ]
    return power_w * len(volts2) / sum(volts2) if volts2 else 0.0
