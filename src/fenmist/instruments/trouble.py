"""What can go wrong between an instrument and a reading, as values: a wire that fails is no reason to stop."""

from enum import StrEnum

from fenmist.frozen import dataclass


class State(StrEnum):
    """How it stands with an instrument, in the words of its flag."""

    NOT_THERE = "not there"
    SILENT = "no reply"
    HUNG_UP = "hung up"
    BROKEN_OFF = "reply broken off"
    GARBLED = "not understood"
    OVERRANGE = "over its range"
    WRONG_UNIT = "another unit"
    REFUSED = "refused"
    STOPPED = "stopped"


_REMEDY = {
    State.NOT_THERE: "Check that it is switched on, its address, and that nobody else holds its port.",
    State.SILENT: "Check cable and line ending; it may still be busy. It is asked anew on a fresh connection.",
    State.HUNG_UP: "It closed the connection; it is opened again with the next reading.",
    State.BROKEN_OFF: "Read again; if it stays so, a longer time is needed in its driver.",
    State.GARBLED: "Look at the wire log: the driver may be another instrument's.",
    State.OVERRANGE: "Choose a higher range, or less power.",
    State.WRONG_UNIT: "Set its unit back, or choose a driver that asks for it.",
    State.REFUSED: "Look at the wire log: it didn't take what it was told.",
    State.STOPPED: "Read again when ready.",
}


@dataclass(frozen=True)
class Trouble:
    """Why there is no reading."""

    state: State
    what: str  # a sentence
    raw: str = ""  # what came, if anything

    @property
    def remedy(self) -> str:
        """What to try."""
        return _REMEDY[self.state]

    def __str__(self) -> str:
        return f"{self.what} {self.remedy}"
