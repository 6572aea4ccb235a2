"""What a harmonic does to each way of taking a steady carrier's volts or power.

A harmonic of relative voltage h and unknown phase moves a reading to first order in h: a peak by h·cos φ, peak to
peak by the same for odd ones and not for even ones (both crests move, in opposite ways), an average-responding
detector by ∓h·cos φ/n for odd n (down where the third lifts the crest: the Fourier series of the rectifier's sign),
rms by h²/2 whatever the phase, a fit of the fundamental not at all. Powers move twice as much. Second order in h is
left out: below a fifth of the effect down to −20 dBc. Page: docs/method/harmonics.md.
"""

from collections.abc import Mapping
from enum import StrEnum
from types import MappingProxyType

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]

ASSUMED_DBC = -40.0
"""Harmonics of a source of which nothing is known: at most this much (common practice, no source)."""


class Responds(StrEnum):
    """To what of the waveform a reading responds."""

    PEAK = "one crest"
    PEAK_TO_PEAK = "both crests"
    AVERAGE = "average of the rectified volts"
    RMS = "rms"
    FUNDAMENTAL = "fundamental only"


RESPONDS_OF_FORM: Mapping[str, Responds] = MappingProxyType(
    {"Vpp": Responds.PEAK_TO_PEAK, "Vpk": Responds.PEAK, "Vrms": Responds.RMS, "fit": Responds.FUNDAMENTAL}
)
"""By the form in which volts were taken; `fit` is a sine fitted to a capture."""


@dataclass(frozen=True)
class Harmonics:
    """Relative volts of a source's harmonics by order, and whether they were measured or are only a ceiling."""

    ratios: Mapping[int, float]
    measured: bool = False


def harmonics_from_dbc(levels_dbc: Mapping[int, float], measured: bool) -> Harmonics:
    """From levels in dB over the carrier (negative)."""
    return Harmonics({order: 10.0 ** (level / 20.0) for order, level in levels_dbc.items()}, measured)


def volts_weight(order: int, responds: Responds) -> float:
    """Relative change of the indicated volts per relative volt of a harmonic with cos φ = 1, first order.

    >>> [round(volts_weight(3, way), 3) for way in Responds]
    [1.0, 1.0, -0.333, 0.0, 0.0]
    """
    if responds is Responds.PEAK:
        return 1.0
    if order % 2 == 0:
        return 0.0
    rectified = (1.0 if order % 4 == 1 else -1.0) / order
    return {Responds.PEAK_TO_PEAK: 1.0, Responds.AVERAGE: rectified}.get(responds, 0.0)


def rms_excess(ratios: Mapping[int, ArrayLike]) -> FloatArray:
    """Relative amount by which rms volts exceed those of the fundamental: √(1 + Σh²) − 1.

    Parameters
    ----------
    ratios : mapping
        Volts of each harmonic over the fundamental, by order.

    Returns
    -------
    float
        Relative, 0 or above.
    """
    total = sum((np.asarray(ratio, float) ** 2 for ratio in ratios.values()), start=np.zeros(()))
    return np.asarray(np.sqrt(1.0 + total) - 1.0)


def power_effects(ratios: Mapping[int, float]) -> dict[Responds, tuple[float, float]]:
    """Lowest and highest relative change of an indicated power, over all phases, by what the reading responds to.

    >>> [round(100 * high, 2) for _, high in power_effects({2: 0.01, 3: 0.01}).values()]
    [4.0, 2.0, 0.67, 0.02, 0.0]
    """
    found = {}
    for way in Responds:
        reach = 2.0 * sum(ratio * abs(volts_weight(order, way)) for order, ratio in ratios.items())
        rise = sum(ratio**2 for ratio in ratios.values()) if way is Responds.RMS else 0.0
        found[way] = (rise - reach, rise + reach)
    return found
