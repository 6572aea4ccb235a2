"""What a passive part measured at the frequencies it is used at.

Results are never taken outside the span that was measured; an input held past its ends costs. The rule: inside,
straight lines between the points in R and X, with half the change between the neighbours as a limit, full
mid-way and nothing at the points. Outside, the end value is held with a limit that grows from nothing to 10 % of
|Z| at 1.5 times the end frequency (Fenmist's own rule, no source); beyond that the part counts as unknown.
"""

import math
from dataclasses import replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.units.impedance import Known

FloatArray = NDArray[np.float64]

HOLD_RATIO = 1.5
"""How far past its end a characterisation is held, as a ratio of frequencies."""

HOLD_LIMIT = 0.10
"""Limit on the held value at that ratio, as a fraction of |Z|."""


class Footing(StrEnum):
    """What a looked-up value stands on."""

    MEASURED = "measured"
    BETWEEN = "in between"
    HELD = "held past its table"
    UNKNOWN = "nominal"


@dataclass(frozen=True)
class ChainLink:
    """What a measured table leaned on, directly (1) or by others."""

    label: str
    on: str = ""  # when it was calibrated; empty where that isn't on record
    by: str = ""
    reference: str = ""  # certificate number
    due: str = ""
    depth: int = 1


@dataclass(frozen=True)
class Characterisation:
    """A table over frequency, rising: a load's impedance in Ω, an S-parameter ("s21"), a loss in dB, a cal factor."""

    id: str
    quantity: str  # "impedance_ohm"
    frequency_hz: tuple[float, ...]
    real: tuple[float, ...]
    imag: tuple[float, ...] = ()  # none for what is real
    known: tuple[Known, ...] = ()  # how much of each impedance was stated
    u_relative: float = 0.0  # standard uncertainty of R and of X as a fraction of |Z|
    raw: tuple[str, ...] = ()  # as typed
    source: str = ""  # laboratory, instrument or file
    measured_on: str = ""
    unit: str = "Ω"
    u: tuple[float, ...] = ()  # standard uncertainty of each value, of both parts alike; `u_relative` where empty
    coverage: float = 1.0  # k of the expanded uncertainty that was typed
    setting: str = ""  # of the part's switches, as "10 dB"
    termination_ohm: float | None = None  # at the other ports while it was measured; Z0 of an S-parameter
    drift_per_year: float = 0.0  # relative, standard: what was seen of it through the years
    leans_on: tuple[ChainLink, ...] = ()  # of a table taken from a certificate of the logbook

    def __post_init__(self) -> None:
        lengths = {len(self.frequency_hz), *(len(v) for v in (self.real, self.imag, self.known, self.u) if v)}
        rising = all(a < b for a, b in zip(self.frequency_hz, self.frequency_hz[1:], strict=False))
        if len(lengths) != 1 or not self.frequency_hz or not rising:
            raise OutOfRangeError(
                f"The table “{self.id}” is not one value per frequency, rising.",
                "Each frequency may stand in it once.",
            )


@dataclass(frozen=True, eq=False)
class LoadState:
    """A load's impedance at n frequencies. Arrays have shape (n,)."""

    resistance_ohm: FloatArray  # the magnitude where only that is known
    reactance_ohm: FloatArray  # its magnitude where the sign is unknown
    u_resistance_ohm: FloatArray
    u_reactance_ohm: FloatArray
    known: tuple[Known, ...]
    footing: tuple[Footing, ...]
    hot_resistance_ohm: FloatArray  # what heat adds from cold to hot; 0 where it was not measured hot
    hot_reactance_ohm: FloatArray
    heat: float = 0.5  # 0 cold, 1 hot
    u_heat: float = 0.5 / math.sqrt(3.0)

    @property
    def can_be_hot(self) -> bool:
        """True where a hot table says something else than the cold one."""
        return bool(np.any(self.hot_resistance_ohm) or np.any(self.hot_reactance_ohm))

    def take(self, columns: NDArray[np.int64]) -> "LoadState":
        """The state at some of the frequencies."""
        arrays = (
            "resistance_ohm", "reactance_ohm", "u_resistance_ohm", "u_reactance_ohm", "hot_resistance_ohm",
            "hot_reactance_ohm",
        )  # fmt: skip
        return replace(
            self,
            known=tuple(self.known[i] for i in columns),
            footing=tuple(self.footing[i] for i in columns),
            **{name: getattr(self, name)[columns] for name in arrays},
        )


NOMINAL_U_OHM = float(np.sqrt((58.0 - 45.0) ** 2 / 12.0 + (51.5 - 50.0) ** 2))
"""u of a load taken at its nominal 50 Ω: loads of 45 to 58 Ω are met (common practice, no source); the rectangle's
4.03 Ω is about 50, not about its middle (JCGM 100:2008, F.2.4.5)."""


