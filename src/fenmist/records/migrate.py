"""Brings a logbook file to the present schema, by numbered SQL files, all in one transaction."""

import re
import sqlite3
from contextlib import closing
from functools import cache
from pathlib import Path

from fenmist.errors import DamagedLogbookError, NewerLogbookError
from fenmist.records.rows import add_functions

APPLICATION_ID = 0x46454E4D
"""Written into each logbook's header ("FENM"), to know our own files."""


def migrations() -> dict[int, str]:
    """SQL by version, rising."""
    found = {}
    for entry in Path(__file__).with_name("schema").iterdir():
        match = re.fullmatch(r"(\d{4})_\w+\.sql", entry.name)
        if match:
            found[int(match[1])] = entry.read_text("utf-8")
    return dict(sorted(found.items()))


def check_ours(connection: sqlite3.Connection, path: Path) -> int:
    """Version of an opened file, 0 for an empty one.

    Raises
    ------
    DamagedLogbookError
        Where it isn't a logbook, or its tables aren't those of its version.
    NewerLogbookError
        Where it was written by a newer Fenmist.
    """
    version = int(connection.execute("PRAGMA user_version").fetchone()[0])
    marked = int(connection.execute("PRAGMA application_id").fetchone()[0])
    tables = _tables(connection)
    if (tables or version) and marked != APPLICATION_ID:
        raise DamagedLogbookError(f"{path} is a database, but not a logbook.", "It was left as it is. Choose another.")
    newest = max(migrations())
    if version > newest:
        raise NewerLogbookError(
            f"{path} was written by a newer Fenmist (format {version}; this one knows up to {newest}).",
            "It was left as it is. Open it with the newer version.",
        )
    if tables != _expected(version):
        raise DamagedLogbookError(
            f"The tables of {path} are not those of a logbook of format {version}.",
            "It was left as it is. Open the newest backup.",
        )
    return version


def _tables(connection: sqlite3.Connection) -> tuple[tuple[str, ...], ...]:
    """Names and wording of everything in the schema."""
    rows = connection.execute(
        "SELECT type, name, tbl_name, coalesce(sql, '') FROM sqlite_schema "
        "WHERE name NOT LIKE 'sqlite_stat%' ORDER BY type, name"
    )
    return tuple(tuple(map(str, row)) for row in rows)


@cache
def _expected(version: int) -> tuple[tuple[str, ...], ...]:
    """The schema as the migrations up to a version make it."""
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as made:
        add_functions(made)
        for number, sql in migrations().items():
            if number <= version:
                made.executescript(sql)
        return _tables(made)


def migrate(connection: sqlite3.Connection, path: Path, version: int) -> None:
    """Apply what is missing since a version; a file that holds records is copied beside itself first."""
    missing = {number: sql for number, sql in migrations().items() if number > version}
    if missing and version > 0:
        with closing(sqlite3.connect(path.with_name(f"{path.stem}.format{version}{path.suffix}"))) as copy:
            connection.backup(copy)
    if missing:
        add_functions(connection)
        marks = f"PRAGMA application_id = {APPLICATION_ID}; PRAGMA user_version = {max(missing)};"
        connection.executescript(f"BEGIN IMMEDIATE; {'; '.join(missing.values())}; {marks} COMMIT;")
