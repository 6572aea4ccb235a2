"""Touchstone files of versions 1.x and 2.0 (.s1p, .s2p, .s3p): a strict gate that names path and line.

Taken are S-parameters of one real reference impedance at rising, finite frequencies. Everything else is refused in
words: no option line, Y, Z, G or H parameters, a frequency that doesn't rise, values missing or left over, mixed modes,
impedances that differ from port to port. Nothing in a file is ever executed, and its size is limited. Formats:
Touchstone File Format Specification 1.1 (2002) and 2.0 (IBIS Open Forum, 2009), from memory. Why this and no library
reads them: docs/decisions/0013.
"""

import math
import re
from collections.abc import Iterator
from dataclasses import field

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import FileFormatError
from fenmist.frozen import dataclass
from fenmist.kit.characterisation import Characterisation

MOST_BYTES = 20_000_000
MOST_POINTS = 100_000

_UNITS = {"hz": 1.0, "khz": 1e3, "mhz": 1e6, "ghz": 1e9}
_FORMATS = ("ma", "db", "ri")
_OTHER_PARAMETERS = ("y", "z", "g", "h")
_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eEdD][+-]?\d+)?\Z")
_FIT = "Export S-parameters of one impedance, frequencies rising, with the option line “# … S … R …”."


@dataclass(frozen=True, eq=False)
class Touchstone:
    """What such a file says."""

    frequency_hz: NDArray[np.float64]  # (n,)
    scattering: NDArray[np.complex128]  # (n, p, p)
    z0_ohm: float
    has_noise: bool = False  # noise data stood behind and were left alone

    @property
    def ports(self) -> int:
        """How many."""
        return int(self.scattering.shape[-1])


def touchstone_from_bytes(data: bytes, name: str) -> Touchstone:
    """What a file's bytes hold; its name tells how many ports a version 1 file has.

    Raises
    ------
    FileFormatError
        With name, line and what to do.
    """
    match = re.search(r"\.s([123])p\Z", name, re.I)
    if match is None:
        raise FileFormatError(f"{name} is no .s1p, .s2p or .s3p file.", "Its ending tells how many ports it has.")
    if len(data) > MOST_BYTES or b"\0" in data:
        raise FileFormatError(f"{name} is no text, or too large.", _FIT)
    reader = _Reader(name, int(match[1]))
    for number, line in enumerate(data.decode("utf-8-sig", "replace").splitlines(), start=1):
        reader.take(number, line.partition("!")[0].strip())
    return reader.finish()


def characterisations_from(
    file: Touchstone, source: str, measured_on: str = "", u: float = 0.0, setting: str = ""
) -> tuple[Characterisation, ...]:
    """A table per S-parameter, s11 to s33.

    `u` is the standard uncertainty: of a reflection as it stands, of a transmission relative to its magnitude, each of
    real and imaginary part alike.
    """
    made = []
    for out in range(file.ports):
        for into in range(file.ports):
            name = f"s{out + 1}{into + 1}"
            values = file.scattering[:, out, into]
            known = u * (np.abs(values) if out != into else np.ones(values.size))
            made.append(
                Characterisation(
                    f"{name} {setting}".strip(), name, tuple(map(float, file.frequency_hz)),
                    tuple(map(float, values.real)), tuple(map(float, values.imag)), source=source,
                    measured_on=measured_on, unit="", u=tuple(map(float, known)) if u else (), setting=setting,
                    termination_ohm=file.z0_ohm,
                )
            )  # fmt: skip
    return tuple(made)


