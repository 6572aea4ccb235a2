"""The rooms that there are: the only place that knows them all."""

from collections.abc import Mapping
from typing import Any

from fenmist.calibration.job import Job
from fenmist.errors import UnknownIdError
from fenmist.procedures.comparison.room import COMPARISON
from fenmist.procedures.constants.room import CONSTANTS
from fenmist.procedures.loss.room import LOSS
from fenmist.procedures.modulation.room import MODULATION
from fenmist.procedures.output.room import OUTPUT
from fenmist.procedures.procedure import Procedure
from fenmist.procedures.reflection.room import REFLECTION
from fenmist.procedures.steps.room import STEPS
from fenmist.procedures.triage.room import TRIAGE

ROOMS: tuple[Procedure[Any], ...] = (COMPARISON, OUTPUT, REFLECTION, LOSS, STEPS, MODULATION, CONSTANTS, TRIAGE)
"""In the order in which they are offered."""

_BY_ID: Mapping[str, Procedure[Any]] = {room.id: room for room in ROOMS}


def procedure_of(job: Job) -> Procedure[Any]:
    """The room that answers a job's question; raises UnknownIdError."""
    return room_of(job.question)


def room_of(question: str) -> Procedure[Any]:
    """A room by its id; raises UnknownIdError."""
    room = _BY_ID.get(question)
    if room is None:
        raise UnknownIdError(
            f"This Fenmist knows no procedure “{question}”.", "The job comes from a newer one: open it there."
        )
    return room
