"""A reading over the wire beside a bare echo of as many bytes; a simulated bench; speech through four meters."""

import asyncio
import socket
import threading
import time

from benchmarks.clock import median_seconds
from fenmist.instruments.address import address
from fenmist.instruments.driver import shipped
from fenmist.instruments.instrument import Instrument
from fenmist.simulation.envelopes import NAMED
from fenmist.simulation.live import LiveBench
from fenmist.simulation.needle import AVERAGING, HOLD, PEAK, THERMAL, Needle, TrueMovement
from fenmist.simulation.scenarios import live_bench, scenario
from fenmist.simulation.scpi import Interpreter
from fenmist.simulation.serving import Serving

READINGS = 400
SPEECH_S = 10.0


def lines() -> list[str]:
    """A line each."""
    return [_chain(), _simulated(), _speech()]


def _chain() -> str:
    bench = live_bench(scenario("divider"), 1)
    loop = asyncio.new_event_loop()
    thread = threading.Thread(target=loop.run_forever, daemon=True)
    thread.start()
    serving = Serving(bench)
    served = asyncio.run_coroutine_threadsafe(serving.start(), loop).result()
    echo = asyncio.run_coroutine_threadsafe(asyncio.start_server(_echo, "127.0.0.1", 0), loop).result()
    at = next(item for item in served if item.stand_in.kind == "RF voltmeter")
    meter = Instrument(address(at.address), shipped()["scpi-voltmeter"])
    meter.identify()
    item = at.stand_in.interpreter
    own = median_seconds(lambda: _answered(serving, item), READINGS)
    chain = median_seconds(lambda: meter.read("volts", {}), READINGS)
    with socket.create_connection(echo.sockets[0].getsockname()) as bare:
        bare.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        peer = median_seconds(lambda: _echoed(bare), READINGS)
    meter.close()
    loop.call_soon_threadsafe(echo.close)
    asyncio.run_coroutine_threadsafe(serving.stop(), loop).result()
    loop.call_soon_threadsafe(loop.stop)
    thread.join()
    loop.close()
    return (
        f"a reading through the whole chain {1e3 * chain:.2f} ms, {1e3 * own:.2f} ms of it the instrument's; a bare "
        f"echo {1e3 * peer:.2f} ms: {chain / (own + 2.0 * peer):.2f} of the instrument's time and two echoes (aim 1)"
    )


def _answered(serving: Serving, item: Interpreter | None) -> bytes:
    serving.run_clock()
    return item.receive("MEAS:VOLT:AC?") if item is not None else b""


def _echoed(bare: socket.socket) -> bytes:
    bare.sendall(b"MEAS:VOLT:AC?\n")
    return bare.recv(100)


async def _echo(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    while line := await reader.readline():
        writer.write(line)
    writer.close()


def _simulated() -> str:
    bench = live_bench(scenario("pad"), 1)
    bench.set(on=True)
    begun = time.perf_counter()
    for _ in range(READINGS):
        _read(bench)
    return f"a simulated bench: {2 * READINGS / (time.perf_counter() - begun):.0f} readings a second (aim 1,000)"


def _read(bench: LiveBench) -> None:
    bench.advance(0.5)
    bench.shown("wattmeter", "forward")
    bench.shown("meter", "reading")


def _speech() -> str:
    meters = [Needle(TrueMovement(kind)) for kind in (AVERAGING, THERMAL, HOLD, PEAK)]
    envelope = NAMED["speech"]()
    begun = time.perf_counter()
    for needle in meters:
        needle.run(envelope, 1.0, 0.0, SPEECH_S)
    return f"speech through four meters: {SPEECH_S / (time.perf_counter() - begun):.0f} times real time (aim 20)"
