"""The gain plateau: where level control begins to limit, from the power shown at rising microphone gain.

Two lines that meet: one rises, one stands: y = y₀ + s·min(g − k, 0), with y the power, or its root where that is
clearly straighter: a gain in volts raises power as its square. The knee k is where the sum of squares is least; its
interval is that of k whose sum of squares isn't larger than the scatter allows. Page: docs/method/plateau.md.

>>> answer = PlateauRequest("10 20 30 40 50 60", "8 22 41 58 60 60 W")()
>>> round(answer.knee, 1), round(answer.plateau_w, 1), answer.setting
(41.4, 60.0, 40.0)
"""

import math
from collections.abc import Iterator
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.uncertainty.coverage import coverage_factor
from fenmist.units.display import MINUS, THIN, percent, plain
from fenmist.units.typed import readings_from_text, value_from_text, values_from_text
from fenmist.units.unit import UNITS

FloatArray = NDArray[np.float64]

FEWEST = 5
"""Readings below which no knee is told from a bend (Fenmist's own): three numbers are fitted."""

MOVES = 0.03
"""Share of its power by which a plateau may move before it is called one no more (Fenmist's own)."""

WIDE = 0.25
"""Share of the gains read that a knee may be uncertain by before that is said (Fenmist's own)."""

LAWS = (1, 2)
"""Powers rise evenly with the gain, or volts do."""

CLEARER = 2.0
"""By how much the sum of squares is smaller where volts are taken to rise evenly (Fenmist's own)."""

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
    slope: float  # by gain, below the knee: W, or √W where volts rise evenly
    scatter_w: float  # standard deviation of readings about the lines, no less than a digit leaves
    dof: int
    law: int = 1  # 2 where volts rise evenly

    @property
    def expanded_u(self) -> float:
        """Half of what the knee lies within, the larger half."""
        return max(self.high - self.gain, self.gain - self.low)

    def power(self, gain: FloatArray) -> FloatArray:
        """The lines at gains, W; any shape."""
        standing = self.plateau_w ** (1.0 / self.law)
        return np.asarray(np.maximum(standing + self.slope * np.minimum(gain - self.gain, 0.0), 0.0) ** self.law)


@dataclass(frozen=True)
class PlateauAnswer:
    """What the readings say of the gain."""

    gain: FloatArray  # shape (n,), rising
    power_w: FloatArray
    fit: Knee | None  # none where nothing bends
    end: End
    setting: float | None  # a touch below the knee and below the limit of distortion, at a step of the gain as typed
    notes: tuple[Note, ...]
    distortion_db: FloatArray | None = None  # shape (n,), below the wanted signal; none where it wasn't noted
    clean: float | None = None  # gain at which it reaches its limit; infinite where it doesn't, none where not noted

    @property
    def knee(self) -> float:
        """Gain at which limiting begins; not a number where none is seen."""
        return self.fit.gain if self.fit else math.nan

    @property
    def knee_or_end(self) -> float:
        """The knee where the power stands behind it, else infinite: what distortion is held against."""
        return self.fit.gain if self.fit and self.end is End.STANDS else math.inf

    @property
    def plateau_w(self) -> float:
        """Power on the plateau; of the highest reading where none is seen."""
        return self.fit.plateau_w if self.fit else float(self.power_w.max())


@dataclass(frozen=True)
class PlateauRequest:
    """Gains and the powers shown there, as typed."""

    gain: str
    power: str
    distortion: str = ""  # beside each, dB below the wanted signal; not needed
    limit: str = "-30 dB"  # that it may reach

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
        noted = self._distortion(len(gains))
        limit = -abs(value_from_text(self.limit or "-30 dB", UNITS["dB"], "limit of distortion", "-30 dB"))
        return plateau(
            np.array([item.value_si for item in gains]), np.array([item.value_si for item in powers]), digit_w, step,
            noted, limit,
        )  # fmt: skip

    def _distortion(self, count: int) -> FloatArray | None:
        """Below the wanted signal, so 0 or less however it was typed."""
        if not self.distortion.strip():
            return None
        levels = values_from_text(self.distortion, "dB", "distortion", "-38 -36 -33 -29 -24 -18 dB")
        if len(levels) != count:
            raise OutOfRangeError(
                f"{count} gains and {len(levels)} distortions don't go together.", "Give one for each gain, or none."
            )
        return np.asarray(-np.abs(np.array(levels)), float)


