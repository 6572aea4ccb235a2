"""Waveforms by name, as they are typed: "carrier", "two-tone", "dots 10 Hz 50 %", "AM 30 %", "speech ± 40 %".

How well its shape is known stands behind ±, as a share of the one setting that its mean power hangs on.
"""

import re
from collections.abc import Callable, Mapping

from fenmist.errors import UnreadableError
from fenmist.frozen import dataclass
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.shapes import Am, Dots, Droop, Steady, TuneCycle, TwoTone, Waveform
from fenmist.waveform.speech import COMPRESSED_SHARE, PLAIN_SHARE, Overshooting, Speech


@dataclass(frozen=True)
class Shape:
    """The setting that a waveform's mean power hangs on, and how well it is known where nothing is said."""

    setting: str
    usual: float
    known_to: float  # ± share (common practice, no source)
    ends: tuple[float, float]  # that it can have


@dataclass(frozen=True)
class Kind:
    """A waveform that can be asked for: how it is made, and which of its settings a number is, by its unit."""

    make: Callable[..., Waveform]
    by_unit: Mapping[str, str]
    said: str
    shape: Shape | None = None  # none of what doesn't vary, or never twice alike


def _speech(mean_share: float = PLAIN_SHARE, seed: float = 1.0) -> Speech:
    return Speech(mean_share, int(seed))


def _compressed(mean_share: float = COMPRESSED_SHARE, seed: float = 1.0) -> Speech:
    return Speech(mean_share, int(seed))


def _overshooting(mean_share: float = COMPRESSED_SHARE, seed: float = 1.0) -> Overshooting:
    return Overshooting(_speech(mean_share, seed))


_SHARES = (0.12, 0.5)

KINDS: Mapping[str, Kind] = {
    "carrier": Kind(Steady, {}, "a steady carrier"),
    "fm": Kind(lambda: Steady("FM"), {}, "FM: its envelope stands"),
    "two-tone": Kind(
        TwoTone,
        {"": "ratio", "Hz": "spacing_hz"},
        "two tones; ratio of their volts, spacing",
        Shape("ratio", 1.0, 0.1, (0.0, 1.0)),
    ),
    "am": Kind(
        Am, {"": "depth", "%": "depth", "Hz": "tone_hz"}, "AM; depth, tone", Shape("depth", 1.0, 0.05, (0.0, 1.0))
    ),
    "dots": Kind(
        Dots,
        {"": "duty", "%": "duty", "Hz": "rate_hz", "s": "rise_s"},
        "keyed dots; duty, rate, edge",
        Shape("duty", 0.5, 0.03, (0.01, 0.99)),
    ),
    "speech": Kind(
        _speech,
        {"%": "mean_share", "": "seed"},
        "speech; mean over PEP, seed",
        Shape("mean_share", PLAIN_SHARE, 0.4, _SHARES),
    ),
    "compressed": Kind(
        _compressed,
        {"%": "mean_share", "": "seed"},
        "speech, compressed",
        Shape("mean_share", COMPRESSED_SHARE, 0.25, _SHARES),
    ),
    "overshoot": Kind(
        _overshooting,
        {"%": "mean_share", "": "seed"},
        "speech whose level control overshoots",
        Shape("mean_share", COMPRESSED_SHARE, 0.25, _SHARES),
    ),
    "droop": Kind(
        Droop,
        {"": "sag", "%": "sag", "s": "time_s"},
        "a carrier that droops; by how much, in what time",
        Shape("sag", 0.1, 0.2, (0.0, 1.0)),
    ),
    "tune": Kind(TuneCycle, {"%": "lowest", "s": "hunt_s", "": "seed"}, "a tuner at work; lowest power, its time"),
}
"""What can be asked for."""

_OTHER_NAMES = {
    "two tones": "two-tone", "two tone": "two-tone", "cw": "carrier", "steady carrier": "carrier",
    "key down": "carrier",
    "keying": "dots", "ssb": "speech", "compressed speech": "compressed", "tune cycle": "tune",
}  # fmt: skip

_NUMBER = re.compile(r"([-+]?[\d.,]+)\s*([^\d\s,;.]*)")

_KNOWN_TO = re.compile(r"±\s*([\d.,]+)\s*%\s*$")


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
    kind, taken, _ = _parsed(text)
    further = {name: value for name, value in settings.items() if name in kind.by_unit.values()}
    return kind.make(**{**further, **taken})


def around(text: str) -> tuple[Waveform, ...]:
    """A waveform as it is typed, then the ends of what it may be: its shape's setting a share less, and as much more.

    Only itself where nothing varies: a carrier.

    Raises
    ------
    UnreadableError, OutOfRangeError
        As `waveform_from_text`; for a share of 100 % or more.

    >>> [round(item.exact.mean, 4) for item in around("dots 50 % ± 2 %")]
    [0.5, 0.49, 0.51]
    """
    kind, taken, share = _parsed(text)
    middle, shape = kind.make(**taken), kind.shape
    if shape is None:
        return (middle,)
    value, (least, most) = taken.get(shape.setting, shape.usual), shape.ends
    ends = (min(max(value * factor, least), most) for factor in (1.0 - share, 1.0 + share))
    return (middle, *(kind.make(**{**taken, shape.setting: end}) for end in ends))


def _parsed(text: str) -> tuple[Kind, dict[str, float], float]:
    """What kind it is, its settings as far as they are typed, and ± of its shape."""
    said = _KNOWN_TO.search(text)
    whole, text = text, text[: said.start()] if said else text
    place = next((n for n, letter in enumerate(text) if letter.isdigit()), len(text))
    name = " ".join(text[:place].lower().replace("_", "-").rstrip("+-. ,;").split())
    key = _OTHER_NAMES.get(name, name)
    if key not in KINDS:
        raise UnreadableError(f"“{whole}” is no waveform that is known.", f"One of: {', '.join(KINDS)}.")
    kind, taken = KINDS[key], dict[str, float]()
    for number, symbol in _NUMBER.findall(text[place:]):
        value, base = _value(number, symbol, text)
        if base not in kind.by_unit:
            raise UnreadableError(f"“{text}”: {number}{symbol} says nothing of this waveform.", f"It has {kind.said}.")
        taken[kind.by_unit[base]] = value
    share = kind.shape.known_to if kind.shape else 0.0
    if said:
        share = value_from_text(f"{said[1]} %", UNITS["%"], whole, "two-tone ± 5 %")
    if share >= 1.0 or (said and not kind.shape):
        raise UnreadableError(
            f"“{whole}”: ± {100.0 * share:.3g} % says nothing of it.", "Type for example two-tone ± 5 %."
        )
    return kind, taken, share


def _value(number: str, symbol: str, text: str) -> tuple[float, str]:
    """In SI units, and which: "" for a plain number."""
    unit = "%" if symbol == "%" else next((base for base in ("Hz", "s") if symbol.endswith(base)), "")
    if symbol and not unit:
        raise UnreadableError(f"“{text}”: “{symbol}” is no unit of a waveform.", "Hz, %, s, ms or none.")
    return value_from_text(f"{number} {symbol}".strip(), UNITS[unit], text, "dots 10 Hz 50 %"), unit
