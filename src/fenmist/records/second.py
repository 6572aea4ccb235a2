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

    def __init__(self, logbook: Path, folder: Path) -> None:
        self.path = folder / f"{logbook.stem}.waiting.jsonl"

    def append(self, job_id: str, event: Event, attached: bytes | None = None) -> None:
        """Keep an event; on disk when this returns. Raises RecordError."""
        line = msgspec.json.encode(_Line(job_id, event, attached)) + b"\n"
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            with self.path.open("ab") as file:
                file.write(line)
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

    def clear(self) -> None:
        """All of it was taken in."""
        self.path.unlink(missing_ok=True)


def take_in(logbook: Logbook, second: SecondFolder) -> int:
    """Append what waits to the logbook and clear it; returns how many events came in. Raises RecordError."""
    waiting = second.waiting()
    taken = 0
    for job_id, event, attached in waiting:
        if not logbook.has_event(event.id):
            logbook.append(job_id, event, attached)
            taken += 1
    if waiting:
        second.clear()
    return taken
