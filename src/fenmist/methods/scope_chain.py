"""From the screen back to the tee: everything between what an oscilloscope shows and the volts on the line.

In working order: the gain, the response of scope and probe together, noise on a peak-to-peak reading, the source's
harmonics, the probe's ratio, and the lead or the probe tip that hangs on the tee. Each is a factor on volts with its
own influences. Pages: docs/method/bandwidth.md, stub.md, probe.md, harmonics.md, noise.md.
"""

from collections.abc import Callable, Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.kit.part import SpecTerm
from fenmist.kit.stated import Shown, influences_of
from fenmist.rf.cable import Cable
from fenmist.rf.probe import HENRY_PER_M, ProbeTip
from fenmist.rf.stub import INPUT_RESISTANCE_OHM, Stub
from fenmist.uncertainty.influence import (
    Distribution,
    FloatArray,
    Influence,
    each_point,
    influence,
    standard_u_from_limit,
)
from fenmist.waveform.harmonics import RESPONDS_OF_FORM, Harmonics, Responds, volts_weight
from fenmist.waveform.noise import peak_to_peak_excess
from fenmist.waveform.response import (
    BandwidthModel,
    response_limit_exponent,
    response_loss_exponent,
    system_bandwidth_hz,
)
from fenmist.waveform.sine import RMS_PER_UNIT

ComplexArray = NDArray[np.complex128]

LOSS_SHARE = 0.2
"""± part of a cable's tabled loss that a piece of it may be off (common practice, no source)."""

HARMONIC_GAIN_CEILING = 10.0
"""Largest gain of a harmonic over the fundamental that is reckoned with: the sum near a resonance means nothing."""


@dataclass(frozen=True)
class Lead:
    """The cable from tee to scope, and the input it ends in; `u_` are standard uncertainties."""

    length_m: float
    u_length_m: float
    velocity_factor: float
    u_velocity_factor: float
    line_ohm: float
    u_line_ohm: float
    capacitance_f: float
    u_capacitance_f: float
    cable: Cable | None = None  # for its loss; none leaves it out
    source_id: str = "lead"

    def loss_db(self, frequency_hz: FloatArray) -> FloatArray:
        """Matched loss of the whole lead."""
        return self.length_m * self.cable.loss_db_per_m(frequency_hz) if self.cable else np.zeros_like(frequency_hz)

    def stub(self, frequency_hz: FloatArray) -> Stub:
        """The lead as stated."""
        return Stub(
            self.length_m, self.velocity_factor, self.capacitance_f, self.line_ohm, self.loss_db(frequency_hz),
            INPUT_RESISTANCE_OHM,
        )  # fmt: skip


@dataclass(frozen=True)
class Probe:
    """A divider probe at the tee; `setting` is what the scope multiplies by."""

    ratio: float
    u_ratio: float
    capacitance_f: float
    u_capacitance_f: float
    ground_m: float  # length of its ground lead, 0 for a coaxial tip adapter
    u_ground_m: float
    bandwidth_hz: float
    setting: float
    source_id: str = "probe"

    def tip(self) -> ProbeTip:
        """Tip and ground lead as stated."""
        return ProbeTip(self.capacitance_f, HENRY_PER_M * self.ground_m)


@dataclass(frozen=True)
class Tee:
    """The tee: from its middle to the load's plane, and what its body adds across the line."""

    arm_m: float
    u_arm_m: float
    capacitance_f: float
    u_capacitance_f: float
    source_id: str = "tee"


@dataclass(frozen=True)
class Scope:
    """An oscilloscope's part in it; an infinite bandwidth means that none was stated and nothing is corrected."""

    accuracy: tuple[SpecTerm, ...]  # of its vertical gain, as stated
    bandwidth_hz: float
    response: BandwidthModel
    source_id: str = "scope"
    noise_ratio: float = 0.0  # standard deviation of the noise over the amplitude; peaks are corrected for it


