"""The second folder: where events go while the logbook can't be written, one framed line each.

Nothing that was typed is lost when a disk is full or a folder turned read-only during a run: the event is written here,
durably, and taken into the logbook as soon as that can be written again, at the latest when it is next opened.

A line is the SHA-256 of what follows, a blank, and JSON; it is acknowledged when it is synced. A write that fails is
cut off again; one that a crash cut short has no end of line and is cut off before the next. Whatever can't be read is
set aside under another name and said, never deleted.
"""

import fcntl
import os
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import field
from pathlib import Path
from types import MappingProxyType
from typing import TYPE_CHECKING

import msgspec

from fenmist.errors import FenmistError, RecordError
from fenmist.files.whole import sync_folder, write_whole
from fenmist.frozen import dataclass
from fenmist.records.codec import encode
from fenmist.records.rows import row_sha256
from fenmist.records.store import Logbook

if TYPE_CHECKING:
    from fenmist.reading.event import Event


class _Line(msgspec.Struct):
    job: str
    events: list[msgspec.Raw]
    files: dict[str, bytes] = {}


@dataclass(frozen=True)
class Waiting:
    """Events of one job that belong together, with the files of their entries by hash."""

    job: str
    events: "tuple[Event, ...]"
    files: Mapping[str, bytes] = field(default_factory=dict)


@dataclass(frozen=True)
class Found:
    """What stands in the second folder."""

    waiting: tuple[Waiting, ...]
    unread: tuple[bytes, ...] = ()  # lines that can't be read
    torn: bool = False  # the last line was cut off in writing; it was never acknowledged


@dataclass(frozen=True)
class Taken:
    """What came into the logbook, and what is to be said about it."""

    events: int
    said: tuple[str, ...] = ()


class SecondFolder:
    """Events in waiting for one logbook."""

    def __init__(self, logbook: Logbook, folder: Path) -> None:
        self.path = folder / f"{logbook.path.stem} {logbook.identity[:8]}.waiting.jsonl"

    def append(self, job_id: str, events: "Sequence[Event]", files: Mapping[str, bytes] = MappingProxyType({})) -> None:
        """Keep events that belong together; on disk when this returns. Raises RecordError, UnkeepableError."""
        for event in events:
            encode(event)  # what the logbook couldn't keep isn't acknowledged here either
        line = _framed(Waiting(job_id, tuple(events), files))
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            with self._held() as descriptor:
                end = _end_of_lines(descriptor)
                os.ftruncate(descriptor, end)
                try:
                    _write_at(descriptor, line, end)
                    os.fsync(descriptor)
                except BaseException:
                    with suppress(OSError):
                        os.ftruncate(descriptor, end)
                    raise
            sync_folder(self.path.parent)
        except OSError as error:
            raise RecordError(
                f"Neither the logbook nor {self.path} could be written: {error.strerror}.",
                "The reading is only on the screen: write it down, then free some space.",
            ) from error

    @contextmanager
    def _held(self) -> Iterator[int]:
        descriptor = os.open(self.path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NOFOLLOW, 0o600)
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX)
            yield descriptor
        finally:
            os.close(descriptor)

    def found(self) -> Found:
        """What waits, in order, and what can't be read. Raises RecordError."""
        try:
            data = self.path.read_bytes()
        except FileNotFoundError:
            return Found(())
        except OSError as error:
            raise RecordError(
                f"{self.path}, where readings may wait, can't be read: {error.strerror}.", "Look at its permissions."
            ) from error
        *lines, rest = data.split(b"\n")
        read = [(line, _unframed(line)) for line in lines if line]
        unread = tuple(line for line, item in read if item is None)
        return Found(tuple(item for _, item in read if item is not None), unread, bool(rest))

    def waiting(self) -> tuple[Waiting, ...]:
        """What waits, in order."""
        return self.found().waiting

    def keep_only(self, left: Sequence[Waiting], unread: Sequence[bytes]) -> None:
        """All but these was taken in; what couldn't be read goes to a file of its own. Raises UnwritableError."""
        if unread:
            self._set_aside(unread)
        if left:
            write_whole(self.path, lambda: b"".join(_framed(item) for item in left))
        else:
            self.path.unlink(missing_ok=True)
            sync_folder(self.path.parent)

    @property
    def aside(self) -> Path:
        """Where lines go that can't be read."""
        return self.path.with_suffix(".unread")

    def _set_aside(self, unread: Sequence[bytes]) -> None:
        former = self.aside.read_bytes() if self.aside.exists() else b""
        write_whole(self.aside, lambda: former + b"".join(line + b"\n" for line in unread))


def _framed(item: Waiting) -> bytes:
    events = [msgspec.Raw(msgspec.json.encode(event)) for event in item.events]
    text = msgspec.json.encode(_Line(item.job, events, dict(item.files)))
    return row_sha256(text.decode()).encode() + b" " + text + b"\n"


def _unframed(line: bytes) -> Waiting | None:
    from fenmist.reading.event import Event  # mostly nothing waits

    digest, _, text = line.partition(b" ")
    try:
        if row_sha256(text.decode()).encode() != digest:
            return None
        item = msgspec.json.decode(text, type=_Line)
        events = tuple(msgspec.json.decode(event, type=Event) for event in item.events)
    except (msgspec.DecodeError, ValueError, RecursionError):
        return None
    return Waiting(item.job, events, item.files)


def _end_of_lines(descriptor: int) -> int:
    """Where the last whole line ends."""
    place = os.fstat(descriptor).st_size
    while place > 0:
        begin = max(place - 65536, 0)
        found = os.pread(descriptor, place - begin, begin).rfind(b"\n")
        if found >= 0:
            return begin + found + 1
        place = begin
    return 0


def _write_at(descriptor: int, data: bytes, place: int) -> None:
    view = memoryview(data)
    while view:
        count = os.pwrite(descriptor, view, place)
        view, place = view[count:], place + count


def take_in(logbook: Logbook, second: SecondFolder) -> Taken:
    """Append what waits to the logbook, then clear it; tells what came in, and what couldn't be read.

    What belongs to a job that isn't there (the logbook is an older copy) goes on waiting.

    Raises
    ------
    RecordError
        Where the logbook can't be written, or the folder can't be read; nothing is cleared then.
    """
    found = second.found()
    taken, left = 0, []
    for item in found.waiting:
        if not logbook.has_job(item.job):
            left.append(item)
            continue
        fresh = [event for event in item.events if not logbook.has_event(event.id)]
        if fresh:
            logbook.append(item.job, fresh, item.files)
            taken += len(fresh)
    said = []
    if len(left) < len(found.waiting) or found.unread or found.torn:
        try:
            second.keep_only(left, found.unread)
        except (FenmistError, OSError) as error:
            said.append(f"{second.path} could not be cleared ({error}); what it holds is in the logbook.")
    if found.unread:
        said.append(
            f"{len(found.unread)} lines that waited in {second.path.name} could not be read; they are kept in "
            f"{second.aside}. Compare the last readings with your notes."
        )
    if found.torn:
        said.append(f"The last line of {second.path.name} was cut off in writing: that reading was never kept.")
    return Taken(taken, tuple(said))
