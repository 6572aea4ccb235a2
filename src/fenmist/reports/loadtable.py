"""A load's table as texts: what was typed, and what it comes to."""

import numpy as np

from fenmist.calibration.edit import load_rows
from fenmist.calibration.gather import load_at, load_of
from fenmist.calibration.job import Job
from fenmist.kit.characterisation import LoadState
from fenmist.rf.reflection import reflection_from_impedance, swr_from_reflection
from fenmist.units.display import THIN, frequency, rounded
from fenmist.units.impedance import Known

LOAD_HEADINGS = ("frequency", "as shown", "hot", "R and X", "SWR", "stands on")
"""Columns of the table; the first three are typed."""


def load_table(job: Job, end: str = "") -> list[list[str]]:
    """Rows of texts, rising in frequency; of the load, or of another end by its part's id."""
    rows = load_rows(job, end) if end or load_of(job) is not None else []
    if not rows:
        return []
    _, state = load_at(job, np.array([row.frequency_hz for row in rows]), end)
    return [
        [frequency(row.frequency_hz), row.cold, row.hot, *_comes_to(state, index)] for index, row in enumerate(rows)
    ]


def _comes_to(state: LoadState, index: int) -> list[str]:
    r, x, known = float(state.resistance_ohm[index]), float(state.reactance_ohm[index]), state.known[index]
    if known is Known.MAGNITUDE:
        return [f"|Z| {r:.1f}{THIN}Ω", "", str(state.footing[index])]
    sign = "±" if known is Known.MAGNITUDE_SWR else "+" if x >= 0 else "−"
    shown = f"{rounded(r, 1)} {sign} j{rounded(abs(x), 1)}{THIN}Ω" if x else f"{rounded(r, 1)}{THIN}Ω"
    swr = float(swr_from_reflection(float(abs(reflection_from_impedance(complex(r, x))))))
    return [shown, f"{swr:.2f}", str(state.footing[index])]
