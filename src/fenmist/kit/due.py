"""When equipment is due: by what stands in its history, looked at on a day."""

from datetime import date, timedelta
from enum import StrEnum

from fenmist.frozen import dataclass
from fenmist.kit.part import CalibrationRecord, Part, PartKind

SOON = timedelta(days=60)
"""Ahead of its date a part counts as due (common practice, no source)."""

TRUSTED = (
    PartKind.OSCILLOSCOPE, PartKind.LOAD, PartKind.INLINE_METER, PartKind.PROBE, PartKind.POWER_METER,
    PartKind.VOLTMETER, PartKind.AMMETER, PartKind.GENERATOR, PartKind.ANALYSER, PartKind.SWR_METER,
)  # fmt: skip
"""Kinds whose numbers others lean on: without a history they are unknown. Cables and tees are checked by use."""


class State(StrEnum):
    """How far a part's last comparison may be trusted."""

    FINE = "fine"
    DUE = "due"
    OVERDUE = "overdue"
    UNKNOWN = "unknown"
    NOT_NEEDED = "not needed"


@dataclass(frozen=True)
class Due:
    """State of a part on a day, and the record it follows from."""

    state: State
    days: int = 0  # until the date, below 0 past it
    latest: CalibrationRecord | None = None


@dataclass(frozen=True)
class DueDate:
    """Something that is due on a day, and by whose word."""

    part_id: str
    what: str
    on: str  # ISO date
    why: str


def due(part: Part, as_of: date) -> Due:
    """State of a part on the day `as_of` ."""
    latest = max(part.history, key=lambda item: item.on, default=None)
    if latest is None:
        return Due(State.UNKNOWN if part.kind in TRUSTED else State.NOT_NEEDED)
    try:
        left = date.fromisoformat(latest.due) - as_of
    except ValueError:  # none is stated, or what is stated is no day
        return Due(State.UNKNOWN, latest=latest)
    state = State.OVERDUE if left.days < 0 else State.DUE if left <= SOON else State.FINE
    return Due(state, left.days, latest)
