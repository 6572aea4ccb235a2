"""Instruments on wires: where each is, which part of the kit it is, what it said last, and whether to believe it.

Nothing here waits for a wire: requests are frozen callables that a worker runs, and what came of them is handed back.
"""

import math
import re
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING
from uuid import uuid4

import msgspec

from fenmist.calibration.job import Job
from fenmist.errors import OutOfRangeError, RecordError, UnknownIdError, UnreadableError, UnwritableError
from fenmist.files.whole import write_whole
from fenmist.frozen import dataclass
from fenmist.hookup.line import source_of as head_of
from fenmist.kit.part import Part, PartKind
from fenmist.records.store import Logbook
from fenmist.session.listeners import Listeners
from fenmist.units.display import plain
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

if TYPE_CHECKING:  # a job that is read by hand needs none of them
    from fenmist.instruments.driver import Driver, Found
    from fenmist.instruments.instrument import Instrument, WireReading
    from fenmist.instruments.trouble import Trouble
    from fenmist.session.autorun import AutoRun

_KEY = "wires"

_IDENTITY_FIELDS = 4

LIVE_S = 3.0
"""Age up to which a reading is called live (Fenmist's own)."""


@dataclass(frozen=True)
class Attached:
    """One instrument on a wire."""

    id: str
    address: str
    driver: str
    part: str = ""  # of the kit: what it reads is that part's
    is_simulated: bool = False  # a stand-in: gone with its bench


@dataclass(frozen=True)
class Live:
    """What is known of one at this moment."""

    identity: str = ""
    reading: "WireReading | None" = None  # the last one that was one
    trouble: "Trouble | None" = None  # since then
    is_heard: bool = False  # it did what it was told

    @property
    def has_answered(self) -> bool:
        """Whether it ever said anything that was understood."""
        return bool(self.identity) or self.reading is not None or self.is_heard

    @property
    def says_something(self) -> bool:
        """Whether there is more to tell than that it wasn't asked yet."""
        return self != Live()

    @property
    def name(self) -> str:
        """What it calls itself: model and serial of an identity's four fields (IEEE 488.2, 10.14); else nothing."""
        fields = [field.strip() for field in self.identity.split(",")]
        return f"{fields[1]} {fields[2]}" if len(fields) == _IDENTITY_FIELDS else ""

    def text(self, now: datetime) -> str:
        """Its flag: the reading with its age, or what is wrong."""
        if self.trouble is not None:
            return f"▲ {self.trouble.state}"
        if self.reading is None:
            return "answers" if self.has_answered else "not asked yet"
        seconds = max((now - self.reading.at).total_seconds(), 0.0)
        age = "live" if seconds <= LIVE_S else f"{ago(seconds)} ago"
        return f"{shown(self.reading)}, {age}"


def shown(reading: "WireReading") -> str:
    """A reading as a flag has room for: four digits."""
    return plain(reading.value, reading.unit, 4)


def ago(seconds: float) -> str:
    """A span of time in one unit."""
    for unit, size in (("h", 3600.0), ("min", 60.0)):
        if seconds >= size:
            return f"{seconds / size:.0f} {unit}"
    return f"{seconds:.0f} s"


