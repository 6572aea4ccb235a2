"""Reads captures from files: CSV in the shapes that oscilloscopes write, and NumPy arrays.

The block of numbers is found from the end of the file, so header lines of any kind may stand before it or beside it.
What the file doesn't say (time step, volts per count) is asked, not guessed. Page: docs/method/capture.md.
"""

import hashlib
import io
import math
import struct
import tokenize
import warnings
import zipfile
import zlib
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import FileFormatError
from fenmist.files.bounded import bytes_of
from fenmist.frozen import dataclass
from fenmist.waveform.capture import Capture, Channel, channel_of
from fenmist.waveform.tracetable import COUNT_UNITS, TIME_UNITS, VOLT_UNITS, Table, text_table

FloatArray = NDArray[np.float64]

LARGEST_BYTES = 256 * 1024 * 1024
"""Files above this are refused before they are read."""

MOST_CHANNELS, MOST_VALUES, MOST_MEMBERS = 64, 16_000_000, 256
"""Columns of a file, numbers in all of them together, and arrays of an archive."""

SHORTEST_STEP_S, LONGEST_STEP_S = 1e-15, 1e3
"""Time between two samples that a capture can have."""

MOST_NUMBER = 1e30
"""Numbers of any column beyond which a file is misread (Fenmist's own)."""

MOST_VOLTS = 1e9
"""Volts beyond which a file is misread rather than measured (Fenmist's own)."""

_STEP = ("time step", "sample interval", "sampling interval", "increment", "x increment", "xincrement", "xinc", "dt",
         "tinc", "interval", "horizontal resolution", "delta t", "sample period", "sampling period")  # fmt: skip
_RATE = ("sample rate", "sampling rate", "samples per second", "fs", "sampling frequency")
_PER_COUNT = ("volts per count", "v per count", "v/count", "vertical resolution", "y increment", "yincrement", "yinc",
              "ymult", "scale per count", "volts per bit")  # fmt: skip
_ZERO = ("zero count", "y reference", "yreference", "zero level count", "offset count")
_OFFSET = ("y origin", "yorigin", "vertical origin", "offset volts")
_TIME_NAMES = ("t", "time", "x", "seconds", "second", "s", "ms", "us", "µs", "ns", "zeit", "temps", "tempo")
_INDEX_NAMES = ("index", "sample", "n", "#", "sequence", "point", "no", "nr", "i")
_RATE_UNITS = {"hz": 1.0, "khz": 1e3, "mhz": 1e6, "ghz": 1e9, "sa/s": 1.0, "ksa/s": 1e3, "msa/s": 1e6, "gsa/s": 1e9}


@dataclass(frozen=True)
class Given:
    """What a person says about a file that doesn't say it itself."""

    step_s: float | None = None
    volts_per_count: float | None = None


def file_bytes(path: Path) -> bytes:
    """The bytes of a file that is small enough to be a capture.

    Raises
    ------
    FileFormatError
        Names the file and what to do.
    """
    return bytes_of(path, LARGEST_BYTES, "Save fewer samples: some thousand periods are plenty.")


def capture_from_bytes(data: bytes, name: str, given: Given = Given()) -> Capture:
    """Read a capture from a file's bytes.

    Raises
    ------
    FileFormatError
        Names the file, the line where there is one, and what to do.
    """
    if data[:6] == b"\x93NUMPY" or data[:4] == b"PK\x03\x04":
        table = _numpy_table(data, name)
    else:
        table = text_table(data, name)
    return _capture(table, data, name, given)


# NumPy files


_UNREADABLE = (
    ValueError, EOFError, zipfile.BadZipFile, zlib.error, KeyError, NotImplementedError, RuntimeError, SyntaxError,
    tokenize.TokenError, struct.error, OverflowError, MemoryError, OSError,
)  # fmt: skip
"""What NumPy's reader and the archive's raise for files that are damaged, or made to do harm."""


def _numpy_table(data: bytes, name: str) -> Table:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of old headers: what they hold is checked below
            if data[:4] == b"PK\x03\x04":
                return _archive_table(data, name)
            return _array_table(np.load(io.BytesIO(data), allow_pickle=False), name)
    except FileFormatError:
        raise
    except _UNREADABLE as error:
        raise FileFormatError(
            f"{name} is no NumPy file that can be read: {error}.", "Save plain numbers with numpy.save or numpy.savez."
        ) from error


