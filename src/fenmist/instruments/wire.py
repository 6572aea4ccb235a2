"""One instrument's wire: what is sent, what comes, and every way in which that fails, as values.

VISA carries it (its pure-Python backend; imported on first use). What that was seen to do is turned into states here: a
port that nobody listens on opens all the same; a peer that hung up keeps a core busy until the time is over; a second
line of a reply waits inside it, and answers the next question; so does a reply that came too late; of a serial line it
loses what comes just as its time is over. So replies are taken from socket and serial port as they come, and after any
trouble the next question goes over a fresh connection.
"""

import select
import socket
import threading
import time
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from fenmist.frozen import dataclass
from fenmist.instruments.address import Address
from fenmist.instruments.reply import block_length
from fenmist.instruments.trouble import State, Trouble
from fenmist.instruments.wirelog import CAME, SENT, WIRE, WireLog

if TYPE_CHECKING:
    from pyvisa import ResourceManager
    from pyvisa.resources import MessageBasedResource, Resource

SLICE_S = 0.05
"""How long is waited before a look at a wish to stop."""

_PIECE = 65_536

MOST = 4_000_000
"""Bytes of one reply; more is no instrument's answer to a question of ours."""


@dataclass(frozen=True)
class Speech:
    """How an instrument's wire is spoken."""

    end: bytes = b"\n"  # of what is sent, and of a reply
    timeout_s: float = 2.0  # for a whole reply
    baud: int = 9600


class Wire:
    """A connection that opens itself when something is asked.

    Parameters
    ----------
    at : Address
        Where.
    speech : Speech
        How.
    log : WireLog
        Gets every word.
    """

    def __init__(self, at: Address, speech: Speech, log: WireLog) -> None:
        self.at, self.speech, self.log = at, speech, log
        self._resource: MessageBasedResource | None = None
        self._stop = threading.Event()

    def ask(self, text: str) -> bytes | Trouble:
        """Send a question; the reply without its end."""
        sent = self.tell(text)
        if sent is not None:
            return sent
        found = self._gathered(self._line_in)
        if not isinstance(found, Trouble) and self.speech.end[-1:] in found:
            return self._failed(State.GARBLED, "More came than was asked for.", None, found)
        return found

    def ask_block(self, text: str) -> bytes | Trouble:
        """Send a question that is answered by a block of binary data; the whole reply with the block's head."""
        sent = self.tell(text)
        return sent if sent is not None else self._gathered(_block_in)

    def tell(self, text: str) -> Trouble | None:
        """Send a command, or the question of which the reply is gathered next."""
        opened = self._open()
        if isinstance(opened, Trouble):
            return opened
        stale = self._waiting(opened)
        if stale:
            self.log.note(WIRE, "something came unasked; connecting anew")
            self.close()
            opened = self._open()
            if isinstance(opened, Trouble):
                return opened
        self.log.note(SENT, text)
        try:
            _send(opened, text.encode("ascii", "replace") + self.speech.end)
        except Exception as error:  # noqa: BLE001  a border: whatever the backend raises is a wire that fails
            return self._failed(State.NOT_THERE, f"{self.at.short} doesn't take what is sent.", error)
        return None

    def newest_line(self) -> bytes | Trouble:
        """The newest whole line of an instrument that sends by itself, without its end.

        The first after connecting is thrown away: whoever comes in the middle of “48.2” hears “8.2”.
        """
        is_torn = self._resource is None
        opened = self._open()
        if isinstance(opened, Trouble):
            return opened
        found = self._gathered(self._line_in)
        if is_torn and not isinstance(found, Trouble) and self.speech.end[-1:] not in found:
            found = self._gathered(self._line_in)
        while not isinstance(found, Trouble) and self._waiting(opened):
            found = self._gathered(self._line_in)
        if isinstance(found, Trouble):
            return found
        *_, newest = found.split(self.speech.end[-1:])
        return newest.removesuffix(b"\r")

    def stop(self) -> None:
        """Give up what is being waited for; may be called from any thread."""
        self._stop.set()

    def go(self) -> None:
        """Be ready again after a stop."""
        self._stop.clear()

    def close(self) -> None:
        """Close the connection; the next question opens another."""
        resource, self._resource = self._resource, None
        if resource is not None:
            try:
                _closed(resource)
            except Exception as error:  # noqa: BLE001  it is gone either way
                self.log.note(WIRE, f"closing: {error}")

    # inside

    def _open(self) -> "MessageBasedResource | Trouble":
        if self._resource is not None:
            return self._resource
        try:
            self._resource = self._opened()
        except Exception as error:  # noqa: BLE001  a border
            return self._failed(State.NOT_THERE, f"Nobody answers at {self.at.short}.", error)
        self.log.note(WIRE, f"connected to {self.at.short}")
        return self._resource

    def _opened(self) -> "MessageBasedResource":
        visa = manager()  # first of all: several workers that import the backend at once find half of it
        from pyvisa.resources import MessageBasedResource

        if self.at.by == "a socket":
            socket.gethostbyname(self.at.short.rpartition(":")[0])  # the backend loses a socket over an unknown name
        made = visa.open_resource(self.at.resource, open_timeout=round(self.speech.timeout_s * 1000))
        if not isinstance(made, MessageBasedResource):
            _closed(made)
            raise TypeError("no messages can be sent to it")
        inner = _interface(made)
        if isinstance(inner, socket.socket):
            try:
                inner.getpeername()
                inner.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)  # else a question behind a command waits
            except OSError:  # the backend opens a port that nobody listens on
                _closed(made)
                raise
        made.timeout = round((SLICE_S if self.at.is_serial else self.speech.timeout_s) * 1000)
        if self.at.is_serial:
            made.baud_rate = self.at.baud or self.speech.baud  # type: ignore[attr-defined]
        return made

    def _gathered(self, whole: Callable[[bytearray], bool]) -> bytes | Trouble:
        """What comes, until it is whole or the time is over."""
        resource, came = self._resource, bytearray()
        if resource is None:
            return Trouble(State.HUNG_UP, f"{self.at.short} is closed.")
        until = time.monotonic() + self.speech.timeout_s
        while not whole(came):
            if self._stop.is_set():
                self.close()
                return Trouble(State.STOPPED, "Waiting for it was stopped.", _text(came))
            if time.monotonic() > until:
                return self._late(came)
            if len(came) > MOST:
                return self._failed(State.GARBLED, f"{self.at.short} sends without end.", None, came)
            try:
                piece = _slice(resource)
            except Exception as error:  # noqa: BLE001  a border
                return self._failed(State.HUNG_UP, f"The wire to {self.at.short} failed.", error, came)
            if piece is None:
                return self._failed(State.HUNG_UP, f"{self.at.short} hung up.", None, came)
            came += piece
        self.log.note(CAME, bytes(came))
        return bytes(came).removesuffix(b"\n").removesuffix(b"\r")

    def _line_in(self, came: bytearray) -> bool:
        return came.endswith(self.speech.end[-1:])

    def _late(self, came: bytearray) -> Trouble:
        seconds = f"{self.speech.timeout_s:g} s"
        if came:
            return self._failed(State.BROKEN_OFF, f"The reply broke off after {len(came)} bytes.", None, came)
        return self._failed(State.SILENT, f"No reply within {seconds}.", None)

    def _failed(self, state: State, what: str, error: Exception | None, came: bytes | bytearray = b"") -> Trouble:
        """Whatever failed, the next question goes over a fresh connection."""
        if came:
            self.log.note(CAME, bytes(came))
        self.log.note(WIRE, f"{what}{f' ({error})' if error else ''}")
        self.close()
        return Trouble(state, what, _text(came))

    def _waiting(self, resource: "MessageBasedResource") -> bool:
        """Whether something came that nobody asked for, or the peer is gone."""
        inner = _interface(resource)
        if isinstance(inner, socket.socket):
            try:
                inner.recv(1, socket.MSG_PEEK | socket.MSG_DONTWAIT)
            except BlockingIOError:
                return False
            except OSError:
                return True
            return True
        try:
            return bool(getattr(inner, "in_waiting", 0))
        except OSError:  # a serial port that was pulled out
            return True


