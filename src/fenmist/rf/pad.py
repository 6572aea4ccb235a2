"""Matched pads and what a resistive tap is: resistors from attenuation and Z0, and back.

With k = 10^(A/20): a tee has two series arms Z0·(k − 1)/(k + 1) and a shunt of 2·Z0·k/(k² − 1); a pi has two shunts
Z0·(k + 1)/(k − 1) and a series resistor Z0·(k² − 1)/(2k) (any pad table). Page: docs/method/tap.md.
"""

from typing import NamedTuple

import numpy as np

from fenmist.errors import OutOfRangeError


class PadResistors(NamedTuple):
    """Resistors of a symmetric pad in Ω: each of its two series or shunt arms alike."""

    series_ohm: float
    shunt_ohm: float


def tee_pad(attenuation_db: float, z0_ohm: float = 50.0) -> PadResistors:
    """Two series arms and one shunt; raises OutOfRangeError unless the attenuation is above 0 dB.

    >>> [round(value, 1) for value in tee_pad(20.0)]
    [40.9, 10.1]
    """
    k = _ratio(attenuation_db)
    return PadResistors(z0_ohm * (k - 1.0) / (k + 1.0), 2.0 * z0_ohm * k / (k**2 - 1.0))


def pi_pad(attenuation_db: float, z0_ohm: float = 50.0) -> PadResistors:
    """One series resistor and two shunt arms; raises OutOfRangeError unless the attenuation is above 0 dB.

    >>> [round(value, 1) for value in pi_pad(10.0)]
    [71.2, 96.2]
    """
    k = _ratio(attenuation_db)
    return PadResistors(z0_ohm * (k**2 - 1.0) / (2.0 * k), z0_ohm * (k + 1.0) / (k - 1.0))


def _ratio(attenuation_db: float) -> float:
    if not attenuation_db > 0:
        raise OutOfRangeError(f"A pad of {attenuation_db:g} dB has no resistors.", "Its attenuation is above 0 dB.")
    return float(10.0 ** (attenuation_db / 20.0))


def tap_coupling_db(r1_ohm: float, r2_ohm: float, sensor_ohm: float, z0_ohm: float = 50.0) -> float:
    """Line power over sensor power of a resistive tap, with R2 ∥ sensor as it is.

    >>> round(tap_coupling_db(2460.0, 50.0, 50.0), 2)
    39.95
    """
    rp = 1.0 / (1.0 / r2_ohm + 1.0 / sensor_ohm)
    return float(20.0 * np.log10((r1_ohm + rp) / rp) + 10.0 * np.log10(sensor_ohm / z0_ohm))


def transformer_coupling_db(turns: float, rp_ohm: float, sensor_ohm: float, z0_ohm: float = 50.0) -> float:
    """Line power over sensor power of a current transformer, `rp_ohm` the sensor with what lies across it.

    >>> round(transformer_coupling_db(10.0, 25.0, 50.0), 1), round(transformer_coupling_db(10.0, 50.0, 50.0), 1)
    (26.0, 20.0)
    """
    return float(10.0 * np.log10(turns**2 * z0_ohm * sensor_ohm / rp_ohm**2))
