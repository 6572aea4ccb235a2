"""A simulated bench served in this process, and instruments that talk to it."""

import asyncio
import gc
import os
import socket
import threading
from collections.abc import Coroutine, Iterator
from contextlib import contextmanager
from typing import Any, TypeVar
from unittest.mock import patch

from fenmist.calibration.job import Job
from fenmist.instruments.address import address
from fenmist.instruments.driver import shipped
from fenmist.instruments.instrument import Instrument
from fenmist.kit.part import PartKind
from fenmist.simulation.live import LiveBench
from fenmist.simulation.scenarios import job_bench, live_bench, scenario
from fenmist.simulation.serving import Mischief, Serving

T = TypeVar("T")

DRIVERS = {
    "oscilloscope": "scpi-oscilloscope", "power meter": "scpi-power-meter", "RF voltmeter": "scpi-voltmeter",
    "RF ammeter": "scpi-ammeter", "generator": "scpi-generator", "DC supply": "scpi-supply",
    "analyser": "scpi-analyser", "line meter": "line-meter",
}  # fmt: skip


def free_ports(count: int = 8) -> int:
    """First of so many free ports in a row, for a bench that comes back at the same addresses.

    They lie below those that systems give to whoever connects (from 32,768 on): there another test's wire may
    take one at any time. Each process looks from another one on.
    """
    for first in range(21_000 + os.getpid() * count % 10_000, 32_000, count):
        try:
            for port in range(first, first + count):
                socket.create_server(("127.0.0.1", port)).close()
        except OSError:
            continue
        return first
    raise OSError(f"no {count} free ports in a row")


class Bench:
    """What is served, and instruments of its stand-ins by id.

    Python's cyclic collector rests meanwhile, whoever lets it go on: in the thread that serves it would take away
    widgets of windows that are closed, and Qt must lose those in the window's thread only.
    """

    def __init__(self, live: LiveBench, mischief: Mischief, counts: bool, hurry: float = 1.0) -> None:
        self.live, self.mischief = live, mischief
        gc.disable()
        self._rest = patch.object(gc, "enable")
        self._rest.start()
        self.loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self.loop.run_forever, daemon=True)
        self._thread.start()
        self.serving = Serving(live, mischief=mischief, hurry=hurry)
        self.served = self._run(self.serving.start())
        self.instruments = {}
        for item in self.served:
            name = "line-counts" if counts and item.stand_in.kind == "line meter" else DRIVERS[item.stand_in.kind]
            self.instruments[item.stand_in.id] = Instrument(address(item.address), shipped()[name], wait=lambda _: None)

    def address(self, stand_in: str) -> str:
        """Where a stand-in answers."""
        return next(item.address for item in self.served if item.stand_in.id == stand_in)

    def key(self, watts: float = 50.0, frequency_hz: float = 8.291e6) -> dict[str, float]:
        """Set level and frequency over the wire and key down; what fills commands."""
        at = {"frequency_hz": frequency_hz, "level_w": watts, "level_dbm": 46.9897}
        for name in ("level", "frequency", "on"):
            assert self.instruments["transmitter"].set(name, at) is None
        return at

    def _run(self, work: Coroutine[Any, Any, T]) -> T:
        return asyncio.run_coroutine_threadsafe(work, self.loop).result(10.0)

    def close(self) -> None:
        """Let go of the wires, and stop serving."""
        for item in self.instruments.values():
            item.close()
        self._run(self.serving.stop())
        self.loop.call_soon_threadsafe(self.loop.stop)
        self._thread.join(5.0)
        self.loop.close()
        self._rest.stop()
        gc.enable()


@contextmanager
def served(name: str = "live", seed: int = 1, trouble: float = 0.0) -> Iterator[Bench]:
    """A bench of a scenario, served in this process; so often something goes wrong."""
    made = Bench(live_bench(scenario(name), seed), Mischief(trouble, seed), name == "home-built")
    try:
        yield made
    finally:
        made.close()


@contextmanager
def served_job(job: Job, seed: int = 1, hurry: float = 1.0) -> Iterator[Bench]:
    """A bench of a job's hook-up, served in this process, its time so many times as quick."""
    counts = any(part.kind is PartKind.HOME_BUILT for part in job.kit)
    others = [item for item in job.hookups if item.id != job.bench.id]
    made = Bench(job_bench(job.bench, job.parts, seed, others=others), Mischief(), counts, hurry)
    try:
        yield made
    finally:
        made.close()
