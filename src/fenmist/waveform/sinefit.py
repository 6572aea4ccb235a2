"""Least-squares sine fits after IEEE Std 1057: three parameters at a known frequency, four where it is sought.

Model y = a·cos ωt + b·sin ωt + c. The four-parameter fit is started from the record's spectrum, never from a guess:
begun 20 % off it would end in a wrong amplitude without a word. Page: docs/method/sinefit.md.
"""

import math

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.waveform.blocks import Blocks

FloatArray = NDArray[np.float64]

ITERATIONS = 30
"""Most steps of the four-parameter fit; it usually needs four."""

SHORTEST = 16
"""Samples below which nothing is fitted."""

SPECTRUM = 65_536
"""Samples of a long record whose spectrum is looked at: enough to begin from, the rest refines it."""


@dataclass(frozen=True)
class SineFit:
    """A fitted sine with standard uncertainties from its residual."""

    amplitude_v: float
    u_amplitude_v: float
    frequency_hz: float
    u_frequency_hz: float  # 0 where it was given
    phase_rad: float  # at the middle of the record, of a cosine
    offset_v: float
    residual_rms_v: float  # with the fit's degrees of freedom taken off
    samples: int
    step_s: float

    @property
    def periods(self) -> float:
        """Periods in the record."""
        return self.frequency_hz * self.step_s * self.samples

    @property
    def samples_per_period(self) -> float:
        """Samples in one period."""
        return 1.0 / (self.frequency_hz * self.step_s)

    @property
    def rms_v(self) -> float:
        """Rms volts of the fitted sine."""
        return self.amplitude_v / math.sqrt(2.0)


def fit_sine_at(volts: FloatArray, step_s: float, frequency_hz: float) -> SineFit:
    """Three-parameter fit (IEEE Std 1057-2017, 4.6.2 and annex, from memory).

    Parameters
    ----------
    volts : array, shape (n,)
        At even steps of `step_s` seconds.
    frequency_hz : float
        Known frequency, below half the sampling rate.

    Raises
    ------
    OutOfRangeError
        For fewer than 16 samples, a record of one value, or a frequency out of reach.
    """
    _check(volts, step_s)
    omega = 2.0 * math.pi * frequency_hz * step_s
    if not 0.0 < omega < math.pi:
        raise OutOfRangeError(
            f"A step of {step_s:.4g} s can't show {frequency_hz:.4g} Hz.", "Sample at more than twice the frequency."
        )
    return _finish(Blocks(volts), omega, step_s, math.inf)


def fit_sine(volts: FloatArray, step_s: float, start_hz: float | None = None) -> SineFit:
    """Four-parameter fit, begun at the largest line of the spectrum unless a start is given.

    Parameters
    ----------
    volts : array, shape (n,)
        Evenly sampled, V.
    step_s : float
        Seconds between samples, above 0.
    start_hz : float, optional
        Frequency to begin at.

    Raises
    ------
    OutOfRangeError
        As `fit_sine_at`, and where the fit finds no frequency.
    """
    _check(volts, step_s)
    if start_hz is None and volts.size > SPECTRUM:  # each fit is begun within half a bin of the next
        return fit_sine(volts, step_s, fit_sine(volts[:SPECTRUM], step_s).frequency_hz)
    blocks = Blocks(volts)
    begin = largest_line_hz(volts, step_s) if start_hz is None else start_hz
    omega, bin_width = 2.0 * math.pi * begin * step_s, 2.0 * math.pi / volts.size
    u_omega = math.inf
    for _ in range(ITERATIONS):
        omega, change, u_omega = _improved(blocks, omega)
        if not 0.25 * bin_width < omega < math.pi:
            raise OutOfRangeError("No sine fits this record.", "Is the carrier on, and is it in the record?")
        if abs(change) < 1e-12 * omega + 1e-3 * u_omega:
            return _finish(blocks, omega, step_s, u_omega)
    return _finish(blocks, omega, step_s, u_omega)


