"""Power against time, without a bench: typed, or from a captured envelope; a frozen request, call it for the answer.

Straight between readings: lowest, highest, mean over time, time above a level. Beside the SWR it tells fold-back: power
that falls while the SWR rises. Page: docs/method/against-time.md.
"""

import math
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import numpy as np

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.findings.note import Note, Severity, in_order
from fenmist.frozen import dataclass
from fenmist.units.display import plain
from fenmist.units.typed import value_from_text, values_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.capture import trace_columns
from fenmist.waveform.demodulate import demodulated
from fenmist.waveform.series import Series
from fenmist.waveform.tracefile import Given, capture_from_bytes, file_bytes

MOST = 2000
"""Values that are kept of a capture: the highest of each even piece of it."""

FOLDS = -0.7
"""Correlation of ln P with SWR from which power is said to fall as the match gets worse (Fenmist's own)."""

FALLS = 0.8
"""Lowest over highest power above which nothing has folded back (Fenmist's own)."""

TUNERS_W = (10.0, 20.0)
"""What tuners want at least, one kind and the other (handbook 5; common practice, no source)."""


@dataclass(frozen=True)
class Band:
    """One course: a tuner hunts anew on each band."""

    name: str  # nothing where there is only one
    series: Series
    swr: tuple[float, ...]

    @property
    def at(self) -> str:
        """Behind what is said of it, where there are several."""
        return f" at {self.name}" if self.name else ""


@dataclass(frozen=True)
class AgainstTimeAnswer:
    """What a series says, or several of different bands."""

    bands: tuple[Band, ...]
    limit_w: float
    most_w: float | None  # none where nobody says
    notes: tuple[Note, ...]

    @property
    def worst(self) -> Band:
        """The one that has enough for the smallest part of its time."""
        return min(self.bands, key=lambda band: self.above(band) / (band.series.span_s or 1.0))

    @property
    def series(self) -> Series:
        """Of that one."""
        return self.worst.series

    @property
    def above_s(self) -> float:
        """Time it has enough."""
        return self.above(self.worst)

    def above(self, band: Band) -> float:
        """Time above the limit on a band."""
        return band.series.seconds_above(self.limit_w)


@dataclass(frozen=True)
class AgainstTimeRequest:
    """Times and powers as typed, or a file with a captured envelope and the power of its highest; SWRs beside them."""

    times: str  # or a file's name
    powers: str
    limit: str = "10 W"
    swr: str = ""
    step: str = ""  # time between a file's samples, where it doesn't say it
    most: str = ""  # what a tuner bears while it hunts, W
    band: str = ""  # name of that course
    more: tuple[str, ...] = ()  # other bands, each as “3.6 MHz: 0 0.5 1 2 s; 14 6 22 30 W”

    def __call__(self) -> AgainstTimeAnswer:
        """The answer; raises UnreadableError, OutOfRangeError, FileFormatError."""
        limit = value_from_text(self.limit, UNITS["W"], "level", "10 W")
        if limit <= 0.0:
            raise OutOfRangeError("A level is above 0.", "Type for example 10 W.")
        most = value_from_text(self.most, UNITS["W"], "most", "100 W") if self.most.strip() else math.inf
        if most <= limit:
            raise OutOfRangeError("More is asked for than it bears.", "The most lies above the least.")
        first = self._course(self.band.strip() or ("the first" if self.more else ""), self.times, self.powers, self.swr)
        bands = (first, *(self._course(*_parted(line)) for line in self.more))
        notes = tuple(note for band in bands for note in (*_notes(band, limit), *_too_much(band, most)))
        return AgainstTimeAnswer(bands, limit, most if math.isfinite(most) else None, in_order(notes))

    def _course(self, name: str, times: str, powers: str, swr: str = "") -> Band:
        is_file = Path(times.strip()).suffix in (".csv", ".npy", ".npz")
        series = self._captured(times, powers) if is_file else _typed(times, powers)
        values = values_from_text(swr, "", "SWR", "1.2 3 1.5") if swr.strip() else ()
        if values and len(values) != len(series.seconds):
            raise OutOfRangeError(
                f"{len(values)} SWRs and {len(series.seconds)} powers don't go together.", "Give one for each power."
            )
        return Band(name, series, values)

    def _captured(self, times: str, powers: str) -> Series:
        highest = value_from_text(powers, UNITS["W"], "power of its highest", "100 W")
        given = Given(step_s=value_from_text(self.step, UNITS["s"], "time step", "1 ms") if self.step else None)
        path = Path(times.strip())
        capture = capture_from_bytes(file_bytes(path), path.name, given)
        envelope = demodulated(capture.channels[0], capture.step_s)
        columns = min(MOST, envelope.amplitude.size)
        _, high = trace_columns(envelope.amplitude, columns)
        step = math.ceil(envelope.amplitude.size / columns) * envelope.step_s
        power = highest * (high / envelope.crest) ** 2
        return Series("", False, tuple((step * np.arange(power.size)).tolist()), tuple(power.tolist()))


