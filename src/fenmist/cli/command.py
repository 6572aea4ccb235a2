"""What the plain commands have in common: a parser that says what is wrong in one line, and notes as text and JSON."""

import argparse
import sys
from collections.abc import Iterable
from typing import Any

from fenmist.findings.note import Note


class Parser(argparse.ArgumentParser):
    """Says what is wrong with the arguments in one line; exit code 2."""

    def error(self, message: str) -> None:  # type: ignore[override]
        """End with the line."""
        print(f"{self.prog}: {message}. See “{self.prog} --help”.", file=sys.stderr)
        raise SystemExit(2)

    def _print_message(self, message: str, file: Any = None) -> None:
        """Print help and errors; argparse itself keeps silent where that can't be written."""
        print(message, end="", file=file or sys.stderr)


def notes_json(notes: Iterable[Note]) -> list[dict[str, str]]:
    """Notes as JSON's values."""
    return [
        {
            "code": note.code, "severity": str(note.severity), "what": note.what, "why": note.why,
            "remedy": note.remedy,
        }
        for note in notes
    ]  # fmt: skip


def note_lines(notes: Iterable[Note]) -> list[str]:
    """Notes as lines of text, an empty one before each."""
    return [
        line for note in notes for line in ("", f"{note.severity}: {note.what}", f"  {note.why}", f"  {note.remedy}")
    ]


def print_rows(rows: Iterable[tuple[str, str]], notes: Iterable[Note]) -> None:
    """Print what is answered, a line for each thing, and the notes on it."""
    rows = tuple(rows)
    wide = max((12, *(len(name) for name, _ in rows)))
    print("\n".join((*(f"{name:<{wide}} {value}" for name, value in rows), *note_lines(notes))))
