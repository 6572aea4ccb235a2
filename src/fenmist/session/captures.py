"""A capture's file in hand: read, worked out channel by channel, and turned into the reading of an entry."""

from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path

from fenmist.errors import OutOfRangeError
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


@dataclass(frozen=True)
class CaptureRequest:
    """Open a capture from a file, with what is typed about it. Call it for the source; raises FileFormatError,
    UnreadableError."""

    path: Path
    step: str = ""  # time between samples, where the file doesn't say it
    volts_per_count: str = ""

    def __call__(self) -> CaptureSource:
        """Read and check the file."""
        step = value_from_text(self.step, UNITS["s"], "time step", "4 ns") if self.step else None
        volts = (
            value_from_text(self.volts_per_count, UNITS["V"], "volts per count", "4 mV")
            if self.volts_per_count
            else None
        )
        source = CaptureSource(self.path.name, file_bytes(self.path), Given(step, volts))
        source.capture  # noqa: B018  (read now, so that what is wrong is said now)
        return source
