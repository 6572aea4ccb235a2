"""From what an indicator shows to the quantity at its connector: volts, amperes or watts, with all that is its own.

Of a waveform that isn't a steady carrier it is that of its PEP (`methods.modulated`).

In working order: its stated accuracy (or its correction curve, where it has one), the response near a bandwidth, noise
on peaks, the source's harmonics by what it answers to, what comes back and leaks into a forward arm, a sensor's zero,
noise and linearity, and its calibration factor, which holds its reflection. What the bench in front of it does is
`hookup.transfer`'s. Results are squares of volts and amperes, and watts, so that each is a power per watt of what is
stated. Page: docs/method/indication.md.
"""

import math
from collections.abc import Mapping
from functools import cached_property

import numpy as np

from fenmist.frozen import dataclass
from fenmist.kit.lookup import look_up
from fenmist.kit.part import SOURCES, Indicator, Part
from fenmist.kit.stated import Shown, influences_of
from fenmist.kit.tables import CAL_FACTOR, CORRECTION
from fenmist.measurand import Detector, Kind
from fenmist.methods.modulated import Shares
from fenmist.rf.skin import resistance_rise
from fenmist.uncertainty.influence import (
    Distribution,
    FloatArray,
    Influence,
    each_point,
    each_value,
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

Values = Mapping[str, FloatArray]

AMPLITUDES = (Kind.VOLTAGE, Kind.CURRENT)
"""Kinds that are squared."""

RESPONDS: Mapping[Detector, Responds] = {
    Detector.AVERAGE: Responds.AVERAGE,
    Detector.HOLD: Responds.PEAK,
    Detector.PEAK: Responds.PEAK,
    Detector.THERMAL: Responds.RMS,
    Detector.RMS: Responds.RMS,
}
"""What a detector answers to; what is read off a trace depends on how it was read."""

USUAL_DIRECTIVITY_DB = 25.0
"""Of a meter in line that states none (common practice, no source)."""

LEAK = ".directivity"
"""End of the name of what leaks into a forward arm."""

SKIN_COUNTS = 1e-6
"""Rise of a heater's resistance from which it is reckoned with: far below any reading."""

HARMONIC_GAIN_CEILING = 10.0
"""Largest gain of a harmonic over the fundamental that is reckoned with: the sum near a resonance means nothing."""

_RESPONSE_BASIS: Mapping[BandwidthModel, str] = {
    BandwidthModel.ONE_POLE: "true response from flat to twice the correction",
    BandwidthModel.GAUSSIAN: "true response from flat to twice the correction",
    BandwidthModel.FLAT: "half the loss of a Gaussian response, up or down",
    BandwidthModel.UNKNOWN: "anywhere from flat to one pole",
}


@dataclass(frozen=True, eq=False)
class Read:
    """What one channel showed at n points; arrays have shape (n,)."""

    part: Part
    indicator: Indicator
    kind: Kind
    frequency_hz: FloatArray
    value: FloatArray  # V or A rms, or W
    u_reading: FloatArray  # standard, of reading it once
    digit: FloatArray | None = None  # its last digit
    full_scale: FloatArray | None = None  # of the ranges it was read on, in the same unit
    ranges: tuple[str, ...] = ()
    forms: tuple[str, ...] = ()  # how volts were taken
    name: str = ""  # what its influences begin with; the part's id where nothing is said
    reflection: FloatArray | None = None  # |Γ| of what follows it on the line; none of what hangs there
    shares: Shares | None = None  # of PEP, that it shows; of a steady carrier where nothing is said
    years: float = 0.0  # since its correction was measured

    @property
    def id(self) -> str:
        """What its influences begin with."""
        return self.name or self.part.id

    @property
    def power(self) -> int:
        """2 where amplitudes are squared, else 1."""
        return 2 if self.kind in AMPLITUDES else 1

    @property
    def responds(self) -> tuple[Responds, ...]:
        """What of the waveform each reading answers to."""
        if self.indicator.detector is not Detector.TRACE:
            of_detector = RESPONDS[self.indicator.detector]
            return tuple(Responds.FUNDAMENTAL if form == "fit" else of_detector for form in self._forms)
        return tuple(RESPONDS_OF_FORM[form] if form else Responds.RMS for form in self._forms)

    @property
    def _forms(self) -> tuple[str, ...]:
        return self.forms or ("",) * self.frequency_hz.size


@dataclass(frozen=True, eq=False)
class Source:
    """What is known of the source's harmonics, and how each arrives at an instrument over its carrier."""

    id: str
    harmonics: Harmonics
    gains: Mapping[int, FloatArray]  # volts at the instrument over what the source gives, against the carrier's; (n,)


@dataclass(frozen=True, eq=False)
class Indication:
    """One channel as a function of its influences."""

    read: Read
    source: Source | None = None
    bandwidths_hz: tuple[float, ...] = ()  # of probes in front of it

    @property
    def bandwidth_hz(self) -> float:
        """Of the instrument and its probes together; infinite where none is stated."""
        own = self.read.part.properties.get("bandwidth_hz")
        return system_bandwidth_hz(own.value if own else math.inf, *self.bandwidths_hz)

    @property
    def response(self) -> BandwidthModel:
        """Shape of its response; a voltmeter that says nothing may have any."""
        return BandwidthModel(self.read.part.settings.get("response", BandwidthModel.UNKNOWN))

    def noise_excess(self) -> FloatArray:
        """Relative amount by which noise lifts amplitudes read off crests, shape (n,)."""
        stated = self.read.part.properties.get("noise")
        excess = peak_to_peak_excess(stated.value) if stated and stated.unit == "" else 0.0
        crests = (Responds.PEAK, Responds.PEAK_TO_PEAK)
        return np.array([excess if way in crests else 0.0 for way in self.read.responds])

    def harmonic_weights(self) -> dict[int, FloatArray]:
        """Relative change of the amplitude shown for a harmonic's cos φ of 1, by order, shape (n,)."""
        if self.source is None:
            return {}
        found = {}
        for order, ratio in self.source.harmonics.ratios.items():
            weights = np.array([volts_weight(order, way) for way in self.read.responds])
            if np.any(weights):
                found[order] = np.asarray(ratio * self._gain(order) * weights)
        return found

    def _gain(self, order: int) -> FloatArray:
        f = self.read.frequency_hz
        loss = response_loss_exponent(order * f, self.bandwidth_hz, self.response)
        own = response_loss_exponent(f, self.bandwidth_hz, self.response)
        gain = self.source.gains.get(order, np.ones_like(f)) if self.source else np.ones_like(f)
        return np.asarray(np.minimum(gain * np.exp(own - loss), HARMONIC_GAIN_CEILING))

    def rms_excess(self) -> FloatArray:
        """Relative amount by which harmonics lift an amplitude read as rms, to second order, shape (n,)."""
        if self.source is None:
            return np.zeros_like(self.read.frequency_hz)
        square = sum(ratio**2 for ratio in self.source.harmonics.ratios.values())
        return np.array([square / 2.0 if way is Responds.RMS else 0.0 for way in self.read.responds])

    def skin(self) -> FloatArray:
        """Relative amount by which skin effect in its heater lifts the square of the amperes it shows, shape (n,)."""
        wire = self.read.part.properties.get("wire_m")
        if wire is None or self.read.kind is not Kind.CURRENT:
            return np.zeros_like(self.read.frequency_hz)
        return resistance_rise(wire.value, self.read.frequency_hz) - 1.0

    def leak(self) -> FloatArray:
        """± by which a forward arm's reading may be off through what comes back, relative power, shape (n,).

        2·10^(−D/20)·ρ, the first order of (1 ± 10^(−D/20)·ρ)² − 1 (handbook 15.4); of a meter that states no D the
        usual one: it may be a part of its accuracy, but where that drops out of a ratio this doesn't.
        """
        stated, back = self.read.part.properties.get("directivity_db"), self.read.reflection
        if back is None or self.read.kind is not Kind.INCIDENT or self.read.part.kind in SOURCES:
            return np.zeros_like(self.read.frequency_hz)
        decibels = stated.value if stated is not None else USUAL_DIRECTIVITY_DB
        return np.asarray(2.0 * 10.0 ** (-decibels / 20.0) * np.minimum(back, 1.0))

    def influences(self) -> tuple[Influence, ...]:
        """Everything uncertain in the instrument and in what it makes of the waveform, reading it included."""
        read, n, own = self.read, self.read.frequency_hz.size, self.read.id
        label, part = read.part.label, read.part.id
        unit = {Kind.VOLTAGE: "V", Kind.CURRENT: "A"}.get(read.kind, "W")
        found = [
            influence(
                f"{own}.reading", f"{label}, reading it", read.value, read.u_reading, points=n, unit=unit,
                source_id=part, distribution=Distribution.RECTANGULAR, sharing=each_point(n),
                basis="last digit or part of a division; the scatter of a capture's samples",
            )
        ]  # fmt: skip
        found += self._accuracy()
        if np.any(response_loss_exponent(read.frequency_hz, self.bandwidth_hz, self.response)):
            found.append(
                influence(
                    f"{own}.response", f"{label}, response near its bandwidth", 0.0,
                    standard_u_from_limit(1.0, Distribution.RECTANGULAR), points=n, source_id=part,
                    distribution=Distribution.RECTANGULAR, basis=_RESPONSE_BASIS[self.response],
                )
            )  # fmt: skip
        if np.any(self.noise_excess()):
            found.append(
                influence(
                    f"{own}.noise", f"{label}, noise on its crests", 1.0,
                    standard_u_from_limit(0.5, Distribution.RECTANGULAR), points=n, source_id=part,
                    distribution=Distribution.RECTANGULAR, sharing=each_point(n),
                    basis="half of its correction either way",
                )
            )  # fmt: skip
        if np.any(self.skin() > SKIN_COUNTS):
            found.append(
                influence(
                    f"{own}.skin", f"{label}, skin effect in its heater", 1.0,
                    standard_u_from_limit(0.5, Distribution.RECTANGULAR), points=n, source_id=part,
                    distribution=Distribution.RECTANGULAR, basis="half of its correction either way",
                )
            )  # fmt: skip
        sent = read.shares.influences(own, label, part) if read.shares is not None else ()
        return (*found, *self._leak_influence(), *self._sensor(), *self._harmonic_influences(), *sent)

    def _leak_influence(self) -> tuple[Influence, ...]:
        read, leak = self.read, self.leak()
        if not np.any(leak):
            return ()
        stated = read.part.properties.get("directivity_db")
        shape = Distribution.U_SHAPED if stated is not None and stated.measured else Distribution.DISC
        basis = "what comes back, phase not known"
        return (
            influence(
                f"{read.id}{LEAK}", f"{read.part.label}, directivity", 0.0, standard_u_from_limit(leak, shape),
                points=leak.size, source_id=read.part.id, distribution=shape,
                sharing=each_value(read.frequency_hz),
                basis=basis if stated is not None else f"{basis}; no directivity is stated: 25 dB, as is usual",
            ),
        )  # fmt: skip

    def _accuracy(self) -> tuple[Influence, ...]:
        read = self.read
        table = read.part.characterisation(CORRECTION)
        if table is not None:
            found = look_up(table, read.frequency_hz)
            relative = found.u / np.maximum(np.abs(found.value), 1e-12)
            correction = influence(
                f"{read.id}.correction", f"{read.part.label}, correction", 1.0, relative,
                points=read.frequency_hz.size, source_id=read.part.id, basis="its correction curve",
            )  # fmt: skip
            moved = table.drift_per_year * read.years
            if moved <= 0.0:
                return (correction,)
            since = influence(
                f"{read.id}.age", f"{read.part.label}, since its correction was measured", 1.0, moved,
                points=read.frequency_hz.size, source_id=read.part.id,
                basis=f"{read.years:.1f} years at what it moved through the years before",
            )  # fmt: skip
            return correction, since
        used = (read.indicator.range(name) for name in dict.fromkeys(read.ranges))
        spec = next((item.spec for item in used if item is not None and item.spec), read.indicator.stated)
        shown = Shown(
            self._as_shown(read.value), None if read.digit is None else self._as_shown(read.digit),
            None if read.full_scale is None else self._as_shown(read.full_scale), read.ranges,
            per_decade_db=10.0 * read.power,
        )  # fmt: skip
        return influences_of(spec, shown, f"{read.id}.gain", f"{read.part.label}, accuracy", read.part.id)

    def _as_shown(self, value: FloatArray) -> FloatArray:
        """In the form in which it was read: absolute limits are stated in that."""
        per = [RMS_PER_UNIT.get(form, 1.0) for form in self.read.forms] or [1.0] * value.size
        return np.asarray(value / np.array(per))

    def _sensor(self) -> tuple[Influence, ...]:
        """Zero, noise, linearity and calibration factor of what shows watts."""
        read, n, own = self.read, self.read.frequency_hz.size, self.read.id
        label, part, stated = read.part.label, read.part.id, self.read.part.properties
        if read.power == 2:
            return ()
        found = []
        zero, noise = stated.get("zero_w"), stated.get("noise_floor_w")
        if zero is not None and (zero.u > 0 or zero.value):
            found.append(
                influence(f"{own}.zero", f"{label}, zero", zero.value, zero.u, points=n, unit="W", source_id=part,
                          distribution=Distribution.RECTANGULAR, basis="as stated")
            )  # fmt: skip
        if noise is not None and noise.value > 0:
            found.append(
                influence(f"{own}.noise_floor", f"{label}, noise", 0.0, noise.value / 2.0, points=n, unit="W",
                          source_id=part, sharing=each_point(n), basis="its floor, two standard deviations")
            )  # fmt: skip
        linear = stated.get("linearity")
        if linear is not None and linear.u > 0:
            found.append(
                influence(f"{own}.linearity", f"{label}, linearity", 1.0, linear.u, points=n, source_id=part,
                          distribution=linear.spec.distribution if linear.spec else Distribution.RECTANGULAR,
                          sharing=each_point(n), basis="as stated, of each level its own")
            )  # fmt: skip
        factor, u = calibration_factor(read.part, read.frequency_hz)
        if np.any(u > 0):
            found.append(
                influence(f"{own}.cal_factor", f"{label}, calibration factor", factor, u, points=n, source_id=part,
                          distribution=Distribution.RECTANGULAR, basis="as stated")
            )  # fmt: skip
        return tuple(found)

    def _harmonic_influences(self) -> tuple[Influence, ...]:
        if self.source is None:
            return ()
        n, known = self.read.frequency_hz.size, self.source.harmonics
        shape = Distribution.U_SHAPED if known.measured else Distribution.DISC
        said = "as measured" if known.measured else "at most"
        found = [
            influence(
                harmonic_id(self.source.id, order), f"source, harmonic {order}", 0.0, standard_u_from_limit(1.0, shape),
                points=n, source_id=self.source.id, distribution=shape, sharing=each_point(n),
                basis=f"{said} −{-20.0 * np.log10(known.ratios[order]):.0f} dBc, phase unknown",
            )
            for order in self.harmonic_weights()
        ]  # fmt: skip
        if np.any(self.rms_excess()):
            u = 0.0 if known.measured else standard_u_from_limit(0.5, Distribution.RECTANGULAR)
            found.append(
                influence(
                    f"{self.source.id}.harmonics_rms", "source, harmonics in rms", 1.0 if known.measured else 0.5, u,
                    points=n, source_id=self.source.id, distribution=Distribution.RECTANGULAR,
                    basis="half the sum of their squares",
                )
            )  # fmt: skip
        return tuple(found)

    @cached_property
    def _gains(self) -> tuple[str, ...]:
        """Names of its accuracy's terms."""
        return tuple(item.id for item in self._accuracy() if not item.id.endswith(".correction"))

    def quantity(self, x: Values) -> FloatArray:
        """V², A² or W of the PEP at the connector, from the values of the influences; arrays (..., n)."""
        read, own = self.read, self.read.id
        value = x[f"{own}.reading"]
        for name in self._gains:
            value = value / x[name]
        table = read.part.characterisation(CORRECTION)
        if table is not None:
            value = value * np.real(look_up(table, read.frequency_hz).value) * x[f"{own}.correction"]
        if f"{own}.response" in x:
            loss = response_loss_exponent(read.frequency_hz, self.bandwidth_hz, self.response)
            limit = response_limit_exponent(read.frequency_hz, self.bandwidth_hz, self.response)
            value = value * np.exp(loss + limit * x[f"{own}.response"])
        if f"{own}.skin" in x:
            value = value / np.sqrt(1.0 + self.skin() * x[f"{own}.skin"])
        lifted = np.ones(1)
        if f"{own}.noise" in x:
            lifted = lifted + self.noise_excess() * x[f"{own}.noise"]
        excess = self.rms_excess()
        if self.source is not None and np.any(excess):
            lifted = lifted + excess * x[f"{self.source.id}.harmonics_rms"]
        for order, weight in self.harmonic_weights().items():
            lifted = lifted + weight * x[harmonic_id(self.source.id if self.source else "", order)]
        shown = read.shares.of(x, own) if read.shares is not None else np.ones(1)
        if read.power == 2:
            return np.asarray((value / lifted) ** 2 / shown)
        for name in (f"{own}.zero", f"{own}.noise_floor"):
            if name in x:
                value = value - x[name]
        if f"{own}.linearity" in x:
            value = value / x[f"{own}.linearity"]
        factor = (
            x[f"{own}.cal_factor"] if f"{own}.cal_factor" in x else calibration_factor(read.part, read.frequency_hz)[0]
        )
        return np.asarray(value / factor / lifted**2 / shown / (1.0 + x.get(f"{own}{LEAK}", np.zeros(1))))

    def corrections(self) -> dict[str, FloatArray]:
        """What each correction multiplies the power by, shape (n,), by name."""
        f = self.read.frequency_hz
        found = {}
        exponent = response_loss_exponent(f, self.bandwidth_hz, self.response)
        if np.any(exponent):
            found["bandwidth"] = np.exp(2.0 * exponent)
        noise = self.noise_excess()
        if np.any(noise):
            found["noise"] = (1.0 + noise) ** -2
        if np.any(self.skin() > SKIN_COUNTS):
            found["skin"] = 1.0 / (1.0 + self.skin())
        return found


def calibration_factor(part: Part, frequency_hz: FloatArray) -> tuple[FloatArray, FloatArray]:
    """A sensor's calibration factor and its standard uncertainty, shape (n,): from its table, as stated, or 1."""
    table, n = part.characterisation(CAL_FACTOR), frequency_hz.size
    if table is not None:
        found = look_up(table, frequency_hz)
        return np.real(found.value), found.u
    stated = part.properties.get(CAL_FACTOR)
    return (np.full(n, stated.value), np.full(n, stated.u)) if stated else (np.ones(n), np.zeros(n))


def harmonic_id(source_id: str, order: int) -> str:
    """Name of the influence that holds a harmonic's cos φ."""
    return f"{source_id}.harmonic_{order}"
