"""How long something takes here and now."""

import statistics
import time
from collections.abc import Callable, Sequence

most_runs = 1000
"""Runs that are made of anything; one in a smoke run."""


def median_seconds(work: Callable[[], object], runs: int) -> float:
    """Median over some runs."""
    return in_turn_seconds((work,), runs)[0]


def in_turn_seconds(works: Sequence[Callable[[], object]], runs: int) -> list[float]:
    """The same of several that are held against each other: in turn, so that a slow minute falls on all of them."""
    spent: list[list[float]] = [[] for _ in works]
    for _ in range(min(runs, most_runs)):
        for times, work in zip(spent, works, strict=True):
            begun = time.perf_counter()
            work()
            times.append(time.perf_counter() - begun)
    return [statistics.median(times) for times in spent]
