"""Rules about headroom, before anyone keys: what gets too much, too little, or would with a switch or a fault."""

from collections.abc import Iterator, Mapping

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.levels import PlannedLevels
from fenmist.findings.note import Note, Severity
from fenmist.hookup.levels import FAULT, LevelPlan, Overload
from fenmist.hookup.line import HookUp, main_way, side_ways
from fenmist.hookup.staircase import Stair
from fenmist.kit.part import Part, PartKind
from fenmist.units.display import opening, percent, plain, rounded, with_unit

NEAR_DAMAGE_DB = 10.0
"""Room below a sensor's or analyser's damage level that is kept (common practice, no source)."""

NEAR_FLOOR_DB = 10.0
"""Room above a noise floor below which it counts: 10 dB is up to 10 % of the reading (derived)."""

BURN_VOLTS = 30.0
"""Volts rms of RF from which a bare conductor is worth a caution ("tens of volts": common practice, no source)."""

SENSITIVE = (PartKind.POWER_METER, PartKind.ANALYSER, PartKind.GENERATOR)


def too_little(job: Job, hookup: HookUp, levels: PlannedLevels) -> Iterator[Note]:
    """The source can't give what is planned."""
    source = main_way(hookup, job.parts)[0].element
    part = job.part(hookup.element(source).part)
    limit, plan = part.ports[0].power_limit_w, levels.highest
    if limit is None or plan.source_w <= limit * 1.02:
        return
    yield Note(
        "source.too_little", Severity.WATCH, source,
        f"{opening(part.label)} gives {plain(limit, 'W')}; {plain(plan.source_w, 'W', 3)} are needed for the plan.",
        f"{plain(plan.power_w, 'W')} are planned at the stated plane, behind what lies between.",
        "Plan less, or use a source that gives it.", {"needed_w": plan.source_w, "gives_w": limit},
    )  # fmt: skip


def near_damage(hookup: HookUp, parts: Mapping[str, Part], stairs: tuple[Stair, ...]) -> Iterator[Note]:
    """A sensor or analyser within 10 dB of what destroys it."""
    for stair in stairs:
        kind = parts[hookup.element(stair.element).part].kind
        room = stair.room_db
        if kind not in SENSITIVE or room is None or not -1e-6 <= room < NEAR_DAMAGE_DB or stair.entry_dbm is None:
            continue
        yield Note(
            "sensor.near_damage", Severity.WATCH, stair.element,
            f"{opening(stair.label)} is {said_db(room)} below what destroys it.",
            f"{_dbm(stair.level_dbm)} ({plain(_watts(stair.level_dbm), 'W', 2)}) arrive at the highest planned power.",
            f"Keep {NEAR_DAMAGE_DB:g} dB: put {said_db(NEAR_DAMAGE_DB - room)} more in front of it.", {"room_db": room},
        )  # fmt: skip


def near_floor(stairs: tuple[Stair, ...]) -> Iterator[Note]:
    """A sensor that drowns in its own noise."""
    for stair in stairs:
        if stair.floor_dbm is None or stair.entry_dbm is None:
            continue
        room = stair.entry_dbm - stair.floor_dbm
        if room >= NEAR_FLOOR_DB:
            continue
        yield Note(
            "sensor.near_floor", Severity.DOUBT, stair.element,
            f"{opening(stair.label)} drowns in its noise: {_dbm(stair.entry_dbm)} arrive, its floor is "
            f"{_dbm(stair.floor_dbm)}.",
            f"{said_db(NEAR_FLOOR_DB)} above the floor the noise is still up to {percent(10 ** (-NEAR_FLOOR_DB / 10))} "
            "of the reading.",
            f"Take {said_db(NEAR_FLOOR_DB - room)} out of what is in front of it, or use a sensor for that level.",
            {"room_db": room},
        )  # fmt: skip


def switches_and_faults(job: Job, hookup: HookUp, levels: PlannedLevels) -> Iterator[Note]:
    """What a switch in another position, or an open or short at the load, would put over its rating."""
    for over in levels.highest.risks:
        label = name_of(job, hookup, over.element) + (f", {over.component}" if over.component else "")
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


