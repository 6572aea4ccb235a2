"""The gain plateau: where level control begins to limit, from the power shown at rising microphone gain.

Two lines that meet: one rises, one stands: P = P₀ + s·min(g − k, 0). The knee k is where the sum of squares is least;
its interval is that of k whose sum of squares isn't larger than the scatter allows. Page: docs/method/plateau.md.

>>> answer = PlateauRequest("10 20 30 40 50 60", "8 22 41 58 60 60 W")()
>>> round(answer.knee, 1), round(answer.plateau_w, 1), answer.setting
(41.4, 60.0, 40.0)
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.findings.note import Note, Severity
from fenmist.uncertainty.coverage import coverage_factor
from fenmist.units.display import percent, plain
from fenmist.units.typed import readings_from_text

FloatArray = NDArray[np.float64]

FEWEST = 5
"""Readings below which no knee is told from a bend (Fenmist's own): three numbers are fitted."""

MOVES = 0.03
"""Share of its power by which a plateau may move before it is called one no more (Fenmist's own)."""

WIDE = 0.25
"""Share of the gains read that a knee may be uncertain by before that is said (Fenmist's own)."""

SEARCH = 200
"""Places between two gains that are looked at before the best is refined."""


class End(StrEnum):
    """What the power does beyond the knee."""

    STANDS = "stands"
    RISES = "still rises"
    FALLS = "falls"
    UNSEEN = "not seen"


@dataclass(frozen=True)
class Knee:
    """Two lines through the readings."""

    gain: float
    low: float
    high: float  # between which it lies with 95 % probability
    plateau_w: float
    u_plateau_w: float  # standard
    slope: float  # W by gain, below the knee
    scatter_w: float  # standard deviation of readings about the lines, no less than a digit leaves
    dof: int

    @property
    def expanded_u(self) -> float:
        """Half of what the knee lies within, the larger half."""
        return max(self.high - self.gain, self.gain - self.low)

    def power(self, gain: FloatArray) -> FloatArray:
        """The lines at gains, W; any shape."""
        return np.asarray(self.plateau_w + self.slope * np.minimum(gain - self.gain, 0.0))


@dataclass(frozen=True)
class PlateauAnswer:
    """What the readings say of the gain."""

    gain: FloatArray  # shape (n,), rising
    power_w: FloatArray
    fit: Knee | None  # none where nothing bends
    end: End
    setting: float | None  # a touch below the knee, at a step of the gain as it was typed
    notes: tuple[Note, ...]

    @property
    def knee(self) -> float:
        """Gain at which limiting begins; not a number where none is seen."""
        return self.fit.gain if self.fit else math.nan

    @property
    def plateau_w(self) -> float:
        """Power on the plateau; of the highest reading where none is seen."""
        return self.fit.plateau_w if self.fit else float(self.power_w.max())


@dataclass(frozen=True)
class PlateauRequest:
    """Gains and the powers shown there, as typed."""

    gain: str
    power: str

    def __call__(self) -> PlateauAnswer:
        """The answer; raises UnreadableError, OutOfRangeError."""
        gains = readings_from_text(self.gain, "", "gain", "10 20 30 40 50 60")
        powers = readings_from_text(self.power, "W", "power", "8 22 41 58 60 60 W")
        if len(gains) != len(powers):
            raise OutOfRangeError(
                f"{len(gains)} gains and {len(powers)} powers don't go together.", "Give one power for each gain."
            )
        digit_w = max(item.digit_si for item in powers)
        step = min(item.digit_si for item in gains)
        return plateau(
            np.array([item.value_si for item in gains]), np.array([item.value_si for item in powers]), digit_w, step
        )


def plateau(gain: FloatArray, power_w: FloatArray, digit_w: float, gain_step: float) -> PlateauAnswer:
    """Where the power stops rising with the gain.

    Parameters
    ----------
    gain : array, shape (n,)
        In any order, in the units of its scale.
    power_w : array, shape (n,)
        Shown there, W, 0 or more.
    digit_w : float
        Last digit of a power, W: the least that readings scatter by.
    gain_step : float
        Step in which the gain can be set.

    Raises
    ------
    OutOfRangeError
        For fewer than five different gains, powers below zero, or none above it.
    """
    order = np.argsort(gain, kind="stable")
    gain, power_w = gain[order], power_w[order]
    if np.unique(gain).size < FEWEST:
        raise OutOfRangeError(
            f"{np.unique(gain).size} gains are too few to see a knee.", f"Read {FEWEST} or more, some beyond it."
        )
    if np.any(power_w < 0.0) or not np.any(power_w > 0.0):
        raise OutOfRangeError("A power shown is 0 or more, and one of them above 0.", "Look at what was typed.")
    least_w = digit_w / math.sqrt(12.0)
    fit = _fitted(gain, power_w, least_w)
    end = _beyond(gain, power_w, fit, least_w)
    setting = None
    if fit is not None and end is End.STANDS:
        lowest = max(fit.low, float(gain[gain < fit.gain].max()))
        steps = min(math.floor(lowest / gain_step + 1e-9), math.ceil(fit.gain / gain_step - 1e-9) - 1)
        setting = steps * gain_step
    return PlateauAnswer(gain, power_w, fit, end, setting, tuple(_notes(gain, power_w, fit, end)))


def _fitted(gain: FloatArray, power: FloatArray, least_w: float) -> Knee | None:
    """The best two lines, or none where the knee isn't between the second and the last gain."""
    from scipy.optimize import brentq, minimize_scalar  # heavy: imported on first use

    different = np.unique(gain)
    places = np.linspace(different[1], different[-1], SEARCH * (different.size - 2) + 1)
    sums = np.array([_lines(gain, power, place)[2] for place in places])
    best = int(np.argmin(sums))
    if best == places.size - 1:
        return None  # one line through all of them is as good: nothing stands yet
    around = (places[max(best - 1, 0)], places[best + 1])
    found = minimize_scalar(lambda place: _lines(gain, power, place)[2], bounds=around, method="bounded")
    knee = float(found.x) if found.fun < sums[best] else float(places[best])
    standing, slope, left = _lines(gain, power, knee)
    if slope <= 0.0:
        return None
    dof = gain.size - 3
    scatter = max(math.sqrt(left / dof), least_w)
    allowed = left + (float(coverage_factor(dof)) * scatter) ** 2

    def over(place: float) -> float:
        return _lines(gain, power, place)[2] - allowed

    # beyond the readings nothing is known: the interval ends there
    edges = (float(different[0]) + 1e-9 * float(np.ptp(gain)), float(different[-1]))
    low, high = (
        float(brentq(over, knee, edge, xtol=1e-9 * float(np.ptp(gain)))) if over(edge) > 0.0 else edge for edge in edges
    )
    beyond = max(int(np.sum(gain >= knee)), 1)
    return Knee(knee, low, high, standing, scatter / math.sqrt(beyond), slope, scatter, dof)


def _lines(gain: FloatArray, power: FloatArray, knee: float) -> tuple[float, float, float]:
    """Best height and slope for a knee, and the sum of squares that is left, W²."""
    below = np.minimum(gain - knee, 0.0)
    centred = below - below.mean()
    spread = float(centred @ centred)
    slope = float(centred @ power) / spread if spread > 0.0 else 0.0
    height = float(power.mean()) - slope * float(below.mean())
    left = power - height - slope * below
    return height, slope, float(left @ left)


def _beyond(gain: FloatArray, power: FloatArray, fit: Knee | None, least_w: float) -> End:
    """What the power does beyond the knee: a line of its own there, against the scatter about it and about the rise."""
    if fit is None or np.unique(gain[gain >= fit.gain]).size < 2:
        return End.UNSEEN
    there = gain >= fit.gain
    slope, u_per_w, left = _line(gain[there], power[there])
    _, _, before = _line(gain[~there], power[~there])
    dof = gain.size - 4
    scatter = max(math.sqrt((left + before) / dof), least_w)
    far = float(np.ptp(gain[there]))
    change, u = slope * far, scatter * u_per_w * far
    if abs(change) < max(float(coverage_factor(dof)) * u, MOVES * fit.plateau_w):
        return End.STANDS
    return End.RISES if change > 0.0 else End.FALLS


def _line(gain: FloatArray, power: FloatArray) -> tuple[float, float, float]:
    """Slope of a line, its u for a scatter of 1 W, and the sum of squares that is left, W²."""
    centred = gain - gain.mean()
    spread = float(centred @ centred)
    if spread == 0.0:
        return 0.0, 0.0, float(np.sum((power - power.mean()) ** 2))
    slope = float(centred @ power) / spread
    left = power - power.mean() - slope * centred
    return slope, 1.0 / math.sqrt(spread), float(left @ left)


def _notes(gain: FloatArray, power: FloatArray, fit: Knee | None, end: End) -> Iterator[Note]:
    last = power[-1]
    if fit is None or end is End.UNSEEN:
        yield Note(
            "plateau.unseen", Severity.DOUBT, "plateau",
            f"No plateau is seen: the power still rises at the highest gain, {plain(gain[-1], '')}.",
            f"Two readings or more have to stand; the last is {plain(float(last), 'W')}.",
            "Read on at higher gains, if there are any.", {"gain": float(gain[-1]), "power_w": float(last)},
        )  # fmt: skip
        return
    if end is End.RISES:
        yield Note(
            "plateau.rises", Severity.DOUBT, "plateau", "The power bends, but goes on rising beyond the knee.",
            "Level control that limits holds it; this may be compression of the stage itself.",
            "Read on at higher gains, and look at the envelope: flat tops are distortion.", {"knee": fit.gain},
        )  # fmt: skip
    if end is End.FALLS:
        yield Note(
            "plateau.falls", Severity.DOUBT, "plateau", "Beyond the knee the power falls.",
            f"From {plain(fit.plateau_w, 'W', 3)} to {plain(float(last), 'W', 3)}: fold-back, heat, a sagging supply.",
            "Let it cool and read again in the other order.", {"knee": fit.gain, "last_w": float(last)},
        )  # fmt: skip
    if fit.expanded_u > WIDE * float(np.ptp(gain)):
        yield Note(
            "plateau.wide", Severity.WATCH, "plateau", "The knee is hardly told from these readings.",
            f"They scatter by {percent(fit.scatter_w / fit.plateau_w)} of the plateau about the two lines.",
            "Read more gains on both sides of it, and each twice.", {"u": fit.expanded_u},
        )  # fmt: skip
