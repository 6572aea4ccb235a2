"""Files written whole or not at all.

The content goes to a new file of a name nobody can guess in the same folder, is synced, and takes the place of what
stood under the name. A link is replaced, never followed; what stood there keeps its mode; what a crash left is removed.
"""

import fcntl
import os
import stat
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from fenmist.errors import OutOfRangeError, UnwritableError

_PREFIX, _SUFFIX = ".fenmist-", ".part"


def write_whole(path: Path, content: Callable[[], bytes]) -> Path:
    """Write a file and return its path; on disk when this returns.

    Raises
    ------
    UnwritableError
        Where the file can't be written; names it. What stood under the name is untouched then.
    """
    data = content()
    try:
        mode = _mode_of(path)
        _remove_leftovers(path.parent)
        part = path.with_name(f"{_PREFIX}{os.urandom(8).hex()}{_SUFFIX}")
        descriptor = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW | os.O_CLOEXEC, 0o666)
        try:
            with os.fdopen(descriptor, "wb") as file:
                fcntl.flock(descriptor, fcntl.LOCK_EX)  # tells a write under way from a leftover
                if mode is not None:
                    os.fchmod(descriptor, mode)
                file.write(data)
                file.flush()
                os.fsync(descriptor)
                part.replace(path)
        except BaseException:
            part.unlink(missing_ok=True)
            raise
        sync_folder(path.parent)
    except OSError as error:
        raise UnwritableError(
            f"{path} could not be written: {error.strerror}.", "Choose a folder that exists and can be written."
        ) from error
    except ValueError as error:  # a name no system knows: with a null byte, or one that can't be encoded
        raise UnwritableError(f"{str(path)!r} is no name for a file.", "Choose another name.") from error
    return path


def sync_folder(folder: Path) -> None:
    """Bring a folder's names to disk; a file system that can't do that is no reason to fail."""
    with suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)


def _mode_of(path: Path) -> int | None:
    """Permissions of what stands under the name; none where nothing does, or a link. Raises OSError for a device."""
    try:
        found = path.lstat()
    except FileNotFoundError:
        return None
    if stat.S_ISLNK(found.st_mode):
        return None
    if not stat.S_ISREG(found.st_mode):
        raise OSError(0, "it is a folder or a device, not a file")
    return stat.S_IMODE(found.st_mode)


def _remove_leftovers(folder: Path) -> None:
    """Take away unfinished files that no one is writing any more."""
    for item in folder.glob(f"{_PREFIX}*{_SUFFIX}"):
        with suppress(OSError):
            descriptor = os.open(item, os.O_RDWR | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
            try:
                fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
                item.unlink()
            finally:
                os.close(descriptor)


def with_ending(path: Path, suffix: str) -> Path:
    """The path, if it ends so; raises OutOfRangeError with an example."""
    if path.suffix.lower() != suffix:
        raise OutOfRangeError(f"“{path}” doesn't end in {suffix}.", f"Type a file name such as Bittern-200{suffix}.")
    return path
