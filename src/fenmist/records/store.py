"""The logbook file: SQLite, append-only, every committed reading durable before the call returns.

One process per logbook, held by a lock file beside it. Damaged, newer and foreign files are named and left alone.
"""

import fcntl
import hashlib
import os
import sqlite3
import zlib
from collections.abc import Iterable, Iterator
from contextlib import closing, contextmanager
from dataclasses import astuple, dataclass, replace
from pathlib import Path
from uuid import uuid4

from fenmist.calibration.job import Job
from fenmist.errors import DamagedLogbookError, FenmistError, LockedLogbookError, RecordError, UnknownIdError
from fenmist.kit.part import Part
from fenmist.kit.snapshot import content_hash
from fenmist.reading.event import Event
from fenmist.records.codec import decode, encode, sha256
from fenmist.records.migrate import migrate

SUFFIX = ".fenlog"
"""Ending of a logbook's file name."""


@dataclass(frozen=True)
class Issued:
    """A certificate as it was given away."""

    number: str
    revision: int  # from 1
    job: str
    supersedes: int | None
    reason: str
    issued_at: str
    record_sha256: str
    pdf_sha256: str

    @property
    def name(self) -> str:
        """Number with its revision: "26-014", "26-014 rev. 2"."""
        return self.number if self.revision == 1 else f"{self.number} rev. {self.revision}"


@dataclass(frozen=True)
class Summary:
    """What was worked out of a job for the list."""

    job: str
    stamp: str  # of the record it was made from
    device: str  # part id of the device
    serial: str
    payload: str  # JSON of the line
    past: str  # JSON of the errors found
    words: str  # what can be searched for, in lower case


