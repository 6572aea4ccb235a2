"""A bench whose truth is known: transmitter, meter, jumper, tee, lead or probe, oscilloscope and load, by nodes.

The circuit is written as nodes (`simulation/nodes.py`) in phasor volts and amperes (rms). What a screen shows is taken
from the sampled waveform, harmonics and noise included. Nothing is shared with the formulas under test: an import
contract forbids it. Imperfections (gain errors, a meter's own frequency error) are stated as truths and distort what is
shown.
"""

import math
from collections.abc import Callable, Hashable

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.simulation.nodes import Equations

Ends = tuple[Hashable, Hashable]
"""Names of the volts and the current at one end of a line."""

_SAMPLES = 1000
"""Samples of one period on the simulated screen."""


@dataclass(frozen=True)
class TrueLine:
    """A uniform line: its real impedance in Ω, length in m, velocity factor, and matched loss in dB."""

    impedance_ohm: float
    length_m: float
    velocity_factor: float
    loss_db: float = 0.0

    def between(self, circuit: Equations, near: Ends, far: Ends) -> None:
        """Put it between two ends of a circuit."""
        circuit.chain(near, far, self.impedance_ohm, self.length_m / self.velocity_factor, self.loss_db)


@dataclass(frozen=True)
class TrueProbe:
    """A divider probe as it is: what it divides by, its tip in F, its ground lead in H."""

    ratio: float
    capacitance_f: float
    inductance_h: float

    def between(self, circuit: Equations, near: Ends, far: Ends) -> None:
        """Its ground lead in series."""
        (v1, i1), (v2, i2) = near, far
        circuit.row({v1: 1.0, v2: -1.0, i1: -1j * circuit.omega * self.inductance_h})
        circuit.row({i1: 1.0, i2: 1.0})


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
    circuit = Equations(frequency_hz)
    row, farad = circuit.row, 1j * circuit.omega
    row({"V meter": 1.0, "I meter": bench.source_ohm}, 1.0)
    bench.jumper.between(circuit, ("V meter", "I meter"), ("V tee", "I jumper"))
    bench.arm.between(circuit, ("V tee", "I arm"), ("V load", "I load"))
    bench.lead.between(circuit, ("V tee", "I lead"), ("V scope", "I scope"))
    row({"I jumper": 1.0, "I arm": 1.0, "I lead": 1.0, "V tee": farad * bench.tee_capacitance_f})
    row({"V load": 1.0, "I load": bench.load_ohm(frequency_hz)})  # currents run into the lines
    end = bench.lead.capacitance_f if isinstance(bench.lead, TrueProbe) else bench.capacitance_f
    row({"I scope": 1.0, "V scope": farad * end})
    found = circuit.solved()
    ratio = bench.lead.ratio if isinstance(bench.lead, TrueProbe) else 1.0
    return _Nodes(
        found["V meter"], found["I meter"], found["V tee"], found["V load"], -found["I load"], found["V scope"] / ratio
    )
