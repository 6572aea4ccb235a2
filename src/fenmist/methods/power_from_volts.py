"""Power from volts: one request for the plain command and for the desk's tool, from typed texts to the answer."""

import math
from collections.abc import Mapping
from dataclasses import field, replace

import numpy as np

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.findings.note import Note, in_order
from fenmist.frozen import dataclass
from fenmist.kit.characterisation import LoadState
from fenmist.kit.impedance import load_state_from_text
from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.kit.shelf import COMMON_PRACTICE, DEFAULT_SCOPE_ACCURACY
from fenmist.kit.spectext import spec_from_text, text_of_spec
from fenmist.measurand import PlaneRef
from fenmist.methods.match import Match, match_at_tee
from fenmist.methods.physics_rules import forms_note, load_notes, match_notes, physics_notes
from fenmist.methods.scope_across_load import (
    LoadPower,
    ScopeReadings,
    estimate_power,
    feed_phase_rad,
    power_corrections,
    power_influences,
    power_model,
)
from fenmist.methods.scope_chain import Lead, Probe, Scope
from fenmist.rf.cable import Cable, cable_named
from fenmist.uncertainty.estimate import BudgetRow, Estimate
from fenmist.uncertainty.influence import Distribution, FloatArray, Inputs, standard_u_from_limit
from fenmist.uncertainty.montecarlo import monte_carlo
from fenmist.uncertainty.propagation import bends, propagate
from fenmist.uncertainty.whatif import with_known
from fenmist.units.display import percent, plain, signed
from fenmist.units.impedance import Known
from fenmist.units.typed import Typed, clear_reading, value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.harmonics import ASSUMED_DBC, harmonics_from_dbc
from fenmist.waveform.response import BandwidthModel
from fenmist.waveform.sine import RMS_PER_UNIT, rms_from_volts

DEFAULT_LOAD_U = 0.01
"""Standard uncertainty of a measured load as a part of |Z| (common practice, no source)."""

DEFAULT_CAPACITANCE_F = 16e-12
"""Input capacitance of an oscilloscope (common practice, no source)."""

DEFAULT_TIP_F = 12e-12
"""Tip capacitance of a 10:1 probe (common practice, no source)."""

DEFAULT_VELOCITY_FACTOR = 0.66
"""Of solid polyethylene cable (any cable table)."""

RESONANT_RAD = math.radians(75.0)
"""Electrical length of a lead past which no correction holds: a quarter wave is 90° (Fenmist's own, no source)."""

CORRECTIONS: Mapping[str, str] = {
    "load": "its own impedance, not 50 Ω",
    "bandwidth": "the response falls near it",
    "noise": "peak to peak takes the outermost samples",
    "probe": "its ratio is not what the oscilloscope multiplies by",
    "lead": "an open stub lifts the volts",
    "ground lead": "it rings with the tip and lifts the volts",
}
"""Corrections that can be left out to see what they were worth, in working order, with why they are made."""


@dataclass(frozen=True)
class Correction:
    """One step from the raw volts to the power."""

    name: str
    factor: float  # on power
    why: str
    applied: bool = True  # false where it was left out to see what it was worth

    @property
    def db(self) -> float:
        """The factor in dB."""
        return 10.0 * math.log10(self.factor)


@dataclass(frozen=True, eq=False)
class PowerAnswer:
    """What the request comes to."""

    vrms_v: float  # as read, before corrections
    net: Estimate  # W in the load, one point
    net_interval_w: tuple[float, float]  # about 95 %; symmetric in W unless drawn
    engine: str  # "linear", or "Monte Carlo" where the linear picture doesn't hold
    incident: Estimate  # W at the load
    incident_with_lead: Estimate  # W at the tee, seen from the source
    match: Match  # at the tee, seen from the source
    corrections: tuple[Correction, ...]
    assumptions: tuple[str, ...]
    notes: tuple[Note, ...]
    budget: tuple[BudgetRow, ...]
    readings: ScopeReadings  # what it was worked out from, with every correction

    @property
    def interval_text(self) -> str:
        """The drawn interval in words, or nothing where the linear picture holds."""
        low, high = self.net_interval_w
        return "" if self.engine == "linear" else f"by Monte Carlo {plain(low, 'W', 3)} to {plain(high, 'W', 3)}"


