"""Rules about the plan and the parts, before anyone keys: spans, what the load is, what the probe is set to."""

import math
from bisect import bisect_left, bisect_right
from collections.abc import Iterator

import numpy as np

from fenmist.calibration.gather import load_at, load_of
from fenmist.calibration.job import Job
from fenmist.findings.note import Note, Severity
from fenmist.judgement.bench_rules import planned_frequencies, used_spans
from fenmist.kit.characterisation import Footing
from fenmist.kit.part import Port
from fenmist.methods.physics_rules import where
from fenmist.rf.reflection import reflection_from_impedance, swr_from_reflection
from fenmist.units.display import frequency, opening

POOR_LOAD = 1.5
"""SWR from which a dummy load is worth a word (common practice, no source: 1.5, 2.0 and 2.5 are used as alarms)."""

NO_LOAD = 2.0
"""SWR from which it is rather an antenna, or broken (common practice, no source)."""


def outside_span(job: Job) -> Iterator[Note]:
    """Planned frequencies outside what a part is made for at the ports that are used; another pair may serve."""
    for hookup in job.hookups:
        planned = sorted(planned_frequencies(job, hookup))
        for stop, part, low, high in used_spans(job, hookup):
            outside = [
                *planned[: bisect_left(planned, low * (1 - 1e-9))], *planned[bisect_right(planned, high * (1 + 1e-9)) :]
            ]  # fmt: skip
            if not outside:
                continue
            top = frequency(high) if math.isfinite(high) else "no limit"
            pairs = {port.pair for port in part.ports if _serves(port, outside)}
            other = next((pair for pair in pairs if pair and pair != part.port(stop.entry).pair), "")
            yield Note(
                "part.span", Severity.DOUBT, stop.element,
                f"{opening(part.label)} is not made for what is planned {where(np.array(outside))}.",
                f"Its span is {frequency(low)} to {top}. Outside it a meter may move, and read a half or a tenth.",
                f"Use its {other} ports." if other
                else "Plan inside its span, use the port for that band, or state it as an out-of-span check.",
                {
                    "low_hz": low, "high_hz": high if math.isfinite(high) else "none", "count": float(len(outside)),
                    "hookup": hookup.id,
                },
            )  # fmt: skip


def _serves(port: Port, frequencies: list[float]) -> bool:
    low, high = port.frequency_min_hz or 0.0, port.frequency_max_hz or math.inf
    return all(low <= f <= high for f in frequencies)


def poor_load(job: Job) -> Iterator[Note]:
    """The load's own SWR where it was measured: too high for a dummy load, or what an antenna would show."""
    if not job.to_read or load_of(job) is None:
        return
    frequencies = np.array(sorted({point.frequency_hz for point in job.to_read}))
    _, state = load_at(job, frequencies)
    measured = np.array([item is not Footing.UNKNOWN for item in state.footing])
    z = state.resistance_ohm + 1j * state.reactance_ohm
    rho = np.abs(reflection_from_impedance(z, job.stated.z0_ohm))
    swr = np.where(measured, swr_from_reflection(np.minimum(rho, 0.999)), 1.0)
    over = swr > POOR_LOAD
    if not np.any(over):
        return
    worst = float(swr.max())
    severe = worst > NO_LOAD
    yield Note(
        "load.poor", Severity.DOUBT if severe else Severity.WATCH, "load",
        f"The load has an SWR of up to {worst:.2f} {where(frequencies[over])}.",
        "That is no longer a dummy load: an antenna, a broken load, or its wrong range. Volts across a reactance tell "
        "little of power, and a directional meter errs by its directivity." if severe
        else "A directional meter's error grows with the reflection: 25 dB of directivity at SWR 1.5 is ±2.2 % of "
        "forward power.",
        "Use a load of SWR 1.1 or less for power."
        + (" On the air only with a licence, identified, at the least power that does the job." if severe else ""),
        {"swr": worst, "count": float(over.sum())},
    )  # fmt: skip
