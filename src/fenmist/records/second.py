"""The second folder: where events go while the logbook can't be written, one line of JSON each.

Nothing that was typed is lost when a disk is full or a folder turned read-only during a run: the event is written here,
durably, and taken into the logbook as soon as that can be written again, at the latest when it is next opened.
"""

import os
from pathlib import Path

import msgspec

from fenmist.errors import RecordError
from fenmist.reading.event import Event
from fenmist.records.store import Logbook


class _Line(msgspec.Struct):
    job: str
    event: Event
    attached: bytes | None = None


class SecondFolder:
    """Events in waiting for one logbook."""

    def __init__(self, logbook: Logbook, folder: Path) -> None:
        self.path = folder / f"{logbook.path.stem} {logbook.identity[:8]}.waiting.jsonl"

    def append(self, job_id: str, event: Event, attached: bytes | None = None) -> None:
        """Keep an event; on disk when this returns. Raises RecordError."""
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            with self.path.open("ab") as file:
                file.write(_line(job_id, event, attached))
                file.flush()
                os.fsync(file.fileno())
        except OSError as error:
            raise RecordError(
                f"Neither the logbook nor {self.path} could be written: {error.strerror}.",
                "The reading is only on the screen: write it down, then free some space.",
            ) from error

    def waiting(self) -> tuple[tuple[str, Event, bytes | None], ...]:
        """What waits, in order; a last line that was cut off in writing is left out."""
        if not self.path.exists():
            return ()
        found = []
        for line in self.path.read_bytes().splitlines():
            try:
                item = msgspec.json.decode(line, type=_Line)
            except (msgspec.DecodeError, ValueError):
                continue
            found.append((item.job, item.event, item.attached))
        return tuple(found)

    def keep_only(self, left: list[tuple[str, Event, bytes | None]]) -> None:
        """All but these was taken in."""
        if not left:
            self.path.unlink(missing_ok=True)
            return
        part = self.path.with_name(f"{self.path.name}.part")
        part.write_bytes(b"".join(_line(*item) for item in left))
        part.replace(self.path)


def _line(job_id: str, event: Event, attached: bytes | None) -> bytes:
    return msgspec.json.encode(_Line(job_id, event, attached)) + b"\n"


def take_in(logbook: Logbook, second: SecondFolder) -> int:
    """Append what waits to the logbook and clear it; returns how many events came in. Raises RecordError.

    What belongs to a job that isn't there (the logbook is an older copy) goes on waiting.
    """
    waiting = second.waiting()
    taken, left = 0, []
    for job_id, event, attached in waiting:
        if not logbook.has_job(job_id):
            left.append((job_id, event, attached))
        elif not logbook.has_event(event.id):
            logbook.append(job_id, event, attached)
            taken += 1
    if len(left) < len(waiting):
        second.keep_only(left)
    return taken
