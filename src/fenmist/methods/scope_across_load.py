"""Power from an oscilloscope's volts across a load.

Net power in the load is V²·G, V the rms volts at the tee, G = Re(1/Z) as the tee sees it. On the way from the screen to
the tee the chain of `scope_chain` is undone. Incident power at the tee follows with the reflection there: load,
tee and what hangs on it in parallel (a stub hardly draws power, but it spoils the match); at the meter's output it is
larger by the loss of every part between, at its input by its own as well. The meter's forward scale shows incident
power, so that is what it is compared with. Steady carrier only. Page: docs/method/scope-across-load.md.
"""

from collections.abc import Mapping
from dataclasses import field, replace

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.kit.characterisation import LoadState
from fenmist.kit.loadmodel import Admittance, load_admittance, load_influences
from fenmist.measurand import Kind, Measurand, PlaneRef, Statistic
from fenmist.methods.scope_chain import (
    Chain,
    ComplexArray,
    Lead,
    Probe,
    Scope,
    Tee,
    chain_influences,
    feed_admittance,
    volts_at_tee,
)
from fenmist.rf.reflection import incident_from_net
from fenmist.rf.stub import Stub
from fenmist.uncertainty.complexvalue import ComplexModel
from fenmist.uncertainty.estimate import Estimate
from fenmist.uncertainty.influence import Distribution, FloatArray, Influence, Inputs, each_point, each_value, influence
from fenmist.uncertainty.propagation import Model, propagate
from fenmist.waveform.harmonics import Harmonics
from fenmist.waveform.response import response_loss_exponent

TEE_VELOCITY_FACTOR = 0.7
"""Of a tee's arm, PTFE (any cable table); its length is known far worse."""


@dataclass(frozen=True, eq=False)
class PartLoss:
    """What one part on the line takes. Arrays have shape (n,)."""

    source_id: str
    label: str
    loss_db: FloatArray
    u_db: FloatArray

    @property
    def id(self) -> str:
        """Of its influence."""
        return f"{self.source_id}.loss"

    def take(self, columns: NDArray[np.int64]) -> "PartLoss":
        """The same at some of the points."""
        return replace(self, loss_db=self.loss_db[columns], u_db=self.u_db[columns])


@dataclass(frozen=True, eq=False)
class ScopeReadings:
    """What was read and of what, at n points. Arrays have shape (n,)."""

    frequency_hz: FloatArray
    volts_rms: FloatArray  # of a sine, from what the screen said
    u_reading_v: FloatArray  # standard uncertainty of reading the screen, in Vrms
    load: LoadState
    scope: Scope
    feed: Lead | Probe | None = None
    tee: Tee | None = None
    losses: tuple[PartLoss, ...] = ()  # of what lies between the stated plane and the tee, part by part
    z0_ohm: float = 50.0
    load_source_id: str = "load"
    source_id: str = "source"  # of the power
    forms: tuple[str, ...] = ()  # how the volts were taken; rms where nothing is said
    harmonics: Harmonics | None = None
    u_mismatch: float | FloatArray = 0.0  # relative, of power: open phases between the meter and the tee
    digit_rms: FloatArray | None = None  # last digit of the volts read, as rms

    @property
    def chain(self) -> Chain:
        """What is between the screen and the tee."""
        forms = self.forms or ("Vrms",) * self.frequency_hz.size
        return Chain(
            self.frequency_hz, self.scope, self.feed, forms, self.harmonics, self.volts_rms, self.digit_rms,
            self.source_id,
        )  # fmt: skip

    def take(self, columns: NDArray[np.int64]) -> "ScopeReadings":
        """The readings at some of the points."""
        return replace(
            self,
            frequency_hz=self.frequency_hz[columns],
            volts_rms=self.volts_rms[columns],
            u_reading_v=self.u_reading_v[columns],
            load=self.load.take(columns),
            forms=tuple(self.forms[column] for column in columns) if self.forms else (),
            losses=tuple(item.take(columns) for item in self.losses),
            u_mismatch=_some(self.u_mismatch, columns),
            digit_rms=None if self.digit_rms is None else self.digit_rms[columns],
        )


def _some(value: float | FloatArray, columns: NDArray[np.int64]) -> float | FloatArray:
    return np.asarray(value)[columns] if np.ndim(value) else value


@dataclass(frozen=True, eq=False)
class LoadPower:
    """The method's answers at n points, from one set of influences."""

    net_at_load: Estimate
    incident_at_load: Estimate
    incident_at_meter: Estimate
    net_at_meter: Estimate
    corrections: Mapping[str, FloatArray] = field(default_factory=dict)  # power ratios by name, shape (n,)


def estimate_power(readings: ScopeReadings, inputs: Inputs, meter_plane: PlaneRef, load_plane: PlaneRef) -> LoadPower:
    """Net and incident power at the load and at the meter's output plane, in W.

    Parameters
    ----------
    readings : ScopeReadings
    inputs : Inputs
        Those of `power_influences`, or the same known better.
    meter_plane, load_plane : PlaneRef
        Named in the estimates' measurands.

    Returns
    -------
    LoadPower
        With sensitivities to every one of them.
    """
    outputs = power_outputs(meter_plane, load_plane, readings.z0_ohm)
    made = propagate(power_model(readings), inputs, outputs)
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
    to_tee, hanging, theta = volts_at_tee(readings.chain), feed_admittance(readings.chain), _arm(readings)

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        at_load = load_admittance(x, readings.load, readings.load_source_id)
        seen = _through_tee(x, at_load, readings, theta)
        at_tee = seen.with_parallel(hanging(x))
        square = to_tee(x, x[f"{readings.scope.source_id}.reading"]) ** 2
        reflected = at_tee.reflection_squared(readings.z0_ohm)
        taken = 10.0 ** (sum((x[item.id] for item in readings.losses), np.zeros(1)) / 10.0)
        net = square * seen.conductance_s
        incident = incident_from_net(square * at_tee.conductance_s, reflected) * taken
        incident = incident * (1.0 + x["line.mismatch"]) if "line.mismatch" in x else incident
        return {
            "net_at_load": net,
            "incident_at_load": incident_from_net(net, at_load.reflection_squared(readings.z0_ohm)),
            "incident_at_meter": incident,
            "net_at_meter": incident * (1.0 - reflected / taken**2),
        }

    return model


