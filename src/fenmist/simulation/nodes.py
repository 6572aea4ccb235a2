"""A circuit as equations in phasors, solved as a whole: what every simulated bench is written in.

Unknowns have any hashable name: a voltage at a connector, a current into a part there, a node inside, a winding's
current. Each piece adds its own rows; nothing is eliminated by hand.
"""

import math
from collections.abc import Hashable, Mapping

import numpy as np

from fenmist.errors import OutOfRangeError

Terms = Mapping[Hashable, complex]
"""Factors of unknowns in one equation."""

LIGHT_M_S = 299_792_458.0
_NEPER_PER_DB = math.log(10.0) / 20.0


class Equations:
    """Rows of one linear system at one frequency in Hz, above 0."""

    def __init__(self, frequency_hz: float) -> None:
        if not frequency_hz > 0.0:
            raise OutOfRangeError(f"A bench can't be solved at {frequency_hz:g} Hz.", "Give a frequency above 0.")
        self.omega = 2.0 * math.pi * frequency_hz
        self._unknowns: dict[Hashable, int] = {}
        self._rows: list[tuple[Terms, complex]] = []

    def row(self, terms: Terms, right: complex = 0.0) -> None:
        """The sum of factors times unknowns is `right`."""
        for key in terms:
            self._unknowns.setdefault(key, len(self._unknowns))
        self._rows.append((terms, right))

    def chain(
        self,
        near: tuple[Hashable, Hashable],
        far: tuple[Hashable, Hashable],
        ohm: float,
        length_m: float,
        loss_db: float,
    ) -> None:
        """A length of uniform line by its chain matrix.

        Parameters
        ----------
        near, far : pair
            Names of the voltage and of the current into the line, at each end.
        ohm : float
            Its impedance.
        length_m : float
            In vacuum: the real length over the velocity factor.
        loss_db : float
            Matched, of the whole length.
        """
        (v1, i1), (v2, i2) = near, far
        grown = loss_db * _NEPER_PER_DB + 1j * self.omega * length_m / LIGHT_M_S
        cosh, sinh = np.cosh(grown), np.sinh(grown)
        self.row({v1: 1.0, v2: -cosh, i2: ohm * sinh})
        self.row({i1: 1.0, v2: -sinh / ohm, i2: cosh})

    def solved(self) -> dict[Hashable, complex]:
        """Every unknown."""
        size = len(self._unknowns)
        matrix, right = np.zeros((len(self._rows), size), complex), np.zeros(len(self._rows), complex)
        for number, (terms, value) in enumerate(self._rows):
            right[number] = value
            for key, factor in terms.items():
                matrix[number, self._unknowns[key]] += factor
        found = np.linalg.solve(matrix, right).tolist()
        return dict(zip(self._unknowns, found, strict=True))
