"""A job handed over as one file: JSON with everything the job needs, and nothing that runs.

The job's definition with its kit, all its events, and the files that readings were taken from. A file may come from a
stranger: it is read as typed data only, within limits, and what it says of itself is checked before anything is kept.
Format: docs/formats/job.md, with its JSON Schema.
"""

import base64
import hashlib
import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any

import msgspec

from fenmist.calibration.job import SCHEMA, Channel, Job
from fenmist.errors import FenmistError, FileFormatError, UnknownIdError
from fenmist.files.bounded import bytes_of
from fenmist.frozen import dataclass
from fenmist.hookup.line import branches, main_line
from fenmist.methods.modulated import check
from fenmist.procedures.table import procedure_of
from fenmist.reading.captured import FIT
from fenmist.reading.event import EventKind, Reading, Slot
from fenmist.records.codec import hash_as_written, not_finite, record_hash
from fenmist.units.typed import LARGEST, SMALLEST
from fenmist.units.unit import UNITS

FORMAT = "fenmist-job"
VERSION = 1
SUFFIX = ".fenjob.json"

MOST_BYTES = 128 * 1024 * 1024
MOST_OBJECTS = 2_000_000
"""Braces and brackets: counted before anything is made of them."""

MOST_POINTS = 5_000
MOST_EVENTS = 200_000
MOST_ROUNDS = 1_000
MOST_PARTS = 200
MOST_HOOKUPS = 50
MOST_ELEMENTS = 40
MOST_TABLE = 20_001
LONGEST_TEXT = 20_000


@dataclass(frozen=True)
class Attached:
    """A file that travels with the job."""

    sha256: str
    name: str
    data: str  # base64 of its bytes


@dataclass(frozen=True)
class JobFile:
    """The whole of the file."""

    format: str
    version: int
    job: Job
    attachments: tuple[Attached, ...] = ()
    record_sha256: str = ""  # of the job's record; checked where it stands


def job_to_bytes(job: Job, attachment: Callable[[str], bytes]) -> bytes:
    """The file's bytes; `attachment` gives a kept file by its hash. The same job gives the same bytes."""
    files = tuple(
        Attached(digest, name, base64.b64encode(attachment(digest)).decode()) for digest, name in _files_of(job)
    )
    made = JobFile(FORMAT, VERSION, replace(job, events=tuple(job.events)), files, record_hash(job))
    return msgspec.json.format(msgspec.json.encode(made, order="deterministic"), indent=1) + b"\n"


def job_from_bytes(data: bytes, name: str) -> tuple[Job, dict[str, tuple[str, bytes]]]:
    """The job and its files (name and bytes by hash).

    Raises
    ------
    FileFormatError
        Names the file and the place in it: too large, no JSON, not of this format, newer, or not consistent.
    """
    if len(data) > MOST_BYTES:
        raise FileFormatError(f"{name} is larger than {MOST_BYTES >> 20} MB.", "A job file is smaller.")
    if data.count(b"{") + data.count(b"[") > MOST_OBJECTS:
        raise FileFormatError(f"{name} holds more than {MOST_OBJECTS} objects.", "A job file holds fewer.")
    try:
        head = msgspec.json.decode(data, type=dict[str, msgspec.Raw])
        said = {key: msgspec.json.decode(head[key]) for key in ("format", "version") if key in head}
    except (msgspec.DecodeError, ValueError, RecursionError) as error:
        raise FileFormatError(f"{name} is no job file: {error}.", "Hand over the job again.") from error
    if said.get("format") != FORMAT:
        raise FileFormatError(f"{name} doesn't say that it is a job: “format” is missing or another.", _DOCS)
    if not isinstance(said.get("version"), int) or said["version"] > VERSION:
        raise FileFormatError(
            f"{name} was written by a newer Fenmist (version {said.get('version')}; this one reads {VERSION}).",
            "Open it with the newer version.",
        )
    try:
        file = msgspec.json.decode(data, type=JobFile)
    except (msgspec.ValidationError, ValueError, RecursionError) as error:
        why = re.sub(r"Expected `str` matching regex '.*?'", "Expected a day such as 2026-03-12", str(error))
        raise FileFormatError(f"{name} can't be taken in: {why}.", _DOCS) from error
    problem = next(_problems(file.job), "")
    if problem:
        raise FileFormatError(f"{name} can't be taken in: {problem}.", "It was left as it is; nothing was kept of it.")
    if file.record_sha256 and file.record_sha256 != hash_as_written(msgspec.json.decode(head["job"])):
        raise FileFormatError(
            f"{name} was changed after it was written: its record's hash is another.",
            "Hand over the job again from its logbook.",
        )
    return replace(file.job, events=tuple(file.job.events)), _checked_files(file, name)


def read_job_file(path: Path) -> tuple[Job, dict[str, tuple[str, bytes]]]:
    """The job in a file; raises FileFormatError."""
    return job_from_bytes(bytes_of(path, MOST_BYTES, "A job file is smaller."), path.name)