@dataclass(frozen=True)
class PowerRequest:
    """The fields as typed; an empty text is "not given". Call it for the answer.

    Raises (when called)
    --------------------
    UnreadableError, OutOfRangeError
        Name the field, the text and what to type.
    """

    volts: str
    load: str
    frequency: str
    also: str = ""  # the same volts read otherwise: rms beside peak to peak
    lead: str = ""
    cable: str = ""
    probe: str = ""
    ground_lead: str = ""
    probe_bandwidth: str = ""
    bandwidth: str = ""
    bandwidth_model: str = BandwidthModel.ONE_POLE
    input_capacitance: str = ""
    velocity_factor: str = ""
    scope_accuracy: str = ""
    noise: str = ""
    harmonics: str = ""
    load_u: str = ""
    shortest: bool = False  # where drawn: the shortest interval
    left_out: frozenset[str] = frozenset()  # names of CORRECTIONS not made
    known: Mapping[str, float] = field(default_factory=dict)  # what if: factor on u by influence id
    names: Mapping[str, str] = field(default_factory=dict)  # how each field is called where it is typed

    def __call__(self) -> PowerAnswer:
        """Work it out."""
        stated = self.readings()
        if feed_phase_rad(stated)[0] > RESONANT_RAD:
            raise OutOfRangeError(
                f"{self._name('probe' if self.probe else 'lead')}: at {plain(float(stated.frequency_hz[0]), 'Hz')} "
                "this is near resonance; no correction holds.",
                "Use a shorter ground lead or a tip adapter." if self.probe else "Use a shorter lead or a probe.",
            )
        used = _without(stated, self.left_out)
        inputs = with_known(Inputs(power_influences(used)), self.known)
        power = _power(used, inputs)
        interval, engine = _net_interval(used, inputs, power, self.shortest)
        match = match_at_tee(used)
        return PowerAnswer(
            float(stated.volts_rms[0]), power.net_at_load, interval, engine, power.incident_at_load,
            power.incident_at_meter, match, _steps(stated, self.left_out), self._assumptions(stated),
            self._notes(stated, match), power.net_at_load.budget(), stated,
        )  # fmt: skip

    def readings(self) -> ScopeReadings:
        """What the fields say, with every correction."""
        typed = self._volts()
        digit = typed.digit_si * RMS_PER_UNIT[typed.unit.base]
        frequency = self._frequency("frequency", self.frequency, "7.125 MHz")
        return ScopeReadings(
            np.array([frequency]), np.array([rms_from_volts(typed.value_si, typed.unit.base)]),
            np.array([_u(digit / 2.0)]), self._load(), self._scope(), self._feed(), forms=(typed.unit.base,),
            harmonics=harmonics_from_dbc(dict.fromkeys((2, 3), self._harmonics_dbc()), measured=False),
            digit_rms=np.array([digit]),
        )  # fmt: skip

    def _name(self, field_name: str) -> str:
        return self.names.get(field_name, field_name.replace("_", " "))

    def _notes(self, stated: ScopeReadings, match: Match) -> tuple[Note, ...]:
        return in_order((*_physics(stated, match), *self._forms_note()))

    def _forms_note(self) -> tuple[Note, ...]:
        if not self.also:
            return ()
        first, second = self._volts(), self._volts("also")
        note = forms_note(first.unit.base, second.unit.base, _log_vrms(second) - _log_vrms(first))
        return (note,) if note else ()

    def _volts(self, field_name: str = "volts") -> Typed:
        name = self._name(field_name)
        typed = clear_reading(getattr(self, field_name), UNITS["V"], name, "102 Vpp")
        if typed.unit.base not in RMS_PER_UNIT:
            raise UnreadableError(
                f"{name}: “{typed.raw}” doesn't say how the volts were taken.", "Add Vpp, Vpk or Vrms, such as 102 Vpp."
            )
        if not typed.value_si > 0:
            raise OutOfRangeError(f"{name}: “{typed.raw}” is not above 0.", "Type for example 102 Vpp.")
        return typed

    def _frequency(self, field_name: str, text: str, example: str) -> float:
        """In Hz; a number without a unit is in MHz."""
        value = value_from_text(text, UNITS["MHz"], self._name(field_name), example)
        if not 1e3 <= value <= 1e12:
            raise OutOfRangeError(
                f"{self._name(field_name)}: “{text}” is {plain(value, 'Hz')}, outside 1 kHz to 1 THz.",
                f"Type it with its unit, such as {example}.",
            )
        return value

    def _within(self, field_name: str, unit: str, example: str, low: float, high: float, default: float) -> float:
        """SI value of a field within limits; the default where nothing stands there."""
        text = getattr(self, field_name)
        if not text:
            return default
        value = value_from_text(text, UNITS[unit], self._name(field_name), example)
        if not low <= value <= high:
            base = UNITS[unit].base
            raise OutOfRangeError(
                f"{self._name(field_name)}: “{text}” lies outside {plain(low, base)} to {plain(high, base)}.",
                f"Type for example {example}.",
            )
        return value

    def _share(self, field_name: str, default: float, below: float = 1.0) -> float:
        text = getattr(self, field_name)
        if not text:
            return default
        value = value_from_text(text, UNITS["%"], self._name(field_name), "3 %")
        if not 0 <= value < below:
            raise OutOfRangeError(
                f"{self._name(field_name)}: “{text}” is out of range.", f"Type from 0 % to below {100 * below:g} %."
            )
        return value

    def _load(self) -> LoadState:
        known_to = self._share("load_u", DEFAULT_LOAD_U)
        try:
            return load_state_from_text(self.load, known_to)
        except (UnreadableError, OutOfRangeError) as error:
            raise type(error)(f"{self._name('load')}: {error.headline}", error.hint) from error

    def _scope(self) -> Scope:
        bandwidth = self._frequency("bandwidth", self.bandwidth, "100 MHz") if self.bandwidth else math.inf
        models = [str(model) for model in BandwidthModel]
        if self.bandwidth_model not in models:
            raise UnreadableError(
                f"{self._name('bandwidth_model')}: “{self.bandwidth_model}” is unknown.", f"Choose {', '.join(models)}."
            )
        noise = self._share("noise", 0.0, below=0.5)
        return Scope(self._accuracy(), bandwidth, BandwidthModel(self.bandwidth_model), noise_ratio=noise)

    def _accuracy(self) -> tuple[SpecTerm, ...]:
        """As a data sheet states it; a bare share is of the reading."""
        if not self.scope_accuracy.strip():
            return (SpecTerm(SpecKind.OF_READING, DEFAULT_SCOPE_ACCURACY, basis=COMMON_PRACTICE),)
        try:
            terms = spec_from_text(self.scope_accuracy, "V")
        except UnreadableError as error:
            raise UnreadableError(f"{self._name('scope_accuracy')}: {error.headline}", error.hint) from error
        if any(term.kind is SpecKind.OF_READING and term.value >= 1.0 for term in terms):
            raise OutOfRangeError(
                f"{self._name('scope_accuracy')}: “{self.scope_accuracy}” is out of range.", "Type less than 100 %."
            )
        return terms

    def _feed(self) -> Lead | Probe | None:
        if self.probe and self.lead:
            raise OutOfRangeError(
                f"{self._name('probe')} and {self._name('lead')}: only one of the two hangs on the tee.",
                "Leave one of them out.",
            )
        return self._probe() if self.probe else self._lead() if self.lead else None

    def _lead(self) -> Lead:
        cable = self._cable()
        length = self._within("lead", "m", "0.3 m", 0.0, 100.0, 0.0)
        capacitance = self._within("input_capacitance", "pF", "16 pF", 0.0, 1e-6, DEFAULT_CAPACITANCE_F)
        usual = cable.velocity_factor if cable else DEFAULT_VELOCITY_FACTOR
        factor = self._within("velocity_factor", "", "0.66", 0.1, 1.0, usual)
        line = cable.line_ohm if cable else 50.0
        return Lead(
            length,
            _u(0.01),
            factor,
            _u(0.03 * factor),
            line,
            _u(0.04 * line),
            capacitance,
            _u(0.2 * capacitance),
            cable,
        )

    def _cable(self) -> Cable | None:
        try:
            return cable_named(self.cable) if self.cable else None
        except OutOfRangeError as error:
            raise OutOfRangeError(f"{self._name('cable')}: {error.headline}", error.hint) from error

    def _probe(self) -> Probe:
        body = replace(self, probe=self.probe.replace(":1", "").lstrip("x×").strip())
        ratio = body._within("probe", "", "10", 1.0, 1e5, 10.0)
        ground = self._within("ground_lead", "m", "100 mm", 0.0, 1.0, 0.1)
        bandwidth = (
            self._frequency("probe_bandwidth", self.probe_bandwidth, "200 MHz") if self.probe_bandwidth else math.inf
        )
        tip = self._within("input_capacitance", "pF", "12 pF", 0.0, 1e-6, DEFAULT_TIP_F)
        return Probe(ratio, _u(0.02 * ratio), tip, _u(0.2 * tip), ground, _u(0.3 * ground), bandwidth, ratio)

    def _harmonics_dbc(self) -> float:
        return self._within("harmonics", "dB", "-45 dBc", -120.0, -3.0, ASSUMED_DBC)

    def _assumptions(self, readings: ScopeReadings) -> tuple[str, ...]:
        form = readings.forms[0]
        load_u = self._share("load_u", DEFAULT_LOAD_U)
        said = [
            f"steady carrier; volts taken as {'rms' if form == 'Vrms' else 'peak or peak to peak of a sine'}",
            f"harmonics at most {signed(f'{self._harmonics_dbc():g}')} dBc, phase unknown"
            + ("" if self.harmonics else f" ({COMMON_PRACTICE})"),
            f"oscilloscope ±{text_of_spec(readings.scope.accuracy)}, {readings.scope.accuracy[0].distribution}"
            + ("" if self.scope_accuracy else f" ({COMMON_PRACTICE})"),
            f"load known to {percent(load_u)} of |Z|, standard uncertainty"
            + ("" if self.load_u else f" ({COMMON_PRACTICE})"),
        ]
        known = readings.load.known[0]
        if known is not Known.COMPLEX:
            said.append(f"load: {known}")
        if math.isinf(readings.chain.bandwidth_hz):
            said.append("no bandwidth given: the oscilloscope's response is taken as flat, nothing is corrected")
        return (*said, _feed_assumed(readings.feed))


