"""What is to be built: what was asked, the values that follow or were typed, the stacks that make them, and strays.

Values follow from closed forms; all that is said of the result comes from the circuit itself, solved by nodes with what
is plugged in. Page: docs/method/designer.md.
"""

import math
from collections.abc import Iterator, Mapping
from dataclasses import field, replace
from functools import cached_property
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from fenmist.design.shapes import LAYOUTS, Layout, Shape, Spot
from fenmist.design.stack import Stack, one
from fenmist.design.stock import Piece
from fenmist.design.strays import NONE, USUAL, Strays, ladder
from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.rf.circuit import GROUND, LEAST_H, LEAST_OHM, Branch, BranchKind
from fenmist.rf.pad import matching_pad, pi_pad, tee_pad

FloatArray = NDArray[np.float64]

VOLTS_ONLY = 10.0
"""Times Z0 from which what is plugged into a tap is looked at by volts: an oscilloscope, not a sensor of power."""


MOST_DB = 200.0
"""Coupling, loss or span beyond which nothing is left to be read (Fenmist's own, no source)."""


@dataclass(frozen=True)
class Ask:
    """What is wanted, and what it will be connected to."""

    target: float = 40.0  # dB, ratio of volts or SWR, by the shape; below 1 an SWR on the side of less than Z0
    z0_ohm: float = 50.0  # real, of the line
    far_ohm: float = 50.0  # of a pad's far side
    sensor_ohm: float = 50.0  # what hangs at the side; without end where nothing does
    sensor_f: float = 0.0  # its capacitance
    shunt_ohm: float = 50.0  # R2 of a tap or a divider; 0 for none
    power_w: float = 100.0  # on the line, at most
    keydown_s: float = 60.0  # how long at a time
    low_hz: float = 1.8e6
    high_hz: float = 54e6
    within_db: float = 0.5  # what may be lost or gained over the band; of an SWR, its own ratio
    winding_h: float = 0.6e-6  # A_L: inductance of one turn on the core
    block_f: float = 0.0  # in front of the sensor; 0 for none

    def __post_init__(self) -> None:
        """Raises OutOfRangeError where a number makes no sense."""
        above = {
            "Z0": self.z0_ohm, "The far side": self.far_ohm, "What is plugged in": self.sensor_ohm,
            "The power": self.power_w, "The time of a key-down": self.keydown_s, "The band's low end": self.low_hz,
            "What it holds within": self.within_db, "A_L": self.winding_h, "The target": self.target,
        }  # fmt: skip
        for name, value in above.items():
            if not value > 0.0:
                raise OutOfRangeError(f"{name} of {value:g} makes no sense.", "It lies above 0.")
        if self.within_db > MOST_DB:
            raise OutOfRangeError(f"Within {self.within_db:g} dB anything holds.", "Type for example 0.5 dB.")
        for name in ("Z0", "The far side", "What is plugged in"):
            if above[name] < LEAST_OHM:
                raise OutOfRangeError(f"{name} of {above[name]:g} Ω is a short.", "Type for example 50 Ω.")
        if self.winding_h < LEAST_H:
            raise OutOfRangeError(f"An A_L of {self.winding_h:g} H makes no sense.", "Type for example 600 nH.")
        if not self.low_hz < self.high_hz <= 10e9:
            raise OutOfRangeError("The band ends below where it begins.", "Type for example 1.8 MHz to 54 MHz.")
        for name, value in {"R2": self.shunt_ohm, "A capacitor": min(self.block_f, self.sensor_f)}.items():
            if not value >= 0.0:
                raise OutOfRangeError(f"{name} of {value:g} makes no sense.", "It is 0 or above.")
        if 0.0 < self.shunt_ohm < LEAST_OHM:
            raise OutOfRangeError(f"R2 of {self.shunt_ohm:g} Ω is a short.", "Type for example 50 Ω, or 0 for none.")

    @property
    def by_volts(self) -> bool:
        """Whether what is plugged in shows volts and takes no power."""
        return self.sensor_ohm > VOLTS_ONLY * self.z0_ohm

    @property
    def middle_hz(self) -> float:
        """Middle of the band, by ratio."""
        return math.sqrt(self.low_hz * self.high_hz)


