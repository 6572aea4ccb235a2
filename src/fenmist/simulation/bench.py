"""A bench whose truth is known: transmitter, meter, jumper, tee, lead or probe, oscilloscope and load, by nodes.

The circuit is written as linear equations in phasor volts and amperes (rms) and solved as a whole; lines enter by
their chain matrices. What a screen shows is taken from the sampled waveform, harmonics and noise included. Nothing is
shared with the formulas under test: an import contract forbids it. Imperfections (gain errors, a meter's own frequency
error) are stated as truths and distort what is shown.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

_LIGHT_M_S = 299_792_458.0
_SAMPLES = 1000
"""Samples of one period on the simulated screen."""

ComplexMatrix = NDArray[np.complex128]


@dataclass(frozen=True)
class TrueLine:
    """A uniform line: its real impedance in Ω, length in m, velocity factor, and matched loss in dB."""

    impedance_ohm: float
    length_m: float
    velocity_factor: float
    loss_db: float = 0.0

    def chain(self, frequency_hz: float) -> ComplexMatrix:
        """Chain matrix (V1, I1) from (V2, I2)."""
        beta = 2.0 * math.pi * frequency_hz / (self.velocity_factor * _LIGHT_M_S)
        gamma_l = self.loss_db * math.log(10.0) / 20.0 + 1j * beta * self.length_m
        cosh, sinh = np.cosh(gamma_l), np.sinh(gamma_l)
        return np.array([[cosh, self.impedance_ohm * sinh], [sinh / self.impedance_ohm, cosh]])


@dataclass(frozen=True)
class TrueProbe:
    """A divider probe as it is: what it divides by, its tip in F, its ground lead in H."""

    ratio: float
    capacitance_f: float
    inductance_h: float

    def chain(self, frequency_hz: float) -> ComplexMatrix:
        """Chain matrix of the ground lead."""
        return np.array([[1.0, 2j * math.pi * frequency_hz * self.inductance_h], [0.0, 1.0]])


@dataclass(frozen=True)
class TrueHarmonic:
    """A harmonic of the source as it stands at the tee: its order, volts over the carrier's, phase in radians."""

    order: int
    ratio: float
    phase_rad: float


@dataclass(frozen=True)
class TrueBench:
    """The truth: what everything really is."""

    load_ohm: Callable[[float], complex]  # at a frequency in Hz
    meter_error_db: Callable[[float], float]  # of indication, 10·log10, at a frequency in Hz
    lead: TrueLine | TrueProbe
    capacitance_f: float  # of the oscilloscope's input; a probe's own counts instead
    scope_gain: float = 1.0  # shown over true volts
    scope_bandwidth_hz: float = math.inf  # one pole
    jumper: TrueLine = TrueLine(50.0, 0.5, 0.66, 0.02)
    source_ohm: complex = 50.0 + 0j
    arm: TrueLine = TrueLine(50.0, 0.0, 0.7)  # from the tee's middle to the load
    tee_capacitance_f: float = 0.0
    harmonics: tuple[TrueHarmonic, ...] = ()
    noise_ratio: float = 0.0  # standard deviation of the trace's noise over the amplitude


@dataclass(frozen=True)
class Shown:
    """What the instruments show, before anyone reads them, and what is true."""

    volts_peak_to_peak: float
    volts_rms: float  # of the samples, without DC
    meter_w: float
    true_incident_w: float  # at the meter's output, 50 Ω
    true_net_w: float  # in the load
    trace_v: NDArray[np.float64]  # one period as sampled


def observe(
    bench: TrueBench, frequency_hz: float, incident_w: float, random: np.random.Generator | None = None
) -> Shown:
    """Drive the bench so that `incident_w` is incident at the meter's output, and look at its instruments.

    `random` makes the noise; without it there is none. A meter with averaging diodes takes a harmonic n by 2/n of its
    volts times the cosine of its phase (the mean of the rectified waveform).
    """
    node = _solve(bench, frequency_hz)
    forward = abs(node.meter_v + 50.0 * node.meter_i) ** 2 / 200.0
    scale = incident_w / forward
    amplitude = abs(node.tee_v) * math.sqrt(2.0 * scale)
    trace = _trace(bench, frequency_hz, amplitude)
    if random is not None and bench.noise_ratio:
        carrier = amplitude * abs(_screen(bench, frequency_hz))
        trace = trace + bench.noise_ratio * carrier * random.standard_normal(trace.size)
    return Shown(
        volts_peak_to_peak=float(np.ptp(trace)),
        volts_rms=float(np.std(trace)),
        meter_w=incident_w * 10.0 ** (bench.meter_error_db(frequency_hz) / 10.0) * _rectified(bench) ** 2,
        true_incident_w=incident_w,
        true_net_w=float((node.load_v * np.conj(node.load_i)).real * scale),
        trace_v=trace,
    )


