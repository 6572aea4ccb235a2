"""A value with the sensitivities it was made with; its uncertainty is derived, never stored.

Keeping the sensitivities (rather than only u) keeps covariance: an error shared by the reference at all points,
or by two methods, still cancels or adds where the estimates are combined (JCGM 100:2008, 5.1 and 5.2).
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.measurand import Measurand
from fenmist.uncertainty.coverage import coverage_factor
from fenmist.uncertainty.influence import FloatArray, Influence, Inputs, IntArray


class BudgetRow(NamedTuple):
    """One line of a budget at one point."""

    influence: Influence
    sensitivity: float  # change of the result per unit of the input
    contribution: float  # |c|·u, in the unit of the result
    share: float  # of the variance, signed where correlation lowers it; the shares sum to 1


@dataclass(frozen=True, eq=False)
class Estimate:
    """A quantity at n points. Arrays have shape (n,)."""

    measurand: Measurand | str
    unit: str
    value: FloatArray
    sensitivities: Mapping[str, FloatArray]  # by influence id
    inputs: Inputs
    engine: str = "linear"

    @cached_property
    def _ids(self) -> list[str]:
        return list(self.sensitivities)

    @cached_property
    def signed(self) -> FloatArray:
        """c·u by influence, shape (m, n)."""
        known = self.inputs.by_id
        rows = [self.sensitivities[name] * known[name].standard_u for name in self._ids]
        return np.array(rows) if rows else np.zeros((0, self.value.size))

    @cached_property
    def _variance_by_influence(self) -> FloatArray:
        """Each influence's part of the variance with its half of the correlation terms, shape (m, n)."""
        if not self.inputs.correlations:
            return np.asarray(self.signed**2)
        return np.asarray(self.signed * (self.inputs.correlation(self._ids) @ self.signed))

    @cached_property
    def u(self) -> FloatArray:
        """Standard uncertainty, in `unit`."""
        return np.asarray(np.sqrt(np.maximum(self._variance_by_influence.sum(axis=0), 0.0)))

    @cached_property
    def dof(self) -> FloatArray:
        """Effective degrees of freedom (Welch-Satterthwaite); ensembles and correlated inputs are taken as one each."""
        known = self.inputs.by_id
        groups: dict[str, list[int]] = {}
        for row, name in enumerate(self._ids):
            groups.setdefault(self.inputs.group_of[name], []).append(row)
        dofs = np.array([known[name].dof for name in self._ids])
        if len(groups) == len(self._ids):  # each for itself
            total = np.sum(self._variance_by_influence**2 / dofs, axis=0) if self._ids else np.zeros(self.value.size)
        else:
            parts = np.array([self._variance_by_influence[rows].sum(axis=0) for rows in groups.values()])
            total = np.sum(parts**2 / np.array([dofs[rows].min(axis=0) for rows in groups.values()]), axis=0)
        with np.errstate(divide="ignore"):
            return np.where(total > 0, self.u**4 / np.where(total > 0, total, 1.0), np.inf)

    @cached_property
    def k(self) -> FloatArray:
        """Coverage factor for 95.45 %."""
        return coverage_factor(self.dof)

    @cached_property
    def expanded_u(self) -> FloatArray:
        """U = k·u, in `unit`."""
        return self.k * self.u

    def covariance(self) -> FloatArray:
        """Covariance between the points, shape (n, n): shared errors only join points that share them."""
        known = self.inputs.by_id
        sharing = np.array([known[name].sharing for name in self._ids])
        everywhere = np.all(sharing == sharing[:, :1], axis=1) if self._ids else np.zeros(0, dtype=bool)
        together = self.signed[everywhere]
        ids = [name for name, shared in zip(self._ids, everywhere, strict=True) if shared]
        total = np.asarray(together.T @ self.inputs.correlation(ids) @ together)
        matrix = self.inputs.correlation(self._ids)
        for i, j in np.argwhere(matrix != 0.0):
            if everywhere[i] and everywhere[j]:
                continue
            if i == j and np.unique(sharing[i]).size == self.value.size:  # its own error at each point
                total[np.diag_indices_from(total)] += self.signed[i] ** 2
                continue
            same = sharing[i][:, None] == sharing[j][None, :]
            total += matrix[i, j] * np.outer(self.signed[i], self.signed[j]) * same
        return total

    def shares(self) -> FloatArray:
        """Each influence's share of the variance, in the order of `sensitivities`, shape (m, n)."""
        total = self._variance_by_influence.sum(axis=0)
        return np.asarray(self._variance_by_influence / np.where(total > 0, total, 1.0))

    def shared_by_all(self) -> NDArray[np.bool_]:
        """Which influences have one error at all points, in the order of `sensitivities`, shape (m,)."""
        known = self.inputs.by_id
        return np.array([bool(np.all(known[name].sharing == known[name].sharing[0])) for name in self._ids])

    @cached_property
    def _columns(self) -> tuple[list[list[float]], list[list[float]], list[list[float]]]:
        """Sensitivity, contribution and share as plain numbers, by point and influence: for budgets."""
        slopes = np.array([self.sensitivities[name] for name in self._ids])
        return slopes.T.tolist(), np.abs(self.signed).T.tolist(), self.shares().T.tolist()

    @cached_property
    def _influences(self) -> list[Influence]:
        return [self.inputs.by_id[name] for name in self._ids]

    def budget(self, point: int = 0) -> tuple[BudgetRow, ...]:
        """The budget at one point, the largest share first."""
        if not self._ids:
            return ()
        slopes, contributions, shares = (column[point] for column in self._columns)
        rows = map(BudgetRow, self._influences, slopes, contributions, shares)
        return tuple(sorted(rows, key=_by_share))


