"""Skin effect in a round wire: its resistance at radio frequency over that at DC.

Exactly, by Bessel functions: R/R₀ = Re[(ka/2)·J₀(ka)/J₁(ka)], k = (1 − j)/δ, a the radius, δ = √(ρ/(π·f·μ₀)). Any
textbook of electromagnetic fields, from memory. Of a wire alone in air; what lies beside it crowds the current further.
"""

import math

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError

MU_0 = 4e-7 * math.pi
"""Magnetic constant, H/m (CODATA to ten figures, from memory)."""

HEATER_OHM_M = 0.49e-6
"""Resistivity of the copper-nickel alloy that heaters are drawn of, Ω·m (handbooks of materials, from memory)."""


def skin_depth_m(frequency_hz: NDArray[np.float64], ohm_m: float) -> NDArray[np.float64]:
    """Depth at which the current has fallen to 1/e, m.

    Examples
    --------
    >>> round(float(skin_depth_m(np.array([1e6]), 1.72e-8)[0]) * 1e6)
    66
    """
    return np.asarray(np.sqrt(ohm_m / (math.pi * np.asarray(frequency_hz) * MU_0)))


def resistance_rise(
    diameter_m: float, frequency_hz: NDArray[np.float64], ohm_m: float = HEATER_OHM_M
) -> NDArray[np.float64]:
    """Resistance of a round wire over that at DC, shape (n,).

    Parameters
    ----------
    diameter_m : float
        Of the wire, m, above 0.
    frequency_hz : array, shape (n,)
        Above 0.
    ohm_m : float
        Resistivity of what it is made of, Ω·m; no magnetic material.

    Raises
    ------
    OutOfRangeError
        Of a wire of no thickness.

    Examples
    --------
    >>> round(float(resistance_rise(1e-3, np.array([1e6]))[0]), 3)
    1.079
    """
    if not diameter_m > 0.0:
        raise OutOfRangeError(f"A wire of {diameter_m:g} m has no resistance.", "Give its diameter, above 0.")
    from scipy.special import jve  # on first use

    turn = np.asarray((1.0 - 1.0j) * diameter_m / 2.0 / skin_depth_m(frequency_hz, ohm_m), np.complex128)
    ratio = np.asarray(jve(0, turn) / jve(1, turn), np.complex128)
    return np.asarray(np.maximum((turn / 2.0 * ratio).real, 1.0), np.float64)
