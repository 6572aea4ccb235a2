"""A load as a method sees it: conductance for power, susceptance for the match, and what is not known of it.

With G = R/|Z|² the power in the load is V²·G exactly. Where only |Z| was stated, R = |Z|·cos φ with cos φ anywhere
from 0.866 to 1 (a phase within ±30°; common practice for dummy loads, no source). Where the sign of the reactance
is unknown, s = ±1 multiplies the cross term of the load's and the lead's susceptance, so both signs are covered. A
load that was measured cold and hot lies between the two.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.kit.characterisation import LoadState
from fenmist.uncertainty.influence import Distribution, FloatArray, Influence, each_point, influence
from fenmist.units.impedance import Known

ComplexArray = NDArray[np.complex128]

COS_PHI_LOWEST = 0.866
"""cos of 30°, the largest phase angle allowed for when only |Z| is known."""

_COS_PHI_MIDDLE = (1.0 + COS_PHI_LOWEST) / 2.0
_COS_PHI_LIMIT = (1.0 - COS_PHI_LOWEST) / 2.0


def load_influences(state: LoadState, source_id: str) -> tuple[Influence, ...]:
    """The load's resistance, reactance, cos φ, sign and heat, by its id, over the state's n points."""
    n = state.resistance_ohm.size
    magnitude_only = np.array([item is Known.MAGNITUDE for item in state.known])
    sign_unknown = np.array([item in (Known.MAGNITUDE, Known.MAGNITUDE_SWR) for item in state.known])
    footing = "; ".join(dict.fromkeys(item.value for item in state.footing))
    found = (
        influence(
            f"{source_id}.resistance", "load, resistance", state.resistance_ohm, state.u_resistance_ohm,
            points=n, unit="Ω", source_id=source_id, basis=footing,
        ),
        influence(
            f"{source_id}.reactance", "load, reactance", state.reactance_ohm, state.u_reactance_ohm,
            points=n, unit="Ω", source_id=source_id, basis=footing,
        ),
        influence(
            f"{source_id}.cos_phi", "load, phase angle", np.where(magnitude_only, _COS_PHI_MIDDLE, 1.0),
            np.where(magnitude_only, _COS_PHI_LIMIT / np.sqrt(3.0), 0.0), points=n, source_id=source_id,
            distribution=Distribution.RECTANGULAR, basis="phase within ±30°: common practice, no source",
        ),
        influence(
            f"{source_id}.sign", "load, sign of the reactance", np.where(sign_unknown, 0.0, 1.0),
            np.where(sign_unknown, 1.0, 0.0), points=n, source_id=source_id,
            distribution=Distribution.TWO_POINT, basis="not measured",
        ),
    )  # fmt: skip
    if not state.can_be_hot:
        return found
    heat = influence(
        f"{source_id}.heat", "load, how hot it is", state.heat, state.u_heat, points=n, source_id=source_id,
        distribution=Distribution.RECTANGULAR, sharing=each_point(n), basis="between its cold and its hot table",
    )  # fmt: skip
    return (*found, heat)


@dataclass(frozen=True, eq=False)
class Admittance:
    """A one-port at its plane, Y = G + j(s·B + b); arrays of one shape, in S.

    `turning` is B, whose sign s is unknown where only |Z| and SWR were noted; `fixed` is b, whose sign is known.
    """

    conductance_s: FloatArray
    turning_s: FloatArray
    fixed_s: FloatArray
    sign: FloatArray  # 1 where known; else two values

    def with_parallel(self, added_s: ComplexArray) -> "Admittance":
        """The same with something known in parallel."""
        return replace(
            self, conductance_s=self.conductance_s + np.real(added_s), fixed_s=self.fixed_s + np.imag(added_s)
        )

    def reflection_squared(self, z0_ohm: float) -> FloatArray:
        """|Γ|² = ((Y0 − G)² + B²)/((Y0 + G)² + B²); s² is 1, so the sign stays in the cross term only."""
        y0 = 1.0 / z0_ohm
        b2 = self.turning_s**2 + self.fixed_s**2 + 2.0 * self.sign * self.turning_s * self.fixed_s
        return np.asarray(((y0 - self.conductance_s) ** 2 + b2) / ((y0 + self.conductance_s) ** 2 + b2))

    def reflection(self, z0_ohm: float) -> ComplexArray:
        """Γ with the sign as it stands in the influence."""
        y = z0_ohm * (self.conductance_s + 1j * (self.sign * self.turning_s + self.fixed_s))
        return np.asarray((1.0 - y) / (1.0 + y))

    def behind_line(self, theta_rad: FloatArray, line_ohm: float) -> "Admittance":
        """Seen through a lossless piece of line.

        Notes
        -----
        With t = tan θ: (G(1 + t²) + j[B(1 − t²) + t(Y0 − |Y|²/Y0)])/(1 − 2tB/Y0 + t²|Y|²/Y0²). B is the turning part
        here: a fixed part belongs behind the line, not in front of it.
        """
        y0, t = 1.0 / line_ohm, np.tan(theta_rad)
        square = self.conductance_s**2 + self.turning_s**2
        below = 1.0 - 2.0 * t * self.sign * self.turning_s / y0 + t**2 * square / y0**2
        return Admittance(
            self.conductance_s * (1.0 + t**2) / below, self.turning_s * (1.0 - t**2) / below,
            t * (y0 - square / y0) / below, self.sign,
        )  # fmt: skip


def load_admittance(x: Mapping[str, FloatArray], state: LoadState, source_id: str) -> Admittance:
    """The load's admittance at its plane from its influences; works on arrays of any one shape.

    A resistance is known as a factor: what its influence adds to the estimate is taken as a relative change of the
    logarithm, so that it can't become negative and an 8 % load stays nearly linear in dB; beyond its own size it goes
    on straight.

    Parameters
    ----------
    x : mapping
        Values by influence id, arrays of one shape (..., n).
    state : LoadState
        The load at n frequencies.
    source_id : str
        Part id of the load: its influences begin with it.

    Returns
    -------
    Admittance
        In S, of that shape.
    """
    estimate = state.resistance_ohm
    change = (x[f"{source_id}.resistance"] - estimate) / estimate
    stated = estimate * np.exp(np.minimum(change, 1.0)) * np.maximum(change, 1.0)
    reactance = x[f"{source_id}.reactance"]
    if state.can_be_hot:
        stated = stated + x[f"{source_id}.heat"] * state.hot_resistance_ohm
        reactance = reactance + x[f"{source_id}.heat"] * state.hot_reactance_ohm
    cos_phi = x[f"{source_id}.cos_phi"]
    resistance = stated * cos_phi
    hidden = stated**2 * np.maximum(1.0 - cos_phi**2, 0.0)
    reactance = np.where(hidden > 0.0, np.sqrt(hidden), reactance)
    square = resistance**2 + reactance**2
    return Admittance(resistance / square, -reactance / square, np.zeros_like(square), x[f"{source_id}.sign"])
