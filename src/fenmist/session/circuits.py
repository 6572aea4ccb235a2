"""Where the pieces of each design stand when it is drawn."""

import math
from collections.abc import Iterator

from fenmist.design.design import Design
from fenmist.design.shapes import Shape, Spot
from fenmist.procedures.page import Circuit, CircuitPiece
from fenmist.rf.circuit import BranchKind
from fenmist.units.display import plain, resistance

_UNITS = {BranchKind.CAPACITOR: "F", BranchKind.INDUCTOR: "H", BranchKind.TURNS: ""}

_Place = tuple[float, float, float, float]

_PIECES: dict[Shape, dict[str, _Place]] = {
    Shape.RESISTIVE_TAP: {"R1": (34, 8, 34, 30), "R2": (34, 30, 34, 52), "block": (66, 30, 84, 30)},
    Shape.TRANSFORMER_TAP: {"core": (34, 20, 48, 20), "L": (34, 36, 48, 36), "R2": (66, 28, 66, 52)},
    Shape.GAP_TAP: {"gap": (50, 8, 50, 30), "R2": (50, 30, 50, 52)},
    Shape.PI_PAD: {"shunt in": (24, 14, 24, 50), "series": (36, 14, 62, 14), "shunt out": (74, 14, 74, 50)},
    Shape.TEE_PAD: {"series in": (16, 14, 42, 14), "shunt": (50, 14, 50, 50), "series out": (58, 14, 84, 14)},
    Shape.L_PAD: {"series": (26, 14, 56, 14), "shunt": (68, 14, 68, 50)},
    Shape.DIVIDER: {"R1": (40, 8, 40, 30), "R2": (40, 30, 40, 52)},
    Shape.MISMATCH: {"R": (50, 14, 50, 48)},
    Shape.LOAD: {"R": (50, 14, 50, 48)},
    Shape.STAR: {"R in": (14, 30, 40, 30), "R out": (54, 14, 80, 14), "R second": (54, 46, 80, 46)},
    Shape.PAIR: {"R out": (40, 14, 72, 14), "R second": (40, 46, 72, 46)},
}
"""From where to where, in hundredths of the width and of 60 of the height."""

_WIRES: dict[Shape, tuple[_Place, ...]] = {
    Shape.RESISTIVE_TAP: ((8, 8, 92, 8), (34, 30, 66, 30), (84, 30, 92, 30)),
    Shape.TRANSFORMER_TAP: ((8, 8, 92, 8), (48, 20, 54, 20), (48, 36, 54, 36), (54, 20, 54, 36), (54, 28, 92, 28),
                            (34, 20, 28, 20), (34, 36, 28, 36), (28, 20, 28, 52)),
    Shape.GAP_TAP: ((8, 8, 92, 8), (50, 30, 92, 30)),
    Shape.PI_PAD: ((8, 14, 36, 14), (62, 14, 92, 14)),
    Shape.TEE_PAD: ((8, 14, 16, 14), (42, 14, 58, 14), (84, 14, 92, 14)),
    Shape.L_PAD: ((8, 14, 26, 14), (56, 14, 92, 14)),
    Shape.DIVIDER: ((8, 8, 40, 8), (40, 30, 92, 30)),
    Shape.MISMATCH: ((12, 14, 50, 14),),
    Shape.LOAD: ((12, 14, 50, 14),),
    Shape.STAR: ((8, 30, 14, 30), (40, 30, 48, 30), (48, 14, 48, 46), (48, 14, 54, 14), (48, 46, 54, 46),
                 (80, 14, 92, 14), (80, 46, 92, 46)),
    Shape.PAIR: ((8, 30, 30, 30), (30, 14, 30, 46), (30, 14, 40, 14), (30, 46, 40, 46), (72, 14, 92, 14),
                 (72, 46, 92, 46)),
}  # fmt: skip

