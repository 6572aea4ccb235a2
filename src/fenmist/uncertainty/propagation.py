"""Linear propagation by numeric sensitivities, for all points and all inputs in one evaluation of the model.

The model is evaluated on a stack of inputs: the estimates, and for each influence four values beside its estimate.
The five-point difference leaves an error of the fourth order in the step; a step near 2^-14 of the estimate
keeps both it and rounding below 1e-8 of u on models made at random (tests/uncertainty/test_random_models.py).
Fails where the model bends strongly within u (square law at zero, |Γ| near 0): Monte Carlo belongs there.
"""

from collections.abc import Callable, Mapping

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.measurand import Measurand
from fenmist.uncertainty.estimate import Estimate
from fenmist.uncertainty.influence import FloatArray, Inputs

Model = Callable[[Mapping[str, FloatArray]], Mapping[str, FloatArray]]
"""Arrays of shape (..., n) by influence id in, arrays of the same shape by output name out."""

_OFFSETS = np.array([-2.0, -1.0, 1.0, 2.0])
_WEIGHTS = np.array([1.0, -8.0, 8.0, -1.0]) / 12.0


class Stencil:
    """Inputs at their estimates and, for each that moves, at four values beside: one stack for one evaluation.

    Parameters
    ----------
    inputs : Inputs
        All at the same n points.
    """

    def __init__(self, inputs: Inputs) -> None:
        self.inputs = inputs
        estimates = np.array([item.estimate for item in inputs.influences])
        u = np.array([item.standard_u for item in inputs.influences])
        self._moving = np.flatnonzero(np.any(u > 0, axis=1)) if u.size else np.zeros(0, int)
        self._steps = _step(estimates[self._moving], u[self._moving])
        self._shape = (1 + _OFFSETS.size * self._moving.size, estimates.shape[-1])
        stack = np.repeat(estimates[:, None, :], self._shape[0], axis=1)
        beside = 1 + np.arange(self._shape[0] - 1).reshape(-1, _OFFSETS.size)
        stack[self._moving[:, None], beside] += _OFFSETS[:, None] * self._steps[:, None, :]
        self.x: Mapping[str, FloatArray] = dict(zip([item.id for item in inputs.influences], stack, strict=True))

    def rows_in(self, other: "Stencil") -> NDArray[np.int64] | None:
        """Rows of another stencil, of some of these inputs, that hold for each row of this one.

        What is made of the other's inputs alone needn't be made again: `made[rows]` is what this stencil would give.
        None where an input of the other isn't among these as it is there.
        """
        mine = self.inputs.by_id
        if any(mine.get(item.id) is not item for item in other.inputs.influences):
            return None
        begins = {other.inputs.influences[row].id: 1 + _OFFSETS.size * n for n, row in enumerate(other._moving)}
        of_each = np.array([begins.get(self.inputs.influences[row].id, 0) for row in self._moving], np.int64)
        rows = np.where(of_each[:, None] > 0, of_each[:, None] + np.arange(_OFFSETS.size), 0)
        return np.concatenate(([0], rows.ravel()))

    def spread(self, found: FloatArray) -> FloatArray:
        """What a model made of the stack, in a row for each of its rows."""
        return np.broadcast_to(found, self._shape)

    def estimate(self, name: str, measurand: Measurand | str, unit: str, found: FloatArray) -> Estimate:
        """What a model made of the stack, as an estimate; raises OutOfRangeError where it is no finite number."""
        values = self.spread(found)
        _check_finite(name, values[0])
        rows = values[1:].reshape(self._moving.size, _OFFSETS.size, values.shape[1])
        slopes = np.einsum("isn,s->in", rows, _WEIGHTS) / self._steps
        moving = [self.inputs.influences[row].id for row in self._moving]
        return Estimate(measurand, unit, values[0].copy(), dict(zip(moving, slopes, strict=True)), self.inputs)


