"""From a standard uncertainty to an interval: Student's t at 95.45 % (JCGM 100:2008, annex G)."""

from statistics import NormalDist

import numpy as np
from numpy.typing import ArrayLike

from fenmist.uncertainty.influence import FloatArray

COVERAGE = 0.9545
"""Coverage probability that makes k = 2.00 for infinitely many degrees of freedom."""

_UPPER = (1.0 + COVERAGE) / 2.0


def coverage_factor(dof: ArrayLike) -> FloatArray:
    """k for 95.45 % from degrees of freedom > 0, any shape; not truncated to whole numbers.

    >>> float(coverage_factor(np.inf).round(2))
    2.0
    >>> float(coverage_factor(4.0).round(2))
    2.87
    """
    nu = np.asarray(dof, float)
    k = np.full(nu.shape, NormalDist().inv_cdf(_UPPER))
    finite = nu < 1e6
    if np.any(finite):
        from scipy.special import stdtrit  # 0.2 s to import: on first use

        k[finite] = stdtrit(nu[finite], _UPPER)
    return k
