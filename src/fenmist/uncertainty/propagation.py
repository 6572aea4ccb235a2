"""Linear propagation by numeric sensitivities, for all points and all inputs in one evaluation of the model.

The model is evaluated on a stack of inputs: the estimates, and for each influence four values beside its estimate.
The five-point difference leaves an error of the fourth order in the step, so a step of u/64 is exact to some
1e-8 of the sensitivity even where u is as large as the input, and rounding stays below 1e-11 where it is small.
Fails where the model bends strongly within u (square law at zero, |Γ| near 0): Monte Carlo belongs there.
"""

from collections.abc import Callable, Mapping

import numpy as np

from fenmist.errors import OutOfRangeError
from fenmist.measurand import Measurand
from fenmist.uncertainty.estimate import Estimate
from fenmist.uncertainty.influence import FloatArray, Inputs

Model = Callable[[Mapping[str, FloatArray]], Mapping[str, FloatArray]]
"""Arrays of shape (..., n) by influence id in, arrays of the same shape by output name out."""

_STENCIL = ((-2, 1.0 / 12.0), (-1, -8.0 / 12.0), (1, 8.0 / 12.0), (2, -1.0 / 12.0))


def propagate(model: Model, inputs: Inputs, outputs: Mapping[str, tuple[Measurand | str, str]]) -> dict[str, Estimate]:
    """Estimates of the model's outputs.

    Parameters
    ----------
    model : callable
        See `Model`; works elementwise on the last axis and broadcasts over the others.
    inputs : Inputs
        All at the same n points.
    outputs : mapping
        Measurand and unit of each output wanted.

    Raises
    ------
    OutOfRangeError
        Where an output is no finite number; names the output and the first such point.
    """
    influences = inputs.influences
    estimates = np.array([item.estimate for item in influences])
    steps = np.array([_step(item.estimate, item.standard_u) for item in influences])
    count, points = estimates.shape
    stack = np.repeat(estimates[:, None, :], 1 + len(_STENCIL) * count, axis=1)
    for i in range(count):
        for j, (offset, _) in enumerate(_STENCIL):
            stack[i, 1 + len(_STENCIL) * i + j] += offset * steps[i]
    results = model({item.id: stack[i] for i, item in enumerate(influences)})

    made = {}
    for name, (measurand, unit) in outputs.items():
        values = np.broadcast_to(results[name], stack.shape[1:])
        _check_finite(name, values[0])
        made[name] = Estimate(measurand, unit, values[0].copy(), _sensitivities(inputs, values, steps, points), inputs)
    return made


def _step(estimate: FloatArray, u: FloatArray) -> FloatArray:
    """Step of the difference: u/64, but not below what rounding allows; a power-free safe value where both are 0."""
    step = np.maximum(u / 64.0, np.abs(estimate) * 2.0**-13)
    return np.where(u > 0, step, np.where(step > 0, step, 2.0**-13))


def _sensitivities(inputs: Inputs, values: FloatArray, steps: FloatArray, points: int) -> dict[str, FloatArray]:
    weights = np.array([weight for _, weight in _STENCIL])
    rows = values[1:].reshape(len(inputs.influences), len(_STENCIL), points)
    slopes = np.einsum("isn,s->in", rows, weights) / steps
    return {item.id: slopes[i] for i, item in enumerate(inputs.influences) if np.any(item.standard_u > 0)}


def _check_finite(name: str, values: FloatArray) -> None:
    if not np.all(np.isfinite(values)):
        point = int(np.argmax(~np.isfinite(values)))
        raise OutOfRangeError(
            f"“{name}” is no finite number at point {point + 1}.", "Look at the inputs of that point."
        )


def combine(
    model: Model, parts: Mapping[str, Estimate], outputs: Mapping[str, tuple[Measurand | str, str]]
) -> dict[str, Estimate]:
    """Estimates made from estimates, by the chain rule; influences that parts share stay shared.

    Parameters
    ----------
    model : callable
        Takes the parts' values by their names.
    parts : mapping
        At the same n points.
    outputs : mapping
        Measurand and unit of each output wanted.
    """
    names = list(parts)
    values = np.array([parts[name].value for name in names])
    steps = np.array([_step(parts[name].value, parts[name].u) for name in names])
    merged = parts[names[0]].inputs
    for name in names[1:]:
        merged = merged.merged(parts[name].inputs)
    base = model(dict(zip(names, values, strict=True)))
    slopes: dict[str, list[FloatArray]] = {output: [] for output in outputs}
    for i in range(len(names)):
        total = {output: np.zeros(values.shape[1]) for output in outputs}
        for offset, weight in _STENCIL:
            moved = values.copy()
            moved[i] += offset * steps[i]
            found = model(dict(zip(names, moved, strict=True)))
            for output in outputs:
                total[output] += weight * found[output]
        for output in outputs:
            slopes[output].append(total[output] / steps[i])
    made = {}
    for output, (measurand, unit) in outputs.items():
        _check_finite(output, base[output])
        chained: dict[str, FloatArray] = {}
        for name, slope in zip(names, slopes[output], strict=True):
            for influence_id, sensitivity in parts[name].sensitivities.items():
                chained[influence_id] = chained.get(influence_id, 0.0) + slope * sensitivity
        made[output] = Estimate(measurand, unit, np.asarray(base[output], float), chained, merged)
    return made
