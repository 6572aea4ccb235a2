"""What is planned at each plane, and what is over its rating: before anyone keys.

The planned power is incident at the stated plane into the load as known at that frequency. Levels are plans, never
facts: without a wire nobody knows whether the carrier is on, and no safety advice may depend on it.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from fenmist.hookup.line import HookUp, branches, first_of_kind, main_line
from fenmist.kit.characterisation import load_state
from fenmist.kit.feed import feed_admittance_s, feed_of
from fenmist.kit.part import FEEDS, Part, PartKind, Port
from fenmist.measurand import PlaneRef
from fenmist.rf.probe import ProbeTip, derated_volts
from fenmist.rf.reflection import reflection_from_impedance
from fenmist.rf.stub import Stub


@dataclass(frozen=True)
class PlaneLevel:
    """The planned level at one connector."""

    plane: PlaneRef
    incident_w: float | None  # none on a high-impedance branch, where only volts mean anything
    volts_rms: float

    @property
    def volts_peak(self) -> float:
        """Crest of the sine in V."""
        return self.volts_rms * math.sqrt(2.0)


@dataclass(frozen=True)
class Overload:
    """A part that the plan would put over its rating."""

    element: str
    what: str  # "power" or "volts"
    planned: float  # W or V peak
    limit: float


@dataclass(frozen=True)
class LevelPlan:
    """Planned levels of one hook-up at one power and frequency."""

    power_w: float
    frequency_hz: float
    levels: tuple[PlaneLevel, ...]
    overloads: tuple[Overload, ...]

    def at(self, element: str, port: str) -> PlaneLevel | None:
        """The level at a port, or none where it isn't worked out."""
        return next(
            (level for level in self.levels if (level.plane.element, level.plane.port) == (element, port)),
            None,
        )


def level_plan(hookup: HookUp, parts: Mapping[str, Part], power_w: float, frequency_hz: float) -> LevelPlan:
    """Levels for `power_w` incident at the stated plane, at `frequency_hz`.

    Notes
    -----
    On the line between jumper and source the volts are those of a matched line, √(P·Z0)·(1 + ρ) at most; at the
    tee they follow from the load's admittance with the lead's in parallel.
    """
    on_line = main_line(hookup, parts)
    part_of = {item.id: parts[item.part] for item in hookup.elements}
    after_stated = False
    incident = power_w
    rho = _reflection_at_tee(hookup, parts, frequency_hz)
    levels: list[PlaneLevel] = []
    for name in on_line:
        part = part_of[name]
        ports = [port.id for port in part.ports if port.id != "side"]
        if part.kind is PartKind.JUMPER and after_stated:
            levels.append(_line_level(hookup, name, "a", incident, rho))
            incident *= 10.0 ** (-part.properties["loss_db"].value / 10.0)
            levels.append(_line_level(hookup, name, "b", incident, rho))
        else:
            levels += [_line_level(hookup, name, port, incident, rho) for port in ports]
        after_stated = after_stated or name == hookup.stated.element
    tee_volts = _volts_at_tee(hookup, parts, frequency_hz, incident)
    for hanging in branches(hookup, parts).values():
        levels += _branch_levels(hookup, parts, hanging, tee_volts, frequency_hz)
    return LevelPlan(power_w, frequency_hz, tuple(levels), _overloads(part_of, levels, frequency_hz))


def _line_level(hookup: HookUp, element: str, port: str, incident_w: float, rho: float) -> PlaneLevel:
    volts = math.sqrt(incident_w * hookup.z0_ohm) * (1.0 + rho)
    return PlaneLevel(PlaneRef(hookup.id, element, port), incident_w, volts)


def _load_impedance(hookup: HookUp, parts: Mapping[str, Part], frequency_hz: float) -> complex:
    load_id = first_of_kind(hookup, parts, PartKind.LOAD)
    if load_id is None:
        return complex(hookup.z0_ohm)
    load = parts[hookup.element(load_id).part]
    nominal = load.properties["nominal_ohm"].value
    state = load_state(load.characterisation("impedance_ohm"), np.array([frequency_hz]), nominal)
    return complex(state.resistance_ohm[0], state.reactance_ohm[0])


def _feed(hookup: HookUp, parts: Mapping[str, Part], frequency_hz: float) -> Stub | ProbeTip | None:
    feed_id = next((found for kind in FEEDS if (found := first_of_kind(hookup, parts, kind))), None)
    scope_id = first_of_kind(hookup, parts, PartKind.OSCILLOSCOPE)
    if feed_id is None or scope_id is None:
        return None
    return feed_of(parts[hookup.element(feed_id).part], parts[hookup.element(scope_id).part], frequency_hz)


def _admittance_at_tee(hookup: HookUp, parts: Mapping[str, Part], frequency_hz: float) -> complex:
    feed = _feed(hookup, parts, frequency_hz)
    added = feed_admittance_s(feed, frequency_hz) if feed else 0.0
    return 1.0 / _load_impedance(hookup, parts, frequency_hz) + added


def _reflection_at_tee(hookup: HookUp, parts: Mapping[str, Part], frequency_hz: float) -> float:
    impedance = 1.0 / _admittance_at_tee(hookup, parts, frequency_hz)
    return float(abs(reflection_from_impedance(impedance, hookup.z0_ohm)))


def _volts_at_tee(hookup: HookUp, parts: Mapping[str, Part], frequency_hz: float, incident_w: float) -> float:
    admittance = _admittance_at_tee(hookup, parts, frequency_hz)
    rho = _reflection_at_tee(hookup, parts, frequency_hz)
    return math.sqrt(incident_w * (1.0 - rho**2) / admittance.real)


def _branch_levels(
    hookup: HookUp,
    parts: Mapping[str, Part],
    hanging: tuple[str, ...],
    tee_volts: float,
    frequency_hz: float,
) -> list[PlaneLevel]:
    levels, volts = [], tee_volts
    for name in hanging:
        part = parts[hookup.element(name).part]
        first, last = part.ports[0].id, part.ports[-1].id
        levels.append(PlaneLevel(PlaneRef(hookup.id, name, first), None, volts))
        if part.kind in FEEDS:
            feed = _feed(hookup, parts, frequency_hz)
            ratio = part.properties["ratio"].value if part.kind is PartKind.PROBE else 1.0
            volts = tee_volts * (abs(complex(feed.transfer(frequency_hz))) if feed else 1.0) / ratio
            levels.append(PlaneLevel(PlaneRef(hookup.id, name, last), None, volts))
    return levels


def _overloads(part_of: Mapping[str, Part], levels: list[PlaneLevel], frequency_hz: float) -> tuple[Overload, ...]:
    found: dict[tuple[str, str], Overload] = {}
    for level in levels:
        name = level.plane.element
        port = part_of[name].port(level.plane.port)
        volts_limit = _volts_limit(part_of[name], port, frequency_hz)
        power_w, limit_w = level.incident_w, port.power_limit_w
        if power_w is not None and limit_w is not None and power_w > limit_w * (1.0 + 1e-9):
            found[name, "power"] = Overload(name, "power", power_w, limit_w)
        if volts_limit is not None and level.volts_peak > volts_limit:
            found[name, "volts"] = Overload(name, "volts", level.volts_peak, volts_limit)
    return tuple(found.values())


def _volts_limit(part: Part, port: Port, frequency_hz: float) -> float | None:
    """What a port bears at a frequency, V peak: a probe's rating falls."""
    knee = part.properties.get("knee_hz")
    if port.volts_limit_vpk is None or knee is None:
        return port.volts_limit_vpk
    return float(derated_volts(port.volts_limit_vpk, frequency_hz, knee.value))
