"""What ends a line or hangs on it, as it truly is: oscilloscope, voltmeter, ammeter, power sensor, analyser."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenmist.simulation.put import Put, together


@dataclass(frozen=True)
class TrueScope:
    """An oscilloscope's channel."""

    gain: float = 1.0
    offset_v: float = 0.0
    bandwidth_hz: float = math.inf  # one pole
    noise_v: float = 0.0  # standard deviation, referred to its input
    bits: int = 8
    full_v: float = math.inf  # of its screen, peak to peak; beyond it is cut off
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
        if not math.isfinite(self.full_v):
            return np.asarray(volts)
        step = self.full_v / (1 << self.bits)
        return np.asarray(np.clip(np.round(volts / step) * step, -self.full_v / 2.0, self.full_v / 2.0 - step))

    def _passed(self, frequency_hz: float) -> complex:
        return self.gain / (1.0 + 1j * frequency_hz / self.bandwidth_hz)


@dataclass(frozen=True)
class TrueVoltmeter:
    """A voltmeter for true rms."""

    gain: float = 1.0
    bandwidth_hz: float = math.inf
    offset_v: float = 0.0

    def volts(self, put: Put) -> float:
        """Rms."""
        falling = {n: v / (1.0 + 1j * n * put.frequency_hz / self.bandwidth_hz) for n, v in put.volts.items()}
        return self.gain * together(falling) + self.offset_v


@dataclass(frozen=True)
class TrueAmmeter:
    """A heater with a thermocouple."""

    gain: float = 1.0
    skin_hz: float = math.inf  # where its heater's resistance is up by as much as it is at DC
    offset_a: float = 0.0
    full_a: float = math.inf

    def amperes(self, put: Put) -> float:
        """Rms, as its scale, marked at low frequency, shows them; infinite when it has burnt out."""
        heated = {n: i * (1.0 + n * put.frequency_hz / self.skin_hz) ** 0.25 for n, i in put.amperes.items()}
        through = together(heated)
        return math.inf if through > _BURNT * self.full_a else self.gain * through + self.offset_a


_BURNT = 1.5
"""Times full scale at which a heater is gone (common practice: just above full scale)."""


@dataclass(frozen=True)
class TrueSensor:
    """A terminating sensor for power."""

    factor: float = 1.0  # K at the carrier: what it indicates over what is incident
    told_factor: float = 1.0  # that the meter was told and divides by
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
        shown = incident * self.factor / self.told_factor * self.gain + self.zero_w + zero_w
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
