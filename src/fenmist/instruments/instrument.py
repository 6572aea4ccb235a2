"""An instrument on a wire: who it is, what it reads, when it has settled. What fails is a value (`Trouble`)."""

import math
import statistics
import time
from collections.abc import Callable, Mapping
from datetime import datetime
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import UnknownIdError
from fenmist.frozen import dataclass
from fenmist.instruments.address import Address
from fenmist.instruments.driver import Driver, Read, filled
from fenmist.instruments.reply import digit_of, number_from, samples_from, text_from
from fenmist.instruments.template import UNIT, VALUE, Template
from fenmist.instruments.trouble import State, Trouble
from fenmist.instruments.wire import Wire
from fenmist.instruments.wirelog import WireLog
from fenmist.units.unit import UNITS

Clock = Callable[[], datetime]


def _now() -> datetime:
    return datetime.now().astimezone()


@dataclass(frozen=True)
class WireReading:
    """One number that an instrument gave."""

    value: float  # in `unit`
    unit: str
    digit: float  # size of its last digit, in `unit`
    raw: str  # the reply as it came
    asked: str
    address: str
    at: datetime  # when it was whole
    took_s: float

    @property
    def text(self) -> str:
        """As it would be typed."""
        return f"{in_digits(self.value, self.digit)} {self.unit}".strip()


def in_digits(value: float, digit: float) -> str:
    """A number to the place of its last digit: 148.84 to 0.001 is “148.840”."""
    if digit <= 0.0:
        return f"{value:.12g}"
    decimals = max(0, -math.floor(math.log10(digit) + 1e-9))
    return f"{value:.{min(decimals, 15)}f}"


@dataclass(frozen=True)
class Settled:
    """Several readings once nothing moved any more."""

    readings: tuple[WireReading, ...]

    @property
    def last(self) -> WireReading:
        """The newest."""
        return self.readings[-1]

    @property
    def si(self) -> float:
        """The mean in the SI unit."""
        return UNITS[self.last.unit].si_from(self.mean)

    @property
    def scatters(self) -> bool:
        """Whether more moves than the last digit between two values."""
        return len({item.value for item in self.readings}) > 2

    @property
    def mean(self) -> float:
        """Of all, in their unit."""
        return statistics.fmean(item.value for item in self.readings)

    @property
    def u(self) -> float:
        """Standard uncertainty of the mean, in the same unit: their scatter over √n, at least the last digit's."""
        count = len(self.readings)
        scatter = statistics.stdev(item.value for item in self.readings) if count > 1 else 0.0
        return math.hypot(scatter / math.sqrt(count), self.last.digit / math.sqrt(12.0))

    @property
    def text(self) -> str:
        """The mean as it would be typed: finer than the last digit only where that moves."""
        digit = self.last.digit
        finer = 10.0 ** math.floor(math.log10(self.u)) if self.scatters and self.u else digit
        seen = 10.0 ** (math.floor(math.log10(abs(self.mean))) - _DIGITS + 1) if self.mean else digit
        return f"{in_digits(self.mean, max(min(digit, finer), seen))} {self.last.unit}".strip()


_DIGITS = 6
"""Digits of a mean that are written down: no instrument of a workshop has more that mean anything."""

ENOUGH = 5
"""Readings that are averaged once it has settled."""

STILL = 3.0
"""Times their noise within which two halves of the latest readings must lie to be called settled."""

LONGEST_S = 20.0
"""After which what still moves is read all the same, and said to be moving."""