def reflection_model(readings: ScopeReadings) -> ComplexModel:
    """Complex Γ of the load at its plane and of everything at the tee."""
    hanging, theta = feed_admittance(readings.chain), _arm(readings)

    def model(x: Mapping[str, FloatArray]) -> dict[str, ComplexArray]:
        at_load = load_admittance(x, readings.load, readings.load_source_id)
        at_tee = _through_tee(x, at_load, readings, theta).with_parallel(hanging(x))
        return {"load": at_load.reflection(readings.z0_ohm), "tee": at_tee.reflection(readings.z0_ohm)}

    return model


def _arm(readings: ScopeReadings) -> FloatArray:
    """Electrical length in radians of a metre of the tee's arm."""
    return Stub(1.0, TEE_VELOCITY_FACTOR, 0.0).electrical_length_rad(readings.frequency_hz)


def _through_tee(
    x: Mapping[str, FloatArray], at_load: Admittance, readings: ScopeReadings, theta: FloatArray
) -> Admittance:
    """The load as the tee's middle sees it, with what the tee's body adds."""
    if readings.tee is None:
        return at_load
    name = readings.tee.source_id
    seen = at_load.behind_line(theta * x[f"{name}.arm"], readings.z0_ohm)
    return seen.with_parallel(np.asarray(2j * np.pi * readings.frequency_hz * x[f"{name}.capacitance"], complex))


def power_influences(readings: ScopeReadings) -> tuple[Influence, ...]:
    """Everything uncertain on the way from the screen to the stated plane."""
    n = readings.frequency_hz.size
    reading = influence(
        f"{readings.scope.source_id}.reading", "oscilloscope, reading the screen", readings.volts_rms,
        readings.u_reading_v, points=n, unit="V", source_id=readings.scope.source_id,
        distribution=Distribution.RECTANGULAR, sharing=each_point(n),
        basis="half the last digit, or the scatter of the samples",
    )  # fmt: skip
    return (
        reading,
        *chain_influences(readings.chain),
        *_tee_influences(readings.tee, n),
        *load_influences(readings.load, readings.load_source_id),
        *(_loss(item, n) for item in readings.losses),
        *_mismatch(readings),
    )


def _mismatch(readings: ScopeReadings) -> tuple[Influence, ...]:
    """Reflections of open phase between the meter and the tee, where any are known of; another phase per frequency."""
    if not np.any(readings.u_mismatch):
        return ()
    n = readings.frequency_hz.size
    made = influence(
        "line.mismatch", "mismatch between meter and tee", 0.0, readings.u_mismatch, points=n,
        distribution=Distribution.U_SHAPED, sharing=each_value(readings.frequency_hz),
        basis="phases not known",
    )  # fmt: skip
    return (made,)


def _loss(part: PartLoss, points: int) -> Influence:
    return influence(
        part.id, f"{part.label}, loss", part.loss_db, part.u_db, points=points, unit="dB", source_id=part.source_id,
        distribution=Distribution.RECTANGULAR, basis="as stated",
    )  # fmt: skip


def _tee_influences(tee: Tee | None, points: int) -> tuple[Influence, ...]:
    if tee is None:
        return ()
    rows = (
        ("arm", "tee, from its middle to the load", tee.arm_m, tee.u_arm_m, "m"),
        ("capacitance", "tee, capacitance of its body", tee.capacitance_f, tee.u_capacitance_f, "F"),
    )
    return tuple(
        influence(
            f"{tee.source_id}.{name}", label, value, u, points=points, unit=unit, source_id=tee.source_id,
            distribution=Distribution.RECTANGULAR, basis="as stated",
        )
        for name, label, value, u, unit in rows
    )  # fmt: skip


def feed_phase_rad(readings: ScopeReadings) -> FloatArray:
    """How near what hangs on the tee is to resonance, shape (n,); at π/2 nothing can be corrected.

    Parameters
    ----------
    readings : ScopeReadings
        At n points.

    Returns
    -------
    array, shape (n,)
        Radians, 0 or above.
    """
    return readings.chain.phase_rad()


def power_corrections(readings: ScopeReadings) -> dict[str, FloatArray]:
    """What each correction multiplies the power by, in working order.

    Parameters
    ----------
    readings : ScopeReadings
        At n points.

    Returns
    -------
    mapping
        Power ratio, shape (n,), by name: bandwidth, noise, probe, lead or ground lead.
    """
    chain = readings.chain
    exponent = response_loss_exponent(readings.frequency_hz, chain.bandwidth_hz, chain.scope.response)
    found = {"bandwidth": np.exp(2.0 * exponent)}
    noise = chain.noise_excess()
    if np.any(noise):
        found["noise"] = (1.0 + noise) ** -2
    if isinstance(readings.feed, Probe):
        found["probe"] = np.full_like(readings.frequency_hz, (readings.feed.ratio / readings.feed.setting) ** 2)
    if readings.feed is not None:
        name = "ground lead" if isinstance(readings.feed, Probe) else "lead"
        found[name] = np.asarray(chain.feed_transfer(readings.frequency_hz) ** -2)
    return found
