"""Damaged logbooks, settings and drafts, each with the words that the window must show."""

import shutil
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass, replace
from functools import partial
from itertools import islice
from pathlib import Path
from typing import Any

from fenmist.calibration.job import Job
from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.records.rows import row_sha256
from fenmist.records.store import Logbook
from fenmist.session.backup import FOLDER

DAMAGED = ("damaged", "not what was written", "can't be opened", "not those of a logbook", "empty (0 bytes)")
LIST = ("jobs in the logbook",)
TROUBLED = ("can't be worked out",)
WORKS = ("jobs in the logbook", "Teal 20", "Receive")


@dataclass(frozen=True)
class Case:
    """What was done to it, and words of which one must stand in the window."""

    name: str
    path: Path
    settings: Path
    words: tuple[str, ...]


def cases(original: Path, folder: Path, quarter: int) -> Iterator[Case]:
    """Every fourth of them, each in a folder of its own, made from a demonstration's logbook."""
    for number, (name, spoil, words) in enumerate(islice(_spoils(), quarter, None, 4)):
        here = folder / f"{number:02d}"
        (here / "settings" / "fenmist").mkdir(parents=True)
        path = here / "book.fenlog"
        shutil.copy(original, path)
        spoil(path)
        yield Case(name, path, here / "settings", words)


Spoil = Callable[[Path], object]
Change = Callable[[Job], Job]


def _spoils() -> Iterator[tuple[str, Spoil, tuple[str, ...]]]:
    yield from _bytes()
    yield from _tables()
    yield from _rows()
    yield from _jobs()
    yield from _places()
    yield from _settings()
    yield from _beside()


def _bytes() -> Iterator[tuple[str, Spoil, tuple[str, ...]]]:
    for size in (1, 16, 100, 512, 4096, 8192, 60_000, 200_000):
        yield f"cut to {size} bytes", partial(_cut, size=size), DAMAGED
    yield "the last byte gone", lambda path: _cut(path, path.stat().st_size - 1), (*DAMAGED, *LIST)
    yield "empty, without a backup", lambda path: path.write_bytes(b""), ("was empty (0 bytes)",)
    yield "empty, with a backup", _emptied_with_backup, ("Open a copy of the newest backup",)
    yield "text", lambda path: path.write_text("Dear logbook, " * 4000), DAMAGED
    for place, value, words in (
        (0, b"X", DAMAGED), (16, b"\0\x07", DAMAGED), (18, b"\x07\x07", DAMAGED), (40, b"\xff" * 8, (*DAMAGED, *LIST)),
        (56, b"\0\0\0\x02", DAMAGED), (60, b"\0\0\0\x63", ("newer Fenmist",)), (60, b"\0\0\0\0", DAMAGED),
        (60, b"\0\0\0\x03", DAMAGED), (68, b"\0\0\0\0", ("not a logbook",)), (100, b"\0" * 40, DAMAGED),
        (4096, b"\xff" * 4096, DAMAGED), (12288, b"\0" * 4096, (*DAMAGED, *LIST)),
    ):  # fmt: skip
        yield f"bytes at {place}", partial(_overwrite, place=place, value=value), words


def _tables() -> Iterator[tuple[str, Spoil, tuple[str, ...]]]:
    for sql in (
        "DROP TABLE event", "DROP TABLE head", "DROP TABLE summary", "DROP TRIGGER event_is_final",
        "CREATE TABLE more (x TEXT)", "DROP INDEX issue_by_job", "ALTER TABLE part ADD COLUMN colour TEXT",
    ):  # fmt: skip
        yield sql, partial(_run, sql=sql), DAMAGED


def _rows() -> Iterator[tuple[str, Spoil, tuple[str, ...]]]:
    for table, change, words in (
        ("part", "payload = replace(payload, 'Bittern', 'Bitterm')", DAMAGED),
        ("part", "payload = '{'", DAMAGED),
        ("job", "created_at = '2031-01-01T00:00:00+00:00'", DAMAGED),
        ("head", "seq = seq + 1", DAMAGED),
        ("logbook", "value = 'no' WHERE key = 'demo'", DAMAGED),
        ("definition", "payload = replace(payload, 'Teal', 'Tael')", ("not what was written",)),
        ("event", "at = '1999' || substr(at, 5)", ("not what was written",)),
        ("summary", "payload = '{}'", LIST),
        ("summary", "words = ''", LIST),
    ):
        yield f"{table}: {change}", partial(_changed, table=table, change=change), words