def pad_turned(job: Job, hookup: HookUp, overloads: tuple[Overload, ...]) -> Iterator[Note]:
    """The port that bears less faces the source."""
    for over in overloads:
        part = job.part(hookup.element(over.element).part)
        limits = [port.power_limit_w for port in part.ports if port.power_limit_w]
        if part.kind is PartKind.ATTENUATOR and over.port and limits and max(limits) >= over.planned > over.limit:
            yield Note(
                "pad.turned", Severity.STOP, over.element,
                f"{opening(part.label)} is the wrong way round: its {over.port} port is rated "
                f"{plain(over.limit, 'W')}.",
                f"{plain(over.planned, 'W', 3)} arrive there; its other port is rated {plain(max(limits), 'W')}.",
                "Turn it round.", {"planned": over.planned, "limit": over.limit},
            )  # fmt: skip


def wrong_side(job: Job, hookup: HookUp, overloads: tuple[Overload, ...]) -> Iterator[Note]:
    """A sensor or analyser gets too much while a pad that would save it stands somewhere else."""
    for over in overloads:
        if job.part(hookup.element(over.element).part).kind not in SENSITIVE:
            continue
        before = _in_front_of(job, hookup, over.element)
        for item in hookup.elements:
            part = job.part(item.part)
            loss = part.at(item.settings).get("loss_db")
            if part.kind is not PartKind.ATTENUATOR or item.id in before or loss is None:
                continue
            if over.planned * 10.0 ** (-loss.value / 10.0) <= over.limit:
                yield Note(
                    "sensor.wrong_side", Severity.STOP, over.element,
                    f"{opening(name_of(job, hookup, over.element))} is on the wrong side of {part.label}.",
                    f"{plain(over.planned, 'W', 3)} arrive at it, rated {plain(over.limit, 'W', 3)}; "
                    f"behind that pad it would be {plain(over.planned * 10.0 ** (-loss.value / 10.0), 'W', 2)}.",
                    "Put the pad in front of it.", {"planned": over.planned, "limit": over.limit, "pad": part.id},
                )  # fmt: skip


def _in_front_of(job: Job, hookup: HookUp, element: str) -> set[str]:
    """Elements that the power passes on its way to an element."""
    main = [stop.element for stop in main_way(hookup, job.parts)]
    if element in main:
        return set(main[: main.index(element)])
    for (at, _), stops in side_ways(hookup, job.parts).items():
        names = [stop.element for stop in stops]
        if element in names:
            front = set(main[: main.index(at)]) if at in main else set()
            return front | {at} | set(names[: names.index(element)])
    return set()


def rf_voltage(plan: LevelPlan) -> Iterator[Note]:
    """RF volts that burn, with the number."""
    volts = max((level.volts_rms for level in plan.levels), default=0.0)
    if volts < BURN_VOLTS:
        return
    yield Note(
        "caution.rf_voltage", Severity.GOOD_TO_KNOW, "job",
        f"{plain(volts, 'V', 2)} rms on the line at {plain(plan.power_w, 'W')}.",
        f"RF burns, and what takes those {plain(plan.power_w, 'W')} stays hot for minutes. Load connected and tight "
        "before the carrier comes on.",
        "Carrier off before touching the tee or changing a lead.",
        {"volts_rms": volts, "power_w": plan.power_w},
    )  # fmt: skip


def name_of(job: Job, hookup: HookUp, element: str) -> str:
    """Label of the part that stands in an element's place."""
    return job.part(hookup.element(element).part).label


def said_db(value: float) -> str:
    """A ratio as it is said."""
    return with_unit(rounded(value, 1), "dB")


def _dbm(value: float) -> str:
    return with_unit(rounded(value, 1, plus=True), "dBm")


def _watts(dbm: float) -> float:
    return float(1e-3 * np.power(10.0, dbm / 10.0))
