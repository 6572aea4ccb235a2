"""How much of a sine an oscilloscope still shows near the end of its bandwidth.

One pole: |H| = 1/√(1 + (f/fB)²), −3 dB at fB. Gaussian: |H| = exp(−(ln 2/2)·(f/fB)²), the same −3 dB. Flat: 1 up to
fB. Real instruments lie between; the correction itself is therefore uncertain. Above fB/3 such an instrument is not a
reference. Page: docs/method/bandwidth.md.
"""

import math
from enum import StrEnum

import numpy as np
from numpy.typing import ArrayLike, NDArray

FloatArray = NDArray[np.float64]

REFERENCE_LIMIT = 1.0 / 3.0
"""Part of the bandwidth above which a scope is no reference (common practice, no source)."""

COMFORT_LIMIT = 1.0 / 5.0
"""Part of the bandwidth people like to stay under (common practice, no source)."""


class BandwidthModel(StrEnum):
    """Shape of the response."""

    ONE_POLE = "one-pole"
    GAUSSIAN = "gaussian"
    FLAT = "flat"


def response_loss_exponent(frequency_hz: ArrayLike, bandwidth_hz: ArrayLike, model: BandwidthModel) -> FloatArray:
    """−ln |H|, 0 or more. Shapes broadcast; an infinite bandwidth gives 0.

    >>> float(response_loss_exponent(1.0, 3.0, BandwidthModel.ONE_POLE).round(4))
    0.0527
    """
    x = np.asarray(frequency_hz, float) / np.asarray(bandwidth_hz, float)
    if model is BandwidthModel.ONE_POLE:
        return np.asarray(0.5 * np.log1p(x**2))
    if model is BandwidthModel.GAUSSIAN:
        return np.asarray(0.5 * math.log(2.0) * x**2)
    return np.zeros_like(x)
