"""An instrument's side of the open command language: messages in, responses out, after IEEE 488.2 and SCPI-1999.

What is kept: program message units with their path, short and long mnemonics, numeric suffixes, parameters with units,
strings and blocks, the common commands, the status registers and the error queue with the standard's numbers. A
stand-in only adds its own headers. Sources, from memory: IEEE Std 488.2-1992 (7, 8, 10, 11), SCPI-1999 volume 1 (6) and
volume 2 (21.8).
"""

import math
import re
from collections import deque
from collections.abc import Callable, Mapping
from dataclasses import field

from fenmist.frozen import dataclass

Handler = Callable[["Given"], str | bytes | None]
"""What a header does: a response for a query, none for a command."""

ERRORS = {
    0: "No error", -101: "Invalid character", -102: "Syntax error", -104: "Data type error",
    -108: "Parameter not allowed", -109: "Missing parameter", -113: "Undefined header",
    -114: "Header suffix out of range", -131: "Invalid suffix", -141: "Invalid character data",
    -151: "Invalid string data", -221: "Settings conflict", -222: "Data out of range", -224: "Illegal parameter value",
    -350: "Queue overflow",
}  # fmt: skip
"""Of the error queue, by number (SCPI-1999 volume 2, 21.8.2 on)."""

OPERATION_COMPLETE, DEVICE_ERROR, EXECUTION_ERROR, COMMAND_ERROR, POWER_ON = 1, 8, 16, 32, 128
"""Bits of the standard event status register (IEEE 488.2, 11.5.1)."""

ERROR_QUEUE, EVENT_SUMMARY, MASTER_SUMMARY = 4, 32, 64
"""Bits of the status byte (IEEE 488.2, 11.2; SCPI-1999 volume 1, 9.1)."""

QUEUE = 20
"""Entries that the error queue holds."""

VERSION = "1999.0"


class ScpiError(Exception):
    """Something that the queue will hold; its number decides the bit."""

    def __init__(self, number: int) -> None:
        super().__init__(ERRORS[number])
        self.number = number


@dataclass(frozen=True)
class Given:
    """What stands behind a header."""

    texts: tuple[str, ...] = ()
    suffixes: tuple[int, ...] = ()  # of its mnemonics that may have one, 1 where none is given

    def number(self, unit: str = "", low: float = -math.inf, high: float = math.inf, usual: float = 0.0) -> float:
        """The only parameter as a number in a unit; MIN, MAX and DEF stand for the limits and for `usual`.

        Raises
        ------
        ScpiError
            −109 without one, −104 where it is no number, −131 of a wrong unit, −222 out of the limits.
        """
        text = self.text().upper()
        for names, value in ((("MIN", "MINIMUM"), low), (("MAX", "MAXIMUM"), high), (("DEF", "DEFAULT"), usual)):
            if text in names:
                return value
        match = _NUMBER.fullmatch(text)
        if match is None:
            raise ScpiError(-104)
        value = float(match[1]) * _factor(match[2] or "", unit)
        if not low <= value <= high:
            raise ScpiError(-222)
        return value

    def text(self) -> str:
        """The only parameter; raises ScpiError −109, or −108 where there are more."""
        if not self.texts:
            raise ScpiError(-109)
        if len(self.texts) > 1:
            raise ScpiError(-108)
        return self.texts[0]

    def choice(self, *names: str) -> str:
        """The only parameter as one of several names, short or long; raises ScpiError −109, −108 or −141."""
        text = self.text().upper()
        for name in names:
            if text in (name.upper(), _short(name)):
                return name
        raise ScpiError(-141)

    def switch(self) -> bool:
        """ON or OFF, or a number that rounds to 0 or doesn't; raises ScpiError −109, −108 or −104."""
        text = self.text().upper()
        if text in ("ON", "OFF"):
            return text == "ON"
        try:
            return round(float(text)) != 0
        except (ValueError, OverflowError):
            raise ScpiError(-104) from None

    def nothing(self) -> None:
        """No parameter is allowed; raises ScpiError −108."""
        if self.texts:
            raise ScpiError(-108)


_NUMBER = re.compile(r"([+-]?(?:\d+\.?\d*|\.\d+)(?:\s*E\s*[+-]?\d+)?)\s*([A-Z]*)")
_SCALES = {"": 1.0, "EX": 1e18, "PE": 1e15, "T": 1e12, "G": 1e9, "MA": 1e6, "K": 1e3, "M": 1e-3, "U": 1e-6, "N": 1e-9,
           "P": 1e-12}  # fmt: skip


