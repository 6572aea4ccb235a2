"""Complex quantities: budgets by real and imaginary part, with the covariance between the two.

The uncertainty of a reflection or an impedance is an ellipse in the plane, not a number: magnitude and phase are
taken from real and imaginary part, never the other way round, since |Γ| bends at 0 (JCGM 102:2011, 7.4 and annex D).
"""

from collections.abc import Callable, Mapping

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.measurand import Measurand
from fenmist.uncertainty.estimate import BudgetRow, Estimate, covariance_between
from fenmist.uncertainty.influence import FloatArray, Inputs
from fenmist.uncertainty.propagation import Model, propagate

ComplexModel = Callable[[Mapping[str, FloatArray]], Mapping[str, NDArray[np.complex128]]]
"""As `Model`, with complex outputs."""


@dataclass(frozen=True, eq=False)
class ComplexEstimate:
    """A complex quantity at n points, as two estimates from the same inputs."""

    real: Estimate
    imag: Estimate

    @property
    def value(self) -> NDArray[np.complex128]:
        """Best value, shape (n,)."""
        return np.asarray(self.real.value + 1j * self.imag.value)

    def covariance(self) -> FloatArray:
        """Covariance of real and imaginary part, shape (n, 2, 2)."""
        mixed = covariance_between(self.real, self.imag)
        rows = [[self.real.u**2, mixed], [mixed, self.imag.u**2]]
        return np.asarray(np.moveaxis(np.array(rows), 2, 0))

    def budgets(self, point: int = 0) -> tuple[tuple[BudgetRow, ...], tuple[BudgetRow, ...]]:
        """Budgets of the real and of the imaginary part at one point."""
        return self.real.budget(point), self.imag.budget(point)


def propagate_complex(
    model: ComplexModel, inputs: Inputs, outputs: Mapping[str, tuple[Measurand | str, str]]
) -> dict[str, ComplexEstimate]:
    """Complex estimates of the model's outputs, see `propagate`."""
    asked = {
        f"{part} {name}": (measurand, unit) for name, (measurand, unit) in outputs.items() for part in ("Re", "Im")
    }
    made = propagate(parts_of(model), inputs, asked)
    return {name: ComplexEstimate(made[f"Re {name}"], made[f"Im {name}"]) for name in outputs}


def parts_of(model: ComplexModel) -> Model:
    """The same model with outputs `Re name` and `Im name`."""

    def model_of_parts(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        parts: dict[str, FloatArray] = {}
        for name, value in model(x).items():
            parts[f"Re {name}"], parts[f"Im {name}"] = np.real(value), np.imag(value)
        return parts

    return model_of_parts