@dataclass(frozen=True, eq=False)
class Chain:
    """What is between the screen and the tee at n points, with how the volts were taken at each."""

    frequency_hz: FloatArray
    scope: Scope
    feed: Lead | Probe | None
    forms: tuple[str, ...]  # "Vpp", "Vpk", "Vrms" or "fit", one per point
    harmonics: Harmonics | None = None
    volts_rms: FloatArray | None = None  # on the screen; what an absolute limit is a share of
    digit_rms: FloatArray | None = None  # last digit of what was read, as rms
    source_id: str = "source"  # of the harmonics

    @property
    def shown(self) -> Shown:
        """The volts as they were read, in their own form."""
        ones = np.ones_like(self.frequency_hz)
        per_volt = np.array([RMS_PER_UNIT.get(form, 1.0) for form in self.forms])
        volts = (ones if self.volts_rms is None else self.volts_rms) / per_volt
        return Shown(volts, None if self.digit_rms is None else self.digit_rms / per_volt)

    @property
    def bandwidth_hz(self) -> float:
        """Bandwidth of scope and probe together."""
        probe = (self.feed.bandwidth_hz,) if isinstance(self.feed, Probe) else ()
        return system_bandwidth_hz(self.scope.bandwidth_hz, *probe)

    def transfer(self, frequency_hz: FloatArray) -> FloatArray:
        """|volts on the screen / volts at the tee| as stated, without gain and ratio."""
        loss = response_loss_exponent(frequency_hz, self.bandwidth_hz, self.scope.response)
        return np.asarray(np.exp(-loss) * self.feed_transfer(frequency_hz))

    def feed_transfer(self, frequency_hz: FloatArray) -> FloatArray:
        """|volts at the scope's input or over the probe's tip / volts at the tee| as stated."""
        if isinstance(self.feed, Lead):
            return np.abs(self.feed.stub(frequency_hz).transfer(frequency_hz))
        if isinstance(self.feed, Probe):
            return np.abs(self.feed.tip().transfer(frequency_hz))
        return np.ones_like(frequency_hz)

    def phase_rad(self) -> FloatArray:
        """How near what hangs on the tee is to resonance, as an electrical length: π/2 is resonance."""
        if isinstance(self.feed, Lead):
            return self.feed.stub(self.frequency_hz).phase_rad(self.frequency_hz)
        if isinstance(self.feed, Probe):
            return np.asarray(np.pi / 2.0 * np.sqrt(self.feed.tip().resonance_share(self.frequency_hz)))
        return np.zeros_like(self.frequency_hz)

    def noise_excess(self) -> FloatArray:
        """Relative amount by which noise lifts the volts read, shape (n,)."""
        excess = peak_to_peak_excess(self.scope.noise_ratio)
        return np.array([excess if form in ("Vpp", "Vpk") else 0.0 for form in self.forms])

    def harmonic_weights(self) -> dict[int, FloatArray]:
        """Relative change of the volts read for a harmonic's cos φ of 1, by order, shape (n,)."""
        if self.harmonics is None:
            return {}
        own = self.transfer(self.frequency_hz)
        found = {}
        for order, ratio in self.harmonics.ratios.items():
            gain = np.minimum(self.transfer(order * self.frequency_hz) / own, HARMONIC_GAIN_CEILING)
            weights = [volts_weight(order, RESPONDS_OF_FORM[form]) for form in self.forms]
            found[order] = np.asarray(ratio * gain * np.array(weights))
        return found

    def rms_excess(self) -> FloatArray:
        """Relative amount by which harmonics lift volts read as rms, to second order, shape (n,)."""
        if self.harmonics is None:
            return np.zeros_like(self.frequency_hz)
        square = sum(ratio**2 for ratio in self.harmonics.ratios.values())
        is_rms = [RESPONDS_OF_FORM[form] is Responds.RMS for form in self.forms]
        return np.where(is_rms, square / 2.0, 0.0)

    def take(self, columns: NDArray[np.int64]) -> "Chain":
        """The same at some of the points."""
        forms = tuple(self.forms[column] for column in columns)
        volts, digit = (None if item is None else item[columns] for item in (self.volts_rms, self.digit_rms))
        return replace(self, frequency_hz=self.frequency_hz[columns], forms=forms, volts_rms=volts, digit_rms=digit)