def _feed_assumed(feed: Lead | Probe | None) -> str:
    if feed is None:
        return "no lead given: the oscilloscope is taken to sit at the load itself"
    if isinstance(feed, Probe):
        return (
            f"probe {feed.ratio:g}:1 ±2 %, tip {plain(feed.capacitance_f, 'F')} ±20 %, ground lead "
            f"{plain(feed.ground_m, 'm')} ±30 % at 1 nH a millimetre ({COMMON_PRACTICE})"
        )
    loss = f"loss of {feed.cable.label} ±20 %" if feed.cable else "lossless"
    return (
        f"lead {plain(feed.length_m, 'm')} ±10 mm, velocity factor {feed.velocity_factor:g} ±3 %, {feed.line_ohm:g} Ω "
        f"±4 %, input {plain(feed.capacitance_f, 'F')} ±20 %, {loss} ({COMMON_PRACTICE})"
    )


def _log_vrms(typed: Typed) -> float:
    return math.log(rms_from_volts(typed.value_si, typed.unit.base))


def _u(limit: float) -> float:
    return float(standard_u_from_limit(limit, Distribution.RECTANGULAR))


def _without(readings: ScopeReadings, left_out: frozenset[str]) -> ScopeReadings:
    """The readings as they would be taken by someone who doesn't know of those corrections."""
    if "load" in left_out:
        readings = replace(readings, load=load_state_from_text(f"{readings.z0_ohm:g}", DEFAULT_LOAD_U))
    if "bandwidth" in left_out:
        readings = replace(readings, scope=replace(readings.scope, bandwidth_hz=math.inf))
        if isinstance(readings.feed, Probe):
            readings = replace(readings, feed=replace(readings.feed, bandwidth_hz=math.inf))
    if "noise" in left_out:
        readings = replace(readings, scope=replace(readings.scope, noise_ratio=0.0))
    if "lead" in left_out and isinstance(readings.feed, Lead):
        readings = replace(readings, feed=None)
    if "ground lead" in left_out and isinstance(readings.feed, Probe):
        readings = replace(readings, feed=replace(readings.feed, ground_m=0.0, u_ground_m=0.0))
    return readings


