"""The eye in front of a simulated instrument: reads a needle to a part of its division, a screen to its digits."""

import math

import numpy as np


def read_needle(shown: float, division: float, part: float, random: np.random.Generator) -> float:
    """A needle at `shown`, misjudged by up to `part` of a division either way and noted to that fineness."""
    step = division * part
    judged = shown + random.uniform(-0.5, 0.5) * step
    return round(judged / step) * step


def read_screen(shown: float, digits: int, noise: float, random: np.random.Generator) -> str:
    """A value on a screen to so many digits, with relative noise (standard deviation) before it is read."""
    value = shown * (1.0 + noise * random.standard_normal())
    decimals = max(digits - 1 - math.floor(math.log10(abs(value))), 0)
    return f"{value:.{decimals}f}"
