"""What can be taken back: the one mechanism of undo and redo, for a job as for the equipment."""

from collections.abc import Callable
from dataclasses import replace

from fenmist.frozen import dataclass


@dataclass(frozen=True)
class Command:
    """What was done: how to take it back and how to do it again."""

    label: str
    back: Callable[[], None]
    again: Callable[[], None]
    merge: str = ""  # commands in a row with the same one are taken back together


class Commands:
    """Commands that were done, and those taken back.

    A job has its own and the equipment has its own: what one takes back lies in front of one's eyes.

    Parameters
    ----------
    tell : callable
        Called after each change.
    """

    def __init__(self, tell: Callable[[], None]) -> None:
        self._tell = tell
        self._done: list[Command] = []
        self._taken_back: list[Command] = []

    @property
    def undo_label(self) -> str:
        """What undo would take back, or nothing."""
        return self._done[-1].label if self._done else ""

    @property
    def redo_label(self) -> str:
        """What redo would do again, or nothing."""
        return self._taken_back[-1].label if self._taken_back else ""

    def did(self, command: Command) -> None:
        """A command was done."""
        if command.merge and self._done and self._done[-1].merge == command.merge:
            command = replace(command, back=self._done.pop().back)
        self._done.append(command)
        self._taken_back.clear()
        self._tell()

    def undo(self) -> None:
        """Take back the last command; the record keeps both."""
        if self._done:
            command = self._done[-1]
            command.back()  # where it fails, the command stays what undo would take back
            self._taken_back.append(self._done.pop())
            self._tell()

    def redo(self) -> None:
        """Do again what was taken back last."""
        if self._taken_back:
            command = self._taken_back[-1]
            command.again()
            self._done.append(self._taken_back.pop())
            self._tell()
