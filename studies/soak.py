"""Polling for a long time with everything going wrong."""

import gc
import time
import tracemalloc

from fenmist.instruments.instrument import WireReading
from fenmist.instruments.trouble import State, Trouble
from studies.served import served


def poll(seconds: float) -> tuple[int, set[State], list[WireReading], int]:
    """Poll three instruments; (readings, states seen, wrong readings, growth of memory in bytes)."""
    with served("live") as bench:
        at = bench.key()
        scope, meter = bench.instruments["oscilloscope"], bench.instruments["wattmeter"]
        meter.settle("forward", at)
        for made in (scope, meter):
            made._wire.speech = type(made._wire.speech)(timeout_s=0.3)
        bench.mischief.late_s, bench.mischief.rate = 0.4, 0.15
        volts = bench.live.shown("oscilloscope", "trace")
        watts = bench.live.shown("wattmeter", "forward")
        good, states, wrong = 0, set[State](), list[WireReading]()
        end, middle, before = time.monotonic() + seconds, time.monotonic() + seconds / 2.0, None
        tracemalloc.start()
        while time.monotonic() < end:
            if before is None and time.monotonic() > middle:
                gc.collect()
                before = tracemalloc.get_traced_memory()[0]
            for found, true in ((scope.read("rms", at), volts), (meter.read("forward", at), watts)):
                if isinstance(found, Trouble):
                    states.add(found.state)
                    continue
                good += 1
                if abs(found.value / true - 1.0) > 0.05:
                    wrong.append(found)
        gc.collect()
        growth = tracemalloc.get_traced_memory()[0] - (before or 0)
        tracemalloc.stop()
    return good, states, wrong, growth
