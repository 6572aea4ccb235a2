"""Levels at the highest planned power, as texts: planned levels, never facts."""

import math
from dataclasses import replace

from fenmist.calibration.job import Job
from fenmist.calibration.levels import planned_levels
from fenmist.hookup.levels import Dissipation, LevelPlan, PlaneLevel, volts_limit_vpk
from fenmist.hookup.line import HookUp, main_way, side_ways
from fenmist.kit.part import SOURCES, Port
from fenmist.units.display import plain, rounded, swr, with_unit
from fenmist.units.level import dbm_from_watts

LEVEL_HEADINGS = ("connector", "power", "dBm", "V rms", "V peak", "SWR", "rating", "headroom", "worst case", "fault")


def level_rows(job: Job, hookup_id: str = "") -> list[list[str]]:
    """A row per connector of a hook-up, then one per resistor inside its parts; none while nothing is planned."""
    hookup = job.hookup(hookup_id) if hookup_id else job.bench
    levels = planned_levels(job).get(hookup.id)
    if levels is None:
        return []
    plan = levels.highest
    ways = (main_way(hookup, job.parts), *side_ways(hookup, job.parts).values())
    order = [stop.element for stops in ways for stop in stops]
    along = sorted(plan.levels, key=lambda level: order.index(level.plane.element))  # as it is plugged together
    mated = [level for level in along if not _is_doubled(job, hookup, level)]
    rows = [_row(job, hookup, plan, level) for level in mated]
    return [*rows, *(_inside(job, hookup, item) for item in plan.dissipations)]


def _is_doubled(job: Job, hookup: HookUp, level: PlaneLevel) -> bool:
    """A side port with something on it: the same connector stands there once more."""
    part = job.part(hookup.element(level.plane.element).part)
    return part.port(level.plane.port).hangs and hookup.mate(level.plane.element, level.plane.port) is not None


def _row(job: Job, hookup: HookUp, plan: LevelPlan, level: PlaneLevel) -> list[str]:
    element, port_id = level.plane.element, level.plane.port
    part = job.part(hookup.element(element).part)
    port = part.port(port_id)
    watts = level.incident_w
    if part.kind in SOURCES:
        port = replace(port, power_limit_w=None)  # what it gives is no rating
    volts_limit = volts_limit_vpk(part, port, plan.frequency_hz)
    bears = [plain(port.power_limit_w, "W")] if port.power_limit_w and watts is not None else []
    bears += [f"{plain(volts_limit, 'V', 3)} peak"] if volts_limit else []
    worst, fault = plan.worst_at(element, port_id), plan.fault_at(element, port_id)
    return [
        f"{part.label}, {port.id}",
        "" if watts is None else plain(watts, "W", 3),
        "" if watts is None else rounded(float(dbm_from_watts(watts)), 1, plus=True),
        plain(level.volts_rms, "V", 3),
        plain(level.volts_peak, "V", 3),
        "" if level.swr is None else swr(level.swr),
        ", ".join(bears),
        _room(level, port, volts_limit),
        _room(worst, port, volts_limit) if worst else "",
        _room(fault, port, volts_limit) if fault else "",
    ]


def _room(level: PlaneLevel, port: Port, volts_limit: float | None) -> str:
    """From a level up to the nearer of the port's limits."""
    room = []
    if port.power_limit_w and level.incident_w:
        room.append(10.0 * math.log10(port.power_limit_w / level.incident_w))
    if volts_limit and level.volts_peak > 0:
        room.append(20.0 * math.log10(volts_limit / level.volts_peak))
    return with_unit(rounded(min(room), 1, plus=True), "dB") if room else ""


def _inside(job: Job, hookup: HookUp, item: Dissipation) -> list[str]:
    part = job.part(hookup.element(item.element).part)

    def room(watts: float) -> str:
        if not item.limit_w or watts <= 0:
            return ""
        return with_unit(rounded(10.0 * math.log10(item.limit_w / watts), 1, plus=True), "dB")

    limit = plain(item.limit_w, "W") if item.limit_w else ""
    cases = [room(watts) for watts in (item.planned_w, item.worst_w, item.fault_w)]
    return [f"{part.label}, {item.component}", plain(item.planned_w, "W", 3), "", "", "", "", limit, *cases]
