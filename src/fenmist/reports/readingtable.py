"""What readings stand for on a bench, as a table to hang beside it: from what is shown to watts, before a run.

Worked out from the bench as it is described, for a steady carrier; nothing was read. A page for each instrument.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.prediction import stands_for
from fenmist.calibration.references import shown_per_watt
from fenmist.errors import UnknownIdError
from fenmist.findings.note import Note
from fenmist.frozen import dataclass
from fenmist.measurand import Kind
from fenmist.procedures.page import Cell
from fenmist.reports.resultfile import COMMA, csv_bytes
from fenmist.reports.runsheet import cautions_of
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.display import MINUS, frequency, opening, percent, plain, with_unit
from fenmist.units.unit import UNITS
from fenmist.waveform.sine import RMS_PER_UNIT

MOST_ROWS = 20
"""Rows that can be read from a metre away on one page."""

MOST_COLUMNS = 5
"""Frequencies on one page."""

BELOW_DB = 20.0
"""By how much a table in dB goes down from its highest row."""


@dataclass(frozen=True)
class ReadingTable:
    """One instrument at some frequencies."""

    label: str
    title: str
    shown: str  # unit of what it shows
    frequencies: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]  # what is shown, then the power at each frequency
    levels: tuple[tuple[str, ...], ...]  # planned power, then what is shown at it at each frequency
    known: str
    values: tuple[tuple[float, ...], ...]  # the rows as numbers: the unit shown, then W


@dataclass(frozen=True)
class ReadingTables:
    """Content of the pages; texts ready to be set."""

    title: str
    date: str
    demo: bool
    stated: str  # which power, where
    tables: tuple[ReadingTable, ...]
    cautions: tuple[str, ...]


def reading_tables(job: Job, notes: tuple[Note, ...], date: str) -> ReadingTables:
    """A table for every instrument of a job that a power follows from, at the frequencies of its plan.

    Raises
    ------
    UnknownIdError
        Where nothing is planned, or nothing is read that a power follows from.
    """
    tables = tuple(_tables(job)) if job.stated.kind in (Kind.INCIDENT, Kind.NET) else ()
    if not tables:
        raise UnknownIdError(
            "There is no table to make: no reading is planned that a power follows from.",
            "Plan a frequency and a level on a bench with an instrument first.",
        )
    cautions = cautions_of(notes)
    plane = job.stated.plane
    where = job.part(job.hookup(plane.hookup).element(plane.element).part).label
    stated = f"{str(job.stated.kind).capitalize()} at {where}, {plane.port}, of a steady carrier"
    return ReadingTables(job.title, date, job.demo, stated, tables, cautions)


def _tables(job: Job) -> Iterator[ReadingTable]:
    planned: dict[tuple[str, str], dict[float, float]] = {}
    for point in job.to_read:
        for channel in job.references_of(point):
            if job.is_of_match(channel) or job.indicator(channel).unit not in SHOWN:
                continue
            highest = planned.setdefault((point.hookup, channel), {})
            highest[point.frequency_hz] = max(highest.get(point.frequency_hz, 0.0), point.target_w)
    for (hookup, channel), highest in planned.items():
        tones = sorted(highest)
        for start in range(0, len(tones), MOST_COLUMNS):
            yield _table(job, hookup, channel, {f: highest[f] for f in tones[start : start + MOST_COLUMNS]})


SHOWN = ("dBm", *RMS_PER_UNIT, "A", "W")
"""Units of instruments that a table is made for."""


def _table(job: Job, hookup: str, channel: str, highest: Mapping[float, float]) -> ReadingTable:
    unit, label = job.indicator(channel).unit, job.part_read(channel).label
    if len({point.hookup for point in job.to_read}) > 1:
        label = f"{label}, {job.hookup(hookup).label}"
    tones = tuple(highest)
    per_watt = shown_per_watt(job, job.hookup(hookup), np.array(tones), (channel,))[0]
    most = max(float(one) * watts for one, watts in zip(per_watt, highest.values(), strict=True))
    full = max((item.full_scale for item in job.indicator(channel).ranges), default=math.inf)
    shown = _steps(unit, min(_as_shown(unit, most), _as_shown_si(unit, full)))
    points = {f: _point(job, hookup, channel, f) for f in tones}
    each = [points[f] for f in tones for _ in shown]
    watts, parts = stands_for(job, channel, each, np.tile([_si(unit, value) for value in shown], len(tones)))
    powers, known = watts.reshape(len(tones), -1), parts.reshape(len(tones), -1)
    rows = tuple((_said(unit, value), *(plain(float(one), "W", 3) for one in powers[:, n]))
                 for n, value in enumerate(shown))  # fmt: skip
    return ReadingTable(
        label, f"{opening(label)}: {_SPOKEN.get(unit, unit)} to watts", unit, tuple(frequency(f) for f in tones), rows,
        tuple(_levels(job, channel, unit, points, per_watt)), _known(unit, shown, known),
        tuple((value, *map(float, powers[:, n])) for n, value in enumerate(shown)),
    )  # fmt: skip


def _point(job: Job, hookup: str, channel: str, hertz: float) -> PlanPoint:
    """A point of the plan there, as a steady carrier."""
    found = next(
        point for point in job.to_read
        if point.frequency_hz == hertz and point.hookup == hookup and channel in job.references_of(point)
    )  # fmt: skip
    return replace(found, waveform="", range_id="")


def _levels(
    job: Job, channel: str, unit: str, points: Mapping[float, PlanPoint], per_watt: FloatArray
) -> Iterator[tuple[str, ...]]:
    """What is shown at the highest planned levels: by the bench alone, then with the instrument's own corrections."""
    hookup, each = job.channel(channel).hookup, [*points.values()]
    root = 0.5 if _is_amplitude(unit) else 1.0
    for watts in sorted({point.target_w for point in job.to_read if point.hookup == hookup})[-MOST_COLUMNS:]:
        plainly = np.array([_si(unit, _as_shown(unit, float(one) * watts)) for one in per_watt])
        found, _ = stands_for(job, channel, each, plainly)
        shown = plainly * (watts / found) ** root
        yield plain(watts, "W"), *(_said(unit, _as_shown_si(unit, float(one))) for one in shown)


