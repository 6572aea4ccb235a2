"""What a data sheet says of how quickly a meter follows: its detector, its needle or its digits."""

from collections.abc import Mapping
from dataclasses import replace

from fenmist.errors import UnreadableError
from fenmist.kit.part import Part, Times
from fenmist.kit.sheet import Fact, Field
from fenmist.measurand import Detector
from fenmist.units.display import plain
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

_OF_DETECTOR: Mapping[Detector, str] = {Detector.HOLD: "charges", Detector.PEAK: "window"}
"""The word for the time of a detector; "averages" of the others."""

_WORDS: Mapping[str, tuple[str, str]] = {
    "averages": ("detector_s", "s"), "charges": ("detector_s", "s"), "window": ("detector_s", "s"),
    "decays": ("decay_s", "s"), "needle": ("needle_s", "s"), "damping": ("damping", ""), "friction": ("friction", "%"),
    "digits": ("digits_s", "s"),
}  # fmt: skip
"""Words that stand before a number, what it is, and its unit."""


def follows() -> Fact:
    """How quickly all that a meter shows follows, as far as it is known."""

    def shown(part: Part) -> str:
        shows, names = part.indicators[0], dict[str, str]()
        names["detector_s"] = _OF_DETECTOR.get(shows.detector, "averages")
        names.update((what, word) for word, (what, _) in _WORDS.items() if what != "detector_s")
        units = dict(_WORDS.values())
        said = ((name, units[what], getattr(shows.times, what)) for what, name in names.items())
        return "; ".join(f"{name} {_number(value, unit)}" for name, unit, value in said if value is not None)

    def taken(part: Part, text: str) -> Part:
        times = times_from_text(text)
        return replace(part, indicators=tuple(replace(item, times=times) for item in part.indicators))

    says = "Of the detector, the needle or the digits; a hold whose times are known can be a reference on a waveform"
    return Fact(Field("times", "its times", "charges 10 ms; decays 1 s; needle 0.5 s", says), shown, taken)


def times_from_text(text: str) -> Times:
    """Times as they are typed, parted by semicolons: a word, then its number.

    Raises
    ------
    UnreadableError, OutOfRangeError
        For a word that isn't known, or a number that no meter has.

    >>> times_from_text("charges 10 ms; decays 1 s").decay_s
    1.0
    """
    found: dict[str, float] = {}
    for piece in text.split(";"):
        word, _, number = piece.strip().partition(" ")
        if not word:
            continue
        known = next((key for key in _WORDS if key.rstrip("s") == word.lower().rstrip("s")), "")
        if not known:
            raise UnreadableError(f"“{word}” is no time of a meter.", f"One of: {', '.join(_WORDS)}.")
        what, unit = _WORDS[known]
        value = value_from_text(number, UNITS[unit], known, "charges 10 ms; decays 1 s; needle 0.5 s")
        found[what] = value
    return Times(**found)


def _number(value: float, unit: str) -> str:
    return f"{100.0 * value:.3g} %" if unit == "%" else plain(value, unit, 3) if unit else f"{value:g}"
