"""Inputs of a measurement that are not known exactly, over all points of a job at once.

An influence is finer than an instrument: a scope's gain error is shared by all points, its resolution by none.
`sharing` says which points share one error; it decides the covariance between points. Inputs estimated from
the same observations form an ensemble: they are correlated and have their degrees of freedom in common.
"""

import hashlib
import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import field, replace
from enum import StrEnum
from functools import cached_property
from types import MappingProxyType

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]
IntArray = NDArray[np.int64]


class Distribution(StrEnum):
    """Shape of what is known about an input (JCGM 100:2008, 4.3 and JCGM 101:2008, 6.4).

    U-shaped is one coordinate of a phasor of known length and unknown phase; anywhere in a disc, of a phasor of which
    only a ceiling is known.
    """

    NORMAL = "normal"
    RECTANGULAR = "rectangular"
    TRIANGULAR = "triangular"
    U_SHAPED = "U-shaped"
    DISC = "anywhere in a disc"
    TWO_POINT = "two values"


_DIVISOR = {
    Distribution.RECTANGULAR: math.sqrt(3.0),
    Distribution.TRIANGULAR: math.sqrt(6.0),
    Distribution.U_SHAPED: math.sqrt(2.0),
    Distribution.DISC: 2.0,
    Distribution.TWO_POINT: 1.0,
    Distribution.NORMAL: 2.0,
}


def standard_u_from_limit(limit: ArrayLike, distribution: Distribution) -> FloatArray:
    """Standard uncertainty of "± limit"; for a normal distribution the limit is read as U with k = 2.

    Parameters
    ----------
    limit : array
        ±, 0 or above, in any unit.
    distribution : Distribution
        Shape of what is known.

    Returns
    -------
    array
        Standard uncertainty in the same unit.

    >>> float(standard_u_from_limit(3.0, Distribution.RECTANGULAR).round(3))
    1.732
    """
    return np.asarray(np.asarray(limit, float) / _DIVISOR[distribution])


@dataclass(frozen=True, eq=False)
class Influence:
    """One uncertain input at n points. Arrays have shape (n,)."""

    id: str
    label: str  # as it stands in the budget
    source_id: str  # the part or circumstance it comes from
    estimate: FloatArray
    standard_u: FloatArray  # >= 0, in `unit`
    unit: str
    distribution: Distribution
    sharing: IntArray  # points with the same number share one error: 0 with all, below 0 with none elsewhere
    dof: FloatArray  # degrees of freedom, > 0, infinite for stated limits
    kind: str = "B"  # evaluation, "A" (observed) or "B" (stated), JCGM 100:2008, 3.3.4
    basis: str = ""  # where the number comes from, in words
    ensemble: str = ""  # inputs from the same observations carry the same name

    def __post_init__(self) -> None:
        if not (np.isfinite(self.estimate).all() and (self.standard_u >= 0).all()):
            raise OutOfRangeError(
                f"The input “{self.label}” has a value or an uncertainty that is no number, or below zero.",
                "Look at the entry it comes from.",
            )


def influence(
    id: str,
    label: str,
    estimate: ArrayLike,
    standard_u: ArrayLike,
    *,
    points: int,
    unit: str = "",
    source_id: str = "",
    distribution: Distribution = Distribution.NORMAL,
    sharing: ArrayLike | None = None,
    dof: ArrayLike = math.inf,
    kind: str = "B",
    basis: str = "",
    ensemble: str = "",
) -> Influence:
    """An `Influence` with scalars spread over `points`; shared by all of them unless `sharing` says otherwise.

    Parameters
    ----------
    id, label, source_id, basis : str
        By part and property; as it stands in a budget; the part; where it is from.
    estimate, standard_u : scalar, or array of shape (points,)
        In `unit`; u is 0 or above.
    points : int
        How many points.
    sharing : array of int, shape (points,), optional
        Points with one number share one error.
    dof : scalar, or array of shape (points,)
        Degrees of freedom, above 0.

    Raises
    ------
    OutOfRangeError
        Where a value is no number, or u is below 0.
    """
    shared = np.zeros(points, np.int64)
    if sharing is not None:
        shared[...] = sharing
    return Influence(
        id=id, label=label, source_id=source_id or id, estimate=_spread(estimate, points),
        standard_u=_spread(standard_u, points), unit=unit, distribution=distribution,
        sharing=shared,
        dof=_spread(dof, points), kind=kind, basis=basis, ensemble=ensemble,
    )  # fmt: skip