class Wires:
    """All of them.

    Parameters
    ----------
    logbook : Logbook
        Remembers where they are.
    folder : Path
        Where the workshop's own drivers lie.
    clock : callable
        Gives the present.
    """

    def __init__(self, logbook: Logbook, folder: Path, clock: Callable[[], datetime]) -> None:
        self._logbook, self.folder, self.clock = logbook, folder, clock
        self.changed = Listeners()
        self._drivers: Found | None = None
        self.attached = self._kept()
        self._instruments: dict[str, Instrument] = {}
        self._live: dict[str, Live] = {}
        self.run: AutoRun | None = None  # the run by wire that is under way
        self.said = ""  # of it, or how the last one ended
        self.keeps_watching = False  # on the bench, too
        self.arranged: dict[str, str] = {}  # how a simulated bench of the job stands; of others nobody knows

    def _kept(self) -> tuple[Attached, ...]:
        try:
            return msgspec.json.decode(self._logbook.setting(_KEY, "[]").encode(), type=tuple[Attached, ...])
        except (msgspec.DecodeError, ValueError):
            return ()

    @property
    def drivers(self) -> "Found":
        """Drivers at hand; files that are none are told, too."""
        if self._drivers is None:
            from fenmist.instruments.driver import drivers_in

            self._drivers = drivers_in(self.folder)
        return self._drivers

    def read_drivers(self) -> "Found":
        """Read the folder anew: a driver may have been changed by hand."""
        self._drivers = None
        for item in self._instruments.values():
            item.close()
        self._instruments.clear()
        self.changed.tell()
        return self.drivers

    def keep_driver(self, path: Path) -> None:
        """Check a driver's file and keep it in the folder.

        Raises
        ------
        FileFormatError
            With the line and the reason; nothing is kept then.
        UnwritableError
            Where the folder can't be written.
        """
        from fenmist.files.bounded import bytes_of
        from fenmist.instruments.driver import MOST_BYTES, driver_from_bytes

        data = bytes_of(path, MOST_BYTES, "A driver is a page of text.")
        driver_from_bytes(data, path.name)
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise UnwritableError(f"{self.folder} can't be made: {error.strerror}.", "Look at its rights.") from error
        write_whole(self.folder / path.name, lambda: data)
        self.read_drivers()

    # which there are

    def add(self, text: str, driver: str, part: str = "", *, is_simulated: bool = False) -> Attached:
        """Attach an instrument.

        Raises
        ------
        UnreadableError
            Where the address can't be read.
        UnknownIdError
            Where there is no such driver.
        OutOfRangeError
            Where that address is taken.
        """
        from fenmist.instruments.address import address

        at = address(text)
        if driver not in self.drivers.drivers:
            raise UnknownIdError(f"There is no driver “{driver}”.", f"There are {', '.join(self.drivers.drivers)}.")
        typed = text.strip() if at.is_serial else at.resource
        if any(item.address == typed for item in self.attached):
            raise OutOfRangeError(f"There is an instrument at {at.short} already.", "Remove that one first.")
        made = Attached(uuid4().hex, typed, driver, "", is_simulated)
        self._set((*self.attached, made))
        return self.assign(made.id, part) if part else made

    def remove(self, instrument_id: str) -> None:
        """Detach one; nothing that was read by it is touched."""
        self.let_go(instrument_id)
        self._set(tuple(item for item in self.attached if item.id != instrument_id))

    def remove_simulated(self) -> None:
        """Detach every stand-in."""
        self.arranged = {}
        for item in self.attached:
            if item.is_simulated:
                self.remove(item.id)

    def assign(self, instrument_id: str, part: str) -> Attached:
        """Say which part of the kit it is; another that was that part isn't any more. An empty id: none."""
        changed = replace(self.item(instrument_id), part=part)
        others = {item.id: replace(item, part="") if part and item.part == part else item for item in self.attached}
        self._set(tuple({**others, instrument_id: changed}.values()))
        return changed

    def item(self, instrument_id: str) -> Attached:
        """The one of that id; raises UnknownIdError."""
        found = next((item for item in self.attached if item.id == instrument_id), None)
        if found is None:
            raise UnknownIdError("That instrument is no longer attached.", "Add it again.")
        return found

    def of_part(self, part: str) -> Attached | None:
        """The instrument that is a part of the kit, if one is."""
        return next((item for item in self.attached if part and item.part == part), None)

    def driver_of(self, item: Attached) -> "Driver | None":
        """Its driver; none where the file is gone."""
        return self.drivers.drivers.get(item.driver)

    def _set(self, attached: tuple[Attached, ...]) -> None:
        self.attached = attached
        kept = tuple(item for item in attached if not item.is_simulated)
        with suppress(RecordError):  # a logbook that can't be written is no reason to stop
            self._logbook.set_setting(_KEY, msgspec.json.encode(kept).decode())
        self.changed.tell()

    # what they say

    def instrument(self, instrument_id: str) -> "Instrument":
        """The wire of one, ready to be asked; raises UnknownIdError where its driver is gone."""
        if instrument_id not in self._instruments:
            item = self.item(instrument_id)
            driver = self.driver_of(item)
            if driver is None:
                raise UnknownIdError(f"The driver “{item.driver}” is gone.", f"Put its file back into {self.folder}.")
            from fenmist.instruments.address import address
            from fenmist.instruments.instrument import Instrument

            self._instruments[instrument_id] = Instrument(address(item.address), driver, self.clock)
        return self._instruments[instrument_id]

    def log(self, instrument_id: str) -> tuple[str, ...]:
        """What was said on a wire, the newest last."""
        made = self._instruments.get(instrument_id)
        return tuple(str(line) for line in made.log.lines) if made else ()

    def live(self, instrument_id: str) -> Live:
        """What is known of one now."""
        return self._live.get(instrument_id, Live())

    def took(self, instrument_id: str, came: object) -> None:
        """What came of a request: a reading, who it is, trouble; of anything else only that it was heard."""
        from fenmist.instruments.instrument import Settled, WireReading
        from fenmist.instruments.trouble import Trouble

        known = self.live(instrument_id)
        if isinstance(came, Trouble):
            made = replace(known, trouble=came)
        elif isinstance(came, str):
            made = replace(known, identity=came, trouble=None)
        elif isinstance(came, Settled | WireReading):
            made = replace(known, reading=came.last if isinstance(came, Settled) else came, trouble=None)
        else:
            # what it showed before it was told something else is no longer what it shows
            made = replace(known, trouble=None, is_heard=True, reading=None if came is None else known.reading)
        if made != known:
            self._live[instrument_id] = made
            self.changed.tell()

    def tell_age(self) -> None:
        """Time has passed: flags tell another age."""
        self.changed.tell()

    def show_run(self, run: "AutoRun | None", said: str) -> None:
        """A run begins, goes on or ends."""
        self.run, self.said = run, said
        self.changed.tell()

    def let_go(self, instrument_id: str) -> None:
        """Close one's wire; it opens by itself when something is asked again."""
        made = self._instruments.pop(instrument_id, None)
        self._live.pop(instrument_id, None)
        if made is not None:
            made.stop()
            made.close()

    def close(self) -> None:
        """Close every wire."""
        for item in self.attached:
            self.let_go(item.id)

    # for a job

    def reads(self, job: Job, channel: str) -> tuple[Attached, str] | None:
        """Which instrument reads a channel of a job, and by which of its readings; none where a person does."""
        item = self.of_part(job.part_read(channel).id)
        driver = self.driver_of(item) if item is not None else None
        if item is None or driver is None:
            return None
        shows = job.indicator(channel)
        name = driver.read_of(shows.quantity, shows.id)
        return (item, name) if name else None

    def source_of(self, job: Job, hookup: str) -> Attached | None:
        """The instrument that keys the source of a hook-up; none where a person does."""
        found = next((item for item in job.hookups if item.id == hookup), job.bench)
        element = head_of(found, job.parts)
        item = self.of_part(found.element(element).part) if element else None
        driver = self.driver_of(item) if item is not None else None
        return item if driver is not None and {"on", "off"} <= set(driver.set) else None

    def first_read(self, instrument_id: str) -> str:
        """The reading that is shown of an instrument while nothing in particular is asked; empty where it has none."""
        driver = self.driver_of(self.item(instrument_id))
        return next(iter(driver.read), "") if driver else ""