def plateau(
    gain: FloatArray, power_w: FloatArray, digit_w: float, gain_step: float, distortion_db: FloatArray | None = None,
    limit_db: float = -30.0,
) -> PlateauAnswer:  # fmt: skip
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
    distortion_db : array, shape (n,), optional
        Noted there, dB below the wanted signal: its limit is another that the setting stays below.
    limit_db : float
        That it may reach.

    Raises
    ------
    OutOfRangeError
        For fewer than five different gains, powers below zero, or none above it.
    """
    order = np.argsort(gain, kind="stable")
    gain, power_w = gain[order], power_w[order]
    noted = None if distortion_db is None else distortion_db[order]
    clean = None if noted is None else _clean_until(gain, noted, limit_db)
    if np.unique(gain).size < FEWEST:
        raise OutOfRangeError(
            f"{np.unique(gain).size} gains are too few to see a knee.", f"Read {FEWEST} or more, some beyond it."
        )
    if np.any(power_w < 0.0) or not np.any(power_w > 0.0):
        raise OutOfRangeError("A power shown is 0 or more, and one of them above 0.", "Look at what was typed.")
    least_w = digit_w / math.sqrt(12.0)
    fit, in_volts = (_fitted(gain, power_w, least_w, law) for law in LAWS)
    if in_volts is not None and (fit is None or _left(in_volts, gain, power_w) * CLEARER < _left(fit, gain, power_w)):
        fit = in_volts
    end = _beyond(gain, power_w, fit, least_w)
    setting = None
    if fit is not None and end is End.STANDS:
        lowest = max(fit.low, float(gain[gain < fit.gain].max()))
        steps = min(math.floor(lowest / gain_step + 1e-9), math.ceil(fit.gain / gain_step - 1e-9) - 1)
        setting = steps * gain_step
    if clean is not None and math.isfinite(clean):
        below = (math.ceil(clean / gain_step - 1e-9) - 1) * gain_step
        setting = below if setting is None else min(setting, below)
    notes = (*_notes(gain, power_w, fit, end), *_of_distortion(gain, clean, limit_db))
    return PlateauAnswer(gain, power_w, fit, end, setting, notes, noted, clean)


def _clean_until(gain: FloatArray, distortion_db: FloatArray, limit_db: float) -> float:
    """Gain at which distortion first reaches its limit, on a line between two readings; infinite where it doesn't."""
    beyond = np.flatnonzero(distortion_db > limit_db)
    if not beyond.size:
        return math.inf
    first = int(beyond[0])
    if first == 0:
        return float(gain[0])
    rise = float(distortion_db[first] - distortion_db[first - 1])
    share = float(limit_db - distortion_db[first - 1]) / rise
    return float(gain[first - 1] + share * (gain[first] - gain[first - 1]))


def _of_distortion(gain: FloatArray, clean: float | None, limit_db: float) -> Iterator[Note]:
    if clean is None:
        return
    said = f"{limit_db:g}{THIN}dB".replace("-", MINUS)
    if clean <= gain[0]:
        yield Note(
            "plateau.distorts", Severity.DOUBT, "plateau", f"Distortion is above {said} at the lowest gain already.",
            "It isn't the gain's: the stage, its supply or its drive distorts.", "Look at the level before it.",
            {"gain": float(gain[0])},
        )  # fmt: skip
    elif math.isfinite(clean):
        yield Note(
            "plateau.distorts", Severity.WATCH, "plateau", f"Distortion reaches {said} at {plain(clean, '', 3)}.",
            "What more gain or compression adds there is distortion, heard beside the channel too.",
            "Set it below, whatever the power does.", {"gain": clean},
        )  # fmt: skip


