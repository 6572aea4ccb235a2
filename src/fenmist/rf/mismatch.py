"""What unknown phases cost: mismatch between parts of which only SWRs are known, and what loss does to SWR.

Two reflections that face each other, A dB (one way) apart, divide what passes by |1 − Γ1·Γ2·10^(−A/10)·e^jφ|².
To first order the relative standard uncertainty of that is √2·√(E|Γ1|²)·√(E|Γ2|²)·10^(−A/10), where E|Γ|² is m² for a
known magnitude m (U-shaped, √2·m1·m2) and c²/2 where a data sheet gives only a ceiling c and Γ may lie anywhere in the
disc (two such: c1·c2/√2). Page: docs/method/mismatch.md.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]


def mismatch_limits_db(reflection_1: ArrayLike, reflection_2: ArrayLike) -> tuple[FloatArray, FloatArray]:
    """Largest gain and largest loss, 20·log10(1 ± |Γ1·Γ2|) in dB, any shape.

    Parameters
    ----------
    reflection_1, reflection_2 : array
        |Γ| of the two that face each other, 0 to 1; shapes broadcast.

    Returns
    -------
    tuple of arrays
        Largest gain (0 or above) and largest loss (0 or below), dB.

    >>> [float(limit.round(3)) for limit in mismatch_limits_db(1 / 11, 1 / 5)]  # SWR 1.2 and 1.5
    [0.157, -0.159]
    """
    product = np.asarray(reflection_1, float) * np.asarray(reflection_2, float)
    with np.errstate(divide="ignore"):
        return np.asarray(20.0 * np.log10(1.0 + product)), np.asarray(20.0 * np.log10(1.0 - product))


@dataclass(frozen=True, eq=False)
class Facing:
    """A reflection on the line: how large, whether that is its magnitude or only a ceiling, and how far along.

    Arrays have one shape.
    """

    reflection: float | FloatArray
    is_ceiling: bool
    towards_load: bool  # True: an input, met by waves going to the load; False: an output, met by those coming back
    loss_before_db: float | FloatArray  # one-way loss from the source to this place
    section: int = -1  # places of one section are joined by known phases: they are a correction, not an uncertainty

    @property
    def mean_square(self) -> float | FloatArray:
        """E|Γ|²."""
        return self.reflection**2 / (2.0 if self.is_ceiling else 1.0)


def mismatch_u(facing: Sequence[Facing]) -> FloatArray:
    """Relative standard uncertainty of the power at the end of a line with unknown phases: all pairs that face.

    Parameters
    ----------
    facing : sequence of Facing
        In order from source to load; an output faces every input behind it.

    Returns
    -------
    array
        Of the shape of what they hold.
    """
    total: float | FloatArray = 0.0
    for number, near in enumerate(facing):
        if near.towards_load:
            continue
        for far in facing[number + 1 :]:
            if far.towards_load and not (near.section == far.section >= 0):
                between = far.loss_before_db - near.loss_before_db
                total = total + 2.0 * near.mean_square * far.mean_square * 10.0 ** (-between / 5.0)
    return np.asarray(np.sqrt(total))


def reflection_behind_loss(reflection_magnitude: ArrayLike, loss_db: ArrayLike) -> FloatArray:
    """|Γ| seen in front of a matched one-way loss: ρ·10^(−A/10), any shape.

    A negative loss goes the other way: from what is seen to what the load has.

    Parameters
    ----------
    reflection_magnitude : array
        |Γ| of the load, 0 to 1.
    loss_db : array
        One-way matched loss in dB.

    Returns
    -------
    array
        |Γ| as seen; shapes broadcast.

    >>> from fenmist.rf.reflection import swr_from_reflection
    >>> [float(swr_from_reflection(reflection_behind_loss(0.5, loss)).round(2)) for loss in (1.0, 3.0)]
    [2.32, 1.67]
    """
    return np.asarray(np.asarray(reflection_magnitude, float) * 10.0 ** (-np.asarray(loss_db, float) / 10.0))


def mismatched_line_loss_db(matched_loss_db: ArrayLike, reflection_magnitude: ArrayLike) -> FloatArray:
    """Loss of a line that ends in a reflection, any shape: 10·log10((a² − ρ²)/(a·(1 − ρ²))), a = 10^(A/10).

    Parameters
    ----------
    matched_loss_db : array
        One-way loss of the matched line in dB.
    reflection_magnitude : array
        |Γ| of the load, 0 to below 1.

    Returns
    -------
    array
        Loss in dB from the net power that goes in to the net power in the load.

    >>> float(mismatched_line_loss_db(3.0, 0.5).round(2))
    3.97
    """
    a = 10.0 ** (np.asarray(matched_loss_db, float) / 10.0)
    rho2 = np.asarray(reflection_magnitude, float) ** 2
    return np.asarray(10.0 * np.log10((a**2 - rho2) / (a * (1.0 - rho2))))


def substitution_factor(source: ArrayLike, first: ArrayLike, second: ArrayLike) -> FloatArray:
    """Power incident on the second of two instruments over that on the first, put in one place one after the other.

    Parameters
    ----------
    source, first, second : array of complex
        Γ of the source and of the two instruments, all at one plane.

    Returns
    -------
    array
        Ratio of the incident powers.

    Notes
    -----
    |1 − Γg·Γ1|²/|1 − Γg·Γ2|² with complex Γ, any shape: of two instruments read at once on one line it drops out, of
    substituted ones it doesn't.

    >>> float(substitution_factor(0.2, 0.1, -0.1).round(3))
    0.923
    """
    g, one, two = (np.asarray(item, complex) for item in (source, first, second))
    return np.asarray(np.abs((1.0 - g * one) / (1.0 - g * two)) ** 2)
