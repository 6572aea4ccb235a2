"""What Fenmist knows of one kind of instrument on a wire: a file that people can read, change and share.

A driver names commands and patterns and can do nothing else. It is checked when it is read; what is wrong with it is
said with the line.
"""

import re
import tomllib
from collections.abc import Mapping
from dataclasses import field, fields
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Any

import msgspec

from fenmist.errors import FenmistError, FileFormatError, UnknownIdError, UnreadableError
from fenmist.files.bounded import bytes_of
from fenmist.frozen import dataclass
from fenmist.instruments.reply import FORMS
from fenmist.instruments.template import UNIT, Template
from fenmist.instruments.wire import Speech
from fenmist.measurand import Kind
from fenmist.units.unit import UNITS

FORMAT = 1
ENDING = ".toml"
MOST_BYTES = 64_000
LONGEST_COMMAND = 160

KINDS = (
    "oscilloscope", "power meter", "RF voltmeter", "RF ammeter", "generator", "DC supply", "analyser", "line meter",
)  # fmt: skip
"""What a driver can be for."""

ENDS = {"LF": b"\n", "CR": b"\r", "CRLF": b"\r\n"}

PLACES = {
    "frequency_hz": "{:.0f}", "level_dbm": "{:.3f}", "level_w": "{:.6g}", "start_hz": "{:.0f}", "stop_hz": "{:.0f}",
    "points": "{:.0f}",
}  # fmt: skip
"""What a command may hold in braces, and how it is written."""

_PLACE = re.compile(r"\{([^{}]*)\}")


@dataclass(frozen=True)
class Manner:
    """How the wire is spoken."""

    end: str = "LF"
    timeout_s: float = 2.0
    baud: int = 9600


@dataclass(frozen=True)
class Identify:
    """Who is there."""

    ask: str = ""
    holds: tuple[str, ...] = ()  # words of which its answer has one; none: any answer will do


@dataclass(frozen=True)
class Read:
    """One thing that can be read."""

    quantity: Kind
    unit: str = ""  # of the number in the reply
    ask: str = ""  # nothing: it sends lines by itself
    reply: str = "{value}"
    indicator: str = ""  # of a part that shows several things of one quantity
    before: tuple[str, ...] = ()  # said first, once for each frequency
    unit_ask: str = ""  # asks in which unit it answers
    units: Mapping[str, str] = field(default_factory=dict)  # its word for a unit, and ours
    times: float = 1.0  # units in one count
    settle_s: float = 0.3  # after the carrier or the frequency has changed


@dataclass(frozen=True)
class Trace:
    """Samples that can be fetched."""

    ask: str
    form: str = "ascii"
    before: tuple[str, ...] = ()
    preamble: str = ""  # asks for the time between samples
    step: str = "{value}"  # picks it
    volts: float = 1.0  # in one count


@dataclass(frozen=True)
class Sweep:
    """Reflection over frequency."""

    ask: str  # real and imaginary parts in turn, commas between
    frequencies: str
    before: tuple[str, ...] = ()


@dataclass(frozen=True)
class Driver:
    """Everything in one file."""

    fenmist_driver: int
    kind: str
    title: str
    wire: Manner = field(default_factory=Manner)
    identify: Identify = field(default_factory=Identify)
    read: Mapping[str, Read] = field(default_factory=dict)
    set: Mapping[str, tuple[str, ...]] = field(default_factory=dict)  # "level", "frequency", "on", "off", "zero"
    trace: Trace | None = None
    sweep: Sweep | None = None
    errors: str = ""  # asks whether what was set was taken; "0" at the head of the answer says so

    @property
    def speech(self) -> Speech:
        """As its wire takes it."""
        return Speech(ENDS[self.wire.end], self.wire.timeout_s, self.wire.baud)

    def read_of(self, quantity: Kind, indicator: str = "") -> str:
        """Name of the reading of a quantity, of a given indicator where it has several; empty where it has none."""
        fitting = [name for name, item in self.read.items() if item.quantity is quantity]
        exact = [name for name in fitting if self.read[name].indicator in ("", indicator)]
        return (exact or [""])[0]


SETTINGS = ("level", "frequency", "on", "off", "zero")
"""What can be set."""


