"""What each connector sees at the highest planned power, as texts: planned levels, never facts."""

import math

from fenmist.calibration.job import Job
from fenmist.hookup.levels import PlaneLevel
from fenmist.judgement.job_rules import highest_level
from fenmist.units.display import plain, rounded, with_unit
from fenmist.units.level import dbm_from_watts

LEVEL_HEADINGS = ("connector", "power", "dBm", "V rms", "V peak", "bears", "headroom")


def level_rows(job: Job) -> list[list[str]]:
    """A row per connector of the hook-up; none while nothing is planned."""
    plan = highest_level(job)
    return [_row(job, level) for level in plan.levels] if plan else []


def _row(job: Job, level: PlaneLevel) -> list[str]:
    part = job.part(job.hookup(level.plane.hookup).element(level.plane.element).part)
    port = part.port(level.plane.port)
    watts = level.incident_w
    bears, room = [], []
    if port.power_limit_w and watts is not None:
        bears.append(plain(port.power_limit_w, "W"))
        room.append(10.0 * math.log10(port.power_limit_w / watts))
    if port.volts_limit_vpk:
        bears.append(f"{plain(port.volts_limit_vpk, 'V')} peak")
        room.append(20.0 * math.log10(port.volts_limit_vpk / level.volts_peak))
    return [
        f"{part.label}, {port.id}",
        "" if watts is None else plain(watts, "W", 3),
        "" if watts is None else rounded(float(dbm_from_watts(watts)), 1, plus=True),
        plain(level.volts_rms, "V", 3),
        plain(level.volts_peak, "V", 3),
        ", ".join(bears),
        with_unit(rounded(min(room), 1, plus=True), "dB") if room else "",
    ]