def _archive_table(data: bytes, name: str) -> Table:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        if len(archive.infolist()) > MOST_MEMBERS:
            raise FileFormatError(
                f"{name} holds {len(archive.infolist())} arrays; at most {MOST_MEMBERS} are read.", "Save fewer."
            )
        if sum(item.file_size for item in archive.infolist()) > LARGEST_BYTES:
            raise FileFormatError(
                f"{name} would unpack to more than {LARGEST_BYTES // 2**20} MB.", "Save fewer samples."
            )
    with np.load(io.BytesIO(data), allow_pickle=False) as arrays:
        loaded = {key: np.asarray(arrays[key]) for key in arrays.files}
    said = {key: str(value.item()) for key, value in loaded.items() if value.size == 1 and value.dtype.kind in "fiuU"}
    columns = {key: _numbers(value, name) for key, value in loaded.items() if value.ndim == 1 and value.size > 1}
    if not columns:
        raise FileFormatError(
            f"{name} holds no column of samples.", "Save one array a channel, and “dt” for the time step."
        )
    return Table(list(columns), [""] * len(columns), list(columns.values()), said)


def _array_table(array: NDArray[Any], name: str) -> Table:
    if array.dtype.names:
        columns = [_numbers(array[key].ravel(), name) for key in array.dtype.names]
        return Table(list(array.dtype.names), [""] * len(columns), columns)
    if array.ndim == 1:
        return Table(["CH1"], [""], [_numbers(array, name)])
    if array.ndim != 2:
        raise FileFormatError(f"{name} has {array.ndim} dimensions.", "Save one column a channel, or one array.")
    rows = array.T if array.shape[0] >= array.shape[1] else array
    if len(rows) > MOST_CHANNELS:
        raise FileFormatError(f"{name} holds {len(rows)} columns; at most {MOST_CHANNELS} are read.", "Save fewer.")
    columns = [_numbers(row, name) for row in rows]
    return Table([""] * len(columns), [""] * len(columns), columns)


def _numbers(array: NDArray[Any], name: str) -> FloatArray:
    if array.size > MOST_VALUES:
        raise FileFormatError(f"{name} holds {array.size} samples; at most {MOST_VALUES} are read.", "Save fewer.")
    if array.dtype.kind not in "fiu":
        raise FileFormatError(f"{name} holds {array.dtype}, not real numbers.", "Save volts or counts.")
    made = np.ascontiguousarray(array, float)
    if not np.all(np.isfinite(made)):
        place = int(np.argmax(~np.isfinite(made)))
        raise FileFormatError(
            f"{name}: sample {place + 1} is no finite number.", "Was the digitiser over its range? Capture again."
        )
    return made


# from a table to volts over time


def _capture(table: Table, data: bytes, name: str, given: Given) -> Capture:
    size = table.columns[0].size
    if any(column.size != size for column in table.columns) or size < 2:
        raise FileFormatError(f"{name}: its channels are not of one length.", "Save them together.")
    _check_sizes(table, name)
    assumed: list[str] = []
    time = _time_column(table)
    step = _step_s(table, time, name, given, assumed)
    channels: list[Channel] = []
    for place, (named, unit, column) in enumerate(zip(table.names, table.units, table.columns, strict=True)):
        if place == time:
            continue
        label = named or f"CH{len(channels) + 1}"
        volts = _volts(column, label, unit, table, name, given, assumed)
        if volts is not None and float(np.max(np.abs(volts))) > MOST_VOLTS:
            raise FileFormatError(
                f"{name}: {label} holds {float(np.max(np.abs(volts))):.3g} V.", "Look at its unit and scale."
            )
        if volts is not None:
            channels.append(channel_of(_unused(label, channels), volts))
    if not channels:
        raise FileFormatError(f"{name} holds no channel of volts.", "Save at least one trace.")
    return Capture(name, hashlib.sha256(data).hexdigest(), step, tuple(channels), table.said, tuple(assumed))


def _check_sizes(table: Table, name: str) -> None:
    count = len(table.columns)
    if count > MOST_CHANNELS or count * table.columns[0].size > MOST_VALUES:
        raise FileFormatError(
            f"{name} holds {count} columns of {table.columns[0].size} samples; at most {MOST_CHANNELS} columns and "
            f"{MOST_VALUES} numbers are read.",
            "Save fewer.",
        )
    if any(float(np.max(np.abs(column))) > MOST_NUMBER for column in table.columns):
        raise FileFormatError(f"{name} holds a number beyond {MOST_NUMBER:g}.", "Look at its columns and its scale.")


