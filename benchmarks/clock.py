"""How long something takes here and now."""

import statistics
import time
from collections.abc import Callable

most_runs = 1000
"""Runs that are made of anything; one in a smoke run."""


def median_seconds(work: Callable[[], object], runs: int) -> float:
    """Median over some runs."""
    spent = []
    for _ in range(min(runs, most_runs)):
        begun = time.perf_counter()
        work()
        spent.append(time.perf_counter() - begun)
    return statistics.median(spent)
