"""What rooms draw of a point, each kind by its own drawing."""

from fenmist.procedures.page import Gaps, Picture, Rings
from fenmist.reports import gapsdrawing, ringdrawing, voicesdrawing
from fenmist.reports.voicesdrawing import WIDTH, Inks

PAPER = Inks()
"""Colours on paper."""


def height_of(picture: Picture) -> float:
    """Height of a drawing in the units of its width."""
    if isinstance(picture, Gaps):
        return gapsdrawing.height_of(picture)
    return ringdrawing.height_of(picture) if isinstance(picture, Rings) else voicesdrawing.height_of(picture)


def picture_svg(picture: Picture, inks: Inks = PAPER, width: float = WIDTH) -> str:
    """A drawing as SVG, so many units wide; the same for the same picture."""
    if isinstance(picture, Gaps):
        return gapsdrawing.gaps_svg(picture, inks, width)
    if isinstance(picture, Rings):
        return ringdrawing.rings_svg(picture, inks, width)
    return voicesdrawing.voices_svg(picture, inks, width)