def driver_from_bytes(data: bytes, name: str) -> Driver:
    """Read a driver's file.

    Raises
    ------
    FileFormatError
        With the file, the line, and the reason.
    """
    try:
        text = data.decode("utf-8")
        table = tomllib.loads(text)
    except UnicodeDecodeError as error:
        line = data[: error.start].count(b"\n") + 1
        raise FileFormatError(f"{name}, line {line}: it isn't UTF-8 text.", "Save it as UTF-8.") from error
    except tomllib.TOMLDecodeError as error:
        raise FileFormatError(f"{name}: {error}.", "Mend that line; a driver is a TOML file.") from error
    renamed = {key.replace("-", "_") if key == "fenmist-driver" else key: value for key, value in table.items()}
    reads = renamed.get("read")
    for key, value in reads.items() if isinstance(reads, dict) else ():
        _typed(text, name, ["read", key], value, Read)  # by itself, so that its name is known
    found: Driver = _typed(text, name, [], renamed, Driver)
    _unknown(text, name, renamed)
    _checked(text, name, found)
    return found


def _typed(text: str, name: str, path: list[str], value: object, kind: Any) -> Any:
    try:
        return msgspec.convert(value, kind, strict=True)
    except msgspec.ValidationError as error:
        said, _, where = str(error).partition(" - at `$")
        raise _wrong(text, name, [*path, *where.rstrip("`").strip(".").split(".")], f"{said}.") from error


def _wrong(text: str, name: str, path: list[str], why: str, hint: str = "") -> FileFormatError:
    """The error at a key, with the line it stands in."""
    where = ".".join(item for item in path if item)
    line = _line_of(text, path)
    place = f"{name}, line {line}" if line else name
    about = f" “{where}”:" if where else ""
    return FileFormatError(f"{place}:{about} {why}", hint or "Compare it with a driver that ships with Fenmist.")


def _line_of(text: str, path: list[str]) -> int:
    """The line in which a key stands, its table's where it isn't there; 0 where neither is."""
    keys = [re.sub(r"\[\.*\d*\.*\]$", "", item) for item in path if item]
    table, at, best = "", 0, 0
    for number, line in enumerate(text.splitlines(), 1):
        head = re.match(r"\s*\[([^\]]+)\]", line)
        if head:
            table = head[1].strip()
            best = number if table == ".".join(keys[: len(table.split("."))]) and table else best
            continue
        key = re.match(r"\s*([A-Za-z0-9_-]+)\s*=", line)
        if key and [*(table.split(".") if table else []), key[1].replace("-", "_")] == [
            item.replace("-", "_") for item in keys
        ]:
            at = number
    return at or best


_KNOWN: Mapping[str, Any] = {"wire": Manner, "identify": Identify, "trace": Trace, "sweep": Sweep}


def _unknown(text: str, name: str, table: Mapping[str, object]) -> None:
    """A word that means nothing is a slip that would pass unseen."""
    places: list[tuple[list[str], object, Any]] = [([], table, Driver)]
    places += [([key], table[key], kind) for key, kind in _KNOWN.items() if key in table]
    reads = table.get("read")
    if isinstance(reads, dict):
        places += [(["read", key], value, Read) for key, value in reads.items()]
    for path, value, kind in places:
        allowed = tuple(item.name for item in fields(kind))
        for key in value if isinstance(value, dict) else ():
            if key not in allowed:
                raise _wrong(text, name, [*path, key], "no driver knows this.", f"It knows {', '.join(allowed)}.")
    for key in table.get("set", {}) if isinstance(table.get("set"), dict) else ():  # type: ignore[attr-defined]
        if key not in SETTINGS:
            raise _wrong(text, name, ["set", key], "nothing sets this.", f"There are {', '.join(SETTINGS)}.")


