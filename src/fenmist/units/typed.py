"""What people type as a reading, and what it means.

Nothing is refused: a text that can't be read, or that can be read in two ways, comes back as `Unclear` with the
reason and the likeliest reading, which the desk offers for one key. A point is always decimal. A comma is
decimal, too, but `1,250` (one comma, three digits after it, first digit not 0) may be a thousand and a quarter
or one and a quarter, so it is asked.
"""

import math
import re
from enum import StrEnum

from fenmist.errors import UnreadableError
from fenmist.frozen import dataclass
from fenmist.units.unit import UNITS, Quantity, Unit, find_unit


class Censoring(StrEnum):
    """Whether the number is the value or only a bound on it."""

    NONE = "exact"
    BELOW = "below"
    ABOVE = "above"


@dataclass(frozen=True)
class Pointer:
    """A needle's place as mark and divisions past it: `20/3.5`."""

    mark: float
    divisions: float


@dataclass(frozen=True)
class Typed:
    """A text that was read. `value` and `digit` (size of the last digit typed) are in `unit`."""

    raw: str
    value: float
    unit: Unit
    digit: float
    censoring: Censoring = Censoring.NONE
    pointer: Pointer | None = None

    @property
    def value_si(self) -> float:
        """The value in `unit.base`."""
        return self.unit.si_from(self.value)

    @property
    def digit_si(self) -> float:
        """Size of the last digit in `unit.base`."""
        return self.unit.step_si(self.value, self.digit)


@dataclass(frozen=True)
class Unclear:
    """A text that stays open: why, and what it most likely means."""

    raw: str
    why: str
    likeliest: Typed | None = None


LARGEST, SMALLEST = 1e15, 1e-24
"""What a bench can show, in SI units: beyond it a number is a slip (Fenmist's own; -210 dBm is 1e-24 W)."""

LONGEST = 200
"""Letters that a typed value may have."""

_LARGEST_EXPONENT = 30

_NUMBER = r"[+-]?(?:\d[\d.,]*|[.,]\d+)(?:[eE][+-]?\d+)?"
_READING = rf"^(?P<number>{_NUMBER})(?P<unit>.*)$"
_POINTER = rf"^(?P<mark>{_NUMBER})\s*/\s*(?P<divisions>{_NUMBER})(?P<unit>.*)$"
_HALF_POINTER = rf"^(?P<mark>{_NUMBER})\s*/$"
_BELOW = r"(?i)^(?:<|below|under|less than)\s*"
_ABOVE = r"(?i)^(?:>|above|over|more than)\s*"


def tidy(text: str) -> str:
    """Typographic signs folded to what a keyboard has: minus, thin and hard spaces."""
    return re.sub(r"\s+", " ", text.replace("\u2212", "-").replace("\u2013", "-").replace("\u2019", "'")).strip()


def number_from_text(text: str) -> tuple[float, float]:
    """Value and size of the last digit of a number; the number's one grammar.

    Raises
    ------
    UnreadableError
        Where the text is no number, or its commas can be read in two ways.

    >>> number_from_text("25,6")
    (25.6, 0.1)
    >>> number_from_text("0,250")
    (0.25, 0.001)
    """
    body, has_exponent, exponent = text.strip().replace("E", "e").partition("e")
    if has_exponent and not exponent.lstrip("+-").isdecimal():
        raise UnreadableError(f"“{_short(text)}” is not a number.", "Type digits, such as 25.6.")
    points, commas = body.count("."), body.count(",")
    if commas and _comma_is_ambiguous(body, points, commas):
        raise UnreadableError(
            f"“{_short(text)}” can be read in two ways: is the comma decimal, or does it group thousands?",
            "Type it with a point, or without the comma.",
        )
    body = body.replace(",", ".")
    if points > 1:
        raise UnreadableError(f"“{_short(text)}” has {points} decimal points.", "Type one point only.")
    if len(exponent.lstrip("+-").lstrip("0")) > 2 or abs(int(exponent or 0)) > _LARGEST_EXPONENT:
        size = "small" if exponent.startswith("-") else "large"
        raise UnreadableError(f"“{_short(text)}” is too {size} to be a reading.", "Look at the exponent.")
    try:
        value = float(body + (f"e{exponent}" if exponent else ""))
    except ValueError:
        raise UnreadableError(f"“{_short(text)}” is not a number.", "Type digits, such as 25.6.") from None
    if not math.isfinite(value) or (value == 0.0 and body.strip("+-.0")):
        raise UnreadableError(f"“{_short(text)}” is beyond what a number here can be.", "Look at its digits.")
    decimals = len(body.partition(".")[2])
    return value, float(f"1e{int(exponent or 0) - decimals}")


