"""The lead from a tee to a high-impedance input: a lossless line that ends in a capacitance.

It draws no power, but the scope sees other volts than the tee has, and the tee sees a susceptance in parallel with
the load. With electrical length θ = βl and q = ω·C·Zc: V_end/V_tee = 1/(cos θ − q·sin θ); the stub's susceptance is
tan(θ + atan q)/Zc. Loss of the lead and the input's 1 MΩ are left out (below 0.1 % of power for leads under 2 m at
HF). At θ + atan q = 90° the stub shorts the line: nothing can be measured near there. Page: docs/method/stub.md.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

FloatArray = NDArray[np.float64]

SPEED_OF_LIGHT_M_S = 299_792_458.0
"""Exact (SI)."""


def electrical_length_rad(frequency_hz: ArrayLike, length_m: ArrayLike, velocity_factor: ArrayLike) -> FloatArray:
    """θ = 2π·f·l/(v·c) in radians. Shapes broadcast."""
    f, length, v = (np.asarray(item, float) for item in (frequency_hz, length_m, velocity_factor))
    return np.asarray(2.0 * np.pi * f * length / (v * SPEED_OF_LIGHT_M_S))


def stub_phase_rad(
    frequency_hz: ArrayLike,
    length_m: ArrayLike,
    velocity_factor: ArrayLike,
    capacitance_f: ArrayLike,
    line_ohm: ArrayLike = 50.0,
) -> FloatArray:
    """θ + atan q: the lead with its end as one electrical length; π/2 is resonance. Shapes broadcast."""
    theta = electrical_length_rad(frequency_hz, length_m, velocity_factor)
    reactance = 2.0 * np.pi * np.asarray(frequency_hz, float) * np.asarray(capacitance_f, float)
    return np.asarray(theta + np.arctan(reactance * np.asarray(line_ohm, float)))


def stub_voltage_ratio(
    frequency_hz: ArrayLike,
    length_m: ArrayLike,
    velocity_factor: ArrayLike,
    capacitance_f: ArrayLike,
    line_ohm: ArrayLike = 50.0,
) -> FloatArray:
    """Volts at the input over volts at the tee; negative past resonance. Shapes broadcast.

    >>> float((stub_voltage_ratio(28e6, 0.3, 0.66, 16e-12) ** 2 - 1).round(2))  # of power
    0.16
    """
    theta = electrical_length_rad(frequency_hz, length_m, velocity_factor)
    q = 2.0 * np.pi * np.asarray(frequency_hz, float) * np.asarray(capacitance_f, float) * np.asarray(line_ohm, float)
    return np.asarray(1.0 / (np.cos(theta) - q * np.sin(theta)))


def stub_susceptance_s(
    frequency_hz: ArrayLike,
    length_m: ArrayLike,
    velocity_factor: ArrayLike,
    capacitance_f: ArrayLike,
    line_ohm: ArrayLike = 50.0,
) -> FloatArray:
    """Susceptance in S that the lead puts across the tee. Shapes broadcast."""
    phase = stub_phase_rad(frequency_hz, length_m, velocity_factor, capacitance_f, line_ohm)
    return np.asarray(np.tan(phase) / np.asarray(line_ohm, float))
