"""What was said on a wire, and when: the newest lines of it, to be looked at and copied."""

from collections import deque
from collections.abc import Callable
from datetime import datetime

from fenmist.frozen import dataclass

KEPT = 400
"""Lines."""

LONGEST = 200
"""Characters of a line that are shown of it."""

SENT, CAME, WIRE = "→", "←", "·"
"""Which way, or what happened to the wire itself."""


@dataclass(frozen=True)
class Said:
    """One line."""

    at: datetime
    way: str
    text: str

    def __str__(self) -> str:
        return f"{self.at:%H:%M:%S}.{self.at.microsecond // 1000:03d} {self.way} {self.text}"


class WireLog:
    """The log of one wire. Written by its worker, read by anybody."""

    def __init__(self, clock: Callable[[], datetime] = datetime.now) -> None:
        self._clock = clock
        self._lines: deque[Said] = deque(maxlen=KEPT)

    def note(self, way: str, text: str | bytes) -> None:
        """Add a line; what isn't printable is shown by its number."""
        self._lines.append(Said(self._clock(), way, shown(text)))

    @property
    def lines(self) -> tuple[Said, ...]:
        """The newest last."""
        return tuple(self._lines)


def shown(text: str | bytes) -> str:
    """Text as a log shows it: line endings and what isn't printable by their numbers, cut where it is long."""
    if isinstance(text, str):
        text = text.encode("utf-8", "replace")
    plain = "".join(chr(one) if 32 <= one < 127 else f"<{one:02X}>" for one in text[:LONGEST])
    return plain if len(text) <= LONGEST else f"{plain}… {len(text)} bytes"
