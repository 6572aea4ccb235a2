"""A design as a part of the kit: its pieces with their strays, what they are known to and what they bear.

Stacks and strays stay a ladder of pieces, so that level plan, transfer and budget follow the design; strays are known
to half. Once it was measured, coupling or S-parameters go with it and count instead. Page: docs/method/designer.md.
"""

import math
from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np

from fenmist.design.design import Design
from fenmist.design.proof import Proof
from fenmist.design.response import SEEN_FROM_HZ, SEEN_TO_HZ, holds
from fenmist.design.shapes import ENDS, PADS, TAPS, Shape
from fenmist.design.stack import Leaf
from fenmist.design.stress import DERATING, strains
from fenmist.errors import OutOfRangeError
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.network import COUPLING
from fenmist.kit.part import Component, Part, PartKind, Port, Property, SpecKind, SpecTerm
from fenmist.kit.tables import with_tables
from fenmist.kit.touchstone import Touchstone, characterisations_from
from fenmist.rf.circuit import GROUND, Branch, BranchKind

STRAY_KNOWN_TO = 0.5
"""± part of a stray that nobody measured (common practice, no source)."""

WINDING_KNOWN_TO = 0.3
"""± part of a winding's inductance and of a gap (common practice, no source)."""

_KINDS = {
    **dict.fromkeys(TAPS, PartKind.TAP), **dict.fromkeys(PADS, PartKind.ATTENUATOR), Shape.DIVIDER: PartKind.DIVIDER,
    Shape.MISMATCH: PartKind.MISMATCH, Shape.LOAD: PartKind.LOAD, Shape.STAR: PartKind.TAP, Shape.PAIR: PartKind.TAP,
}  # fmt: skip


def part_of(design: Design, part_id: str, label: str) -> Part:
    """What goes on the shelf; raises OutOfRangeError where the circuit has no solution."""
    ports = _ports(design)
    if design.shape in ENDS:
        stack = design.stack("R")
        spec = SpecTerm(SpecKind.OF_READING, stack.tolerance, basis=_basis(stack.is_measured))
        ohm = Property(stack.ohm, "Ω", spec if stack.tolerance > 0.0 else None)
        return Part(
            part_id, _KINDS[design.shape], label, ports=ports, properties={"nominal_ohm": ohm}, remarks=made_of(design)
        )
    names = {"in": ports[0].id, "side": ports[-1].id, "second": ports[-1].id, GROUND: GROUND}
    return Part(
        part_id, _KINDS[design.shape], label, ports=ports, components=tuple(_components(design, names)),
        remarks=made_of(design),
    )  # fmt: skip


def made_of(design: Design) -> str:
    """ "R1: 3 × 820 Ω in series; R2: 2 × 100 Ω in parallel"."""
    return "; ".join(f"{item.id}: {design.stack(item.id).said()}" for item in design.resistors)


def bears_w(design: Design) -> float | None:
    """Power on the line at which the first piece is at what is used of its rating; none where a rating isn't known."""
    each = [
        item.rated_w / item.power_w
        for item in strains(design)
        if item.is_resistor and item.rated_w and item.power_w > 0
    ]
    known = len(each) == sum(1 for item in strains(design) if item.is_resistor)
    return design.ask.power_w * DERATING * min(each) if known and each else None


def with_proof(part: Part, design: Design, proof: Proof, file: Touchstone, source: str, day: str) -> Part:
    """The part as it was measured: S-parameters of all its ports, else its coupling.

    Raises
    ------
    OutOfRangeError
        Where the file doesn't say what the kit can take of such a part.
    """
    u_db = proof.expanded_u_db / 2.0
    if file.ports == len(part.ports):
        relative = float(np.median(u_db)) * np.log(10.0) / 20.0
        return with_tables(part, characterisations_from(file, source, day, relative))
    if not part.side_ports or design.shape not in TAPS:
        raise OutOfRangeError(
            f"{source} has {file.ports} ports, {part.label} has {len(part.ports)}.", "Measure it at all of its ports."
        )
    table = Characterisation(
        COUPLING, COUPLING, tuple(map(float, proof.frequency_hz)), tuple(map(float, proof.measured_db)), source=source,
        measured_on=day, unit="dB", u=tuple(map(float, u_db)), termination_ohm=proof.z0_ohm,
    )  # fmt: skip
    return with_tables(part, (table,))


def _ports(design: Design) -> tuple[Port, ...]:
    span = None if design.shape is Shape.GAP_TAP else holds(design)  # a gap's slope is known everywhere
    bears = bears_w(design)
    bears = None if bears is None else _figures(bears, math.floor)
    low = _figures(max(span.low_hz, SEEN_FROM_HZ), math.ceil) if span else None  # as far as was looked
    high = _figures(min(span.high_hz, SEEN_TO_HZ), math.floor) if span else None
    if design.shape in ENDS:
        return (Port("in", "", low, high, power_limit_w=bears),)
    if design.shape is Shape.DIVIDER:
        return (Port("a", "", low, high), Port("b"))
    line = [Port(name, "", low, high, power_limit_w=bears) for name in ("in", "out")]
    if design.shape in PADS:
        return (line[0], replace(line[1], power_limit_w=None))  # what it bears from its far side isn't looked at
    return (*line, Port("side", "", low, high, side=True))


def _figures(value: float, to: Callable[[float], int]) -> float:
    """To two figures, on the safe side: nobody knows a rating or a stray's corner better."""
    step = 10.0 ** (math.floor(math.log10(value)) - 1)
    return float(f"{to(value / step) * step:.6g}")


def _components(design: Design, names: dict[str, str]) -> Iterator[Component]:
    leaves = {
        f"{item.id}.{number}": leaf
        for item in design.resistors
        for number, leaf in enumerate(design.stack(item.id).leaves, start=1)
    }
    for branch in design.branches():
        nodes = tuple(names.get(node, node) for node in branch.nodes)
        yield _piece(branch, nodes, leaves[branch.id]) if branch.id in leaves else _other(branch, nodes)


def _piece(branch: Branch, nodes: tuple[str, ...], leaf: Leaf) -> Component:
    piece = leaf.piece
    limit = piece.power_w * DERATING if piece.power_w is not None else None
    if piece.is_measured:
        u = piece.tolerance * piece.ohm / 3.0**0.5
        return Component(branch.id, branch.kind, nodes, piece.ohm, piece.ohm, None, u, limit, piece.label)
    spec = SpecTerm(SpecKind.OF_READING, piece.tolerance, basis=_basis(False)) if piece.tolerance > 0.0 else None
    return Component(branch.id, branch.kind, nodes, piece.ohm, None, spec, 0.0, limit, piece.label)


def _other(branch: Branch, nodes: tuple[str, ...]) -> Component:
    if branch.kind is BranchKind.TURNS:
        return Component(branch.id, branch.kind, nodes, float(branch.value))
    is_own = branch.id in ("L", "gap", "block")
    share = WINDING_KNOWN_TO if is_own else STRAY_KNOWN_TO
    spec = SpecTerm(SpecKind.OF_READING, share, basis="common practice")
    return Component(branch.id, branch.kind, nodes, float(branch.value), tolerance=spec)


def _basis(is_measured: bool) -> str:
    return "ohmmeter" if is_measured else "its tolerance"
