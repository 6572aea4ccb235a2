"""Reflection at a plane with a real reference impedance. Page: docs/method/reflection.md."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.errors import OutOfRangeError

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]


def reflection_from_impedance(impedance_ohm: ArrayLike, z0_ohm: float = 50.0) -> ComplexArray:
    """Γ = (Z − Z0)/(Z + Z0) of an impedance with R >= 0, any shape.

    Parameters
    ----------
    impedance_ohm : array of complex
        R + jX in Ω, R 0 or above.
    z0_ohm : float
        Real reference impedance in Ω, above 0.

    Returns
    -------
    array of complex
        Γ, |Γ| 0 to 1.
    """
    z = np.asarray(impedance_ohm, complex)
    return np.asarray((z - z0_ohm) / (z + z0_ohm))


def swr_from_reflection(reflection_magnitude: ArrayLike) -> FloatArray:
    """Standing-wave ratio of a passive load.

    Parameters
    ----------
    reflection_magnitude : float or array, any shape
        |Γ|, 0 <= |Γ| <= 1.

    Returns
    -------
    float or array, same shape
        SWR >= 1; infinite where |Γ| is 1.

    Raises
    ------
    OutOfRangeError
        Where |Γ| is negative or above 1; names the first such place.

    Notes
    -----
    SWR = (1 + |Γ|)/(1 − |Γ|).

    >>> float(swr_from_reflection(0.2).round(6))
    1.5
    """
    rho = np.asarray(reflection_magnitude, float)
    _check(rho, (rho >= 0) & (rho <= 1), "reflection magnitude", "It lies from 0 to 1 for a passive load.")
    with np.errstate(divide="ignore"):
        return np.asarray((1.0 + rho) / (1.0 - rho))


def reflection_from_swr(swr: ArrayLike) -> FloatArray:
    """|Γ| = (S − 1)/(S + 1) of SWR >= 1, any shape; raises OutOfRangeError below 1.

    Parameters
    ----------
    swr : array
        Standing-wave ratio, 1 or above.

    Returns
    -------
    array
        |Γ|, 0 to below 1.

    Raises
    ------
    OutOfRangeError
        Where an SWR is below 1.
    """
    s = np.asarray(swr, float)
    _check(s, s >= 1, "SWR", "An SWR is 1 or more.")
    return np.asarray(1.0 - 2.0 / (s + 1.0))


def return_loss_db(reflection_magnitude: ArrayLike) -> FloatArray:
    """−20·log10 |Γ| in dB, any shape; infinite where |Γ| is 0.

    Parameters
    ----------
    reflection_magnitude : array
        |Γ|, 0 to 1.

    Returns
    -------
    array
        dB, 0 or above.
    """
    with np.errstate(divide="ignore"):
        return np.asarray(-20.0 * np.log10(np.asarray(reflection_magnitude, float)))


def incident_from_net(net_w: ArrayLike, reflection_magnitude_squared: ArrayLike) -> FloatArray:
    """Incident power of a net power, P/(1 − |Γ|²), at a plane with real Z0. Shapes broadcast.

    Parameters
    ----------
    net_w : array
        Net power in W.
    reflection_magnitude_squared : array
        |Γ|² at the same plane, 0 to below 1.

    Returns
    -------
    array
        Incident power in W.
    """
    return np.asarray(np.asarray(net_w, float) / (1.0 - np.asarray(reflection_magnitude_squared, float)))


def resistance_from_magnitude(magnitude_ohm: ArrayLike, swr: ArrayLike, z0_ohm: float = 50.0) -> FloatArray:
    """Series resistance in Ω from |Z| in Ω and SWR at Z0, any shape.

    Parameters
    ----------
    magnitude_ohm : array
        |Z| in Ω, above 0.
    swr : array
        SWR at Z0, 1 or above.
    z0_ohm : float
        Real reference impedance in Ω.

    Returns
    -------
    array
        R in Ω.

    Raises
    ------
    OutOfRangeError
        Where no impedance has this magnitude and this SWR (R would exceed |Z|).

    Notes
    -----
    From |Γ|² = ((R − Z0)² + X²)/((R + Z0)² + X²) with X² = |Z|² − R²:
    R = (|Z|² + Z0²)(1 − ρ²)/(2·Z0·(1 + ρ²)). The sign of X stays unknown. A thousandth of |Z| too much is taken
    for rounding of the SWR and held at |Z|.
    """
    magnitude = np.asarray(magnitude_ohm, float)
    rho2 = reflection_from_swr(swr) ** 2
    resistance = np.asarray((magnitude**2 + z0_ohm**2) * (1.0 - rho2) / (2.0 * z0_ohm * (1.0 + rho2)))
    _check(
        resistance / magnitude, resistance <= 1.001 * magnitude, "ratio of resistance to magnitude",
        "No load has this magnitude with so low an SWR: measure both again at one frequency.",
    )  # fmt: skip
    return np.asarray(np.minimum(resistance, magnitude))


def _check(values: FloatArray, good: NDArray[np.bool_], name: str, hint: str) -> None:
    if not np.all(good):
        flat = np.atleast_1d(values).ravel()
        place = int(np.argmax(~np.atleast_1d(good).ravel()))
        where = f" at place {place + 1}" if flat.size > 1 else ""
        raise OutOfRangeError(f"The {name} is {flat[place]:.4g}{where}.", hint)
