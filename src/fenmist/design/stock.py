"""What resistors there are to build from: a series as it is sold, or what lies in the drawer.

A line says values, and what holds for all of them: `820 Ω 5 % 2 W × 6; 100 Ω 1 W`. `E24 5 % 2 W 350 V` stands for the
members of a series. `measured 820.3 818.9 821.0 Ω 2 W` are resistors that were held to an ohmmeter: there is one of
each.
"""

import re

from fenmist.design.preferred import SERIES, USUAL_TOLERANCE, members
from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.frozen import dataclass
from fenmist.units.display import percent, resistance
from fenmist.units.typed import number_from_text

OHMMETER = 0.005
"""± part of what a hand-held ohmmeter shows (common practice, no source); a line may state its own."""

DRAWER_TOLERANCE = 0.05
"""Taken where a drawer's line states none (common practice, no source)."""

MOST_KINDS = 400
"""Different resistors that are looked through."""

_EXAMPLE = "E24 5 % 2 W, or 820 Ω 2 W × 6; 100 Ω 1 W × 4"
_LIMITS = re.compile(r"(?:±\s*)?(?P<number>\d[\d.,]*)\s*(?P<unit>%|mW|W|kV|V)(?![A-Za-z])")
_COUNT = re.compile(r"(?:\b(?P<before>\d+)\s*[×x*]\s*(?=\d)|[×x*]\s*(?P<after>\d+)\b)")
_VALUE = re.compile(r"(?<![\w.,-])(?P<number>\d[\d.,]*)\s*(?P<unit>[kM]?(?:Ω|ohms?)|[kM])?(?!\w)", re.I)
_TIMES = {"": 1.0, "Ω": 1.0, "o": 1.0, "O": 1.0, "k": 1e3, "K": 1e3, "M": 1e6, "m": 1e6}
_LARGEST_OHM = 1e9


@dataclass(frozen=True)
class Piece:
    """A resistor to build with."""

    ohm: float  # nominal, or as measured; > 0
    tolerance: float  # ± part of it, >= 0
    power_w: float | None = None  # rated, continuous; none where nobody says
    volts: float | None = None  # rated, rms as makers state it for sine; none where nobody says
    count: int | None = None  # how many there are; none for as many as wanted
    is_measured: bool = False

    @property
    def label(self) -> str:
        """ "820 Ω", "12 kΩ"."""
        return resistance(self.ohm, 5 if self.is_measured else 4)


@dataclass(frozen=True)
class Stock:
    """All that can be built with."""

    pieces: tuple[Piece, ...]
    series: tuple[tuple[str, Piece], ...] = ()  # a series with what holds for its members (their `ohm` isn't looked at)

    def around(self, ohm: float, decades: float = 2.0) -> tuple[Piece, ...]:
        """Pieces that could serve in a stack of that resistance: of a series, members within so many decades of it."""
        found = list(self.pieces)
        for name, what in self.series:
            reach = min(decades, (MOST_KINDS - len(self.pieces)) / (2.0 * len(SERIES[name])))
            low, high = ohm * 10.0**-reach, ohm * 10.0**reach
            found += [
                Piece(value, what.tolerance, what.power_w, what.volts)
                for value in members(name, max(low, 0.1), min(max(high, 0.2), _LARGEST_OHM))
            ]
        return tuple(found)


def stock_from_text(text: str) -> Stock:
    """The stock that a text says.

    Parameters
    ----------
    text : str
        Lines, or parts between semicolons.

    Raises
    ------
    UnreadableError, OutOfRangeError
        Names the part that can't be read.

    Examples
    --------
    >>> [(piece.label, piece.power_w, piece.count) for piece in stock_from_text("820 Ω 2 W × 6; 100 470 Ω").pieces]
    [('820\u202fΩ', 2.0, 6), ('100\u202fΩ', None, None), ('470\u202fΩ', None, None)]
    """
    pieces: list[Piece] = []
    series: list[tuple[str, Piece]] = []
    for part in (item.strip() for item in re.split(r"[;\n\r\v\u2028\u2029]", text)):  # as a list is pasted
        if not part:
            continue
        found = _part(part)
        if isinstance(found, tuple):
            series.append(found)
        else:
            pieces += found
    if not pieces and not series:
        raise UnreadableError("Nothing is said of what there is to build with.", f"Type for example {_EXAMPLE}.")
    if len(pieces) > MOST_KINDS:
        raise OutOfRangeError(
            f"{len(pieces)} different resistors are more than can be looked through.", f"Name up to {MOST_KINDS}."
        )
    return Stock(tuple(pieces), tuple(series))


def _part(text: str) -> list[Piece] | tuple[str, Piece]:
    """A series with its limits, or the resistors of a line."""
    is_measured = text.lower().startswith("measured")
    rest = text[len("measured") :].lstrip(" :") if is_measured else text
    limits: dict[str, float] = {}
    for match in _LIMITS.finditer(rest):
        unit = match["unit"]
        scale = {"%": 0.01, "mW": 1e-3, "kV": 1e3}.get(unit, 1.0)
        limits[unit[-1]] = _limit(match["number"], unit, text) * scale
    rest = _LIMITS.sub(" ", rest)
    counted = _COUNT.search(rest)
    count = int(counted["before"] or counted["after"]) if counted else None
    rest = _COUNT.sub(" ", rest).replace("±", " ").strip(" ,")
    name = rest.upper()
    if name in SERIES:
        tolerance = limits.get("%", USUAL_TOLERANCE[name])
        return name, Piece(1.0, tolerance, limits.get("W"), limits.get("V"))
    if count == 0:
        raise OutOfRangeError(f"“{text}” says that there is none.", "Leave it out.")
    values = _values(rest, text)
    tolerance = limits.get("%", OHMMETER if is_measured else DRAWER_TOLERANCE)
    many = count if count is not None else 1 if is_measured else None
    return [Piece(ohm, tolerance, limits.get("W"), limits.get("V"), many, is_measured) for ohm in values]


def _limit(number: str, unit: str, text: str) -> float:
    value, _ = number_from_text(number)
    if not (value > 0.0 or (unit == "%" and value == 0.0)) or (unit == "%" and value >= 100.0):
        raise OutOfRangeError(
            f"“{text}”: {number} {unit} is no rating.", f"{percent(0.0)} up to less than 100 %, W and V above 0."
        )
    return value


def _values(rest: str, text: str) -> tuple[float, ...]:
    """Values, each with a unit of its own or none; one at the end alone holds for all."""
    each = [(match["number"], match["unit"] or "") for match in _VALUE.finditer(rest)]
    if not each or _VALUE.sub("", rest.replace(" and ", " ")).strip(" ,"):
        raise UnreadableError(f"“{text}” is no resistor.", f"Type for example {_EXAMPLE}.")
    if not any(unit for _, unit in each[:-1]):
        each = [(number, each[-1][1]) for number, _ in each]
    values = tuple(number_from_text(number)[0] * _TIMES[unit[:1]] for number, unit in each)
    for ohm in values:
        if not 0.0 < ohm <= _LARGEST_OHM:
            raise OutOfRangeError(f"“{text}”: {ohm:g} Ω is no resistor.", "It lies above 0.")
    return values
