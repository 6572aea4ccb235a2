"""Rules about what is plugged together, before anyone keys: each hook-up with its own plan.

They look at a job's definition only and are worked out once for it.
"""

import math
from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import cast

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.levels import PlannedLevels, planned_levels
from fenmist.errors import FenmistError
from fenmist.findings.note import Note, Severity
from fenmist.hookup.levels import FAULT, Overload
from fenmist.hookup.line import HookUp, Stop, main_way, side_ways
from fenmist.hookup.mismatch import end_mismatches
from fenmist.hookup.network import LineNetwork, line_network
from fenmist.hookup.staircase import Stair, staircase
from fenmist.kit.characterisation import Footing
from fenmist.kit.network import computed_coupling_db, measured_coupling_db
from fenmist.kit.part import Part, PartKind
from fenmist.reading.event import Role
from fenmist.units.display import frequency, percent, plain, rounded, swr, with_unit
from fenmist.waveform.response import COMFORT_LIMIT, REFERENCE_LIMIT

NEAR_DAMAGE_DB = 10.0
"""Room below a sensor's or analyser's damage level that is kept (common practice, no source)."""

NEAR_FLOOR_DB = 10.0
"""Room above a noise floor below which it counts: 10 dB is up to 10 % of the reading (derived)."""

OPEN_SWR = 100.0
"""SWR from which what ends a line is no load at all (Fenmist's own, no source)."""

MISMATCH_WATCH = 0.01
"""Relative standard uncertainty from unknown phases that is worth a word (Fenmist's own, no source)."""

TUNING_W = 20.0
"""Power above which tuning into a bad match is warned of; people tune at 10 to 20 W (common practice, no source)."""

TUNING_SWR = 2.0
"""SWR that is a bad match for that (common practice, no source)."""

UHF_HZ = 150e6
"""Frequency above which connectors of the UHF type are no calibration plane (common practice, no source)."""

DROOP_WATCH = 0.01
"""Droop of a source that is worth reading the reference twice (Fenmist's own, no source)."""

SENSITIVE = (PartKind.POWER_METER, PartKind.ANALYSER, PartKind.GENERATOR)
ENDS = (PartKind.LOAD, PartKind.MISMATCH, PartKind.POWER_METER, PartKind.ANALYSER)
"""Kinds that take a transmitter's power at the end of a line."""

_KEY = "bench notes"


def bench_notes(job: Job) -> tuple[Note, ...]:
    """All of them for all hook-ups; each carries its hook-up in its evidence."""
    if _KEY not in job.of_definition:
        job.of_definition[_KEY] = tuple(_made(job))
    return cast(tuple[Note, ...], job.of_definition[_KEY])


def _made(job: Job) -> Iterator[Note]:
    levels = planned_levels(job)
    for hookup in job.hookups:
        for note in _of_hookup(job, hookup, levels.get(hookup.id)):
            about = note.about if hookup.id == job.methods[0].measurand.plane.hookup else f"{hookup.id} {note.about}"
            yield replace(note, about=about, evidence={**note.evidence, "hookup": hookup.id})


def _of_hookup(job: Job, hookup: HookUp, levels: PlannedLevels | None) -> Iterator[Note]:
    yield from _no_load(job, hookup)
    if levels is None:
        return
    stairs = staircase(hookup, job.parts, levels.highest)
    yield from _too_little(job, hookup, levels)
    yield from _near_damage(hookup, job.parts, stairs)
    yield from _near_floor(stairs)
    yield from _switches_and_faults(job, hookup, levels)
    yield from _pad_turned(job, hookup, levels.highest.overloads)
    yield from _bandwidth(job, hookup, levels)
    yield from _tuning(job, hookup, levels)
    yield from _people(job, hookup)
    yield from _droops(job, hookup)
    yield from _connectors(job, hookup, levels)
    try:
        network = line_network(hookup, job.parts, levels.lines.frequency_hz)
    except FenmistError:
        return
    yield from _ratio_differs(job, hookup)
    yield from _extrapolated(job, hookup, network)
    yield from _unknown_phases(job, hookup, network)


def _name(job: Job, hookup: HookUp, element: str) -> str:
    return job.part(hookup.element(element).part).label


def _no_load(job: Job, hookup: HookUp) -> Iterator[Note]:
    """The line ends open, or in something that takes no power."""
    stops = main_way(hookup, job.parts)
    if not stops:
        return
    last = job.part(hookup.element(stops[-1].element).part)
    if last.kind in ENDS:
        return
    yield Note(
        "line.no_load", Severity.STOP, stops[-1].element, f"The line ends at {last.label}: there is no load on it.",
        "A transmitter without a load destroys itself, and the open end carries twice the volts.",
        "Put a load at its end, rated for the power and the time, before anything is keyed.", {"last": last.id},
    )  # fmt: skip