_PORTS: dict[Shape, dict[str, tuple[float, float]]] = {
    Shape.RESISTIVE_TAP: {"in": (8, 8), "out": (92, 8), "side": (92, 30)},
    Shape.GAP_TAP: {"in": (8, 8), "out": (92, 8), "side": (92, 30)},
    Shape.TRANSFORMER_TAP: {"in": (8, 8), "out": (92, 8), "side": (92, 28)},
    Shape.PI_PAD: {"in": (8, 14), "out": (92, 14)},
    Shape.TEE_PAD: {"in": (8, 14), "out": (92, 14)},
    Shape.L_PAD: {"in": (8, 14), "out": (92, 14)},
    Shape.DIVIDER: {"in": (8, 8), "side": (92, 30)},
    Shape.MISMATCH: {"in": (12, 14)},
    Shape.LOAD: {"in": (12, 14)},
    Shape.STAR: {"in": (8, 30), "out": (92, 14), "second": (92, 46)},
    Shape.PAIR: {"in": (8, 30), "out": (92, 14), "second": (92, 46)},
}

_PASSED = ("block",)
"""Pieces in whose place a wire stands where they are left out."""

_TRIMS: dict[Shape, _Place] = {
    Shape.RESISTIVE_TAP: (58, 8, 58, 30), Shape.DIVIDER: (64, 8, 64, 30), Shape.PI_PAD: (36, 26, 62, 26),
}  # fmt: skip


def circuit_of(design: Design) -> Circuit:
    """A design as it is drawn, with the values and stacks it has."""
    made = ", ".join(f"{item.id} {value_of(design, item)}" for item in design.present)
    return Circuit(tuple(_pieces(design)), f"{design.shape}: {made}")


def value_of(design: Design, spot: Spot) -> str:
    """A piece's value as it is shown and typed."""
    value = design.values[spot.id]
    return resistance(value) if spot.kind is BranchKind.RESISTOR else plain(value, _UNITS[spot.kind], 4)


def _pieces(design: Design) -> Iterator[CircuitPiece]:
    shape = design.shape
    for place in _WIRES[shape]:
        yield CircuitPiece("", "wire", *place)
    for name, (x, y) in _PORTS[shape].items():
        yield CircuitPiece(name, "port", x, y, x, y, name, more=_plugged(design, name))
    for spot in design.present:
        x1, y1, x2, y2 = _PIECES[shape][spot.id]
        stack = design.stacks.get(spot.id)
        more = stack.said() if stack is not None and stack.piece is None else ""
        yield CircuitPiece(spot.id, str(spot.kind), x1, y1, x2, y2, _named(spot), value_of(design, spot), more)
        if y2 > 40.0 and x1 == x2:
            yield CircuitPiece("", "ground", x2, y2, x2, y2)
    if shape is Shape.TRANSFORMER_TAP:
        yield CircuitPiece("", "ground", 28, 52, 28, 52)
    for spot in design.layout.spots:
        if spot not in design.present and spot.id in _PASSED:
            yield CircuitPiece("", "wire", *_PIECES[shape][spot.id])
    if design.strays.trim_f > 0.0 and shape in _TRIMS:
        trim = plain(design.strays.trim_f, "F", 2)
        yield CircuitPiece("trim", "trim", *_TRIMS[shape], "trim wire", trim)


def _named(spot: Spot) -> str:
    return {"core": "N", "block": "C"}.get(spot.id, spot.id)


def _plugged(design: Design, port: str) -> str:
    ask = design.ask
    if port == "side":
        ohm = "nothing" if math.isinf(ask.sensor_ohm) else resistance(ask.sensor_ohm, 3)
        return ohm if ask.sensor_f <= 0.0 else f"{ohm}, {plain(ask.sensor_f, 'F', 3)}"
    if port == "out":
        return plain(ask.far_ohm if design.layout.far not in ("", design.layout.near) else ask.z0_ohm, "Ω", 3)
    return plain(ask.z0_ohm, "Ω", 3)