def load_state(
    table: Characterisation | None,
    frequency_hz: FloatArray,
    nominal_ohm: float,
    hot: Characterisation | None = None,
    heat: float | None = None,
    u_nominal_ohm: float = 0.0,
) -> LoadState:
    """A load's impedance at frequencies of shape (n,), by the rule of this module; nominal where unknown.

    Parameters
    ----------
    hot : Characterisation, optional
        The same load measured hot; counts at frequencies where both tables have a measured or interpolated value.
    heat : float, optional
        How hot it is, 0 to 1; somewhere between where it isn't said.
    u_nominal_ohm : float
        To what the nominal value is known, standard; 0 where nobody states it: then common practice counts.
    """
    frequencies = np.atleast_1d(np.asarray(frequency_hz, float))
    u_nominal = u_nominal_ohm or NOMINAL_U_OHM * nominal_ohm / 50.0
    cold = _looked_up(table, frequencies, nominal_ohm, u_nominal)
    dr, dx = np.zeros_like(frequencies), np.zeros_like(frequencies)
    if hot is not None:
        warm = _looked_up(hot, frequencies, nominal_ohm, u_nominal)
        both = cold.inside & warm.inside & (cold.known == warm.known)
        dr, dx = np.where(both, warm.r - cold.r, 0.0), np.where(both, warm.x - cold.x, 0.0)
    known = tuple(_KNOWN[code] for code in cold.known)
    footing = tuple(_FOOTINGS[code] for code in cold.footing)
    state = LoadState(cold.r, cold.x, cold.u_r, cold.u_x, known, footing, dr, dx)
    return state if heat is None else replace(state, heat=heat, u_heat=0.0)


_KNOWN, _FOOTINGS = tuple(Known), tuple(Footing)
_WITH_REACTANCE = np.array([item in (Known.COMPLEX, Known.MAGNITUDE_SWR) for item in Known])


@dataclass(frozen=True, eq=False)
class _LookedUp:
    """Values at n frequencies; `known` and `footing` as places in their enumerations."""

    r: FloatArray
    x: FloatArray
    u_r: FloatArray
    u_x: FloatArray
    known: NDArray[np.int64]
    footing: NDArray[np.int64]

    @property
    def inside(self) -> NDArray[np.bool_]:
        """Where the table has a measured or interpolated value."""
        return self.footing <= _FOOTINGS.index(Footing.BETWEEN)


def _looked_up(table: Characterisation | None, f: FloatArray, nominal_ohm: float, u_nominal: float) -> _LookedUp:
    nothing = np.zeros_like(f)
    if table is None:
        codes = np.full(f.shape, _FOOTINGS.index(Footing.UNKNOWN))
        known = np.full(f.shape, _KNOWN.index(Known.RESISTANCE))
        return _LookedUp(nominal_ohm + nothing, nothing, u_nominal + nothing, nothing, known, codes)
    span, r, x = (np.array(values) for values in (table.frequency_hz, table.real, table.imag))
    codes = np.array([_KNOWN.index(item) for item in table.known])
    last = span.size - 1
    above = np.clip(np.searchsorted(span, f), 0, last)
    below = np.clip(above - 1, 0, last)
    at = np.where(np.abs(span[below] - f) <= 1e-6 * f, below, above)  # the nearer end where it isn't between
    at = np.where(f > span[-1], last, at)
    outside = np.maximum(np.maximum(span[0] / f, f / span[-1]), 1.0)
    measured = np.abs(span[at] - f) <= 1e-6 * f
    between = ~measured & (span[0] < f) & (f < span[-1])
    a, b = np.where(between, below, at), np.where(between, above, at)
    t = np.where(between, (f - span[a]) / np.where(between, span[b] - span[a], 1.0), 0.0)
    bend = 0.5 * 4.0 * t * (1.0 - t) / math.sqrt(3.0)
    growth = np.where(measured | between, 0.0, HOLD_LIMIT * np.log(outside) / math.log(HOLD_RATIO) / math.sqrt(3.0))
    u = np.hypot(table.u_relative, growth)
    u_r = [u * np.hypot(r[end], x[end]) for end in (a, b)]
    u_x = [own * _WITH_REACTANCE[codes[end]] for own, end in zip(u_r, (a, b), strict=True)]
    unknown = outside > HOLD_RATIO
    footing = np.select(
        [unknown, measured, between],
        [_FOOTINGS.index(item) for item in (Footing.UNKNOWN, Footing.MEASURED, Footing.BETWEEN)],
        _FOOTINGS.index(Footing.HELD),
    )

    def held(nominal: float, value: FloatArray) -> FloatArray:
        return np.where(unknown, nominal, value)

    return _LookedUp(
        held(nominal_ohm, r[a] + t * (r[b] - r[a])),
        held(0.0, x[a] + t * (x[b] - x[a])),
        held(u_nominal, np.hypot(u_r[0] + t * (u_r[1] - u_r[0]), bend * (r[b] - r[a]))),
        held(0.0, np.hypot(u_x[0] + t * (u_x[1] - u_x[0]), bend * (x[b] - x[a]))),
        np.where(unknown, _KNOWN.index(Known.RESISTANCE), np.maximum(codes[a], codes[b])),
        footing,
    )
