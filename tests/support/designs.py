"""Designs that tests begin from."""

from dataclasses import replace

from fenmist.design.design import Ask, Design
from fenmist.design.shapes import Shape
from fenmist.design.stack import How, joined, one
from fenmist.design.stock import Piece
from fenmist.design.strays import NONE, USUAL, Strays
from fenmist.procedures.page import Sweep, SweepLine

TAP_2460 = Design(Shape.RESISTIVE_TAP, Ask(), {"R1": 2460.0, "R2": 50.0}, strays=NONE)


def of_pieces(design: Design, **ask: float) -> Design:
    """The same, asked for otherwise."""
    return replace(design, ask=replace(design.ask, **ask))


def tap(strays: Strays = USUAL, **ask: float) -> Design:
    """Three 820 Ω in series and two 100 Ω across: 2 W and 0.5 W, 5 %."""
    r1 = joined(How.SERIES, [one(Piece(820.0, 0.05, 2.0))] * 3)
    r2 = joined(How.PARALLEL, [one(Piece(100.0, 0.05, 0.5))] * 2)
    return Design(Shape.RESISTIVE_TAP, Ask(**ask), stacks={"R1": r1, "R2": r2}, strays=strays)


MHZ = (1.0, 10.0, 100.0)
SWEEP = Sweep(
    "coupling", "dB",
    (SweepLine("designed", tuple(zip(MHZ, (40.0, 40.0, 41.0), strict=True))),
     SweepLine("more wire", tuple(zip(MHZ, (40.0, 39.5, 37.0), strict=True)), "beside"),
     SweepLine("measured", tuple(zip(MHZ, (40.1, 40.2, 39.0), strict=True)), "measured")),
    40.0, 0.5, 2.0, 50.0, ((1.0, 39.9, 40.3), (10.0, 40.0, 40.4), (100.0, 38.5, 39.5)), "said",
)  # fmt: skip
"""40 dB, held to 1 dB at the top, with too much wire and what was measured."""