@dataclass(frozen=True)
class Design:
    """One thing to be built."""

    shape: Shape
    ask: Ask = Ask()
    typed: Mapping[str, float] = field(default_factory=dict)  # values by piece that were typed in place
    stacks: Mapping[str, Stack] = field(default_factory=dict)  # what makes a resistor
    strays: Strays = USUAL
    factors: Mapping[str, FloatArray] = field(default_factory=dict)  # on single branches, one for each frequency

    @property
    def layout(self) -> Layout:
        """Its circuit."""
        return LAYOUTS[self.shape]

    @cached_property
    def wanted(self) -> Mapping[str, float]:
        """Values by piece, as they follow from what is asked, or as typed; in Ω, F, H or turns."""
        return MappingProxyType({**wanted_values(self.shape, self.ask), **self.typed})

    @cached_property
    def values(self) -> Mapping[str, float]:
        """The same as built: by the stack where there is one."""
        made = {name: stack.ohm for name, stack in self.stacks.items() if name in self.wanted}
        return MappingProxyType({**self.wanted, **made})

    def stack(self, name: str) -> Stack:
        """What makes a resistor: one of that very value where nothing was chosen."""
        return self.stacks.get(name) or one(Piece(self.values[name], 0.0))

    @property
    def resistors(self) -> tuple[Spot, ...]:
        """Those that are there."""
        return tuple(item for item in self.present if item.kind is BranchKind.RESISTOR)

    @property
    def present(self) -> tuple[Spot, ...]:
        """Pieces that aren't left out."""
        return tuple(item for item in self.layout.spots if not item.optional or self.values[item.id] > 0.0)

    @property
    def as_drawn(self) -> "Design":
        """The same without strays."""
        return replace(self, strays=NONE)

    def node(self, name: str) -> str:
        """A node's name; the one before a capacitor that is left out is the one behind it."""
        for item in self.layout.spots:
            if item.optional and item not in self.present and GROUND not in item.nodes and name == item.nodes[0]:
                return item.nodes[1]
        return name

    def branches(self) -> tuple[Branch, ...]:
        """The circuit with its strays, without what is plugged in; resistors by their pieces: `R1.1`, `R1.2`."""
        return tuple(
            replace(item, value=item.value * self.factors[item.id]) if item.id in self.factors else item
            for item in self._branches()
        )

    def _branches(self) -> Iterator[Branch]:
        strays, layout = self.strays, self.layout
        for item in self.present:
            nodes = tuple(self.node(name) for name in item.nodes)
            if item.kind is BranchKind.RESISTOR:
                yield from ladder(self.stack(item.id), nodes[0], nodes[1], item.id, strays)
            else:
                yield Branch(item.id, item.kind, nodes, self.values[item.id])
        if layout.output and strays.trim_f > 0.0:
            yield Branch("trim", BranchKind.CAPACITOR, (layout.near, self.node(layout.output)), strays.trim_f)
        if layout.output and strays.output_f > 0.0:
            yield Branch("output C", BranchKind.CAPACITOR, (self.node(layout.output), GROUND), strays.output_f)


def wanted_values(shape: Shape, ask: Ask) -> dict[str, float]:
    """Values of the pieces of a shape, in Ω, F, H or turns.

    Raises
    ------
    OutOfRangeError
        Where nothing makes what is asked.
    """
    z0, rp = ask.z0_ohm, _loaded(ask)
    if shape is Shape.RESISTIVE_TAP:
        ratio = 10.0 ** (_volts_db(ask) / 20.0)
        if not ratio > 1.0:
            raise OutOfRangeError(f"{ask.target:g} dB is no tap: it would be the line itself.", "Ask for more.")
        return {"R1": rp * (ratio - 1.0), "R2": _shunt(ask), "block": ask.block_f}
    if shape is Shape.TRANSFORMER_TAP:
        turns = max(float(round(10.0 ** (_volts_db(ask) / 20.0) * rp / z0)), 1.0)  # V_line over I·Rp/N
        return {"core": turns, "L": ask.winding_h * turns**2, "R2": ask.shunt_ohm}
    if shape is Shape.GAP_TAP:
        ratio = 10.0 ** (_volts_db(ask) / 20.0)
        if not ratio > 1.0:
            raise OutOfRangeError(f"{ask.target:g} dB is no tap: it would be the line itself.", "Ask for more.")
        omega = 2.0 * math.pi * ask.middle_hz
        return {"gap": 1.0 / (omega * rp * math.sqrt(ratio**2 - 1.0)), "R2": ask.shunt_ohm}
    if shape in (Shape.PI_PAD, Shape.TEE_PAD):
        made = (pi_pad if shape is Shape.PI_PAD else tee_pad)(ask.target, z0, ask.far_ohm)
        return dict(zip((item.id for item in LAYOUTS[shape].spots), made, strict=True))
    if shape is Shape.L_PAD:
        pad = matching_pad(z0, ask.far_ohm)
        if z0 < ask.far_ohm:
            raise OutOfRangeError("The higher impedance of an L pad is at its near side.", "Exchange the two.")
        return {"series": pad.series_ohm, "shunt": pad.shunt_ohm}
    if shape is Shape.DIVIDER:
        if not ask.target > 1.0:
            raise OutOfRangeError(f"A divider by {ask.target:g} divides nothing.", "Type for example 10.")
        return {"R1": rp * (ask.target - 1.0), "R2": _shunt(ask)}
    if shape is Shape.MISMATCH:
        return {"R": z0 * ask.target}
    if shape is Shape.LOAD:
        return {"R": z0}
    part = z0 / 3.0 if shape is Shape.STAR else z0
    return {item.id: part for item in LAYOUTS[shape].spots}


def _shunt(ask: Ask) -> float:
    if not ask.shunt_ohm > 0.0:
        raise OutOfRangeError("Without R2 nothing holds the output.", "Type R2, for example 50 Ω.")
    return ask.shunt_ohm


def _loaded(ask: Ask) -> float:
    """R2 with what is plugged in across it."""
    g = (1.0 / ask.shunt_ohm if ask.shunt_ohm > 0.0 else 0.0) + 1.0 / ask.sensor_ohm
    if not g > 0.0:
        raise OutOfRangeError("Nothing holds the output: no R2, and nothing is plugged in.", "Type one of the two.")
    return 1.0 / g


def _volts_db(ask: Ask) -> float:
    """The coupling asked for as a ratio of volts in dB: of power it is one only where the sensor is Z0."""
    if ask.target > MOST_DB:
        raise OutOfRangeError(f"{ask.target:g} dB leave nothing to be read.", "Type for example 40 dB.")
    return ask.target if ask.by_volts else ask.target - 10.0 * math.log10(ask.sensor_ohm / ask.z0_ohm)
