"""A thermocouple's heater as shells: current crowds into its skin because the inner ones link more flux.

Concentric tubes side by side, each with its resistance, and the flux that any two of them link; solved as a network, so
that it shares nothing with the closed form that it tests.
"""

import math
from functools import lru_cache

import numpy as np

from fenmist.frozen import dataclass

SHELLS = 60
RETURN = 100.0
"""Radii away at which the current comes back: it adds the same flux to all."""

OHM_M = 0.49e-6
"""Resistivity of a heater's alloy, Ω·m (handbooks of materials, from memory)."""

THIN_M = 5e-5
"""Of a heater that nobody described (order of magnitude, no source)."""


@dataclass(frozen=True)
class TrueHeater:
    """Its wire; `scale` says how much more or less its resistance rises than such a wire's."""

    wire_m: float = THIN_M
    scale: float = 1.0

    def rise(self, frequency_hz: float) -> float:
        """Resistance over that at DC."""
        return 1.0 + self.scale * (_rise(self.wire_m, frequency_hz) - 1.0)


@lru_cache(maxsize=256)
def _rise(wire_m: float, frequency_hz: float) -> float:
    edges = np.linspace(0.0, wire_m / 2.0, SHELLS + 1)
    areas = math.pi * (edges[1:] ** 2 - edges[:-1] ** 2)
    middles = np.sqrt((edges[1:] ** 2 + edges[:-1] ** 2) / 2.0)
    further = np.maximum.outer(middles, middles)
    linked = 2e-7 * np.log(RETURN * wire_m / further)  # H/m: μ₀/2π of it
    impedance = np.diag(OHM_M / areas) + 2j * math.pi * frequency_hz * linked
    through = np.linalg.solve(impedance, np.ones(SHELLS)).sum()
    return float((1.0 / through).real * areas.sum() / OHM_M)