def _by_share(row: BudgetRow) -> tuple[float, str]:
    return -row.share, row.influence.id


Places = Sequence[IntArray]
"""Where points of several estimates stand: shape (n of each,) each."""


def joined(
    estimates: Sequence[Estimate], places: Places, columns: Places | None = None, inputs: Inputs | None = None
) -> Estimate:
    """One quantity worked out apart at different points, as one estimate over all of them.

    Parameters
    ----------
    estimates : sequence of Estimate
        Of one quantity, in one unit.
    places : sequence of array of int
        Where the points of each stand among all.
    columns : sequence of array of int, optional
        Which points of each are wanted; all unless given.
    inputs : Inputs, optional
        Theirs as `joined_inputs` makes them, where several quantities have the same.

    Returns
    -------
    Estimate
        What points of several share by its number (`each_value`) they share in it, and what is of one point stays so.
    """
    columns = [np.arange(item.value.size) for item in estimates] if columns is None else columns
    n, first = sum(map(len, places)), estimates[0]
    slopes: dict[str, FloatArray] = {}
    value = np.zeros(n)
    for one, where, taken in zip(estimates, places, columns, strict=True):
        value[where] = one.value[taken]
        for name, slope in one.sensitivities.items():
            slopes.setdefault(name, np.zeros(n))[where] = slope[taken]
    made = joined_inputs([one.inputs for one in estimates], places, columns) if inputs is None else inputs
    return Estimate(first.measurand, first.unit, value, slopes, made, first.engine)


def joined_inputs(several: Sequence[Inputs], places: Places, columns: Places) -> Inputs:
    """The inputs of estimates that are joined; parameters as for `joined`."""
    n = sum(map(len, places))
    known: dict[str, Influence] = {}
    for one, where, taken in zip(several, places, columns, strict=True):
        for item in one.influences:
            if item.id not in known:
                known[item.id] = replace(
                    item, estimate=np.zeros(n), standard_u=np.zeros(n), dof=np.full(n, np.inf),
                    sharing=np.zeros(n, np.int64),
                )  # fmt: skip
            whole, sharing = known[item.id], item.sharing[taken]
            whole.estimate[where], whole.standard_u[where] = item.estimate[taken], item.standard_u[taken]
            whole.dof[where], whole.sharing[where] = item.dof[taken], np.where(sharing < 0, -1 - where, sharing)
    return Inputs(tuple(known.values()), {pair: r for one in several for pair, r in one.correlations.items()})


def covariance_between(one: Estimate, other: Estimate) -> FloatArray:
    """Covariance of two estimates from the same inputs, point by point, shape (n,).

    Parameters
    ----------
    one, other : Estimate
        From one set of inputs, at the same n points.

    Returns
    -------
    array, shape (n,)
        In the product of their units.
    """
    first, second = one.signed, other.signed
    if not one.inputs.correlations:
        return np.asarray(np.sum(first * second, axis=0))
    return np.asarray(np.sum(first * (one.inputs.correlation(list(one.sensitivities)) @ second), axis=0))
