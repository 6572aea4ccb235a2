"""The columns of a text file of samples, and what its header says, before anything is known of what they mean.

The block of numbers is found from the end of the file; header lines of any kind may stand before it or beside it.
"""

import io
import math
import re
from collections.abc import Iterable, Mapping
from dataclasses import field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import FileFormatError
from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]

HEADER_LINES = 200
"""Lines among which the block of numbers must begin."""

MOST_TEXT_BYTES, MOST_LINES, LONGEST_LINE = 48 * 1024 * 1024, 4_000_000, 65_536
"""Of a text file of samples: some two million lines of two columns, read in seconds."""

TIME_UNITS = {"s": 1.0, "sec": 1.0, "second": 1.0, "seconds": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "ns": 1e-9,
              "ps": 1e-12}  # fmt: skip
VOLT_UNITS = {"v": 1.0, "volt": 1.0, "volts": 1.0, "mv": 1e-3, "uv": 1e-6, "µv": 1e-6, "kv": 1e3}
COUNT_UNITS = ("count", "counts", "adc", "lsb", "raw", "code", "codes")

_OVER_RANGE = re.compile(r"(?i)^(ol|over|inf|[+-]inf|[+-]?\*+|-{2,}|clip(ped)?|nan)$")


@dataclass(eq=False)
class Table:
    """Columns as they stand in a file."""

    names: list[str]
    units: list[str]
    columns: list[FloatArray]
    said: dict[str, str] = field(default_factory=dict)
    listed_digits: int = 17  # significant digits of the first column, which blur listed times

    def number(self, keys: tuple[str, ...], units: Mapping[str, float]) -> float | None:
        """A number, with an optional unit, that the header gives under one of the keys; none where it doesn't."""
        return _said_number(self.said, keys, units)

    def word(self, keys: tuple[str, ...]) -> str:
        """The first word that the header gives under one of the keys, in lower case."""
        texts = (text for key, text in self.said.items() if _plain_key(key) in keys)
        return next((text.split()[0].lower() for text in texts if text.split()), "")


def text_table(data: bytes, name: str) -> Table:
    """Columns of a text file; raises FileFormatError with the line."""
    if len(data) > MOST_TEXT_BYTES or data.count(b"\n") + data.count(b"\r") > 2 * MOST_LINES:
        raise FileFormatError(
            f"{name} is too long for a text: at most {MOST_TEXT_BYTES >> 20} MB and {MOST_LINES} lines are read.",
            "Save fewer samples, or save them with numpy.savez.",
        )
    lines = _decoded(data, name).splitlines()
    if max(map(len, lines), default=0) > LONGEST_LINE:
        raise FileFormatError(f"{name} has a line of more than {LONGEST_LINE} letters.", "Save one sample a line.")
    while lines and not lines[-1].strip():
        lines.pop()
    if len(lines) < 4:
        raise FileFormatError(f"{name} has {len(lines)} lines: no capture.", "Save the samples as CSV or NumPy.")
    delimiter, comma = _delimiter(lines, name)
    tail = [_split(line, delimiter) for line in _tail(lines) if line.strip()]
    width = min(len(row) for row in tail)
    numeric = [c for c in range(width) if all(_number(row[c], comma) is not None for row in tail)]
    if not numeric:
        line = len(lines)
        raise FileFormatError(
            f"{name}, line {line}: “{lines[-1][:40]}” holds no number.", "Save the samples as CSV or NumPy."
        )
    begin = _first_of_block(lines, delimiter, comma, numeric, name)
    columns = _columns(lines[begin:], begin, delimiter, comma, numeric, name)
    head = [_split(line, delimiter) for line in lines[:begin]]
    rows = [_split(line, delimiter) for line in lines[begin : begin + 60]]
    counted = set(numeric)
    beside = [[cell for c, cell in enumerate(row) if c not in counted] for row in rows]
    names, units, said = _headings(head, numeric, comma)
    said = {**_pairs(beside), **said}
    digits = len(re.sub(r"[eE].*|\D", "", _split(lines[-1], delimiter)[numeric[0]]).lstrip("0"))
    return Table(names, units, columns, said, max(digits, 1))