def schema() -> dict[str, Any]:
    """JSON Schema of the file, from the types that read it."""
    return msgspec.json.schema(JobFile)


_DOCS = "See docs/formats/job.md for what it has to hold."


def _files_of(job: Job) -> list[tuple[str, str]]:
    entries = {e.entry.attached: e.entry.attached_name for e in job.events if e.entry is not None and e.entry.attached}
    photos = {photo.sha256: photo.name for photo in job.receipt.photos}
    return sorted({**entries, **photos}.items())


def _checked_files(file: JobFile, name: str) -> dict[str, tuple[str, bytes]]:
    found = {}
    for item in file.attachments:
        try:
            data = base64.b64decode(item.data, validate=True)
        except ValueError as error:
            raise FileFormatError(f"{name}: the file “{item.name}” in it is damaged.", "Hand it over again.") from error
        if hashlib.sha256(data).hexdigest() != item.sha256:
            raise FileFormatError(f"{name}: the file “{item.name}” in it isn't what was kept.", "Hand it over again.")
        found[item.sha256] = (_plain_name(item.name), data)
    missing = next((shown for digest, shown in _files_of(file.job) if digest not in found), "")
    if missing:
        raise FileFormatError(f"{name}: the file “{missing}” that a reading was taken from is missing.", _DOCS)
    return found


def _plain_name(name: str) -> str:
    """A file's name without any folder."""
    return name.replace("\\", "/").rpartition("/")[2][:120] or "file"


# is the job what a job has to be?


def _problems(job: Job) -> Iterator[str]:
    """What makes a job unusable, one sentence's end each."""
    if job.schema > SCHEMA:
        yield f"its job is of a newer schema ({job.schema}; this one knows {SCHEMA})"
    bad = not_finite(msgspec.to_builtins(job), "job")
    if bad:
        yield f"“{bad}” is no finite number"
    yield from _too_much(job)
    yield from _dangling(job)
    yield from _wrong_events(job)
    yield from (f"{what}, “{text[:40]}”, is no day" for what, text in _days(job) if text and not _is_day(text))
    allowed = [term.value for term in job.tolerances]
    if not (min(allowed) >= 0.0 < max(allowed) <= LARGEST and 0.0 < job.part_of_division <= 1.0):
        yield "it has no tolerance, or no part of a division, that makes sense"
    try:
        _uses(job)
    except (FenmistError, StopIteration, LookupError, ValueError, TypeError, AttributeError) as error:
        yield f"its hook-up can't be worked with ({error})"


def _too_much(job: Job) -> Iterator[str]:
    counts = (
        (len(job.plan), MOST_POINTS, "points"), (len(job.events), MOST_EVENTS, "events"),
        (len(job.kit), MOST_PARTS, "parts"), (_most(p.repeats for p in job.plan), MOST_ROUNDS, "rounds"),
        (_most(e.entry.slot.round for e in job.events if e.entry), MOST_ROUNDS, "rounds"),
        (_most(len(p.sequence) for p in job.plan), 20, "readings a round"),
        (sum(p.repeats * len(p.sequence) for p in job.plan), MOST_EVENTS, "planned readings"),
        (len(job.hookups), MOST_HOOKUPS, "hook-ups"),
        (_most(len(h.elements) for h in job.hookups), MOST_ELEMENTS, "parts on one line"),
        (_most(len(p.ports) for p in job.kit), 8, "connectors on a part"),
        (_most(len(p.components) for p in job.kit), 60, "pieces inside a part"),
        (_most(len(s.positions) for p in job.kit for s in p.switches), 60, "positions of a switch"),
        (_most(len(p.switches) for p in job.kit), 8, "switches on a part"),
        (_most(len(c.frequency_hz) for p in job.kit for c in p.characterisations), MOST_TABLE, "rows"),
    )  # fmt: skip
    for count, most, what in counts:
        if count > most:
            yield f"it has {count} {what}; at most {most} are read"
    longest = _most(len(text) for text in _texts(msgspec.to_builtins(job)))
    if longest > LONGEST_TEXT:
        yield f"a text in it has {longest} letters; at most {LONGEST_TEXT} are read"


def _most(counts: Iterable[int]) -> int:
    return max(counts, default=0)


def _texts(value: Any) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict | list | tuple):
        for item in (*value.keys(), *value.values()) if isinstance(value, dict) else value:
            yield from _texts(item)