class Logbook:
    """An open logbook.

    Parameters
    ----------
    path : Path
        Created, with its folder, where it doesn't exist.

    Raises
    ------
    RecordError
        Or one of its kinds: locked, damaged, newer, unwritable; each names the file.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._lock = _lock(path)
        try:
            self._connection = _connect(path)
        except BaseException:
            os.close(self._lock)
            raise

    def close(self) -> None:
        """Close the file and let go of the lock."""
        self._connection.close()
        os.close(self._lock)

    # what the logbook says of itself

    def setting(self, key: str, default: str = "") -> str:
        """A fact about the logbook: "workshop", "demo"."""
        row = self._connection.execute("SELECT value FROM logbook WHERE key = ?", (key,)).fetchone()
        return str(row[0]) if row else default

    def set_setting(self, key: str, value: str) -> None:
        """Keep a fact about the logbook."""
        with self._writing() as write:
            write.execute(
                "INSERT INTO logbook VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value", (key, value)
            )

    @property
    def identity(self) -> str:
        """What tells this logbook from others of the same name; its copies carry it too."""
        found = self.setting("identity")
        if not found:
            found = uuid4().hex
            self.set_setting("identity", found)
        return found

    @property
    def is_demo(self) -> bool:
        """True for a demonstration's logbook."""
        return self.setting("demo") == "yes"

    # jobs

    def add_job(self, job: Job) -> None:
        """Keep a new job with its first definition and all its events."""
        with self._writing() as write:
            write.execute("INSERT INTO job VALUES (?, ?)", (job.id, job.created_at))
            self._insert_definition(write, job, 1, job.created_at, "new job")
            for seq, event in enumerate(job.events, start=1):
                _insert_event(write, job.id, seq, event)

    def save_definition(self, job: Job, saved_at: str, label: str) -> None:
        """Keep a job's definition as its next revision."""
        with self._writing() as write:
            row = write.execute("SELECT max(revision) FROM definition WHERE job = ?", (job.id,)).fetchone()
            if row[0] is None:
                raise UnknownIdError(f"The logbook has no job “{job.id}”.", "Open it again from the list.")
            self._insert_definition(write, job, row[0] + 1, saved_at, label)

    def append(self, job_id: str, event: Event, attached: bytes | None = None) -> None:
        """Add an event, with the file its entry was read from; both are on disk when this returns."""
        with self._writing() as write:
            if attached is not None and event.entry is not None:
                _insert_attachment(write, event.entry.attached, attached, event.entry.attached_name, event.at)
            row = write.execute("SELECT coalesce(max(seq), 0) FROM event WHERE job = ?", (job_id,)).fetchone()
            _insert_event(write, job_id, row[0] + 1, event)

    def attach(self, data: bytes, name: str, saved_at: str) -> str:
        """Keep a file's bytes; returns their SHA-256."""
        digest = hashlib.sha256(data).hexdigest()
        with self._writing() as write:
            _insert_attachment(write, digest, data, name, saved_at)
        return digest

    def attachment(self, digest: str) -> bytes:
        """The bytes of a kept file by their SHA-256; raises UnknownIdError, DamagedLogbookError."""
        row = self._connection.execute("SELECT packed FROM attachment WHERE sha256 = ?", (digest,)).fetchone()
        if row is None:
            raise UnknownIdError("The logbook holds no such file.", "It was read from a file that was not kept.")
        try:
            data = zlib.decompress(row[0])
        except zlib.error:
            data = b""
        if hashlib.sha256(data).hexdigest() != digest:
            raise DamagedLogbookError(
                f"A file kept in {self.path} is not what was kept.",
                "The logbook was left as it is. Open the newest backup.",
            )
        return data

    def job(self, job_id: str) -> Job:
        """A job as it stands, with all its events; raises UnknownIdError, DamagedLogbookError."""
        row = self._connection.execute(
            "SELECT payload FROM definition WHERE job = ? ORDER BY revision DESC LIMIT 1", (job_id,)
        ).fetchone()
        if row is None:
            raise UnknownIdError(f"The logbook has no job “{job_id}”.", "Choose one from the list.")
        return replace(decode(row[0], Job), events=tuple(self._events(job_id)))

    def job_stamps(self) -> dict[str, str]:
        """All jobs, the newest first, each with a stamp that changes with anything on its record."""
        rows = self._connection.execute(
            "SELECT id, (SELECT max(revision) FROM definition WHERE job = job.id) || '.' || "
            "(SELECT coalesce(max(seq), 0) FROM event WHERE job = job.id) FROM job ORDER BY created_at DESC, id"
        )
        return dict(rows.fetchall())

    # what the list shows

    def summary_stamps(self) -> dict[str, str]:
        """The stamp of each summary, by job."""
        return dict(self._connection.execute("SELECT job, stamp FROM summary").fetchall())

    def summary_lines(self, words: tuple[str, ...] = ()) -> dict[str, str]:
        """The lines of the summaries that hold all these words, as JSON by job."""
        where = " AND ".join("instr(words, ?)" for _ in words) or "1"
        return dict(self._connection.execute(f"SELECT job, payload FROM summary WHERE {where}", words).fetchall())

    def past_of(self, device: str, serial: str) -> dict[str, str]:
        """The errors found of one meter, as JSON by job: by its serial number, where both have one."""
        rows = self._connection.execute(
            "SELECT job, past FROM summary WHERE (? != '' AND serial = ?) OR ((? = '' OR serial = '') AND device = ?)",
            (serial, serial, serial, device),
        )
        return dict(rows.fetchall())

    def keep_summaries(self, summaries: Iterable[Summary]) -> None:
        """Keep summaries in place of older ones."""
        with self._writing() as write:
            write.executemany(
                "INSERT OR REPLACE INTO summary VALUES (?, ?, ?, ?, ?, ?, ?)", [astuple(item) for item in summaries]
            )

    # certificates

    def issue(self, issued: Issued, content: str, pdf: bytes) -> None:
        """Keep a certificate for good; raises RecordError where its number and revision were given already."""
        with self._writing() as write:
            write.execute(
                "INSERT INTO issue VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                (
                    issued.number, issued.revision, issued.job, issued.supersedes, issued.reason, issued.issued_at,
                    issued.record_sha256, content, issued.pdf_sha256, pdf,
                ),
            )  # fmt: skip

    def issued(self, job_id: str = "") -> tuple[Issued, ...]:
        """Certificates of a job, or of all, in the order of issue."""
        rows = self._connection.execute(
            "SELECT number, revision, job, supersedes, reason, issued_at, record_sha256, pdf_sha256 FROM issue "
            "WHERE job = ? OR ? = '' ORDER BY rowid",
            (job_id, job_id),
        )
        return tuple(Issued(*row) for row in rows)

    def issued_pdf(self, number: str, revision: int) -> bytes:
        """The PDF of a certificate, byte for byte; raises UnknownIdError, DamagedLogbookError."""
        row = self._connection.execute(
            "SELECT pdf, pdf_sha256 FROM issue WHERE number = ? AND revision = ?", (number, revision)
        ).fetchone()
        if row is None:
            raise UnknownIdError(f"No certificate {number}, revision {revision}, was issued.", "Look at the list.")
        if hashlib.sha256(row[0]).hexdigest() != row[1]:
            raise DamagedLogbookError(
                f"Certificate {number} in {self.path} is not what was issued.", "Open the newest backup."
            )
        return bytes(row[0])

    def job_count(self) -> int:
        """How many jobs there are."""
        return int(self._connection.execute("SELECT count(*) FROM job").fetchone()[0])

    def entry_count(self, job_id: str) -> int:
        """How many events a job has on disk."""
        return int(self._connection.execute("SELECT count(*) FROM event WHERE job = ?", (job_id,)).fetchone()[0])

    def has_event(self, event_id: str) -> bool:
        """Whether an event is on record."""
        return self._connection.execute("SELECT 1 FROM event WHERE id = ?", (event_id,)).fetchone() is not None

    def has_job(self, job_id: str) -> bool:
        """Whether a job is on record."""
        return self._connection.execute("SELECT 1 FROM job WHERE id = ?", (job_id,)).fetchone() is not None

    def _events(self, job_id: str) -> Iterator[Event]:
        rows = self._connection.execute(
            "SELECT payload, payload_sha256, seq FROM event WHERE job = ? ORDER BY seq", (job_id,)
        )
        for payload, digest, seq in rows:
            if sha256(payload) != digest:
                raise DamagedLogbookError(
                    f"Event {seq} of a job in {self.path} is not what was written.",
                    "The file was left as it is. Open the newest backup.",
                )
            yield decode(payload, Event)

    @staticmethod
    def _insert_definition(write: sqlite3.Connection, job: Job, revision: int, saved_at: str, label: str) -> None:
        write.execute("INSERT INTO definition VALUES (?, ?, ?, ?, ?)", (job.id, revision, saved_at, label, encode(job)))
        write.execute("DELETE FROM used_part WHERE job = ?", (job.id,))
        write.executemany("INSERT INTO used_part VALUES (?, ?)", sorted({(job.id, part.id) for part in job.kit}))

    # kit

    def save_part(self, part: Part, saved_at: str) -> None:
        """Keep a part as its next revision; nothing happens where it hasn't changed."""
        digest = content_hash(part)
        with self._writing() as write:
            row = write.execute(
                "SELECT revision, content_hash FROM part WHERE id = ? ORDER BY revision DESC LIMIT 1", (part.id,)
            ).fetchone()
            if row is None or row[1] != digest:
                revision = row[0] + 1 if row else 1
                write.execute(
                    "INSERT INTO part VALUES (?, ?, ?, ?, ?)", (part.id, revision, digest, saved_at, encode(part))
                )

    def kit(self) -> tuple[Part, ...]:
        """Every part in its newest revision, in the order of first entry."""
        rows = self._connection.execute(
            "SELECT payload FROM part WHERE (id, revision) IN (SELECT id, max(revision) FROM part GROUP BY id) "
            "ORDER BY (SELECT min(rowid) FROM part AS first WHERE first.id = part.id)"
        )
        parts = (decode(row[0], Part) for row in rows)
        return tuple(part for part in parts if not part.retired)

    def used_in(self, part_id: str) -> tuple[str, ...]:
        """Jobs whose newest definition holds a part, the newest first."""
        rows = self._connection.execute(
            "SELECT id FROM job JOIN used_part ON used_part.job = job.id WHERE part = ? ORDER BY created_at DESC, id",
            (part_id,),
        )
        return tuple(row[0] for row in rows)

    def back_up(self, path: Path) -> None:
        """Write a copy of everything that is committed; an unfinished one never stands under the name."""
        part = path.with_name(path.name + ".part")
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            part.unlink(missing_ok=True)
            with closing(sqlite3.connect(part)) as copy:
                self._connection.backup(copy)
                copy.execute("PRAGMA journal_mode = DELETE")
            part.replace(path)
        except (OSError, sqlite3.Error) as error:
            part.unlink(missing_ok=True)
            raise RecordError(f"The backup {path} could not be written: {error}.", "Free some space.") from error

    @contextmanager
    def _writing(self) -> Iterator[sqlite3.Connection]:
        """One durable transaction."""
        try:
            self._connection.execute("BEGIN IMMEDIATE")
            try:
                yield self._connection
            except BaseException:
                self._connection.execute("ROLLBACK")
                raise
            self._connection.execute("COMMIT")
        except sqlite3.Error as error:
            raise RecordError(
                f"{self.path} could not be written: {error}.", "Free some space, or check the folder's permissions."
            ) from error