class Instrument:
    """One instrument, its driver and its wire.

    Parameters
    ----------
    at : Address
        Where it is.
    driver : Driver
        How it is spoken to.
    clock : callable, optional
        Gives the present with its offset.
    wait : callable, optional
        Waits so many seconds; tests wait for less.
    """

    def __init__(
        self, at: Address, driver: Driver, clock: Clock = _now, wait: Callable[[float], None] = time.sleep
    ) -> None:
        self.at, self.driver = at, driver
        self.log = WireLog(clock)
        self._wire = Wire(at, driver.speech, self.log)
        self._clock, self._wait = clock, wait
        self._said_before: tuple[str, ...] = ()

    def identify(self) -> str | Trouble:
        """Who it says it is; a line of its own of what only sends lines."""
        ask = self.driver.identify.ask
        reply = self._wire.ask(ask) if ask else self._wire.newest_line()
        text = reply if isinstance(reply, Trouble) else text_from(reply)
        if isinstance(text, Trouble):
            return text
        if not text.strip():
            return Trouble(State.GARBLED, "It says nothing about itself.", text)
        words = self.driver.identify.holds
        if words and not any(word.casefold() in text.casefold() for word in words):
            return Trouble(State.GARBLED, f"It says “{text.strip()[:60]}”, which is no {self.driver.kind}.", text)
        return text.strip()

    def read(self, name: str, at: Mapping[str, float]) -> WireReading | Trouble:
        """One reading.

        Parameters
        ----------
        name : str
            Of the driver's readings; raises UnknownIdError where it has none of that name.
        at : mapping
            What fills its commands: `frequency_hz`, `level_w`, …
        """
        item = self._read_named(name)
        said = self._prepare(tuple(filled(one, at) for one in item.before))
        unit = said or self._unit(item)
        if isinstance(unit, Trouble):
            return unit
        begun = time.monotonic()
        asked = filled(item.ask, at)
        reply = self._wire.ask(asked) if asked else self._wire.newest_line()
        text = reply if isinstance(reply, Trouble) else text_from(reply)
        if isinstance(text, Trouble):
            return self._lost(text)
        return self._picked(item, text, unit, asked, time.monotonic() - begun)

    def settle(self, name: str, at: Mapping[str, float], count: int = ENOUGH) -> Settled | Trouble:
        """Read until nothing moves any more, then so many times; the latest ones if it goes on moving too long."""
        item = self._read_named(name)
        self._wait(item.settle_s)
        readings: list[WireReading] = []
        begun = time.monotonic()
        while True:
            one = self.read(name, at)
            if isinstance(one, Trouble):
                return one
            readings.append(one)
            seen = readings[-max(count, ENOUGH) :]
            if len(seen) >= ENOUGH and (settled_by(seen) or time.monotonic() - begun > LONGEST_S):
                return Settled(tuple(readings[-count:]))

    def set(self, name: str, at: Mapping[str, float]) -> Trouble | None:
        """Set something; raises UnknownIdError where the driver can't. Asks whether it was taken, where it can."""
        if name not in self.driver.set:
            raise UnknownIdError(f"{self.driver.title} has nothing that sets “{name}”.", "Add it to its driver.")
        for command in self.driver.set[name]:
            said = self._wire.tell(filled(command, at))
            if said is not None:
                return said
        return self._taken()

    def trace(self) -> "Samples | Trouble":
        """Samples of what an oscilloscope shows; raises UnknownIdError where its driver fetches none."""
        fetch = self.driver.trace
        if fetch is None:
            raise UnknownIdError(f"{self.driver.title} gives no samples.", "Add a trace to its driver.")
        said = self._prepare(fetch.before)
        if said is not None:
            return said
        reply = self._wire.ask(fetch.ask) if fetch.form == "ascii" else self._wire.ask_block(fetch.ask)
        values = reply if isinstance(reply, Trouble) else samples_from(reply, fetch.form)
        if isinstance(values, Trouble):
            return self._lost(values)
        spoken = self._wire.ask(fetch.preamble)
        text = spoken if isinstance(spoken, Trouble) else text_from(spoken)
        if isinstance(text, Trouble):
            return text
        found = Template(fetch.step).picked(text)
        step = number_from(found[VALUE]) if found else Trouble(State.GARBLED, "Its preamble looks otherwise.", text)
        if isinstance(step, Trouble):
            return step
        if step <= 0.0 or values.size < _FEWEST:
            return Trouble(State.GARBLED, f"It gave {values.size} samples {step:g} s apart.", text)
        return Samples(values * fetch.volts, step, self._clock())

    def sweep(self, start_hz: float, stop_hz: float, points: int) -> "Reflection | Trouble":
        """Γ over frequency; raises UnknownIdError where its driver sweeps nothing."""
        fetch = self.driver.sweep
        if fetch is None:
            raise UnknownIdError(f"{self.driver.title} sweeps nothing.", "Add a sweep to its driver.")
        at = {"start_hz": start_hz, "stop_hz": stop_hz, "points": float(points)}
        said = self._prepare(tuple(filled(one, at) for one in fetch.before))
        if said is not None:
            return said
        found = []
        for ask in (fetch.frequencies, fetch.ask):
            reply = self._wire.ask(ask)
            values = reply if isinstance(reply, Trouble) else samples_from(reply, "ascii")
            if isinstance(values, Trouble):
                return values
            found.append(values)
        frequencies, parts = found
        if parts.size != 2 * frequencies.size or not np.all(np.diff(frequencies) > 0.0):
            return Trouble(State.GARBLED, f"It gave {frequencies.size} frequencies and {parts.size} numbers.")
        return Reflection(frequencies, parts[0::2] + 1j * parts[1::2], self._clock())

    def stop(self) -> None:
        """Give up what is being waited for, from any thread."""
        self._wire.stop()

    def go(self) -> None:
        """Be ready again."""
        self._wire.go()

    def close(self) -> None:
        """Let go of the wire."""
        self._said_before = ()
        self._wire.close()

    # inside

    def _read_named(self, name: str) -> Read:
        if name not in self.driver.read:
            known = ", ".join(self.driver.read) or "nothing"
            raise UnknownIdError(f"{self.driver.title} reads no “{name}”.", f"It reads {known}.")
        return self.driver.read[name]

    def _prepare(self, commands: tuple[str, ...]) -> Trouble | None:
        """Say what goes before, unless it was the last thing said and the wire has held since."""
        if commands == self._said_before:
            return None
        for command in commands:
            said = self._wire.tell(command)
            if said is not None:
                return self._lost(said)
        taken = self._taken() if commands else None
        self._said_before = commands if taken is None else ()
        return taken

    def _taken(self) -> Trouble | None:
        """Whether it took what it was told, where it can be asked."""
        if not self.driver.errors:
            return None
        reply = self._wire.ask(self.driver.errors)
        text = reply if isinstance(reply, Trouble) else text_from(reply)
        if isinstance(text, Trouble):
            return text
        number = number_from(text.split(",")[0])
        if isinstance(number, Trouble):
            return number
        return None if number == 0.0 else Trouble(State.REFUSED, f"It says {text.strip()[:80]}.", text)

    def _unit(self, item: Read) -> str | Trouble:
        if not item.unit_ask:
            return item.unit
        reply = self._wire.ask(item.unit_ask)
        text = reply if isinstance(reply, Trouble) else text_from(reply)
        if isinstance(text, Trouble):
            return self._lost(text)
        return _ours(item, text.strip(), text)

    def _picked(self, item: Read, text: str, unit: str, asked: str, took_s: float) -> WireReading | Trouble:
        found = Template(item.reply).picked(text)
        if found is None:
            return self._lost(Trouble(State.GARBLED, f"“{text.strip()[:60]}” isn't “{item.reply}”.", text))
        value = number_from(found[VALUE])
        if isinstance(value, Trouble):
            said = Trouble(value.state, value.what, text)
            return said if said.state is State.OVERRANGE else self._lost(said)
        spoken = _ours(item, found[UNIT], text) if UNIT in found else unit
        if isinstance(spoken, Trouble):
            return spoken
        if spoken not in UNITS:
            return Trouble(State.WRONG_UNIT, f"It gives no unit that is known (“{spoken}”).", text)
        digit = digit_of(found[VALUE]) * abs(item.times)
        return WireReading(value * item.times, spoken, digit, text, asked, self.at.resource, self._clock(), took_s)

    def _lost(self, trouble: Trouble) -> Trouble:
        """What was said before may not hold any more, and what else is on its way belongs to no question."""
        self._said_before = ()
        if trouble.state in (State.GARBLED, State.BROKEN_OFF):
            self._wire.close()
        return trouble