def largest_line_hz(volts: FloatArray, step_s: float) -> float:
    """Frequency of the largest line of the spectrum, between the bins by its neighbours (Hann window).

    Parameters
    ----------
    volts : array, shape (n,)
        Evenly sampled.
    step_s : float
        Seconds between samples, above 0.

    Returns
    -------
    float
        Hz.
    """
    power = windowed_power(volts)
    peak = int(np.argmax(power[1:])) + 1
    left, mid, right = (math.sqrt(float(power[min(max(k, 0), power.size - 1)])) for k in (peak - 1, peak, peak + 1))
    # for a Hann window the ratio of two neighbours gives the place between bins exactly
    side, step = (right, 1.0) if right > left else (left, -1.0)
    ratio = side / mid if mid > 0 else 0.0
    shift = step * (2.0 * ratio - 1.0) / (1.0 + ratio) if ratio > 0.5 else 0.0
    return max(peak + shift, 0.5) / (volts.size * step_s)


def windowed_power(volts: FloatArray) -> FloatArray:
    """Squared magnitude of the spectrum without DC, Hann window, shape (n//2 + 1,).

    Parameters
    ----------
    volts : array, shape (n,)
        Evenly sampled.

    Returns
    -------
    array, shape (n//2 + 1,)
        V², unscaled.
    """
    window = np.hanning(volts.size)
    return np.asarray(np.abs(np.fft.rfft((volts - volts.mean()) * window)) ** 2)


def _improved(blocks: Blocks, omega: float) -> tuple[float, float, float]:
    """One Gauss-Newton step: the new ω, the change, and ω's standard uncertainty."""
    normal = blocks.normal((omega,), timed=True)
    # columns: cos, sin, t·cos, t·sin, 1; the frequency's column is t·(b·cos − a·sin)
    keep = [0, 1, 4]
    a, b, _ = np.linalg.solve(normal.gram[np.ix_(keep, keep)], normal.rhs[keep])
    mix = np.zeros((4, 5))
    mix[0, 0] = mix[1, 1] = mix[3, 4] = 1.0
    mix[2, 2], mix[2, 3] = b, -a
    gram, rhs = mix @ normal.gram @ mix.T, mix @ normal.rhs
    scale = np.sqrt(np.diag(gram))
    inverse = np.linalg.inv(gram / np.outer(scale, scale)) / np.outer(scale, scale)
    solution = inverse @ rhs
    left = max(blocks.square - float(rhs @ solution), 0.0) / max(blocks.size - 4, 1)
    limit = math.pi / blocks.size  # half a bin at most: never jump to another line
    change = float(np.clip(solution[2], -limit, limit))
    return omega + change, change, math.sqrt(left * max(float(inverse[2, 2]), 0.0))


def _finish(blocks: Blocks, omega: float, step_s: float, u_omega: float) -> SineFit:
    normal = blocks.normal((omega,))
    a, b, c = np.linalg.solve(normal.gram, normal.rhs)
    left = blocks.residual((omega,), np.array([a, b, c]))
    free = blocks.size - (3 if math.isinf(u_omega) else 4)
    s = math.sqrt(float(left @ left) / max(free, 1))
    covariance = s**2 * np.linalg.inv(normal.gram)
    amplitude = math.hypot(a, b)
    slope = np.array([a, b, 0.0]) / amplitude if amplitude else np.array([1.0, 0.0, 0.0])
    u_hz = 0.0 if math.isinf(u_omega) else u_omega / (2.0 * math.pi * step_s)
    return SineFit(
        amplitude, math.sqrt(float(slope @ covariance @ slope)), omega / (2.0 * math.pi * step_s), u_hz,
        math.atan2(-b, a), float(c), s, blocks.size, step_s,
    )  # fmt: skip


def _check(volts: FloatArray, step_s: float) -> None:
    if volts.ndim != 1 or volts.size < SHORTEST:
        raise OutOfRangeError(
            f"A record of {volts.size} samples is too short to fit a sine.", f"Capture {SHORTEST} samples or more."
        )
    if not (math.isfinite(step_s) and step_s > 0):
        raise OutOfRangeError(f"A time step of {step_s:g} s makes no sense.", "It is above 0.")
    if not np.all(np.isfinite(volts)):
        place = int(np.argmax(~np.isfinite(volts)))
        raise OutOfRangeError(f"Sample {place + 1} is no finite number.", "Look at the file there.")
    if np.ptp(volts) == 0.0:
        raise OutOfRangeError("All samples are the same: there is no carrier in the record.", "Is the carrier on?")
