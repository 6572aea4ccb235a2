"""The envelope of a modulated carrier over time, and what its power is: PEP, mean, crest.

Definitions (ITU Radio Regulations 1.157 to 1.159): peak envelope power is the average over one cycle of the carrier at
the crest of the envelope; mean power is averaged over a time that is long against the slowest modulation. With the
envelope a(t) in volts across R the power of a cycle is a²/(2R): so everything here is a ratio to that of the crest.
Page: docs/method/waveform.md.
"""

import math

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]

CREST_DB = 1.0
"""Within so much of its highest power an envelope is at its crest (Fenmist's own, no source)."""

CREST = 10.0 ** (-CREST_DB / 10.0)
"""The same as a ratio of powers."""


@dataclass(frozen=True)
class Moments:
    """What an envelope comes to over a long time."""

    mean: float  # mean power over PEP
    mean_volts: float  # mean of the envelope's volts over those of its crest
    crest_share: float  # part of the time within 1 dB of the crest

    @property
    def papr_db(self) -> float:
        """PEP over mean power, dB."""
        return max(-10.0 * math.log10(self.mean), 0.0)


@dataclass(frozen=True, eq=False)
class Envelope:
    """Volts of the envelope at even steps, each held for its step."""

    amplitude: FloatArray  # shape (n,), 0 or more: V, or relative to those of a set power
    step_s: float

    @property
    def seconds(self) -> float:
        """How long it lasts."""
        return self.amplitude.size * self.step_s

    @property
    def crest(self) -> float:
        """Highest volts."""
        return float(self.amplitude.max())

    @property
    def moments(self) -> Moments:
        """PEP, mean and crest, as time averages over the whole record."""
        relative = self.amplitude / self.crest
        power = relative**2
        return Moments(float(power.mean()), float(relative.mean()), float(np.mean(power >= CREST)))


def envelope_of(amplitude: FloatArray, step_s: float) -> Envelope:
    """An envelope that is one.

    Parameters
    ----------
    amplitude : array, shape (n,)
        Volts, 0 or more, at least one of them above 0.
    step_s : float
        Seconds from one to the next, above 0.

    Raises
    ------
    OutOfRangeError
        Names the first sample that is none.
    """
    if not (math.isfinite(step_s) and step_s > 0.0):
        raise OutOfRangeError(f"A time step of {step_s:g} s makes no sense.", "It is above 0.")
    wrong = ~np.isfinite(amplitude) | (amplitude < 0.0)
    if np.any(wrong):
        place = int(np.argmax(wrong))
        raise OutOfRangeError(
            f"Sample {place + 1} of the envelope is {amplitude[place]:.4g}.", "An envelope's volts are 0 or more."
        )
    if amplitude.size == 0 or not np.any(amplitude > 0.0):
        raise OutOfRangeError("The envelope is 0 throughout.", "Is there a carrier in the record?")
    return Envelope(np.asarray(amplitude, float), step_s)


def share_above(envelope: Envelope, db_over_mean: FloatArray) -> FloatArray:
    """Part of the time that the power is more than so many dB over its mean (the complementary distribution).

    Parameters
    ----------
    envelope : Envelope
        n samples.
    db_over_mean : array, shape (k,)
        Levels in dB over the mean power.

    Returns
    -------
    array, shape (k,)
        0 to 1.
    """
    power = np.sort(envelope.amplitude**2)
    levels = power.mean() * 10.0 ** (np.asarray(db_over_mean, float) / 10.0)
    return np.asarray(1.0 - np.searchsorted(power, levels, side="right") / power.size)