def _checked(text: str, name: str, driver: Driver) -> None:
    """Everything that its types don't say."""

    def must(holds: bool, path: list[str], why: str, hint: str = "") -> None:
        if not holds:
            raise _wrong(text, name, path, why, hint)

    must(driver.fenmist_driver == FORMAT, ["fenmist_driver"], f"this Fenmist reads format {FORMAT}.")
    must(driver.kind in KINDS, ["kind"], f"“{driver.kind}” is no kind of instrument.", f"Known: {', '.join(KINDS)}.")
    must(bool(driver.title.strip()), ["title"], "it is empty.")
    must(driver.wire.end in ENDS, ["wire", "end"], "a line ends with LF, CR or CRLF.")
    must(0.05 <= driver.wire.timeout_s <= 60.0, ["wire", "timeout_s"], "it lies between 0.05 and 60 s.")
    must(50 <= driver.wire.baud <= 4_000_000, ["wire", "baud"], "no serial port runs at that rate.")
    for path, command in _commands(driver):
        why = _command_trouble(command)
        must(not why, path, why)
    for key, item in driver.read.items():
        path = ["read", key]
        must(item.unit in UNITS or bool(item.units), [*path, "unit"], f"“{item.unit}” is no unit.")
        must(all(ours in UNITS for ours in item.units.values()), [*path, "units"], "one of them is no unit of ours.")
        must(0.0 <= item.settle_s <= 600.0, [*path, "settle_s"], "it lies between 0 and 600 s.")
        must(item.times != 0.0, [*path, "times"], "it can't be 0.")
        names_unit = f"{{{UNIT}}}" in item.reply
        must(not (names_unit or item.unit_ask) or bool(item.units), [*path, "units"], "it names none of its units.")
        _template(text, name, [*path, "reply"], item.reply)
    if driver.trace is not None:
        must(driver.trace.form in (*FORMS, "ascii"), ["trace", "form"], f"there are {', '.join(FORMS)} and ascii.")
        must(bool(driver.trace.preamble), ["trace", "preamble"], "without it nobody knows the time between samples.")
        _template(text, name, ["trace", "step"], driver.trace.step)


def _template(text: str, name: str, path: list[str], pattern: str) -> None:
    try:
        Template(pattern)
    except UnreadableError as error:
        raise _wrong(text, name, path, error.headline, error.hint) from error


def _commands(driver: Driver) -> list[tuple[list[str], str]]:
    found = [(["identify", "ask"], driver.identify.ask), (["errors"], driver.errors)]
    for key, item in driver.read.items():
        found += [(["read", key, "ask"], item.ask), (["read", key, "unit_ask"], item.unit_ask)]
        found += [(["read", key, "before"], one) for one in item.before]
    found += [(["set", key], one) for key, commands in driver.set.items() for one in commands]
    if driver.trace is not None:
        found += [(["trace", "ask"], driver.trace.ask), (["trace", "preamble"], driver.trace.preamble)]
        found += [(["trace", "before"], one) for one in driver.trace.before]
    if driver.sweep is not None:
        found += [(["sweep", "ask"], driver.sweep.ask), (["sweep", "frequencies"], driver.sweep.frequencies)]
        found += [(["sweep", "before"], one) for one in driver.sweep.before]
    return found


def _command_trouble(command: str) -> str:
    if len(command) > LONGEST_COMMAND:
        return f"a command has at most {LONGEST_COMMAND} characters."
    if not command.isascii() or (command and not command.isprintable()):
        return "a command is plain ASCII in one line."
    unknown = next((item for item in _PLACE.findall(command) if item not in PLACES), None)
    return f"nothing fills in “{{{unknown}}}”; there are {', '.join(PLACES)}." if unknown is not None else ""


def filled(command: str, values: Mapping[str, float]) -> str:
    """A command with its places filled in; raises UnknownIdError where a value is missing.

    >>> filled("SOUR:FREQ {frequency_hz} HZ", {"frequency_hz": 14.2e6})
    'SOUR:FREQ 14200000 HZ'
    """

    def value(match: "re.Match[str]") -> str:
        if match[1] not in values:
            raise UnknownIdError(f"Nothing says what “{match[0]}” is here.", "Read it at a point of a plan.")
        return PLACES[match[1]].format(values[match[1]])

    return _PLACE.sub(value, command)


# those at hand


@cache
def shipped() -> Mapping[str, Driver]:
    """The drivers that ship with Fenmist, by name."""
    folder = resources.files("fenmist").joinpath("resources", "drivers")
    files = sorted((item for item in folder.iterdir() if item.name.endswith(ENDING)), key=lambda item: item.name)
    return {item.name.removesuffix(ENDING): driver_from_bytes(item.read_bytes(), item.name) for item in files}


@dataclass(frozen=True)
class Found:
    """Drivers at hand, and what is wrong with files that are none."""

    drivers: Mapping[str, Driver]
    wrong: tuple[FenmistError, ...] = ()


def drivers_in(folder: Path) -> Found:
    """The shipped drivers and a folder's own, which go before those of the same name."""
    found, wrong = dict(shipped()), []
    for path in sorted(folder.glob(f"*{ENDING}")) if folder.is_dir() else ():
        try:
            found[path.stem] = driver_from_bytes(bytes_of(path, MOST_BYTES, "A driver is a page of text."), path.name)
        except FileFormatError as error:
            wrong.append(error)
    return Found(found, tuple(wrong))
