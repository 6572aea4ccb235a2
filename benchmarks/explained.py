"""Why a meter errs: all shapes held against readings, beside one inverse of their covariance in the same run."""

import numpy as np

from benchmarks.clock import median_seconds
from fenmist.methods.why import Readings, explained, readings

POINTS = (12, 300)
"""Readings of a small and of a large job; of more than can be looked at some are taken evenly."""


def lines() -> list[str]:
    """A line for each size."""
    return [_line(count) for count in POINTS]


def _line(count: int) -> str:
    covariance = 1e-4 + np.diag(np.full(count, 1e-4))
    seen = _seen(count, covariance)
    shapes = median_seconds(lambda: explained(seen), 9)
    inverse = median_seconds(lambda: np.linalg.inv(covariance), 99)
    return (
        f"why it errs, {count} readings: {1e3 * shapes:.1f} ms; their covariance inverted once {1e3 * inverse:.2f} ms: "
        f"{shapes / inverse:.0f}x (aim 100 ms at rest)"
    )


def _seen(count: int, covariance: np.ndarray) -> Readings:
    f = np.geomspace(1.8e6, 28e6, count)
    return readings(f, 50.0, -0.1 * (f / 28e6) ** 2, covariance, full_scale_w=200.0)
