"""A captured trace as values: channels of volts at even steps, and what its file said about them."""

import math
from dataclasses import field

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import UnknownIdError
from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Channel:
    """One trace: its name and its samples in volts, shape (n,)."""

    name: str
    volts: FloatArray
    step_v: float = 0.0  # smallest difference between two samples; 0 where all are the same


@dataclass(frozen=True, eq=False)
class Capture:
    """What a file holds."""

    name: str  # of the file
    sha256: str  # of its bytes
    step_s: float  # between samples
    channels: tuple[Channel, ...]
    said: dict[str, str] = field(default_factory=dict)  # further lines of its header
    assumed: tuple[str, ...] = ()  # what the file didn't say and was taken

    @property
    def samples(self) -> int:
        """Samples in each channel."""
        return self.channels[0].volts.size

    def channel(self, name: str) -> Channel:
        """A channel by name; raises UnknownIdError."""
        for item in self.channels:
            if item.name == name:
                return item
        known = ", ".join(item.name for item in self.channels)
        raise UnknownIdError(f"{self.name} has no channel “{name}”.", f"It has {known}.")


def channel_of(name: str, volts: FloatArray) -> Channel:
    """A channel with the step of its digitiser, as its values show it.

    Parameters
    ----------
    name : str
        As the file calls it.
    volts : array, shape (n,)
        Samples in V.
    """
    levels = np.unique(volts[:20_000])
    steps = np.diff(levels)
    steps = steps[steps > 1e-9 * max(float(np.ptp(volts)), 1e-300)]
    return Channel(name, volts, float(steps.min()) if steps.size else 0.0)


def trace_columns(volts: FloatArray, columns: int) -> tuple[FloatArray, FloatArray]:
    """Lowest and highest value in each of at most so many columns of pixels, for drawing; one shape.

    Parameters
    ----------
    volts : array, shape (n,)
        Samples.
    columns : int
        Pixels across, 1 or more.

    Returns
    -------
    tuple of arrays
        Lowest and highest in each column, in V.
    """
    size = math.ceil(volts.size / columns)
    padded = np.concatenate([volts, np.full(-volts.size % size, volts[-1])]).reshape(-1, size)
    return np.asarray(padded.min(axis=1)), np.asarray(padded.max(axis=1))
