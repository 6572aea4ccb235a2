"""A file's bytes, read within a limit: only of ordinary files, so that no pipe or device is waited for."""

import os
import stat
from pathlib import Path

from fenmist.errors import FileFormatError


def bytes_of(path: Path, most_bytes: int, what_to_do: str = "Export fewer points.") -> bytes:
    """Read a file.

    Parameters
    ----------
    path : Path
        Of an ordinary file; links are followed.
    most_bytes : int
        A larger file is refused unread.
    what_to_do : str
        The hint where it is larger.

    Raises
    ------
    FileFormatError
        Names the file, and why it can't be read.
    """
    try:
        descriptor = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with os.fdopen(descriptor, "rb") as file:
            is_file = stat.S_ISREG(os.fstat(descriptor).st_mode)
            data = file.read(most_bytes + 1) if is_file else b""
    except OSError as error:
        raise FileFormatError(f"{path.name} can't be read: {error.strerror}.", "Look whether it is there.") from error
    except ValueError as error:  # a null byte in the name
        raise FileFormatError(f"{str(path)!r} is no name of a file.", "Choose another.") from error
    if not is_file:
        raise FileFormatError(f"{path.name} is no ordinary file.", "Choose a file, not a folder or a device.")
    if len(data) > most_bytes:
        raise FileFormatError(f"{path.name} is larger than {_size(most_bytes)}.", what_to_do)
    return data


def _size(count: int) -> str:
    return f"{count // 1_000_000} MB" if count >= 1_000_000 else f"{count // 1000} kB"
