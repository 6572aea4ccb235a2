"""Whether several estimates of one quantity agree, what they say together, and which of them is the odd one.

Consensus by generalised least squares with their whole covariance, so that what two of them share is counted once:
c = (1ᵀV⁻¹1)⁻¹·1ᵀV⁻¹y, χ² = (y − c)ᵀV⁻¹(y − c) with m − 1 degrees of freedom. Two are compared by their difference over
its expanded uncertainty (En), shared parts taken out. One is named where the others agree without it and no other one's
absence would mend it. Quantities with errors in per cent belong in here as logarithms: their weights then don't follow
their own values. Page: docs/method/agreement.md.
"""

from itertools import combinations, repeat

import numpy as np
from numpy.typing import ArrayLike, NDArray

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
    return agreements(y[None], v[None])[0]


def agreements(values: FloatArray, covariance: FloatArray) -> tuple[Agreement, ...]:
    """The same at n points, each with m estimates of its own.

    Parameters
    ----------
    values : array, shape (n, m)
    covariance : array, shape (n, m, m)
    """
    y, v, m = values, covariance, values.shape[1]
    value, variance, weights = _consensus(y, v)
    chi, probability = _chi_squared(y, v, value)
    apart, off = _against_others(y, v)
    odd = _odd(y, v, off, probability)
    shared = v / (_scale(v)[:, :, None] * _scale(v)[:, None, :])
    pairs = [
        map(
            Pair, repeat(a), repeat(b), (y[:, a] - y[:, b]).tolist(),
            np.sqrt(np.maximum(v[:, a, a] + v[:, b, b] - 2.0 * v[:, a, b], 0.0)).tolist(), shared[:, a, b].tolist(),
        )
        for a, b in combinations(range(m), 2)
    ]  # fmt: skip
    columns = (value, np.sqrt(variance), weights, chi, probability, apart, off)
    of_two = zip(*pairs, strict=True) if pairs else repeat((), len(y))
    return tuple(
        Agreement(at, u, tuple(of_each), squared, likely, between, tuple(away), tuple(over), one)
        for at, u, of_each, squared, likely, away, over, between, one in zip(
            *(column.tolist() for column in columns), of_two, odd, strict=True
        )
    )


def _scale(v: FloatArray) -> FloatArray:
    """Standard uncertainties of covariances of shape (..., m, m)."""
    return np.asarray(np.sqrt(np.diagonal(v, axis1=-2, axis2=-1)))


def _consensus(y: FloatArray, v: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Value, variance and weights of m estimates each, shapes (...) and (..., m)."""
    scale = _scale(v)
    if np.any(scale <= 0.0):
        raise OutOfRangeError(
            "One of the values has no uncertainty.", "Give each what it is known to: nothing is known exactly."
        )
    r = v / (scale[..., :, None] * scale[..., None, :])
    lowest = np.linalg.eigvalsh(r)[..., 0]
    if np.any(lowest < -1e-9):
        raise OutOfRangeError("More is shared than each of them is known to.", "Give a smaller shared uncertainty.")
    if y.shape[-1] > 1 and np.any(lowest < 1e-12):
        raise OutOfRangeError(
            "Some of the values lean entirely on the same thing.", "Take one of them out: it says nothing of its own."
        )
    at = np.linalg.solve(r, 1.0 / scale[..., None])[..., 0] / scale  # V⁻¹·1, scaled so that any unit does
    total = at.sum(axis=-1)
    weights = at / total[..., None]
    return np.sum(weights * y, axis=-1), 1.0 / total, weights


def _chi_squared(y: FloatArray, v: FloatArray, value: FloatArray) -> tuple[FloatArray, FloatArray]:
    from scipy.special import chdtrc  # heavy: imported on first use

    m, scale = y.shape[-1], _scale(v)
    left = (y - value[..., None]) / scale
    r = v / (scale[..., :, None] * scale[..., None, :])
    chi = np.sum(left * np.linalg.solve(r, left[..., None])[..., 0], axis=-1)
    return chi, chdtrc(m - 1, chi) if m > 1 else np.ones_like(chi)


def _others(y: FloatArray, v: FloatArray) -> tuple[FloatArray, FloatArray, NDArray[np.int64]]:
    """For each of m estimates the other ones, with their covariance and their places, shape (m, m − 1)."""
    m = y.shape[-1]
    rest = np.array([[other for other in range(m) if other != place] for place in range(m)], np.int64)
    return y[:, rest], v[:, rest[:, :, None], rest[:, None, :]], rest


def _against_others(y: FloatArray, v: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Each less the consensus of the others, and that over its expanded uncertainty."""
    if y.shape[1] < 2:
        return np.zeros_like(y), np.zeros_like(y)
    inner, between, rest = _others(y, v)
    value, _, weights = _consensus(inner, between)
    slopes = np.broadcast_to(np.eye(y.shape[1]), v.shape).copy()
    np.put_along_axis(slopes, np.broadcast_to(rest, weights.shape), -weights, axis=2)
    apart = y - value
    return apart, apart / (K * np.sqrt(np.einsum("npi,nij,npj->np", slopes, v, slopes)))


def _odd(y: FloatArray, v: FloatArray, off: FloatArray, probability: FloatArray) -> list[int | None]:
    """Where they disagree the only one that the others agree without; of two nobody knows which."""
    odd: list[int | None] = [None] * len(y)
    improbable = np.flatnonzero(probability < IMPROBABLE)
    if y.shape[1] > 2 and improbable.size:
        inner, between, _ = _others(y[improbable], v[improbable])
        _, likely = _chi_squared(inner, between, _consensus(inner, between)[0])
        mended = (likely >= IMPROBABLE) & (np.abs(off[improbable]) > 1.0)
        for row in np.flatnonzero(mended.sum(axis=1) == 1):
            odd[improbable[row]] = int(np.argmax(mended[row]))
    return odd
