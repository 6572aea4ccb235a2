"""Observations as inputs, a wave as detectors show it, levels at one frequency: what tests alone need."""

import math
from collections.abc import Mapping

import numpy as np
from numpy.typing import ArrayLike

from fenmist.hookup.levels import LevelPlan, line_levels
from fenmist.hookup.line import HookUp
from fenmist.kit.part import Part
from fenmist.uncertainty.influence import Inputs, influence
from fenmist.waveform.harmonics import Responds


def from_observations(names: Mapping[str, str], observations: ArrayLike, unit: str = "") -> Inputs:
    """Means of simultaneous observations as one ensemble of correlated inputs, at one point.

    Parameters
    ----------
    names : mapping
        Id and label of each input, in the order of the columns.
    observations : array, shape (times, inputs)
        Taken together, row by row; at least two rows.
    unit : str
        Unit shown with them.

    Notes
    -----
    JCGM 100:2008, 4.2 and 5.2.3: u = s/√n, r as observed, n − 1 degrees of freedom for all together.
    """
    data = np.asarray(observations, float)
    count = data.shape[0]
    matrix = np.corrcoef(data, rowvar=False)
    ids = list(names)
    made = tuple(
        influence(
            name, names[name], data[:, i].mean(), data[:, i].std(ddof=1) / math.sqrt(count),
            points=1, unit=unit, dof=count - 1, kind="A", basis=f"mean of {count}", ensemble="+".join(ids),
        )
        for i, name in enumerate(ids)
    )  # fmt: skip
    pairs = {(ids[i], ids[j]): float(matrix[i, j]) for i in range(len(ids)) for j in range(i)}
    return Inputs(made, pairs)


def volts_indicated(ratios: Mapping[int, float], phases: Mapping[int, float], responds: Responds) -> float:
    """Relative volts indicated, exactly, by looking at 7,200 samples of one period; phases in radians.

    For a fundamental cos ωt and harmonics h·cos(nωt + φ); 1 without harmonics.
    """
    angle = np.arange(7200) * (2.0 * np.pi / 7200.0)
    wave = np.cos(angle)
    for order, ratio in ratios.items():
        wave = wave + ratio * np.cos(order * angle + phases.get(order, 0.0))
    shown = {
        Responds.PEAK: wave.max(),
        Responds.PEAK_TO_PEAK: (wave.max() - wave.min()) / 2.0,
        Responds.AVERAGE: np.abs(wave).mean() * np.pi / 2.0,
        Responds.RMS: np.sqrt(2.0 * np.mean(wave**2)),
        Responds.FUNDAMENTAL: 1.0,
    }
    return float(shown[responds])


def level_plan(hookup: HookUp, parts: Mapping[str, Part], power_w: float, frequency_hz: float) -> LevelPlan:
    """Levels for `power_w` incident at the stated plane, at `frequency_hz`; raises UnknownIdError without a source."""
    return line_levels(hookup, parts, np.array([frequency_hz])).plan(parts, power_w)
