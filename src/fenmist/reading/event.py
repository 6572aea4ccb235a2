"""Readings as they were made. Events are only ever added: to strike one out is another event.

An entry keeps the raw text for ever. What could not be read stays an open entry: out of all results until it
is taken or struck.
"""

from collections.abc import Iterable
from enum import StrEnum

from fenmist.findings.note import Answer
from fenmist.frozen import dataclass
from fenmist.units.moment import Moment
from fenmist.units.typed import Censoring, Pointer

TYPED, PAPER, WIRE = "typed", "copied from paper", "read over the wire"
"""Where an entry came from; captures say so, too."""

AS_FOUND = "as found"
AS_LEFT = "as left"


class EventKind(StrEnum):
    """What happened."""

    ENTER = "enter"
    STRIKE = "strike"
    RESTORE = "restore"
    ANSWER = "answer"
    CARRIER = "carrier"  # switched by hand, against what was inferred
    SKIP = "skip"  # a round that won't be read
    DOUBT = "doubt"  # the reader isn't sure of an entry


@dataclass(frozen=True)
class Slot:
    """Where a reading belongs: the point, its round, the place in the point's sequence, the phase."""

    point: str
    round: int  # from 1
    position: int  # in the plan point's sequence, from 0
    phase: str = AS_FOUND

    @property
    def place(self) -> str:
        """Its name in a note: point, round, position, and the phase where it isn't as found."""
        where = f"{self.point}/{self.round}/{self.position}"
        return where if self.phase == AS_FOUND else f"{where}/{self.phase}"


@dataclass(frozen=True)
class Reading:
    """A value read: SI, in the indicator's way of taking it (W, Vpp, Vpk, Vrms)."""

    value: float
    unit: str
    digit: float  # size of the last digit typed, in `unit`
    censoring: Censoring = Censoring.NONE
    pointer: Pointer | None = None
    form: str = ""  # how volts were taken where the unit doesn't say it: "fit", a sine fitted to a capture
    u: float | None = None  # standard uncertainty of reading it, in `unit`, where it isn't the last digit's
    also: tuple["Reading", ...] = ()  # the same thing taken otherwise: peak to peak beside rms


@dataclass(frozen=True)
class Entry:
    """One thing typed into one slot."""

    slot: Slot
    channel: str  # id of what was read
    element: str
    indicator: str
    range_id: str
    raw_text: str
    reading: Reading | None  # none: an open entry
    why_open: str = ""
    likeliest_text: str = ""  # what an open entry most probably means
    origin: str = TYPED
    observed_at: Moment | None = None  # none when copied from paper
    begun_at: Moment | None = None  # when its first digit was typed: from then on the carrier is taken to be on
    attached: str = ""  # SHA-256 of the capture it was read from
    attached_name: str = ""  # and the name of its file
    address: str = ""  # of the instrument that it was read from over a wire
    replies: tuple[str, ...] = ()  # what that said, as it came


@dataclass(frozen=True)
class Event:
    """One line of the record."""

    id: str
    kind: EventKind
    at: Moment  # when it was entered
    entry: Entry | None = None  # ENTER
    target: str = ""  # STRIKE, DOUBT: id of the entering event; RESTORE: of that, or of a skip
    reason: str = ""  # STRIKE, SKIP, DOUBT; CARRIER: "on" or "off"
    answer: Answer | None = None  # ANSWER
    slot: Slot | None = None  # SKIP: any slot of the round; CARRIER: the one in hand


def struck(events: Iterable[Event]) -> dict[str, str]:
    """Ids of the entering events that are struck out, with the reason."""
    out: dict[str, str] = {}
    for event in events:
        if event.kind is EventKind.STRIKE:
            out[event.target] = event.reason
        elif event.kind is EventKind.RESTORE:
            out.pop(event.target, None)
    return out
