"""What rooms draw of a point, each kind by its own drawing."""

from fenmist.procedures.page import (
    Arrivals,
    Bend,
    Circuit,
    Course,
    Gaps,
    Marks,
    Picture,
    Rings,
    Spans,
    Stems,
    Sweep,
    Tree,
)
from fenmist.reports import (
    arrivalsdrawing,
    benddrawing,
    circuitdrawing,
    coursedrawing,
    gapsdrawing,
    marksdrawing,
    ringdrawing,
    spansdrawing,
    stemsdrawing,
    sweepdrawing,
    treedrawing,
    voicesdrawing,
)
from fenmist.reports.strokes import WIDTH, Inks

PAPER = Inks()
"""Colours on paper."""


def height_of(picture: Picture) -> float:
    """Height of a drawing in the units of its width."""
    match picture:
        case Bend():
            return benddrawing.height_of(picture)
        case Circuit():
            return circuitdrawing.height_of(picture)
        case Sweep():
            return sweepdrawing.height_of(picture)
        case Course():
            return coursedrawing.height_of(picture)
        case Tree():
            return treedrawing.height_of(picture)
        case Arrivals():
            return arrivalsdrawing.height_of(picture)
        case Spans():
            return spansdrawing.height_of(picture)
        case Gaps():
            return gapsdrawing.height_of(picture)
        case Rings():
            return ringdrawing.height_of(picture)
        case Stems():
            return stemsdrawing.height_of(picture)
        case Marks():
            return marksdrawing.height_of(picture)
        case _:
            return voicesdrawing.height_of(picture)


def picture_svg(picture: Picture, inks: Inks = PAPER, width: float = WIDTH, with_values: bool = True) -> str:
    """A drawing as SVG, so many units wide; the same for the same picture. A circuit's values may be typed over it."""
    match picture:
        case Bend():
            return benddrawing.bend_svg(picture, inks, width)
        case Circuit():
            return circuitdrawing.circuit_svg(picture, inks, width, with_values)
        case Sweep():
            return sweepdrawing.sweep_svg(picture, inks, width)
        case Course():
            return coursedrawing.course_svg(picture, inks, width)
        case Tree():
            return treedrawing.tree_svg(picture, inks, width)
        case Arrivals():
            return arrivalsdrawing.arrivals_svg(picture, inks, width)
        case Spans():
            return spansdrawing.spans_svg(picture, inks, width)
        case Gaps():
            return gapsdrawing.gaps_svg(picture, inks, width)
        case Rings():
            return ringdrawing.rings_svg(picture, inks, width)
        case Stems():
            return stemsdrawing.stems_svg(picture, inks, width)
        case Marks():
            return marksdrawing.marks_svg(picture, inks, width)
        case _:
            return voicesdrawing.voices_svg(picture, inks, width)
