"""Polling for a long time with everything going wrong: memory flat, no wrong reading (in short: 20 seconds)."""

import gc
import time
import tracemalloc

import pytest

from fenmist.instruments.trouble import State, Trouble
from support.served import served


def poll(seconds):
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
        good, states, wrong = 0, set(), []
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


def held(seconds, most_bytes):
    good, states, wrong, growth = poll(seconds)

    assert wrong == []
    assert good > 2 * seconds
    assert {State.SILENT, State.HUNG_UP, State.GARBLED} <= states
    assert growth < most_bytes


def test_polling_with_random_trouble_gives_no_wrong_reading():
    held(20.0, 400_000)


@pytest.mark.long
def test_two_hours_of_polling_leave_memory_flat():
    held(7200.0, 400_000)
