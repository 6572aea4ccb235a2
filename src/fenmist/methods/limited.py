"""A value as it is typed with its limit behind ±: “50 W ± 5 %”, “2 A ± 0.1 A”."""

import math

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS


@dataclass(frozen=True)
class Limited:
    """A value with its limit as a part of it."""

    value: float
    limit: float
    said: str
    is_assumed: bool

    @property
    def u(self) -> float:
        """Standard uncertainty as a part of the value: of a rectangle."""
        return self.limit / math.sqrt(3.0)


def above_nothing(value: float, name: str, example: str) -> float:
    """The value itself; raises OutOfRangeError where it isn't above 0."""
    if not value > 0.0:
        raise OutOfRangeError(f"A {name} of {value:g} makes no sense.", f"Type for example {example}.")
    return value


def limited(text: str, unit: str, name: str, example: str, usual: float) -> Limited:
    """A value with its limit behind ±, in per cent or in its own unit; `usual` where none is typed.

    Raises
    ------
    UnreadableError
        Of a text that is no such value.
    OutOfRangeError
        Of a limit as large as the value.
    """
    first, _, limit = text.partition("±")
    value = value_from_text(first, UNITS[unit], name, example)
    if not limit.strip():
        return Limited(value, usual, f"±{100.0 * usual:g}\u202f% assumed", True)
    if "%" in limit:
        part = value_from_text(limit, UNITS["%"], f"limit of the {name}", "5 %")
    else:
        part = value_from_text(limit, UNITS[unit], f"limit of the {name}", "5 %") / above_nothing(value, name, example)
    if not 0.0 <= part < 1.0:
        raise OutOfRangeError(f"±{limit.strip()} is as much as the {name} itself.", "Type for example ±5 %.")
    return Limited(value, part, f"±{limit.strip()}", False)
