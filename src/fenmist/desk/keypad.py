"""The keypad's map in a run: what each key does, shown on screen and changeable; digits are never among them."""

from collections.abc import Mapping
from dataclasses import fields, replace

from PySide6.QtCore import QSettings

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass

AFTER_COMMAND: Mapping[str, tuple[str, str]] = {
    "1": ("strike", "strike"), "2": ("take", "take the likeliest"), "3": ("skip", "skip the round"),
    "4": ("doubt", "mark as doubtful"), "5": ("range", "next range"), "6": ("reason", "another reason"),
    "7": ("move", "move the round"),
}  # fmt: skip
"""Digit after the command key: what it does, and how that is said."""


@dataclass(frozen=True)
class Keypad:
    """The keys that steer; the unit is the field's, so no letters are needed."""

    command: str = "/"
    repeat: str = "*"
    carrier: str = "+"
    back: str = "-"

    def changed(self, name: str, key: str) -> "Keypad":
        """The map with another key for one action.

        Raises
        ------
        OutOfRangeError
            Where the key is none, is typed in numbers, or has another action.
        """
        taken = {item.name: getattr(self, item.name) for item in fields(self) if item.name != name}
        if len(key) != 1 or key.isalnum() or key in ".,_ ":
            raise OutOfRangeError(f"“{key}” can't steer: it is typed in readings.", "Choose a sign such as / * + - #.")
        if key in taken.values():
            used = next(other for other, value in taken.items() if value == key)
            raise OutOfRangeError(f"“{key}” is the key for {used} already.", "Change that one first.")
        return replace(self, **{name: key})


def keypad_from(settings: QSettings) -> Keypad:
    """The map as it was left, or the usual one where it can't be used."""
    made = Keypad()
    for item in fields(Keypad):
        key = str(settings.value(f"keypad/{item.name}", "") or "")
        try:
            made = made.changed(item.name, key) if key else made
        except OutOfRangeError:
            continue
    return made


def keep_keypad(settings: QSettings, keypad: Keypad) -> None:
    """Keep the map for the next time."""
    for item in fields(keypad):
        settings.setValue(f"keypad/{item.name}", getattr(keypad, item.name))