def _insert_attachment(write: sqlite3.Connection, digest: str, data: bytes, name: str, saved_at: str) -> None:
    write.execute(
        "INSERT INTO attachment VALUES (?, ?, ?, ?) ON CONFLICT (sha256) DO NOTHING",
        (digest, name, saved_at, zlib.compress(data)),
    )


def _insert_event(write: sqlite3.Connection, job_id: str, seq: int, event: Event) -> None:
    payload = encode(event)
    write.execute(
        "INSERT INTO event VALUES (?, ?, ?, ?, ?, ?, ?)",
        (job_id, seq, event.id, event.kind, event.at, payload, sha256(payload)),
    )


def _lock(path: Path) -> int:
    """Descriptor of the lock file, held until it is closed; the system lets go of it after a crash."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        descriptor = os.open(path.with_name(path.name + ".lock"), os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
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


def _connect(path: Path) -> sqlite3.Connection:
    try:
        connection = sqlite3.connect(path, isolation_level=None)
    except sqlite3.Error as error:
        raise RecordError(f"{path} can't be opened: {error}.", "Check the folder's permissions.") from error
    try:
        # look first: a file that isn't ours, or is damaged, is not touched
        problems = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
        if problems != "ok":
            raise sqlite3.DatabaseError(problems)
        migrate(connection, path)
        connection.execute("PRAGMA journal_mode = WAL")
        connection.execute("PRAGMA synchronous = FULL")
        connection.execute("PRAGMA foreign_keys = ON")
    except FenmistError:
        connection.close()
        raise
    except sqlite3.OperationalError as error:
        connection.close()
        raise RecordError(f"{path} can't be opened: {error}.", "Check the file's permissions.") from error
    except sqlite3.DatabaseError as error:
        connection.close()
        raise DamagedLogbookError(
            f"{path} is damaged or is no logbook: {error}.", "It was left as it is. Open the newest backup."
        ) from error
    return connection
