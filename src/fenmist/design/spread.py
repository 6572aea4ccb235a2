"""What tolerance does to a design: the worst case, and how many of those that are built hold.

Every piece lies anywhere within its own limits, by itself (rectangular); looked at where strays don't count yet.
Page: docs/method/designer.md.
"""

from dataclasses import replace
from itertools import product

import numpy as np

from fenmist.design.design import Design, FloatArray
from fenmist.design.response import aim_db, respond
from fenmist.frozen import dataclass

DRAWS = 4000
SEED = 16


@dataclass(frozen=True)
class Spread:
    """Of the main figure about what is wanted, dB."""

    nominal_db: float
    low_db: float  # worst cases
    high_db: float
    u_db: float  # standard uncertainty
    share: float  # of those built, within what is asked


def spread(design: Design, draws: int = DRAWS, seed: int = SEED) -> Spread:
    """Worst case by corners of the stacks, the rest by drawing each piece.

    Parameters
    ----------
    design : Design
        Its strays are left out.
    draws : int
        Designs that are drawn.
    seed : int
        The same draws each time.
    """
    drawn = design.as_drawn
    aim, at = aim_db(design), design.ask.middle_hz
    nominal = float(respond(drawn, at).main_db[0]) - aim
    names = [item.id for item in design.resistors]
    corners = list(product((-1.0, 1.0), repeat=len(names)))
    ends = _off(drawn, {
        branch: np.array([1.0 + corner[place] * tolerance for corner in corners])
        for place, name in enumerate(names)
        for branch, tolerance in _pieces(design, name)
    }, len(corners)) - aim  # fmt: skip
    random = np.random.default_rng(seed)
    made = _off(drawn, {
        branch: 1.0 + tolerance * random.uniform(-1.0, 1.0, draws)
        for name in names
        for branch, tolerance in _pieces(design, name)
    }, draws) - aim  # fmt: skip
    within = float(np.mean(np.abs(made) <= design.ask.within_db))
    return Spread(nominal, float(np.min(ends)), float(np.max(ends)), float(np.std(made)), within)


def _pieces(design: Design, name: str) -> list[tuple[str, float]]:
    """Branches of a resistor with their tolerances."""
    leaves = design.stack(name).leaves
    return [(f"{name}.{number}", leaf.piece.tolerance) for number, leaf in enumerate(leaves, start=1)]


def _off(design: Design, factors: dict[str, FloatArray], count: int) -> FloatArray:
    return respond(replace(design, factors=factors), np.full(count, design.ask.middle_hz)).main_db
