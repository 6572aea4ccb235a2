"""A value with the sensitivities it was made with; its uncertainty is derived, never stored.

Keeping the sensitivities (rather than only u) keeps covariance: an error shared by the reference at all points,
or by two methods, still cancels or adds where the estimates are combined (JCGM 100:2008, 5.1 and 5.2).
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fenmist.measurand import Measurand
from fenmist.uncertainty.coverage import coverage_factor
from fenmist.uncertainty.influence import FloatArray, Influence, Inputs


@dataclass(frozen=True)
class BudgetRow:
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
    def _signed(self) -> FloatArray:
        """c·u by influence, shape (m, n)."""
        known = self.inputs.by_id
        rows = [self.sensitivities[name] * known[name].standard_u for name in self._ids]
        return np.array(rows) if rows else np.zeros((0, self.value.size))

    @cached_property
    def _variance_by_influence(self) -> FloatArray:
        """Each influence's part of the variance with its half of the correlation terms, shape (m, n)."""
        return np.asarray(self._signed * (self.inputs.correlation(self._ids) @ self._signed))

    @cached_property
    def u(self) -> FloatArray:
        """Standard uncertainty, in `unit`."""
        return np.asarray(np.sqrt(np.maximum(self._variance_by_influence.sum(axis=0), 0.0)))

    @cached_property
    def dof(self) -> FloatArray:
        """Effective degrees of freedom (Welch-Satterthwaite), ensembles taken as one input each."""
        known = self.inputs.by_id
        groups: dict[str, list[int]] = {}
        for row, name in enumerate(self._ids):
            groups.setdefault(known[name].ensemble or name, []).append(row)
        total = np.zeros(self.value.size)
        for rows in groups.values():
            dof = np.min([known[self._ids[row]].dof for row in rows], axis=0)
            block = self.inputs.correlation([self._ids[row] for row in rows])
            variance = np.sum(self._signed[rows] * (block @ self._signed[rows]), axis=0)
            total += variance**2 / dof
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
        matrix = self.inputs.correlation(self._ids)
        total = np.zeros((self.value.size, self.value.size))
        for i, j in np.argwhere(matrix != 0.0):
            a, b = known[self._ids[i]].sharing, known[self._ids[j]].sharing
            same = a[:, None] == b[None, :]
            total += matrix[i, j] * np.outer(self._signed[i], self._signed[j]) * same
        return total

    def budget(self, point: int = 0) -> tuple[BudgetRow, ...]:
        """The budget at one point, the largest share first."""
        variance = self._variance_by_influence[:, point]
        total = variance.sum() or 1.0
        known = self.inputs.by_id
        rows = [
            BudgetRow(
                known[name],
                float(self.sensitivities[name][point]),
                float(abs(self._signed[i, point])),
                float(variance[i] / total),
            )
            for i, name in enumerate(self._ids)
        ]
        return tuple(sorted(rows, key=lambda row: (-row.share, row.influence.id)))
