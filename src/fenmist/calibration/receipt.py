"""What came in: the device as received, looked over before anything is plugged together.

The list of what is looked at follows the order of the bench: outside, connectors, movement, switch, light. It is common
practice, no source.
"""

from collections.abc import Mapping
from dataclasses import field, replace

from fenmist.frozen import dataclass
from fenmist.units.moment import Day

LOOK_OVER: Mapping[str, str] = {
    "case": "case and glass whole",
    "connectors": "connectors clean, pins straight",
    "needle": "needle moves freely",
    "zero": "mechanical zero set",
    "switches": "switches and range knob make",
    "ports": "port to the transmitter known",
    "peak": "average/peak as to be calibrated",
    "supply": "supply and lamp in order",
}
"""What is looked at, by id."""

FINE, NOT_FINE, NOT_THERE = "fine", "not fine", "not there"
STATES = ("", FINE, NOT_FINE, NOT_THERE)
"""What can be said of each; nothing until it was looked at."""


@dataclass(frozen=True)
class Look:
    """One line of the list."""

    state: str = ""
    remark: str = ""


@dataclass(frozen=True)
class Photo:
    """A picture kept with the job."""

    sha256: str
    name: str
    caption: str = ""


@dataclass(frozen=True)
class Receipt:
    """The device as it was handed over."""

    received_on: Day = ""
    inventory: str = ""  # the owner's number
    ports: str = ""  # which faces the transmitter, a port's band
    switches: str = ""  # position in which it is calibrated
    condition: str = ""
    looks: Mapping[str, Look] = field(default_factory=dict)
    photos: tuple[Photo, ...] = ()

    def look(self, item: str) -> Look:
        """What was said of an item of the list."""
        return self.looks.get(item, Look())

    def with_look(self, item: str, look: Look) -> "Receipt":
        """With another line of the list."""
        return replace(self, looks={**self.looks, item: look})

    @property
    def missing(self) -> tuple[str, ...]:
        """Ids of what wasn't looked at yet."""
        return tuple(item for item in LOOK_OVER if not self.look(item).state)

    @property
    def faults(self) -> tuple[str, ...]:
        """What is not fine, in words, with its remark."""
        return tuple(
            f"{LOOK_OVER[item]}: {look.remark or 'not so'}"
            for item, look in self.looks.items()
            if item in LOOK_OVER and look.state == NOT_FINE
        )
