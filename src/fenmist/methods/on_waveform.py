"""What meters show on a waveform, without a bench: a frozen request; call it for the answer.

Page: docs/method/waveform.md.

>>> answer = MetersRequest("two-tone", "100 W")()
>>> round(answer.mean_w, 1), round(answer.shows["averaging"].reading, 1)
(50.0, 40.5)
"""

from collections.abc import Iterator, Mapping
from dataclasses import field
from pathlib import Path

from fenmist.errors import UnreadableError
from fenmist.findings.note import Note, Severity, in_order
from fenmist.frozen import dataclass
from fenmist.kit.part import Part
from fenmist.methods.movements import kind_of, movement_of
from fenmist.units.display import percent, plain
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.capture import Capture
from fenmist.waveform.demodulate import demodulated, is_envelope
from fenmist.waveform.envelope import Moments
from fenmist.waveform.movement import USUAL, Movement, Shown, shown
from fenmist.waveform.named import waveform_from_text
from fenmist.waveform.shapes import Repeating, Waveform, moments_of
from fenmist.waveform.tracefile import Given, capture_from_bytes, file_bytes

SETTLES_S = 5.0
"""Records shorter than this tell less than a meter's movement would (Fenmist's own)."""

SCHOOLS = 0.02
"""Difference of the two averages, over PEP, from which it is told (Fenmist's own)."""

READS_LOW = 0.95
"""Of PEP, below which a peak button isn't honest (handbook: within 5 %; common practice, no source)."""

MOVES = 0.25
"""Swing over its reading from which a needle can't be read as one number (Fenmist's own)."""


@dataclass(frozen=True)
class MetersAnswer:
    """What a waveform comes to, and what each kind of meter shows on it."""

    waveform: Waveform
    pep_w: float
    moments: Moments
    movements: Mapping[str, Movement]  # by `USUAL`'s names
    shows: Mapping[str, Shown]  # by the same, W
    notes: tuple[Note, ...]
    meter: tuple[str, str] | None = None  # a meter of the kit: which of the four it stands for, and its label

    @property
    def mean_w(self) -> float:
        """Mean power."""
        return self.pep_w * self.moments.mean


@dataclass(frozen=True)
class MetersRequest:
    """A waveform by name, or a file with a captured trace or its envelope, and its PEP, as typed."""

    waveform: str
    pep: str = "100 W"
    settings: Mapping[str, float] = field(default_factory=dict)
    step: str = ""  # time between samples, where a file doesn't say it
    channel: str = ""  # of a file; the first unless named
    meter: Part | None = None  # that stands, with its times, for the one of the four that it is

    def __call__(self) -> MetersAnswer:
        """The answer; raises UnreadableError, OutOfRangeError, FileFormatError."""
        pep_w = value_from_text(self.pep, UNITS["W"], "PEP", "100 W")
        if pep_w <= 0.0:
            raise UnreadableError(f"PEP: {self.pep} is no power.", "Type for example 100 W.")
        path = Path(self.waveform)
        if path.suffix.lower() in (".csv", ".npy", ".npz", ".txt") or path.is_file():
            return self._of_file(path, pep_w)
        waveform = waveform_from_text(self.waveform, **self.settings)
        return _answer(waveform, pep_w, moments_of(waveform), self.meter)

    def _of_file(self, path: Path, pep_w: float) -> MetersAnswer:
        given = Given(step_s=value_from_text(self.step, UNITS["s"], "time step", "4 ns") if self.step else None)
        capture = capture_from_bytes(file_bytes(path), path.name, given)
        return on_capture(capture, pep_w, self.channel, self.meter)


