"""A capture's file in hand: read, worked out channel by channel, and turned into the reading of an entry."""

from dataclasses import field
from functools import cached_property
from pathlib import Path

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.reading.captured import reading_from_trace, text_of_trace
from fenmist.reading.interpret import Interpretation
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.analysis import Trace, analyse
from fenmist.waveform.capture import Capture
from fenmist.waveform.tracefile import Given, capture_from_bytes, file_bytes


@dataclass(frozen=True, eq=False)
class CaptureSource:
    """The bytes of a capture's file and what was said about them."""

    name: str
    data: bytes
    given: Given = field(default_factory=Given)

    @cached_property
    def capture(self) -> Capture:
        """The file's content; raises FileFormatError."""
        return capture_from_bytes(self.data, self.name, self.given)

    @property
    def sha256(self) -> str:
        """Hash of the file's bytes."""
        return self.capture.sha256

    def trace(self, channel: str, expected_hz: float | None = None) -> Trace:
        """A channel worked out; raises OutOfRangeError, UnknownIdError."""
        return analyse(self.capture.channel(channel), self.capture.step_s, expected_hz)

    def reading(self, channel: str, expected_hz: float | None = None) -> tuple[str, Interpretation]:
        """The entry's text and its reading; open where nothing can be fitted or trusted."""
        try:
            trace = self.trace(channel, expected_hz)
        except OutOfRangeError as error:
            return f"{self.name} {channel}", Interpretation(None, str(error))
        found = self.capture.channel(channel)
        return text_of_trace(trace), reading_from_trace(trace, found)

    def best_channel(self, expected_hz: float | None = None) -> str:
        """The first channel that holds a carrier that can be read; the first of all where none does."""
        names = [item.name for item in self.capture.channels]
        return next((name for name in names if self._is_usable(name, expected_hz)), names[0])

    def _is_usable(self, channel: str, expected_hz: float | None) -> bool:
        try:
            return self.trace(channel, expected_hz).usable
        except OutOfRangeError:
            return False


@dataclass(frozen=True, eq=False)
class OpenedCapture:
    """A capture read from a file, with one of its channels worked out."""

    source: CaptureSource
    channel: str
    trace: Trace | None  # none where nothing can be fitted
    problem: str = ""  # why

    def on(self, channel: str, expected_hz: float | None = None) -> "OpenedCapture":
        """The same file with another channel in hand."""
        return opened(self.source, channel, expected_hz)


def opened(source: CaptureSource, channel: str = "", expected_hz: float | None = None) -> OpenedCapture:
    """A source with a channel worked out, the best one unless named."""
    chosen = channel or source.best_channel(expected_hz)
    try:
        return OpenedCapture(source, chosen, source.trace(chosen, expected_hz))
    except OutOfRangeError as error:
        return OpenedCapture(source, chosen, None, str(error))


@dataclass(frozen=True)
class CaptureRequest:
    """Open a capture from a file, with what is typed about it. Call it; raises FileFormatError, UnreadableError."""

    path: Path
    step: str = ""  # time between samples, where the file doesn't say it
    volts_per_count: str = ""
    expected_hz: float | None = None
    channel: str = ""

    def __call__(self) -> OpenedCapture:
        """Read, check and work out."""
        step = value_from_text(self.step, UNITS["s"], "time step", "4 ns") if self.step else None
        count = self.volts_per_count
        volts = value_from_text(count, UNITS["V"], "volts per count", "4 mV") if count else None
        source = CaptureSource(self.path.name, file_bytes(self.path), Given(step, volts))
        return opened(source, self.channel, self.expected_hz)
