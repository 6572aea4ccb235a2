"""Records as JSON: typed, deterministic, without numbers that JSON can't hold."""

import hashlib
import json
import math
from collections.abc import Mapping
from dataclasses import replace
from functools import cache
from typing import TYPE_CHECKING, Any, TypeVar, cast

import msgspec

from fenmist.errors import DamagedLogbookError, UnkeepableError
from fenmist.kit.same import Latest, Same

if TYPE_CHECKING:  # whoever has a record has its class; a logbook is opened without
    from fenmist.calibration.job import Job
    from fenmist.kit.part import Part
    from fenmist.reading.event import Event

T = TypeVar("T", "Job", "Part", "Event")


@cache
def _decoder(kind: Any) -> msgspec.json.Decoder[Any]:
    return msgspec.json.Decoder(kind)


def encode(record: "Job | Part | Event") -> str:
    """Canonical JSON of a record; a job without its events, which are kept one by one. What it gives can be read again.

    Raises
    ------
    UnkeepableError
        Where a number is infinite or not a number (it would come back as nothing) or too long, or a text can't be
        written as UTF-8.
    """
    from fenmist.calibration.job import Job, PlanPoint

    kind = type(record).__name__.lower()
    try:
        if not isinstance(record, Job):
            return _written(record, type(record), kind)[1].decode()
        points = record.plan
        plan = _PLANS.once(
            Same(points), lambda: msgspec.Raw(_written(points, tuple[PlanPoint, ...], f"{kind}.plan")[1])
        )
        builtins, _ = _written(replace(record, events=(), plan=()), Job, kind)
        return msgspec.json.encode({**builtins, "plan": plan}, order="deterministic").decode()
    except (UnicodeEncodeError, OverflowError, msgspec.MsgspecError) as error:
        raise UnkeepableError(f"A {kind} can't be kept: {error}.", "Look at what was typed there.") from error


_PLANS: Latest[msgspec.Raw] = Latest(2)
"""The longest part of a job: most edits leave it as it was."""


def _written(value: object, kind: Any, path: str) -> tuple[Any, bytes]:
    """Builtins and JSON of what can be read again as that type."""
    builtins = msgspec.to_builtins(value)
    try:
        json.dumps(builtins, allow_nan=False)  # quicker than looking at each number from here
    except ValueError:
        bad = not_finite(builtins, path)
        said = f"“{bad}” is no finite number and can't be kept."
        raise UnkeepableError(said, "Look at what was typed there.") from None
    made = msgspec.json.encode(builtins, order="deterministic")
    _decoder(kind).decode(made)
    return builtins, made


def decode(text: str, record: type[T]) -> T:
    """A record from its JSON; raises DamagedLogbookError where it doesn't fit."""
    try:
        return cast(T, _decoder(cast(Any, record)).decode(text))
    except (msgspec.DecodeError, ValueError, RecursionError) as error:
        raise DamagedLogbookError(
            f"A {record.__name__.lower()} in the logbook can't be read: {error}.",
            "The file was left as it is. Open the newest backup.",
        ) from error


def record_hash(job: "Job") -> str:
    """SHA-256 over every field of a job's definition and of all its events: changes with anything on record."""
    return hash_as_written(msgspec.to_builtins(replace(job, events=tuple(job.events))))


def hash_as_written(job: Mapping[str, Any]) -> str:
    """The same over a job's values as a file holds them, whichever version wrote it."""
    digest = hashlib.sha256(msgspec.json.encode({**job, "events": []}, order="deterministic"))
    for event in job.get("events", ()):
        digest.update(msgspec.json.encode(event, order="deterministic"))
    return digest.hexdigest()


def not_finite(value: Any, path: str) -> str:
    """Path of the first number in builtin values that is infinite or none, or nothing."""
    if isinstance(value, float) and not math.isfinite(value):
        return path
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list | tuple) else ()
    return next((found for key, item in items if (found := not_finite(item, f"{path}.{key}"))), "")