def _too_little(job: Job, hookup: HookUp, levels: PlannedLevels) -> Iterator[Note]:
    """The source can't give what is planned."""
    source = main_way(hookup, job.parts)[0].element
    part = job.part(hookup.element(source).part)
    limit, plan = part.ports[0].power_limit_w, levels.highest
    if limit is None or plan.source_w <= limit * 1.02:
        return
    yield Note(
        "source.too_little", Severity.WATCH, source,
        f"{part.label} gives {plain(limit, 'W')}; {plain(plan.source_w, 'W', 3)} are needed for the plan.",
        f"{plain(plan.power_w, 'W')} are planned at the stated plane, behind what lies between.",
        "Plan less, or use a source that gives it.", {"needed_w": plan.source_w, "gives_w": limit},
    )  # fmt: skip


def _near_damage(hookup: HookUp, parts: Mapping[str, Part], stairs: tuple[Stair, ...]) -> Iterator[Note]:
    """A sensor or analyser within 10 dB of what destroys it."""
    for stair in stairs:
        kind = parts[hookup.element(stair.element).part].kind
        room = stair.room_db
        if kind not in SENSITIVE or room is None or not 0.0 <= room < NEAR_DAMAGE_DB or stair.entry_dbm is None:
            continue
        yield Note(
            "sensor.near_damage", Severity.WATCH, stair.element,
            f"{stair.label} is {_db(room)} below what destroys it.",
            f"{_dbm(stair.level_dbm)} ({plain(_watts(stair.level_dbm), 'W', 2)}) arrive at the highest planned power.",
            f"Keep {NEAR_DAMAGE_DB:g} dB: put {_db(NEAR_DAMAGE_DB - room)} more in front of it.", {"room_db": room},
        )  # fmt: skip


def _near_floor(stairs: tuple[Stair, ...]) -> Iterator[Note]:
    """A sensor that drowns in its own noise."""
    for stair in stairs:
        if stair.floor_dbm is None or stair.entry_dbm is None:
            continue
        room = stair.entry_dbm - stair.floor_dbm
        if room >= NEAR_FLOOR_DB:
            continue
        yield Note(
            "sensor.near_floor", Severity.DOUBT, stair.element,
            f"{stair.label} drowns in its noise: {_dbm(stair.entry_dbm)} arrive, its floor is {_dbm(stair.floor_dbm)}.",
            f"{_db(NEAR_FLOOR_DB)} above the floor the noise is still up to {percent(10 ** (-NEAR_FLOOR_DB / 10))} "
            "of the reading.",
            f"Take {_db(NEAR_FLOOR_DB - room)} out of what is in front of it, or use a sensor for that level.",
            {"room_db": room},
        )  # fmt: skip


def _switches_and_faults(job: Job, hookup: HookUp, levels: PlannedLevels) -> Iterator[Note]:
    """What a switch in another position, or an open or short at the load, would put over its rating."""
    for over in levels.highest.risks:
        label = _name(job, hookup, over.element) + (f", {over.component}" if over.component else "")
        unit = "W" if over.what == "power" else "V"
        would = f"{plain(over.planned, unit, 3)}, rated {plain(over.limit, unit, 3)}"
        if over.case == FAULT:
            yield Note(
                "fault.over_rating", Severity.WATCH, over.element,
                f"An open or shorted load would put {label} at {would}.",
                "Volts or amperes double where everything comes back: four times the power at a tap, +6 dB.",
                "Begin at low power, watch the SWR; or prove that the transmitter folds back.",
                {"planned": over.planned, "limit": over.limit},
            )  # fmt: skip
        else:
            yield Note(
                "switch.over_rating", Severity.DOUBT, over.element, f"With {over.case} {label} sees {would}.",
                "One turn of a knob while the carrier is on is enough.",
                "Set and check the switch before keying, or put a fixed pad in front.",
                {"planned": over.planned, "limit": over.limit, "case": over.case},
            )  # fmt: skip


def _pad_turned(job: Job, hookup: HookUp, overloads: tuple[Overload, ...]) -> Iterator[Note]:
    """The port that bears less faces the source."""
    for over in overloads:
        part = job.part(hookup.element(over.element).part)
        limits = [port.power_limit_w for port in part.ports if port.power_limit_w]
        if part.kind is PartKind.ATTENUATOR and over.port and limits and max(limits) >= over.planned > over.limit:
            yield Note(
                "pad.turned", Severity.STOP, over.element,
                f"{part.label} is the wrong way round: its {over.port} port bears {plain(over.limit, 'W')}.",
                f"{plain(over.planned, 'W', 3)} arrive there; its other port bears {plain(max(limits), 'W')}.",
                "Turn it round.", {"planned": over.planned, "limit": over.limit},
            )  # fmt: skip


