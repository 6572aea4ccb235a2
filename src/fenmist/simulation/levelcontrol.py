"""A simulated transmitter whose level control holds the crest: detector, capacitor and gain, stepped through time.

A batch of settings runs together. Stands apart from `waveform` and `methods.plateau`, which it tests.
"""

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]


def held(
    gains: FloatArray, voice: FloatArray, step_s: float, attack_s: FloatArray, release_s: FloatArray
) -> FloatArray:
    """Volts that leave it over time, for each setting of the gain; the crest that is held is 1.

    Parameters
    ----------
    gains : array, shape (n,)
        Volts of the drive over those of the voice.
    voice : array, shape (k,)
        Volts of the envelope, each held for a step.
    attack_s, release_s : array, shape (n,)
        Time constants with which the capacitor charges, and lets go.

    Returns
    -------
    array, shape (k, n)
    """
    control = np.zeros(gains.size)  # how far the gain is turned down, relative
    out = np.empty((voice.size, gains.size))
    for number, volts in enumerate(voice.tolist()):
        out[number] = gains * volts / (1.0 + control)
        over = np.maximum(gains * volts - 1.0, 0.0)
        rate = np.where(over > control, step_s / attack_s, step_s / release_s)
        control += np.minimum(rate, 1.0) * (over - control)
    return out
