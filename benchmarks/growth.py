"""What a long record costs: entering, undoing, notes and results, from a hundred events to twenty-five thousand.

The peer is the same at a hundred events (entering, undoing) or at a fifth of the length (notes and results); the limits
are twice, and in proportion.
"""

import tempfile
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from benchmarks.clock import median_seconds
from fenmist.units.moment import moment_from_text

if TYPE_CHECKING:
    from fenmist.calibration.job import Job

SIZES = ((25, 2), (250, 2), (1000, 3), (2500, 5))
"""Points and rounds; each round is two readings."""

FRESH = moment_from_text("2026-01-01T08:00:00+00:00")


def lines() -> list[str]:
    """A line per size."""
    made, first = [], (0.0, 0.0)
    for points, rounds in SIZES:
        entry, undo, worked, events = _measured(points, rounds)
        first = first if any(first) else (entry, undo)
        made.append(
            f"{events} events at {points} points: an entry {1e3 * entry:.1f} ms = {entry / first[0]:.1f}x the first "
            f"line's, an undo {1e3 * undo:.1f} ms = {undo / first[1]:.1f}x; results and all notes {worked:.2f} s = "
            f"{1e6 * worked / events:.0f} µs an event"
        )
    return made


def _measured(points: int, rounds: int) -> tuple[float, float, float, int]:
    from fenmist.reading.event import Slot
    from fenmist.session.session import Session
    from fenmist.session.view import View

    with tempfile.TemporaryDirectory() as folder:
        session = Session(Path(folder) / "book.fenlog", second_folder=Path(folder))
        session.logbook.add_job(long_job(points, rounds))
        job = session.open("job")
        slot = Slot("p3", 1, 1)

        def work() -> None:
            fresh = View(replace(job.job), job.view.as_of)
            _ = fresh.result, fresh.notes

        worked = median_seconds(work, 3)
        entry = median_seconds(lambda: job.enter(slot, "98.7"), 31)
        undo = median_seconds(job.commands.undo, 31)
        session.close()
        return entry, undo, worked, points * rounds * 2


def long_job(points: int, rounds: int) -> "Job":
    """A job with every round of its plan read."""
    import numpy as np

    from fenmist.kit.generic import starter_shelf
    from fenmist.procedures.comparison.make import cross_check, plan_points
    from fenmist.reading.event import Entry, Event, EventKind, Reading, Slot

    plan = plan_points(np.linspace(2e6, 30e6, points), [100.0], "200", repeats=rounds)
    made = cross_check("job", "bench", starter_shelf(), plan, created_at=FRESH)
    at = FRESH
    events = []
    for number, (point, turn, position) in enumerate(
        (point, turn, position) for point in plan for turn in range(1, rounds + 1) for position in (0, 1)
    ):
        at += timedelta(seconds=7)
        channel = made.channel(point.sequence[position])
        value = 200.0 + number % 3 * 0.2 if position == 0 else 99.0 + number % 7 * 0.1
        reading = Reading(value, made.indicator(channel.id).unit, 0.1)
        used = "200" if made.is_device(channel.id) else ""
        slot = Slot(point.id, turn, position)
        entry = Entry(slot, channel.id, channel.element, channel.indicator, used, f"{value:g}", reading, observed_at=at)
        events.append(Event(f"e{number}", EventKind.ENTER, at, entry))
    return replace(made, events=tuple(events))
