"""Noise makes peak to peak too big: it takes the outermost of many samples.

The highest of N samples, taken at even phases of a sine with normal noise σ, lies below x with probability
Π Φ((x − cos φ)/σ) ≈ exp(−N·mean of Φc((x − cos φ)/σ)); its mean is integrated from there. Page: docs/method/noise.md.
"""

import numpy as np

SAMPLES_ON_SCREEN = 1000
"""Samples from which a screen's peak to peak is usually taken (common practice, no source)."""

_PHASES = np.cos(np.arange(2000) * (2.0 * np.pi / 2000.0))


def peak_to_peak_excess(noise_ratio: float, samples: int = SAMPLES_ON_SCREEN) -> float:
    """Relative amount by which noise lifts peak to peak on average.

    Parameters
    ----------
    noise_ratio : float
        Standard deviation of the noise over the sine's amplitude, 0 to 1.
    samples : int
        Samples looked at, over whole periods.

    >>> round(peak_to_peak_excess(0.01), 3)
    0.02
    """
    if noise_ratio <= 0.0:
        return 0.0
    from scipy.special import ndtr  # heavy: imported on first use

    levels = 1.0 + noise_ratio * np.linspace(-8.0, 8.0, 400)
    beyond = ndtr((_PHASES[:, None] - levels) / noise_ratio).mean(axis=0)
    above = 1.0 - np.exp(-samples * beyond)
    mean = levels[0] + np.trapezoid(above, levels)
    return float(max(mean - 1.0, 0.0))
