"""Sums of a long record with sines, exactly, by blocks.

cos ω(t_b + τ) is a rotation of cos ωτ and sin ωτ: so one small table of sines serves every block, and the sums over a
million samples are matrix products instead of a million cosines.
"""

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]

BLOCK = 1024
"""Samples a block."""


@dataclass(frozen=True, eq=False)
class Normal:
    """Normal equations of a least-squares fit: XᵀX and Xᵀy, and the design's columns in order."""

    gram: FloatArray
    rhs: FloatArray


class Blocks:
    """A record of volts at even steps, ready for sums. Time runs in samples from the middle of the record."""

    def __init__(self, volts: FloatArray) -> None:
        self.size = volts.size
        whole = (volts.size // BLOCK) * BLOCK
        self.square = float(volts @ volts)
        pieces = [(volts[:whole].reshape(-1, BLOCK), 0)] if whole else []
        if whole < volts.size:
            pieces.append((volts[whole:].reshape(1, -1), whole))
        middle = (volts.size - 1) / 2.0
        self._pieces: list[tuple[FloatArray, FloatArray]] = []
        for rows, begin in pieces:
            count, length = rows.shape
            starts = begin + np.arange(count) * float(length) + (length - 1) / 2.0 - middle
            self._pieces.append((rows, np.asarray(starts, float)))

    def normal(self, omegas: tuple[float, ...], timed: bool = False) -> Normal:
        """Normal equations for cos and sin at each ω (radians a sample), then t·cos and t·sin of the first, then 1."""
        gram, rhs = 0.0, 0.0
        for rows, starts in self._pieces:
            local = _local(rows.shape[1], omegas, timed)
            turn = _turn(starts, omegas, timed)
            gram = gram + np.einsum("bij,jk,blk->il", turn, local.T @ local, turn, optimize=True)
            rhs = rhs + np.einsum("bij,bj->i", turn, rows @ local)
        return Normal(np.asarray(gram), np.asarray(rhs))

    def residual(self, omegas: tuple[float, ...], solution: FloatArray) -> FloatArray:
        """What is left of the record after the fit with cos and sin at each ω and 1; in the record's order."""
        left = []
        for rows, starts in self._pieces:
            local, turn = _local(rows.shape[1], omegas, False), _turn(starts, omegas, False)
            left.append((rows - np.einsum("i,bij->bj", solution, turn) @ local.T).ravel())
        return np.concatenate(left)


def _local(length: int, omegas: tuple[float, ...], timed: bool) -> FloatArray:
    """Columns over one block about its middle, shape (length, columns)."""
    tau = np.arange(length) - (length - 1) / 2.0
    columns = [wave(omega * tau) for omega in omegas for wave in (np.cos, np.sin)]
    if timed:
        columns += [tau * columns[0], tau * columns[1]]
    return np.array([*columns, np.ones(length)]).T


def _turn(starts: FloatArray, omegas: tuple[float, ...], timed: bool) -> FloatArray:
    """From the local to the global columns, for each block: shape (blocks, columns, columns)."""
    size = 2 * len(omegas) + (2 if timed else 0) + 1
    turn = np.zeros((starts.size, size, size))
    for place, omega in enumerate(omegas):
        _rotate(turn, 2 * place, 2 * place, np.cos(omega * starts), np.sin(omega * starts))
    if timed:
        first = 2 * len(omegas)
        cos, sin = np.cos(omegas[0] * starts), np.sin(omegas[0] * starts)
        _rotate(turn, first, first, cos, sin)
        _rotate(turn, first, 0, starts * cos, starts * sin)
    turn[:, -1, -1] = 1.0
    return turn


def _rotate(turn: FloatArray, row: int, column: int, cos: FloatArray, sin: FloatArray) -> None:
    turn[:, row, column], turn[:, row, column + 1] = cos, -sin
    turn[:, row + 1, column], turn[:, row + 1, column + 1] = sin, cos
