"""What rooms draw of a point, each kind by its own drawing."""

from fenmist.procedures.page import Bend, Course, Gaps, Marks, Picture, Rings, Stems
from fenmist.reports import (
    benddrawing,
    coursedrawing,
    gapsdrawing,
    marksdrawing,
    ringdrawing,
    stemsdrawing,
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
        case Course():
            return coursedrawing.height_of(picture)
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


def picture_svg(picture: Picture, inks: Inks = PAPER, width: float = WIDTH) -> str:
    """A drawing as SVG, so many units wide; the same for the same picture."""
    match picture:
        case Bend():
            return benddrawing.bend_svg(picture, inks, width)
        case Course():
            return coursedrawing.course_svg(picture, inks, width)
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
