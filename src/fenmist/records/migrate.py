"""Brings a logbook file to the present schema, one numbered SQL file a step, each in one transaction."""

import re
import shutil
import sqlite3
from importlib import resources
from pathlib import Path

from fenmist.errors import DamagedLogbookError, NewerLogbookError

APPLICATION_ID = 0x46454E4D
"""Written into each logbook's header ("FENM"), to know our own files."""


def migrations() -> dict[int, str]:
    """SQL by version, rising."""
    found = {}
    for entry in resources.files("fenmist.records").joinpath("schema").iterdir():
        match = re.fullmatch(r"(\d{4})_\w+\.sql", entry.name)
        if match:
            found[int(match[1])] = entry.read_text("utf-8")
    return dict(sorted(found.items()))


def check_ours(connection: sqlite3.Connection, path: Path) -> int:
    """Version of an opened file, 0 for an empty one; raises where it isn't a logbook or is newer."""
    version = int(connection.execute("PRAGMA user_version").fetchone()[0])
    marked = int(connection.execute("PRAGMA application_id").fetchone()[0])
    tables = connection.execute("SELECT count(*) FROM sqlite_schema").fetchone()[0]
    if (tables or version) and marked != APPLICATION_ID:
        raise DamagedLogbookError(f"{path} is a database, but not a logbook.", "It was left as it is. Choose another.")
    newest = max(migrations())
    if version > newest:
        raise NewerLogbookError(
            f"{path} was written by a newer Fenmist (format {version}; this one knows up to {newest}).",
            "It was left as it is. Open it with the newer version.",
        )
    return version


def migrate(connection: sqlite3.Connection, path: Path) -> None:
    """Apply what is missing; a file that holds records is copied beside itself first."""
    version = check_ours(connection, path)
    missing = {number: sql for number, sql in migrations().items() if number > version}
    if missing and version > 0:
        shutil.copy2(path, path.with_name(f"{path.stem}.format{version}{path.suffix}"))
    for number, sql in missing.items():
        connection.executescript(
            f"BEGIN IMMEDIATE; {sql}; PRAGMA application_id = {APPLICATION_ID}; PRAGMA user_version = {number}; COMMIT;"
        )
