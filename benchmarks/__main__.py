"""Runs all benchmarks and prints ratios; numbers are of this machine and this run.

    python -m benchmarks [--smoke | --write]

`--write` puts it into docs/benchmarks.md, with the machine named.
A smoke run does everything once, at small sizes, in seconds: it tells that they run, not how fast anything is.
"""

import os
import platform
import re
import sys
from datetime import date
from importlib.metadata import version
from pathlib import Path

from benchmarks import (
    capture,
    clock,
    designer,
    explained,
    growth,
    hookup,
    keystroke,
    logbook,
    memory,
    meters,
    paper,
    shelf,
    start,
    uncertainty,
    wires,
)

PARTS = (
    memory,  # first: what others leave behind would hide its growth
    start,
    keystroke,
    growth,
    hookup,
    shelf,
    logbook,
    paper,
    uncertainty,
    capture,
    meters,
    explained,
    designer,
    wires,
)
SMALL: dict[str, dict[str, object]] = {
    "benchmarks.start": {"RUNS": 1},
    "benchmarks.keystroke": {"POINTS": (6,), "READ": 2, "HAND_S": 0.0},
    "benchmarks.growth": {"SIZES": ((4, 1), (8, 2))},
    "benchmarks.hookup": {"POINTS": 12, "FREQUENCIES_PLANNED": (3,), "EDITS": 1, "BLOCKS": 2, "FREQUENCIES": 11},
    "benchmarks.shelf": {"PARTS": 0},
    "benchmarks.logbook": {"JOBS": 11, "POINTS": 6},
    "benchmarks.paper": {"POINTS": (4,)},
    "benchmarks.memory": {"JOBS": 1, "POINTS": 2, "CERTIFICATES": 0},
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
    elif arguments not in ([], ["--write"]):
        raise SystemExit("usage: python -m benchmarks [--smoke | --write]")
    found: list[str] = []
    for part in PARTS:
        for line in part.lines():
            print(line, flush=True)
            found.append(line)
    if arguments == ["--write"]:
        PAGE.write_text(page(found))


PAGE = Path(__file__).parent.parent / "docs" / "benchmarks.md"


def page(lines: list[str]) -> str:
    """What was measured as a page, with the machine and the day."""
    rows = (line.split(": ", 1) for line in lines)
    table = "\n".join(f"| {what} | {found} |" for what, found in rows)
    versions = ", ".join(f"{name} {version(name)}" for name in ("numpy", "scipy", "PySide6_Essentials"))
    return (
        "# What must be fast\n\nMeasured by `python -m benchmarks --write`; only ratios tell from machine to machine, "
        f"and each is of one run.\n\n{date.today().isoformat()}, {_processor()}, {os.cpu_count()} cores, Python "
        f"{platform.python_version()}, {versions}.\n\n| what | found |\n|---|---|\n{table}\n"
    )


def _processor() -> str:
    known = Path("/proc/cpuinfo").read_text() if Path("/proc/cpuinfo").exists() else ""
    named = re.search(r"model name\s*: (.+)", known)
    return named[1].strip() if named else platform.machine()


if __name__ == "__main__":
    main(sys.argv[1:])