def span_from_text(text: str) -> tuple[float, float, int]:
    """A span and a number of points, as “1 to 60 MHz, 201”: Hz, Hz, points.

    Raises
    ------
    UnreadableError
        Says what is missing.

    >>> span_from_text("1 to 60 MHz, 201")
    (1000000.0, 60000000.0, 201)
    """
    match = re.fullmatch(r"\s*(\S+)\s*(?:to|-|–)\s*(\S+?)\s*([kMG]?Hz)\s*[,;]\s*(\d+)\s*", text)
    if match is None:
        raise UnreadableError(f"“{text}” is no span with points.", "Write “1 to 60 MHz, 201”.")
    unit = UNITS[match[3]]
    low, high = (value_from_text(part, unit, "span", "1 to 60 MHz, 201") for part in (match[1], match[2]))
    points = int(match[4])
    if not 0.0 < low < high or not 2 <= points <= MOST_POINTS:
        raise UnreadableError(f"“{text}” can't be swept.", f"From low to high, 2 to {MOST_POINTS} points.")
    return low, high, points


MOST_POINTS = 2001

_DRIVERS = {
    "oscilloscope": "scpi-oscilloscope", "power meter": "scpi-power-meter", "RF voltmeter": "scpi-voltmeter",
    "RF ammeter": "scpi-ammeter", "generator": "scpi-generator", "DC supply": "scpi-supply",
    "analyser": "scpi-analyser", "line meter": "line-meter",
}  # fmt: skip


def driver_for(kind: str, kit: Sequence[Part], part: str) -> str:
    """The shipped driver for a stand-in of a kind; a home-built meter sends counts."""
    is_built = any(item.id == part and item.kind is PartKind.HOME_BUILT for item in kit)
    return "line-counts" if is_built else _DRIVERS[kind]


def context(frequency_hz: float, level_w: float) -> Mapping[str, float]:
    """What fills the places of commands at a point."""
    return {
        "frequency_hz": frequency_hz, "level_w": level_w,
        "level_dbm": 10.0 * math.log10(level_w * 1e3) if level_w > 0.0 else -100.0,
    }  # fmt: skip
