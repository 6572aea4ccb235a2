"""Stated performance becomes limits and influences: the one place that reads the terms of a statement.

A statement has one or more terms ("3 % of reading + 1 digit"); each counts, with its own distribution, and is one error
for all readings that share it: of the instrument, of a range, of a point. Terms of one statement are independent. A
term that can't be evaluated, since no range or no last digit is known, costs what stands for an unknown accuracy.
"""

from collections.abc import Sequence

import numpy as np

from fenmist.frozen import dataclass
from fenmist.kit.part import UNKNOWN_SHARE, SharedWithin, SpecTerm, limit_at
from fenmist.kit.spectext import said_term
from fenmist.uncertainty.influence import (
    FloatArray,
    Influence,
    IntArray,
    each_point,
    each_value,
    influence,
    standard_u_from_limit,
)


@dataclass(frozen=True, eq=False)
class Shown:
    """What an instrument showed at n points, in its own unit; arrays have shape (n,)."""

    value: FloatArray
    digit: FloatArray | None = None  # size of the last digit
    full_scale: FloatArray | None = None  # of the range it was read on
    ranges: Sequence[str] = ()  # ids of those ranges
    per_decade_db: float = 20.0  # of a stated dB: 20 for volts and amperes, 10 for watts

    @property
    def size(self) -> FloatArray:
        """|value|, never 0."""
        return np.maximum(np.abs(self.value), 1e-300)


@dataclass(frozen=True, eq=False)
class Limit:
    """One term at n points."""

    term: SpecTerm
    share: FloatArray  # ± part of what was shown, shape (n,)
    evaluated: bool  # false where a range or a last digit isn't known, and an unknown accuracy stands for it

    @property
    def u(self) -> FloatArray:
        """Standard uncertainty, as a part of what was shown."""
        return standard_u_from_limit(self.share, self.term.distribution)

    @property
    def said(self) -> str:
        """The term in words, with its distribution, and what stands for it."""
        words = f"±{said_term(self.term)}, {self.term.distribution}"
        return words if self.evaluated else f"±{said_term(self.term)} can't be evaluated: ±{UNKNOWN_SHARE:.0%} taken"


def limits(terms: Sequence[SpecTerm], shown: Shown) -> tuple[Limit, ...]:
    """Each term's ± part of what was shown.

    Parameters
    ----------
    terms : sequence of SpecTerm
        Of one statement; an empty one limits nothing.
    shown : Shown
        Values, last digits and ranges that the terms are shares of.

    Returns
    -------
    tuple of Limit
        In the order of the terms.
    """
    return tuple(_limit(term, shown) for term in terms)


def _limit(term: SpecTerm, shown: Shown) -> Limit:
    limit, evaluated = limit_at(term, shown.value, shown.full_scale, shown.digit, shown.per_decade_db)
    return Limit(term, limit / shown.size, evaluated)


def influences_of(
    terms: Sequence[SpecTerm], shown: Shown, name: str, label: str, source_id: str
) -> tuple[Influence, ...]:
    """Factors of 1 on what was shown, one for each term: `name`, `name.2`, `name.3` and so on.

    Parameters
    ----------
    terms, shown
        As for `limits`.
    name, label, source_id : str
        Id of the first influence, what stands in the budget, the part.

    Returns
    -------
    tuple of Influence
        Estimates 1, standard uncertainties relative; one influence of no uncertainty where nothing is stated.
    """
    n = shown.value.size
    if not terms:
        return (influence(name, label, 1.0, 0.0, points=n, source_id=source_id, basis="nothing stated"),)
    return tuple(
        influence(
            name if number == 1 else f"{name}.{number}", label if number == 1 else f"{label}, term {number}", 1.0,
            item.u, points=n, source_id=source_id, distribution=item.term.distribution,
            sharing=_sharing(item.term.shared_within, shown, n), basis=item.said,
        )
        for number, item in enumerate(limits(terms, shown), start=1)
    )  # fmt: skip


def _sharing(within: SharedWithin, shown: Shown, n: int) -> IntArray:
    """Points with the same number share one error."""
    if within is SharedWithin.INSTRUMENT:
        return np.zeros(n, np.int64)
    if within is SharedWithin.RANGE and len(shown.ranges) == n:
        return each_value(shown.ranges)
    return np.zeros(n, np.int64) if within is SharedWithin.RANGE else each_point(n)


def half_width(terms: Sequence[SpecTerm], shown: Shown) -> FloatArray:
    """± of a tolerance, in the unit shown: its terms together, shape (n,); terms of a tolerance are added.

    Parameters
    ----------
    terms : sequence of SpecTerm
        All of one statement.
    shown : Shown
        What was shown at n points.

    Returns
    -------
    array, shape (n,)
        0 or above.
    """
    return np.asarray(sum((item.share * shown.size for item in limits(terms, shown)), np.zeros(shown.value.shape)))
