"""Designs that tests begin from."""

from dataclasses import replace

from fenmist.design.design import Ask, Design
from fenmist.design.shapes import Shape
from fenmist.design.stack import How, joined, one
from fenmist.design.stock import Piece
from fenmist.design.strays import NONE, USUAL, Strays

TAP_2460 = Design(Shape.RESISTIVE_TAP, Ask(), {"R1": 2460.0, "R2": 50.0}, strays=NONE)


def of_pieces(design: Design, **ask: float) -> Design:
    """The same, asked for otherwise."""
    return replace(design, ask=replace(design.ask, **ask))


def tap(strays: Strays = USUAL, **ask: float) -> Design:
    """Three 820 Ω in series and two 100 Ω across: 2 W and 0.5 W, 5 %."""
    r1 = joined(How.SERIES, [one(Piece(820.0, 0.05, 2.0))] * 3)
    r2 = joined(How.PARALLEL, [one(Piece(100.0, 0.05, 0.5))] * 2)
    return Design(Shape.RESISTIVE_TAP, Ask(**ask), stacks={"R1": r1, "R2": r2}, strays=strays)
