"""The envelope of a captured trace: of a modulated carrier, or of one that a detector already took.

A sine is fitted to each few cycles of the carrier (least squares at its frequency, with an offset); its amplitude is
the envelope there: no filter, so nothing rings at the record's ends. Page: docs/method/waveform.md.
"""

import math

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.waveform.capture import Channel
from fenmist.waveform.envelope import Envelope, envelope_of
from fenmist.waveform.sinefit import SHORTEST, largest_line_hz

FloatArray = NDArray[np.float64]

CYCLES = 4.0
"""Cycles of the carrier that a piece holds, and eight samples (Fenmist's own)."""

FEWEST = 8

LOOKED_AT, SOME = 16_384, 13
"""Samples in which the carrier's frequency is looked for, and each how manyth of a part tells how loud it is."""

ONE_SIDED = 0.1
"""A record that goes below zero by less than this share of its top is an envelope already (Fenmist's own)."""


def is_envelope(channel: Channel) -> bool:
    """True where a record is a detector's output: it stays on one side of zero."""
    low, high = float(channel.volts.min()), float(channel.volts.max())
    return high > 0.0 and low > -ONE_SIDED * high


def demodulated(channel: Channel, step_s: float) -> Envelope:
    """The envelope of a record.

    Parameters
    ----------
    channel : Channel
        n samples, 16 or more: a modulated carrier, or its envelope (see `is_envelope`).
    step_s : float
        Seconds between them.

    Returns
    -------
    Envelope
        V; a sample for each four cycles of a carrier.

    Raises
    ------
    OutOfRangeError
        Where there is no carrier, or too few samples.
    """
    volts = channel.volts
    if is_envelope(channel):
        return envelope_of(np.maximum(volts, 0.0), step_s)
    loudest = _loudest(volts)
    if volts.size < SHORTEST or np.ptp(loudest) == 0.0:
        raise OutOfRangeError("There is no carrier in the record.", f"Capture {SHORTEST} samples or more of it.")
    omega = 2.0 * math.pi * largest_line_hz(loudest, step_s) * step_s
    size = min(max(math.ceil(CYCLES * 2.0 * math.pi / omega), FEWEST), volts.size)
    pieces = volts[: volts.size // size * size].reshape(-1, size)
    phase = omega * np.arange(size)
    design = np.array([np.cos(phase), np.sin(phase), np.ones(size)])
    solution = pieces @ np.ascontiguousarray(np.linalg.pinv(design)[:, :2])
    return envelope_of(np.hypot(solution[:, 0], solution[:, 1]), size * step_s)


def _loudest(volts: FloatArray) -> FloatArray:
    """The part of a long record with the most power, to find the carrier's frequency in."""
    if volts.size <= LOOKED_AT:
        return volts
    parts = volts[: volts.size // LOOKED_AT * LOOKED_AT].reshape(-1, LOOKED_AT)
    return np.asarray(parts[int(np.argmax(parts[:, ::SOME].var(axis=1)))])
