"""Runs all benchmarks and prints ratios; numbers are of this machine and this run.

    python -m benchmarks [--smoke]

A smoke run does everything once, at small sizes, in seconds: it tells that they run, not how fast anything is.
"""

import sys

from benchmarks import (
    capture,
    clock,
    designer,
    explained,
    growth,
    hookup,
    keystroke,
    logbook,
    meters,
    shelf,
    start,
    uncertainty,
    wires,
)

PARTS = (
    start,
    keystroke,
    growth,
    hookup,
    shelf,
    logbook,
    uncertainty,
    capture,
    meters,
    explained,
    designer,
    wires,
)
SMALL: dict[str, dict[str, object]] = {
    "benchmarks.start": {"RUNS": 1},
    "benchmarks.keystroke": {"MANY": 6, "READ": 2, "HAND_S": 0.0},
    "benchmarks.growth": {"SIZES": ((4, 1), (8, 2))},
    "benchmarks.hookup": {"POINTS": 12, "FREQUENCIES_PLANNED": (3, 6), "BLOCKS": 2, "FREQUENCIES": 11},
    "benchmarks.shelf": {"PARTS": 0},
    "benchmarks.logbook": {"JOBS": 11, "POINTS": 6},
    "benchmarks.uncertainty": {"POINTS": 10, "TRIALS": 20_000},
    "benchmarks.capture": {"SAMPLES": 20_000},
    "benchmarks.meters": {"SAMPLES": 20_000},
    "benchmarks.explained": {"POINTS": (6,)},
    "benchmarks.designer": {"SERIES": ("E6",), "TIMES": 1},
    "benchmarks.wires": {"READINGS": 5, "SPEECH_S": 0.5},
}
"""Sizes of a smoke run, by module."""


def main(arguments: list[str]) -> None:
    """Print each benchmark's lines."""
    if arguments == ["--smoke"]:
        clock.most_runs = 1
        for part in PARTS:
            for name, value in SMALL[part.__name__].items():
                setattr(part, name, value)
    elif arguments:
        raise SystemExit("usage: python -m benchmarks [--smoke]")
    for part in PARTS:
        for line in part.lines():
            print(line, flush=True)


if __name__ == "__main__":
    main(sys.argv[1:])
