"""Levels and powers: dBm is 10·log10(P / 1 mW); a ratio in dB is 10·log10 of a power ratio."""

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

FloatArray = NDArray[np.float64]

DB_PER_NEPER = 10.0 / math.log(10.0)
"""dB for a natural logarithm of powers."""


def dbm_from_watts(power_w: ArrayLike) -> FloatArray:
    """Level in dBm of a power in W; minus infinity at 0 W. Any shape.

    Parameters
    ----------
    power_w : array
        W, 0 or above.

    Returns
    -------
    array
        dBm.

    >>> float(dbm_from_watts(100.0))
    50.0
    """
    with np.errstate(divide="ignore"):
        return np.asarray(10.0 * np.log10(np.asarray(power_w, float) / 1e-3))


def watts_from_dbm(power_dbm: ArrayLike) -> FloatArray:
    """Power in W of a level in dBm. Any shape.

    Parameters
    ----------
    power_dbm : array
        dBm.

    Returns
    -------
    array
        W.
    """
    return np.asarray(1e-3 * 10.0 ** (np.asarray(power_dbm, float) / 10.0))


def db_from_ratio(power_ratio: ArrayLike) -> FloatArray:
    """A power ratio in dB; minus infinity at 0. Any shape.

    Parameters
    ----------
    power_ratio : array
        0 or above.

    Returns
    -------
    array
        dB.
    """
    with np.errstate(divide="ignore"):
        return np.asarray(10.0 * np.log10(np.asarray(power_ratio, float)))


def ratio_from_db(ratio_db: ArrayLike) -> FloatArray:
    """A power ratio from dB. Any shape.

    Parameters
    ----------
    ratio_db : array
        dB.

    Returns
    -------
    array
        Power ratio.
    """
    return np.asarray(10.0 ** (np.asarray(ratio_db, float) / 10.0))