def on_capture(capture: Capture, pep_w: float, channel: str = "", meter: Part | None = None) -> MetersAnswer:
    """What meters show on a captured trace that goes on as it was captured.

    Parameters
    ----------
    capture : Capture
        Of a modulated carrier, or of its envelope.
    pep_w : float
        Power of its crest, W.
    channel : str
        The first unless named.
    meter : Part, optional
        Stands, with its times, for the one of the four that it is.

    Raises
    ------
    OutOfRangeError, UnknownIdError
        Where there is no carrier; no such channel.
    """
    found = capture.channel(channel) if channel else capture.channels[0]
    envelope = demodulated(found, capture.step_s)
    kind = "its envelope" if is_envelope(found) else "a modulated carrier"
    waveform = Repeating(f"{capture.name}, {found.name}: {kind}", envelope)
    notes: tuple[Note, ...] = ()
    if envelope.seconds < SETTLES_S:
        notes = (Note(
            "meters.short_record", Severity.WATCH, "record",
            f"The record lasts {plain(envelope.seconds, 's', 3)}, which is shorter than meters take to settle.",
            "It is taken to go on like this, over and over.", "Capture the envelope alone, over ten seconds or more.",
            {"seconds": envelope.seconds},
        ),)  # fmt: skip
    return _answer(waveform, pep_w, envelope.moments, meter, notes)


def _answer(
    waveform: Waveform, pep_w: float, moments: Moments, meter: Part | None, notes: tuple[Note, ...] = ()
) -> MetersAnswer:
    movements, stands_for = dict(USUAL), None
    if meter is not None:
        stands_for = kind_of(meter.indicators[0]), meter.label
        movements[stands_for[0]] = movement_of(meter.indicators[0])
    shows = {name: shown(movement, waveform) for name, movement in movements.items()}
    in_watts = {key: Shown(pep_w * it.reading, pep_w * it.low, pep_w * it.high) for key, it in shows.items()}
    notes = in_order((*notes, *_notes(moments, movements, shows)))
    return MetersAnswer(waveform, pep_w, moments, movements, in_watts, notes, stands_for)


def _notes(moments: Moments, movements: Mapping[str, Movement], shows: Mapping[str, Shown]) -> Iterator[Note]:
    thermal, averaging, hold = (shows[name] for name in ("thermal", "averaging", "hold"))
    if thermal.reading - averaging.reading > SCHOOLS:
        yield Note(
            "meters.two_averages", Severity.GOOD_TO_KNOW, "meters",
            f"“Average” is two numbers: {percent(thermal.reading)} and {percent(averaging.reading)} of PEP.",
            "A thermal meter averages power. A diode with a needle averages volts, and its scale squares that.",
            "Say which detector a meter has; a steady carrier shows the same on both.",
            {"thermal": thermal.reading, "averaging": averaging.reading},
        )  # fmt: skip
    if hold.reading < READS_LOW:
        yield Note(
            "meters.hold_is_low", Severity.WATCH, "meters",
            f"A hold of {plain(movements['hold'].decay_s, 's', 2)} shows {percent(hold.reading)} of PEP here.",
            "It charges too slowly for short crests, and leaks between them: a button marked PEP may be no more.",
            "Prove a peak function: carrier, then two tones and dots of the same PEP.", {"hold": hold.reading},
        )  # fmt: skip
    if averaging.high - averaging.low > MOVES * averaging.reading:
        yield Note(
            "meters.needle_moves", Severity.WATCH, "meters",
            f"An averaging needle swings between {_least(averaging.low)} and {percent(averaging.high)} of PEP.",
            f"It stands about {percent(averaging.reading)} on average, and nowhere for long.",
            "To read a power use a steady carrier at the same setting.",
            {"low": averaging.low, "high": averaging.high, "reading": averaging.reading},
        )  # fmt: skip
    if moments.mean < READS_LOW:
        yield Note(
            "meters.this_waveform_only", Severity.GOOD_TO_KNOW, "meters",
            f"PEP is {plain(1.0 / averaging.reading, '', 3)} times what an averaging meter shows, on this alone.",
            "The factor is the shape of this envelope: another voice, depth or duty has another.",
            "Don't carry it over to anything else.", {"factor": 1.0 / averaging.reading},
        )  # fmt: skip


def _least(fraction: float) -> str:
    return percent(fraction) if fraction > 1e-3 else "nothing"
