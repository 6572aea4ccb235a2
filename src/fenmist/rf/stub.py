"""The lead from a tee to a high-impedance input: a line, with its loss, that ends in a capacitance and a resistance.

The scope sees other volts than the tee has, and the tee sees an admittance in parallel with the load. With
γl = αl + jθ and y = (jωC + 1/R)·Zc: V_end/V_tee = 1/(cosh γl + y·sinh γl), and the tee sees
(sinh γl + y·cosh γl)/(cosh γl + y·sinh γl)/Zc. Without loss that is 1/(cos θ − q·sin θ) and tan(θ + atan q)/Zc, with
q = ω·C·Zc. At θ + atan q = 90° the stub shorts the line: nothing can be measured near there. The line impedance is
taken as real, which holds above some 100 kHz. Page: docs/method/stub.md.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]

SPEED_OF_LIGHT_M_S = 299_792_458.0
"""Exact (SI)."""

INPUT_RESISTANCE_OHM = 1e6
"""Of an oscilloscope's high-impedance input (common practice, no source)."""

_NEPER_PER_DB = np.log(10.0) / 20.0


@dataclass(frozen=True, eq=False)
class Stub:
    """The lead and its end. Numbers or arrays that broadcast with each other and with the frequency."""

    length_m: ArrayLike
    velocity_factor: ArrayLike
    capacitance_f: ArrayLike
    line_ohm: ArrayLike = 50.0
    loss_db: ArrayLike = 0.0  # matched loss of its whole length at the frequency
    resistance_ohm: ArrayLike = np.inf

    def electrical_length_rad(self, frequency_hz: ArrayLike) -> FloatArray:
        """θ = 2π·f·l/(v·c) in radians."""
        f, length, v = (np.asarray(item, float) for item in (frequency_hz, self.length_m, self.velocity_factor))
        return np.asarray(2.0 * np.pi * f * length / (v * SPEED_OF_LIGHT_M_S))

    def phase_rad(self, frequency_hz: ArrayLike) -> FloatArray:
        """θ + atan q: the lead with its end as one electrical length; π/2 is resonance."""
        q = 2.0 * np.pi * np.asarray(frequency_hz, float) * np.asarray(self.capacitance_f) * np.asarray(self.line_ohm)
        return np.asarray(self.electrical_length_rad(frequency_hz) + np.arctan(q))

    def transfer(self, frequency_hz: ArrayLike) -> ComplexArray:
        """Volts at the input over volts at the tee.

        >>> lead = Stub(0.3, 0.66, 16e-12)
        >>> float((abs(lead.transfer(28e6)) ** 2 - 1).round(2))  # of power
        0.16
        """
        cosh, sinh, y = self._parts(frequency_hz)
        return np.asarray(1.0 / (cosh + y * sinh))

    def admittance_s(self, frequency_hz: ArrayLike) -> ComplexArray:
        """What the lead puts across the tee, in S."""
        cosh, sinh, y = self._parts(frequency_hz)
        return np.asarray((sinh + y * cosh) / (cosh + y * sinh) / np.asarray(self.line_ohm, float))

    def _parts(self, frequency_hz: ArrayLike) -> tuple[ComplexArray, ComplexArray, ComplexArray]:
        omega = 2.0 * np.pi * np.asarray(frequency_hz, float)
        end = 1j * omega * np.asarray(self.capacitance_f, float) + 1.0 / np.asarray(self.resistance_ohm, float)
        y = np.asarray(end * np.asarray(self.line_ohm, float))
        grown = np.exp(np.asarray(self.loss_db, float) * _NEPER_PER_DB + 1j * self.electrical_length_rad(frequency_hz))
        return np.asarray((grown + 1.0 / grown) / 2.0), np.asarray((grown - 1.0 / grown) / 2.0), y
