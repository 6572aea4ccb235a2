"""Power from volts: one request for the plain command and for the desk's tool, from typed texts to the answer."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.findings.note import Note, in_order
from fenmist.judgement.judge import physics_notes
from fenmist.judgement.physics_rules import load_notes
from fenmist.kit.characterisation import LoadState
from fenmist.kit.impedance import load_state_from_text
from fenmist.kit.shelf import COMMON_PRACTICE, DEFAULT_SCOPE_ACCURACY
from fenmist.measurand import PlaneRef
from fenmist.methods.scope_across_load import (
    Lead,
    LoadPower,
    Scope,
    ScopeReadings,
    estimate_power,
    lead_phase_rad,
    power_influences,
    power_model,
)
from fenmist.uncertainty.estimate import BudgetRow, Estimate
from fenmist.uncertainty.influence import Distribution, FloatArray, Inputs, standard_u_from_limit
from fenmist.uncertainty.montecarlo import monte_carlo
from fenmist.uncertainty.propagation import bends, propagate
from fenmist.units.display import percent, plain
from fenmist.units.impedance import Known
from fenmist.units.typed import Typed, clear_reading, value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.response import BandwidthModel
from fenmist.waveform.sine import RMS_PER_UNIT, rms_from_volts

DEFAULT_LOAD_U = 0.01
"""Standard uncertainty of a measured load as a part of |Z| (common practice, no source)."""

DEFAULT_CAPACITANCE_F = 16e-12
"""Input capacitance of an oscilloscope (common practice, no source)."""

DEFAULT_VELOCITY_FACTOR = 0.66
"""Of solid polyethylene cable (any cable table)."""


RESONANT_RAD = math.radians(75.0)
"""Electrical length of a lead past which no correction holds: a quarter wave is 90° (Fenmist's own, no source)."""


@dataclass(frozen=True)
class Correction:
    """One step from the raw volts to the power."""

    name: str
    factor: float  # on power
    why: str

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
    corrections: tuple[Correction, ...]
    assumptions: tuple[str, ...]
    notes: tuple[Note, ...]
    budget: tuple[BudgetRow, ...]

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
    lead: str = ""
    bandwidth: str = ""
    bandwidth_model: str = BandwidthModel.ONE_POLE
    input_capacitance: str = ""
    velocity_factor: str = ""
    scope_accuracy: str = ""
    load_u: str = ""
    names: Mapping[str, str] = field(default_factory=dict)  # how each field is called where it is typed

    def __call__(self) -> PowerAnswer:
        """Work it out."""
        vrms, u_reading = self._volts()
        frequency = self._frequency("frequency", self.frequency, "7.125 MHz")
        load_u = self._share("load_u", self.load_u, DEFAULT_LOAD_U)
        state = self._load(load_u)
        readings = ScopeReadings(
            np.array([frequency]), np.array([vrms]), np.array([u_reading]), state, self._scope(), self._lead()
        )
        if lead_phase_rad(readings)[0] > RESONANT_RAD:
            raise OutOfRangeError(
                f"{self._name('lead')}: at {plain(frequency, 'Hz')} this lead is near resonance; no correction holds.",
                "Use a shorter lead or a divider probe.",
            )
        power = estimate_power(readings, PlaneRef("", "tee", "a"), PlaneRef("", "load", "in"))
        interval, engine = _net_interval(readings, power)
        return PowerAnswer(
            vrms, power.net_at_load, interval, engine, power.incident_at_load, power.incident_at_meter,
            _steps(readings, power), self._assumptions(readings, load_u), _notes(readings), power.net_at_load.budget(),
        )  # fmt: skip

    def _name(self, field_name: str) -> str:
        return self.names.get(field_name, field_name.replace("_", " "))

    def _volts(self) -> tuple[float, float]:
        name = self._name("volts")
        typed = clear_reading(self.volts, UNITS["V"], name, "102 Vpp")
        self._check_form(typed, name)
        digit = typed.digit_si * RMS_PER_UNIT[typed.unit.base]
        u = float(standard_u_from_limit(digit / 2.0, Distribution.RECTANGULAR))
        return rms_from_volts(typed.value_si, typed.unit.base), u

    @staticmethod
    def _check_form(typed: Typed, name: str) -> None:
        if typed.unit.base not in RMS_PER_UNIT:
            raise UnreadableError(
                f"{name}: “{typed.raw}” doesn't say how the volts were taken.", "Add Vpp, Vpk or Vrms, such as 102 Vpp."
            )
        if not typed.value_si > 0:
            raise OutOfRangeError(f"{name}: “{typed.raw}” is not above 0.", "Type for example 102 Vpp.")

    def _frequency(self, field_name: str, text: str, example: str) -> float:
        """In Hz; a number without a unit is in MHz."""
        value = value_from_text(text, UNITS["MHz"], self._name(field_name), example)
        if not 1e3 <= value <= 1e12:
            raise OutOfRangeError(
                f"{self._name(field_name)}: “{text}” is {plain(value, 'Hz')}, outside 1 kHz to 1 THz.",
                f"Type it with its unit, such as {example}.",
            )
        return value

    def _within(self, field_name: str, text: str, unit: str, example: str, low: float, high: float) -> float:
        value = value_from_text(text, UNITS[unit], self._name(field_name), example)
        if not low <= value <= high:
            base = UNITS[unit].base
            raise OutOfRangeError(
                f"{self._name(field_name)}: “{text}” lies outside {plain(low, base)} to {plain(high, base)}.",
                f"Type for example {example}.",
            )
        return value

    def _share(self, field_name: str, text: str, default: float) -> float:
        if not text:
            return default
        value = value_from_text(text, UNITS["%"], self._name(field_name), "3 %")
        if not 0 <= value < 1:
            raise OutOfRangeError(
                f"{self._name(field_name)}: “{text}” is out of range.", "Type from 0 % to below 100 %."
            )
        return value

    def _load(self, load_u: float) -> LoadState:
        try:
            return load_state_from_text(self.load, load_u)
        except (UnreadableError, OutOfRangeError) as error:
            raise type(error)(f"{self._name('load')}: {error.headline}", error.hint) from error

    def _scope(self) -> Scope:
        bandwidth = self._frequency("bandwidth", self.bandwidth, "100 MHz") if self.bandwidth else math.inf
        models = [str(model) for model in BandwidthModel]
        if self.bandwidth_model not in models:
            raise UnreadableError(
                f"{self._name('bandwidth_model')}: “{self.bandwidth_model}” is unknown.", f"Choose {', '.join(models)}."
            )
        accuracy = self._share("scope_accuracy", self.scope_accuracy, DEFAULT_SCOPE_ACCURACY)
        return Scope(accuracy, bandwidth, BandwidthModel(self.bandwidth_model))

    def _lead(self) -> Lead | None:
        if not self.lead:
            return None
        length = self._within("lead", self.lead, "m", "0.3 m", 0.0, 100.0)
        capacitance, factor = DEFAULT_CAPACITANCE_F, DEFAULT_VELOCITY_FACTOR
        if self.input_capacitance:
            capacitance = self._within("input_capacitance", self.input_capacitance, "pF", "16 pF", 0.0, 1e-6)
        if self.velocity_factor:
            factor = self._within("velocity_factor", self.velocity_factor, "", "0.66", 0.1, 1.0)

        def u(limit: float) -> float:
            return float(standard_u_from_limit(limit, Distribution.RECTANGULAR))

        return Lead(length, u(0.01), factor, u(0.03 * factor), 50.0, u(2.0), capacitance, u(0.2 * capacitance))

    def _assumptions(self, readings: ScopeReadings, load_u: float) -> tuple[str, ...]:
        known = readings.load.known[0]
        said = [
            "steady carrier, sine: volts taken as "
            f"{'rms' if 'rms' in self.volts.lower() else 'peak or peak to peak of a pure sine'}",
            f"oscilloscope ±{percent(readings.scope.gain_limit)} of reading, rectangular"
            + ("" if self.scope_accuracy else f" ({COMMON_PRACTICE})"),
            f"load known to {percent(load_u)} of |Z|, standard uncertainty"
            + ("" if self.load_u else f" ({COMMON_PRACTICE})"),
        ]
        if known is not Known.COMPLEX:
            said.append(f"load: {known}")
        if math.isinf(readings.scope.bandwidth_hz):
            said.append("no bandwidth given: the oscilloscope's response is taken as flat, nothing is corrected")
        if readings.lead is None:
            said.append("no lead given: the oscilloscope is taken to sit at the load itself")
        else:
            lead = readings.lead
            said.append(
                f"lead {plain(lead.length_m, 'm')} ±10 mm, velocity factor {lead.velocity_factor:g} ±3 %, 50 Ω ±2 Ω, "
                f"input {plain(lead.capacitance_f, 'F')} ±20 %, lossless ({COMMON_PRACTICE})"
            )
        return tuple(said)


def _net_interval(readings: ScopeReadings, power: LoadPower) -> tuple[tuple[float, float], str]:
    """Interval of the net power, drawn where its logarithm bends within its uncertainty."""
    model, inputs = power_model(readings), Inputs(power_influences(readings))

    def logarithm(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        net = model(x)["net_at_load"]
        return {"net": net, "log_net": np.log(np.maximum(net, 1e-30))}

    straight = propagate(logarithm, inputs, {"log_net": ("ln P", "")})
    if bends(logarithm, inputs, straight)[0]:
        drawn = monte_carlo(logarithm, inputs, ["net"])["net"]
        return (float(drawn.low[0]), float(drawn.high[0])), "Monte Carlo"
    value, expanded = float(power.net_at_load.value[0]), float(power.net_at_load.expanded_u[0])
    return (value - expanded, value + expanded), "linear"


def _steps(readings: ScopeReadings, power: LoadPower) -> tuple[Correction, ...]:
    raw = float(readings.volts_rms[0] ** 2 / readings.z0_ohm)
    undone = math.prod(float(factor[0]) for factor in power.corrections.values())
    with_load = float(power.net_at_load.value[0]) / undone
    found = [Correction("load", with_load / raw, "its own impedance, not 50 Ω")]
    why = {
        "bandwidth": "the response falls near it",
        "lead": "an open stub lifts the volts",
    }
    found += [
        Correction(name, float(factor[0]), why[name])
        for name, factor in power.corrections.items()
        if name != "bandwidth" or math.isfinite(readings.scope.bandwidth_hz)
    ]
    return tuple(found)


def _notes(readings: ScopeReadings) -> tuple[Note, ...]:
    physics = physics_notes(readings, {}, "scope", "lead")
    return in_order((*physics, *load_notes("load", readings.frequency_hz, readings.load, readings.z0_ohm)))
