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
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.kit.characterisation import HOLD_LIMIT, HOLD_RATIO, Characterisation, Footing

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]

HOLD_LIMIT_DB = 1.0
"""Limit on a held loss at 1.5 times the end frequency (Fenmist's own, no source)."""

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
    value, limit = _complex(table, f, inside) if table.imag else _shaped(f, np.asarray(table.real), inside)
    outside = np.maximum(np.maximum(f[0] / at, at / f[-1]), 1.0)
    held = HOLD_LIMIT_DB if table.unit == "dB" else HOLD_LIMIT * np.abs(value)
    growth = np.where(outside > 1.0 + 1e-9, held * np.log(outside) / math.log(HOLD_RATIO), 0.0)
    own = np.interp(inside, f, table.u) if table.u else table.u_relative * np.abs(value)
    u = np.sqrt(own**2 + (limit**2 + growth**2) / 3.0)
    return LookUp(value, np.asarray(u), tuple(_footing(f, x, o) for x, o in zip(at, outside, strict=True)))


def _footing(f: FloatArray, at: float, outside: float) -> Footing:
    if outside > HOLD_RATIO:
        return Footing.UNKNOWN
    if np.any(np.abs(f - at) <= 1e-6 * at):
        return Footing.MEASURED
    return Footing.BETWEEN if outside <= 1.0 else Footing.HELD


def _complex(table: Characterisation, f: FloatArray, at: FloatArray) -> tuple[ComplexArray, FloatArray]:
    z = np.asarray(table.real) + 1j * np.asarray(table.imag)
    if _is_transmission(table.quantity):
        level, level_limit = _shaped(f, 20.0 * np.log10(np.maximum(np.abs(z), _NEVER)), at)
        phase, phase_limit = _shaped(f, np.unwrap(np.angle(z)), at)
        value = 10.0 ** (level / 20.0) * np.exp(1j * phase)
        return value, np.abs(value) * np.hypot(level_limit * math.log(10.0) / 20.0, phase_limit)
    (real, real_limit), (imag, imag_limit) = _shaped(f, z.real, at), _shaped(f, z.imag, at)
    return real + 1j * imag, np.hypot(real_limit, imag_limit)


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


def _shaped(f: FloatArray, y: FloatArray, at: FloatArray) -> tuple[FloatArray, FloatArray]:
    """The curve through y at `at` (within f), and the limit on its error there."""
    if f.size == 1:
        return np.full(at.shape, y[0]), np.zeros(at.shape)
    place = np.clip(np.searchsorted(f, at, side="right") - 1, 0, f.size - 2)
    h = f[place + 1] - f[place]
    t = (at - f[place]) / h
    straight = y[place] + t * (y[place + 1] - y[place])
    hump = 4.0 * t * (1.0 - t)
    if f.size == 2:
        return straight, hump * np.abs(y[1] - y[0]) / 2.0
    curve = shape_keeping(f, y)(at)
    slopes = np.diff(y) / np.diff(f)
    second = np.abs(2.0 * np.diff(slopes) / (f[2:] - f[:-2]))  # at the inner points
    around = np.maximum(np.concatenate([second[:1], second]), np.concatenate([second, second[-1:]]))
    bound = h**2 / 8.0 * around[place]
    return curve, np.maximum(hump * bound, np.abs(curve - straight))
