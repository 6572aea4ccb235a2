"""Waveforms by name, as they are typed: "carrier", "two-tone", "dots 10 Hz 50 %", "AM 30 %", "speech"."""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from fenmist.errors import UnreadableError
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.shapes import Am, Dots, Droop, Steady, TuneCycle, TwoTone, Waveform
from fenmist.waveform.speech import COMPRESSED_SHARE, PLAIN_SHARE, Overshooting, Speech


@dataclass(frozen=True)
class Kind:
    """A waveform that can be asked for: how it is made, and which of its settings a number is, by its unit."""

    make: Callable[..., Waveform]
    by_unit: Mapping[str, str]
    said: str


def _speech(mean_share: float = PLAIN_SHARE, seed: float = 1.0) -> Speech:
    return Speech(mean_share, int(seed))


def _compressed(mean_share: float = COMPRESSED_SHARE, seed: float = 1.0) -> Speech:
    return Speech(mean_share, int(seed))


def _overshooting(mean_share: float = COMPRESSED_SHARE, seed: float = 1.0) -> Overshooting:
    return Overshooting(_speech(mean_share, seed))


KINDS: Mapping[str, Kind] = {
    "carrier": Kind(Steady, {}, "a steady carrier"),
    "fm": Kind(lambda: Steady("FM"), {}, "FM: its envelope stands"),
    "two-tone": Kind(TwoTone, {"": "ratio", "Hz": "spacing_hz"}, "two tones; ratio of their volts, spacing"),
    "am": Kind(Am, {"": "depth", "%": "depth", "Hz": "tone_hz"}, "AM; depth, tone"),
    "dots": Kind(Dots, {"": "duty", "%": "duty", "Hz": "rate_hz", "s": "rise_s"}, "keyed dots; duty, rate, edge"),
    "speech": Kind(_speech, {"%": "mean_share", "": "seed"}, "speech; mean over PEP, seed"),
    "compressed": Kind(_compressed, {"%": "mean_share", "": "seed"}, "speech, compressed"),
    "overshoot": Kind(_overshooting, {"%": "mean_share", "": "seed"}, "speech whose level control overshoots"),
    "droop": Kind(Droop, {"": "sag", "%": "sag", "s": "time_s"}, "a carrier that droops; by how much, in what time"),
    "tune": Kind(TuneCycle, {"%": "lowest", "s": "hunt_s", "": "seed"}, "a tuner at work; lowest power, its time"),
}
"""What can be asked for."""

_OTHER_NAMES = {
    "two tones": "two-tone", "two tone": "two-tone", "cw": "carrier", "steady carrier": "carrier",
    "key down": "carrier",
    "keying": "dots", "ssb": "speech", "compressed speech": "compressed", "tune cycle": "tune",
}  # fmt: skip

_NUMBER = re.compile(r"([-+]?[\d.,]+)\s*([^\d\s,;.]*)")


def waveform_from_text(text: str, **settings: float) -> Waveform:
    """A waveform as it is typed: its name, then its settings, each known by its unit.

    Parameters
    ----------
    text : str
        Such as "dots 10 Hz 50 %".
    **settings : float
        Further ones by their names, in SI units; those that this kind doesn't have are passed over.

    Raises
    ------
    UnreadableError
        For a name that isn't known, or a number that this kind can't have.
    OutOfRangeError
        For a setting that makes no sense.

    >>> waveform_from_text("dots 20 Hz 40 %").name
    'dots, 20 a second, 40 % on'
    """
    place = next((n for n, letter in enumerate(text) if letter.isdigit()), len(text))
    name = " ".join(text[:place].lower().replace("_", "-").rstrip("+-. ,;").split())
    key = _OTHER_NAMES.get(name, name)
    if key not in KINDS:
        raise UnreadableError(f"“{text}” is no waveform that is known.", f"One of: {', '.join(KINDS)}.")
    kind = KINDS[key]
    taken = {name: value for name, value in settings.items() if name in kind.by_unit.values()}
    for number, symbol in _NUMBER.findall(text[place:]):
        value, base = _value(number, symbol, text)
        if base not in kind.by_unit:
            raise UnreadableError(f"“{text}”: {number}{symbol} says nothing of this waveform.", f"It has {kind.said}.")
        taken[kind.by_unit[base]] = value
    return kind.make(**taken)


def _value(number: str, symbol: str, text: str) -> tuple[float, str]:
    """In SI units, and which: "" for a plain number."""
    unit = "%" if symbol == "%" else next((base for base in ("Hz", "s") if symbol.endswith(base)), "")
    if symbol and not unit:
        raise UnreadableError(f"“{text}”: “{symbol}” is no unit of a waveform.", "Hz, %, s, ms or none.")
    return value_from_text(f"{number} {symbol}".strip(), UNITS[unit], text, "dots 10 Hz 50 %"), unit
