"""What each piece of a design takes at full power, and on an open or shorted line.

The line's far end is taken as matched, and then as reflecting all, at any distance: what comes back turns through all
phases and the worst is kept. A piece's rise is an estimate: a resistor on its leads is taken to follow its final warmth
in 20 s (Fenmist's own, no source; small ones are quicker, large ones slower). Page: docs/method/designer.md.
"""

import math
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from fenmist.design.design import Design
from fenmist.design.response import sensor
from fenmist.design.shapes import PADS, TAPS, Shape
from fenmist.frozen import dataclass
from fenmist.hookup.heat import HeatModel
from fenmist.hookup.levels import PHASES
from fenmist.rf.circuit import GROUND, Branch, BranchKind, SolvedCircuit, solve_circuit

ComplexArray = NDArray[np.complex128]

DERATING = 0.5
"""Part of a resistor's rating that is used: it sits in a closed box, among others (common practice)."""

COOLING_S = 20.0
"""Time constant of a small resistor on its leads (Fenmist's own, no source)."""

PASSED = (*TAPS, Shape.DIVIDER)
"""Shapes that the line goes past."""

LOOKED_AT = 24
"""Frequencies of the band at which the worst is looked for."""


@dataclass(frozen=True)
class Strain:
    """What one piece takes: W, and V rms across it; planned, and on a line that reflects all."""

    id: str  # "R1.2", "block"
    spot: str  # "R1"
    label: str  # "820 Ω"
    is_resistor: bool
    power_w: float
    volts: float
    fault_w: float
    fault_volts: float
    rated_w: float | None = None
    rated_volts: float | None = None

    @property
    def used(self) -> float | None:
        """Power over the rating; none where nobody says what that is."""
        return None if self.rated_w is None else self.power_w / self.rated_w

    def rise(self, seconds: float) -> float | None:
        """How warm after a key-down from cold, as a part of what the rating allows for ever."""
        return None if self.rated_w is None else HeatModel(self.rated_w, math.inf, COOLING_S).after(
            0.0, self.power_w, seconds
        )  # fmt: skip


@dataclass(frozen=True)
class PortStrain:
    """What a connector is put to: W into what is plugged in, V rms; planned, and on a line that reflects all."""

    port: str
    power_w: float
    volts: float
    fault_volts: float


def strains(design: Design) -> tuple[Strain, ...]:
    """Each piece at the power that is asked for, the worst in the band; raises as `solve_circuit` does."""
    return tuple(_strains(design, _driven(design)))


def port_strains(design: Design) -> tuple[PortStrain, ...]:
    """Each connector; raises as `solve_circuit` does."""
    work, layout, ask = _driven(design), design.layout, design.ask
    named = {layout.near: "in", layout.side: "side", layout.second: "second", layout.far: "out"} | {layout.near: "in"}
    ohms = {layout.side: ask.sensor_ohm, layout.far: _far_ohm(design), layout.second: ask.z0_ohm}
    found = []
    for node in dict.fromkeys(name for name in (layout.near, layout.far, layout.side, layout.second) if name):
        planned, fault = (float(np.max(np.abs(work.across(design.node(node), GROUND, waves)))) for waves in work.both)
        power = ask.power_w if node == layout.near else planned**2 / ohms[node]
        found.append(PortStrain(named[node], power, planned, fault))
    return tuple(found)


@dataclass(frozen=True, eq=False)
class _Work:
    """The circuit with its waves in √W: planned, and with everything reflected at any distance."""

    solved: SolvedCircuit
    planned: ComplexArray  # (1, n, p)
    fault: ComplexArray  # (phases, n, p)

    @property
    def both(self) -> tuple[ComplexArray, ComplexArray]:
        """Planned, then the worst of both."""
        return self.planned, np.concatenate([self.planned, self.fault])

    def across(self, a: str, b: str, waves: ComplexArray) -> ComplexArray:
        """Volts between nodes."""
        return self.solved.between(a, b, waves)


def _driven(design: Design) -> _Work:
    """With one port where the line comes from, and one where it goes on, if it does."""
    ask, layout = design.ask, design.layout
    f = np.geomspace(ask.low_hz, ask.high_hz, LOOKED_AT)
    goes_on = bool(layout.far) or layout.gives_to_volts  # a divider hangs on a line that ends somewhere
    far = layout.far or layout.near
    pieces = [*design.branches(), *sensor(design)]
    if layout.second:
        pieces.append(Branch("end second", BranchKind.RESISTOR, (layout.second, GROUND), ask.z0_ohm))
    solved = solve_circuit(pieces, [design.node(layout.near), *([design.node(far)] if goes_on else [])], f, ask.z0_ohm)
    s, sent = solved.scattering, np.full(f.size, math.sqrt(ask.power_w), complex)
    if not goes_on:
        planned = sent[None, :, None]
        return _Work(solved, planned, planned)
    if design.shape in PASSED:  # the power is what goes on to the line's end
        sent = sent / np.abs(s[:, 1, 0])

    def waves(gamma: ComplexArray) -> ComplexArray:
        back = gamma[:, None] * s[:, 1, 0] * sent / (1.0 - gamma[:, None] * s[:, 1, 1])
        return np.stack([np.broadcast_to(sent, back.shape), back], axis=-1)

    ohm = _far_ohm(design)
    return _Work(solved, waves(np.array([(ohm - ask.z0_ohm) / (ohm + ask.z0_ohm)], complex)), waves(PHASES))


def _far_ohm(design: Design) -> float:
    return design.ask.far_ohm if design.shape in PADS else design.ask.z0_ohm


def _strains(design: Design, work: _Work) -> Iterator[Strain]:
    for spot in design.present:
        if spot.kind is BranchKind.RESISTOR:
            pieces = [leaf.piece for leaf in design.stack(spot.id).leaves]
            for number, piece in enumerate(pieces, start=1):
                branch = next(item for item in work.solved.branches if item.id == f"{spot.id}.{number}")
                volts, worst = _volts(work, branch)
                yield Strain(
                    branch.id, spot.id, piece.label, True, volts**2 / piece.ohm, volts, worst**2 / piece.ohm, worst,
                    piece.power_w, piece.volts,
                )  # fmt: skip
        elif spot.kind is BranchKind.CAPACITOR:
            branch = next(item for item in work.solved.branches if item.id == spot.id)
            volts, worst = _volts(work, branch)
            yield Strain(spot.id, spot.id, spot.label, False, 0.0, volts, 0.0, worst)


def _volts(work: _Work, branch: Branch) -> tuple[float, float]:
    """Planned and worst, V rms."""
    a, b = branch.nodes[:2]
    planned, worst = (float(np.max(np.abs(work.across(a, b, waves)))) for waves in work.both)
    return planned, worst
