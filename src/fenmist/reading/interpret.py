"""From what was typed to what the indicator showed: its unit, its range, its arc."""

import re
from dataclasses import dataclass

from fenmist.errors import OutOfRangeError
from fenmist.kit.part import Indicator, Range
from fenmist.reading.event import Reading
from fenmist.units.typed import Typed, Unclear, parse
from fenmist.units.unit import UNITS


@dataclass(frozen=True)
class Interpretation:
    """Either a reading, or why there is none and the text that most likely was meant."""

    reading: Reading | None
    why_open: str = ""
    likeliest_text: str = ""


def interpret(
    text: str, indicator: Indicator, used_range: Range | None, expected_si: float | None = None
) -> Interpretation:
    """Read a text typed for an indicator on a range.

    Parameters
    ----------
    text : str
        As typed.
    indicator, used_range
        What was looked at; a pointer such as `20/3.5` needs a range with an arc.
    expected_si : float, optional
        Planned value, to tell which of two readings of a text is likelier.
    """
    relative = _relative(text, indicator, used_range)
    if relative is not None:
        return relative
    full_scale = used_range.full_scale if used_range else None
    typed = parse(text, UNITS[indicator.unit], expected_si, full_scale)
    if isinstance(typed, Unclear):
        return _open(typed)
    if typed.pointer is not None:
        return _from_pointer(typed, used_range)
    if typed.value_si < 0 and not indicator.can_be_negative:
        positive = f"{-typed.value:g} {typed.unit.symbol}"
        return Interpretation(None, f"{indicator.label} can't show less than nothing.", positive)
    return Interpretation(_reading(typed))


_RELATIVE = re.compile(r"^(.*\d)\s*dB$", re.I)


def _relative(text: str, indicator: Indicator, used_range: Range | None) -> Interpretation | None:
    """A needle in dB on an instrument whose scale is relative to its range: +5 dBm and −3 dB are +2 dBm."""
    match = _RELATIVE.match(text.strip())
    if match is None or indicator.unit != "dBm" or used_range is None:
        return None
    typed = parse(match[1], UNITS["dBm"])
    if isinstance(typed, Unclear):
        return _open(typed)
    dbm, unit = used_range.pointer_offset_db + typed.value, UNITS["dBm"]
    return Interpretation(Reading(unit.si_from(dbm), unit.base, unit.step_si(dbm, typed.digit), typed.censoring))


def _reading(typed: Typed) -> Reading:
    return Reading(typed.value_si, typed.unit.base, typed.digit_si, typed.censoring, typed.pointer)


def _open(unclear: Unclear) -> Interpretation:
    likeliest = unclear.likeliest
    meant = f"{likeliest.value:.12g} {likeliest.unit.symbol}".strip() if likeliest else ""
    return Interpretation(None, unclear.why, meant)


def _from_pointer(typed: Typed, used_range: Range | None) -> Interpretation:
    pointer = typed.pointer
    if pointer is None or used_range is None or used_range.scale is None:
        return Interpretation(None, "Mark and divisions need a dial; this indicator has none.")
    try:
        printed = used_range.scale.value_of_pointer(pointer.mark, pointer.divisions)
    except OutOfRangeError as error:
        return Interpretation(None, str(error))
    digit = typed.digit * used_range.scale.division_at(printed) * used_range.factor
    value = printed * used_range.factor
    return Interpretation(Reading(value, typed.unit.base, digit, typed.censoring, pointer))
