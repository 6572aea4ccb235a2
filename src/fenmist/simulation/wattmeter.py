"""An in-line meter as it truly is: a coupler of two arms, detectors with a knee, what its scale takes for granted.

Its two arms take volts and amperes of the line itself, so a low corner, a poor balance and a turned-round meter need no
formula of their own: volts plus amperes times Z0 is what goes forward, their difference what comes back.
"""

import cmath
import math
from collections.abc import Mapping
from dataclasses import field

import numpy as np

from fenmist.frozen import dataclass
from fenmist.simulation.needle import PEAK, THERMAL, TrueMovement
from fenmist.simulation.put import Put, highest, rectified, together
from fenmist.simulation.screens import range_in_use

FORWARD, REFLECTED = "forward", "reflected"


@dataclass(frozen=True)
class TrueWattmeter:
    """What is true of it."""

    error_db: float = 0.0  # of what it shows, 10·log10
    bands: tuple[tuple[float, float], ...] = ()  # (Hz, dB): its own error over frequency, straight between
    volts_corner_hz: float = 0.0  # below which the arm that takes volts fails
    amperes_corner_hz: float = 0.0
    leak: complex = 0j  # of the wave ahead, in the reflected arm, relative
    forward_leak: complex = 0j  # of what comes back, in the forward arm
    reflected_db: float = 0.0  # of the reflected arm, over the forward one
    full_w: float = 100.0
    full_v: float = 3.0  # that its detector is put to there, crest
    knee_v: float = 0.0  # of its diode: square law far below, less a constant far above
    scale_knee_v: float = 0.0  # for which its scale is drawn
    bits: int = 0  # of its converter, over 1.2 of full scale; 0: none
    off_full: float = 0.0  # part of full scale of the range in use by which its needle stands off
    ranges_w: tuple[float, ...] = ()  # full scales of its lower ranges
    set_to: float = 1.0  # part of full scale that the set control of a meter of SWR was set to
    movement: TrueMovement = field(default_factory=TrueMovement)

    def arms(self, put: Put) -> Mapping[str, Mapping[int, complex]]:
        """What each arm gives by order, in √W of the line; `put` is that of its output connector."""
        ahead, back = {}, {}
        root = 2.0 * math.sqrt(put.z0_ohm)
        for order in put.volts:
            f = order * put.frequency_hz
            v = put.volts[order] * _above(self.volts_corner_hz, f)
            i = -put.z0_ohm * put.amperes[order] * _above(self.amperes_corner_hz, f)
            gain = 10.0 ** ((self.error_db + self._band_db(f)) / 20.0)
            forward, reflected = gain * (v + i) / root, gain * (v - i) / root
            ahead[order] = forward + self.forward_leak * reflected
            back[order] = (reflected + self.leak * forward) * 10.0 ** (self.reflected_db / 20.0)
        return {FORWARD: ahead, REFLECTED: back}

    def drives(self, put: Put) -> Mapping[str, float]:
        """Deflections, in parts of full scale, to which both arms push at the crest of the envelope."""
        takes = {THERMAL: together, PEAK: highest}.get(self.movement.detector, rectified)
        volts = {arm: takes(found) / math.sqrt(self.full_w) * self.full_v for arm, found in self.arms(put).items()}
        full = _detected(self.full_v, self.scale_knee_v)
        return {arm: _detected(one, self.knee_v) / full for arm, one in volts.items()}

    def watts(self, deflection: float) -> float:
        """What stands on the scale there."""
        if self.bits:
            step = 1.2 / (1 << self.bits)
            deflection = round(max(deflection, 0.0) / step) * step
        full = _detected(self.full_v, self.scale_knee_v)
        volts = _undetected(max(deflection, 0.0) * full, self.scale_knee_v)
        watts = self.full_w * (volts / self.full_v) ** 2
        return watts + self.off_full * range_in_use(watts, self.ranges_w or (self.full_w,))

    def reflection(self, forward: float, reflected: float) -> float:
        """ρ that it makes of the deflections of its two arms."""
        ahead, behind = (max(self.watts(one), 0.0) for one in (forward, reflected))
        return self.set_to * math.sqrt(behind / ahead) if ahead else 0.0

    def _band_db(self, frequency_hz: float) -> float:
        if not self.bands:
            return 0.0
        at, decibels = zip(*self.bands, strict=True)
        return float(np.interp(frequency_hz, at, decibels))


def disc(decibels: float, rng: np.random.Generator) -> complex:
    """Anything within so many dB below 1."""
    return cmath.rect(10.0 ** (-decibels / 20.0) * math.sqrt(rng.uniform()), 2.0 * math.pi * rng.uniform())


def _above(corner_hz: float, frequency_hz: float) -> complex:
    return 1.0 / (1.0 - 1j * corner_hz / frequency_hz)


def _detected(volts: float, knee_v: float) -> float:
    """Of a diode: v²/2k far below its knee, v − k far above."""
    return math.hypot(volts, knee_v) - knee_v


def _undetected(detected: float, knee_v: float) -> float:
    return math.sqrt(detected * (detected + 2.0 * knee_v))
