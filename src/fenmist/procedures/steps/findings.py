"""Where an indicator leaves its law: ends of the ladder at which departures grow, and steps that change a range."""

from itertools import pairwise

from fenmist.frozen import dataclass
from fenmist.procedures.steps.reduction import StepPoint, Steps

JUMP_U = 2.0
"""Standard uncertainties by which a step that changes the range must be off (GUM coverage)."""


@dataclass(frozen=True)
class Ladder:
    """The steps at one frequency, the strongest first, and where they leave the law."""

    steps: tuple[StepPoint, ...]
    floor_db: float | None  # from there down the device shows too much of too little
    ceiling_db: float | None  # from there up it shows too little of too much
    jumps: tuple[StepPoint, ...]  # steps at which the range changed, and the departure with it


def ladders(result: Steps) -> tuple[Ladder, ...]:
    """One for each frequency that was read."""
    frequencies = sorted({item.point.frequency_hz for item in result.points})
    return tuple(_ladder(result, f) for f in frequencies)


def _ladder(result: Steps, frequency_hz: float) -> Ladder:
    steps = result.ladder(frequency_hz)
    weakest, strongest = _run(steps[::-1], 1.0), _run(steps, -1.0)
    jumps = tuple(
        item
        for before, item in pairwise(steps)
        if before.range_id != item.range_id
        and abs(item.departure_db - before.departure_db) > JUMP_U * max(item.u_db, before.u_db)
    )
    return Ladder(
        steps, weakest[-1].nominal_db if weakest else None, strongest[-1].nominal_db if strongest else None, jumps
    )


def _run(steps: tuple[StepPoint, ...], sign: float) -> list[StepPoint]:
    """Steps from one end on that are seen to depart to one side, each less than the one before."""
    run: list[StepPoint] = []
    for item in steps:
        off = sign * item.departure_db
        if item.is_reference or off <= item.expanded_u_db or (run and off >= sign * run[-1].departure_db):
            break
        run.append(item)
    return run
