"""Dated copies of the logbook, one a day when it is opened, the ten newest kept."""

from datetime import date
from pathlib import Path

from fenmist.errors import DamagedLogbookError
from fenmist.records.store import Logbook

KEPT = 10
FOLDER = "backups"


def back_up_today(logbook: Logbook, today: date) -> Path | None:
    """Copy the logbook beside itself unless that was done today; returns the copy made. Raises RecordError."""
    folder = logbook.path.parent / FOLDER
    path = folder / f"{logbook.path.stem} {today.isoformat()}{logbook.path.suffix}"
    if path.exists() or not logbook.job_count():
        return None
    logbook.back_up(path)
    for old in backups(logbook.path)[:-KEPT]:
        old.unlink(missing_ok=True)
    return path


def refuse_emptied(path: Path) -> None:
    """Where a logbook of 0 bytes has backups it held something once: raises DamagedLogbookError."""
    if path.is_file() and path.stat().st_size == 0 and backups(path):
        raise DamagedLogbookError(f"{path} is empty (0 bytes).", "It was left as it is. Open the newest backup.")


def backups(path: Path) -> list[Path]:
    """The copies of a logbook, the oldest first."""
    return sorted((path.parent / FOLDER).glob(f"{path.stem} ????-??-??{path.suffix}"))