ToTee = Callable[[Mapping[str, FloatArray], FloatArray], FloatArray]
"""Volts at the tee from the influences and the volts on the screen."""


def volts_at_tee(chain: Chain) -> ToTee:
    """The way back from the screen to the tee; what doesn't depend on the influences is worked out once."""
    f = chain.frequency_hz
    loss = response_loss_exponent(f, chain.bandwidth_hz, chain.scope.response)
    loss_limit = response_limit_exponent(f, chain.bandwidth_hz, chain.scope.response)
    noise, weights, excess = chain.noise_excess(), chain.harmonic_weights(), chain.rms_excess()
    own, source = chain.scope.source_id, chain.source_id
    gains = [f"{own}.gain", *(f"{own}.gain.{number}" for number in range(2, len(chain.scope.accuracy) + 1))]

    def to_tee(x: Mapping[str, FloatArray], volts: FloatArray) -> FloatArray:
        for name in gains:
            volts = volts / x[name]
        volts = volts * np.exp(loss + loss_limit * x[f"{own}.response"])
        lifted = np.ones(1)
        if np.any(noise):
            lifted = lifted + noise * x[f"{own}.noise"]
        if np.any(excess):
            lifted = lifted + excess * x[f"{source}.harmonics_rms"]
        for order, weight in weights.items():
            lifted = lifted + weight * x[harmonic_id(source, order)]
        volts = volts / lifted
        if isinstance(chain.feed, Probe):
            volts = volts * x[f"{chain.feed.source_id}.ratio"] / chain.feed.setting
        if chain.feed is not None:
            volts = volts / np.abs(_feed(x, chain.feed, own, f).transfer(f))
        return np.asarray(volts)

    return to_tee


def feed_admittance(chain: Chain) -> Callable[[Mapping[str, FloatArray]], ComplexArray]:
    """What hangs on the tee, as an admittance from the influences.

    Parameters
    ----------
    chain : Chain
        At n points.

    Returns
    -------
    callable
        Values by influence id in, admittance in S out, shape (..., n).
    """
    f = chain.frequency_hz

    def admittance(x: Mapping[str, FloatArray]) -> ComplexArray:
        if chain.feed is None:
            return np.zeros(f.shape, complex)
        made = _feed(x, chain.feed, chain.scope.source_id, f)
        return np.asarray(made.admittance_s(f) if isinstance(made, Stub) else 1j * made.admittance_s(f), complex)

    return admittance


def _feed(x: Mapping[str, FloatArray], feed: Lead | Probe, scope: str, f: FloatArray) -> Stub | ProbeTip:
    own = feed.source_id
    if isinstance(feed, Probe):
        return ProbeTip(x[f"{own}.capacitance"], x[f"{own}.ground"] * HENRY_PER_M)
    loss = feed.loss_db(f) * x[f"{own}.loss"] if feed.cable else 0.0
    return Stub(
        x[f"{own}.length"], x[f"{own}.velocity_factor"], x[f"{scope}.capacitance"], x[f"{own}.line"], loss,
        INPUT_RESISTANCE_OHM,
    )  # fmt: skip


def chain_influences(chain: Chain) -> tuple[Influence, ...]:
    """Everything uncertain from the screen to the tee, without reading the screen."""
    return (*_scope_influences(chain), *_harmonic_influences(chain), *_feed_influences(chain))


