"""From a standard uncertainty to an interval: Student's t at 95.45 % (JCGM 100:2008, annex G)."""

from statistics import NormalDist

import numpy as np
from numpy.typing import ArrayLike

from fenmist.uncertainty.influence import FloatArray

COVERAGE = 0.9545
"""Coverage probability that makes k = 2.00 for infinitely many degrees of freedom."""

_UPPER = (1.0 + COVERAGE) / 2.0
_Z = NormalDist().inv_cdf(_UPPER)
_MANY = 60.0
"""Degrees of freedom from which four terms of the expansion in 1/ν are exact to 1e-7."""


def _expansion(dof: FloatArray) -> FloatArray:
    """Student's quantile for many degrees of freedom (Abramowitz and Stegun 26.7.5)."""
    z, nu = _Z, dof
    return np.asarray(
        z
        + (z**3 + z) / (4.0 * nu)
        + (5.0 * z**5 + 16.0 * z**3 + 3.0 * z) / (96.0 * nu**2)
        + (3.0 * z**7 + 19.0 * z**5 + 17.0 * z**3 - 15.0 * z) / (384.0 * nu**3)
    )


def coverage_factor(dof: ArrayLike) -> FloatArray:
    """k for 95.45 % from degrees of freedom > 0, any shape; not truncated to whole numbers.

    Parameters
    ----------
    dof : array
        Degrees of freedom, above 0; infinite for a normal.

    Returns
    -------
    array
        k of the same shape.

    >>> float(coverage_factor(np.inf).round(2))
    2.0
    >>> float(coverage_factor(4.0).round(2))
    2.87
    """
    nu = np.asarray(dof, float)
    k = _expansion(np.maximum(nu, _MANY))
    few = nu < _MANY
    if np.any(few):
        from scipy.special import stdtrit  # 0.3 s to import, so only where few readings make it needed

        k = np.where(few, stdtrit(nu, _UPPER), k)
    return k


def one_sided(probability: float, dof: float) -> float:
    """Student's quantile of a probability: so many standard uncertainties above a value it lies with that.

    Parameters
    ----------
    probability, dof : float
        0.5 to below 1; degrees of freedom above 0, infinite for a normal.

    >>> round(one_sided(0.95, np.inf), 3)
    1.645
    >>> round(one_sided(0.95, 4.0), 3)
    2.132
    """
    if np.isinf(dof):
        return NormalDist().inv_cdf(probability)
    from scipy.special import stdtrit

    return float(stdtrit(dof, probability))
