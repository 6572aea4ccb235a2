"""Whether several estimates of one quantity agree, what they say together, and which of them is the odd one.

Consensus by generalised least squares with their whole covariance, so that what two of them share is counted once:
c = (1ᵀV⁻¹1)⁻¹·1ᵀV⁻¹y, χ² = (y − c)ᵀV⁻¹(y − c) with m − 1 degrees of freedom. Two are compared by their difference over
its expanded uncertainty (En), shared parts taken out. One is named where the others agree without it and no other one's
absence would mend it. Quantities with errors in per cent belong in here as logarithms: their weights then don't follow
their own values. Page: docs/method/agreement.md.
"""

from collections.abc import Sequence
from itertools import combinations

import numpy as np
from numpy.typing import ArrayLike

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.uncertainty.influence import FloatArray

IMPROBABLE = 0.05
"""Probability of χ² below which estimates are said to disagree (common practice)."""

LEANING = 0.7
"""Correlation from which two estimates are said to lean on one thing: half of the variance of each is shared (Fenmist's
own, no source)."""

K = 2.0
"""Coverage factor of differences and of the consensus."""


@dataclass(frozen=True)
class Pair:
    """Two estimates, by their places."""

    a: int
    b: int
    difference: float
    u: float  # standard uncertainty of the difference
    correlation: float

    @property
    def en(self) -> float:
        """The difference over its expanded uncertainty, k = 2; at most 1 in size where they agree."""
        return self.difference / (K * self.u) if self.u > 0 else float(np.copysign(np.inf, self.difference))


@dataclass(frozen=True)
class Agreement:
    """What m estimates of one quantity say together."""

    value: float
    u: float  # standard
    weights: tuple[float, ...]  # of the estimates; they sum to 1
    chi_squared: float
    probability: float  # of a χ² as large or larger, were all stated uncertainties right
    pairs: tuple[Pair, ...]
    apart: tuple[float, ...]  # each less the consensus of the others
    off: tuple[float, ...]  # the same over the expanded uncertainty of that difference
    odd: int | None  # place of the one that the others agree without

    @property
    def expanded_u(self) -> float:
        """U of the consensus, k = 2."""
        return K * self.u

    @property
    def agrees(self) -> bool:
        """Whether χ² is no less probable than one in twenty."""
        return self.probability >= IMPROBABLE

    @property
    def leaning(self) -> tuple[Pair, ...]:
        """Pairs that agree, and share so much that it says little."""
        return tuple(item for item in self.pairs if item.correlation >= LEANING and abs(item.en) <= 1.0)

    @property
    def outside(self) -> bool:
        """Whether a weight is negative: the consensus then may lie outside of all values."""
        return min(self.weights) < 0.0


def agreement(values: ArrayLike, covariance: ArrayLike) -> Agreement:
    """What estimates of one quantity say together.

    Parameters
    ----------
    values : array, shape (m,)
        In one unit, or as logarithms.
    covariance : array, shape (m, m)
        Of those values, in the square of that unit.

    Raises
    ------
    OutOfRangeError
        Where there are none, or some are known so well, or so much alike, that no weights follow.

    >>> made = agreement([22.5, 25.6], [[0.8**2, 0.0], [0.0, 1.0]])
    >>> [round(item, 2) for item in (made.value, made.expanded_u, made.chi_squared, made.pairs[0].en)]
    [23.71, 1.25, 5.86, -1.21]
    """
    y, v = np.asarray(values, float), np.asarray(covariance, float)
    if y.ndim != 1 or not y.size or v.shape != (y.size, y.size):
        raise OutOfRangeError("There is nothing to compare.", "Give two values or more, each with its uncertainty.")
    value, variance, weights = _consensus(y, v)
    chi, probability = _chi_squared(y, v, value)
    places = range(y.size)
    pairs = tuple(_pair(y, v, a, b) for a, b in combinations(places, 2))
    against = [_against_others(y, v, place) for place in places]
    apart, off = (tuple(column) for column in zip(*against, strict=True))
    odd = _odd(y, v, off) if probability < IMPROBABLE else None
    return Agreement(
        value, float(np.sqrt(variance)), tuple(map(float, weights)), chi, probability, pairs, apart, off, odd
    )  # fmt: skip


def _consensus(y: FloatArray, v: FloatArray) -> tuple[float, float, FloatArray]:
    """Value, variance and weights."""
    scale = np.sqrt(np.diag(v))
    if np.any(scale <= 0.0):
        raise OutOfRangeError(
            "One of the values has no uncertainty.", "Give each what it is known to: nothing is known exactly."
        )
    r = v / np.outer(scale, scale)
    lowest = float(np.linalg.eigvalsh(r)[0])
    if lowest < -1e-9:
        raise OutOfRangeError("More is shared than each of them is known to.", "Give a smaller shared uncertainty.")
    if lowest < 1e-12 and y.size > 1:
        raise OutOfRangeError(
            "Some of the values lean entirely on the same thing.", "Take one of them out: it says nothing of its own."
        )
    at = np.linalg.solve(r, 1.0 / scale) / scale  # V⁻¹·1, scaled so that any unit does
    total = float(at.sum())
    weights = at / total
    return float(weights @ y), 1.0 / total, weights


def _chi_squared(y: FloatArray, v: FloatArray, value: float) -> tuple[float, float]:
    from scipy.special import chdtrc  # heavy: imported on first use

    scale = np.sqrt(np.diag(v))
    left = (y - value) / scale
    chi = float(left @ np.linalg.solve(v / np.outer(scale, scale), left))
    return chi, float(chdtrc(y.size - 1, chi)) if y.size > 1 else 1.0


def _pair(y: FloatArray, v: FloatArray, a: int, b: int) -> Pair:
    variance = max(float(v[a, a] + v[b, b] - 2.0 * v[a, b]), 0.0)
    return Pair(a, b, float(y[a] - y[b]), variance**0.5, float(v[a, b] / np.sqrt(v[a, a] * v[b, b])))


def _against_others(y: FloatArray, v: FloatArray, place: int) -> tuple[float, float]:
    """One less the consensus of the others, and that over its expanded uncertainty."""
    rest = [number for number in range(y.size) if number != place]
    if not rest:
        return 0.0, 0.0
    value, _, weights = _consensus(y[rest], v[np.ix_(rest, rest)])
    slopes = np.zeros(y.size)
    slopes[rest] = -weights
    slopes[place] = 1.0
    u, apart = max(float(slopes @ v @ slopes), 0.0) ** 0.5, float(y[place] - value)
    return apart, apart / (K * u) if u > 0 else float(np.copysign(np.inf, apart))


def _odd(y: FloatArray, v: FloatArray, off: Sequence[float]) -> int | None:
    """The only one that the others agree without; of two nobody knows which."""
    if y.size < 3:
        return None
    mended = []
    for place in range(y.size):
        rest = [number for number in range(y.size) if number != place]
        inner, between = y[rest], v[np.ix_(rest, rest)]
        _, probability = _chi_squared(inner, between, _consensus(inner, between)[0])
        if probability >= IMPROBABLE and abs(off[place]) > 1.0:
            mended.append(place)
    return mended[0] if len(mended) == 1 else None