def _factor(given: str, unit: str) -> float:
    """Of a multiplier in front of a unit; megahertz is MHZ although M is milli (IEEE 488.2, 7.7.3)."""
    if not given:
        return 1.0
    wanted = unit.upper()
    if not given.endswith(wanted) or not wanted:
        raise ScpiError(-131)
    scale = given[: len(given) - len(wanted)]
    if wanted in ("HZ", "OHM") and scale == "M":
        return 1e6
    if scale not in _SCALES:
        raise ScpiError(-131)
    return _SCALES[scale]


def _short(mnemonic: str) -> str:
    return re.sub("[a-z]", "", mnemonic)


# headers


@dataclass
class _Node:
    long: str = ""
    numbered: bool = False
    children: list["_Node"] = field(default_factory=list)
    command: Handler | None = None
    query: Handler | None = None

    def fits(self, mnemonic: str) -> int | None:
        """The suffix with which a mnemonic names this node; none where it doesn't."""
        match = re.fullmatch(r"([A-Z_]+?)(\d*)", mnemonic)
        if match is None or match[1] not in (self.long.upper(), _short(self.long)):
            return None
        if match[2] and not self.numbered:
            return None
        return int(match[2] or 1)


class Interpreter:
    """Turns messages into responses.

    Parameters
    ----------
    identity : str
        The four fields of `*IDN?`, comma separated.
    headers : mapping
        By pattern: capitals are the short form, `[:NAME]` may be left out, `#` behind a mnemonic allows a number, a
        question mark ends a query: `MEASure:VOLTage[:AC]?`, `TRACe#[:DATA]?`.
    reset : callable, optional
        What `*RST` does beside the language's own part.
    """

    def __init__(self, identity: str, headers: Mapping[str, Handler], reset: Callable[[], None] | None = None) -> None:
        self.errors: deque[int] = deque()
        self._reset = reset
        self._event, self._event_enable, self._service_enable = POWER_ON, 0, 0
        self._root = _Node()
        self._common: dict[str, Handler] = {
            "*IDN?": lambda _: identity, "*TST?": lambda _: "0", "*OPC?": lambda _: "1", "*OPC": self._complete,
            "*WAI": lambda _: None, "*CLS": self._clear, "*RST": self._restore, "*ESR?": self._events,
            "*ESE": self._enable_events, "*ESE?": lambda _: str(self._event_enable), "*SRE": self._enable_service,
            "*SRE?": lambda _: str(self._service_enable), "*STB?": lambda _: str(self.status()),
        }  # fmt: skip
        own: dict[str, Handler] = {
            "SYSTem:ERRor[:NEXT]?": self._next_error, "SYSTem:ERRor:COUNt?": lambda _: str(len(self.errors)),
            "SYSTem:VERSion?": lambda _: VERSION,
        }  # fmt: skip
        for pattern, handler in {**own, **headers}.items():
            self._add(pattern, handler)

    def _add(self, pattern: str, handler: Handler) -> None:
        is_query, names = pattern.endswith("?"), pattern.rstrip("?")
        for spelled in _spelled(names):
            node = self._root
            for name in spelled.split(":"):
                long, numbered = name.rstrip("#"), name.endswith("#")
                found = next((item for item in node.children if item.long == long), None)
                if found is None:
                    found = _Node(long, numbered)
                    node.children.append(found)
                node = found
            if is_query:
                node.query = handler
            else:
                node.command = handler

    # messages

    def receive(self, message: str) -> bytes:
        """Carry out one message (without its terminator); the response, terminated, or nothing."""
        responses: list[bytes] = []
        path = self._root
        try:
            for unit in _split(message, ";"):
                text = unit.strip()
                if text:
                    path = self._unit(text, path, responses)
        except ScpiError as error:
            self._note(error.number)
        return b";".join(responses) + b"\n" if responses else b""

    def _unit(self, text: str, path: _Node, responses: list[bytes]) -> _Node:
        header, *rest = re.split(r"\s+", text, maxsplit=1)
        given = tuple(item.strip() for item in _split(rest[0], ",")) if rest else ()
        if any(not item for item in given):
            raise ScpiError(-102)
        header = header.upper()
        if header.startswith("*"):
            handler = self._common.get(header)
            suffixes: tuple[int, ...] = ()
        else:
            handler, suffixes, path = self._found(header, path)
        if handler is None:
            raise ScpiError(-113)
        response = handler(Given(tuple(_unquoted(item) for item in given), suffixes))
        if response is not None:
            responses.append(response if isinstance(response, bytes) else response.encode("ascii", "replace"))
        return path

    def _found(self, header: str, path: _Node) -> tuple[Handler | None, tuple[int, ...], _Node]:
        """What a header names from a path on, and the path that it leaves for the next one."""
        if not re.fullmatch(r":?[A-Z][A-Z0-9_]*(:[A-Z][A-Z0-9_]*)*\??", header):
            raise ScpiError(-101 if re.search(r"[^A-Z0-9_:?*]", header) else -102)
        node = self._root if header.startswith(":") else path
        suffixes: list[int] = []
        parent = node
        for mnemonic in header.strip(":").rstrip("?").split(":"):
            parent = node
            fitting = ((child, child.fits(mnemonic)) for child in node.children)
            found = next(((child, suffix) for child, suffix in fitting if suffix is not None), None)
            if found is None:
                raise ScpiError(-113)
            node = found[0]
            if node.numbered:
                suffixes.append(found[1])
        return (node.query if header.endswith("?") else node.command), tuple(suffixes), parent

    # status

    def _note(self, number: int) -> None:
        if len(self.errors) >= QUEUE:
            self.errors[-1] = -350
        else:
            self.errors.append(number)
        self._event |= {1: COMMAND_ERROR, 2: EXECUTION_ERROR}.get(-number // 100, DEVICE_ERROR)

    def status(self) -> int:
        """The status byte."""
        byte = ERROR_QUEUE if self.errors else 0
        byte |= EVENT_SUMMARY if self._event & self._event_enable else 0
        return byte | (MASTER_SUMMARY if byte & self._service_enable else 0)

    def _next_error(self, _: Given) -> str:
        number = self.errors.popleft() if self.errors else 0
        return f'{number},"{ERRORS[number]}"'

    def _complete(self, _: Given) -> None:
        self._event |= OPERATION_COMPLETE

    def _clear(self, _: Given) -> None:
        self.errors.clear()
        self._event = 0

    def _restore(self, _: Given) -> None:
        if self._reset is not None:
            self._reset()

    def _events(self, _: Given) -> str:
        byte, self._event = self._event, 0
        return str(byte)

    def _enable_events(self, given: Given) -> None:
        self._event_enable = int(given.number(low=0, high=255))

    def _enable_service(self, given: Given) -> None:
        self._service_enable = int(given.number(low=0, high=255)) & ~MASTER_SUMMARY


def block(data: bytes) -> bytes:
    """Arbitrary block response data of definite length (IEEE 488.2, 8.7.9)."""
    length = str(len(data)).encode()
    return b"#" + str(len(length)).encode() + length + data


def nr3(value: float) -> str:
    """A number as numeric response data; 9.9E+37 beyond its span, 9.91E+37 without sense (SCPI-1999, 7.2.1)."""
    if math.isnan(value):
        return "+9.91000E+37"
    if math.isinf(value):
        return "+9.90000E+37" if value > 0.0 else "-9.90000E+37"
    return f"{value:+.5E}"


def _spelled(pattern: str) -> list[str]:
    """Every spelling of a pattern with and without what stands in brackets."""
    match = re.search(r"\[([^\]]*)\]", pattern)
    if match is None:
        return [pattern.strip(":")]
    before, after = pattern[: match.start()], pattern[match.end() :]
    return _spelled(before + match[1] + after) + _spelled(before + after)


def _split(text: str, by: str) -> list[str]:
    """Split where a separator stands outside quotes and brackets; raises ScpiError −151 of a string without an end."""
    parts, quote, depth = [""], "", 0
    for sign in text:
        if quote:
            quote = "" if sign == quote else quote
        elif sign in "'\"":
            quote = sign
        elif sign in "()":
            depth += 1 if sign == "(" else -1
        if sign == by and not quote and depth == 0:
            parts.append("")
        else:
            parts[-1] += sign
    if quote:
        raise ScpiError(-151)
    return parts


def _unquoted(text: str) -> str:
    quoted = len(text) > 1 and text[0] in "'\"" and text[-1] == text[0]
    return text[1:-1].replace(text[0] * 2, text[0]) if quoted else text
