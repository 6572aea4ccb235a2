"""What a comparison's job is told: its notes by code, as they are read."""

import math
from dataclasses import replace
from datetime import date

from fenmist.calibration.job import Job
from fenmist.findings.note import Note
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from support.texts import spaced

DAY = date(2026, 11, 24)


def notes(made: Job, code: str, phase: str = "as found") -> list[Note]:
    """Those of one code."""
    found = reduce(made)
    result = found if phase == "as found" else reduce(made, phase)
    return [note for note in judge(made, result, DAY, phase, found) if note.code == code]


def one(made: Job, code: str, phase: str = "as found") -> tuple[str, str, str, str]:
    """The only one of a code: about, what, why, remedy, with plain spaces."""
    (note,) = notes(made, code, phase)
    return note.about, spaced(note.what), spaced(note.why), spaced(note.remedy)


def fine(made: Job, part: float = 0.01) -> Job:
    """Read by an eye that parts a division finely."""
    return replace(made, part_of_division=part)


def volts(watts: float) -> str:
    """Peak to peak of so many watts in 50 Ω: √(8·50·P)."""
    return f"{math.sqrt(400.0 * watts):.5g}"
