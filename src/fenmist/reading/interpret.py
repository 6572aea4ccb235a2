"""From what was typed to what the indicator showed: its unit, its range, its arc."""

import math
import re
from dataclasses import replace

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.kit.part import Indicator, Range
from fenmist.measurand import OF_MATCH
from fenmist.reading.event import Reading
from fenmist.units.typed import Typed, Unclear, parse
from fenmist.units.unit import UNITS


@dataclass(frozen=True)
class Interpretation:
    """Either a reading, or why there is none and the text that most likely was meant."""

    reading: Reading | None
    why_open: str = ""
    likeliest_text: str = ""
    range_id: str = ""  # on which it was read, where that is known


def interpret(
    text: str, indicator: Indicator, used_range: Range | None, expected_si: float | None = None
) -> Interpretation:
    """Read a text typed for an indicator on a range.

    Parameters
    ----------
    text : str
        As typed.
    indicator, used_range
        What was looked at; a pointer such as `20/3.5` needs a range with an arc. Where none is set it may be said
        behind the reading: `12.3 W on 20`; else it is the lowest that shows it.
    expected_si : float, optional
        Planned value, to tell which of two readings of a text is likelier.
    """
    said = _ON.match(text.strip())
    if said is not None and indicator.ranges:
        named = _named(said[2], indicator)
        fixed = used_range is not None and indicator.quantity not in OF_MATCH  # reflected power may be on another one
        if named is None or (fixed and used_range is not named):
            known = used_range.id if used_range else ", ".join(item.id for item in indicator.ranges)
            why = f"This is read on the range {known}." if fixed else f"{indicator.label} has the ranges {known}."
            return Interpretation(None, why, said[1])
        text, used_range = said[1], named
    found = _on_range(text, indicator, used_range, expected_si)
    if found.reading is None:
        return found
    used_range = used_range or shown_on(indicator, found.reading.value)
    return replace(found, range_id=used_range.id if used_range else "")


_ON = re.compile(r"^(.+\S)\s+on\s+(\S.*)$", re.I)


def _named(text: str, indicator: Indicator) -> Range | None:
    """The range that a text names, by its name or by its full scale."""
    wanted = text.strip().casefold()
    by_name = next((item for item in indicator.ranges if item.id.casefold() == wanted), None)
    typed = parse(text, UNITS[indicator.unit])
    if by_name is not None or isinstance(typed, Unclear):
        return by_name
    return next((item for item in indicator.ranges if math.isclose(item.full_scale, typed.value_si)), None)


def shown_on(indicator: Indicator, value: float) -> Range | None:
    """The lowest range that shows a value, the highest where none does; none where an indicator has no ranges."""
    ordered = sorted(indicator.ranges, key=lambda item: item.full_scale)
    return next((item for item in ordered if value <= item.full_scale), ordered[-1] if ordered else None)


def _on_range(text: str, indicator: Indicator, used_range: Range | None, expected_si: float | None) -> Interpretation:
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


_RELATIVE = re.compile(r"^(.*\d)\s*(dB|%)$", re.I)


def _relative(text: str, indicator: Indicator, used_range: Range | None) -> Interpretation | None:
    """A needle relative to its range.

    In dB to a range in dBm (+5 dBm and −3 dB are +2 dBm) or, of watts, to its full scale; or in per cent of that.
    """
    match = _RELATIVE.match(text.strip())
    if match is None:
        return None
    is_share, unit = match[2] == "%", UNITS[indicator.unit]
    if not is_share and unit.base != "W":
        return None
    if used_range is None:
        known = indicator.ranges[0].id if indicator.ranges else ""
        why = "It is relative to a range: say to which." if known else "It is relative, and nothing says to what."
        return Interpretation(None, why, f"{text.strip()} on {known}" if known else "")
    typed = parse(match[1], UNITS["%" if is_share else "dBm"])
    if isinstance(typed, Unclear):
        return _open(typed)
    if is_share:
        full = used_range.full_scale
        return Interpretation(Reading(typed.value_si * full, unit.base, typed.digit_si * full, typed.censoring))
    dbm = used_range.pointer_offset_db if unit.decibel else UNITS["dBm"].from_si(used_range.full_scale)
    dbm += typed.value
    level = UNITS["dBm"]
    return Interpretation(Reading(level.si_from(dbm), level.base, level.step_si(dbm, typed.digit), typed.censoring))


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
