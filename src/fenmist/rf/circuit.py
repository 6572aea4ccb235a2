"""A small circuit between ports: what it does to waves, and the volts inside it.

Lumped resistors, capacitors and inductors, ideal transformers, uniform lines and ideal followers between named nodes;
"0" is ground. Each port stands on a node, against ground; several may share one (a tee is one node with three ports).
The circuit is solved by nodes with every port terminated in Z0, which is regular wherever the circuit means anything: a
through connection and an open end are no special cases. With Y the nodal matrix, B the ports' places and a the incident
waves in √W, V = Y⁻¹·B·2a/√Z0 and S = (2/Z0)·Bᵀ·Y⁻¹·B − 1 (real Z0). Page: docs/method/network.md.
"""

from collections.abc import Mapping, Sequence
from enum import StrEnum
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.rf.sparse import MANY, eliminated
from fenmist.rf.stub import SPEED_OF_LIGHT_M_S

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]

GROUND = "0"


class BranchKind(StrEnum):
    """What connects nodes."""

    RESISTOR = "resistor"  # value in Ω, nodes (a, b)
    CAPACITOR = "capacitor"  # F
    INDUCTOR = "inductor"  # H
    TURNS = "turns"  # ideal transformer, nodes (a, b, c, d): V(c, d) = value·V(a, b)
    LINE = "line"  # nodes (a, b) against ground, value is its impedance in Ω
    FOLLOWER = "follower"  # ideal source at c: V(c) = value·V(a, b), nodes (a, b, c)


@dataclass(frozen=True)
class Branch:
    """One piece of a circuit."""

    id: str
    kind: BranchKind
    nodes: tuple[str, ...]
    value: float | FloatArray  # one number, or one for each frequency
    length_m: ArrayLike = 0.0  # of a line, electrically: divided by its velocity factor
    loss_db: ArrayLike = 0.0  # of a line, matched, whole; one number or one for each frequency


LEAST_OHM, LEAST_H = 1e-6, 1e-12
"""Ω and H of a branch below which the admittances of all others are lost beside its own by rounding (above 1 kHz)."""


@dataclass(frozen=True, eq=False)
class SolvedCircuit:
    """A circuit at n frequencies with p ports."""

    scattering: ComplexArray  # (n, p, p)
    nodes: Mapping[str, int]
    solved: ComplexArray  # (n, nodes, p), V at each node for 1 A into a port
    z0_ohm: float
    branches: tuple[Branch, ...]

    @cached_property
    def volts(self) -> ComplexArray:
        """V rms at each node for 1 √W incident at a port, shape (n, nodes, p)."""
        return np.asarray(2.0 / np.sqrt(self.z0_ohm) * self.solved)

    def dissipated_w(self, incident: ComplexArray) -> dict[str, FloatArray]:
        """Power in each resistor, by branch id, for waves of shape (..., n, p) incident at the ports, in √W."""
        found = {}
        for branch in self.branches:
            if branch.kind is BranchKind.RESISTOR:
                across = self.between(branch.nodes[0], branch.nodes[1], incident)
                found[branch.id] = np.asarray(np.abs(across) ** 2 / branch.value)
        return found

    def between(self, a: str, b: str, incident: ComplexArray) -> ComplexArray:
        """Volts rms from node b to node a for those waves, shape (..., n)."""
        volts = np.zeros(incident.shape[:-1], complex)
        for name, sign in ((a, 1.0), (b, -1.0)):
            if name != GROUND:
                volts = volts + sign * np.einsum("...np,np->...n", incident, self.volts[:, self.nodes[name], :])
        return volts


def solve_circuit(
    branches: Sequence[Branch], ports: Sequence[str], frequency_hz: ArrayLike, z0_ohm: float = 50.0
) -> SolvedCircuit:
    """Scattering matrix and inner volts of a circuit.

    Parameters
    ----------
    branches : sequence of Branch
    ports : sequence of str
        The node on which each port stands, in port order; a node may stand there more than once.
    frequency_hz : array, shape (n,)

    Raises
    ------
    OutOfRangeError
        Where a node hangs free or a value makes no sense, so that there is no solution; names the circuit's nodes.
    """
    f = np.atleast_1d(np.asarray(frequency_hz, float))
    names = dict.fromkeys([*ports, *(node for item in branches for node in item.nodes)])
    names.pop(GROUND, None)
    nodes = {name: number for number, name in enumerate(names)}
    rows = len(nodes) + sum(_EXTRA.get(item.kind, 0) for item in branches)
    matrix = np.zeros((f.size, rows, rows), complex)
    stamp, free = _Stamp(matrix, nodes), len(nodes)
    for item in branches:
        stamp.put(item, f, free)
        free += _EXTRA.get(item.kind, 0)
    places = np.zeros((rows, len(ports)))
    for number, node in enumerate(ports):
        places[nodes[node], number] = 1.0
        matrix[:, nodes[node], nodes[node]] += 1.0 / z0_ohm
    solved = _by_unknown(matrix, places) if f.size >= MANY else None
    if solved is None:
        try:
            solved = np.linalg.solve(matrix, np.broadcast_to(places, (f.size, *places.shape)).astype(complex))
        except np.linalg.LinAlgError as error:
            raise OutOfRangeError(
                f"The circuit between {', '.join(nodes)} can't be solved.", "A node in it hangs free, or a value is 0."
            ) from error
    scattering = 2.0 / z0_ohm * solved[:, [nodes[node] for node in ports]] - np.eye(len(ports))
    return SolvedCircuit(scattering, nodes, solved[:, : len(nodes)], z0_ohm, tuple(branches))


