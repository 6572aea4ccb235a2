"""Power from an oscilloscope's volts across a load.

Net power in the load is V²·G, V the rms volts at the tee, G = Re(1/Z). On the way from the screen to the tee two
things are undone: the scope's falling response and the lead, an open stub that lifts the volts. Incident power at the
tee follows with the reflection there, load and stub in parallel (the stub draws no power but spoils the match); at
the meter's output it is larger by the jumper's loss. The meter's forward scale shows incident power at its output, so
that is what it is compared with. Steady carrier only. Page: docs/method/scope-across-load.md.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from fenmist.kit.characterisation import LoadState
from fenmist.measurand import Kind, Measurand, PlaneRef, Statistic
from fenmist.methods.load_model import admittance, load_influences
from fenmist.rf.reflection import incident_from_net
from fenmist.rf.stub import stub_phase_rad, stub_susceptance_s, stub_voltage_ratio
from fenmist.uncertainty.estimate import Estimate
from fenmist.uncertainty.influence import (
    Distribution,
    FloatArray,
    Influence,
    Inputs,
    each_point,
    influence,
    standard_u_from_limit,
)
from fenmist.uncertainty.propagation import Model, propagate
from fenmist.waveform.response import BandwidthModel, response_loss_exponent

KIND = "scope-across-load"
VERSION = 1


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


@dataclass(frozen=True)
class Scope:
    """An oscilloscope's part in it; an infinite bandwidth means that none was stated and nothing is corrected."""

    gain_limit: float  # ± part of the reading
    bandwidth_hz: float
    response: BandwidthModel
    source_id: str = "scope"


@dataclass(frozen=True, eq=False)
class ScopeReadings:
    """What was read and of what, at n points. Arrays have shape (n,)."""

    frequency_hz: FloatArray
    volts_rms: FloatArray  # of a sine, from what the screen said
    u_reading_v: FloatArray  # standard uncertainty of reading the screen, in Vrms
    load: LoadState
    scope: Scope
    lead: Lead | None = None
    jumper_loss_db: float = 0.0
    u_jumper_loss_db: float = 0.0
    z0_ohm: float = 50.0
    load_source_id: str = "load"

    def take(self, columns: NDArray[np.int64]) -> "ScopeReadings":
        """The readings at some of the points."""
        return replace(
            self,
            frequency_hz=self.frequency_hz[columns],
            volts_rms=self.volts_rms[columns],
            u_reading_v=self.u_reading_v[columns],
            load=self.load.take(columns),
        )


@dataclass(frozen=True, eq=False)
class LoadPower:
    """The method's answers at n points, from one set of influences."""

    net_at_load: Estimate
    incident_at_load: Estimate
    incident_at_meter: Estimate
    net_at_meter: Estimate
    corrections: Mapping[str, FloatArray] = field(default_factory=dict)  # power ratios by name, shape (n,)


def estimate_power(readings: ScopeReadings, meter_plane: PlaneRef, load_plane: PlaneRef) -> LoadPower:
    """Net and incident power at the load and at the meter's output plane, in W.

    Parameters
    ----------
    readings : ScopeReadings
    meter_plane, load_plane : PlaneRef
        Named in the estimates' measurands.

    Returns
    -------
    LoadPower
        With sensitivities to: screen reading, gain, response, lead (length, velocity factor, line impedance, input
        capacitance), load (resistance, reactance, phase, sign) and jumper loss.
    """
    outputs = power_outputs(meter_plane, load_plane, readings.z0_ohm)
    made = propagate(power_model(readings), Inputs(power_influences(readings)), outputs)
    return LoadPower(**made, corrections=power_corrections(readings))


def power_outputs(meter_plane: PlaneRef, load_plane: PlaneRef, z0_ohm: float) -> dict[str, tuple[Measurand, str]]:
    """Measurand and unit of each of the model's outputs."""

    def quantity(kind: Kind, plane: PlaneRef) -> tuple[Measurand, str]:
        return Measurand(kind, Statistic.CARRIER, plane, z0_ohm), "W"

    return {
        "net_at_load": quantity(Kind.NET, load_plane),
        "incident_at_load": quantity(Kind.INCIDENT, load_plane),
        "incident_at_meter": quantity(Kind.INCIDENT, meter_plane),
        "net_at_meter": quantity(Kind.NET, meter_plane),
    }


def power_model(readings: ScopeReadings) -> Model:
    """Powers from the influences of `power_influences`; what a larger model can be built on."""

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        return _power(x, readings)

    return model