def _spread(value: ArrayLike, points: int) -> FloatArray:
    """A scalar at every point, or a copy of an array."""
    made = np.empty(points)
    made[...] = value
    return made


def each_point(points: int) -> IntArray:
    """`sharing` of an error drawn anew at each point.

    Parameters
    ----------
    points : int
        How many.

    Returns
    -------
    array of int, shape (points,)
        Each its own number, below 0: joined with others each keeps one of its own.
    """
    return np.arange(-points, 0)


def each_value(values: ArrayLike, among: str = "") -> IntArray:
    """`sharing` of an error that points of one value have in common: of one frequency, range, waveform.

    Parameters
    ----------
    values : array of float or str, shape (n,)
        Of each point.
    among : str
        Name of what they have it in common on, a hook-up for one: nothing is shared with what has another name.

    Returns
    -------
    array of int, shape (n,)
        Above 0; they follow from name and value alone, so that estimates made apart can be joined.
    """
    numbers: dict[object, int] = {}
    for value in dict.fromkeys(np.asarray(values).tolist()):
        digest = hashlib.blake2b(f"{among}/{value!r}".encode(), digest_size=7).digest()
        numbers[value] = 1 + int.from_bytes(digest, "big")
    return np.array([numbers[value] for value in np.asarray(values).tolist()], np.int64)


def each_once(*some: Iterable["Influence"]) -> tuple["Influence", ...]:
    """All of several collections, those that they share once: they are the same by their ids."""
    return tuple({item.id: item for items in some for item in items}.values())


@dataclass(frozen=True, eq=False)
class Inputs:
    """The influences of a model and the correlations between different ones."""

    influences: tuple[Influence, ...]
    correlations: Mapping[tuple[str, str], float] = field(default_factory=lambda: MappingProxyType({}))

    def __post_init__(self) -> None:
        known = [item.id for item in self.influences]
        if len(set(known)) != len(known):
            raise OutOfRangeError("Two influences of one model carry the same name.", f"Names: {sorted(known)}.")
        for (a, b), r in self.correlations.items():
            if a not in known or b not in known or not -1.0 <= r <= 1.0:
                raise OutOfRangeError(
                    f"The correlation {r:g} between “{a}” and “{b}” can't be used.",
                    "It lies from −1 to 1, between two influences of this model.",
                )

    @cached_property
    def by_id(self) -> dict[str, Influence]:
        """Influences by their id."""
        return {item.id: item for item in self.influences}

    @cached_property
    def group_of(self) -> dict[str, str]:
        """Which inputs belong together, by id: an ensemble, or what correlations join; else each for itself."""
        group = {item.id: item.ensemble or f"={item.id}" for item in self.influences}
        for (a, b), r in self.correlations.items():
            if r and group[a] != group[b]:
                joined, former = group[a], group[b]
                group = {name: joined if found == former else found for name, found in group.items()}
        return group

    def take(self, columns: IntArray) -> "Inputs":
        """The same inputs at some of the points."""
        arrays = ("estimate", "standard_u", "sharing", "dof")
        taken = (replace(item, **{name: getattr(item, name)[columns] for name in arrays}) for item in self.influences)
        return Inputs(tuple(taken), self.correlations)

    def correlation(self, ids: Sequence[str]) -> FloatArray:
        """Correlation matrix of the influences named, shape (m, m)."""
        place = {name: index for index, name in enumerate(ids)}
        matrix = np.eye(len(ids))
        for (a, b), r in self.correlations.items():
            if a in place and b in place:
                matrix[place[a], place[b]] = matrix[place[b], place[a]] = r
        return matrix
