"""Units that people type at the bench, and their way to SI.

Volts carry how they were taken (peak to peak, peak, rms): "102 V" alone isn't a power yet. dBm is a level
over 1 mW. Inside Fenmist everything is SI and linear; dB and dBm live at the edges.
"""

import math
from decimal import Decimal
from enum import StrEnum

from fenmist.frozen import dataclass


class Quantity(StrEnum):
    """What a unit measures."""

    POWER = "power"
    VOLTAGE = "voltage"
    FREQUENCY = "frequency"
    TIME = "time"
    LENGTH = "length"
    CAPACITANCE = "capacitance"
    RESISTANCE = "resistance"
    FRACTION = "fraction"
    LOSS = "loss"
    CURRENT = "current"
    INDUCTANCE = "inductance"
    PLAIN = "plain number"


@dataclass(frozen=True)
class Unit:
    """One unit: `si = value * factor`, or a level over `factor` when `decibel`."""

    symbol: str
    quantity: Quantity
    factor: float = 1.0
    decibel: bool = False
    base: str = ""  # symbol of the SI unit, with the way volts were taken

    def si_from(self, value: float) -> float:
        """The value in the SI unit `base`: of a decimal text exactly the decimal number, so 8.3 MHz is 8300 kHz."""
        if self.decibel:
            return float(self.factor * 10.0 ** (value / 10.0))
        return float(Decimal(repr(value)) * Decimal(repr(self.factor))) if math.isfinite(value) else value

    def from_si(self, value_si: float) -> float:
        """The SI value in this unit; a level of nothing is minus infinity."""
        if not self.decibel:
            return value_si / self.factor
        return 10.0 * math.log10(value_si / self.factor) if value_si > 0 else -math.inf

    def step_si(self, value: float, step: float) -> float:
        """Size in SI of a step of this unit at `value`."""
        if self.decibel:
            return self.si_from(value) * math.log(10.0) / 10.0 * step
        return step * self.factor


def _table() -> dict[str, Unit]:
    units = [
        Unit("dBm", Quantity.POWER, 1e-3, True, "W"),
        Unit("dBW", Quantity.POWER, 1.0, True, "W"),
        Unit("dB", Quantity.LOSS, 1.0, False, "dB"),
        Unit("%", Quantity.FRACTION, 0.01, False, ""),
        Unit("Ω", Quantity.RESISTANCE, 1.0, False, "Ω"),
        Unit("kΩ", Quantity.RESISTANCE, 1e3, False, "Ω"),
        Unit("MΩ", Quantity.RESISTANCE, 1e6, False, "Ω"),
        Unit("", Quantity.PLAIN, 1.0, False, ""),
    ]
    prefixes = {
        Quantity.POWER: ("W", {"n": 1e-9, "µ": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3}),
        Quantity.FREQUENCY: ("Hz", {"": 1.0, "k": 1e3, "M": 1e6, "G": 1e9}),
        Quantity.TIME: ("s", {"p": 1e-12, "n": 1e-9, "µ": 1e-6, "m": 1e-3, "": 1.0}),
        Quantity.LENGTH: ("m", {"m": 1e-3, "c": 1e-2, "": 1.0}),
        Quantity.CAPACITANCE: ("F", {"p": 1e-12, "n": 1e-9, "µ": 1e-6, "": 1.0}),
        Quantity.CURRENT: ("A", {"µ": 1e-6, "m": 1e-3, "": 1.0}),
        Quantity.INDUCTANCE: ("H", {"n": 1e-9, "µ": 1e-6, "m": 1e-3, "": 1.0}),
    }
    for quantity, (base, scale) in prefixes.items():
        units += [Unit(prefix + base, quantity, factor, False, base) for prefix, factor in scale.items()]
    for form in ("pp", "pk", "rms", ""):
        base = "V" + form
        units += [
            Unit(prefix + base, Quantity.VOLTAGE, factor, False, base)
            for prefix, factor in {"µ": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3}.items()
        ]
    return {unit.symbol: unit for unit in units}


UNITS = _table()
"""All units by symbol."""

_ALIASES = {
    "ohm": "Ω", "ohms": "Ω", "r": "Ω", "\N{OHM SIGN}": "Ω", "kohm": "kΩ", "mohm": "MΩ",
    "dbc": "dB", "percent": "%", "per cent": "%", "meg": "MHz", "mc": "MHz",
    "v": "V", "vp-p": "Vpp", "vp": "Vpk", "vpeak": "Vpk", "vppk": "Vpp", "veff": "Vrms",
    "watt": "W", "watts": "W", "metre": "m", "metres": "m", "volts": "V", "volt": "V",
}  # fmt: skip

_BARE_PREFIX = {"k": "kHz", "m": "MHz", "M": "MHz", "G": "GHz", "g": "GHz"}
"""What people say of frequencies: "7.1 M", "475 k"."""


def find_unit(text: str, quantity: Quantity) -> Unit | None:
    """The unit meant by `text` in a field of `quantity`.

    The exact symbol wins; otherwise case is forgiven where that leaves one unit of the field's quantity.
    "MHZ" is megahertz. "MW" is nobody's unit here: `None`, for it may be a slip for mW.

    >>> find_unit("mhz", Quantity.FREQUENCY).symbol
    'MHz'
    >>> find_unit("MW", Quantity.POWER) is None
    True
    """
    text = text.strip().replace("μ", "µ").replace(" ", "")
    if quantity is Quantity.FREQUENCY and text in _BARE_PREFIX:
        return UNITS[_BARE_PREFIX[text]]
    spelled = _ALIASES.get(text.lower(), text)
    if spelled in UNITS:
        return UNITS[spelled]
    if text.startswith("u"):
        return find_unit("µ" + text[1:], quantity)
    if text[:1] == "M" and quantity is not Quantity.FREQUENCY:
        return None
    folded = [unit for unit in UNITS.values() if unit.symbol.lower() == spelled.lower()]
    fitting = [unit for unit in folded if unit.quantity is quantity] or folded
    return fitting[0] if len(fitting) == 1 else None
