"""Stand-ins served on loopback, each on a port of its own: one live bench behind them all, its clock the machine's.

What can go wrong with a wire can be asked for, by chance: replies that come late, half, garbled or not at all, a peer
that hangs up.
"""

import asyncio
import math
import time
from collections.abc import Callable, Coroutine
from contextlib import suppress
from dataclasses import field

import numpy as np

from fenmist.frozen import dataclass
from fenmist.simulation.live import LiveBench
from fenmist.simulation.scpi import nr3
from fenmist.simulation.standins import LINES, SCPI, StandIn, stand_ins

LOOPBACK = "127.0.0.1"
LINE_EVERY_S = 0.2
"""Between two lines of a meter that sends them."""

LONGEST = 65_536
"""Bytes of a message before it is thrown away."""


@dataclass
class Mischief:
    """What goes wrong on the wire, and how often."""

    rate: float = 0.0  # of messages
    seed: int = 0
    kinds: tuple[str, ...] = ("silent", "late", "hang up", "garbage", "half", "not ascii", "overrange", "empty")
    late_s: float = 0.6
    _rng: np.random.Generator = field(init=False)

    def __post_init__(self) -> None:
        self._rng = np.random.default_rng(self.seed)

    def chosen(self) -> str:
        """What goes wrong with the next response; nothing, most of the time."""
        if not self.kinds or self._rng.uniform() >= self.rate:
            return ""
        return str(self._rng.choice(self.kinds))


SPOILED: dict[str, Callable[[bytes], bytes]] = {
    "silent": lambda _: b"",
    "garbage": lambda _: b"%&?$~ 7\x01\x02,,E+\n",
    "half": lambda response: response[: len(response) // 2],
    "not ascii": lambda _: "1,5 Ω\n".encode("latin-1", "replace") + b"\xb5\xff\n",
    "overrange": lambda _: nr3(math.inf).encode() + b"\n",
    "empty": lambda _: b"\n",
}
"""What becomes of a response."""


@dataclass(frozen=True)
class Served:
    """One stand-in with its port."""

    stand_in: StandIn
    port: int

    @property
    def address(self) -> str:
        """As instruments are named."""
        return f"TCPIP::{LOOPBACK}::{self.port}::SOCKET"


class Serving:
    """Servers of one bench.

    Parameters
    ----------
    bench : LiveBench
        What is served.
    own_time_s : float
        What an instrument takes for a response.
    mischief : Mischief, optional
        Of the wire.
    hurry : float
        Seconds of the bench in one of the machine's.
    """

    def __init__(
        self, bench: LiveBench, own_time_s: float = 0.0, mischief: Mischief | None = None, hurry: float = 1.0
    ) -> None:
        self.bench, self._hurry = bench, hurry
        self._own_time_s, self._mischief = own_time_s, mischief or Mischief()
        self._servers: list[asyncio.Server] = []
        self._tasks: set[asyncio.Task[None]] = set()
        self._last = time.monotonic()

    async def start(self, first_port: int = 0) -> tuple[Served, ...]:
        """Listen on free ports, or on one after the other from the first; raises OSError where one is taken."""
        found = []
        spoken = [item for item in stand_ins(self.bench) if item.speaks in (SCPI, LINES)]
        for number, item in enumerate(spoken):
            serve = self._answers(item) if item.speaks == SCPI else self._lines(item)
            port = first_port + number if first_port else 0
            server = await asyncio.start_server(serve, LOOPBACK, port, limit=LONGEST)
            self._servers.append(server)
            found.append(Served(item, server.sockets[0].getsockname()[1]))
        return tuple(found)

    async def stop(self) -> None:
        """Close every port and every connection."""
        for server in self._servers:
            server.close()
        for task in list(self._tasks):
            task.cancel()
        await asyncio.gather(*self._tasks, return_exceptions=True)

    def run_clock(self) -> None:
        """Let the bench's time catch up with the machine's."""
        now = time.monotonic()
        self.bench.advance((now - self._last) * self._hurry)
        self._last = now

    def _answers(self, item: StandIn) -> "Serve":
        async def serve(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            while message := await _message(reader):
                self.run_clock()
                response = item.interpreter.receive(message) if item.interpreter else b""
                if not response:
                    continue
                await asyncio.sleep(self._own_time_s)
                spoiled = self._mischief.chosen()
                if spoiled == "hang up":
                    return
                if spoiled == "late":
                    await asyncio.sleep(self._mischief.late_s)
                writer.write(SPOILED.get(spoiled, bytes)(response))
                await writer.drain()

        return self._watched(serve)

    def _lines(self, item: StandIn) -> "Serve":
        async def serve(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            while not reader.at_eof():
                self.run_clock()
                spoiled = self._mischief.chosen()
                if spoiled == "hang up":
                    return
                writer.write(SPOILED.get(spoiled, bytes)(item.line().encode("ascii") + b"\r\n"))
                await writer.drain()
                await asyncio.sleep(LINE_EVERY_S / self._hurry)

        return self._watched(serve)

    def _watched(self, serve: "Serve") -> "Serve":
        """A connection that ends with its peer, and with the bench."""

        async def watched(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            task = asyncio.current_task()
            if task is not None:
                self._tasks.add(task)
                task.add_done_callback(self._tasks.discard)
            with suppress(ConnectionError, asyncio.CancelledError):
                await serve(reader, writer)
            writer.close()

        return watched


Serve = Callable[[asyncio.StreamReader, asyncio.StreamWriter], Coroutine[None, None, None]]


async def _message(reader: asyncio.StreamReader) -> str:
    """The next message without its terminator, or nothing at the end; one that is too long is thrown away."""
    while True:
        try:
            line = await reader.readuntil(b"\n")
        except asyncio.IncompleteReadError:
            return ""
        except asyncio.LimitOverrunError as error:
            await reader.readexactly(error.consumed)
            continue
        return line.decode("ascii", "replace").rstrip("\r\n") or " "