def _by_unknown(matrix: ComplexArray, places: FloatArray) -> ComplexArray | None:
    """The same where a small pivot doesn't forbid it: a circuit has few branches at a node."""
    count = matrix.shape[-1]
    stands = np.any(matrix != 0, axis=0)
    rows = {row: {int(k): matrix[:, row, k] for k in np.flatnonzero(stands[row])} for row in range(count)}
    right = np.repeat(places[..., None], matrix.shape[0], axis=2).astype(complex)
    found = eliminated(rows, right)
    return None if found is None else found.transpose(2, 0, 1)


_EXTRA = {BranchKind.TURNS: 1, BranchKind.LINE: 2, BranchKind.FOLLOWER: 1}
"""Currents that a piece adds to the unknowns."""


@dataclass(frozen=True, eq=False)
class _Stamp:
    """Puts pieces into the nodal matrix."""

    matrix: ComplexArray
    nodes: Mapping[str, int]

    def put(self, item: Branch, f: FloatArray, free: int) -> None:
        omega = 2.0 * np.pi * f
        places = [self.nodes.get(name, -1) for name in item.nodes]
        if item.kind is BranchKind.TURNS:
            self._turns(places, np.asarray(item.value, float), free)
        elif item.kind is BranchKind.LINE:
            self._line(places, item, f, free)
        elif item.kind is BranchKind.FOLLOWER:
            self._follower(places, np.asarray(item.value, float), free)
        else:
            _check(item)
            made = _admittance(item, omega)
            for row, column, sign in ((0, 0, 1.0), (1, 1, 1.0), (0, 1, -1.0), (1, 0, -1.0)):
                self._add(places[row], places[column], sign * made)

    def _add(self, row: int, column: int, value: ComplexArray | FloatArray | float) -> None:
        if row >= 0 and column >= 0:
            self.matrix[:, row, column] += value

    def _turns(self, places: list[int], turns: FloatArray, free: int) -> None:
        """Unknown: the current into a and out of b."""
        one = np.ones(1)
        shares, factors = (one, -one, -1.0 / turns, 1.0 / turns), (-turns, turns, one, -one)
        for place, share, volts in zip(places, shares, factors, strict=True):
            self._add(place, free, share)
            self._add(free, place, volts)

    def _line(self, places: list[int], item: Branch, f: FloatArray, free: int) -> None:
        """Unknowns: the current into the line at a, and the current out of it at b."""
        theta, line = 2.0 * np.pi * f * np.asarray(item.length_m) / SPEED_OF_LIGHT_M_S, np.asarray(item.value, float)
        grown = np.exp(np.asarray(item.loss_db, float) * np.log(10.0) / 20.0 + 1j * theta)
        cosh, sinh = (grown + 1.0 / grown) / 2.0, (grown - 1.0 / grown) / 2.0
        a, b = places
        self._add(a, free, 1.0)
        self._add(b, free + 1, -1.0)
        self._add(free, a, 1.0)
        self._add(free, b, -cosh)
        self._add(free, free + 1, -line * sinh)
        self._add(free + 1, b, -sinh / line)
        self._add(free + 1, free + 1, -cosh)
        self._add(free + 1, free, 1.0)

    def _follower(self, places: list[int], gain: FloatArray, free: int) -> None:
        a, b, c = places
        self._add(c, free, -1.0)
        self._add(free, c, 1.0)
        self._add(free, a, -gain)
        self._add(free, b, gain)


def _admittance(item: Branch, omega: FloatArray) -> ComplexArray:
    value = np.asarray(item.value, float)
    if item.kind is BranchKind.RESISTOR:
        return np.full(omega.shape, 1.0 / value, complex)
    if item.kind is BranchKind.CAPACITOR:
        return np.asarray(1j * omega * value)
    return np.asarray(1.0 / (1j * omega * value))


def _check(item: Branch) -> None:
    lowest = float(np.min(item.value))
    if not lowest > 0:
        raise OutOfRangeError(f"{item.id} is {lowest:g}.", "A resistor, capacitor or inductor is above 0.")
