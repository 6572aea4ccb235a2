"""What ends a line or hangs on it, as it truly is: oscilloscope, voltmeter, ammeter, power sensor, analyser."""

import math
from dataclasses import field

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.simulation.heater import TrueHeater
from fenmist.simulation.put import Put, together


def range_in_use(shown: float, ranges: tuple[float, ...]) -> float:
    """Full scale of the lowest range that shows a value, of the highest where none does; 0 without ranges."""
    return min((full for full in ranges if full >= shown), default=max(ranges, default=0.0))


@dataclass(frozen=True)
class TrueScope:
    """An oscilloscope's channel."""

    gain: float = 1.0
    offset_v: float = 0.0
    bandwidth_hz: float = math.inf  # one pole
    noise_v: float = 0.0  # standard deviation, referred to its input
    bits: int = 8
    full_v: float = math.inf  # of its screen, peak to peak; beyond it is cut off
    sets_itself: bool = False  # to eight divisions of 1, 2 or 5 that hold what it is put to
    multiplied_by: float = 1.0  # what the screen is told of a probe over what the probe does
    fastest_hz: float = 1e9  # at which it samples

    def rate_hz(self, frequency_hz: float) -> float:
        """At which it samples a carrier: some sixty samples a period, as far as it can."""
        return min(64.0 * frequency_hz, self.fastest_hz)

    def trace(self, put: Put, samples: int, rng: np.random.Generator) -> NDArray[np.float64]:
        """Volts as sampled from anywhere in a period on, noise, steps and edges of the screen included."""
        t = np.arange(samples) / self.rate_hz(put.frequency_hz)
        volts = np.full(samples, self.offset_v)
        begin = rng.uniform()
        for order, one in put.volts.items():
            f = order * put.frequency_hz
            at = one * self._passed(f)
            volts = volts + math.sqrt(2.0) * (at * np.exp(2j * math.pi * (f * t + order * begin))).real
        volts = self.multiplied_by * (volts + self.noise_v * rng.standard_normal(samples))
        full = _screen(2.0 * float(np.max(np.abs(volts)))) if self.sets_itself else self.full_v
        if not math.isfinite(full):
            return np.asarray(volts)
        step = full / (1 << self.bits)
        return np.asarray(np.clip(np.round(volts / step) * step, -full / 2.0, full / 2.0 - step))

    def _passed(self, frequency_hz: float) -> complex:
        return self.gain / (1.0 + 1j * frequency_hz / self.bandwidth_hz)


def _screen(peak_to_peak_v: float) -> float:
    """Eight divisions of 1, 2 or 5 times a power of ten, the smallest that hold so many volts."""
    if peak_to_peak_v <= 0.0:
        return 8e-3
    decade = 10.0 ** math.floor(math.log10(peak_to_peak_v / 8.0))
    return next(8.0 * digit * decade for digit in (1.0, 2.0, 5.0, 10.0, 20.0) if 8.0 * digit * decade >= peak_to_peak_v)


@dataclass(frozen=True)
class TrueVoltmeter:
    """A voltmeter for true rms."""

    gain: float = 1.0
    bandwidth_hz: float = math.inf
    off_full: float = 0.0  # part of full scale of the range in use by which it stands off
    ranges_v: tuple[float, ...] = ()

    def volts(self, put: Put) -> float:
        """Rms."""
        falling = {n: v / (1.0 + 1j * n * put.frequency_hz / self.bandwidth_hz) for n, v in put.volts.items()}
        shown = self.gain * together(falling)
        return shown + self.off_full * range_in_use(shown, self.ranges_v)


@dataclass(frozen=True)
class TrueAmmeter:
    """A heater with a thermocouple."""

    gain: float = 1.0
    heater: TrueHeater = field(default_factory=TrueHeater)
    off_full: float = 0.0
    ranges_a: tuple[float, ...] = ()

    def amperes(self, put: Put) -> float:
        """Rms, as its scale, marked at low frequency, shows them; infinite when it has burnt out."""
        heated = {n: i * math.sqrt(self.heater.rise(n * put.frequency_hz)) for n, i in put.amperes.items()}
        through = together(heated)
        if self.ranges_a and through > _BURNT * max(self.ranges_a):
            return math.inf
        return self.gain * through + self.off_full * range_in_use(through, self.ranges_a)


_BURNT = 1.5
"""Times full scale at which a heater is gone (common practice: just above full scale)."""


@dataclass(frozen=True)
class TrueSensor:
    """A terminating sensor for power."""

    factor: float = 1.0  # K at the carrier: what it indicates over what is incident
    gain: float = 1.0
    zero_w: float = 0.0
    drift_w: float = 0.0  # standard deviation of the zero's walk in an hour
    noise_w: float = 0.0  # standard deviation of one reading
    top_w: float = math.inf

    def watts(self, put: Put, mean_share: float, zero_w: float, rng: np.random.Generator) -> float:
        """What it shows of an envelope whose mean power is `mean_share` of its crest's; infinite above its span."""
        incident = put.incident_w * mean_share
        if incident > self.top_w:
            return math.inf
        shown = incident * self.factor * self.gain + self.zero_w + zero_w
        return shown + self.noise_w * float(rng.normal())


@dataclass(frozen=True)
class TrueAnalyser:
    """A network analyser's port: what leaks past its bridge, its tracking, the noise of its trace."""

    leak: complex = 0j
    tracking: complex = 1.0
    noise: float = 0.0  # standard deviation of each part of Γ

    def reflection(self, gamma: complex, rng: np.random.Generator) -> complex:
        """Γ that it shows."""
        return gamma * self.tracking + self.leak + self.noise * complex(rng.normal(), rng.normal())
