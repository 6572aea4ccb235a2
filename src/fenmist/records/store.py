"""The logbook file: SQLite, append-only, every committed reading durable before the call returns.

One process per logbook. Every row is checked against its hash when it is read: what a damaged disk or a hand in the
file changed raises `DamagedLogbookError`, naming what it is, and is never taken for a record.
"""

import hashlib
import os
import sqlite3
import zlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import closing, contextmanager
from dataclasses import astuple, replace
from datetime import datetime
from pathlib import Path
from types import MappingProxyType
from typing import TYPE_CHECKING, Any
from uuid import uuid4

from fenmist.errors import DamagedLogbookError, RecordError, UnknownIdError
from fenmist.files.whole import sync_folder
from fenmist.frozen import dataclass
from fenmist.kit.snapshot import content_hash
from fenmist.records.codec import decode, encode
from fenmist.records.opening import open_file
from fenmist.records.rows import Column, row_sha256
from fenmist.units.moment import moment_from_text, text_of_moment

if TYPE_CHECKING:  # the list of jobs is told from summaries: what a job is made of isn't needed for it
    from fenmist.calibration.job import Job
    from fenmist.kit.part import Part
    from fenmist.reading.event import Event

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
    issued_at: datetime
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
    parts: str  # JSON of the part ids it holds
    words: str  # what can be searched for, in lower case


@dataclass(frozen=True)
class Worked:
    """What came of a job's points."""

    job: str
    stamp: str  # of the record it was made from, and of the program that made it
    points: bytes  # as whoever keeps them reads them


@dataclass(frozen=True)
class _Head:
    """Where a job's record ends."""

    job: str
    revision: int
    seq: int
    chain: str

    @property
    def row(self) -> tuple[Column, ...]:
        return (self.job, self.revision, self.seq, self.chain)

    @property
    def stamp(self) -> str:
        return f"{self.revision}.{self.seq}"


