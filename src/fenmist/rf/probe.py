"""A divider probe at the tee: its tip capacitance loads the line, and its ground lead makes it ring.

The ground lead, about 1 nH a millimetre, and the tip capacitance form a series circuit across the tee: the volts over
the tip are 1/(1 − (f/f0)²) of the tee's, f0 = 1/(2π√(LC)). Losses are left out, so it holds well below f0 only.
A probe's rating falls with frequency, as 1/f from a knee. Page: docs/method/probe.md.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]

HENRY_PER_M = 1e-6
"""Of a ground lead: 1 nH a millimetre (common practice, no source)."""

KNEE_HZ = 2e6
"""Where a probe's rating begins to fall unless its curve says otherwise: tens of volts are left of some hundreds at
30 MHz (common practice, no source)."""


@dataclass(frozen=True, eq=False)
class ProbeTip:
    """Tip capacitance and ground lead; numbers or arrays that broadcast with each other and with the frequency."""

    capacitance_f: ArrayLike
    inductance_h: ArrayLike = 0.0

    def resonance_share(self, frequency_hz: ArrayLike) -> FloatArray:
        """(f/f0)², 1 at resonance."""
        omega = 2.0 * np.pi * np.asarray(frequency_hz, float)
        return np.asarray(omega**2 * np.asarray(self.inductance_h, float) * np.asarray(self.capacitance_f, float))

    def transfer(self, frequency_hz: ArrayLike) -> FloatArray:
        """Volts over the tip over volts at the tee.

        >>> tip = ProbeTip(12e-12, 100e-9)
        >>> [float((100 * (tip.transfer(f) ** 2 - 1)).round(1)) for f in (7e6, 28e6)]  # per cent of power
        [0.5, 7.9]
        """
        return np.asarray(1.0 / (1.0 - self.resonance_share(frequency_hz)))

    def admittance_s(self, frequency_hz: ArrayLike) -> FloatArray:
        """Susceptance across the tee in S."""
        omega = 2.0 * np.pi * np.asarray(frequency_hz, float)
        return np.asarray(omega * np.asarray(self.capacitance_f, float) * self.transfer(frequency_hz))


def derated_volts(rating: float, frequency_hz: ArrayLike, knee_hz: float = KNEE_HZ) -> FloatArray:
    """Volts that a probe bears: its rating up to the knee, from there falling as 1/f.

    Parameters
    ----------
    rating : float
        Volts peak at low frequency.
    frequency_hz, knee_hz : array
        Frequency, and where the rating begins to fall, Hz.

    Returns
    -------
    array
        Volts peak.

    >>> float(derated_volts(600.0, 30e6))
    40.0
    """
    f = np.asarray(frequency_hz, float)
    return np.asarray(rating * np.minimum(1.0, knee_hz / np.maximum(f, 1.0)))
