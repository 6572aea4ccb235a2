"""Opening a logbook's file: one process holds it, it is whole, it is ours, and nothing of it was lost on the way.

The lock is on the file itself, so it holds through any name of it. While a logbook is open its header says so (SQLite's
write-ahead log); closed, it doesn't. A header that says "open" without the log beside it therefore tells of a lost log.
Damaged, newer and foreign files are named and left as they are.
"""

import fcntl
import os
import sqlite3
import struct
from contextlib import suppress
from dataclasses import field
from pathlib import Path

from fenmist.errors import DamagedLogbookError, FenmistError, LockedLogbookError, RecordError
from fenmist.frozen import dataclass
from fenmist.records.migrate import check_ours, migrate

_LEFT_ALONE = "It was left as it is. Open the newest backup."
_OF_THE_SYSTEM = ("SQLITE_FULL", "SQLITE_IOERR", "SQLITE_READONLY", "SQLITE_CANTOPEN", "SQLITE_BUSY", "SQLITE_PERM")
_SQLITE_HEADER, _WAL_HEADER, _FRAME_HEADER = 100, 32, 24


@dataclass
class Opened:
    """A logbook's file in hand."""

    path: Path  # of the file itself, no link
    lock: int
    connection: sqlite3.Connection
    said: list[str] = field(default_factory=list)  # what was found amiss and mended, or may be missing

    def close(self) -> None:
        """Bring everything into the one file, and let go of it."""
        with suppress(sqlite3.Error):  # another program may be reading it: the log stays beside it then
            self.connection.execute("PRAGMA journal_mode = DELETE")
        self.connection.close()
        os.close(self.lock)


def open_file(path: Path) -> Opened:
    """Open a logbook, a new one where there is none.

    Raises
    ------
    RecordError
        Or one of its kinds: locked, damaged, newer, unwritable; each names the file.
    """
    real = _real(path)
    was_there = real.exists()
    lock = _lock(real)
    try:
        said = _look(real, lock, was_there)
        connection = _connect(real)
        said += _checked(connection, real)
    except BaseException:
        os.close(lock)
        raise
    return Opened(real, lock, connection, said)


def _real(path: Path) -> Path:
    """The file itself; where it has several names, the one that has a log beside it."""
    try:
        real = path.resolve()
        found = real.stat() if real.exists() else None
    except (OSError, RuntimeError, ValueError) as error:  # a loop of links, a null byte in the name
        raise RecordError(f"{str(path)!r} can't be opened: {error}.", "Choose another name.") from error
    if found is None or found.st_nlink < 2 or _log_of(real).exists():
        return real
    with suppress(OSError):
        for other in real.parent.iterdir():
            if _log_of(other).exists() and other.stat().st_ino == found.st_ino and other.stat().st_dev == found.st_dev:
                return other
    return real


def _log_of(path: Path) -> Path:
    return path.with_name(path.name + "-wal")


def _lock(path: Path) -> int:
    """Descriptor of the file, locked until it is closed; the system lets go of it after a crash."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        descriptor = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NONBLOCK, 0o666)
    except OSError as error:
        raise RecordError(
            f"{path} can't be opened: {error.strerror}.", "Choose a folder that can be written."
        ) from error
    try:
        fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        os.close(descriptor)
        raise LockedLogbookError(
            f"{path} is open in another Fenmist.", "Go to that window, or close it and start again."
        ) from error
    return descriptor


def _look(path: Path, descriptor: int, was_there: bool) -> list[str]:
    """Before SQLite touches it: an empty file, a log that is missing."""
    header, log = os.pread(descriptor, 100, 0), _log_of(path)
    if not header and log.exists() and log.stat().st_size:
        # SQLite would throw the log away, and everything in it
        raise DamagedLogbookError(f"{path} is empty (0 bytes), but its log {log.name} is not.", _LEFT_ALONE)
    if 0 < len(header) < _SQLITE_HEADER:
        raise DamagedLogbookError(f"{path} is damaged: all but {len(header)} bytes of it are gone.", _LEFT_ALONE)
    if not header and was_there:
        return [f"{path.name} was empty (0 bytes): a new logbook was begun in it."]
    if len(header) >= 20 and header[18:20] == b"\x02\x02" and not log.exists():
        return [
            f"{path.name} was not closed, and its log {log.name} is missing: what was entered last before that may be "
            "missing, too. Compare with your notes and with the newest backup."
        ]
    return []


def _connect(path: Path) -> sqlite3.Connection:
    try:
        return sqlite3.connect(path, isolation_level=None)
    except sqlite3.Error as error:
        raise RecordError(f"{path} can't be opened: {error}.", "Check the folder's permissions.") from error


def _checked(connection: sqlite3.Connection, path: Path) -> list[str]:
    """Look first, change afterwards: a file that isn't ours, or is damaged, is not touched."""
    try:
        problems = connection.execute("PRAGMA integrity_check(1)").fetchone()[0]
        if problems != "ok":
            raise sqlite3.DatabaseError(problems)
        version = check_ours(connection, path)
        beyond = _commits_beyond(connection, path)
        migrate(connection, path, version)
        connection.execute("PRAGMA journal_mode = WAL")
        connection.execute("PRAGMA synchronous = FULL")
        connection.execute("PRAGMA foreign_keys = ON")
    except FenmistError:
        connection.close()
        raise
    except sqlite3.OperationalError as error:
        connection.close()
        if getattr(error, "sqlite_errorname", "").startswith(_OF_THE_SYSTEM):
            raise RecordError(f"{path} can't be opened: {error}.", "Look at its permissions, and for space.") from error
        raise DamagedLogbookError(f"{path} can't be opened: {error}.", _LEFT_ALONE) from error
    except (sqlite3.DatabaseError, UnicodeDecodeError) as error:
        connection.close()
        raise DamagedLogbookError(f"{path} is damaged or is no logbook: {error}.", _LEFT_ALONE) from error
    return beyond


def _commits_beyond(connection: sqlite3.Connection, path: Path) -> list[str]:
    """What the log holds behind the place where SQLite stopped reading it: a commit there was damaged."""
    try:
        data = _log_of(path).read_bytes()
    except OSError:
        return []
    if len(data) < _WAL_HEADER:
        return []
    connection.execute("SELECT count(*) FROM sqlite_schema").fetchone()  # reads the log in
    read = int(connection.execute("PRAGMA wal_checkpoint(PASSIVE)").fetchone()[1])
    page, salts = struct.unpack(">I", data[8:12])[0], data[16:24]
    step = _FRAME_HEADER + page
    lost = 0
    for place in range(_WAL_HEADER + max(read, 0) * step, len(data) - _FRAME_HEADER + 1, step):
        pages_after = struct.unpack(">I", data[place + 4 : place + 8])[0]
        if data[place + 8 : place + 16] == salts and pages_after:
            lost += 1
    if not lost:
        return []
    return [
        f"The log of {path.name} was damaged: the last {lost} changes before the crash could not be read. "
        "Compare with your notes."
    ]
