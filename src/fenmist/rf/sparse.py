"""Small equations with few numbers that aren't zero, at many frequencies (or trials) at once.

What is joined port by port or node by node is nearly a tree: each unknown has few others to do with. Gauss's
elimination on what isn't zero, always the unknown next that has the fewest others, takes all frequencies together; the
rows aren't exchanged for larger pivots, so where one is small nothing is given, and the whole matrix is to be solved.
"""

import numpy as np
from numpy.typing import NDArray

ComplexArray = NDArray[np.complex128]

MANY = 64
"""Frequencies from which that is quicker than solving whole matrices (measured)."""

SMALL_PIVOT = 1e-6
"""Of the largest number beside it: below, digits would be lost that pivots which are chosen keep."""


def eliminated(rows: dict[int, dict[int, ComplexArray]], right: ComplexArray) -> ComplexArray | None:
    """The unknowns, or none where a pivot is too small.

    Parameters
    ----------
    rows : dict of dict of arrays (n,)
        By unknown (0, 1, ...), what stands in its equation by unknown; used up.
    right : array, shape (unknowns, k, n)
        Right sides; used up.

    Returns
    -------
    array, shape (unknowns, k, n), or none
    """
    asking = {place: {other for other, row in rows.items() if place in row} - {place} for place in rows}
    order: list[int] = []
    while len(order) < len(rows):
        place = min(rows.keys() - set(order), key=lambda place: len(asking[place]) * len(rows[place]))
        order.append(place)
        pivot = rows[place].pop(place, None)
        if pivot is None or any(np.any(_size(pivot) < SMALL_PIVOT * _size(item)) for item in rows[place].values()):
            return None
        if not np.all(_size(pivot) > 0.0):
            return None
        own = rows[place] = {other: value / pivot for other, value in rows[place].items()}
        right[place] /= pivot
        for asks in asking[place]:
            row = rows[asks]
            times = row.pop(place)
            for other, value in own.items():
                row[other] = row[other] - times * value if other in row else -times * value
                asking[other].add(asks)
            right[asks] -= times * right[place]
        for other in own:
            asking[other] -= {place, other}
    for place in reversed(order):
        for other, value in rows[place].items():
            right[place] -= value * right[other]
    return right


def _size(values: ComplexArray) -> NDArray[np.float64]:
    """Roughly how large complex numbers are."""
    return np.abs(values.real) + np.abs(values.imag)