@dataclass
class _Reader:
    """Takes a file line by line."""

    name: str
    ports: int
    options: tuple[float, str, float] | None = None  # unit in Hz, format, Z0
    version: int = 1
    keywords: dict[str, tuple[int, str]] = field(default_factory=dict)
    values: list[float] = field(default_factory=list)
    begun: list[int] = field(default_factory=list)  # line on which each frequency stands
    where: str = "head"  # head, reference, data, noise, information, end
    references: list[float] = field(default_factory=list)
    last_line: int = 0

    def fail(self, line: int, what: str, hint: str = _FIT) -> FileFormatError:
        return FileFormatError(f"{self.name}, line {line}: {what}", hint)

    def take(self, line: int, text: str) -> None:
        if not text:
            return
        self.last_line = line
        if self.where == "end":
            raise self.fail(line, "something stands behind [End].")
        if text.startswith("["):
            self._keyword(line, text)
        elif self.where == "information":
            return
        elif text.startswith("#"):
            self._options(line, text[1:])
        elif self.where == "reference":
            self._reference(line, text)
        elif self.where == "noise":
            list(self._numbers(line, text))
        else:
            self._data(line, text)

    def _options(self, line: int, text: str) -> None:
        if self.options is not None:
            if self.version == 1 and not self.values:
                return  # a second option line is to be left alone
            raise self.fail(line, "a second option line among the data.")
        unit, kind, z0 = 1e9, "ma", 50.0
        words = iter(text.lower().split())
        for word in words:
            if word in _UNITS:
                unit = _UNITS[word]
            elif word in _FORMATS:
                kind = word
            elif word in _OTHER_PARAMETERS:
                raise self.fail(line, f"it holds {word.upper()}-parameters; only S-parameters are read.")
            elif word == "r":
                z0 = next(self._numbers(line, next(words, "nothing")))
            elif word != "s":
                raise self.fail(line, f"“{word}” is unknown in an option line.")
        if not z0 > 0:
            raise self.fail(line, f"a reference impedance of {z0:g} Ω.")
        self.options = unit, kind, z0

    def _keyword(self, line: int, text: str) -> None:
        word, closed, rest = text[1:].partition("]")
        word, rest = " ".join(word.lower().split()), rest.strip()
        if not closed:
            raise self.fail(line, "a keyword lacks its “]”.")
        if word != "version" and self.version == 1:
            raise self.fail(line, f"the keyword [{word}] before [Version] 2.0.")
        if self.where == "information" and word != "end information":
            return
        if word in self.keywords:
            raise self.fail(line, f"[{word}] stands twice.")
        self.keywords[word] = (line, rest)
        self._act(line, word, rest)

    def _act(self, line: int, word: str, rest: str) -> None:
        if word == "version":
            if rest != "2.0" or self.options is not None or self.values:
                raise self.fail(line, f"[Version] “{rest}”; 2.0 is read, as the first line.")
            self.version = 2
        elif word == "number of ports":
            if rest != str(self.ports):
                raise self.fail(line, f"it has {rest} ports, its name says {self.ports}.")
        elif word == "two-port data order":
            if rest not in ("12_21", "21_12"):
                raise self.fail(line, f"an order of “{rest}”; it is 12_21 or 21_12.")
        elif word == "matrix format":
            if rest.lower() not in ("full", "lower", "upper"):
                raise self.fail(line, f"a matrix format of “{rest}”; it is Full, Lower or Upper.")
        elif word == "reference":
            self.where = "reference"
            if rest:
                self._reference(line, rest)
        elif word == "network data":
            self._begin_data(line)
        elif word == "noise data":
            self.where = "noise"
        elif word in ("begin information", "end information"):
            self.where = "information" if word.startswith("begin") else "head"
        elif word == "end":
            self.where = "end"
        elif word not in ("number of frequencies", "number of noise frequencies"):
            raise self.fail(line, f"the keyword [{word}] is not read.")

    def _begin_data(self, line: int) -> None:
        if self.options is None:
            raise self.fail(line, "there is no option line before the data.")
        needed = ("number of ports", "number of frequencies", *(("two-port data order",) if self.ports == 2 else ()))
        missing = next((word for word in needed if word not in self.keywords), "")
        if missing:
            raise self.fail(line, f"[{missing}] is missing before the data.")
        self.where = "data"

    def _reference(self, line: int, text: str) -> None:
        self.references += self._numbers(line, text)
        if len(self.references) >= self.ports:
            self.where = "head"

    def _data(self, line: int, text: str) -> None:
        if self.options is None:
            raise self.fail(line, "there is no option line before the data.")
        if self.version == 2 and self.where != "data":
            raise self.fail(line, "data before [Network Data].")
        row = list(self._numbers(line, text))
        fresh = len(self.values) % self._width == 0
        if fresh and self.version == 1 and self.ports == 2 and len(row) == 5 and self.values:
            if row[0] * self.options[0] > self._frequency(-1):
                raise self.fail(line, "5 numbers where a frequency with 8 values is due.")
            self.where = "noise"
            return
        if fresh:
            self._begin_point(line, row[0])
        if len(self.values) % self._width + len(row) > self._width:
            raise self.fail(line, f"more than {self._width - 1} values for one frequency.")
        self.values += row

    def _begin_point(self, line: int, frequency: float) -> None:
        unit = self.options[0] if self.options else 1.0
        if frequency < 0:
            raise self.fail(line, f"a frequency of {frequency:g}.")
        if self.values and frequency * unit <= self._frequency(-1):
            raise self.fail(line, f"the frequency {frequency:g} doesn't rise above the one before.")
        self.begun.append(line)
        if len(self.begun) > MOST_POINTS:
            raise self.fail(line, f"more than {MOST_POINTS} frequencies.", "Export fewer points.")

    def _frequency(self, point: int) -> float:
        unit = self.options[0] if self.options else 1.0
        return self.values[range(0, len(self.values), self._width)[point]] * unit

    @property
    def _width(self) -> int:
        """Numbers a frequency."""
        p = self.ports
        return 1 + (2 * p * p if self._matrix == "full" else p * (p + 1))

    @property
    def _matrix(self) -> str:
        return self.keywords.get("matrix format", (0, "full"))[1].lower()

    def _numbers(self, line: int, text: str) -> Iterator[float]:
        for word in text.split():
            value = float(word.lower().replace("d", "e")) if _NUMBER.match(word) else math.nan
            if not math.isfinite(value):
                raise self.fail(line, f"“{word[:40]}” is no number.")
            yield value

    def finish(self) -> Touchstone:
        if self.options is None or not self.values:
            raise self.fail(
                self.last_line, "there is no option line." if self.options is None else "there are no data."
            )
        if len(self.values) % self._width:
            raise self.fail(self.begun[-1], f"the last frequency lacks some of its {self._width - 1} values.")
        self._check_version_2()
        unit, kind, z0 = self.options
        rows = np.array(self.values).reshape(-1, self._width)
        scattering = self._matrices(_complex_from(rows[:, 1::2], rows[:, 2::2], kind))
        if not np.all(np.isfinite(scattering)):
            raise self.fail(self.begun[0], "a value is beyond all measure.")
        return Touchstone(rows[:, 0] * unit, scattering, z0, self.where == "noise" or "noise data" in self.keywords)

    def _check_version_2(self) -> None:
        if self.version == 1:
            return
        if self.where != "end":
            raise self.fail(self.last_line, "[End] is missing.", "The file was cut off: export it again.")
        line, stated = self.keywords["number of frequencies"]
        if stated != str(len(self.begun)):
            raise self.fail(line, f"{stated} frequencies are announced, {len(self.begun)} stand there.")
        if self.references:
            if len(self.references) != self.ports or len(set(self.references)) != 1 or self.references[0] <= 0:
                raise self.fail(self.keywords["reference"][0], "its ports have no one reference impedance.")
            if self.options is not None:
                self.options = (*self.options[:2], self.references[0])

    def _matrices(self, pairs: NDArray[np.complex128]) -> NDArray[np.complex128]:
        p = self.ports
        made = np.zeros((pairs.shape[0], p, p), complex)
        if self._matrix != "full":
            places = [(i, j) for i in range(p) for j in (range(i + 1) if self._matrix == "lower" else range(i, p))]
            for number, (i, j) in enumerate(places):
                made[:, i, j] = made[:, j, i] = pairs[:, number]
            return made
        made[:] = pairs.reshape(-1, p, p)
        order = self.keywords.get("two-port data order", (0, "21_12"))[1]
        return made.transpose(0, 2, 1).copy() if p == 2 and order == "21_12" else made


def _complex_from(first: NDArray[np.float64], second: NDArray[np.float64], kind: str) -> NDArray[np.complex128]:
    if kind == "ri":
        return first + 1j * second
    with np.errstate(over="ignore", invalid="ignore"):
        magnitude = first if kind == "ma" else 10.0 ** (first / 20.0)
        return np.asarray(magnitude * np.exp(1j * np.radians(second)))