def sample(
    bench: TrueBench,
    frequency_hz: float,
    incident_w: float,
    step_s: float,
    samples: int,
    volts_per_count: float,
    random: np.random.Generator,
) -> NDArray[np.float64]:
    """What a digitising oscilloscope records, begun anywhere in the carrier's period, in steps of `volts_per_count`."""
    node = _solve(bench, frequency_hz)
    forward = abs(node.meter_v + 50.0 * node.meter_i) ** 2 / 200.0
    amplitude = abs(node.tee_v) * math.sqrt(2.0 * incident_w / forward)
    angle = np.asarray(2.0 * math.pi * (frequency_hz * step_s * np.arange(samples) + random.uniform()), float)
    wave = _wave(bench, frequency_hz, angle) * amplitude
    carrier = amplitude * abs(_screen(bench, frequency_hz))
    wave = wave + bench.noise_ratio * carrier * random.standard_normal(samples)
    return np.asarray(np.round(wave / volts_per_count) * volts_per_count)


def _trace(bench: TrueBench, frequency_hz: float, amplitude: float) -> NDArray[np.float64]:
    begin = np.angle(_screen(bench, frequency_hz))  # of the carrier's crest
    angle = np.arange(_SAMPLES) * (2.0 * math.pi / _SAMPLES)
    return np.asarray(amplitude * _wave(bench, frequency_hz, np.asarray(angle - begin, float)))


def _wave(bench: TrueBench, frequency_hz: float, angle: NDArray[np.float64]) -> NDArray[np.float64]:
    """The screen's volts for one volt of carrier at the tee, at phases of the carrier."""
    wave = (_screen(bench, frequency_hz) * np.exp(1j * angle)).real
    for item in bench.harmonics:
        gain = _screen(bench, item.order * frequency_hz)
        wave = wave + item.ratio * (gain * np.exp(1j * (item.order * angle + item.phase_rad))).real
    return np.asarray(wave)


def _screen(bench: TrueBench, frequency_hz: float) -> complex:
    """Volts on the screen over volts at the tee."""
    node = _solve(bench, frequency_hz)
    falling = 1.0 / (1.0 + 1j * frequency_hz / bench.scope_bandwidth_hz)
    return node.scope_v / node.tee_v * bench.scope_gain * falling


def _rectified(bench: TrueBench) -> float:
    """Mean of the rectified volts on the line over that of the carrier alone."""
    angle = np.arange(7200) * (2.0 * math.pi / 7200)
    wave = np.cos(angle)
    for item in bench.harmonics:
        wave = wave + item.ratio * np.cos(item.order * angle + item.phase_rad)
    return float(np.mean(np.abs(wave)) * math.pi / 2.0)


@dataclass(frozen=True)
class _Nodes:
    """Phasors for 1 V of EMF."""

    meter_v: complex
    meter_i: complex
    tee_v: complex
    load_v: complex
    load_i: complex
    scope_v: complex


def _solve(bench: TrueBench, frequency_hz: float) -> _Nodes:
    """Unknowns: V_m, I_m, V_t, I_j (out of the jumper), I_a (into the arm), V_l, I_l, I_s (into the lead), V_s."""
    (a, b), (c, d) = bench.jumper.chain(frequency_hz)
    (e, f), (g, h) = bench.lead.chain(frequency_hz)
    (p, q), (r, s) = bench.arm.chain(frequency_hz)
    omega = 2j * math.pi * frequency_hz
    end = omega * (bench.lead.capacitance_f if isinstance(bench.lead, TrueProbe) else bench.capacitance_f)
    body, load = omega * bench.tee_capacitance_f, bench.load_ohm(frequency_hz)
    equations = np.array(
        [
            [1, bench.source_ohm, 0, 0, 0, 0, 0, 0, 0],  # EMF
            [1, 0, -a, -b, 0, 0, 0, 0, 0],  # jumper, volts
            [0, 1, -c, -d, 0, 0, 0, 0, 0],  # jumper, amperes
            [0, 0, -body, 1, -1, 0, 0, -1, 0],  # the tee's node
            [0, 0, 1, 0, 0, -p, -q, 0, 0],  # arm, volts
            [0, 0, 0, 0, 1, -r, -s, 0, 0],  # arm, amperes
            [0, 0, 0, 0, 0, 1, -load, 0, 0],  # load
            [0, 0, 1, 0, 0, 0, 0, 0, -(e + f * end)],  # lead, volts
            [0, 0, 0, 0, 0, 0, 0, 1, -(g + h * end)],  # lead, amperes
        ],
        dtype=complex,
    )
    v_m, i_m, v_t, _, _, v_l, i_l, _, v_s = np.linalg.solve(equations, np.eye(9, 1, dtype=complex)[:, 0])
    ratio = bench.lead.ratio if isinstance(bench.lead, TrueProbe) else 1.0
    return _Nodes(complex(v_m), complex(i_m), complex(v_t), complex(v_l), complex(i_l), complex(v_s) / ratio)