def _decoded(data: bytes, name: str) -> str:
    for mark, encoding in ((b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16"), (b"\xef\xbb\xbf", "utf-8-sig")):
        if data.startswith(mark):
            return data.decode(encoding, errors="replace")
    if b"\x00" in data[:4096]:
        raise FileFormatError(f"{name} is no text.", "Save the samples as CSV or NumPy.")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _split(line: str, delimiter: str) -> list[str]:
    cells = line.split(delimiter) if delimiter != " " else line.split()
    return [cell.strip().strip('"').strip() for cell in cells]


def _number(text: str, comma: bool) -> float | None:
    body = text.replace(",", ".") if comma and "." not in text else text
    if not body or body[-1] not in "0123456789.":
        return None
    try:
        value = float(body)
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def _tail(lines: list[str]) -> list[str]:
    """Lines that surely belong to the block of numbers: at the end, and at most half of the file."""
    return lines[-max(min(30, len(lines) // 2), 2) :]


def _delimiter(lines: list[str], name: str) -> tuple[str, bool]:
    """The delimiter of the block of numbers, and whether commas are decimal in it."""
    tail = _tail(lines)
    for delimiter in (";", "\t"):
        if all(delimiter in line for line in tail):
            return delimiter, any("," in line for line in tail)
    if not all("," in line for line in tail):
        by_space = all(len(line.split()) > 1 for line in tail)
        return (" " if by_space else ","), any("," in line for line in tail)
    if any(" " in line.strip() and len(line.split()) > 1 and line.split()[0].count(",") == 1 for line in tail) and all(
        _number(cell, True) is not None for line in tail for cell in line.split()
    ):
        return " ", True
    counts = {len(line.split(",")) for line in tail}
    if counts == {2} and not any("." in line for line in tail):
        return _one_column_or_two(lines, name)
    return ",", False


def _one_column_or_two(lines: list[str], name: str) -> tuple[str, bool]:
    """“1,25” a line: an index with a count beside it, or one number with a decimal comma?"""
    firsts = [_number(line.split(",")[0], False) for line in _tail(lines)]
    known = [value for value in firsts if value is not None]
    rising = len(known) == len(firsts) and all(b - a == known[1] - known[0] != 0 for a, b in pairwise(known))
    if rising:
        return ",", False
    headed = [line for line in lines[:HEADER_LINES] if re.search("[A-Za-z]", line)]
    if headed and "," not in headed[-1]:
        return ";", True
    raise FileFormatError(
        f"{name}, line {len(lines)}: “{lines[-1][:30]}” can be read in two ways: is the comma decimal, or does it part "
        "columns?",
        "Save with a semicolon between columns, or with decimal points.",
    )


def _first_of_block(lines: list[str], delimiter: str, comma: bool, numeric: list[int], name: str) -> int:
    for place, line in enumerate(lines[: HEADER_LINES + 1]):
        row = _split(line, delimiter)
        if len(row) > numeric[-1] and all(_number(row[c], comma) is not None for c in numeric):
            following = _split(lines[min(place + 1, len(lines) - 1)], delimiter)
            if len(following) > numeric[-1] and _number(following[numeric[-1]], comma) is not None:
                return place
    raise FileFormatError(
        f"{name}: no block of samples begins in its first {HEADER_LINES} lines.", "Save the samples as CSV or NumPy."
    )


def _columns(
    lines: list[str], begin: int, delimiter: str, comma: bool, numeric: list[int], name: str
) -> list[FloatArray]:
    body = "\n".join(lines)
    if comma:
        body = body.replace(",", ".")
    try:
        found = np.loadtxt(
            io.StringIO(body.replace('"', "")), delimiter=None if delimiter == " " else delimiter, usecols=numeric,
            ndmin=2, comments=None,
        )  # fmt: skip
    except (ValueError, IndexError):
        raise _bad_line(lines, begin, delimiter, comma, numeric, name) from None
    if not np.all(np.isfinite(found)):
        raise _bad_line(lines, begin, delimiter, comma, numeric, name)
    return [np.ascontiguousarray(found[:, place]) for place in range(found.shape[1])]


def _bad_line(
    lines: list[str], begin: int, delimiter: str, comma: bool, numeric: list[int], name: str
) -> FileFormatError:
    for number, line in enumerate(lines, start=begin + 1):
        row = _split(line, delimiter)
        for c in numeric:
            cell = row[c] if c < len(row) else ""
            if _number(cell, comma) is None:
                if _OVER_RANGE.match(cell):
                    return FileFormatError(
                        f"{name}, line {number}: “{cell}”: the digitiser was over its range.",
                        "Take a larger volts per division and capture again.",
                    )
                return FileFormatError(
                    f"{name}, line {number}: “{cell[:30]}” is no number.", "Save the samples again, or mend the line."
                )
    return FileFormatError(f"{name} could not be read.", "Save the samples as CSV or NumPy.")


# what the header says


def _headings(head: list[list[str]], numeric: list[int], comma: bool) -> tuple[list[str], list[str], dict[str, str]]:
    """Names and units of the columns, and what else stands above them."""
    rows = [row for row in head if len(row) > numeric[-1] and any(row[c] for c in numeric)]
    texts = [row for row in rows if all(_number(row[c], comma) is None for c in numeric)]
    said = _pairs(head)
    names, units = [""] * len(numeric), [""] * len(numeric)
    if texts and _is_units(texts[-1], numeric) and len(texts) > 1:
        units = [texts[-1][c].strip("()[] ") for c in numeric]
        named = texts[-2]
    else:
        named = texts[-1] if texts else []
    if named:
        names = [named[c] for c in numeric]
        said |= {
            key: row[c]
            for row in (head[-1], *texts[-1:])
            for c, key in enumerate(named)
            if row is not named and c < len(row) and key and row[c] and c not in numeric
        }
    for place, text in enumerate(names):
        if match := re.fullmatch(r"(.*?)\s*[(\[]\s*([^()\[\]]*?)\s*[)\]]", text):
            names[place] = match[1]
            units[place] = units[place] or match[2]
    return names, units, said


def _is_units(row: list[str], numeric: list[int]) -> bool:
    known = {*TIME_UNITS, *VOLT_UNITS, *COUNT_UNITS, "sequence", "a", "ma"}
    return all(row[c].strip("()[] ").lower() in known for c in numeric)


def _pairs(rows: Iterable[list[str]]) -> dict[str, str]:
    """Lines such as “Sample interval, 4e-9, s” or “Sample interval: 4 ns” by their key."""
    found: dict[str, str] = {}
    for row in rows:
        cells = [cell for cell in row if cell]
        if len(cells) == 1 and re.match(r"^[#\s]*[^:=]+[:=]", cells[0]):
            key, _, value = re.sub(r"^[#\s]+", "", cells[0]).replace("=", ":").partition(":")
            cells = [key, value.strip()]
        if len(cells) >= 2 and re.search("[A-Za-z]", cells[0]):
            found.setdefault(cells[0].strip("# :").strip(), " ".join(cells[1:3]))
    return found


def _plain_key(key: str) -> str:
    return re.sub(r"[\s_]+", " ", key.lower()).strip()


def _said_number(said: Mapping[str, str], keys: tuple[str, ...], units: Mapping[str, float]) -> float | None:
    """A number with an optional unit that the header gives under one of the keys."""
    for key, text in said.items():
        bare, _, unit = _plain_key(key).partition("(")
        if bare.strip() not in keys:
            continue
        match = re.match(r"^([+-]?[\d.,]+(?:[eE][+-]?\d+)?)\s*([^\s\d]*)", text.strip())
        if match is None:
            continue
        value = _number(match[1], comma=True)
        factor = units.get((match[2] or unit.strip(") ")).lower(), 1.0)
        if value is not None and value != 0:
            return value * factor
    return None