def propagate(
    model: Model, inputs: Inputs | Stencil, outputs: Mapping[str, tuple[Measurand | str, str]]
) -> dict[str, Estimate]:
    """Estimates of the model's outputs.

    Parameters
    ----------
    model : callable
        See `Model`; works elementwise on the last axis and broadcasts over the others.
    inputs : Inputs or Stencil
        All at the same n points; a stencil where several models are evaluated on the same.
    outputs : mapping
        Measurand and unit of each output wanted.

    Raises
    ------
    OutOfRangeError
        Where an output is no finite number; names the output and the first such point.
    """
    stencil = inputs if isinstance(inputs, Stencil) else Stencil(inputs)
    results = model(stencil.x)
    return {name: stencil.estimate(name, measurand, unit, results[name]) for name, (measurand, unit) in outputs.items()}


def remembering(model: Model) -> Model:
    """The model, which is not evaluated again where it is asked for the very stack it was asked for last."""
    last: list[Mapping[str, FloatArray]] = []

    def again(x: Mapping[str, FloatArray]) -> Mapping[str, FloatArray]:
        if not last or last[0] is not x:
            last[:] = x, model(x)
        return last[1]

    return again


def _step(estimate: FloatArray, u: FloatArray) -> FloatArray:
    """Step of the difference: u/64, held at 2^-14 of the estimate where u is large against it."""
    size = np.abs(estimate)
    held = np.where(size > 0, np.minimum(u / 64.0, size * 2.0**-14), u / 64.0)
    step = np.maximum(held, np.maximum(u * 2.0**-16, size * 2.0**-17))
    return np.where(step > 0, step, 2.0**-13)


def _check_finite(name: str, values: FloatArray) -> None:
    if not np.all(np.isfinite(values)):
        point = int(np.argmax(~np.isfinite(values)))
        raise OutOfRangeError(
            f"“{name}” is no finite number at point {point + 1}.", "Look at the inputs of that point."
        )


BEND = 0.05
"""Part of u that second-order terms may make before Monte Carlo takes over."""

BOUND = 2.0
"""Standard uncertainties within which a bound of the quantity (a power can't be below 0) hands over as well."""


def bends(
    model: Model, inputs: Inputs, estimates: Mapping[str, Estimate], bounds: Mapping[str, float] | None = None
) -> NDArray[np.bool_]:
    """Where the linear picture doesn't hold for at least one of the estimates, shape (n,).

    Parameters
    ----------
    model, inputs
        As `propagate` took them.
    estimates : mapping
        What it made, by output.
    bounds : mapping, optional
        Lowest possible value of an output.

    Notes
    -----
    The model is evaluated at corners x + s∘u with signs s that are pairwise orthogonal (rows of a Hadamard matrix),
    and at their opposites. The deviation from the linear prediction holds all second-order terms, own and mixed; its
    root mean square is compared with 5 % of u (JCGM 100:2008, 5.1.2 note).
    """
    moving = [item for item in inputs.influences if np.any(item.standard_u > 0)]
    first = next(iter(estimates.values()))
    if not moving:
        return np.zeros(first.value.size, dtype=bool)
    signs = _corner_signs(len(moving))
    order = {item.id: row for row, item in enumerate(moving)}
    corners = {
        item.id: item.estimate + signs[:, order[item.id], None] * item.standard_u
        if item.id in order
        else np.broadcast_to(item.estimate, (signs.shape[0], item.estimate.size))
        for item in inputs.influences
    }
    found = model(corners)
    bent = np.zeros(first.value.size, dtype=bool)
    for name, estimate in estimates.items():
        slopes = np.array([estimate.sensitivities[item.id] * item.standard_u for item in moving])
        deviation = found[name] - (estimate.value + signs @ slopes)
        curvature = np.sqrt(np.mean(deviation**2, axis=0))
        bent |= ~(curvature <= BEND * estimate.u + 1e-12 * np.abs(estimate.value))
        if bounds and name in bounds:
            bent |= estimate.value - bounds[name] < BOUND * estimate.u
    return bent


def _corner_signs(count: int) -> FloatArray:
    """Rows of ±1, shape (2·2^k, count), columns pairwise orthogonal, each row with its opposite."""
    matrix = np.ones((1, 1))
    while matrix.shape[0] <= count:  # the first column is constant and left out
        matrix = np.block([[matrix, matrix], [matrix, -matrix]])
    half = matrix[:, 1 : count + 1]
    return np.concatenate([half, -half])
