"""Rules about what is plugged together, before anyone keys: each hook-up with its own plan.

They look at a job's definition only and are worked out once for it.
"""

import math
from collections.abc import Iterator
from dataclasses import replace
from datetime import date
from itertools import pairwise

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.levels import PlannedLevels, planned_levels
from fenmist.errors import FenmistError
from fenmist.findings.note import Note, Severity
from fenmist.hookup.line import HookUp, Stop, main_way, side_ways
from fenmist.hookup.mismatch import end_mismatches, source_mismatch
from fenmist.hookup.network import LineNetwork, line_network
from fenmist.judgement import headroom_rules, tuner_rules
from fenmist.judgement.headroom_rules import SENSITIVE, name_of, said_db
from fenmist.judgement.tuner_rules import TUNING_SWR
from fenmist.kit.characterisation import Footing
from fenmist.kit.network import computed_coupling_db, measured_coupling_db
from fenmist.kit.part import Part, PartKind
from fenmist.methods.physics_rules import STUB_DOUBT, STUB_WATCH
from fenmist.units.display import frequency, opening, percent, plain, swr
from fenmist.waveform.response import COMFORT_LIMIT, REFERENCE_LIMIT

MISMATCH_WATCH = 0.01
"""Relative standard uncertainty from unknown phases that is worth a word (Fenmist's own, no source)."""

UHF_HZ = 150e6
"""Frequency above which connectors of the UHF type are no calibration plane (common practice, no source)."""

DROOP_WATCH = 0.01
"""Droop of a source that is worth reading the reference twice (Fenmist's own, no source)."""

REFERENCES = (
    PartKind.OSCILLOSCOPE, PartKind.POWER_METER, PartKind.VOLTMETER, PartKind.AMMETER, PartKind.INLINE_METER,
)  # fmt: skip
"""Kinds that others are compared with."""

ENDS = (PartKind.LOAD, PartKind.MISMATCH, PartKind.POWER_METER, PartKind.ANALYSER)
"""Kinds that take a transmitter's power at the end of a line."""


def bench_notes(job: Job) -> tuple[Note, ...]:
    """All of them for all hook-ups; each carries its hook-up in its evidence."""
    return job.once("bench notes", lambda: tuple(_made(job)))


def _made(job: Job) -> Iterator[Note]:
    levels = planned_levels(job)
    for hookup in job.hookups:
        for note in _of_hookup(job, hookup, levels.get(hookup.id)):
            about = note.about if hookup.id == job.stated.plane.hookup else f"{hookup.id} {note.about}"
            yield replace(note, about=about, evidence={**note.evidence, "hookup": hookup.id})


def _of_hookup(job: Job, hookup: HookUp, levels: PlannedLevels | None) -> Iterator[Note]:
    yield from _no_load(job, hookup)
    if levels is None:
        return
    yield from _stubs(job, hookup, levels)
    if not _read_on(job, hookup):  # the rules of what is read know more of it
        yield from _poor_end(job, hookup, levels)
        yield from headroom_rules.rf_voltage(levels.highest)
    yield from headroom_rules.too_little(job, hookup, levels)
    yield from headroom_rules.near_damage(hookup, job.parts, levels.stairs)
    yield from headroom_rules.near_floor(levels.stairs)
    yield from headroom_rules.switches_and_faults(job, hookup, levels)
    yield from headroom_rules.pad_turned(job, hookup, levels.highest.overloads)
    yield from headroom_rules.wrong_side(job, hookup, levels.highest.overloads)
    yield from _bandwidth(job, hookup, levels)
    yield from tuner_rules.tuning(job, hookup, levels)
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
    yield from _substituted(job, hookup, network)


def _read_on(job: Job, hookup: HookUp) -> set[str]:
    """Elements of a hook-up that are read: the question's own rules speak of them."""
    return {item.element for item in job.channels if item.hookup == hookup.id}


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
        "A transmitter without a load can destroy itself, and the open end carries twice the voltage.",
        "Put a load at its end, rated for the power and the time, before anything is keyed.", {"last": last.id},
    )  # fmt: skip