def _scope_influences(chain: Chain) -> tuple[Influence, ...]:
    n, scope, own = chain.frequency_hz.size, chain.scope, chain.scope.source_id
    response = influence(
        f"{own}.response", "oscilloscope, response near its bandwidth", 0.0,
        standard_u_from_limit(1.0, Distribution.RECTANGULAR), points=n, source_id=own,
        distribution=Distribution.RECTANGULAR, basis=_RESPONSE_BASIS[scope.response],
    )  # fmt: skip
    gain = influences_of(scope.accuracy, chain.shown, f"{own}.gain", "oscilloscope, vertical gain", own)
    if not np.any(chain.noise_excess()):
        return *gain, response
    noise = influence(
        f"{own}.noise", "oscilloscope, noise on peak to peak", 1.0,
        standard_u_from_limit(0.5, Distribution.RECTANGULAR), points=n, source_id=own,
        distribution=Distribution.RECTANGULAR, sharing=each_point(n), basis="half of its correction either way",
    )  # fmt: skip
    return *gain, response, noise


_RESPONSE_BASIS: Mapping[BandwidthModel, str] = {
    BandwidthModel.ONE_POLE: "true response from flat to twice the correction",
    BandwidthModel.GAUSSIAN: "true response from flat to twice the correction",
    BandwidthModel.FLAT: "half the loss of a Gaussian response, up or down",
    BandwidthModel.UNKNOWN: "anywhere from flat to one pole",
}


def harmonic_id(source_id: str, order: int) -> str:
    """Name of the influence that holds a harmonic's cos φ at the tee."""
    return f"{source_id}.harmonic_{order}"


def _harmonic_influences(chain: Chain) -> tuple[Influence, ...]:
    if chain.harmonics is None:
        return ()
    n = chain.frequency_hz.size
    shape = Distribution.U_SHAPED if chain.harmonics.measured else Distribution.DISC
    known = "as measured" if chain.harmonics.measured else "at most"
    found = [
        influence(
            harmonic_id(chain.source_id, order), f"source, harmonic {order}", 0.0, standard_u_from_limit(1.0, shape),
            points=n, source_id=chain.source_id, distribution=shape, sharing=each_point(n),
            basis=f"{known} −{-20.0 * np.log10(ratio):.0f} dBc, phase unknown",
        )
        for order, ratio in chain.harmonics.ratios.items()
    ]  # fmt: skip
    if np.any(chain.rms_excess()):
        whole = chain.harmonics.measured
        found.append(
            influence(
                f"{chain.source_id}.harmonics_rms", "source, harmonics in rms", 1.0 if whole else 0.5,
                0.0 if whole else standard_u_from_limit(0.5, Distribution.RECTANGULAR), points=n,
                source_id=chain.source_id,
                distribution=Distribution.RECTANGULAR, basis="half the sum of their squares",
            )
        )  # fmt: skip
    return tuple(found)


def _feed_influences(chain: Chain) -> tuple[Influence, ...]:
    feed = chain.feed
    if feed is None:
        return ()
    rows: tuple[tuple[str, str, str, float, float, str], ...]
    own, scope = feed.source_id, chain.scope.source_id
    if isinstance(feed, Probe):
        rows = (
            (own, "ratio", "probe, ratio", feed.ratio, feed.u_ratio, ""),
            (own, "capacitance", "probe, tip capacitance", feed.capacitance_f, feed.u_capacitance_f, "F"),
            (own, "ground", "probe, ground lead", feed.ground_m, feed.u_ground_m, "m"),
        )
    else:
        rows = (
            (own, "length", "lead, length", feed.length_m, feed.u_length_m, "m"),
            (own, "velocity_factor", "lead, velocity factor", feed.velocity_factor, feed.u_velocity_factor, ""),
            (own, "line", "lead, line impedance", feed.line_ohm, feed.u_line_ohm, "Ω"),
            (scope, "capacitance", "oscilloscope, input capacitance", feed.capacitance_f, feed.u_capacitance_f, "F"),
        )
        if feed.cable is not None:
            u_loss = float(standard_u_from_limit(LOSS_SHARE, Distribution.RECTANGULAR))
            rows = (*rows, (own, "loss", "lead, loss", 1.0, u_loss, ""))
    return tuple(
        influence(
            f"{part}.{name}", label, value, u, points=chain.frequency_hz.size, unit=unit, source_id=part,
            distribution=Distribution.RECTANGULAR, basis="as stated",
        )
        for part, name, label, value, u, unit in rows
    )  # fmt: skip
