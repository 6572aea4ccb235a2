"""Values between the points of a table over frequency, and what they are known to there.

The curve keeps its shape (monotone cubic pieces, no overshoot): real quantities as they stand, transmissions by level
in dB and unwrapped phase, reflections by real and imaginary part. Between two points a limit is added that is nothing
at the points and largest mid-way: the error bound of a straight line there, h²/8·|f''|, with f'' from the neighbours,
or the distance of curve and straight line where that is more; of a table with two points only, half the change between
them. Outside, the end value is held with a limit growing to 10 % of it (1 dB of a loss) at 1.5 times the end frequency;
beyond that it is unknown. Page: docs/method/interpolation.md.
"""

import math
from collections.abc import Callable
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.frozen import dataclass
from fenmist.kit.characterisation import HOLD_LIMIT, HOLD_RATIO, Characterisation, Footing
from fenmist.kit.same import Same

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]

HOLD_LIMIT_DB = 1.0
"""Limit on a held loss at 1.5 times the end frequency (Fenmist's own, no source)."""

MOST_REMEMBERED = 512
"""Tables whose curves are remembered."""

SAME_PLACE = 1e-6
"""Relative distance from a table's frequency at which it was measured there."""

_NEVER = 1e-12
"""Transmission below which its level is held: nothing passes."""


@dataclass(frozen=True, eq=False)
class LookUp:
    """Values at n frequencies; arrays of shape (n,)."""

    value: ComplexArray | FloatArray
    u: FloatArray  # standard, of the value (of both parts alike where it is complex)
    footing: tuple[Footing, ...]


def look_up(table: Characterisation, frequency_hz: FloatArray) -> LookUp:
    """A table's values at frequencies of shape (n,), by the rule of this module.

    Parameters
    ----------
    table : Characterisation
        Rising in frequency.
    frequency_hz : array, shape (n,)
        In Hz.
    """
    f, at = np.asarray(table.frequency_hz), np.atleast_1d(np.asarray(frequency_hz, float))
    inside = np.clip(at, f[0], f[-1])
    value, limit = _values(table, inside)
    outside = np.maximum(np.maximum(f[0] / at, at / f[-1]), 1.0)
    held = HOLD_LIMIT_DB if table.unit == "dB" else HOLD_LIMIT * np.abs(value)
    growth = np.where(outside > 1.0 + 1e-9, held * np.log(outside) / math.log(HOLD_RATIO), 0.0)
    own = np.interp(inside, f, table.u) if table.u else table.u_relative * np.abs(value)
    u = np.sqrt(own**2 + (limit**2 + growth**2) / 3.0)
    return LookUp(value, np.asarray(u), _footing(f, at, outside))


_FOOTINGS = (Footing.UNKNOWN, Footing.MEASURED, Footing.BETWEEN, Footing.HELD)


def _footing(f: FloatArray, at: FloatArray, outside: FloatArray) -> tuple[Footing, ...]:
    above = np.searchsorted(f, at)
    below = f[np.maximum(above - 1, 0)]
    nearest = np.minimum(np.abs(f[np.minimum(above, f.size - 1)] - at), np.abs(below - at))
    found = np.select([outside > HOLD_RATIO, nearest <= SAME_PLACE * at, outside <= 1.0], [0, 1, 2], 3)
    return tuple(map(_FOOTINGS.__getitem__, found.tolist()))


def _values(table: Characterisation, at: FloatArray) -> tuple[ComplexArray | FloatArray, FloatArray]:
    """Values at places within a table, and the limit on their error there."""
    curves = _curves(Same(table))
    (first, first_limit), *more = (curve.at(at) for curve in curves)
    if not more:
        return first, first_limit
    ((second, second_limit),) = more
    if _is_transmission(table.quantity):
        value = 10.0 ** (first / 20.0) * np.exp(1j * second)
        return value, np.abs(value) * np.hypot(first_limit * math.log(10.0) / 20.0, second_limit)
    return first + 1j * second, np.hypot(first_limit, second_limit)


@lru_cache(maxsize=MOST_REMEMBERED)
def _curves(same: Same[Characterisation]) -> tuple["_Curve", ...]:
    """What is drawn through a table: its values; level and phase of a transmission; else both parts."""
    table = same.value
    f, real = np.asarray(table.frequency_hz), np.asarray(table.real)
    if not table.imag:
        return (_Curve(f, real),)
    z = real + 1j * np.asarray(table.imag)
    if _is_transmission(table.quantity):
        level, phase = 20.0 * np.log10(np.maximum(np.abs(z), _NEVER)), np.unwrap(np.angle(z))
        return _Curve(f, level), _Curve(f, phase)
    return _Curve(f, z.real), _Curve(f, z.imag)


def _is_transmission(quantity: str) -> bool:
    return len(quantity) == 3 and quantity[0] == "s" and quantity[1] != quantity[2]


NOTHING = 1e-60
"""Values below are taken as 0: their slopes are too small to be divided by."""


def shape_keeping(x: FloatArray, y: FloatArray) -> Callable[[ArrayLike], FloatArray]:
    """A curve through points, shape (n,) each, x rising, that never leaves the span of two neighbours; NaN outside.

    Parameters
    ----------
    x, y : array, shape (n,)
        Two or more places, rising, and values.

    Returns
    -------
    callable
        Values at any places within.
    """
    from scipy.interpolate import PchipInterpolator  # heavy: imported on first use

    made = PchipInterpolator(x, np.where(np.abs(y) < NOTHING, 0.0, y), extrapolate=False)
    return lambda at: np.asarray(made(np.asarray(at, float)), float)


@dataclass(frozen=True, eq=False)
class _Curve:
    """The curve through values y at frequencies f, shape (n,) each, and the limit on its error."""

    f: FloatArray
    y: FloatArray

    @cached_property
    def _through(self) -> Callable[[ArrayLike], FloatArray]:
        return shape_keeping(self.f, self.y)

    @cached_property
    def _second(self) -> FloatArray:
        """|f''| between each two neighbours, the larger of what it is at both."""
        slopes = np.diff(self.y) / np.diff(self.f)
        inner = np.abs(2.0 * np.diff(slopes) / (self.f[2:] - self.f[:-2]))
        return np.asarray(np.maximum(np.concatenate([inner[:1], inner]), np.concatenate([inner, inner[-1:]])))

    def at(self, at: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Values at places within, and the limit on their error."""
        f, y = self.f, self.y
        if f.size == 1:
            return np.full(at.shape, y[0]), np.zeros(at.shape)
        place = np.clip(np.searchsorted(f, at, side="right") - 1, 0, f.size - 2)
        h = f[place + 1] - f[place]
        t = (at - f[place]) / h
        straight = y[place] + t * (y[place + 1] - y[place])
        hump = 4.0 * t * (1.0 - t)
        if f.size == 2:
            return straight, hump * np.abs(y[1] - y[0]) / 2.0
        curve = self._through(at)
        return curve, np.maximum(hump * h**2 / 8.0 * self._second[place], np.abs(curve - straight))
