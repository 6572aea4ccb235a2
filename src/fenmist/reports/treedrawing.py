"""What a result leans on as a drawing: a tree from the device to each certificate, the weakest link marked."""

from collections.abc import Iterator

from fenmist.procedures.page import Tree, Twig
from fenmist.reports.strokes import Inks, dot, line, sheet, text

LEFT, TOP, ROW, STEP = 18.0, 20.0, 40.0, 34.0


def height_of(picture: Tree) -> float:
    """Height of the drawing in the units of its width."""
    return TOP + ROW * len(picture.twigs) + 24.0


def tree_svg(picture: Tree, inks: Inks, width: float) -> str:
    """The drawing as SVG, so many units wide; the same for the same picture."""
    return sheet(_body(picture, inks), inks, width, height_of(picture))


def _body(picture: Tree, inks: Inks) -> Iterator[str]:
    yield dot(LEFT, TOP - 4.0, 4.0, inks.teal)
    yield text(LEFT + 12.0, TOP, picture.root, inks.ink)
    last = {0: TOP - 4.0}  # where the line of each depth begins
    for row, twig in enumerate(picture.twigs):
        y = TOP + ROW * (row + 1) - 8.0
        x, from_y = LEFT + STEP * (twig.depth - 1), last.get(twig.depth - 1, TOP)
        yield line(x, from_y + 6.0, x, y, inks.hairline, 1.5)
        yield line(x, y, x + STEP - 8.0, y, inks.hairline, 1.5)
        yield from _twig(twig, x + STEP, y, inks)
        last[twig.depth] = y


def _twig(twig: Twig, x: float, y: float, inks: Inks) -> Iterator[str]:
    ink = inks.rust if twig.is_loose or twig.is_weakest else inks.teal
    yield dot(x, y, 4.0, ink)
    label = ", ".join(filter(None, (twig.label, twig.until))) + (": the weakest link" if twig.is_weakest else "")
    yield text(x + 12.0, y + 1.0, label, inks.ink)
    yield text(x + 12.0, y + 15.0, twig.under, inks.rust if twig.is_loose else inks.second)
