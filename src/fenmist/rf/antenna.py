"""What an antenna radiates: from its current, its height and the field far from it.

A short vertical over ground of good conductivity: current falls along it in a straight line, to nothing at a bare top.
Fails where it is no longer short (a tenth of a wavelength of effective height), and says nothing of what the ground
takes. Sources, all from memory: ITU Radio Regulations 1.161-1.163 (e.i.r.p., e.r.p., e.m.r.p.); any antenna handbook.
"""

import math

from fenmist.errors import OutOfRangeError
from fenmist.rf.stub import SPEED_OF_LIGHT_M_S

HALF_WAVE_DIPOLE = 1.641
"""Gain of a half-wave dipole over an isotropic radiator, 2.15 dB."""

SHORT_MONOPOLE = 3.0
"""Gain of a short vertical over perfect ground, over an isotropic radiator, 4.77 dB."""


def wavelength_m(frequency_hz: float) -> float:
    """Of a carrier, m.

    Parameters
    ----------
    frequency_hz : float
        Above 0.

    Raises
    ------
    OutOfRangeError
        Of a frequency that isn't above 0.
    """
    if not frequency_hz > 0.0:
        raise OutOfRangeError(f"{frequency_hz:g} Hz has no wavelength.", "Give a frequency above 0.")
    return SPEED_OF_LIGHT_M_S / frequency_hz


def effective_height_m(height_m: float, top_loading: float = 0.0) -> float:
    """Height at which a current as large as at the base all along would radiate as much, m.

    Parameters
    ----------
    height_m : float
        Of the vertical, m, 0 or more.
    top_loading : float
        Current at the top over that at the base: 0 of a bare whip, near 1 of a large roof of wires.

    Returns
    -------
    float
        h·(1 + t)/2, m.

    Raises
    ------
    OutOfRangeError
        Of a height below 0 or a loading outside 0 to 1.

    Examples
    --------
    >>> effective_height_m(15.0), effective_height_m(15.0, 1.0)
    (7.5, 15.0)
    """
    if not height_m >= 0.0 or not 0.0 <= top_loading <= 1.0:
        raise OutOfRangeError("No vertical is like that.", "A height of 0 m or more, top loading from 0 to 1.")
    return height_m * (1.0 + top_loading) / 2.0


def short_monopole_resistance_ohm(effective_height_m: float, frequency_hz: float) -> float:
    """Radiation resistance at the base of a short vertical over perfect ground, Ω: 160·π²·(h_e/λ)².

    Parameters
    ----------
    effective_height_m, frequency_hz : float
        m and Hz.

    Examples
    --------
    >>> round(short_monopole_resistance_ohm(7.5, 474e3), 3)
    0.222
    """
    return 160.0 * (math.pi * effective_height_m / wavelength_m(frequency_hz)) ** 2


def eirp_from_field_w(field_v_per_m: float, distance_m: float) -> float:
    """EIRP that makes a field far away in free space, or over perfect ground, W: (E·d)²/30.

    Parameters
    ----------
    field_v_per_m, distance_m : float
        V/m rms, and m.

    Notes
    -----
    1 kW of e.m.r.p., three times as much EIRP, makes 300 mV/m at 1 km (ITU Radio Regulations 1.163, from memory).

    Examples
    --------
    >>> round(eirp_from_field_w(0.3, 1000.0))
    3000
    """
    return (field_v_per_m * distance_m) ** 2 / 30.0


def field_from_eirp_v_per_m(eirp_w: float, distance_m: float) -> float:
    """Field in the direction of the strongest, in free space or over perfect ground, V/m rms: √(30·EIRP)/d.

    Parameters
    ----------
    eirp_w, distance_m : float
        W, and m; nearer than λ/2π it says nothing.

    Examples
    --------
    >>> round(field_from_eirp_v_per_m(3000.0, 1000.0), 3)
    0.3
    """
    return math.sqrt(30.0 * eirp_w) / distance_m


def base_reactance_ohm(height_m: float, frequency_hz: float, wire_m: float = 0.002) -> float:
    """Capacitive reactance at the base of a bare short vertical, Ω, below 0: −60·(ln(2h/a) − 1)/tan(2πh/λ).

    Parameters
    ----------
    height_m, frequency_hz : float
        m and Hz.
    wire_m : float
        Diameter of its wire, m.

    Examples
    --------
    >>> round(base_reactance_ohm(15.0, 474e3), -1)
    -3720.0
    """
    turn = math.tan(2.0 * math.pi * height_m / wavelength_m(frequency_hz))
    return -60.0 * (math.log(4.0 * height_m / wire_m) - 1.0) / turn
