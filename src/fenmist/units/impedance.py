"""What people type as a load's impedance: each form says something else about what is known.

`45+j12` and `52 @ -8` (or `52<-8`, degrees) are complete. `|57.7| swr 1.2` gives the resistance but not the sign of
the reactance. `|57.7|` alone leaves the phase open. `57.7` is taken as a pure resistance, and that is said.
"""

import cmath
import math
import re
from enum import StrEnum

from fenmist.errors import UnreadableError
from fenmist.frozen import dataclass
from fenmist.units.typed import number_from_text, tidy


class Known(StrEnum):
    """How much of the impedance was stated."""

    COMPLEX = "resistance and reactance"
    RESISTANCE = "resistance only, reactance taken as zero"
    MAGNITUDE_SWR = "magnitude and SWR, sign of the reactance unknown"
    MAGNITUDE = "magnitude only, phase unknown"


@dataclass(frozen=True)
class TypedImpedance:
    """An impedance as typed. `ohm` is R + jX where complete, else the stated magnitude as a real number."""

    raw: str
    known: Known
    ohm: complex
    swr: float | None = None


LEAST_OHM, MOST_OHM, LEAST_COSINE, MOST_SWR = 1e-3, 1e7, 1e-6, 1e4
"""Of a load: |Z|, the part of it that is resistance, SWR (Fenmist's own: wider than anything that takes power)."""

_N = r"[+-]?(?:\d[\d.,]*|[.,]\d+)(?:[eE][+-]?\d+)?"
_POLAR = rf"^({_N})\s*(?:@|<|∠)\s*({_N})\s*(?:°|deg)?$"
_RECT = rf"(?i)^({_N})\s*([+-])\s*(?:[ji]\s*(\d[\d.,]*)|(\d[\d.,]*)\s*[ji])$"
_MAGNITUDE = rf"^\|\s*({_N})\s*\|$"
_MAGNITUDE_SWR = rf"(?i)^\|\s*({_N})\s*\|\s*(?:,|;)?\s*swr\s*=?\s*({_N})(?:\s*:\s*1)?$"
_PLAIN = rf"^({_N})$"


def impedance_from_text(text: str) -> TypedImpedance:
    """Read an impedance in ohms.

    Raises
    ------
    UnreadableError
        Where no form fits, a part is ambiguous, or the resistance is not positive.

    >>> impedance_from_text("45+j12").ohm
    (45+12j)
    >>> impedance_from_text("|57.7| swr 1.2").known.name
    'MAGNITUDE_SWR'
    """
    body = re.sub(r"(?:Ω|\N{OHM SIGN}|ohms?)", "", tidy(text), flags=re.I).strip()
    typed = _match_form(text, body)
    if typed is None:
        raise UnreadableError(
            f"“{text.strip()}” is not an impedance.",
            "Type R+jX such as 45+j12, magnitude @ angle such as 52 @ -8, or |57.7| swr 1.2.",
        )
    if typed.ohm.real <= 0 or not cmath.isfinite(typed.ohm):
        raise UnreadableError(
            f"“{text.strip()}” has a resistance of {typed.ohm.real:g} Ω; a load's is above 0.",
            "Check the angle (between −90° and 90°) or the resistance.",
        )
    if not LEAST_OHM <= abs(typed.ohm) <= MOST_OHM or typed.ohm.real < LEAST_COSINE * abs(typed.ohm):
        raise UnreadableError(
            f"“{text.strip()}” is no load: hardly any power would go into it.", "Look at the angle and the unit."
        )
    if typed.swr is not None and not 1 <= typed.swr <= MOST_SWR:
        raise UnreadableError(f"“{text.strip()}” has no SWR of a load.", f"It lies from 1 to {MOST_SWR:g}.")
    return typed


def _match_form(raw: str, body: str) -> TypedImpedance | None:
    if match := re.match(_POLAR, body):
        magnitude, degrees = _number(match[1]), _number(match[2])
        return TypedImpedance(raw, Known.COMPLEX, cmath.rect(magnitude, math.radians(degrees)))
    if match := re.match(_RECT, body):
        reactance = _number(match[2] + (match[3] or match[4]))
        return TypedImpedance(raw, Known.COMPLEX, complex(_number(match[1]), reactance))
    if match := re.match(_MAGNITUDE_SWR, body):
        return TypedImpedance(raw, Known.MAGNITUDE_SWR, complex(_number(match[1])), _number(match[2]))
    if match := re.match(_MAGNITUDE, body):
        return TypedImpedance(raw, Known.MAGNITUDE, complex(_number(match[1])))
    if match := re.match(_PLAIN, body):
        return TypedImpedance(raw, Known.RESISTANCE, complex(_number(match[1])))
    return None


def _number(text: str) -> float:
    return number_from_text(text.strip())[0]