def _poor_end(job: Job, hookup: HookUp, levels: PlannedLevels) -> Iterator[Note]:
    """What ends the line is no dummy load: an antenna, or broken; a deliberate mismatch is meant."""
    last = main_way(hookup, job.parts)[-1]
    part = job.part(hookup.element(last.element).part)
    level = levels.highest.at(last.element, last.entry) if last.entry else None
    seen = level.swr if level else None
    if part.kind is not PartKind.LOAD or seen is None or seen <= TUNING_SWR:
        return
    yield Note(
        "load.poor", Severity.DOUBT, last.element,
        f"The load has an SWR of {swr(seen)} {_at(levels.highest.frequency_hz)}.",
        "That is no longer a dummy load: an antenna, a broken load, or its wrong range.",
        "Use a load of SWR 1.1 or less; on the air only with a licence, at the least power that does the job.",
        {"swr": seen},
    )  # fmt: skip


def _stubs(job: Job, hookup: HookUp, levels: PlannedLevels) -> Iterator[Note]:
    """Volts at the end of a lead into a high impedance that aren't those at its beginning."""
    plan, read = levels.highest, _read_on(job, hookup)
    for stops in side_ways(hookup, job.parts).values():
        if read & {stop.element for stop in stops}:
            continue
        for lead, end in pairwise(stops):
            near, far = plan.at(lead.element, lead.entry), plan.at(end.element, end.entry)
            part = job.part(hookup.element(lead.element).part)
            if (
                part.kind not in (PartKind.LEAD, PartKind.CABLE)
                or near is None
                or far is None
                or far.incident_w is not None
            ):
                continue
            added = (far.volts_rms / near.volts_rms) ** 2 - 1.0
            if abs(added) > STUB_WATCH:
                yield Note(
                    "lead.stub", Severity.DOUBT if abs(added) > STUB_DOUBT else Severity.WATCH, lead.element,
                    f"{opening(part.label)} adds {percent(added)} of power {_at(plan.frequency_hz)}.",
                    "A cable that ends in a high impedance is an open stub: its end sees more volts.",
                    "Keep it short, end it in its own impedance, or use a divider probe.", {"added": added},
                )  # fmt: skip


def _at(frequency_hz: float) -> str:
    return f"at {frequency(frequency_hz)}"


def histories(job: Job, hookup_id: str, as_of: date) -> Iterator[Note]:
    """Instruments of a hook-up of whose past nothing is known, or that are overdue on the day `as_of`."""
    for item in job.hookup(hookup_id).elements:
        part = job.part(item.part)
        if part.kind in REFERENCES and part.id != job.dut:
            yield from history_of(part, item.id, as_of)


def history_of(part: Part, about: str, as_of: date) -> Iterator[Note]:
    """The same of one instrument."""
    latest = max(part.history, key=lambda record: record.on, default=None)
    if latest is None:
        yield Note(
            "reference.history", Severity.WATCH, about, f"{opening(part.label)} has no calibration history.",
            "Its accuracy is taken from the data sheet; no calibration is on record.",
            "Enter its calibration in the kit, or say on the certificate that it is not traceable.", {"on": "never"},
        )  # fmt: skip
    elif latest.due and latest.due < as_of.isoformat():
        yield Note(
            "reference.history", Severity.WATCH, about, f"{opening(part.label)} was due on {latest.due}.",
            f"Last calibrated on {latest.on} by {latest.by}.", "Have it calibrated, or state the risk.",
            {"due": latest.due},
        )  # fmt: skip


def _bandwidth(job: Job, hookup: HookUp, levels: PlannedLevels) -> Iterator[Note]:
    """An instrument whose bandwidth is too near the carrier; the reference of the readings has its own rule."""
    read = _read_on(job, hookup)
    highest = float(levels.lines.frequency_hz[-1])
    for item in hookup.elements:
        part = job.part(item.part)
        stated = part.properties.get("bandwidth_hz")
        if stated is None or not part.indicators or item.id in read:
            continue
        share = highest / stated.value
        if share <= COMFORT_LIMIT:
            continue
        yield Note(
            "instrument.bandwidth", Severity.DOUBT if share > REFERENCE_LIMIT else Severity.WATCH, item.id,
            f"{opening(part.label)} is too slow for {frequency(highest)}: that is 1/{1 / share:.2g} of its bandwidth.",
            f"A one-pole response shows {percent(1 / (1 + share**2) - 1, plus=True)} of power there.",
            "Use one with five times the carrier, three at the very least.", {"share": share},
        )  # fmt: skip


