"""The match at the tee as a complex quantity, and its SWR as a window that can't go below 1.

Γ is known by real and imaginary part, each with its own budget. Its magnitude, and so the SWR, bends at 0: 1.02 ± 0.02
would go below 1. Where the linear interval does that, or the magnitude bends within its uncertainty, Monte Carlo takes
over, and that is said. Page: docs/method/reflection.md.
"""

from collections.abc import Mapping

import numpy as np

from fenmist.frozen import dataclass
from fenmist.methods.scope_across_load import ScopeReadings, power_influences, reflection_model
from fenmist.uncertainty.complexvalue import ComplexEstimate, propagate_complex
from fenmist.uncertainty.influence import FloatArray, Inputs
from fenmist.uncertainty.montecarlo import monte_carlo
from fenmist.uncertainty.propagation import bends, propagate

TRIALS = 50_000
"""Draws where the SWR's window is drawn."""


@dataclass(frozen=True, eq=False)
class Match:
    """Reflection and SWR at the tee, of one point."""

    reflection: ComplexEstimate
    swr: float
    swr_interval: tuple[float, float]  # about 95 %
    engine: str  # "linear" or "Monte Carlo"
    linear_low: float  # where the linear interval would begin; below 1 it makes no sense


def match_at_tee(readings: ScopeReadings) -> Match:
    """The match seen from the source at the first point: load, tee and what hangs on it."""
    here = readings.take(np.array([0]))
    inputs = Inputs(power_influences(here))
    reflection = reflection_model(here)
    gamma = propagate_complex(reflection, inputs, {"tee": ("reflection at the tee", "")})["tee"]

    def swr(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        rho = np.minimum(np.abs(reflection(x)["tee"]), 0.999999)
        return {"swr": (1.0 + rho) / (1.0 - rho)}

    linear = propagate(swr, inputs, {"swr": ("SWR at the tee", "")})
    value, expanded = float(linear["swr"].value[0]), float(linear["swr"].expanded_u[0])
    if not bends(swr, inputs, linear, {"swr": 1.0})[0]:
        return Match(gamma, value, (value - expanded, value + expanded), "linear", value - expanded)
    drawn = monte_carlo(swr, inputs, ["swr"], trials=TRIALS)["swr"]
    interval = (float(drawn.low[0]), float(drawn.high[0]))
    return Match(gamma, value, interval, "Monte Carlo", min(value - expanded, 1.0))