def _short(text: str) -> str:
    """A text as it can stand in a sentence."""
    return text if len(text) <= 40 else f"{text[:37]}…"


def _comma_is_ambiguous(body: str, points: int, commas: int) -> bool:
    if points or commas > 1:
        return True
    whole, _, fraction = body.lstrip("+-").partition(",")
    return len(fraction) == 3 and whole[:1] not in ("", "0")


def parse(
    text: str, implied: Unit, expected_si: float | None = None, full_scale_si: float | None = None
) -> Typed | Unclear:
    """Read a typed value in a field whose unit is `implied`.

    Parameters
    ----------
    text : str
        As typed: `25.6`, `25,6 W`, `44.1 dBm`, `102 Vpp`, `20/3.5`, `<0.5`, `off scale`.
    implied : Unit
        Unit of the field, taken when none is typed.
    expected_si : float, optional
        What the value should be near, in the field's SI unit; decides which of two readings is likelier.
    full_scale_si : float, optional
        Makes `off scale` a value above this one.

    Returns
    -------
    Typed or Unclear
        Never raises: what can't be read stays open with a reason.
    """
    if len(text) > LONGEST:
        return Unclear(text, f"{len(text)} letters are too many for a reading.")
    tidied = tidy(text)
    if not tidied:
        return Unclear(text, "Nothing was typed.")
    if re.fullmatch(r"off(?: the)? scale|o\.?l\.?|overload", tidied, re.I):
        if full_scale_si is None:
            return Unclear(text, "Off the scale of what? This field has no full scale.")
        return Typed(text, implied.from_si(full_scale_si), implied, 0.0, Censoring.ABOVE)
    censoring = Censoring.NONE
    for pattern, kind in ((_BELOW, Censoring.BELOW), (_ABOVE, Censoring.ABOVE)):
        if re.match(pattern, tidied):
            censoring, tidied = kind, re.sub(pattern, "", tidied)
    if half := re.match(_HALF_POINTER, tidied):
        return Unclear(text, f"How many divisions past {half['mark']}?")
    match = re.match(_POINTER, tidied) or re.match(_READING, tidied)
    if match is None:
        return Unclear(text, f"“{_short(text.strip())}” doesn't begin with a number.")
    return _read_match(text, match, implied, censoring, expected_si)


def _read_match(
    raw: str, match: re.Match[str], implied: Unit, censoring: Censoring, expected_si: float | None
) -> Typed | Unclear:
    parts = match.groupdict()
    unit = _unit_in_field(parts["unit"], implied)
    if unit is None:
        return _wrong_unit(raw, parts, implied, censoring)
    number = parts.get("number") or parts["mark"]
    try:
        value, digit = number_from_text(number)
        pointer = None
        if "divisions" in parts:
            divisions, fraction = number_from_text(parts["divisions"])
            pointer, digit = Pointer(value, divisions), fraction
        return _within_reach(Typed(raw, value, unit, digit, censoring, pointer))
    except UnreadableError as error:
        return Unclear(raw, str(error), _likeliest(raw, number, unit, censoring, expected_si))


def _within_reach(typed: Typed) -> Typed:
    """The same, where value and last digit are numbers that a bench can show in every unit; raises UnreadableError."""
    try:
        size, digit = abs(typed.value_si), typed.digit_si
    except OverflowError:
        size = digit = math.inf
    if size > LARGEST or not math.isfinite(digit):
        raise UnreadableError(f"“{_short(typed.raw.strip())}” is more than any bench shows.", "Look at unit and point.")
    if 0.0 < size < SMALLEST:
        raise UnreadableError(f"“{_short(typed.raw.strip())}” is less than any bench shows.", "Look at unit and point.")
    return typed


