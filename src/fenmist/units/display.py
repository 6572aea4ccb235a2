"""How numbers are shown: rounded to what their uncertainty supports, true minus, thin space before the unit.

Rounding follows JCGM 100:2008, 7.2.6: the uncertainty with at most two significant digits, the value to the
same decimal place.
"""

import math

MINUS = "\u2212"
THIN = "\u202f"
_PREFIXES = {
    "W": (("kW", 1e3), ("W", 1.0), ("mW", 1e-3), ("µW", 1e-6), ("nW", 1e-9)),
    "Hz": (("GHz", 1e9), ("MHz", 1e6), ("kHz", 1e3), ("Hz", 1.0)),
    "s": (("s", 1.0), ("ms", 1e-3), ("µs", 1e-6), ("ns", 1e-9)),
    "m": (("m", 1.0), ("cm", 1e-2), ("mm", 1e-3)),
    "H": (("mH", 1e-3), ("µH", 1e-6), ("nH", 1e-9)),
    "F": (("µF", 1e-6), ("nF", 1e-9), ("pF", 1e-12)),
}


def signed(text: str, plus: bool = False) -> str:
    """A number's text with a true minus, and a plus where asked."""
    if text.startswith("-"):
        return MINUS + text[1:] if text.strip("-0.") else text[1:]
    return "+" + text if plus and text.strip("0.") else text


def decimals_for(u: float, digits: int = 2) -> int:
    """Decimal places that show `u` with `digits` significant digits (negative: tens, hundreds).

    >>> decimals_for(0.0224)
    3
    >>> decimals_for(0.0996)
    2
    """
    if not (u > 0 and math.isfinite(u)):
        return 3
    exponent = math.floor(math.log10(u))
    if round(u / 10.0**exponent, digits - 1) >= 10.0:
        exponent += 1
    return digits - 1 - exponent


def rounded(value: float, decimals: int, plus: bool = False) -> str:
    """`value` to so many decimal places; negative places round to tens and hundreds."""
    if not math.isfinite(value):
        return "∞" if value > 0 else (MINUS + "∞" if value < 0 else "—")
    return signed(f"{round(value, decimals):.{max(decimals, 0)}f}", plus)


def prefixed(value: float, unit: str) -> tuple[str, float]:
    """Symbol and factor of the SI prefix in which `value` is best read (hectowatts and the like left out)."""
    table = _PREFIXES.get(unit)
    if table is None or value == 0 or not math.isfinite(value):
        return unit, 1.0
    for symbol, factor in table:
        if abs(value) >= 0.99995 * factor:
            return symbol, factor
    return table[-1]


def with_unit(number: str, symbol: str) -> str:
    """Number and unit with a thin space; none before a degree sign."""
    return f"{number}{THIN}{symbol}" if symbol else number


def plain(value: float, unit: str, digits: int = 4, plus: bool = False) -> str:
    """A value without uncertainty to so many significant digits, trailing zeros dropped.

    >>> plain(7.125e6, "Hz"), plain(0.9996e-3, "W", 3)
    ('7.125\\u202fMHz', '1\\u202fmW')
    """
    symbol, factor = prefixed(float(f"{value:.{digits}g}"), unit)
    scaled = value / factor
    text = rounded(scaled, decimals_for(abs(scaled), digits) if scaled else 0, plus)
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return with_unit(text, symbol)


def resistance(value_ohm: float, digits: int = 4) -> str:
    """A resistance as it is printed on parts: kΩ from ten of them on.

    >>> resistance(2460.0), resistance(12e3), resistance(1e6)
    ('2460\u202fΩ', '12\u202fkΩ', '1\u202fMΩ')
    """
    symbol, factor = ("MΩ", 1e6) if value_ohm >= 1e6 else ("kΩ", 1e3) if value_ohm >= 1e4 else ("Ω", 1.0)
    return plain(value_ohm / factor, symbol, digits)


def frequency(value_hz: float) -> str:
    """A frequency as people say it: up to seven digits, in the prefix that reads best."""
    return plain(value_hz, "Hz", 7)


def by_uncertainty(value: float, u: float, unit: str, plus: bool = False) -> str:
    """The value rounded to the decimal place its uncertainty supports."""
    symbol, factor = prefixed(max(abs(value), abs(u)), unit)
    return with_unit(rounded(value / factor, decimals_for(u / factor), plus), symbol)


def uncertainty(u: float, unit: str) -> str:
    """An uncertainty alone: two significant digits, zeros kept, as it stands behind the ±.

    >>> uncertainty(2.96, "W")
    '3.0\\u202fW'
    """
    return by_uncertainty(u, u, unit) if u else plain(0.0, unit)


def with_uncertainty(value: float, expanded_u: float, unit: str, plus: bool = False) -> str:
    """Value ± U in one prefix, both to the same place.

    >>> with_uncertainty(22.5412, 0.7834, "W")
    '22.54 ± 0.78\\u202fW'
    """
    symbol, factor = prefixed(max(abs(value), abs(expanded_u)), unit)
    decimals = decimals_for(expanded_u / factor)
    both = f"{rounded(value / factor, decimals, plus)} ± {rounded(expanded_u / factor, decimals)}"
    return with_unit(both, symbol)


def level_with_uncertainty(power_w: float, expanded_u_w: float) -> str:
    """A power in W and its U as a level: half of the interval in dB stands behind the ±, where it has a lower end.

    >>> level_with_uncertainty(0.01, 0.0002)
    '10.000 ± 0.087\\u202fdBm'
    """
    if power_w <= 0.0:
        return f"no level in{THIN}dBm"
    level = 10.0 * math.log10(power_w / 1e-3)
    if expanded_u_w >= power_w or expanded_u_w <= 0.0:
        return with_unit(rounded(level, 2), "dBm")
    half = 5.0 * math.log10((power_w + expanded_u_w) / (power_w - expanded_u_w))
    decimals = decimals_for(half)
    return with_unit(f"{rounded(level, decimals)} ± {rounded(half, decimals)}", "dBm")


def between(low: float, high: float, unit: str, digits: int = 2) -> str:
    """An interval, its unit said once where both ends have it.

    >>> between(4.6, 14.0, "W"), between(0.9, 2.0, "W")
    ('4.6 to 14\\u202fW', '900\\u202fmW to 2\\u202fW')
    """
    first, last = plain(low, unit, digits), plain(high, unit, digits)
    number, _, symbol = first.partition(THIN)
    return f"{number} to {last}" if symbol == last.partition(THIN)[2] else f"{first} to {last}"


def percent(fraction: float, digits: int = 2, plus: bool = False) -> str:
    """A fraction as per cent to so many significant digits."""
    value = 100.0 * fraction
    return with_unit(rounded(value, max(decimals_for(abs(value), digits), 0) if value else 0, plus), "%")


def swr(value: float) -> str:
    """A standing-wave ratio as it is said: two decimals, fewer where it is high.

    >>> swr(1.154), swr(12.34), swr(float("inf"))
    ('1.15', '12', '∞')
    """
    if value > 999.0:
        return "∞"
    return f"{value:.2f}" if value < 10.0 else f"{value:.0f}"


def opening(name: str) -> str:
    """A name at the beginning of a sentence: it stays as its owner wrote it.

    >>> opening("generic load"), opening("Bittern 200")
    ('The generic load', 'Bittern 200')
    """
    return f"The {name}" if name[:1].islower() else name


def count_of(number: int, one: str, many: str) -> str:
    """ "one reading is", "14 readings are": small numbers in words."""
    words = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")
    return f"{words[number] if number < len(words) else number} {one if number == 1 else many}"
