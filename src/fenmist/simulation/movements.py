"""Simulated meters on a modulated carrier: their circuits stepped through time, all of a batch together.

A diode, a resistor and a capacitor; a heater with its thermal mass; a coil with a spring, a mass and a brake. Forward
steps of Kirchhoff's and Newton's laws, nothing averaged beforehand: stands apart from `waveform`, which it tests.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]

CAPACITOR_F = 1e-7
"""Of every detector; resistors follow from the times."""

KINDS = ("averaging", "thermal", "hold", "peak")
"""Kinds of circuit."""

REFRESH = 64
"""Steps after which a sampled peak is looked for anew."""


@dataclass(frozen=True)
class Circuits:
    """n meters: what their parts are; arrays of shape (n,)."""

    kind: NDArray[np.str_]  # one of `KINDS`
    charge_ohm: FloatArray  # what the capacitor, or the thermal mass, is fed through
    leak_ohm: FloatArray  # across it; infinite where nothing leaks
    period_s: FloatArray  # of the coil and its spring
    damping: FloatArray
    reads_v: FloatArray  # full-scale factor: each was set right on its own steady carrier
    window_s: float = 3.0  # of a true peak


Drive = Callable[[float], float]
"""Volts of the envelope at a time in s, 1 at its crest."""


def shown(circuits: Circuits, drive: Drive, seconds: float, step_s: float, settle_s: float) -> FloatArray:
    """Powers about which the needles stand once settled, over what each shows on a steady carrier; shape (n,)."""
    count = circuits.period_s.size
    is_hold, is_peak, is_thermal = (circuits.kind == name for name in ("hold", "peak", "thermal"))
    charged = step_s / (circuits.charge_ohm * CAPACITOR_F)
    kept = 1.0 - np.where(is_hold, step_s / (circuits.leak_ohm * CAPACITOR_F), 0.0)
    least = np.where(is_hold, 0.0, -np.inf)  # a diode lets nothing back
    stiffness = (2.0 * np.pi / circuits.period_s) ** 2
    pull, slowed = step_s * stiffness, 1.0 - step_s * 2.0 * circuits.damping * np.sqrt(stiffness)
    volts, angle, speed, total = np.zeros(count), np.zeros(count), np.zeros(count), np.zeros(count)
    steps, settle = round(seconds / step_s), round(settle_s / step_s)
    window = max(round(circuits.window_s / step_s), 1)
    recent, highest = np.zeros(window), 0.0
    for number in range(steps):
        envelope = drive(number * step_s)
        recent[number % window] = envelope
        fed = np.where(is_thermal, envelope**2, envelope)
        volts = kept * volts + charged * np.maximum(fed - volts, least)
        highest = float(recent.max()) if number % REFRESH == 0 else highest
        speed = slowed * speed + pull * (np.where(is_peak, highest, volts) - angle)
        angle = angle + step_s * speed
        if number >= settle:
            total = total + angle
    place = total / (steps - settle) * circuits.reads_v
    return np.asarray(np.where(is_thermal, place, place**2))
