"""Where the parts of a hook-up are drawn: the line from left to right, what hangs on it in rows beneath.

One layout for the window and for paper; they differ in measures only. Lengths are in the drawing's own unit.
"""

from collections.abc import Callable, Mapping

from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp, branches, main_line
from fenmist.kit.part import Part


@dataclass(frozen=True)
class Measures:
    """Lengths of one drawing."""

    across: float  # room from left to right
    margin: float
    top: float  # of the line's boxes
    box: float  # height of a box
    drop: float  # from one row of boxes to the next
    least_gap: float
    most_gap: float
    side_gap: float  # between what hangs on one port


@dataclass(frozen=True)
class Box:
    """An element where it is drawn; row 0 is the line."""

    element: str
    x: float
    y: float
    width: float
    height: float
    row: int

    @property
    def right(self) -> float:
        """Its right edge."""
        return self.x + self.width

    @property
    def middle(self) -> float:
        """Half-way across."""
        return self.x + self.width / 2.0


@dataclass(frozen=True)
class Hanging:
    """What hangs on one side port, from the port outwards, and where its wire leaves the line."""

    element: str
    port: str
    x: float
    boxes: tuple[Box, ...]


@dataclass(frozen=True)
class Layout:
    """All of it; `loose` is joined to nothing that begins at the source."""

    line: tuple[Box, ...]
    hanging: tuple[Hanging, ...]
    loose: tuple[Box, ...]
    height: float

    @property
    def boxes(self) -> tuple[Box, ...]:
        """All boxes, the line first."""
        return (*self.line, *(box for item in self.hanging for box in item.boxes), *self.loose)


def lay_out(hookup: HookUp, parts: Mapping[str, Part], wanted: Callable[[Part], float], measures: Measures) -> Layout:
    """Place every element; `wanted` is the width a part would like."""
    widths = {item.id: wanted(parts[item.part]) for item in hookup.elements}
    line = _row(main_line(hookup, parts), widths, measures)
    drops = _drops(hookup, parts, line)
    tried = [_hung(order, widths, measures) for order in (drops, drops[::-1])]
    hanging, ends = min(tried, key=lambda item: _crossings(item[0]))  # from the left where both are as good
    placed = {box.element for box in line} | {box.element for item in hanging for box in item.boxes}
    rest = [item.id for item in hookup.elements if item.id not in placed]
    loose = _beneath(rest, widths, measures.margin, ends, measures) if rest else ()
    rows = max((box.row for item in hanging for box in item.boxes), default=0)
    rows = max([rows, *(box.row for box in loose)])
    return Layout(line, hanging, loose, measures.top + measures.box + rows * measures.drop)


def _drops(
    hookup: HookUp, parts: Mapping[str, Part], line: tuple[Box, ...]
) -> list[tuple[float, str, str, tuple[str, ...]]]:
    """Where what hangs leaves the line, from the left: place, element, port, and what hangs there."""
    by_name, found, met = {box.element: box for box in line}, [], {box.element for box in line}
    for (element, port), names in branches(hookup, parts).items():
        at = by_name.get(element)
        if at is None or not names or met & set(names):
            continue
        sides = [item.id for item in parts[hookup.element(element).part].side_ports]
        found.append((at.x + at.width * (sides.index(port) + 1) / (len(sides) + 1), element, port, names))
        met |= set(names)
    return sorted(found)


def _hung(
    drops: list[tuple[float, str, str, tuple[str, ...]]], widths: Mapping[str, float], measures: Measures
) -> tuple[tuple[Hanging, ...], dict[int, float]]:
    """What hangs, placed in this order, and how far to the right each row is taken."""
    ends: dict[int, float] = {}
    made = tuple(
        Hanging(element, port, x, _beneath(names, widths, x, ends, measures)) for x, element, port, names in drops
    )
    return made, ends


def _crossings(hanging: tuple[Hanging, ...]) -> int:
    """How many wires run behind a box on their way down."""
    boxes = [box for item in hanging for box in item.boxes]
    return sum(
        box.row < item.boxes[0].row and box.x <= item.x <= box.right for item in hanging for box in boxes
    )  # fmt: skip


def _row(names: tuple[str, ...], widths: Mapping[str, float], measures: Measures) -> tuple[Box, ...]:
    room, gaps = measures.across - 2.0 * measures.margin, max(len(names) - 1, 1)
    total = sum(widths[name] for name in names)
    scale = min(1.0, max(room - measures.least_gap * gaps, 0.25 * room) / total) if total else 1.0
    gap = max(min((room - total * scale) / gaps, measures.most_gap), 4.0)
    made, x = [], measures.margin
    for name in names:
        made.append(Box(name, x, measures.top, widths[name] * scale, measures.box, 0))
        x += widths[name] * scale + gap
    return tuple(made)


def _beneath(
    names: tuple[str, ...] | list[str],
    widths: Mapping[str, float],
    at: float,
    ends: dict[int, float],
    measures: Measures,
) -> tuple[Box, ...]:
    """A row beneath the line, as near to `at` as what hangs already leaves room."""
    gaps = measures.side_gap * (len(names) - 1)
    room = measures.across - 2.0 * measures.margin - gaps
    scale = min(1.0, room / sum(widths[name] for name in names))
    total = gaps + scale * sum(widths[name] for name in names)
    x = max(min(at - scale * widths[names[0]] / 2.0, measures.across - measures.margin - total), measures.margin)
    row = next((number for number in range(1, 99) if x >= ends.get(number, 0.0)), 1)
    made = []
    for name in names:
        y = measures.top + row * measures.drop
        made.append(Box(name, x, y, widths[name] * scale, measures.box, row))
        x += widths[name] * scale + measures.side_gap
    ends[row] = x
    return tuple(made)
