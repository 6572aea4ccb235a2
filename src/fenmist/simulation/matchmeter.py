"""A meter of match as it truly is: two arms of a coupler, what each lets in of the other wave, two detectors.

Its arms are fed by the waves that the network was solved for (`netlist.Solved`); nothing is shared with the bounds
under test. A detector shows nothing below its floor, and too little just above it.
"""

import cmath
import math

import numpy as np

from fenmist.frozen import dataclass


@dataclass(frozen=True)
class TrueMatchMeter:
    """A meter with its imperfections."""

    leak: complex = 0j  # of the forward wave, in the reflected arm
    forward_leak: complex = 0j  # of the reflected wave, in the forward arm
    reflected_gain: float = 1.0  # volts of the reflected detector over those of the forward one
    floor_w: float = 0.0
    set_to: float = 1.0  # part of full scale that its set control was set to

    def watts(self, forward: complex, back: complex) -> tuple[float, float]:
        """Forward and reflected watts that it shows, for waves in √W."""
        arms = forward + self.forward_leak * back, back + self.leak * forward
        seen = (max(abs(arm) ** 2 - self.floor_w, 0.0) for arm in arms)
        ahead, behind = seen
        return ahead, behind * self.reflected_gain**2

    def reflection(self, forward: complex, back: complex) -> float:
        """ρ that its scale shows."""
        ahead, behind = self.watts(forward, back)
        return self.set_to * math.sqrt(behind / ahead) if ahead > 0.0 else 0.0

    def swr(self, forward: complex, back: complex) -> float:
        """SWR that its scale shows; infinite at full scale and beyond."""
        rho = self.reflection(forward, back)
        return (1.0 + rho) / (1.0 - rho) if rho < 1.0 else math.inf


def drawn_meter(directivity_db: float, rng: np.random.Generator, floor_w: float = 0.0) -> TrueMatchMeter:
    """A meter of at least so much directivity: each arm's leak lies anywhere within that."""
    most = 10.0 ** (-directivity_db / 20.0)
    leaks = [most * math.sqrt(rng.uniform()) * cmath.exp(2j * math.pi * rng.uniform()) for _ in range(2)]
    return TrueMatchMeter(leaks[0], leaks[1], floor_w=floor_w * rng.uniform())
