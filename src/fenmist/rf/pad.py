"""Matched pads and what a resistive tap is: resistors from attenuation and impedances, and back.

With N = 10^(A/10) between Z1 and Z2: a tee has a shunt of 2·√(N·Z1·Z2)/(N − 1) and series arms Z·(N + 1)/(N − 1) less
that; a pi has a series resistor (N − 1)/2·√(Z1·Z2/N) and shunts whose conductance is (N + 1)/((N − 1)·Z) less its own
(any pad table). Two resistors match unequal impedances with the least loss there is. Page: docs/method/tap.md.
"""

import math
from typing import NamedTuple

import numpy as np

from fenmist.errors import OutOfRangeError


class PadResistors(NamedTuple):
    """Resistors of a pad in Ω, from its near end to its far one: series, shunt, series of a tee; the other of a pi."""

    near_ohm: float
    middle_ohm: float
    far_ohm: float


class MatchingPad(NamedTuple):
    """Two resistors in Ω: in series at the higher impedance, across the lower one."""

    series_ohm: float
    shunt_ohm: float
    loss_db: float


def tee_pad(attenuation_db: float, z0_ohm: float = 50.0, far_ohm: float | None = None) -> PadResistors:
    """A tee between `z0_ohm` and `far_ohm` (the same where not said).

    Raises
    ------
    OutOfRangeError
        Unless the attenuation is above 0 dB, and above what matching the two takes at least.

    >>> [round(value, 1) for value in tee_pad(20.0)]
    [40.9, 10.1, 40.9]
    """
    n, far = _ratio(attenuation_db), far_ohm or z0_ohm
    shunt = 2.0 * math.sqrt(n * z0_ohm * far) / (n - 1.0)
    near_arm, far_arm = ((n + 1.0) / (n - 1.0) * z - shunt for z in (z0_ohm, far))
    _matched(attenuation_db, z0_ohm, far, near_arm, far_arm)
    return PadResistors(near_arm, shunt, far_arm)


def pi_pad(attenuation_db: float, z0_ohm: float = 50.0, far_ohm: float | None = None) -> PadResistors:
    """A pi between `z0_ohm` and `far_ohm`; raises as `tee_pad` does.

    >>> [round(value, 1) for value in pi_pad(10.0)]
    [96.2, 71.2, 96.2]
    """
    n, far = _ratio(attenuation_db), far_ohm or z0_ohm
    series = (n - 1.0) / 2.0 * math.sqrt(z0_ohm * far / n)
    near_g, far_g = ((n + 1.0) / (n - 1.0) / z - 1.0 / series for z in (z0_ohm, far))
    _matched(attenuation_db, z0_ohm, far, near_g, far_g)
    return PadResistors(1.0 / near_g, series, 1.0 / far_g)


def matching_pad(one_ohm: float, other_ohm: float) -> MatchingPad:
    """The two resistors that match unequal impedances with the least loss; the higher one first or second.

    Raises
    ------
    OutOfRangeError
        Where the two are alike.

    >>> [round(value, 2) for value in matching_pad(75.0, 50.0)]
    [43.3, 86.6, 5.72]
    """
    high, low = max(one_ohm, other_ohm), min(one_ohm, other_ohm)
    if not high > low:
        raise OutOfRangeError(f"{high:g} Ω needs no pad to match {low:g} Ω.", "Type two impedances that differ.")
    root = math.sqrt(1.0 - low / high)
    return MatchingPad(high * root, low / root, least_loss_db(high, low))


def least_loss_db(one_ohm: float, other_ohm: float) -> float:
    """What matching two impedances by resistors takes at least."""
    ratio = max(one_ohm, other_ohm) / min(one_ohm, other_ohm)
    return 20.0 * math.log10(math.sqrt(ratio) + math.sqrt(ratio - 1.0))


def _matched(attenuation_db: float, near_ohm: float, far_ohm: float, *arms: float) -> None:
    """Raises OutOfRangeError where an arm would have to be below nothing."""
    if min(arms) <= 0.0:
        raise OutOfRangeError(
            f"{attenuation_db:g} dB is too little to match {near_ohm:g} Ω to {far_ohm:g} Ω.",
            f"That takes at least {least_loss_db(near_ohm, far_ohm):.2f} dB: type more, or take an L pad.",
        )


def _ratio(attenuation_db: float) -> float:
    if not 0.0 < attenuation_db <= 200.0:
        raise OutOfRangeError(f"A pad of {attenuation_db:g} dB has no resistors.", "It lies above 0 dB, up to 200 dB.")
    return float(10.0 ** (attenuation_db / 10.0))


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