def _unused(label: str, channels: list[Channel]) -> str:
    taken = {item.name for item in channels}
    return label if label not in taken else f"{label} {len(channels) + 1}"


def _plain_name(table: Table, place: int) -> str:
    return table.names[place].lower().strip("# ")


def _time_column(table: Table) -> int | None:
    """Place of the column of times or indices, or none."""
    if len(table.columns) < 2:
        return None
    for place in range(len(table.columns)):
        named = _plain_name(table, place) in (*_TIME_NAMES, *_INDEX_NAMES)
        unit = table.units[place].lower()
        if (named or unit in TIME_UNITS or unit == "sequence") and _is_even(table, place) is not None:
            return place
    unnamed = not any(table.names) or table.names[0] == ""
    return 0 if unnamed and _is_even(table, 0) is not None else None


def _is_even(table: Table, place: int) -> float | None:
    """The step of a column that rises evenly (but for the digits it was printed with), or none."""
    column = table.columns[place]
    step = float(column[-1] - column[0]) / (column.size - 1)
    if step <= 0:
        return None
    printed = 10.0 ** (math.floor(math.log10(max(abs(column[0]), abs(column[-1])))) + 1 - table.listed_digits)
    straight = column[0] + step * np.arange(column.size)
    blur = max(0.02 * step, 1.01 * printed)
    return step if float(np.max(np.abs(column - straight))) <= blur else None


def _step_s(table: Table, time: int | None, name: str, given: Given, assumed: list[str]) -> float:
    if given.step_s is not None:
        return _sensible_step(given.step_s, name)
    rate = table.number(_RATE, _RATE_UNITS)
    stated = table.number(_STEP, TIME_UNITS) or (1.0 / rate if rate else None)
    listed = _listed_step(table, time, assumed) if time is not None else None
    if stated is not None and listed is not None and abs(stated - listed) > 0.02 * abs(listed):
        raise FileFormatError(
            f"{name}: the header says {stated:.4g} s between samples, the listed times {listed:.4g} s.",
            "Give the time step yourself.",
        )
    found = stated or listed
    if found is None:
        if time is None and len(table.columns) > 1 and _plain_name(table, 0) in _TIME_NAMES:
            raise FileFormatError(f"{name}: its times don't rise evenly.", "Capture in one piece, at even steps.")
        raise FileFormatError(f"{name} doesn't say the time between samples.", "Give the time step, such as 4 ns.")
    return _sensible_step(found, name)


def _sensible_step(step_s: float, name: str) -> float:
    if not SHORTEST_STEP_S <= step_s <= LONGEST_STEP_S:
        raise FileFormatError(f"{name}: a time step of {step_s:g} s makes no sense.", "Give the time step yourself.")
    return step_s


def _listed_step(table: Table, time: int, assumed: list[str]) -> float | None:
    step, unit = _is_even(table, time), table.units[time].lower()
    named = _plain_name(table, time)
    if step is None or unit == "sequence" or named in _INDEX_NAMES:
        return None
    factor = TIME_UNITS.get(unit) or TIME_UNITS.get(named)
    if factor is None:
        if step == 1.0:
            return None  # counts samples
        factor = 1.0
        assumed.append("listed times are in seconds")
    return step * factor


def _volts(
    column: FloatArray, label: str, unit: str, table: Table, name: str, given: Given, assumed: list[str]
) -> FloatArray | None:
    """A column in volts; none where its unit is another quantity's."""
    said = unit.lower() or next((u for u in VOLT_UNITS if label.lower().endswith(f" {u}")), "")
    said = said or table.word(("vertical units", "y unit", "y units", "units", "unit", "vertical unit"))
    if said in VOLT_UNITS:
        return column * VOLT_UNITS[said]
    if said and said not in COUNT_UNITS:
        return None
    per_count = given.volts_per_count or table.number(_PER_COUNT, VOLT_UNITS)
    if per_count is not None:
        zero = table.number(_ZERO, {}) or 0.0
        return (column - zero) * per_count + (table.number(_OFFSET, VOLT_UNITS) or 0.0)
    whole = bool(np.all(column == np.round(column))) and float(np.ptp(column)) > 8.0
    if said in COUNT_UNITS or whole:
        raise FileFormatError(
            f"{name}: {label} holds whole numbers, counts of the digitiser, and nothing says what one is worth.",
            "Give the volts per count, such as 4 mV.",
        )
    assumed.append(f"{label} is in volts")
    return column