def _power(x: Mapping[str, FloatArray], readings: ScopeReadings) -> dict[str, FloatArray]:
    exponent = response_loss_exponent(readings.frequency_hz, readings.scope.bandwidth_hz, readings.scope.response)
    volts = x["scope.reading"] / x["scope.gain"] * np.exp(exponent * x["scope.response"])
    added = np.zeros_like(volts)
    if readings.lead is not None:
        lead = (
            readings.frequency_hz, x["lead.length"], x["lead.velocity_factor"],
            x["lead.capacitance"], x["lead.line"],
        )  # fmt: skip
        volts = volts / stub_voltage_ratio(*lead)
        added = stub_susceptance_s(*lead)
    load = admittance(x, readings.load.resistance_ohm)
    loss = 10.0 ** (x["jumper.loss"] / 10.0)
    net = volts**2 * load.conductance_s
    at_tee = load.reflection_squared(added, readings.z0_ohm)
    incident_at_tee = incident_from_net(net, at_tee)
    incident_at_meter = incident_at_tee * loss
    return {
        "net_at_load": net,
        "incident_at_load": incident_from_net(net, load.reflection_squared(np.zeros_like(volts), readings.z0_ohm)),
        "incident_at_meter": incident_at_meter,
        "net_at_meter": incident_at_meter * (1.0 - at_tee / loss**2),
    }


def power_influences(readings: ScopeReadings) -> tuple[Influence, ...]:
    """Everything uncertain on the way from the screen to the meter's output."""
    n, scope = readings.frequency_hz.size, readings.scope
    found = [
        influence(
            "scope.reading", "oscilloscope, reading the screen", readings.volts_rms, readings.u_reading_v,
            points=n, unit="V", source_id=scope.source_id, distribution=Distribution.RECTANGULAR,
            sharing=each_point(n), basis="half the last digit or part of a division",
        ),
        influence(
            "scope.gain", "oscilloscope, vertical gain", 1.0,
            standard_u_from_limit(scope.gain_limit, Distribution.RECTANGULAR), points=n,
            source_id=scope.source_id, distribution=Distribution.RECTANGULAR,
            basis=f"±{100 * scope.gain_limit:g} % of reading",
        ),
        influence(
            "scope.response", "oscilloscope, response near its bandwidth", 1.0,
            standard_u_from_limit(1.0, Distribution.RECTANGULAR), points=n, source_id=scope.source_id,
            distribution=Distribution.RECTANGULAR, basis="true response from flat to twice the correction",
        ),
        influence(
            "jumper.loss", "jumper, loss", readings.jumper_loss_db, readings.u_jumper_loss_db,
            points=n, unit="dB", distribution=Distribution.RECTANGULAR, basis="as stated in the kit",
        ),
        *load_influences(readings.load, readings.load_source_id),
    ]  # fmt: skip
    return (*found, *_lead_influences(readings.lead, n))


def _lead_influences(lead: Lead | None, points: int) -> tuple[Influence, ...]:
    if lead is None:
        return ()
    rows = (
        ("lead.length", "lead, length", lead.length_m, lead.u_length_m, "m"),
        ("lead.velocity_factor", "lead, velocity factor", lead.velocity_factor, lead.u_velocity_factor, ""),
        ("lead.line", "lead, line impedance", lead.line_ohm, lead.u_line_ohm, "Ω"),
        (
            "lead.capacitance",
            "oscilloscope, input capacitance",
            lead.capacitance_f,
            lead.u_capacitance_f,
            "F",
        ),
    )
    return tuple(
        influence(
            name, label, value, u, points=points, unit=unit, source_id="lead",
            distribution=Distribution.RECTANGULAR, basis="as stated in the kit",
        )
        for name, label, value, u, unit in rows
    )  # fmt: skip


def lead_phase_rad(readings: ScopeReadings) -> FloatArray:
    """Electrical length of the lead with its end, shape (n,); at π/2 it resonates and nothing can be corrected."""
    lead = readings.lead
    if lead is None:
        return np.zeros_like(readings.frequency_hz)
    return stub_phase_rad(
        readings.frequency_hz, lead.length_m, lead.velocity_factor, lead.capacitance_f, lead.line_ohm
    )  # fmt: skip


def power_corrections(readings: ScopeReadings) -> dict[str, FloatArray]:
    """What each correction multiplies the power by, in working order."""
    exponent = response_loss_exponent(readings.frequency_hz, readings.scope.bandwidth_hz, readings.scope.response)
    found = {"bandwidth": np.exp(2.0 * exponent)}
    if readings.lead is not None:
        lead = readings.lead
        ratio = stub_voltage_ratio(
            readings.frequency_hz, lead.length_m, lead.velocity_factor, lead.capacitance_f, lead.line_ohm
        )
        found["lead"] = np.asarray(ratio**-2)
    return found