def _dangling(job: Job) -> Iterator[str]:
    parts, hookups = {part.id for part in job.kit}, {item.id for item in job.hookups}
    if not job.id or not job.method.kind or not job.hookups:
        yield "it has no id, no method or no hook-up"
        return
    if len(parts) != len(job.kit) or len(hookups) != len(job.hookups):
        yield "two of its parts or hook-ups carry one id"
    if len({point.id for point in job.plan}) != len(job.plan):
        yield "two of its points carry one id"
    if job.dut not in parts:
        yield f"its device “{job.dut}” is not in its kit"
    channels = {item.id for item in job.channels}
    if len(channels) != len(job.channels):
        yield "two of its channels carry one id"
    astray = [item for item in job.channels if item.hookup not in hookups or not _stands(job, item)]
    if astray:
        yield f"channel “{astray[0].id}” is read on “{astray[0].element}”, which isn't there"
        return
    if any(item not in channels for item in job.order):
        yield "its order of reading names a channel that isn't there"
    if job.reference and job.reference not in channels:
        yield f"the reference that decides, “{job.reference}”, isn't there"
    if job.stated.plane.hookup not in hookups:
        yield f"its power is stated on a hook-up “{job.stated.plane.hookup}” that isn't there"
        return
    if any(leg.hookup not in hookups for leg in job.legs):
        yield "it reads a hook-up that isn't there"
        return
    for hookup in job.hookups:
        for element in hookup.elements:
            if element.part not in parts:
                yield f"its hook-up names a part “{element.part}” that is not in its kit"
    for point in job.plan:
        if point.hookup not in hookups:
            yield f"point “{point.id}” names a hook-up “{point.hookup}” that isn't there"
        if not (0.0 < point.frequency_hz < 1e12 and 0.0 < point.target_w < 1e7 and point.repeats >= 1):
            yield f"point “{point.id}” has no frequency, level or rounds that make sense"
        try:
            check(point.waveform)
        except FenmistError as error:
            yield f"point “{point.id}” sends no waveform: {error.headline}"
        if any(item not in channels for item in point.sequence):
            yield f"point “{point.id}” reads a channel that isn't there"
    yield from _of_its_question(job)


def _of_its_question(job: Job) -> Iterator[str]:
    """What the room that answers the job's question would stumble over."""
    try:
        room = procedure_of(job)
    except UnknownIdError as error:
        yield error.headline
        return
    if job.method.kind != room.kind:
        yield f"its method “{job.method.kind}” isn't known here"
    yield from room.flaws(job)


def _stands(job: Job, channel: Channel) -> bool:
    """Whether a channel's element stands in its hook-up, with a part of the kit that has its indicator."""
    element = next((item for item in job.hookup(channel.hookup).elements if item.id == channel.element), None)
    part = job.parts.get(element.part) if element else None
    return part is not None and any(item.id == channel.indicator for item in part.indicators)


def _wrong_events(job: Job) -> Iterator[str]:
    seen: set[str] = set()
    slots: dict[str, Slot] = {}
    for number, event in enumerate(job.events, start=1):
        if event.id in seen or not event.id:
            yield f"event {number} has no id of its own"
        seen.add(event.id)
        if event.entry is not None:
            slots[event.id] = event.entry.slot
        elsewhere = event.slot is not None and slots.get(event.target, event.slot) != event.slot
        if elsewhere and event.kind in (EventKind.STRIKE, EventKind.RESTORE):
            yield f"event {number} strikes or restores what stands elsewhere"
        reading = event.entry.reading if event.entry else None
        if reading is not None and not _makes_sense(reading):
            yield f"event {number} has a reading that makes no sense"
        if event.entry is not None and (event.entry.slot.round < 1 or event.entry.slot.position < 0):
            yield f"event {number} stands in no slot"
        if event.entry is not None and all(item.id != event.entry.channel for item in job.channels):
            yield f"event {number} was read on a channel that isn't there"


def _makes_sense(reading: Reading) -> bool:
    """Whether it could have been typed: a known unit, within what a bench shows."""
    bases = {unit.base for unit in UNITS.values()}
    u = reading.u or 0.0
    return (
        reading.unit in bases
        and reading.form in ("", FIT)
        and 0.0 <= reading.digit <= LARGEST
        and (reading.value == 0.0 or SMALLEST <= abs(reading.value) <= LARGEST)
        and 0.0 <= u <= LARGEST
        and all(_makes_sense(other) for other in reading.also)
    )


def _days(job: Job) -> Iterator[tuple[str, str]]:
    """What must be a day, where anything stands there: what it is, and its text."""
    yield "its due date", job.next_due
    yield "the day it came in", job.receipt.received_on
    for part in job.kit:
        for record in part.history:
            yield f"a comparison of {part.label}", record.on
            yield f"a due date of {part.label}", record.due


def _is_day(text: str) -> bool:
    try:
        date.fromisoformat(text)
    except ValueError:
        return False
    return True


def _uses(job: Job) -> None:
    """Ask of the job what the window will ask; anything missing raises."""
    for channel in job.channels:
        job.indicator(channel.id)
    for hookup in job.hookups:
        met = {*main_line(hookup, job.parts), *(name for hung in branches(hookup, job.parts).values() for name in hung)}
        apart = [item.id for item in hookup.elements if item.id not in met]
        if apart:
            raise LookupError(f"“{apart[0]}” is joined to nothing")