_OF_METER = "(? != '' AND serial = ?) OR ((? = '' OR serial = '') AND device = ?)"


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
        self._file = open_file(path)
        self._connection = self._file.connection
        self.said_on_open = tuple(self._file.said)
        try:
            self._check()
        except BaseException:
            self._file.close()
            raise

    def close(self) -> None:
        """Close the file and let go of the lock."""
        self._file.close()

    def _check(self) -> None:
        """Look over what every later question leans on; jobs and files are checked when they are read."""
        list(self._rows("logbook", "SELECT key, value, row_sha256 FROM logbook"))
        jobs = {row[0] for row in self._rows("job", "SELECT id, created_at, row_sha256 FROM job NOT INDEXED")}
        heads = {row[0] for row in self._rows("job", "SELECT * FROM head NOT INDEXED")}
        if jobs != heads:
            raise self._damage("list of jobs")
        list(self._rows("part", "SELECT * FROM part NOT INDEXED"))
        self.issued()
        damaged = [row[0] for *row, digest in self._read("SELECT * FROM summary") if row_sha256(*row) != digest]
        if damaged:  # they are worked out from the record, and made anew
            with self._writing() as write:
                write.execute("DELETE FROM summary")

    # rows, checked

    def _read(self, sql: str, given: Sequence[Column] = ()) -> Iterator[tuple[Any, ...]]:
        try:
            yield from self._connection.execute(sql, given)
        except (sqlite3.Error, UnicodeDecodeError) as error:
            raise DamagedLogbookError(
                f"{self.path} can't be read: {error}.", "It was left as it is. Open the newest backup."
            ) from error

    def _rows(self, what: str, sql: str, given: Sequence[Column] = ()) -> Iterator[tuple[Any, ...]]:
        """Rows whose last column is the hash of those before it, given without it."""
        for *row, digest in self._read(sql, given):
            if row_sha256(*row) != digest:
                raise self._damage(what)
            yield tuple(row)

    def _damage(self, what: str) -> DamagedLogbookError:
        return DamagedLogbookError(
            f"A {what} in {self.path} is not what was written.", "The file was left as it is. Open the newest backup."
        )

    # what the logbook says of itself

    def setting(self, key: str, default: str = "") -> str:
        """A fact about the logbook: "workshop", "demo"."""
        found = next(self._rows("setting", "SELECT key, value, row_sha256 FROM logbook WHERE key = ?", (key,)), None)
        return str(found[1]) if found else default

    def set_setting(self, key: str, value: str) -> None:
        """Keep a fact about the logbook."""
        with self._writing() as write:
            write.execute(
                "INSERT INTO logbook VALUES (?, ?, ?) ON CONFLICT (key) "
                "DO UPDATE SET value = excluded.value, row_sha256 = excluded.row_sha256",
                (key, value, row_sha256(key, value)),
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

    def add_job(self, job: "Job", files: Mapping[str, tuple[str, bytes]] = MappingProxyType({})) -> None:
        """Keep a new job with its first definition, all its events and its files (name and bytes by hash)."""
        with self._writing() as write:
            for digest, (name, data) in files.items():
                _insert_attachment(write, digest, data, name, job.created_at)
            row = (job.id, text_of_moment(job.created_at))
            write.execute("INSERT INTO job VALUES (?, ?, ?)", (*row, row_sha256(*row)))
            _insert_definition(write, job, 1, job.created_at, "new job")
            head = _insert_events(write, _Head(job.id, 1, 0, job.id), job.events)
            write.execute("INSERT INTO head VALUES (?, ?, ?, ?, ?)", (*head.row, row_sha256(*head.row)))

    def save_definition(self, job: "Job", saved_at: datetime, label: str) -> None:
        """Keep a job's definition as its next revision."""
        with self._writing() as write:
            head = self._head(job.id)
            _insert_definition(write, job, head.revision + 1, saved_at, label)
            _move_head(write, replace(head, revision=head.revision + 1))

    def append(self, job_id: str, events: "Sequence[Event]", files: Mapping[str, bytes] = MappingProxyType({})) -> None:
        """Add events that belong together, all or none, with the files (by hash) that entries were read from.

        All are on disk when this returns.
        """
        with self._writing() as write:
            for event in events:
                entry = event.entry
                if entry is not None and entry.attached in files:
                    _insert_attachment(write, entry.attached, files[entry.attached], entry.attached_name, event.at)
            _move_head(write, _insert_events(write, self._head(job_id), events))

    def attach(self, data: bytes, name: str, saved_at: datetime) -> str:
        """Keep a file's bytes; returns their SHA-256."""
        digest = hashlib.sha256(data).hexdigest()
        with self._writing() as write:
            _insert_attachment(write, digest, data, name, saved_at)
        return digest

    def attachment(self, digest: str) -> bytes:
        """The bytes of a kept file by their SHA-256; raises UnknownIdError, DamagedLogbookError."""
        row = next(self._read("SELECT packed FROM attachment WHERE sha256 = ?", (digest,)), None)
        if row is None:
            raise UnknownIdError("The logbook holds no such file.", "It was read from a file that was not kept.")
        try:
            data = zlib.decompress(row[0])
        except zlib.error:
            data = b""
        if hashlib.sha256(data).hexdigest() != digest:
            raise self._damage("kept file")
        return data

    def job(self, job_id: str) -> "Job":
        """A job as it stands, with all its events; raises UnknownIdError, DamagedLogbookError."""
        from fenmist.calibration.job import Job

        head = self._head(job_id)
        sql = "SELECT * FROM definition WHERE job = ? AND revision = ?"
        row = next(self._rows("definition of a job", sql, (job_id, head.revision)), None)
        if row is None:
            raise self._damage("definition of a job")
        return replace(decode(row[4], Job), events=tuple(self._events(head)))

    def _head(self, job_id: str) -> _Head:
        row = next(self._rows("job", "SELECT * FROM head WHERE job = ?", (job_id,)), None)
        if row is None:
            raise UnknownIdError(f"The logbook has no job “{job_id}”.", "Choose one from the list.")
        return _Head(*row)

    def _events(self, head: _Head) -> "Iterator[Event]":
        from fenmist.reading.event import Event

        seq, chain = 0, head.job
        sql = "SELECT seq, id, kind, at, payload, chain_sha256 FROM event WHERE job = ? ORDER BY seq"
        for *row, digest in self._read(sql, (head.job,)):
            seq, chain = seq + 1, row_sha256(chain, *row)
            if chain != digest or row[0] != seq:
                raise self._damage(f"job's event {seq}")
            yield decode(row[4], Event)
        if (seq, chain) != (head.seq, head.chain):
            raise self._damage(f"job's event {seq + 1}")

    def job_stamp(self, job_id: str) -> str:
        """A stamp that changes with anything on a job's record; raises UnknownIdError, DamagedLogbookError."""
        return self._head(job_id).stamp

    def job_stamps(self) -> dict[str, str]:
        """The same of all jobs, the newest first."""
        heads = {row[0]: _Head(*row).stamp for row in self._rows("job", "SELECT * FROM head")}
        jobs = self._rows("job", "SELECT id, created_at, row_sha256 FROM job ORDER BY created_at DESC, id")
        return {job: heads[job] for job, _ in jobs}

    # what the list shows

    def summary_stamps(self) -> dict[str, str]:
        """The stamp of each summary, by job."""
        return {row[0]: row[1] for row in self._read("SELECT job, stamp FROM summary")}

    def summary_lines(self, edition: str, words: Sequence[str] = ()) -> dict[str, str]:
        """The lines of an edition's summaries that hold all these words, as JSON by job."""
        where = " AND ".join(("instr(stamp, ?) = 1", *("instr(words, ?)" for _ in words)))
        sql = f"SELECT job, payload FROM summary WHERE {where}"
        return {row[0]: row[1] for row in self._read(sql, (edition, *words))}

    def jobs_of(self, device: str, serial: str) -> frozenset[str]:
        """Jobs about one meter, as far as they are summed up: by its serial number, where both have one."""
        sql = f"SELECT job FROM summary WHERE {_OF_METER}"
        return frozenset(row[0] for row in self._read(sql, (serial, serial, serial, device)))

    def past_of(self, device: str, serial: str, edition: str) -> dict[str, str]:
        """The errors found of that meter in summaries of an edition, as JSON by job."""
        sql = f"SELECT job, past FROM summary WHERE instr(stamp, ?) = 1 AND ({_OF_METER})"
        return {row[0]: row[1] for row in self._read(sql, (edition, serial, serial, serial, device))}

    def used_in(self, part_id: str) -> frozenset[str]:
        """Jobs whose newest definition holds a part, as far as they are summed up."""
        sql = "SELECT job FROM summary WHERE EXISTS (SELECT 1 FROM json_each(parts) WHERE value = ?)"
        return frozenset(row[0] for row in self._read(sql, (part_id,)))

    def keep_summaries(self, summaries: Iterable[Summary], worked: Iterable[Worked]) -> None:
        """Keep summaries, and what came of points, in place of older ones."""
        with self._writing() as write:
            for kind, rows in (("summary", [*map(astuple, summaries)]), ("worked", [*map(astuple, worked)])):
                for row in rows:
                    places = ", ".join("?" * (len(row) + 1))
                    write.execute(f"INSERT OR REPLACE INTO {kind} VALUES ({places})", (*row, row_sha256(*row)))

    # what came of points

    def worked_stamps(self) -> dict[str, str]:
        """The stamp of what came of each job's points, by job; a damaged one is that of nothing."""
        rows = self._read("SELECT CAST(job AS BLOB), CAST(stamp AS BLOB) FROM worked")
        return {job.decode(errors="replace"): stamp.decode(errors="replace") for job, stamp in rows}

    def worked(self, job_id: str, stamp: str) -> bytes:
        """What came of a job's points by that stamp; nothing where it isn't kept, or isn't what was written."""
        sql = "SELECT points, CAST(row_sha256 AS BLOB) FROM worked WHERE job = ? AND stamp = ?"
        for points, digest in self._read(sql, (job_id, stamp)):
            if row_sha256(job_id, stamp, points).encode() == digest:
                return bytes(points)
        return b""

    # certificates

    def issue(self, issued: Issued, content: str, pdf: bytes) -> None:
        """Keep a certificate for good; raises RecordError where its number and revision were given already."""
        row = (
            issued.number, issued.revision, issued.job, issued.supersedes, issued.reason,
            text_of_moment(issued.issued_at), issued.record_sha256, content, issued.pdf_sha256,
        )  # fmt: skip
        with self._writing() as write:
            write.execute("INSERT INTO issue VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)", (*row, pdf, row_sha256(*row)))

    def issued(self, job_id: str = "") -> tuple[Issued, ...]:
        """Certificates of a job, or of all, in the order of issue."""
        rows = self._rows(
            "certificate",
            "SELECT number, revision, job, supersedes, reason, issued_at, record_sha256, content, pdf_sha256, "
            "row_sha256 FROM issue WHERE job = ? OR ? = '' ORDER BY rowid",
            (job_id, job_id),
        )
        return tuple(
            Issued(row[0], row[1], row[2], row[3], row[4], moment_from_text(row[5]), row[6], row[8]) for row in rows
        )

    def issued_pdf(self, number: str, revision: int) -> bytes:
        """The PDF of a certificate, byte for byte; raises UnknownIdError, DamagedLogbookError."""
        sql = "SELECT pdf, pdf_sha256 FROM issue WHERE number = ? AND revision = ?"
        row = next(self._read(sql, (number, revision)), None)
        if row is None:
            raise UnknownIdError(f"No certificate {number}, revision {revision}, was issued.", "Look at the list.")
        if hashlib.sha256(row[0]).hexdigest() != row[1]:
            raise self._damage(f"certificate ({number})")
        return bytes(row[0])

    def job_count(self) -> int:
        """How many jobs there are."""
        return int(next(self._read("SELECT count(*) FROM job"))[0])

    def event_count(self, job_id: str) -> int:
        """How many events a job has on disk."""
        return self._head(job_id).seq

    def has_event(self, event_id: str) -> bool:
        """Whether an event is on record."""
        return next(self._read("SELECT 1 FROM event WHERE id = ?", (event_id,)), None) is not None

    def has_job(self, job_id: str) -> bool:
        """Whether a job is on record."""
        return next(self._read("SELECT 1 FROM job WHERE id = ?", (job_id,)), None) is not None

    # kit

    @property
    def has_parts(self) -> bool:
        """True once there is any equipment, be it retired."""
        return next(self._read("SELECT 1 FROM part LIMIT 1"), None) is not None

    def save_parts(self, parts: "Iterable[Part]", saved_at: datetime) -> None:
        """Keep parts as their next revisions; nothing happens to those that haven't changed."""
        with self._writing() as write:
            for part in parts:
                digest = content_hash(part)
                found = write.execute(
                    "SELECT revision, content_hash FROM part WHERE id = ? ORDER BY revision DESC LIMIT 1", (part.id,)
                ).fetchone()
                if found is None or found[1] != digest:
                    row = (part.id, found[0] + 1 if found else 1, digest, text_of_moment(saved_at), encode(part))
                    write.execute("INSERT INTO part VALUES (?, ?, ?, ?, ?, ?)", (*row, row_sha256(*row)))

    def kit(self) -> "tuple[Part, ...]":
        """Every part in its newest revision, in the order of first entry."""
        from fenmist.kit.part import Part

        newest: dict[str, str] = {}
        for row in self._rows("part", "SELECT * FROM part NOT INDEXED ORDER BY revision, rowid"):
            newest[row[0]] = row[4]
        parts = (decode(payload, Part) for payload in newest.values())
        return tuple(part for part in parts if not part.retired)

    def back_up(self, path: Path) -> None:
        """Write a copy of everything that is committed; an unfinished one never stands under the name."""
        part = path.with_name(f".fenmist-{os.urandom(8).hex()}.part")
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            with closing(sqlite3.connect(part)) as copy:
                self._connection.backup(copy)
                copy.execute("PRAGMA journal_mode = DELETE")
            part.replace(path)
            sync_folder(path.parent)
        except (OSError, sqlite3.Error) as error:
            part.unlink(missing_ok=True)
            raise RecordError(f"The backup {path} could not be written: {error}.", "Free some space.") from error

    @contextmanager
    def together(self) -> Iterator[None]:
        """What is written inside is one durable transaction: all of it or nothing."""
        with self._writing():
            yield

    @contextmanager
    def _writing(self) -> Iterator[sqlite3.Connection]:
        """A durable transaction, or the one around it."""
        try:
            inside = self._connection.in_transaction
            if inside:
                yield self._connection
                return
            self._connection.execute("BEGIN IMMEDIATE")
            try:
                yield self._connection
                self._connection.execute("COMMIT")
            except BaseException:
                if self._connection.in_transaction:  # a full disk may have rolled it back already
                    self._connection.execute("ROLLBACK")
                raise
        except sqlite3.Error as error:
            raise RecordError(
                f"{self.path} could not be written: {error}.", "Free some space, or check the folder's permissions."
            ) from error


def _insert_attachment(write: sqlite3.Connection, digest: str, data: bytes, name: str, saved_at: datetime) -> None:
    if write.execute("SELECT 1 FROM attachment WHERE sha256 = ?", (digest,)).fetchone() is None:
        row = (digest, name, text_of_moment(saved_at))
        write.execute("INSERT INTO attachment VALUES (?, ?, ?, ?, ?)", (*row, zlib.compress(data), row_sha256(*row)))


def _insert_definition(write: sqlite3.Connection, job: "Job", revision: int, saved_at: datetime, label: str) -> None:
    row = (job.id, revision, text_of_moment(saved_at), label, encode(job))
    write.execute("INSERT INTO definition VALUES (?, ?, ?, ?, ?, ?)", (*row, row_sha256(*row)))


def _insert_events(write: sqlite3.Connection, head: _Head, events: "Iterable[Event]") -> _Head:
    """Chain events to a job's record; returns where it ends then."""
    seq, chain = head.seq, head.chain
    for event in events:
        seq += 1
        row = (seq, event.id, str(event.kind), text_of_moment(event.at), encode(event))
        chain = row_sha256(chain, *row)
        write.execute("INSERT INTO event VALUES (?, ?, ?, ?, ?, ?, ?)", (head.job, *row, chain))
    return replace(head, seq=seq, chain=chain)


def _move_head(write: sqlite3.Connection, head: _Head) -> None:
    write.execute(
        "UPDATE head SET revision = ?, seq = ?, chain_sha256 = ?, row_sha256 = ? WHERE job = ?",
        (head.revision, head.seq, head.chain, row_sha256(*head.row), head.job),
    )
