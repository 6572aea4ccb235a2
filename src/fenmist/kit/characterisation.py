"""What a passive part measured at the frequencies it is used at.

Results are never taken outside the span that was measured; an input held past its ends costs. The rule: inside,
straight lines between the points in R and X, with half the change between the neighbours as a limit, full
mid-way and nothing at the points. Outside, the end value is held with a limit that grows from nothing to 10 % of
|Z| at 1.5 times the end frequency (Fenmist's own rule, no source); beyond that the part counts as unknown.
"""

import math
from bisect import bisect_left
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
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
class Characterisation:
    """A table over frequency, rising. Impedances in Ω as real and imaginary part."""

    id: str
    quantity: str  # "impedance_ohm"
    frequency_hz: tuple[float, ...]
    real: tuple[float, ...]
    imag: tuple[float, ...]
    known: tuple[Known, ...]  # how much of each value was stated
    u_relative: float  # standard uncertainty of R and of X as a fraction of |Z|
    raw: tuple[str, ...] = ()  # as typed
    source: str = ""
    measured_on: str = ""

    def __post_init__(self) -> None:
        lengths = {len(self.frequency_hz), len(self.real), len(self.imag), len(self.known)}
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
) -> LoadState:
    """A load's impedance at frequencies of shape (n,), by the rule of this module; nominal where unknown.

    Parameters
    ----------
    hot : Characterisation, optional
        The same load measured hot; counts at frequencies where both tables have a measured or interpolated value.
    heat : float, optional
        How hot it is, 0 to 1; somewhere between where it isn't said.
    """
    frequencies = np.atleast_1d(frequency_hz)
    rows = [_at(table, float(f), nominal_ohm) for f in frequencies]
    columns = list(zip(*(row[:4] for row in rows), strict=True))
    r, x, ur, ux = (np.array(column, float) for column in columns)
    shifts = [_hot_shift(hot, float(f), nominal_ohm, row) for f, row in zip(frequencies, rows, strict=True)]
    dr, dx = (np.array(column, float) for column in zip(*shifts, strict=True))
    known, footing = tuple(row[4] for row in rows), tuple(row[5] for row in rows)
    if heat is None:
        return LoadState(r, x, ur, ux, known, footing, dr, dx)
    return LoadState(r, x, ur, ux, known, footing, dr, dx, heat, 0.0)


def _hot_shift(hot: Characterisation | None, f: float, nominal_ohm: float, cold: "_Row") -> tuple[float, float]:
    """What heat adds to R and X at a frequency; nothing where one of the tables doesn't reach it."""
    if hot is None or cold[5] not in (Footing.MEASURED, Footing.BETWEEN):
        return 0.0, 0.0
    row = _at(hot, f, nominal_ohm)
    if row[5] not in (Footing.MEASURED, Footing.BETWEEN) or row[4] is not cold[4]:
        return 0.0, 0.0
    return row[0] - cold[0], row[1] - cold[1]


_Row = tuple[float, float, float, float, Known, Footing]


def _at(table: Characterisation | None, f: float, nominal_ohm: float) -> _Row:
    if table is None or _outside_ratio(table, f) > HOLD_RATIO:
        u = NOMINAL_U_OHM * nominal_ohm / 50.0
        return nominal_ohm, 0.0, u, 0.0, Known.RESISTANCE, Footing.UNKNOWN
    span = table.frequency_hz
    above = bisect_left(span, f)
    for index in (above - 1, above):
        if 0 <= index < len(span) and abs(span[index] - f) <= 1e-6 * f:
            return _row(table, index, 0.0, Footing.MEASURED)
    if 0 < above < len(span):
        return _between(table, above, f)
    growth = HOLD_LIMIT * math.log(_outside_ratio(table, f)) / math.log(HOLD_RATIO) / math.sqrt(3.0)
    return _row(table, 0 if above == 0 else -1, growth, Footing.HELD)


def _outside_ratio(table: Characterisation, f: float) -> float:
    return max(table.frequency_hz[0] / f, f / table.frequency_hz[-1], 1.0)


def _row(table: Characterisation, index: int, extra_relative: float, footing: Footing) -> _Row:
    r, x, known = table.real[index], table.imag[index], table.known[index]
    u = math.hypot(table.u_relative, extra_relative) * abs(complex(r, x))
    return r, x, u, u if known in (Known.COMPLEX, Known.MAGNITUDE_SWR) else 0.0, known, footing


def _between(table: Characterisation, above: int, f: float) -> _Row:
    low, high = table.frequency_hz[above - 1], table.frequency_hz[above]
    t = (f - low) / (high - low)
    r_a, x_a, ur_a, ux_a, known_a, _ = _row(table, above - 1, 0.0, Footing.BETWEEN)
    r_b, x_b, ur_b, ux_b, known_b, _ = _row(table, above, 0.0, Footing.BETWEEN)
    bend = 0.5 * 4.0 * t * (1.0 - t) / math.sqrt(3.0)
    return (
        r_a + t * (r_b - r_a),
        x_a + t * (x_b - x_a),
        math.hypot(ur_a + t * (ur_b - ur_a), bend * (r_b - r_a)),
        math.hypot(ux_a + t * (ux_b - ux_a), bend * (x_b - x_a)),
        max(known_a, known_b, key=list(Known).index),
        Footing.BETWEEN,
    )
