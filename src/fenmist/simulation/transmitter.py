"""A transmitter as it truly is: its level moves in steps, droops with heat, wanders, folds back, makes harmonics.

Its power is what it would give into a matched load at its connector; what the line makes of its own impedance is the
network's business (`netlist.TrueHookUp.source_ohm`).
"""

import math
from collections.abc import Mapping
from dataclasses import field, replace

import numpy as np

from fenmist.frozen import dataclass


@dataclass(frozen=True)
class TrueTransmitter:
    """What is true of it, whatever it is set to."""

    error_db: float = 0.0  # of the power it gives, over its setting
    step_db: float = 0.0  # between two levels of its control; 0 where that is continuous
    droop_db: float = 0.0  # given up once it is warm
    warm_s: float = 60.0  # time constant of warming and of cooling
    wander_db: float = 0.0  # standard deviation of a slow wandering
    wander_s: float = 120.0  # over which that forgets itself
    top_w: float = math.inf
    folds_above_swr: float = math.inf
    harmonics: Mapping[int, complex] = field(default_factory=dict)  # by order, volts over those of the carrier
    efficiency: float = 0.5  # of its last stage, RF over DC
    idle_a: float = 0.0  # drawn keyed or not
    supply_v: float = 13.8
    modulated_db: float = 0.0  # its crest when modulated, over its carrier


@dataclass(frozen=True)
class Keyed:
    """What it is set to, and what that has made of it so far."""

    set_w: float = 0.0
    frequency_hz: float = 14e6
    on: bool = False
    warmth: float = 0.0  # 0 cold, 1 warm
    wander: float = 0.0  # in standard deviations

    def after(self, true: TrueTransmitter, seconds: float, rng: np.random.Generator) -> "Keyed":
        """So many seconds later, 0 or above."""
        kept = math.exp(-seconds / true.warm_s)
        warmth = self.warmth * kept + (1.0 - kept if self.on else 0.0)
        same = math.exp(-seconds / true.wander_s)
        wander = self.wander * same + math.sqrt(1.0 - same**2) * float(rng.normal())
        return replace(self, warmth=warmth, wander=wander)


def given_w(true: TrueTransmitter, keyed: Keyed) -> float:
    """Power that it would give into a matched load, before any fold-back; 0 with the key up."""
    if not keyed.on or keyed.set_w <= 0.0:
        return 0.0
    dbm = 10.0 * math.log10(keyed.set_w * 1e3)
    dbm = round(dbm / true.step_db) * true.step_db if true.step_db else dbm
    dbm += true.error_db - true.droop_db * keyed.warmth + true.wander_db * keyed.wander
    return float(min(10.0 ** (dbm / 10.0) * 1e-3, true.top_w))


def folded(true: TrueTransmitter, swr: float) -> float:
    """Part of its power that is left at an SWR: from its threshold on it keeps what comes back where it is there.

    Reflected power at the threshold is P·ρ₀²; above it P falls as (ρ₀/ρ)².
    """
    if swr <= true.folds_above_swr:
        return 1.0
    rho, first = ((s - 1.0) / (s + 1.0) if math.isfinite(s) else 1.0 for s in (swr, true.folds_above_swr))
    return float((first / rho) ** 2)


def drawn_a(true: TrueTransmitter, output_w: float) -> float:
    """DC current that it draws while it gives so many watts."""
    return true.idle_a + output_w / (true.efficiency * true.supply_v)
