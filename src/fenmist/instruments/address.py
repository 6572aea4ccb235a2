"""Where an instrument is reached: what a person types, as the resource name that VISA takes."""

import re

from fenmist.errors import UnreadableError
from fenmist.frozen import dataclass

_NAME = r"[A-Za-z0-9]([A-Za-z0-9.-]*[A-Za-z0-9])?"
_FORMS = (
    (re.compile(rf"TCPIP\d*::({_NAME})::(\d+)::SOCKET", re.I), "a socket"),
    (re.compile(rf"TCPIP\d*::({_NAME})(::[A-Za-z0-9,]+)?::INSTR", re.I), "the network"),
    (re.compile(r"ASRL[A-Za-z0-9/._-]+::INSTR", re.I), "a serial port"),
    (re.compile(r"USB\d*::(0x)?[0-9A-F]+::(0x)?[0-9A-F]+::[^:]+(::\d+)?::INSTR", re.I), "USB"),
)
_HOST = re.compile(rf"({_NAME}):(\d+)")
_PORT = re.compile(r"(/dev/[A-Za-z0-9/._-]+|COM\d+)(?:@(\d+))?", re.I)


@dataclass(frozen=True)
class Address:
    """One place."""

    resource: str  # as VISA names it
    by: str  # in words
    baud: int | None = None  # of a serial port, where it was said

    @property
    def is_serial(self) -> bool:
        """True for a serial port."""
        return self.resource.upper().startswith("ASRL")

    @property
    def short(self) -> str:
        """As it is shown: host and port, or the resource name."""
        match = re.fullmatch(r"TCPIP\d*::(.+)::(\d+)::SOCKET", self.resource, re.I)
        return f"{match[1]}:{match[2]}" if match else self.resource


def address(text: str) -> Address:
    """Read an address: `192.168.0.9:5025`, `/dev/ttyUSB0@9600`, or a VISA resource name.

    Raises
    ------
    UnreadableError
        Says which forms there are.
    """
    typed = text.strip()
    host = _HOST.fullmatch(typed)
    if host is not None and _is_port(host[3]):
        return Address(f"TCPIP::{host[1]}::{host[3]}::SOCKET", "a socket")
    port = _PORT.fullmatch(typed)
    if port is not None:
        return Address(f"ASRL{port[1]}::INSTR", "a serial port", int(port[2]) if port[2] else None)
    for form, by in _FORMS:
        match = form.fullmatch(typed)
        if match is not None and (by != "a socket" or _is_port(match[3])):
            return Address(typed, by)
    raise UnreadableError(
        f"“{typed}” is no address of an instrument.",
        "Type host:port, a serial port such as /dev/ttyUSB0@9600, or a VISA resource name.",
    )


def _is_port(text: str) -> bool:
    return 0 < int(text) < 65536 if len(text) < 6 else False
