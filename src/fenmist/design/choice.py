"""Which stacks make a design: what each resistor has to be and to bear, and the best there is for it."""

from dataclasses import replace

from fenmist.design.design import Design
from fenmist.design.shapes import Shape
from fenmist.design.stack import Ranked, Wanted, banks, search
from fenmist.design.stock import Stock
from fenmist.design.stress import DERATING, strains

BANKS = (Shape.LOAD, Shape.MISMATCH)
"""Shapes whose resistor takes all the power: many alike are tried, too."""


def wanted_of(design: Design, name: str) -> Wanted:
    """What a resistor of it has to be, and what it takes at full power; raises as `strains` does."""
    plain = replace(design, stacks={}).as_drawn
    strain = next(item for item in strains(plain) if item.spot == name)
    return Wanted(design.wanted[name], strain.power_w, strain.volts, DERATING)


def options(design: Design, name: str, stock: Stock) -> tuple[Ranked, ...]:
    """Stacks for a resistor, the best first; raises OutOfRangeError where the stock has nothing near it."""
    wanted = wanted_of(design, name)
    pieces = stock.around(wanted.ohm)
    found = search(wanted, pieces)
    if design.shape in BANKS and not (found and found[0].holds):
        return (*(item for item in banks(wanted, stock.around(wanted.ohm, 2.5)) if item.holds), *found)
    return found


def chosen(design: Design, stock: Stock) -> Design:
    """The design with the best stack for each of its resistors."""
    return replace(design, stacks={item.id: options(design, item.id, stock)[0].stack for item in design.resistors})
