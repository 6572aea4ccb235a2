"""What an instrument's connector is put to: phasors of the carrier and its harmonics at the envelope's crest."""

import math
from collections.abc import Mapping
from functools import cache

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass

PERIOD = 720
"""Samples of one period of the carrier."""


@dataclass(frozen=True)
class Put:
    """Phasors, rms, by order; 1 is the carrier."""

    frequency_hz: float
    volts: Mapping[int, complex]
    amperes: Mapping[int, complex]  # into the part
    z0_ohm: float = 50.0

    def waves(self, order: int) -> tuple[complex, complex]:
        """Into the part and out of it, √W."""
        v, i, root = self.volts[order], self.amperes[order], math.sqrt(self.z0_ohm)
        return (v + self.z0_ohm * i) / (2.0 * root), (v - self.z0_ohm * i) / (2.0 * root)

    @property
    def incident_w(self) -> float:
        """Power of all waves into it."""
        return sum(abs(self.waves(order)[0]) ** 2 for order in self.volts)


def rectified(phasors: Mapping[int, complex]) -> float:
    """Mean of the rectified sum, as rms of the sine that has the same; the carrier alone gives its own rms."""
    if len(phasors) == 1:
        return abs(phasors[1])
    return float(np.mean(np.abs(over_a_period(phasors)))) * math.pi / (2.0 * math.sqrt(2.0))


def highest(phasors: Mapping[int, complex]) -> float:
    """Crest of the sum, as rms of the sine that has the same: what a peak diode takes."""
    if len(phasors) == 1:
        return abs(phasors[1])
    return float(np.max(over_a_period(phasors))) / math.sqrt(2.0)


def together(phasors: Mapping[int, complex]) -> float:
    """Root of the sum of squares: what heats."""
    return math.sqrt(sum(abs(one) ** 2 for one in phasors.values()))


def over_a_period(phasors: Mapping[int, complex]) -> NDArray[np.float64]:
    """The sum over one period of the carrier, shape (PERIOD,)."""
    return np.asarray((np.array([*phasors.values()]) @ _turns(tuple(phasors))).real)


@cache
def _turns(orders: tuple[int, ...]) -> NDArray[np.complex128]:
    """Crest phasors of one volt rms, a row for each order, as they turn over that period."""
    return np.asarray(math.sqrt(2.0) * np.exp(2j * math.pi / PERIOD * np.outer(orders, np.arange(PERIOD))))
