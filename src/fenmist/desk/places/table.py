"""The table of places: what stands behind each name, made when it is first shown: the window stands sooner."""

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Protocol

from PySide6.QtWidgets import QWidget

if TYPE_CHECKING:
    from fenmist.desk.shell import Shell


class Place(Protocol):
    """A page of the window."""

    def enter(self) -> None:
        """Come to the front."""


class Places:
    """The pages of a window by name."""

    def __init__(self, shell: "Shell") -> None:
        self._shell = shell
        self._made: dict[str, QWidget] = {}

    def __getitem__(self, name: str) -> QWidget:
        """The page of that name, made now where it wasn't."""
        if name not in self._made:
            self._made[name] = _MADE_BY[name](self._shell)
            self._shell.stack.add(self._made[name])
        return self._made[name]

    def name_of(self, page: QWidget | None) -> str:
        """What a page is called; nothing where it isn't one of these."""
        return next((name for name, made in self._made.items() if made is page), "")


def _no_job(shell: "Shell") -> QWidget:
    from fenmist.desk.bench import NoJob

    made = NoJob()
    made.new_wanted.connect(shell.new_job)
    return made


def _tools(shell: "Shell") -> QWidget:
    from fenmist.desk.places.tools import ToolsPlace

    made = ToolsPlace(shell.session, shell.themes)
    made.job_wanted.connect(shell.show_job_of_tool)
    made.question_wanted.connect(shell.ask)
    made.turned.connect(shell.show_keys)
    made.did.connect(shell.tell)
    return made


def _kit(shell: "Shell") -> QWidget:
    from fenmist.desk.places.kit import KitPlace

    made = KitPlace(shell.session, shell.themes)
    made.open_wanted.connect(shell.open_job)
    return made


def _logbook(shell: "Shell") -> QWidget:
    from fenmist.desk.places.logbook import LogbookPlace

    made = LogbookPlace(shell.session)
    made.open_wanted.connect(shell.open_job)
    made.new_wanted.connect(shell.new_job)
    return made


def _keys(shell: "Shell") -> QWidget:
    from fenmist.desk.places.keys import KeysPlace

    made = KeysPlace(shell.themes)
    made.keypad_changed.connect(shell.take_keypad)
    return made


def _begin(shell: "Shell") -> QWidget:
    from fenmist.desk.places.begin import BeginPage

    made = BeginPage(shell.session, shell.themes)
    made.begun.connect(shell.show_begun)
    made.moved.connect(shell.show_moved)
    return made


def _first(shell: "Shell") -> QWidget:
    from fenmist.desk.places.first import FirstPage

    made = FirstPage(shell.session)
    made.new_wanted.connect(shell.new_job)
    made.demo_wanted.connect(shell.open_demo)
    made.file_wanted.connect(shell.show_take_in)
    return made


def _instruments(shell: "Shell") -> QWidget:
    from fenmist.desk.places.instruments import InstrumentsPlace

    made = InstrumentsPlace(shell.session, shell.wiring, shell.themes)
    made.did.connect(shell.tell)
    return made


_MADE_BY: Mapping[str, Callable[["Shell"], QWidget]] = {
    "no job": _no_job, "tools": _tools, "kit": _kit, "logbook": _logbook, "keys": _keys, "first": _first,
    "begin": _begin, "instruments": _instruments,
}  # fmt: skip
