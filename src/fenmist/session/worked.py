"""What came of a job's points, kept in the logbook until its record or the program changes.

Opened again a job needn't be worked out, nor drawn by Monte Carlo, before it stands. Kept are answers alone: what the
engine made of all points together (budgets, covariances) is made when it is asked for. A result is that of the very
record and program: nobody has to remember to throw anything away (docs/decisions/0033).
"""

import hashlib
import zlib
from collections.abc import Iterator
from contextlib import suppress
from functools import cache
from importlib.util import find_spec
from os import DirEntry, scandir
from pathlib import Path
from types import GenericAlias, MappingProxyType
from typing import TYPE_CHECKING, Any, get_args

import msgspec

import fenmist

if TYPE_CHECKING:
    from fenmist.calibration.answers import Answers
    from fenmist.calibration.job import Job
    from fenmist.calibration.outcome import Outcome

ENGINES = ("numpy", "scipy")
"""Packages whose digits are in every result."""


@cache
def program() -> str:
    """What this program is: names, sizes and times of its sources, and of the packages that it reckons with."""
    found = sorted(_sources(Path(fenmist.__file__).parent))
    for name in ENGINES:
        spec = find_spec(name)
        if spec is not None and spec.origin is not None:
            found.append(_facts(name, Path(spec.origin).with_name("version.py")))
    return hashlib.sha256("\n".join(found).encode()).hexdigest()[:32]


def _sources(folder: Path) -> Iterator[str]:
    with scandir(folder) as entries:
        for entry in entries:
            if entry.name.endswith(".py"):
                yield _facts(entry.path, entry)
            elif entry.is_dir() and entry.name != "__pycache__":
                yield from _sources(Path(entry.path))


def _facts(name: str, file: "Path | DirEntry[str]") -> str:
    facts = file.stat()
    return f"{name} {facts.st_size} {facts.st_mtime_ns}"


def as_kept(outcome: "Outcome") -> bytes:
    """An outcome's answers as bytes; none of a room whose outcome isn't made of answers to its points."""
    from fenmist.calibration.answers import Answers

    if not isinstance(outcome, Answers):
        return b""
    return zlib.compress(msgspec.msgpack.encode(outcome.points, enc_hook=_parts_of), 1)


def outcome_of(job: "Job", phase: str, kept: bytes) -> "Outcome | None":
    """The outcome of a job's phase with answers that were kept of that very record; none where they don't fit."""
    from fenmist.calibration.rounds import readings_by_point
    from fenmist.procedures.table import procedure_of

    kind = procedure_of(job).outcome
    if kind is None:
        return None
    with suppress(zlib.error, msgspec.DecodeError):
        points = _decoder(kind).decode(zlib.decompress(kept))
        made: Answers[Any, Any] = kind(job, phase, MappingProxyType({}), readings_by_point(job, phase), points)
        return made if len(made.units) == len(points) else None
    return None


@cache
def _decoder(kind: "type[Answers[Any, Any]]") -> msgspec.msgpack.Decoder[Any]:
    (answers,) = (base for base in getattr(kind, "__orig_bases__", ()) if get_args(base))
    points = GenericAlias(tuple, (get_args(answers)[0], ...))
    return msgspec.msgpack.Decoder(points, dec_hook=lambda wanted, parts: wanted(*parts))


def _parts_of(number: object) -> tuple[float, float]:
    """Γ has two parts."""
    if not isinstance(number, complex):
        raise NotImplementedError(f"a {type(number).__name__} can't be kept")
    return number.real, number.imag