_FEWEST = 16
"""Samples from which a trace begins."""


@dataclass(frozen=True, eq=False)
class Samples:
    """A trace from an oscilloscope."""

    volts: NDArray[np.float64]  # shape (n,)
    step_s: float
    at: datetime

    def csv(self, instrument: str) -> str:
        """As a capture's file."""
        rows = "\n".join(f"{n * self.step_s:.9g},{value:.9g}" for n, value in enumerate(self.volts.tolist()))
        head = f"Sample interval,{self.step_s:.12g}\nInstrument,{instrument.replace(',', ' ')}\n"
        return f"{head}Taken,{self.at.isoformat()}\ntime,CH1\ns,V\n{rows}\n"


@dataclass(frozen=True, eq=False)
class Reflection:
    """A sweep from an analyser."""

    frequency_hz: NDArray[np.float64]  # shape (n,), ascending
    gamma: NDArray[np.complex128]  # shape (n,)
    at: datetime

    def touchstone(self, instrument: str, z0_ohm: float = 50.0) -> str:
        """As a file of one port (Touchstone 1.1)."""
        rows = zip(self.frequency_hz.tolist(), self.gamma.tolist(), strict=True)
        lines = "\n".join(f"{f:.9g} {g.real:.8f} {g.imag:.8f}" for f, g in rows)
        return f"! {instrument}, {self.at.isoformat()}\n# HZ S RI R {z0_ohm:g}\n{lines}\n"


def _ours(item: Read, word: str, text: str) -> str | Trouble:
    """Our unit for an instrument's word."""
    known = {theirs.casefold(): ours for theirs, ours in item.units.items()}
    found = known.get(word.casefold())
    if found is None:
        return Trouble(State.WRONG_UNIT, f"It answers in “{word[:20]}”; known are {', '.join(item.units)}.", text)
    return found


def settled_by(readings: list[WireReading]) -> bool:
    """Whether the second half of some readings lies where the first does, by their noise from one to the next.

    Noise is the median difference of neighbours over 0.954 (of normal noise: 0.6745·√2 of its deviation): scatter
    about the mean would be the trend's own, and one jump would count for all.
    """
    values = [item.value for item in readings]
    half = len(values) // 2
    first, second = statistics.fmean(values[:half]), statistics.fmean(values[-half:])
    noise = statistics.median(abs(b - a) for a, b in pairwise(values)) / 0.954
    return abs(second - first) <= max(STILL * noise / math.sqrt(half), readings[-1].digit)
