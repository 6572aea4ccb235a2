"""A million-sample capture through four meters, against one pass of SciPy's lfilter over it in the same run."""

import numpy as np
from scipy import signal

from benchmarks.clock import median_seconds
from fenmist.waveform.capture import Channel
from fenmist.waveform.demodulate import demodulated
from fenmist.waveform.movement import USUAL, watched
from fenmist.waveform.running import Running
from fenmist.waveform.shapes import TwoTone
from fenmist.waveform.speech import Speech

SAMPLES, STEP_S, CARRIER_HZ = 1_000_000, 1e-5, 14.2e3
FRAME_S = 0.033


def lines() -> list[str]:
    """Demodulated and through all four, against a second-order low pass; a frame of the screen."""
    envelope = TwoTone(1.0, 50.0).envelope(SAMPLES * STEP_S, STEP_S).amplitude
    volts = envelope * np.cos(2.0 * np.pi * CARRIER_HZ * STEP_S * np.arange(envelope.size))
    b, a = signal.butter(2, 0.1)
    channel = Channel("A", volts)

    def ours() -> None:
        made = demodulated(channel, STEP_S)
        for movement in USUAL.values():
            watched(movement, made)

    mine, theirs = median_seconds(ours, 5), median_seconds(lambda: signal.lfilter(b, a, volts), 5)
    running = Running(Speech())
    frame = median_seconds(lambda: running.advance(FRAME_S), 20)
    return [
        f"capture of a million samples, its envelope and four meters on it: {1e3 * mine:.0f} ms; SciPy's lfilter over "
        f"it once {1e3 * theirs:.1f} ms: {mine / theirs:.1f}x (aim 3x)",
        f"a thirtieth of a second of four meters on speech: {1e3 * frame:.1f} ms of {1e3 * FRAME_S:.0f}",
    ]
