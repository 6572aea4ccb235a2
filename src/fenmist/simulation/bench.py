"""A bench whose truth is known: transmitter, meter, jumper, tee, lead, oscilloscope and load, solved by nodes.

The circuit is written as linear equations in phasor volts and amperes (rms) and solved as a whole; lines enter by
their chain matrices. Nothing is shared with the formulas under test: an import contract forbids it. Imperfections
(gain errors, a meter's own frequency error) are stated as truths and distort what is shown.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

_LIGHT_M_S = 299_792_458.0


@dataclass(frozen=True)
class TrueLine:
    """A uniform line: its real impedance in Ω, length in m, velocity factor, and matched loss in dB."""

    impedance_ohm: float
    length_m: float
    velocity_factor: float
    loss_db: float = 0.0

    def chain(self, frequency_hz: float) -> NDArray[np.complex128]:
        """Chain matrix (V1, I1) from (V2, I2)."""
        beta = 2.0 * math.pi * frequency_hz / (self.velocity_factor * _LIGHT_M_S)
        gamma_l = self.loss_db * math.log(10.0) / 20.0 + 1j * beta * self.length_m
        cosh, sinh = np.cosh(gamma_l), np.sinh(gamma_l)
        return np.array([[cosh, self.impedance_ohm * sinh], [sinh / self.impedance_ohm, cosh]])


@dataclass(frozen=True)
class TrueBench:
    """The truth: what everything really is."""

    load_ohm: Callable[[float], complex]  # at a frequency in Hz
    meter_error_db: Callable[[float], float]  # of indication, 10·log10, at a frequency in Hz
    lead: TrueLine
    capacitance_f: float
    scope_gain: float = 1.0  # shown over true volts
    scope_bandwidth_hz: float = math.inf  # one pole
    jumper: TrueLine = TrueLine(50.0, 0.5, 0.66, 0.02)
    source_ohm: complex = 50.0 + 0j


@dataclass(frozen=True)
class Shown:
    """What the instruments show, before anyone reads them, and what is true."""

    volts_peak_to_peak: float
    meter_w: float
    true_incident_w: float  # at the meter's output, 50 Ω
    true_net_w: float  # in the load


def observe(bench: TrueBench, frequency_hz: float, incident_w: float) -> Shown:
    """Drive the bench so that `incident_w` is incident at the meter's output, and look at its instruments."""
    meter_v, meter_i, tee_v, load_i, scope_v = _solve(bench, frequency_hz)
    forward = abs(meter_v + 50.0 * meter_i) ** 2 / 200.0
    scale = incident_w / forward
    falling = 1.0 / math.hypot(1.0, frequency_hz / bench.scope_bandwidth_hz)
    screen = abs(scope_v) * math.sqrt(scale) * bench.scope_gain * falling
    return Shown(
        volts_peak_to_peak=2.0 * math.sqrt(2.0) * screen,
        meter_w=incident_w * 10.0 ** (bench.meter_error_db(frequency_hz) / 10.0),
        true_incident_w=incident_w,
        true_net_w=float((tee_v * np.conj(load_i)).real * scale),
    )


def _solve(bench: TrueBench, frequency_hz: float) -> tuple[complex, complex, complex, complex, complex]:
    """Volts and amperes at the meter, volts at the tee, amperes in the load, volts at the scope, for 1 V of EMF.

    Unknowns: V_m, I_m, V_t, I_j (out of the jumper), I_l (load), I_s (into the lead), V_s.
    """
    (a, b), (c, d) = bench.jumper.chain(frequency_hz)
    (e, f), (g, h) = bench.lead.chain(frequency_hz)
    input_s = 2j * math.pi * frequency_hz * bench.capacitance_f
    load = bench.load_ohm(frequency_hz)
    equations = np.array(
        [
            [1, bench.source_ohm, 0, 0, 0, 0, 0],  # EMF
            [1, 0, -a, -b, 0, 0, 0],  # jumper, volts
            [0, 1, -c, -d, 0, 0, 0],  # jumper, amperes
            [0, 0, 0, 1, -1, -1, 0],  # the tee's node
            [0, 0, 1, 0, -load, 0, 0],  # load
            [0, 0, 1, 0, 0, 0, -(e + f * input_s)],  # lead, volts
            [0, 0, 0, 0, 0, 1, -(g + h * input_s)],  # lead, amperes
        ],
        dtype=complex,
    )
    v_m, i_m, v_t, _, i_l, _, v_s = np.linalg.solve(equations, np.array([1, 0, 0, 0, 0, 0, 0], dtype=complex))
    return complex(v_m), complex(i_m), complex(v_t), complex(i_l), complex(v_s)
