"""Parts of any number of ports screwed together: the waves into every one of their ports.

What is joined is nearly a tree, so at many frequencies it is solved port by port, all frequencies together (`sparse`).
Few frequencies, and any at which a pivot all but vanishes (a part that resonates by itself), are solved whole.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from fenmist.rf.sparse import MANY, eliminated

ComplexArray = NDArray[np.complex128]


def join_waves(
    blocks: Sequence[ComplexArray], joints: Sequence[tuple[int, int]], put_in: Sequence[int] | None = None
) -> ComplexArray:
    """Incident waves at all ports of all parts for waves put in from outside.

    Parameters
    ----------
    blocks : sequence of arrays (n, p_i, p_i)
        Ports are counted through, part after part.
    joints : pairs of ports
        Screwed together; a port that stands in none is terminated in Z0, one joined to itself is open.
    put_in : ports, optional
        Where waves are put in, one after the other; every port in turn where left out.

    Returns
    -------
    array, shape (n, p, len(put_in))
        [., i, j]: the wave incident at port i for 1 √W put in at the j-th: a = (1 − J·S)⁻¹·c.
    """
    many = max(block.shape[0] for block in blocks)
    places = range(sum(block.shape[-1] for block in blocks)) if put_in is None else put_in
    found = _port_by_port(blocks, joints, places, many) if many >= MANY else None
    return _whole(blocks, joints, places, many) if found is None else found


def _mates(joints: Sequence[tuple[int, int]]) -> dict[int, int]:
    return {one: other for a, b in joints for one, other in ((a, b), (b, a))}


def _whole(
    blocks: Sequence[ComplexArray], joints: Sequence[tuple[int, int]], put_in: Sequence[int], many: int
) -> ComplexArray:
    mates, total = _mates(joints), sum(block.shape[-1] for block in blocks)
    matrix = np.broadcast_to(np.eye(total, dtype=complex), (many, total, total)).copy()
    begin = 0
    for block in blocks:
        size = block.shape[-1]
        for out in range(size):
            into = mates.get(begin + out)
            if into is not None:
                matrix[:, into, begin : begin + size] -= block[:, out, :]
        begin += size
    columns = np.zeros((many, total, len(put_in)), complex)
    columns[:, list(put_in), range(len(put_in))] = 1.0
    return np.linalg.solve(matrix, columns)


def _port_by_port(
    blocks: Sequence[ComplexArray], joints: Sequence[tuple[int, int]], put_in: Sequence[int], many: int
) -> ComplexArray | None:
    mates, total = _mates(joints), 0
    rows: dict[int, dict[int, ComplexArray]] = {}
    for block in blocks:
        for out in range(block.shape[-1]):
            into = mates.get(total + out)
            if into is not None:
                rows[into] = {total + int(k): -block[:, out, k] for k in np.flatnonzero(block[:, out].any(axis=0))}
        total += block.shape[-1]
    for port in range(total):
        row = rows.setdefault(port, {})
        row[port] = 1.0 + row.get(port, np.zeros(1, complex))
    waves = np.zeros((total, len(put_in), many), complex)
    waves[list(put_in), range(len(put_in))] = 1.0
    found = eliminated(rows, waves)
    return None if found is None else found.transpose(2, 0, 1)
