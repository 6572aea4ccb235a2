"""Stated performance as data sheets say it, read from what is typed and said again.

"±(3 % of full scale + 1 digit)", "5 % of reading", "0.5 dB", "2 % of reading + 0.2 W", "unknown". The distribution
stands behind a semicolon: rectangular where nothing is said, "normal k=2" for what a certificate states, "triangular".
Unknown is a value, and it costs: the widest that is met stands for it.
"""

import re

from fenmist.errors import FenmistError, UnreadableError
from fenmist.kit.part import UNKNOWN_SHARE, SpecKind, SpecTerm
from fenmist.uncertainty.influence import Distribution
from fenmist.units.display import plain
from fenmist.units.typed import LARGEST, number_from_text, value_from_text
from fenmist.units.unit import UNITS

MOST_TERMS = 5
LARGEST_LIMIT = {SpecKind.OF_READING: 10.0, SpecKind.OF_RANGE: 10.0, SpecKind.DB: 60.0, SpecKind.DIGITS: 1e6}
"""Beyond these a limit is a slip: 1000 %, 60 dB, a million digits (Fenmist's own)."""

_SAYS = "Type for example 5 % of full scale, 3 % of reading + 1 digit, 0.5 dB, or unknown."
_DISTRIBUTIONS = {
    "rectangular": Distribution.RECTANGULAR, "normal k=2": Distribution.NORMAL, "triangular": Distribution.TRIANGULAR,
}  # fmt: skip
_OF = {"full scale": SpecKind.OF_RANGE, "range": SpecKind.OF_RANGE, "reading": SpecKind.OF_READING}


def spec_from_text(text: str, unit: str, basis: str = "data sheet") -> tuple[SpecTerm, ...]:
    """Terms of a statement; `unit` is what a bare number is in.

    Raises
    ------
    UnreadableError
        Says what can be typed.

    >>> [(term.kind.name, term.value) for term in spec_from_text("±(3 % of full scale + 1 digit)", "W")]
    [('OF_RANGE', 0.03), ('DIGITS', 1.0)]
    """
    body, _, shape = text.partition(";")
    distribution = _distribution(shape)
    body = body.strip().lstrip("±").strip()
    body = body[1:-1] if body.startswith("(") and body.endswith(")") else body
    if not body:
        return ()
    if body.lower() in ("unknown", "?"):
        return (SpecTerm(SpecKind.UNKNOWN, UNKNOWN_SHARE, "", distribution, basis="unknown: the widest that is met"),)
    parts = re.split(r"\s\+\s|(?<=%)\s*\+", body)
    if len(parts) > MOST_TERMS:
        raise UnreadableError(f"A limit of {len(parts)} terms is stated nowhere.", _SAYS)
    terms = tuple(_term(part.strip(), unit, distribution, basis) for part in parts)
    if not any(term.value for term in terms):
        raise UnreadableError(f"“{text.strip()}” says that it is never wrong.", "Type what is stated, or unknown.")
    return terms


def _distribution(text: str) -> Distribution:
    said = " ".join(text.lower().split()) or "rectangular"
    said = "normal k=2" if said in ("normal", "k=2") else said
    if said not in _DISTRIBUTIONS:
        raise UnreadableError(f"“{text.strip()}” is no distribution known here.", f"Type {', '.join(_DISTRIBUTIONS)}.")
    return _DISTRIBUTIONS[said]


def _term(text: str, unit: str, distribution: Distribution, basis: str) -> SpecTerm:
    digits = re.fullmatch(r"(.+?)\s*digits?", text, re.I)
    if digits:
        count = _limit(number_from_text(digits[1])[0], text, SpecKind.DIGITS)
        return SpecTerm(SpecKind.DIGITS, count, "", distribution, basis=basis)
    share, _, of = text.partition("%")
    if "%" in text:
        kind = _OF.get(of.replace("of ", "").strip().lower() or "reading")
        if kind is None:
            raise UnreadableError(f"“{text}” doesn't say what it is a share of.", _SAYS)
        return SpecTerm(kind, _limit(number_from_text(share)[0] / 100.0, text, kind), "", distribution, basis=basis)
    if text.lower().endswith("db"):
        level = _limit(value_from_text(text, UNITS["dB"], "limit", "0.5 dB"), text, SpecKind.DB)
        return SpecTerm(SpecKind.DB, level, "dB", distribution, basis=basis)
    try:
        value = value_from_text(text, UNITS[unit], "limit", f"0.2 {unit}")
    except FenmistError as error:
        raise UnreadableError(f"“{text}” is no limit.", _SAYS) from error
    return SpecTerm(SpecKind.ABSOLUTE, _limit(value, text, SpecKind.ABSOLUTE), unit, distribution, basis=basis)


def _limit(value: float, text: str, kind: SpecKind) -> float:
    if not value >= 0:
        raise UnreadableError(f"“{text}” is no limit: it is below 0.", _SAYS)
    if value > LARGEST_LIMIT.get(kind, LARGEST):
        raise UnreadableError(f"“{text}” is more than any data sheet states.", _SAYS)
    return value


def text_of_spec(terms: tuple[SpecTerm, ...]) -> str:
    """The statement again."""
    if not terms:
        return ""
    said = " + ".join(said_term(term) for term in terms)
    shape = next(name for name, item in _DISTRIBUTIONS.items() if item is terms[0].distribution)
    return said if shape == "rectangular" else f"{said}; {shape}"


def said_term(term: SpecTerm) -> str:
    """One term in words."""
    if term.kind is SpecKind.UNKNOWN:
        return "unknown"
    if term.kind is SpecKind.DIGITS:
        return f"{term.value:g} digit{'s' if term.value != 1 else ''}"
    if term.kind is SpecKind.DB:
        return f"{term.value:g} dB"
    if term.kind is SpecKind.ABSOLUTE:
        return plain(term.value, term.unit).replace("\u202f", " ")
    return f"{100 * term.value:g} % of {'full scale' if term.kind is SpecKind.OF_RANGE else 'reading'}"
