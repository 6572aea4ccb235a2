"""Which detector a meter has, told from what it shows of one PEP modulated in several ways.

Each kind predicts a fraction of what it shows on a steady carrier: a thermal one the mean, an averaging one the mean of
volts squared, a hold what its two times let it keep, a true peak all of it. How well each explains the fractions, with
their covariance, gives the odds; a hold's times are averaged over a grid, whose best part is its decay. A meter that is
none of them isn't forced to be one. Page: docs/method/modulation.md.
"""

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.measurand import Detector
from fenmist.waveform.movement import hold_readings
from fenmist.waveform.shapes import Waveform

FloatArray = NDArray[np.float64]

KINDS = (Detector.THERMAL, Detector.AVERAGE, Detector.HOLD, Detector.PEAK)
"""Those that are told apart, all as likely before anything is read."""

CHARGING_S = (1e-3, 0.1)
DECAY_S = (0.1, 5.0)
"""Times of a hold that are looked at, evenly in their logarithms (common practice, no source)."""

GRID = (9, 25)
"""How many of each."""

LOWEST, HIGHEST = 0.02, 1.3
"""Fractions between which a meter that is none of these may show anything, evenly in the logarithm (own)."""

SURE = 0.95
"""Probability from which a kind is called by its name."""

AS_TRUE = 0.98
"""Fraction of PEP from which a hold of the slowest decay can't be told from a true peak by its reading (own)."""


@dataclass(frozen=True)
class Told:
    """How likely each detector is, and what a hold's decay would be."""

    odds: dict[Detector | None, float]  # none of them: None; they sum to 1
    predicted: dict[Detector, tuple[float, ...]]  # fraction of each waveform, of a hold its best
    decay_s: tuple[float, float, float] | None  # low, median, high of a hold's decay, 95 %; none of an unlikely one

    @property
    def likeliest(self) -> Detector | None:
        """The kind with the best odds; none where it is none of them."""
        return max(self.odds, key=lambda kind: self.odds[kind])

    @property
    def is_sure(self) -> bool:
        """Whether its odds are 95 % or more."""
        return max(self.odds.values()) >= SURE


def told_apart(waveforms: Sequence[Waveform], fractions: FloatArray, covariance: FloatArray) -> Told:
    """Odds of each detector.

    Parameters
    ----------
    waveforms : sequence of n
        Those of finite period.
    fractions : array, shape (n,)
        Shown, over what the carrier shows at the same PEP; above 0.
    covariance : array, shape (n, n)
        Of their logarithms.
    """
    logs = np.log(fractions)
    exact = [item.exact for item in waveforms]
    known = {
        Detector.THERMAL: tuple(item.mean if item else 1.0 for item in exact),
        Detector.AVERAGE: tuple(item.mean_volts**2 if item else 1.0 for item in exact),
        Detector.PEAK: (1.0,) * len(exact),
    }
    grid = np.array([_grid(item) for item in waveforms])  # waveforms by holds
    scale = np.sqrt(np.diag(covariance))
    root = np.linalg.cholesky(covariance / np.outer(scale, scale))

    def likely(predicted: FloatArray) -> FloatArray:
        """Log likelihood of predictions, shape (n, k), a constant apart."""
        left = np.linalg.solve(root, (logs[:, None] - np.log(predicted)) / scale[:, None])
        return np.asarray(-0.5 * np.sum(left**2, axis=0))

    holds = likely(grid)
    best = float(holds.max())
    weights = np.exp(holds - best)
    found: dict[Detector | None, float] = {
        kind: float(likely(np.array(values)[:, None])[0]) for kind, values in known.items()
    }
    found[Detector.HOLD] = best + math.log(float(weights.mean()))
    spread = (
        float(np.sum(np.log(scale))) + float(np.sum(np.log(np.diag(root)))) + 0.5 * logs.size * math.log(2.0 * math.pi)
    )
    found[None] = spread - logs.size * math.log(math.log(HIGHEST / LOWEST))
    top = max(found.values())
    each = {kind: math.exp(value - top) for kind, value in found.items()}
    total = sum(each.values())
    odds = {kind: each[kind] / total for kind in (*KINDS, None)}
    known[Detector.HOLD] = tuple(grid[:, int(np.argmax(holds))].tolist())
    decay = _quantiles(weights) if odds[Detector.HOLD] > 1.0 - SURE else None
    return Told(odds, {kind: known[kind] for kind in KINDS}, decay)


def _times() -> tuple[FloatArray, FloatArray]:
    charging, decay = (np.geomspace(*ends, count) for ends, count in zip((CHARGING_S, DECAY_S), GRID, strict=True))
    both = np.meshgrid(charging, decay, indexing="ij")
    return both[0].ravel(), both[1].ravel()


@lru_cache(maxsize=64)
def _grid(waveform: Waveform) -> tuple[float, ...]:
    """What holds of all those times show on a waveform."""
    return tuple(hold_readings(waveform, *_times()).tolist())


def _quantiles(weights: FloatArray) -> tuple[float, float, float]:
    """Of the decay, whatever the charging time, between the grid's places by its cumulated weight."""
    decay = np.geomspace(*DECAY_S, GRID[1])
    by_decay = weights.reshape(GRID).sum(axis=0)
    below = (np.cumsum(by_decay) - 0.5 * by_decay) / by_decay.sum()
    low, middle, high = np.exp(np.interp((0.02275, 0.5, 0.97725), below, np.log(decay)))
    return float(low), float(middle), float(high)
