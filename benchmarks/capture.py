"""A million-sample capture, read and worked out, against a single least-squares sine fit by NumPy in the same run."""

import numpy as np

from benchmarks.clock import median_seconds
from fenmist.waveform.analysis import analyse
from fenmist.waveform.capture import channel_of
from fenmist.waveform.tracefile import capture_from_bytes

SAMPLES, STEP_S, FREQUENCY_HZ = 1_000_000, 1e-9, 14.2e6


def lines() -> list[str]:
    """Analysis against NumPy's fit, the file's reading, and growth."""
    volts = _volts(SAMPLES)
    ours = median_seconds(lambda: analyse(channel_of("CH1", volts), STEP_S, FREQUENCY_HZ), 5)
    theirs = median_seconds(lambda: _numpy_fit(volts), 5)
    tenth = _volts(SAMPLES // 10)
    small = median_seconds(lambda: analyse(channel_of("CH1", tenth), STEP_S, FREQUENCY_HZ), 5)
    times = np.arange(SAMPLES) * STEP_S
    text = "time,CH1\ns,V\n" + "\n".join(f"{t:.7g},{v:.5g}" for t, v in zip(times, volts, strict=True))
    reading = median_seconds(lambda: capture_from_bytes(text.encode(), "trace.csv"), 1)
    return [
        f"capture of a million samples, fit, harmonics, noise, rms, troubles: {1e3 * ours:.0f} ms; NumPy's one "
        f"three-parameter fit at a known frequency {1e3 * theirs:.0f} ms: {ours / theirs:.2f}x (aim 300 ms)",
        f"growth of that from a hundred thousand samples: {ours / small:.1f}x for 10x (aim linear)",
        f"reading it from {len(text) / 1e6:.0f} MB of CSV: {reading:.2f} s",
    ]


def _volts(samples: int) -> np.ndarray:
    t = np.arange(samples) * STEP_S
    noise = np.random.default_rng(1).standard_normal(samples)
    return np.asarray(np.round((50.0 * np.cos(2 * np.pi * FREQUENCY_HZ * t + 0.3) + 0.2 * noise) / 0.4) * 0.4)


def _numpy_fit(volts: np.ndarray) -> float:
    angle = 2 * np.pi * FREQUENCY_HZ * STEP_S * np.arange(volts.size)
    design = np.array([np.cos(angle), np.sin(angle), np.ones(volts.size)]).T
    (a, b, _), *_ = np.linalg.lstsq(design, volts, rcond=None)
    return float(np.hypot(a, b))
