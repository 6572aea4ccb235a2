"""A waveform that runs, with meters that move on it: a record repeated, fed to them piece by piece."""

import math
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from fenmist.waveform.movement import USUAL, Meter, Movement
from fenmist.waveform.shapes import Waveform

FloatArray = NDArray[np.float64]

RECORD_S = 20.0
"""About how long a record is before it repeats: whole periods of what has any."""

FINEST_S, COARSEST_S = 5e-5, 1e-3
"""Steps in which it runs: fine enough for tones as they are sent, coarse enough for a frame's time."""

LOOKED_BACK_S = 2.0
"""How much of the past is kept to be drawn."""

LEVELS = 40
"""Levels of the envelope that its time is counted in."""


class Running:
    """A waveform running from its beginning, 1 at its crest."""

    def __init__(self, waveform: Waveform, movements: Mapping[str, Movement] = USUAL) -> None:
        self.step_s = min(max(waveform.fine_s, FINEST_S), COARSEST_S)
        period = waveform.period_s
        repeats = 0.0 < period < math.inf
        seconds = math.ceil(RECORD_S / period) * period if repeats else RECORD_S
        record = waveform.envelope(min(seconds, 3.0 * RECORD_S), self.step_s)
        self._record = record.amplitude / record.crest
        self.meters = {name: Meter(movement) for name, movement in movements.items()}
        self.now_s = 0.0
        self._place = 0
        self._past = np.zeros(round(LOOKED_BACK_S / self.step_s))

    def advance(self, seconds: float) -> None:
        """Run on by so much."""
        count = max(round(seconds / self.step_s), 1)
        piece = np.take(self._record, np.arange(self._place, self._place + count), mode="wrap")
        self._place = (self._place + count) % self._record.size
        self.now_s += count * self.step_s
        self._past = np.concatenate([self._past, piece])[-self._past.size :]
        for meter in self.meters.values():
            meter.advance(piece, self.step_s)

    @property
    def shown(self) -> dict[str, float]:
        """What each meter shows now, over PEP."""
        return {name: meter.power for name, meter in self.meters.items()}

    def past(self, columns: int) -> tuple[FloatArray, FloatArray]:
        """Lowest and highest volts in so many even pieces of the time looked back, the latest last."""
        size = self._past.size // columns
        pieces = self._past[self._past.size - size * columns :].reshape(columns, size)
        return np.asarray(pieces.min(axis=1)), np.asarray(pieces.max(axis=1))

    def time_at_levels(self) -> FloatArray:
        """Share of the record's time at each of so many even levels of volts, lowest first; they sum to 1."""
        counts, _ = np.histogram(self._record, LEVELS, (0.0, 1.0))
        return np.asarray(counts / self._record.size)
