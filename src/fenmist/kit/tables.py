"""Characterisations as they are typed, pasted or read from a file: rows of frequency, value and uncertainty.

An uncertainty is typed as the expanded one, U, with its k once for the table; it is kept as the standard one. Files are
CSV with one row per frequency (separators comma, semicolon or tab; a heading may name the unit of the frequency) or
Touchstone. Format: docs/formats/tables.md.
"""

import cmath
import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

from fenmist.errors import FenmistError, FileFormatError, OutOfRangeError, UnreadableError
from fenmist.frozen import dataclass
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.impedance import IMPEDANCE, table_from_rows
from fenmist.kit.network import COUPLING, LOSS
from fenmist.kit.part import CalibrationRecord, Part, PartKind
from fenmist.units.display import frequency, percent, plain, rounded, with_unit
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

TABLE_HEADINGS = ("frequency", "value", "U")
MOST_BYTES, MOST_ROWS = 5_000_000, 20_001
CAL_FACTOR, CORRECTION = "cal_factor", "correction"


@dataclass(frozen=True)
class Quantity:
    """What a table can be of."""

    id: str
    label: str
    unit: str  # implied in its cells
    low: float
    high: float
    example: str


QUANTITIES: Mapping[str, Quantity] = {
    item.id: item
    for item in (
        Quantity(LOSS, "loss of the way through", "dB", -1.0, 200.0, "30.12 dB"),
        Quantity(COUPLING, "coupling to the side port", "dB", -1.0, 200.0, "39.95 dB"),
        Quantity(CAL_FACTOR, "calibration factor", "%", 0.1, 1.2, "98.2 %"),
        Quantity(IMPEDANCE, "impedance", "Ω", 0.0, 1e6, "49.6+j1.2"),
        Quantity(CORRECTION, "correction: multiply the reading by", "", 0.01, 100.0, "1.024"),
    )
}
_ENDS = (PartKind.LOAD, PartKind.MISMATCH)
_CORRECTED = (PartKind.INLINE_METER, PartKind.VOLTMETER, PartKind.AMMETER, PartKind.OSCILLOSCOPE)


def quantities_for(part: Part) -> tuple[Quantity, ...]:
    """What can be tabled of a part."""
    found = []
    if any(part.onward(port.id) for port in part.ports if not port.hangs):
        found.append(QUANTITIES[LOSS])
    if part.side_ports:
        found.append(QUANTITIES[COUPLING])
    if part.kind is PartKind.POWER_METER:
        found.append(QUANTITIES[CAL_FACTOR])
    if part.kind in _ENDS:
        found.append(QUANTITIES[IMPEDANCE])
    if part.kind in _CORRECTED:
        found.append(QUANTITIES[CORRECTION])
    return tuple(found)


@dataclass(frozen=True)
class TableFacts:
    """What stands once for a table."""

    coverage: float = 2.0  # k of the U that was typed
    source: str = ""  # laboratory, or instrument
    measured_on: str = ""
    setting: str = ""
    u_relative: float = 0.01  # of an impedance


def table_rows(table: Characterisation) -> list[list[str]]:
    """A table as texts."""
    quantity = QUANTITIES.get(table.quantity)
    rows = []
    for place, f in enumerate(table.frequency_hz):
        if table.raw:
            value = table.raw[place]
        elif table.imag:
            value = _wave(complex(table.real[place], table.imag[place]))
        else:
            value = _said(table.real[place], quantity)
        expanded = table.coverage * table.u[place] if table.u else 0.0
        said = _said(expanded, quantity) if expanded else ""
        if said and table.imag and not table.raw:
            said = percent(expanded / max(abs(complex(table.real[place], table.imag[place])), 1e-12))
        rows.append([frequency(f), value, said])
    return rows


def _wave(value: complex) -> str:
    """An S-parameter by level and angle."""
    level = 20.0 * math.log10(max(abs(value), 1e-9))
    angle = rounded(math.degrees(cmath.phase(value)), 1)
    return f"{with_unit(rounded(level, 2), 'dB')} @ {angle}°"


def _said(value: float, quantity: Quantity | None) -> str:
    if quantity is None:
        return f"{value:.4g}"
    unit = UNITS[quantity.unit]
    return plain(unit.from_si(value), quantity.unit, 5) if quantity.unit == "%" else plain(value, quantity.unit, 5)


def table_from_texts(quantity: Quantity, rows: Sequence[Sequence[str]], facts: TableFacts) -> Characterisation:
    """A table from rows of texts, put in rising order; rows without a frequency and a value are left out.

    Raises
    ------
    UnreadableError, OutOfRangeError
        Names the row and what it lacks.
    """
    filled = [[cell.strip() for cell in (*row, "", "", "")[:3]] for row in rows if any(cell.strip() for cell in row)]
    if not filled:
        raise UnreadableError("The table is empty.", f"Type for example 8.291 MHz and {quantity.example}.")
    if len(filled) > MOST_ROWS:
        raise OutOfRangeError(f"The table has {len(filled)} rows; at most {MOST_ROWS} are taken.", "Leave some out.")
    if quantity.id == IMPEDANCE:
        pairs = [(_frequency(row[0], number), row[1]) for number, row in enumerate(filled, start=1)]
        return table_from_rows(pairs, facts.u_relative, facts.source, facts.measured_on)
    made: list[tuple[float, float, float]] = []
    for number, (f_text, text, u_text) in enumerate(filled, start=1):
        f = _frequency(f_text, number)
        value = _value(text, quantity, number, quantity.low)
        u = _value(u_text, quantity, number, 0.0) / facts.coverage if u_text else 0.0
        made.append((f, value, u))
    made.sort()
    if any(a[0] == b[0] for a, b in pairwise(made)):
        raise OutOfRangeError("A frequency stands twice in the table.", "Each may stand in it once.")
    f_hz, real, us = (tuple(column) for column in zip(*made, strict=True))
    return Characterisation(
        f"{quantity.id} {facts.setting}".strip(), quantity.id, f_hz, real, source=facts.source,
        measured_on=facts.measured_on, unit=quantity.unit, u=us if any(us) else (), coverage=facts.coverage,
        setting=facts.setting,
    )  # fmt: skip


