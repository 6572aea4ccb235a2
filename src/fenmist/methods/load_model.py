"""A load as a method sees it: conductance for power, susceptance for the match, and what is not known of it.

With G = R/|Z|² the power in the load is V²·G exactly. Where only |Z| was stated, R = |Z|·cos φ with cos φ anywhere
from 0.866 to 1 (a phase within ±30°; common practice for dummy loads, no source). Where the sign of the reactance
is unknown, s = ±1 multiplies the cross term of the load's and the lead's susceptance, so both signs are covered.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from fenmist.kit.characterisation import LoadState
from fenmist.uncertainty.influence import Distribution, FloatArray, Influence, influence
from fenmist.units.impedance import Known

COS_PHI_LOWEST = 0.866
"""cos of 30°, the largest phase angle allowed for when only |Z| is known."""

_COS_PHI_MIDDLE = (1.0 + COS_PHI_LOWEST) / 2.0
_COS_PHI_LIMIT = (1.0 - COS_PHI_LOWEST) / 2.0


def load_influences(state: LoadState, source_id: str) -> tuple[Influence, ...]:
    """Influences `load.resistance`, `load.reactance`, `load.cos_phi` and `load.sign` over the state's n points."""
    n = state.resistance_ohm.size
    magnitude_only = np.array([item is Known.MAGNITUDE for item in state.known])
    sign_unknown = np.array([item in (Known.MAGNITUDE, Known.MAGNITUDE_SWR) for item in state.known])
    footing = "; ".join(dict.fromkeys(item.value for item in state.footing))
    return (
        influence(
            "load.resistance", "load, resistance", state.resistance_ohm, state.u_resistance_ohm,
            points=n, unit="Ω", source_id=source_id, basis=footing,
        ),
        influence(
            "load.reactance", "load, reactance", state.reactance_ohm, state.u_reactance_ohm,
            points=n, unit="Ω", source_id=source_id, basis=footing,
        ),
        influence(
            "load.cos_phi", "load, phase angle", np.where(magnitude_only, _COS_PHI_MIDDLE, 1.0),
            np.where(magnitude_only, _COS_PHI_LIMIT / np.sqrt(3.0), 0.0), points=n, source_id=source_id,
            distribution=Distribution.RECTANGULAR, basis="phase within ±30°: common practice, no source",
        ),
        influence(
            "load.sign", "load, sign of the reactance", np.where(sign_unknown, 0.0, 1.0),
            np.where(sign_unknown, 1.0, 0.0), points=n, source_id=source_id,
            distribution=Distribution.TWO_POINT, basis="not measured",
        ),
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Admittance:
    """The load at its plane. Arrays of one shape."""

    conductance_s: FloatArray
    susceptance_s: FloatArray  # its magnitude counts where the sign is unknown
    sign: FloatArray

    def reflection_squared(self, added_susceptance_s: FloatArray, z0_ohm: float) -> FloatArray:
        """|Γ|² with a lossless susceptance in parallel: ((Y0 − G)² + B²)/((Y0 + G)² + B²)."""
        y0 = 1.0 / z0_ohm
        cross = 2.0 * self.sign * self.susceptance_s * added_susceptance_s
        b2 = self.susceptance_s**2 + added_susceptance_s**2 + cross
        return np.asarray(((y0 - self.conductance_s) ** 2 + b2) / ((y0 + self.conductance_s) ** 2 + b2))


def admittance(x: Mapping[str, FloatArray], estimate_ohm: FloatArray) -> Admittance:
    """The load's admittance from its influences; works on arrays of any one shape.

    A resistance is known as a factor: what its influence adds to `estimate_ohm` is taken as a relative change of the
    logarithm, so that it can't become negative and an 8 % load stays nearly linear in dB.
    """
    stated = estimate_ohm * np.exp((x["load.resistance"] - estimate_ohm) / estimate_ohm)
    cos_phi = x["load.cos_phi"]
    resistance = stated * cos_phi
    hidden = stated**2 * np.maximum(1.0 - cos_phi**2, 0.0)
    reactance = np.where(hidden > 0.0, np.sqrt(hidden), x["load.reactance"])
    square = resistance**2 + reactance**2
    return Admittance(resistance / square, -reactance / square, x["load.sign"])