def _power(readings: ScopeReadings, inputs: Inputs) -> LoadPower:
    return estimate_power(readings, inputs, PlaneRef("", "tee", "a"), PlaneRef("", "load", "in"))


def _net_interval(
    readings: ScopeReadings, inputs: Inputs, power: LoadPower, shortest: bool
) -> tuple[tuple[float, float], str]:
    """Interval of the net power, drawn where its logarithm bends within its uncertainty."""
    model = power_model(readings)

    def logarithm(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        net = model(x)["net_at_load"]
        return {"net": net, "log_net": np.log(np.maximum(net, 1e-30))}

    straight = propagate(logarithm, inputs, {"log_net": ("ln P", "")})
    if bends(logarithm, inputs, straight)[0]:
        drawn = monte_carlo(logarithm, inputs, ["net"], shortest=shortest)["net"]
        return (float(drawn.low[0]), float(drawn.high[0])), "Monte Carlo"
    value, expanded = float(power.net_at_load.value[0]), float(power.net_at_load.expanded_u[0])
    return (value - expanded, value + expanded), "linear"


def _steps(readings: ScopeReadings, left_out: frozenset[str]) -> tuple[Correction, ...]:
    """Every correction that applies here, in working order, whether it is made or not."""
    factors = {name: float(factor[0]) for name, factor in power_corrections(readings).items()}
    net = propagate(
        power_model(readings), Inputs(power_influences(readings)), {"net_at_load": ("net power", "W")}
    )["net_at_load"]  # fmt: skip
    undone = math.prod(factors.values())
    factors["load"] = float(net.value[0]) / undone / float(readings.volts_rms[0] ** 2 / readings.z0_ohm)
    if math.isinf(readings.chain.bandwidth_hz):
        factors.pop("bandwidth")
    return tuple(
        Correction(name, factors[name], why, name not in left_out)
        for name, why in CORRECTIONS.items()
        if name in factors and (name != "probe" or factors[name] != 1.0)
    )


def _physics(readings: ScopeReadings, match: Match) -> tuple[Note, ...]:
    physics = physics_notes(readings)
    load = load_notes("load", readings.frequency_hz, readings.load, readings.z0_ohm)
    return (*physics, *load, *match_notes("tee", match))