def _jobs() -> Iterator[tuple[str, Spoil, tuple[str, ...]]]:
    def spoiled(change: Change) -> Spoil:
        return partial(_with_job, change=change)

    nothing = SpecTerm(SpecKind.OF_RANGE, 0.0)
    yield "tolerance 0", spoiled(lambda job: replace(job, tolerance=nothing)), LIST
    yield "unit furlong", spoiled(lambda job: _reading(job, unit="furlong")), TROUBLED
    yield "form out", spoiled(lambda job: _reading(job, form="out")), TROUBLED
    yield "reading 5e-324", spoiled(lambda job: _reading(job, value=5e-324)), LIST
    yield "reading 1e160", spoiled(lambda job: _reading(job, value=1e160)), TROUBLED
    yield "no kit", spoiled(lambda job: replace(job, kit=())), TROUBLED
    yield "unknown question", spoiled(lambda job: replace(job, question="nothing")), TROUBLED
    yield "no hook-ups", spoiled(lambda job: replace(job, hookups=())), TROUBLED
    yield "another device", spoiled(lambda job: replace(job, dut="nobody")), TROUBLED
    yield "frequency 0", spoiled(lambda job: replace(job, plan=(replace(job.plan[0], frequency_hz=0.0),))), LIST
    yield "level 1e300", spoiled(lambda job: replace(job, plan=(replace(job.plan[0], target_w=1e300),))), LIST


def _places() -> Iterator[tuple[str, Spoil, tuple[str, ...]]]:
    for text in (
        "{", '"x"', '{"job":"nobody","step":1}', '{"job":"demo-teal","step":99}', '{"job":"demo-teal","step":-1}',
        '{"job":"demo-teal","step":4,"slot":["p1",1,0,"as found"],"draft":"4412 dBm"}',
        '{"job":"demo-teal","step":4,"slot":["p1",1,0,"as found"],"draft":"0e999"}',
        '{"job":"demo-teal","step":4,"slot":["p9",-5,77,"never"],"draft":"12"}',
        '{"job":"demo-teal","step":4,"slot":["p1",1,0,"as found"],"draft":"' + "9" * 20_000 + '"}',
        "[" * 100_000,
    ):  # fmt: skip
        yield f"place {text[:70]}", partial(_place, text=text), WORKS


def _settings() -> Iterator[tuple[str, Spoil, tuple[str, ...]]]:
    for text in (
        b"[General]\nscale=abc\n", b"[General]\nscale=1e9\n", b"[General]\ngeometry=@ByteArray(junk)\ntheme=7\n",
        b"[General]\ngeometry=hello\narms_length=@Variant(\\0\\0\\0\\x11)\n", b"[keypad]\ncommand=abc\nrepeat=1\n",
        b"\0\xff\xfe" * 400, b"[" * 9000,
    ):  # fmt: skip
        yield f"settings {text[:30]!r}", partial(_settings_file, content=text), LIST


def _beside() -> Iterator[tuple[str, Spoil, tuple[str, ...]]]:
    yield "the log is missing", lambda path: _overwrite(path, 18, b"\x02\x02"), ("its log book.fenlog-wal is missing",)
    yield "empty beside a log", _emptied_with_log, DAMAGED
    yield "own templates that are none", lambda path: _set(path, "templates", '[{"id":3}]'), LIST


# how


def _cut(path: Path, size: int) -> None:
    path.write_bytes(path.read_bytes()[:size])


def _overwrite(path: Path, place: int, value: bytes) -> None:
    data = bytearray(path.read_bytes())
    data[place : place + len(value)] = value
    path.write_bytes(data)


def _emptied_with_backup(path: Path) -> None:
    (path.parent / FOLDER).mkdir()
    shutil.copy(path, path.parent / FOLDER / "book 2026-11-20.fenlog")
    path.write_bytes(b"")


def _emptied_with_log(path: Path) -> None:
    path.with_name(path.name + "-wal").write_bytes(b"x" * 5000)
    path.write_bytes(b"")


def _run(path: Path, sql: str) -> None:
    with closing(sqlite3.connect(path, isolation_level=None)) as other:
        other.execute(sql)


def _changed(path: Path, table: str, change: str) -> None:
    """Rows changed by a hand that puts the triggers back."""
    with closing(sqlite3.connect(path, isolation_level=None)) as other:
        triggers = other.execute("SELECT name, sql FROM sqlite_schema WHERE type = 'trigger'").fetchall()
        for name, _ in triggers:
            other.execute(f"DROP TRIGGER {name}")
        other.execute(f"UPDATE {table} SET {change}")
        if table in ("definition", "event"):  # else the list would still know what it was
            other.execute("DELETE FROM summary")
        for _, sql in triggers:
            other.execute(sql)


def _with_job(path: Path, change: Change) -> None:
    """One more job that no gate has seen."""
    book = Logbook(path)
    job = book.job("demo-bittern-2022")
    events = tuple(replace(event, id=f"x{number}") for number, event in enumerate(job.events))
    book.add_job(change(replace(job, id="spoiled", title="Spoiled", events=events)))
    book.close()


def _reading(job: Job, **what: Any) -> Job:
    event = job.events[0]
    assert event.entry is not None and event.entry.reading is not None
    entry = replace(event.entry, reading=replace(event.entry.reading, **what))
    return replace(job, events=(replace(event, entry=entry), *job.events[1:]))


def _set(path: Path, key: str, value: str) -> None:
    with closing(sqlite3.connect(path, isolation_level=None)) as other:
        other.execute("INSERT OR REPLACE INTO logbook VALUES (?, ?, ?)", (key, value, row_sha256(key, value)))


def _place(path: Path, text: str) -> None:
    _set(path, "place", text)


def _settings_file(path: Path, content: bytes) -> None:
    (path.parent / "settings" / "fenmist" / "fenmist.ini").write_bytes(content)
