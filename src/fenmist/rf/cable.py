"""Coaxial cable: matched loss over frequency, and what the usual kinds are.

Loss per metre is k1·√f + k2·f: skin effect in the conductors, and the dielectric. Both are fitted to two or more
points of a data sheet or a measurement. Page: docs/method/cable.md.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Cable:
    """A kind of cable; loss in dB per metre at f Hz is `k1`·√f + `k2`·f."""

    label: str
    line_ohm: float
    velocity_factor: float
    k1: float = 0.0  # dB/m/√Hz
    k2: float = 0.0  # dB/m/Hz

    def loss_db_per_m(self, frequency_hz: ArrayLike) -> FloatArray:
        """Matched loss, any shape."""
        f = np.asarray(frequency_hz, float)
        return np.asarray(self.k1 * np.sqrt(f) + self.k2 * f)


def fit_cable(
    label: str, line_ohm: float, velocity_factor: float, frequency_hz: ArrayLike, loss_db_per_m: ArrayLike
) -> Cable:
    """A cable from losses at two or more frequencies, by least squares of the relative deviations, k1 and k2 >= 0.

    Parameters
    ----------
    label : str
        Name of the kind.
    line_ohm, velocity_factor : float
        Impedance in Ω, and velocity over that of light, 0 to 1.
    frequency_hz, loss_db_per_m : sequence, shape (n,)
        Two or more frequencies in Hz, and the matched loss there in dB a metre.

    Raises
    ------
    OutOfRangeError
        For fewer than two points, or values that are not above 0.
    """
    from scipy.optimize import nnls  # heavy: imported on first use

    f, loss = np.asarray(frequency_hz, float), np.asarray(loss_db_per_m, float)
    if f.shape != loss.shape or f.size < 2 or np.any(f <= 0) or np.any(loss <= 0):
        raise OutOfRangeError(
            "A cable's loss needs two points or more, each a frequency and a loss above 0.",
            "Type for example 10 MHz and 0.046 dB, 100 MHz and 0.161 dB, per metre.",
        )
    scaled = np.array([np.sqrt(f / 1e6), f / 1e6]).T / loss[:, None]
    k1, k2 = nnls(scaled, np.ones_like(loss))[0]
    return Cable(label, line_ohm, velocity_factor, float(k1) / 1e3, float(k2) / 1e6)


CABLES = (
    Cable("50 Ω, 5 mm, solid polyethylene", 50.0, 0.66, 1.383e-5, 2.272e-10),
    Cable("50 Ω, 10 mm, solid polyethylene", 50.0, 0.66, 6.012e-6, 9.878e-11),
    Cable("50 Ω, 2.5 mm, PTFE", 50.0, 0.69, 2.682e-5, 1.764e-11),
    Cable("75 Ω, 6 mm, solid polyethylene", 75.0, 0.66, 1.129e-5),
    Cable("75 Ω, 7 mm, foam polyethylene", 75.0, 0.82, 6.667e-6),
    Cable("50 Ω, loss left out", 50.0, 0.66),
)
"""Usual kinds; losses fitted to 10 and 100 MHz of any cable table, from memory (tests/reference/cables.toml)."""


def cable_named(label: str) -> Cable:
    """The kind of that name; raises OutOfRangeError."""
    for item in CABLES:
        if item.label == label:
            return item
    raise OutOfRangeError(
        f"“{label}” is no kind of cable known here.", f"Choose {'; '.join(item.label for item in CABLES)}."
    )