def _unit_in_field(text: str, implied: Unit) -> Unit | None:
    if not text.strip():
        return implied
    unit = find_unit(text, implied.quantity)
    if unit is not None and unit.symbol.endswith("V") and unit.quantity is Quantity.VOLTAGE:
        # plain volts are taken the way the field says: Vpp, Vpk or Vrms
        unit = UNITS[unit.symbol + implied.base[1:]] if implied.quantity is Quantity.VOLTAGE else unit
    return unit if unit is not None and unit.quantity is implied.quantity else None


def _wrong_unit(raw: str, parts: dict[str, str], implied: Unit, censoring: Censoring) -> Unclear:
    said = parts["unit"].strip()
    number = parts.get("number") or parts["mark"]
    shown = implied.symbol or "a plain number"
    guess = _unit_in_field("m" + said[1:], implied) if said[:1] == "M" else implied
    other = find_unit(said, implied.quantity)
    why = f"“{said}” is no unit this field knows: it reads {shown}."
    if other is not None:
        why = f"“{said}” is a unit of {other.quantity}; this field reads {implied.quantity} in {shown}."
    elif said[:1] == "M" and guess is not None:
        why = f"“{said}” would be a million; “{guess.symbol}” was probably meant."
    try:
        value, digit = number_from_text(number)
        meant = _within_reach(Typed(raw, value, guess or implied, digit, censoring))
    except UnreadableError:
        return Unclear(raw, why)
    return Unclear(raw, why, meant if other is None else None)


def _likeliest(raw: str, number: str, unit: Unit, censoring: Censoring, expected_si: float | None) -> Typed | None:
    """The nearer of decimal and grouping comma to what is expected; decimal when nothing is."""
    candidates = []
    if number.count(",") == 1 and "." not in number:
        candidates.append(number.replace(",", "."))
    if (number.count(".") <= 1 and number.rfind(".") > number.rfind(",")) or "." not in number:
        candidates.append(number.replace(",", ""))
    elif number.count(",") == 1:
        candidates.append(number.replace(".", "").replace(",", "."))
    readings = []
    for candidate in candidates:
        try:
            value, digit = number_from_text(candidate)
            readings.append(_within_reach(Typed(raw, value, unit, digit, censoring)))
        except UnreadableError:
            continue
    if expected_si and expected_si > 0:
        readings.sort(key=lambda typed: abs(math.log(max(abs(typed.value_si), 1e-30) / expected_si)))
    return readings[0] if readings else None


def clear_reading(text: str, implied: Unit, name: str, example: str) -> Typed:
    """What was typed where it must be clear: forms and the plain command.

    Raises
    ------
    UnreadableError
        Names the field, the text and what to type.
    """
    result = parse(text, implied)
    if isinstance(result, Unclear):
        meant = f" Did you mean {result.likeliest.value:g} {result.likeliest.unit.symbol}?" if result.likeliest else ""
        raise UnreadableError(f"{name}: {result.why}{meant}", f"Type for example {example}.")
    if result.censoring is not Censoring.NONE or result.pointer is not None:
        raise UnreadableError(f"{name}: “{text}” is not a single value.", f"Type for example {example}.")
    return result


def value_from_text(text: str, implied: Unit, name: str, example: str) -> float:
    """SI value of a text that must be clear; raises as `clear_reading` does."""
    return clear_reading(text, implied, name, example).value_si


def readings_from_text(text: str, unit: str, name: str, example: str) -> tuple[Typed, ...]:
    """A list parted by blanks or semicolons, whose unit may stand once, at its end.

    Raises
    ------
    UnreadableError
        Where one can't be read, or there is none.
    """
    words = text.replace(";", " ").split()
    known = words[-1] if words and words[-1] in UNITS else ""
    found = tuple(clear_reading(word, UNITS[known or unit], name, example) for word in words[: -1 if known else None])
    if not found:
        raise UnreadableError("This is needed.", f"Type for example {example}.")
    return found


def values_from_text(text: str, unit: str, name: str, example: str) -> tuple[float, ...]:
    """SI values of such a list; raises as `readings_from_text` does.

    >>> values_from_text("3.6 7.1 14.2 MHz", "MHz", "frequencies", "")
    (3600000.0, 7100000.0, 14200000.0)
    """
    return tuple(item.value_si for item in readings_from_text(text, unit, name, example))