def _bandwidth(job: Job, hookup: HookUp, levels: PlannedLevels) -> Iterator[Note]:
    """An instrument whose bandwidth is too near the carrier; the reference of the readings has its own rule."""
    reference = job.methods[0].inputs["reference"][0] if hookup.id == job.methods[0].measurand.plane.hookup else ""
    highest = float(levels.lines.frequency_hz[-1])
    for item in hookup.elements:
        part = job.part(item.part)
        stated = part.properties.get("bandwidth_hz")
        if stated is None or not part.indicators or item.id == reference:
            continue
        share = highest / stated.value
        if share <= COMFORT_LIMIT:
            continue
        yield Note(
            "instrument.bandwidth", Severity.DOUBT if share > REFERENCE_LIMIT else Severity.WATCH, item.id,
            f"{part.label} is too slow for {frequency(highest)}: that is 1/{1 / share:.2g} of its bandwidth.",
            f"A one-pole response shows {percent(1 / (1 + share**2) - 1, plus=True)} of power there.",
            "Use one with five times the carrier, three at the very least.", {"share": share},
        )  # fmt: skip


def _tuning(job: Job, hookup: HookUp, levels: PlannedLevels) -> Iterator[Note]:
    """A tuner in front of a bad match, at power."""
    plan = levels.highest
    for item in hookup.elements:
        part = job.part(item.part)
        if part.kind is not PartKind.TUNER:
            continue
        behind = plan.at(item.id, part.ports[1].id)
        seen = behind.swr if behind else None
        if seen is None or seen < TUNING_SWR or plan.power_w <= TUNING_W:
            continue
        yield Note(
            "tuner.high_power", Severity.STOP, item.id,
            f"{part.label} would be tuned at {plain(plan.power_w, 'W')} into an SWR of {swr(seen)}.",
            "Switching under power into a bad match burns contacts, and the amplifier sees every step of it.",
            f"Tune with {TUNING_W:g} W or less, then raise the power.", {"swr": seen, "power_w": plan.power_w},
        )  # fmt: skip


def _people(job: Job, hookup: HookUp) -> Iterator[Note]:
    """What a source itself does to people and to readings."""
    source = main_way(hookup, job.parts)[0].element
    part = job.part(hookup.element(source).part)
    if part.settings.get("output") == "valves":
        yield Note(
            "caution.valves", Severity.GOOD_TO_KNOW, source, f"{part.label} holds lethal DC inside.",
            "Valve stages run on some hundreds to thousands of volts, and keep them after switching off.",
            "Inside only for people qualified for it.", {"part": part.id},
        )  # fmt: skip
    if part.settings.get("carrier") == "speech only":
        yield Note(
            "source.not_steady", Severity.DOUBT, source, f"{part.label} gives no steady carrier.",
            "Averaging meters, hold circuits and oscilloscopes each make something else of a varying envelope.",
            "Use key-down CW, FM or FSK, or another source.", {"part": part.id},
        )  # fmt: skip


def _droops(job: Job, hookup: HookUp) -> Iterator[Note]:
    """A source that droops, read once per round: the second instrument reads another power than the first."""
    source = main_way(hookup, job.parts)[0].element
    part = job.part(hookup.element(source).part)
    droop = part.properties.get("droop")
    once = [point for point in job.to_read if point.sequence.count(Role.REFERENCE) < 2]
    if droop is None or droop.value < DROOP_WATCH or not once or hookup.id != job.methods[0].measurand.plane.hookup:
        return
    yield Note(
        "source.droops", Severity.WATCH, source, f"{part.label} droops by {percent(droop.value)} as it gets hot.",
        "Read one after the other, the two instruments see different powers.",
        "Read reference, meter, reference: the drift between the two is then taken out.", {"droop": droop.value},
    )  # fmt: skip


def _connectors(job: Job, hookup: HookUp, levels: PlannedLevels) -> Iterator[Note]:
    """Pieces of line of another impedance, where the frequency makes them count."""
    highest = float(levels.lines.frequency_hz[-1])
    if highest <= UHF_HZ:
        return
    for item in hookup.elements:
        part = job.part(item.part)
        line = part.properties.get("line_ohm")
        if part.kind is PartKind.ADAPTER and line is not None and abs(line.value / hookup.z0_ohm - 1.0) > 0.1:
            yield Note(
                "connector.not_z0", Severity.WATCH, item.id,
                f"{part.label} is {plain(line.value, 'Ω')}, not {plain(hookup.z0_ohm, 'Ω')}: no plane for calibration "
                f"at {frequency(highest)}.",
                "A few centimetres of another impedance turn the reflection with frequency.",
                f"Above some {frequency(UHF_HZ)} use connectors of {plain(hookup.z0_ohm, 'Ω')}.", {"ohm": line.value},
            )  # fmt: skip


