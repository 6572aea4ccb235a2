"""What a key in the readings has read by wire: the channel in hand, its round, a trace, or all that follows."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from shiboken6 import isValid

from fenmist.desk.bench import Bench
from fenmist.desk.wiring import Wiring
from fenmist.instruments.instrument import Samples
from fenmist.instruments.trouble import Trouble
from fenmist.reading.event import Slot
from fenmist.session.autorun import CHANNEL, AutoRun

TRACE = "trace"

Say = Callable[[str], object]
"""Says what went wrong."""


def read_by_wire(wiring: Wiring, bench: Bench, what: str, slot: Slot, say: Say) -> None:
    """Begin to read; where nothing is on a wire say so, or in the demonstration start a simulated bench first.

    Parameters
    ----------
    what : str
        One of those of `session.autorun`, or `TRACE`.
    slot : Slot
        The one in hand.
    """
    job, wires = bench.job, wiring.wires
    sequence = job.job.point(slot.point).sequence
    wanted = sequence[slot.position : slot.position + 1] if what in (CHANNEL, TRACE) else sequence
    if any(wires.reads(job.job, channel) for channel in wanted):
        if what == TRACE:
            _fetch_trace(wiring, bench, slot, say)
        else:
            wiring.start_run(AutoRun(job, wires, slot, what), job)
    elif job.job.demo and not wires.attached and not wiring.bench_runs:
        say("Nothing is on a wire: a simulated bench of this job is started.")

        def begin() -> None:
            if isValid(bench):  # it may have left the window meanwhile
                read_by_wire(wiring, bench, what, slot, say)

        wiring.bench_started.connect(begin, Qt.ConnectionType.SingleShotConnection)
        wiring.start_bench_of(job)
    else:
        say("Nothing that is read here is on a wire. Attach it under Instruments (Ctrl+5), as that part.")


def _fetch_trace(wiring: Wiring, bench: Bench, slot: Slot, say: Say) -> None:
    """The samples of an oscilloscope as the reading in hand, kept as a capture."""
    job, wires = bench.job, wiring.wires
    who = wires.reads(job.job, job.job.point(slot.point).sequence[slot.position])
    driver = wires.driver_of(who[0]) if who is not None else None
    if who is None or driver is None or driver.trace is None:
        say("No trace can be fetched here: what is read gives none over its wire.")
        return

    def take(came: object) -> None:
        if isinstance(came, Samples):
            job.enter_samples(slot, came)
            bench.step.go_on_from(slot)
        elif isinstance(came, Trouble):
            say(str(came))

    wiring.ask(who[0].id, lambda instrument: instrument.trace(), take)