def _parted(line: str) -> tuple[str, str, str]:
    """Name, times and powers of another band; raises UnreadableError."""
    name, colon, rest = line.partition(":")
    times, semicolon, powers = rest.partition(";")
    if not name.strip() or not colon or not semicolon:
        raise UnreadableError(
            f"“{line.strip()}” is no other band.", "Type its name, times and powers: 3.6 MHz: 0 0.5 1 s; 14 6 30 W."
        )
    return name.strip(), times, powers


def _typed(times: str, powers: str) -> Series:
    seconds = values_from_text(times, "s", "times", "0 0.5 1 1.5 2 s")
    watts = values_from_text(powers, "W", "powers", "12 4 9 30 30 W")
    if len(seconds) != len(watts):
        raise OutOfRangeError(
            f"{len(seconds)} times and {len(watts)} powers don't go together.", "Give one power for each time."
        )
    if len(seconds) < 2 or any(b <= a for a, b in pairwise(seconds)):
        raise OutOfRangeError("Times rise, and there are two or more.", "Type for example 0 0.5 1 1.5 2 s.")
    if min(watts) < 0.0:
        raise OutOfRangeError("A power is 0 or above.", "Look at what was typed.")
    return Series("", False, tuple(time - seconds[0] for time in seconds), watts)


def _too_much(band: Band, most_w: float) -> Iterator[Note]:
    series = band.series
    if series.highest_w <= most_w:
        return
    over = series.seconds_above(most_w)
    yield Note(
        "series.too_much", Severity.STOP, band.name or "series",
        f"Up to {plain(series.highest_w, 'W', 2)} while it hunts{band.at}: it bears {plain(most_w, 'W')}.",
        f"For {plain(over, 's', 2)} of {plain(series.span_s, 's', 2)} there is more: its relays switch under load, and "
        "into any match.",
        "Tune at less power; full power once it stands.", {"highest_w": series.highest_w, "most_w": most_w},
    )  # fmt: skip


def _notes(band: Band, limit_w: float) -> Iterator[Note]:
    series, swr = band.series, band.swr
    above, whole = series.seconds_above(limit_w), series.span_s
    if above < whole:
        yield Note(
            "series.below", Severity.WATCH, band.name or "series",
            f"For {plain(whole - above, 's', 2)} of {plain(whole, 's', 2)} the power{band.at} is below "
            f"{plain(limit_w, 'W')}.",
            f"It goes from {plain(series.lowest_w, 'W', 2)} to {plain(series.highest_w, 'W', 2)}.",
            "A tuner that wants that much may give up: raise the power while it hunts, or let it hunt longer.",
            {"below_s": whole - above, "limit_w": limit_w},
        )  # fmt: skip
    if swr and series.lowest_w < FALLS * series.highest_w:
        logs = np.log(np.maximum(series.powers_w, 1e-12))
        moved = float(np.ptp(np.array(swr)))
        related = float(np.corrcoef(logs, np.array(swr))[0, 1]) if moved > 0.0 else 0.0
        if related <= FOLDS:
            yield Note(
                "series.folds_back", Severity.WATCH, "series", "The power falls as the SWR rises: it folds back.",
                f"At SWR {plain(max(swr), '', 3)} there are {plain(series.lowest_w, 'W', 2)} left of "
                f"{plain(series.highest_w, 'W', 2)}.",
                "That is the transmitter's protection; the power into a good match is the higher one.",
                {"correlation": related},
            )  # fmt: skip
