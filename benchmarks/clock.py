"""How long something takes here and now."""

import statistics
import time
from collections.abc import Callable


def median_seconds(work: Callable[[], object], runs: int) -> float:
    """Median over some runs."""
    spent = []
    for _ in range(runs):
        begun = time.perf_counter()
        work()
        spent.append(time.perf_counter() - begun)
    return statistics.median(spent)