def _people(job: Job, hookup: HookUp) -> Iterator[Note]:
    """What a source itself does to people and to readings."""
    source = main_way(hookup, job.parts)[0].element
    part = job.part(hookup.element(source).part)
    if part.settings.get("output") == "valves":
        yield Note(
            "caution.valves", Severity.GOOD_TO_KNOW, source, f"{opening(part.label)} holds lethal DC inside.",
            "Valve stages run on some hundreds to thousands of volts, and keep them after switching off.",
            "Inside only for people qualified for it.", {"part": part.id},
        )  # fmt: skip
    if part.settings.get("carrier") == "speech only":
        yield Note(
            "source.not_steady", Severity.DOUBT, source, f"{opening(part.label)} gives no steady carrier.",
            "Averaging meters, hold circuits and oscilloscopes each make something else of a varying envelope.",
            "Use key-down CW, FM or FSK, or another source.", {"part": part.id},
        )  # fmt: skip


def _droops(job: Job, hookup: HookUp) -> Iterator[Note]:
    """A source that droops, read once per round: the second instrument reads another power than the first."""
    source = main_way(hookup, job.parts)[0].element
    part = job.part(hookup.element(source).part)
    droop = part.properties.get("droop")
    if droop is None or droop.value < DROOP_WATCH or hookup.id != job.stated.plane.hookup:
        return
    if all(sum(map(job.is_reference, point.sequence)) > 1 for point in job.to_read):
        return
    yield Note(
        "source.droops", Severity.WATCH, source, f"{opening(part.label)} droops by {percent(droop.value)} "
        f"as it gets hot.",
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
                f"{opening(part.label)} is {plain(line.value, 'Ω')}, not {plain(hookup.z0_ohm, 'Ω')}: no "
                f"plane for calibration "
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
            f"{opening(part.label)} was not measured at {_frequencies(outside)}.",
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
            f"{opening(part.label)} measures {said_db(float(np.real(found.value[lowest])))} at "
            f"{frequency(float(f[lowest]))}, "
            f"its parts make {said_db(float(np.real(computed.value[lowest])))}.",
            f"They differ by {said_db(abs(off))}; what both are known to allows {said_db(2.0 * u)}.",
            "Measure its resistors, not their bands (old carbon ones drift up by 10 to 25 %), or the ratio again.",
            {"off_db": off, "u_db": u},
        )  # fmt: skip


def _unknown_phases(job: Job, hookup: HookUp, network: LineNetwork) -> Iterator[Note]:
    """What parts of which only an SWR is known may add or take away."""
    last = network.frequency_hz.size - 1
    ends = [end for end in end_mismatches(hookup, job.parts, network, last) if end.u_relative > MISMATCH_WATCH]
    ends = [end for end in ends if job.part(hookup.element(end.element).part).kind in SENSITIVE]
    for end in ends:
        pair = " and ".join(name_of(job, hookup, name) for name in dict.fromkeys(end.between))
        yield Note(
            "mismatch.unknown_phase", Severity.GOOD_TO_KNOW, end.element,
            f"Mismatch costs {name_of(job, hookup, end.element)} {percent(end.u_relative)} of power, standard u.",
            f"The phases are open; most of it is between {pair}.",
            "A pad of 6 to 10 dB between the two, or measured S-parameters, take it away.",
            {"u": end.u_relative},
        )  # fmt: skip


def _substituted(job: Job, hookup: HookUp, network: LineNetwork) -> Iterator[Note]:
    """One instrument at the end of this line, another at the end of an earlier one, on the same source."""
    mine = main_way(hookup, job.parts)
    end = job.part(hookup.element(mine[-1].element).part)
    source = hookup.element(mine[0].element).part
    if end.kind not in SENSITIVE:
        return
    for other in job.hookups[: job.hookups.index(hookup)]:
        theirs = main_way(other, job.parts)
        last = job.part(other.element(theirs[-1].element).part) if theirs else end
        if last.kind not in SENSITIVE or last.id == end.id or other.element(theirs[0].element).part != source:
            continue
        place = network.frequency_hz.size - 1
        earlier = line_network(other, job.parts, network.frequency_hz)
        pair = ((hookup, network), (other, earlier))
        u = math.hypot(*(source_mismatch(one, job.parts, made, place) for one, made in pair))
        if u > MISMATCH_WATCH:
            label = job.part(source).label
            yield Note(
                "source.substitution", Severity.WATCH, mine[-1].element,
                f"{opening(end.label)} put in the place of {last.label}: the match of {label} costs "
                f"{percent(u)} of power.",
                "Read at once on one line it drops out; put in one after the other it doesn't: "
                "|1 − Γg·Γ2|²/|1 − Γg·Γ1|², a standard uncertainty while the phases are open.",
                "Keep 10 dB or more of pad behind the source, or read the two at once.", {"u": u},
            )  # fmt: skip
            return


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
