"""The headroom staircase: the level along the path as steps, and each part's ceiling and floor above and below it.

Everything in dBm; where only volts mean anything they are stated as the power they would make in Z0, and so are limits
in volts: the gap in dB is the same.
"""

import math
from collections.abc import Iterator, Mapping

from fenmist.frozen import dataclass
from fenmist.hookup.levels import LevelPlan, PlaneLevel, volts_limit_vpk
from fenmist.hookup.line import HookUp, Stop, main_way, side_ways
from fenmist.kit.part import SOURCES, Part
from fenmist.units.level import dbm_from_watts

NOISE_FLOOR = "noise_floor_w"
"""Property of an instrument: indication without any signal."""


@dataclass(frozen=True)
class Stair:
    """One part on the way."""

    element: str
    label: str
    branch: int  # 0 the line, 1 what hangs first, ...
    entry_dbm: float | None
    exit_dbm: float | None
    worst_dbm: float  # at its most burdened connector, with the switches at their worst
    fault_dbm: float
    ceiling_dbm: float | None  # of that connector
    floor_dbm: float | None
    in_volts: bool

    @property
    def level_dbm(self) -> float:
        """Its higher level, as planned."""
        return max(item for item in (self.entry_dbm, self.exit_dbm) if item is not None)

    @property
    def room_db(self) -> float | None:
        """From the planned level up to the ceiling; negative where it is over; none without a ceiling."""
        return None if self.ceiling_dbm is None else self.ceiling_dbm - self.level_dbm


def staircase(hookup: HookUp, parts: Mapping[str, Part], plan: LevelPlan) -> tuple[Stair, ...]:
    """A stair for each part, the line first."""
    found: list[Stair] = []
    ways = (main_way(hookup, parts), *side_ways(hookup, parts).values())
    for branch, stops in enumerate(ways):
        found += (stair for stop in stops if (stair := _stair(hookup, parts, plan, stop, branch)) is not None)
    return tuple(found)


def _stair(hookup: HookUp, parts: Mapping[str, Part], plan: LevelPlan, stop: Stop, branch: int) -> Stair | None:
    part = parts[hookup.element(stop.element).part]
    ports = [port for port in (stop.entry, stop.exit) if port]
    levels = {port: level for port in ports if (level := plan.at(stop.element, port)) is not None}
    if not levels:
        return None
    z0 = hookup.z0_ohm
    shown = {port: level_dbm(level, z0) for port, level in levels.items()}
    ceilings = {} if part.kind in SOURCES else dict(_ceilings(part, ports, plan.frequency_hz, z0))
    tight = min(ceilings, key=lambda port: ceilings[port] - shown.get(port, -math.inf), default=None)
    at = tight or max(shown, key=lambda port: shown[port])
    worst, fault = (found(stop.element, at) for found in (plan.worst_at, plan.fault_at))
    if branch == 0 and stop.exit is None:
        fault = None  # it is the fault itself
    floor = part.properties.get(NOISE_FLOOR)
    return Stair(
        stop.element, part.label, branch, shown.get(stop.entry), shown.get(stop.exit) if stop.exit else None,
        level_dbm(worst, z0) if worst else shown[at], level_dbm(fault, z0) if fault else shown[at],
        ceilings[tight] if tight else None, float(dbm_from_watts(floor.value)) if floor else None,
        levels[at].incident_w is None,
    )  # fmt: skip


def level_dbm(level: PlaneLevel, z0_ohm: float) -> float:
    """A connector's level; volts as the power they would make in Z0."""
    watts = level.volts_rms**2 / z0_ohm if level.incident_w is None else level.incident_w
    return float(dbm_from_watts(max(watts, 1e-30)))


def _ceilings(part: Part, ports: list[str], frequency_hz: float, z0_ohm: float) -> Iterator[tuple[str, float]]:
    for name in ports:
        port = part.port(name)
        limits = []
        if port.power_limit_w:
            limits.append(port.power_limit_w)
        volts = volts_limit_vpk(part, port, frequency_hz)
        if volts:
            limits.append(volts**2 / 2.0 / z0_ohm)
        if limits:
            yield name, float(dbm_from_watts(min(limits)))
