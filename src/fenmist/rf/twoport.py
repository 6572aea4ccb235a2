"""Parts as scattering matrices, plugged together: cascades of two-ports, and anything joined to anything.

Power waves at one real Z0. Two two-ports in a row: with d = 1/(1 − S22a·S11b), S21 = S21a·S21b·d, S12 = S12a·S12b·d,
S11 = S11a + S12a·S21a·S11b·d, S22 = S22b + S12b·S21b·S22a·d. Anything else: all waves of all parts at once, b = S·a
with a = J·b + c, J joining each port to its mate and c what is put in. Page: docs/method/network.md.
"""

from collections.abc import Sequence
from functools import reduce

import numpy as np
from numpy.typing import ArrayLike, NDArray

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]


def matrices(shape: tuple[int, ...], ports: int) -> ComplexArray:
    """Room for scattering matrices, shape (*shape, ports, ports): what is at one place of all lies together in memory.

    Whoever works on one element of many matrices after the other reads and writes it at a stretch.
    """
    return np.moveaxis(np.empty((ports, ports, *shape), complex), (0, 1), (-2, -1))


def cascade(first: ComplexArray, second: ComplexArray) -> ComplexArray:
    """Scattering matrix of two two-ports in a row, each of shape (..., 2, 2): port 2 meets the next one's port 1.

    Parameters
    ----------
    first, second : array, shape (..., 2, 2)
        Scattering matrices in one real reference impedance.

    Returns
    -------
    array, shape (..., 2, 2)
        Of the two in a row.
    """
    a11, a12, a21, a22 = first[..., 0, 0], first[..., 0, 1], first[..., 1, 0], first[..., 1, 1]
    b11, b12, b21, b22 = second[..., 0, 0], second[..., 0, 1], second[..., 1, 0], second[..., 1, 1]
    bounce = 1.0 / (1.0 - a22 * b11)
    made = np.empty(np.broadcast_shapes(first.shape, second.shape), complex)
    made[..., 0, 0] = a11 + a12 * a21 * b11 * bounce
    made[..., 0, 1] = a12 * b12 * bounce
    made[..., 1, 0] = a21 * b21 * bounce
    made[..., 1, 1] = b22 + b12 * b21 * a22 * bounce
    return made


def cascaded(blocks: Sequence[ComplexArray]) -> ComplexArray:
    """All of them in a row; needs one or more.

    Parameters
    ----------
    blocks : sequence of arrays, shape (..., 2, 2)
        One or more, in order.

    Returns
    -------
    array, shape (..., 2, 2)
        Of all in a row.
    """
    return reduce(cascade, blocks)


def matched_twoport(loss_db: ArrayLike, phase_rad: ArrayLike = 0.0) -> ComplexArray:
    """A reciprocal two-port without reflection, shape (..., 2, 2).

    Parameters
    ----------
    loss_db, phase_rad : array
        Loss in dB and phase in rad of the way through; shapes broadcast.

    Returns
    -------
    array, shape (..., 2, 2)
        Scattering matrix.
    """
    through = 10.0 ** (-np.asarray(loss_db, float) / 20.0) * np.exp(-1j * np.asarray(phase_rad, float))
    made = np.zeros((*np.shape(through), 2, 2), complex)
    made[..., 0, 1] = made[..., 1, 0] = through
    return made


def uniform_line(line_ohm: ArrayLike, theta_rad: ArrayLike, loss_db: ArrayLike, z0_ohm: float = 50.0) -> ComplexArray:
    """A length of line of any real impedance, shape (..., 2, 2).

    Parameters
    ----------
    line_ohm, theta_rad, loss_db : array
        Its impedance in Ω, electrical length in radians, and matched loss; shapes broadcast.
    z0_ohm : float
        Real reference impedance in Ω.

    Notes
    -----
    With γl = αl + jθ and z = Zc/Z0: S21 = 2/(2·cosh γl + (z + 1/z)·sinh γl), S11 = (z − 1/z)·sinh γl over the same.

    >>> [float(value.round(3)) for value in abs(uniform_line(100.0, np.pi / 2, 0.0)[:, 0])]  # a quarter wave of 100 Ω
    [0.6, 0.8]
    """
    grown = np.exp(np.asarray(loss_db, float) * np.log(10.0) / 20.0 + 1j * np.asarray(theta_rad, float))
    cosh, sinh = (grown + 1.0 / grown) / 2.0, (grown - 1.0 / grown) / 2.0
    z = np.asarray(line_ohm, float) / z0_ohm
    below = 2.0 * cosh + (z + 1.0 / z) * sinh
    made = matrices(below.shape, 2)
    made[..., 0, 0] = made[..., 1, 1] = (z - 1.0 / z) * sinh / below
    made[..., 0, 1] = made[..., 1, 0] = 2.0 / below
    return made


def seen_reflection(block: ComplexArray, far: ArrayLike) -> ComplexArray:
    """Γ at port 1 of a two-port (..., 2, 2) that ends in Γ `far`: S11 + S12·S21·Γ/(1 − S22·Γ).

    Parameters
    ----------
    block : array, shape (..., 2, 2)
        Scattering matrix.
    far : array, shape (...,)
        Γ at its port 2.

    Returns
    -------
    array, shape (...,)
        Γ at its port 1.
    """
    far = np.asarray(far, complex)
    return np.asarray(block[..., 0, 0] + block[..., 0, 1] * block[..., 1, 0] * far / (1.0 - block[..., 1, 1] * far))


def renormalised(block: ComplexArray, from_ohm: float, to_ohm: float) -> ComplexArray:
    """The same part, shape (..., p, p), stated at another real impedance at all its ports: (S − r)·(1 − r·S)⁻¹.

    Parameters
    ----------
    block : array, shape (..., p, p)
        Scattering matrix.
    from_ohm, to_ohm : float
        Real reference impedances in Ω, above 0.

    Returns
    -------
    array, shape (..., p, p)
        The same part in the other impedance.
    """
    if from_ohm == to_ohm:
        return block
    r = (to_ohm - from_ohm) / (to_ohm + from_ohm)
    eye = np.eye(block.shape[-1])
    turned = np.linalg.solve(np.swapaxes(eye - r * block, -1, -2), np.swapaxes(block - r * eye, -1, -2))
    return np.asarray(turned.swapaxes(-1, -2))