def _frequency(text: str, row: int) -> float:
    try:
        value = value_from_text(text, UNITS["MHz"], "frequency", "8.291 MHz")
    except FenmistError as error:
        raise UnreadableError(f"Row {row}: {error.headline}", error.hint) from error
    if not 1.0 <= value <= 1e12:
        raise OutOfRangeError(f"Row {row}: a frequency of {plain(value, 'Hz')} makes no sense.", "Type 8.291 MHz.")
    return value


def _value(text: str, quantity: Quantity, row: int, low: float) -> float:
    try:
        value = value_from_text(text, UNITS[quantity.unit], quantity.label, quantity.example)
    except FenmistError as error:
        raise UnreadableError(f"Row {row}: {error.headline}", error.hint) from error
    if not low <= value <= quantity.high:
        raise OutOfRangeError(
            f"Row {row}: “{text}” is out of reach for a {quantity.label}.", f"Type for example {quantity.example}."
        )
    return value


def with_table(part: Part, table: Characterisation) -> Part:
    """The part with a table in the place of the one of the same quantity and setting, if any."""
    return with_tables(part, (table,))


def with_tables(part: Part, tables: Sequence[Characterisation]) -> Part:
    """The same with several."""
    keys = {(item.quantity, item.setting) for item in tables}
    kept = tuple(item for item in part.characterisations if (item.quantity, item.setting) not in keys)
    return replace(part, characterisations=(*kept, *tables))


@dataclass(frozen=True)
class Corrected:
    """What a certificate of the logbook makes of a part: its correction, and the record of it."""

    table: Characterisation
    record: CalibrationRecord


def with_certificate(part: Part, found: Corrected) -> Part:
    """The part with a certificate's correction, and with the certificate in its history."""
    kept = tuple(item for item in part.history if item.reference != found.record.reference)
    return replace(with_tables(part, (found.table,)), history=(*kept, found.record))


# files


def tables_from_file(
    part: Part, path: Path, quantity: Quantity | None, facts: TableFacts
) -> tuple[Characterisation, ...]:
    """Tables of a file for a part: Touchstone of as many ports as it has, or CSV of one quantity.

    Raises
    ------
    FileFormatError
        With path, line and what to do.
    """
    from fenmist.files.bounded import bytes_of  # on first use

    data = bytes_of(path, MOST_BYTES)
    if re.search(r"\.s\dp\Z", path.name, re.I):
        return _of_touchstone(part, data, path.name, facts)
    if quantity is None:
        raise FileFormatError(f"{part.label} has nothing that a table is kept of.", "Choose another part.")
    return (_of_csv(data, path.name, quantity, facts),)


def _of_touchstone(part: Part, data: bytes, name: str, facts: TableFacts) -> tuple[Characterisation, ...]:
    from fenmist.kit.touchstone import characterisations_from, touchstone_from_bytes  # on first use

    read = touchstone_from_bytes(data, name)
    if read.ports != len(part.ports):
        ports = ", ".join(port.id for port in part.ports)
        raise FileFormatError(
            f"{name} has {read.ports} ports, {part.label} has {len(part.ports)} ({ports}).",
            "Export all its ports in that order.",
        )
    return characterisations_from(read, facts.source or name, facts.measured_on, facts.u_relative, facts.setting)


def _of_csv(data: bytes, name: str, quantity: Quantity, facts: TableFacts) -> Characterisation:
    if b"\0" in data:
        raise FileFormatError(f"{name} is no text.", "Save the table as CSV.")
    lines = data.decode("utf-8-sig", "replace").splitlines()
    separator = _separator(lines)
    rows: list[list[str]] = []
    numbers, unit = [], ""
    for number, line in enumerate(lines, start=1):
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        cells = [cell.strip().strip('"') for cell in re.split(separator, line)]
        if separator != ",":
            cells = [re.sub(r"(?<=\d),(?=\d)", ".", cell) for cell in cells]
        if not rows and not any(letter.isdigit() for letter in cells[0]):
            unit = next((item for item in ("GHz", "MHz", "kHz", "Hz") if item.lower() in cells[0].lower()), "")
            continue
        if unit and not any(letter.isalpha() for letter in cells[0].lower().replace("e", "")):
            cells[0] = f"{cells[0]} {unit}"
        rows.append(cells)
        numbers.append(number)
    try:
        return table_from_texts(quantity, rows, facts)
    except FenmistError as error:
        match = re.match(r"Row (\d+): (.*)", error.headline)
        said = f"line {numbers[int(match[1]) - 1]}: {match[2]}" if match else error.headline
        raise FileFormatError(f"{name}, {said}", error.hint) from error


def _separator(lines: Sequence[str]) -> str:
    """Tab or semicolon where the file has one, else a comma: then a comma is no decimal sign."""
    text = "\n".join(lines[:20])
    return "\t" if "\t" in text else ";" if ";" in text else ","