def _left(fit: Knee, gain: FloatArray, power_w: FloatArray) -> float:
    """Sum of squares that is left, W²."""
    return float(np.sum((power_w - fit.power(gain)) ** 2))


def _fitted(gain: FloatArray, power_w: FloatArray, least_w: float, law: int) -> Knee | None:
    """The best two lines over power, or its root, or none where the knee isn't between the second and the last gain."""
    from scipy.optimize import brentq, minimize_scalar  # heavy: imported on first use

    power = power_w ** (1.0 / law)
    per_watt = _per_watt(float(power_w.max()), law)
    different = np.unique(gain)
    places = np.linspace(different[1], different[-1], SEARCH * (different.size - 2) + 1)
    sums = _lines(gain, power, places)[2]
    best = int(np.argmin(sums))
    if best == places.size - 1:
        return None  # one line through all of them is as good: nothing stands yet
    around = (places[max(best - 1, 0)], places[best + 1])
    found = minimize_scalar(lambda place: float(_lines(gain, power, place)[2]), bounds=around, method="bounded")
    knee = float(found.x) if found.fun < sums[best] else float(places[best])
    standing, slope, left = (float(item) for item in _lines(gain, power, knee))
    if slope <= 0.0:
        return None
    dof = gain.size - 3
    scatter = max(math.sqrt(left / dof), least_w * per_watt)
    allowed = left + (float(coverage_factor(dof)) * scatter) ** 2

    def over(place: float) -> float:
        return float(_lines(gain, power, place)[2]) - allowed

    # beyond the readings nothing is known: the interval ends there
    edges = (float(different[0]) + 1e-9 * float(np.ptp(gain)), float(different[-1]))
    low, high = (
        float(brentq(over, knee, edge, xtol=1e-9 * float(np.ptp(gain)))) if over(edge) > 0.0 else edge for edge in edges
    )
    beyond = max(int(np.sum(gain >= knee)), 1)
    scatter_w = scatter / per_watt
    return Knee(knee, low, high, standing**law, scatter_w / math.sqrt(beyond), slope, scatter_w, dof, law)


def _per_watt(power_w: float, law: int) -> float:
    """By how much the root of a power moves for a watt."""
    return float(power_w ** (1.0 / law - 1.0)) / law


def _lines(gain: FloatArray, power: FloatArray, knees: FloatArray | float) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Best height and slope for knees of any shape, and the sum of squares that each leaves."""
    below = np.minimum(gain - np.asarray(knees)[..., None], 0.0)
    middle = below.mean(axis=-1)
    centred = below - middle[..., None]
    spread = np.sum(centred**2, axis=-1)
    slope = np.divide(centred @ power, spread, out=np.zeros_like(spread), where=spread > 0.0)
    height = power.mean() - slope * middle
    left = power - height[..., None] - slope[..., None] * below
    return height, slope, np.asarray(np.sum(left**2, axis=-1))


def _beyond(gain: FloatArray, power_w: FloatArray, fit: Knee | None, least_w: float) -> End:
    """What the power does beyond the knee: a line of its own there, against the scatter about it and about the rise."""
    if fit is None or np.unique(gain[gain >= fit.gain]).size < 2:
        return End.UNSEEN
    there, lines, per_watt = gain >= fit.gain, power_w ** (1.0 / fit.law), _per_watt(fit.plateau_w, fit.law)
    slope, u_each, left = _line(gain[there], lines[there])
    _, _, before = _line(gain[~there], lines[~there])
    dof = gain.size - 4
    scatter = max(math.sqrt((left + before) / dof), least_w * per_watt)
    far = float(np.ptp(gain[there]))
    change, u = slope * far, scatter * u_each * far
    if abs(change) < max(float(coverage_factor(dof)) * u, MOVES * fit.plateau_w * per_watt):
        return End.STANDS
    return End.RISES if change > 0.0 else End.FALLS


def _line(gain: FloatArray, power: FloatArray) -> tuple[float, float, float]:
    """Slope of a line, its u for a scatter of 1, and the sum of squares that is left."""
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