def _known(unit: str, shown: Sequence[float], known: FloatArray) -> str:
    """How well one reading would be known, at the top and at the bottom."""
    top, bottom = float(np.max(known[:, -1])), float(np.max(known[:, 0]))
    at = f"±{percent(top)} at {_said(unit, shown[-1])}"
    low = f", ±{percent(bottom)} at {_said(unit, shown[0])}" if bottom > 1.05 * top else ""
    return f"One reading is known to {at}{low} (U, k\u202f=\u202f2), all of this bench counted."


# what is shown


def _as_shown(unit: str, square_or_watts: float) -> float:
    """V², A² or W at an instrument, in the unit that it shows."""
    return _as_shown_si(unit, math.sqrt(square_or_watts) if _is_amplitude(unit) else square_or_watts)


def _is_amplitude(unit: str) -> bool:
    return unit in RMS_PER_UNIT or UNITS[unit].base == "A"


def _as_shown_si(unit: str, value: float) -> float:
    """V or A rms, or W, in the unit that is shown."""
    if unit in RMS_PER_UNIT:
        return value / RMS_PER_UNIT[unit]
    return UNITS[unit].from_si(value)


def _si(unit: str, shown: float) -> float:
    return shown * RMS_PER_UNIT[unit] if unit in RMS_PER_UNIT else UNITS[unit].si_from(shown)


_SPOKEN = {"Vrms": "V rms", "Vpk": "V peak", "Vpp": "V peak to peak", "W": "what it shows"}
"""Units as they stand in a title."""


def _said(unit: str, value: float) -> str:
    if unit in UNITS and UNITS[unit].decibel:
        return with_unit(f"{value:.2f}".replace("-", MINUS).removesuffix(".00"), unit)
    return plain(value, unit.replace("Vrms", "V"), 3)


def _steps(unit: str, most: float) -> tuple[float, ...]:
    """Round values up to one that shows the highest power, lowest first."""
    if unit in UNITS and UNITS[unit].decibel:
        top = math.ceil(most - 1e-9)
        return tuple(float(top - n) for n in range(int(BELOW_DB) - 1, -1, -1))
    sizes = (size * 10.0**power for power in range(-9, 9) for size in (1.0, 2.0, 5.0))
    step = next(size for size in sizes if size * MOST_ROWS >= most)
    return tuple(float(f"{step * n:.6g}") for n in range(1, math.ceil(most / step - 1e-9) + 1))


def tables_csv(tables: ReadingTables, kind: str = COMMA) -> bytes:
    """The same for other programs: instrument, what is shown, its unit, frequency, W."""
    rows: list[list[Cell]] = [["instrument", "shown", "unit", "frequency", "power / W"]]
    for table in tables.tables:
        for shown, *watts in table.values:
            rows += [
                [table.label, shown, table.shown, f.replace("\u202f", " ").replace("\u2009", " "), value]
                for f, value in zip(table.frequencies, watts, strict=True)
            ]
    return csv_bytes(rows, kind)
