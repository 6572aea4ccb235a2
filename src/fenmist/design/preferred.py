"""Preferred values of resistors and capacitors (IEC 60063).

E3 to E24 are a printed list that no rounding gives; E48 to E192 are 10^(i/n) to three figures, but for 9.20, which the
standard prints where 9.19 would stand. Page: docs/method/designer.md.
"""

import math

from fenmist.errors import UnknownIdError

_E24 = (
    1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0,
    3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1,
)  # fmt: skip

_PRINTED = {9.19: 9.20}
"""Where the standard's E192 departs from its own rule."""

SERIES = {
    **{f"E{count}": _E24[:: 24 // count] for count in (3, 6, 12, 24)},
    **{
        f"E{count}": tuple(
            _PRINTED.get(value, value) for value in (round(10.0 ** (step / count), 2) for step in range(count))
        )
        for count in (48, 96, 192)
    },
}
"""Members from 1 up to 10, by name."""

USUAL_TOLERANCE = {"E3": 0.5, "E6": 0.2, "E12": 0.1, "E24": 0.05, "E48": 0.02, "E96": 0.01, "E192": 0.005}
"""Part of the value to which a series' members are sold (IEC 60063, introduction: spacing goes with tolerance)."""


def members(series: str, low: float, high: float) -> tuple[float, ...]:
    """Members of a series from `low` to `high`, both included, in the unit of those.

    Parameters
    ----------
    series : str
        "E3" to "E192".
    low, high : float
        Above 0.

    Raises
    ------
    UnknownIdError
        For a series that there isn't.

    Examples
    --------
    >>> members("E12", 680.0, 1500.0)
    (680.0, 820.0, 1000.0, 1200.0, 1500.0)
    """
    if series not in SERIES:
        raise UnknownIdError(f"There is no series “{series}”.", f"Take one of {', '.join(SERIES)}.")
    decades = range(math.floor(math.log10(low) + 1e-9), math.floor(math.log10(high) + 1e-9) + 1)
    found = (float(f"{value:.2f}e{decade}") for decade in decades for value in SERIES[series])
    return tuple(value for value in found if low * (1.0 - 1e-9) <= value <= high * (1.0 + 1e-9))
