"""Hashes of rows: each row of a logbook carries one over its own columns, and each event one over those before it.

A damaged disk, a flipped bit or a hand in the file is found when the row is read. They prove nothing against somebody
who makes the hashes anew; they aren't signatures.
"""

import hashlib
import sqlite3

import msgspec

Column = str | int | bytes | None


def row_sha256(*columns: Column) -> str:
    """SHA-256 over the columns of a row, in their order; no two different rows encode alike."""
    return hashlib.sha256(msgspec.json.encode(columns)).hexdigest()


class _Chain:
    """Window function: the chain of a job's events, in order of seq."""

    def __init__(self) -> None:
        self._chain = ""

    def step(self, *columns: Column) -> None:
        job, *own = columns
        self._chain = row_sha256(self._chain or job, *own)

    def value(self) -> str:
        return self._chain

    def inverse(self, *columns: Column) -> None:
        """Never called: the window begins at the first event."""

    def finalize(self) -> str:
        return self._chain


def _as_written(payload: str, digest: str) -> str:
    """The payload, where it is what was written by format 3 or older."""
    if hashlib.sha256(payload.encode()).hexdigest() != digest:
        raise ValueError("an event is not what was written")
    return payload


def add_functions(connection: sqlite3.Connection) -> None:
    """Make the hashes known to SQL; migrations use them."""
    connection.create_function("row_sha256", -1, row_sha256, deterministic=True)
    connection.create_function("as_written", 2, _as_written, deterministic=True)
    connection.create_window_function("chain_sha256", 6, _Chain)  # type: ignore[arg-type]