def _extrapolated(job: Job, hookup: HookUp, network: LineNetwork) -> Iterator[Note]:
    """A measured part used outside its table; the load of the readings has its own rule."""
    for item in hookup.elements:
        part = job.part(item.part)
        if not part.characterisations or part.kind is PartKind.LOAD:
            continue
        footing = network.elements[item.id].footing
        outside = [f for f, foot in zip(network.frequency_hz, footing, strict=True) if foot in _OUTSIDE]
        if not outside:
            continue
        unknown = any(foot is Footing.UNKNOWN for foot in footing)
        table = part.characterisations[0].frequency_hz
        yield Note(
            "part.extrapolated", Severity.DOUBT, item.id,
            f"{part.label} was not measured at {_frequencies(outside)}.",
            f"Its table goes from {frequency(table[0])} to {frequency(table[-1])}. "
            + ("Beyond 1.5 times its end it counts as unknown." if unknown else "Its end value is held there."),
            "Measure it at the frequencies that are used.", {"count": float(len(outside)), "unknown": float(unknown)},
        )  # fmt: skip


_OUTSIDE = (Footing.HELD, Footing.UNKNOWN)


def _frequencies(values: list[float]) -> str:
    return frequency(values[0]) if len(values) == 1 else f"{frequency(values[0])} to {frequency(values[-1])}"


def _ratio_differs(job: Job, hookup: HookUp) -> Iterator[Note]:
    """A tap's ratio from its resistors against the ratio measured, by more than their uncertainties."""
    for item in hookup.elements:
        part = job.part(item.part)
        measured = measured_coupling_db(part, hookup.z0_ohm)
        if measured is None:
            continue
        f, found = measured
        computed = computed_coupling_db(part, f, hookup.z0_ohm)
        if computed is None:
            continue
        lowest = int(np.argmin(f))  # where strays don't count
        off = float(np.real(found.value[lowest] - computed.value[lowest]))
        u = float(np.hypot(found.u[lowest], computed.u[lowest]))
        if abs(off) <= 2.0 * u:
            continue
        yield Note(
            "part.ratio_differs", Severity.DOUBT, item.id,
            f"{part.label} measures {_db(float(np.real(found.value[lowest])))} at {frequency(float(f[lowest]))}, "
            f"its parts make {_db(float(np.real(computed.value[lowest])))}.",
            f"They differ by {_db(abs(off))}; what both are known to allows {_db(2.0 * u)}.",
            "Measure its resistors, not their bands (old carbon ones drift up by 10 to 25 %), or the ratio again.",
            {"off_db": off, "u_db": u},
        )  # fmt: skip


def _unknown_phases(job: Job, hookup: HookUp, network: LineNetwork) -> Iterator[Note]:
    """What parts of which only an SWR is known may add or take away."""
    last = network.frequency_hz.size - 1
    ends = [end for end in end_mismatches(hookup, job.parts, network, last) if end.u_relative > MISMATCH_WATCH]
    ends = [end for end in ends if job.part(hookup.element(end.element).part).kind in SENSITIVE]
    for end in ends:
        pair = " and ".join(_name(job, hookup, name) for name in dict.fromkeys(end.between))
        yield Note(
            "mismatch.unknown_phase", Severity.GOOD_TO_KNOW, end.element,
            f"Mismatch costs {_name(job, hookup, end.element)} {percent(end.u_relative)} of power, standard u.",
            f"The phases are open; most of it is between {pair}.",
            "A pad of 6 to 10 dB between the two, or measured S-parameters, take it away.",
            {"u": end.u_relative},
        )  # fmt: skip


def used_spans(job: Job, hookup: HookUp) -> Iterator[tuple[Stop, Part, float, float]]:
    """Each part on a way with the span of the ports that are used, in Hz."""
    for stops in (main_way(hookup, job.parts), *side_ways(hookup, job.parts).values()):
        for stop in stops:
            part = job.part(hookup.element(stop.element).part)
            ports = [part.port(port) for port in (stop.entry, stop.exit) if port]
            lows = [port.frequency_min_hz for port in ports if port.frequency_min_hz is not None]
            highs = [port.frequency_max_hz for port in ports if port.frequency_max_hz is not None]
            yield stop, part, max(lows, default=0.0), min(highs, default=math.inf)


def planned_frequencies(job: Job, hookup: HookUp) -> set[float]:
    """Frequencies at which a hook-up is looked at: those planned for it, else all that are read."""
    own = {point.frequency_hz for point in job.plan if point.hookup == hookup.id and not point.blocked}
    return own or {point.frequency_hz for point in job.to_read}


def _db(value: float) -> str:
    return with_unit(rounded(value, 1), "dB")


def _dbm(value: float) -> str:
    return with_unit(rounded(value, 1, plus=True), "dBm")


def _watts(dbm: float) -> float:
    return float(1e-3 * np.power(10.0, dbm / 10.0))
