"""A small file's bytes, or why it can't be taken."""

from pathlib import Path

from fenmist.errors import FileFormatError


def bytes_of(path: Path, most_bytes: int) -> bytes:
    """Read a file within a limit; raises FileFormatError, naming it."""
    try:
        if path.stat().st_size > most_bytes:
            raise FileFormatError(f"{path.name} is larger than {most_bytes // 1_000_000} MB.", "Export fewer points.")
        return path.read_bytes()
    except OSError as error:
        raise FileFormatError(f"{path.name} can't be read: {error.strerror}.", "Look whether it is there.") from error
