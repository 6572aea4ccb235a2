"""How much of a sine an oscilloscope still shows near the end of its bandwidth.

One pole: |H| = 1/√(1 + (f/fB)²), −3 dB at fB. Gaussian: |H| = exp(−(ln 2/2)·(f/fB)²), the same −3 dB. Flat: 1 up to
fB. Unknown: anywhere from flat to one pole. Real instruments lie between; the correction itself is therefore
uncertain. Above fB/3 such an instrument is not a reference. Page: docs/method/bandwidth.md.
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
    UNKNOWN = "unknown"


def response_loss_exponent(frequency_hz: ArrayLike, bandwidth_hz: ArrayLike, model: BandwidthModel) -> FloatArray:
    """−ln |H|, 0 or more: the best value. Shapes broadcast; an infinite bandwidth gives 0.

    Parameters
    ----------
    frequency_hz, bandwidth_hz : array
        In Hz; bandwidth at −3 dB.
    model : BandwidthModel
        Shape of the response.

    Returns
    -------
    array
        Nepers, 0 or above.

    >>> float(response_loss_exponent(1.0, 3.0, BandwidthModel.ONE_POLE).round(4))
    0.0527
    """
    if model is BandwidthModel.UNKNOWN:
        return np.asarray(0.5 * _one_pole(frequency_hz, bandwidth_hz))
    shapes = {BandwidthModel.ONE_POLE: _one_pole, BandwidthModel.GAUSSIAN: _gaussian, BandwidthModel.FLAT: _flat}
    return shapes[model](frequency_hz, bandwidth_hz)


def response_limit_exponent(frequency_hz: ArrayLike, bandwidth_hz: ArrayLike, model: BandwidthModel) -> FloatArray:
    """± limit of −ln |H| about its best value: the whole correction where a shape is stated, half the one-pole loss
    where none is; half the Gaussian loss, up or down, for an instrument that is said to be flat.

    Parameters
    ----------
    frequency_hz, bandwidth_hz : array
        In Hz; bandwidth at −3 dB.
    model : BandwidthModel
        Shape of the response.

    Returns
    -------
    array
        Nepers, 0 or above.
    """
    if model is BandwidthModel.UNKNOWN:
        return np.asarray(0.5 * _one_pole(frequency_hz, bandwidth_hz))
    if model is BandwidthModel.FLAT:
        return np.asarray(0.5 * _gaussian(frequency_hz, bandwidth_hz))
    return response_loss_exponent(frequency_hz, bandwidth_hz, model)


def system_bandwidth_hz(*bandwidths_hz: float) -> float:
    """Bandwidth of stages in a row, 1/√Σ(1/f²): exact for Gaussian responses, usual for others; infinite for none.

    >>> round(system_bandwidth_hz(100e6, 60e6) / 1e6, 1)
    51.4
    """
    total = sum(1.0 / bandwidth**2 for bandwidth in bandwidths_hz)
    return 1.0 / math.sqrt(total) if total > 0 else math.inf


def _ratio(frequency_hz: ArrayLike, bandwidth_hz: ArrayLike) -> FloatArray:
    return np.asarray(np.asarray(frequency_hz, float) / np.asarray(bandwidth_hz, float))


def _one_pole(frequency_hz: ArrayLike, bandwidth_hz: ArrayLike) -> FloatArray:
    return np.asarray(0.5 * np.log1p(_ratio(frequency_hz, bandwidth_hz) ** 2))


def _gaussian(frequency_hz: ArrayLike, bandwidth_hz: ArrayLike) -> FloatArray:
    return np.asarray(0.5 * math.log(2.0) * _ratio(frequency_hz, bandwidth_hz) ** 2)


def _flat(frequency_hz: ArrayLike, bandwidth_hz: ArrayLike) -> FloatArray:
    return np.zeros_like(_ratio(frequency_hz, bandwidth_hz))
