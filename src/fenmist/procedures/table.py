"""The rooms that there are: the only place that knows them all. Each is imported when it is first asked for."""

from collections.abc import Callable
from importlib import import_module
from typing import TYPE_CHECKING, Any

from fenmist.errors import UnknownIdError

if TYPE_CHECKING:
    from fenmist.calibration.job import Job
    from fenmist.procedures.procedure import Procedure


def _in(folder: str) -> "Callable[[], Procedure[Any]]":
    """The room of a folder, which calls it as the folder, in capitals."""
    return lambda: getattr(import_module(f"fenmist.procedures.{folder}.room"), folder.upper())


ROOMS: "dict[str, Callable[[], Procedure[Any]]]" = {
    "comparison": _in("comparison"), "output": _in("output"), "reflection": _in("reflection"), "loss": _in("loss"),
    "linearity": _in("steps"), "modulation": _in("modulation"), "constants": _in("constants"), "triage": _in("triage"),
}  # fmt: skip
"""How each is had, by its id, in the order in which they are offered."""


def rooms() -> "tuple[Procedure[Any], ...]":
    """All of them, in that order."""
    return tuple(made() for made in ROOMS.values())


def procedure_of(job: "Job") -> "Procedure[Any]":
    """The room that answers a job's question; raises UnknownIdError."""
    return room_of(job.question)


def room_of(question: str) -> "Procedure[Any]":
    """A room by its id; raises UnknownIdError."""
    made = ROOMS.get(question)
    if made is None:
        raise UnknownIdError(
            f"This Fenmist knows no procedure “{question}”.", "The job comes from a newer one: open it there."
        )
    return made()
