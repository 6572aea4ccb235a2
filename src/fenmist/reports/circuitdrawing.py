"""A circuit as a drawing, its values beside its pieces."""

from collections.abc import Iterator

from fenmist.procedures.page import Circuit, CircuitPiece
from fenmist.reports.strokes import Inks, centred, circle, dot, line, sheet, text

HEIGHT = 214.0
_DOWN = HEIGHT / 60.0
_BODY = 36.0
"""Length of a resistor's body; the rest of its way is wire."""


def height_of(_picture: Circuit) -> float:
    """Height of the drawing in the units of its width."""
    return HEIGHT


def circuit_svg(picture: Circuit, inks: Inks, width: float, with_values: bool = True) -> str:
    """The drawing as SVG, so many units wide; without values where they are typed over it."""
    return sheet(_body(picture, inks, width, with_values), inks, width, HEIGHT)


def value_place(piece: CircuitPiece, width: float) -> tuple[float, float]:
    """Left end and middle of a piece's value, in the units of the drawing."""
    x1, y1, x2, y2 = _ends(piece, width)
    if y1 == y2:
        return (x1 + x2) / 2.0 - 42.0, y1 + (26.0 if piece.kind == "capacitor" else -24.0)
    return x1 + 16.0, (y1 + y2) / 2.0


def _ends(piece: CircuitPiece, width: float) -> tuple[float, float, float, float]:
    across = width / 100.0
    return piece.x1 * across, piece.y1 * _DOWN, piece.x2 * across, piece.y2 * _DOWN


def _body(picture: Circuit, inks: Inks, width: float, with_values: bool) -> Iterator[str]:
    for piece in picture.pieces:
        ends = _ends(piece, width)
        yield from _DRAWN.get(piece.kind, _wire)(piece, ends, inks)
        if piece.value:
            yield from _named(piece, ends, inks, width, with_values)


def _named(
    piece: CircuitPiece, ends: tuple[float, float, float, float], inks: Inks, width: float, with_values: bool
) -> Iterator[str]:
    x1, y1, x2, y2 = ends
    x, y = value_place(piece, width)
    flat = y1 == y2
    if piece.kind == "trim":
        yield text(x2 + 14.0, (y1 + y2) / 2.0 + 4.0, f"{piece.name} {piece.value}", inks.rust)
        return
    if flat:
        yield text(x - 6.0, y + 4.0, piece.name, inks.second, "end")
    else:
        yield text(x1 - 16.0, (y1 + y2) / 2.0 + 4.0, piece.name, inks.second, "end")
    if with_values:
        yield text(x + 4.0, y + 4.0, piece.value, inks.ink)
    if piece.more:
        yield (
            centred((x1 + x2) / 2.0, y1 + 22.0, piece.more, inks.teal)
            if flat
            else text(x + 4.0, y + 22.0, piece.more, inks.teal)
        )


def _wire(_: CircuitPiece, ends: tuple[float, float, float, float], inks: Inks) -> Iterator[str]:
    yield line(*ends, inks.ink, 1.4)


def _resistor(_: CircuitPiece, ends: tuple[float, float, float, float], inks: Inks) -> Iterator[str]:
    x1, y1, x2, y2 = ends
    a, b = _inside(ends, _BODY)
    yield line(x1, y1, *a, inks.ink, 1.4)
    yield line(*b, x2, y2, inks.ink, 1.4)
    wide, high = abs(b[0] - a[0]) or 15.0, abs(b[1] - a[1]) or 15.0
    x, y = (a[0] + b[0] - wide) / 2.0, (a[1] + b[1] - high) / 2.0
    yield f'<rect x="{x:.1f}" y="{y:.1f}" width="{wide:.1f}" height="{high:.1f}" rx="2" fill="none" ' + (
        f'stroke="{inks.ink}" stroke-width="1.6"/>'
    )


def _capacitor(piece: CircuitPiece, ends: tuple[float, float, float, float], inks: Inks) -> Iterator[str]:
    x1, y1, x2, y2 = ends
    a, b = _inside(ends, 7.0)
    dash = "4 3" if piece.kind == "trim" else ""
    ink = inks.rust if piece.kind == "trim" else inks.ink
    yield line(x1, y1, *a, ink, 1.4, dash)
    yield line(*b, x2, y2, ink, 1.4, dash)
    across, down = (0.0, 11.0) if y1 == y2 else (11.0, 0.0)
    for x, y in (a, b):
        yield line(x - across, y - down, x + across, y + down, ink, 2.0)


def _coil(piece: CircuitPiece, ends: tuple[float, float, float, float], inks: Inks) -> Iterator[str]:
    x1, y1, x2, _ = ends
    turns, bow = 5, (x2 - x1) / 5.0
    arcs = "".join(f" a{bow / 2.0:.1f} {bow / 2.0:.1f} 0 0 1 {bow:.1f} 0" for _ in range(turns))
    yield f'<path d="M{x1:.1f} {y1:.1f}{arcs}" fill="none" stroke="{inks.ink}" stroke-width="1.6"/>'
    if piece.kind == "turns":
        yield line(x1, y1 + 5.0, x2, y1 + 5.0, inks.second, 1.2)


def _ground(_: CircuitPiece, ends: tuple[float, float, float, float], inks: Inks) -> Iterator[str]:
    x, y = ends[:2]
    for n, half in enumerate((11.0, 7.0, 3.0)):
        yield line(x - half, y + 4.0 * n, x + half, y + 4.0 * n, inks.ink, 1.4)


def _port(piece: CircuitPiece, ends: tuple[float, float, float, float], inks: Inks) -> Iterator[str]:
    x, y, *_ = ends
    yield circle(x, y, 6.0, inks.ink, 1.6)
    yield dot(x, y, 2.0, inks.ink)
    yield centred(x, y - 12.0, piece.name, inks.ink)
    if piece.more:
        yield centred(x, y + 22.0, piece.more, inks.second)


def _inside(ends: tuple[float, float, float, float], length: float) -> tuple[tuple[float, float], tuple[float, float]]:
    """Ends of a body of that length in the middle of a way along an axis."""
    x1, y1, x2, y2 = ends
    middle, whole = ((x1 + x2) / 2.0, (y1 + y2) / 2.0), abs(x2 - x1) + abs(y2 - y1)
    half = min(length, whole) / 2.0
    if y1 == y2:
        return (middle[0] - half, y1), (middle[0] + half, y1)
    return (x1, middle[1] - half), (x1, middle[1] + half)


_DRAWN = {
    "resistor": _resistor, "capacitor": _capacitor, "trim": _capacitor, "inductor": _coil, "turns": _coil,
    "ground": _ground, "port": _port,
}  # fmt: skip