def _send(resource: "MessageBasedResource", data: bytes) -> None:
    """Send it, by the socket itself where there is one: the backend takes as long as the whole reply does."""
    inner = _interface(resource)
    if isinstance(inner, socket.socket):
        inner.sendall(data)
    else:
        resource.write_raw(data)


def _slice(resource: "MessageBasedResource") -> bytes | None:
    """What came within a slice of time, nothing where nothing did; none at all of a peer that hung up."""
    inner = _interface(resource)
    if isinstance(inner, socket.socket):
        return (inner.recv(_PIECE) or None) if select.select([inner], [], [], SLICE_S)[0] else b""
    if hasattr(inner, "in_waiting"):  # the backend loses what came at the very end of a slice: a digit, now and then
        return bytes(inner.read(max(inner.in_waiting, 1)))
    try:
        data: bytes = resource.visalib.read(resource.session, MOST)[0]
    except Exception as error:
        if _is_timeout(error):
            return b""
        raise
    return data


def _interface(resource: "MessageBasedResource") -> Any:
    """The socket or serial port behind a resource of the pure-Python backend; none behind others."""
    sessions = getattr(resource.visalib, "sessions", {})
    return getattr(sessions.get(resource.session), "interface", None)


def _is_timeout(error: Exception) -> bool:
    from pyvisa.constants import StatusCode
    from pyvisa.errors import VisaIOError

    return isinstance(error, VisaIOError) and error.error_code == StatusCode.error_timeout


def _block_in(came: bytearray) -> bool:
    length = block_length(bytes(came[:16]))
    return length is not None and len(came) >= length if came.startswith(b"#") else came.endswith(b"\n")


def _text(came: bytes | bytearray) -> str:
    return bytes(came).decode("ascii", "backslashreplace")


_one_at_a_time = threading.Lock()


def _closed(resource: "Resource") -> None:
    """Close a connection for good: the backend keeps all that ever were (1.8 kB each, 8 MB in an hour of trouble)."""
    session, library = resource.session, resource.visalib
    try:
        resource.close()
    finally:
        for kept in ("sessions", "_last_status_in_session", "_ignore_warning_in_session"):
            getattr(library, kept, {}).pop(session, None)


_manager: "list[ResourceManager]" = []


def manager() -> "ResourceManager":
    """The backend, imported and made on first use, by one worker for all."""
    with _one_at_a_time:
        if not _manager:
            from pyvisa import ResourceManager

            _manager.append(ResourceManager("@py"))
        return _manager[0]
