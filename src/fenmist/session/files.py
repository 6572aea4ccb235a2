"""Files written whole or not at all."""

from collections.abc import Callable
from pathlib import Path

from fenmist.errors import ReportError


def write_whole(path: Path, content: Callable[[], bytes]) -> Path:
    """Write a file; an unfinished one never stands under the name.

    Raises
    ------
    ReportError
        Where the file can't be written; names it.
    """
    data = content()
    part = path.with_name(path.name + ".part")
    try:
        part.write_bytes(data)
        part.replace(path)
    except OSError as error:
        raise ReportError(
            f"{path} could not be written: {error.strerror}.", "Choose a folder that exists and can be written."
        ) from error
    return path


def with_ending(path: Path, suffix: str) -> Path:
    """The path, if it ends so; raises ReportError with an example."""
    if path.suffix.lower() != suffix:
        raise ReportError(f"“{path}” doesn't end in {suffix}.", f"Type a file name such as Bittern-200{suffix}.")
    return path
