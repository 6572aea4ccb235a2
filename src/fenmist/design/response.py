"""What a design does over frequency, with all that is plugged in: its circuit solved by nodes, driven from each end.

Page: docs/method/designer.md.
"""

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from fenmist.design.design import Design
from fenmist.design.shapes import ENDS, PADS, SPLITTERS, TAPS, Shape
from fenmist.design.strays import NONE, Strays
from fenmist.frozen import dataclass
from fenmist.rf.circuit import GROUND, Branch, BranchKind, SolvedCircuit, solve_circuit
from fenmist.rf.reflection import swr_from_reflection

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]

FINE = 240
"""Frequencies at which a response is looked over."""

SEEN_TO_HZ = 3e9
"""Where a search for the high end stops: beyond it nothing here is lumped."""

SEEN_FROM_HZ = 1e3
"""Where it begins."""

MOST_TRIM_F = 3e-12
"""Longest trim wire that is tried."""


@dataclass(frozen=True, eq=False)
class Response:
    """At n frequencies; arrays of shape (n,), none where there is no such thing."""

    frequency_hz: FloatArray
    main_db: FloatArray  # coupling, loss, ratio of volts in dB; of an end its SWR as a ratio in dB
    swr: FloatArray  # seen from the near end, all else in place
    through_db: FloatArray | None = None  # of a tap: from the near end to the far one
    swr_far: FloatArray | None = None
    reverse_db: FloatArray | None = None  # the main figure driven from the far end
    second_db: FloatArray | None = None  # of a splitter: to its other output
    isolation_db: FloatArray | None = None  # between its outputs


def respond(design: Design, frequency_hz: ArrayLike) -> Response:
    """What it does at frequencies of shape (n,) in Hz; raises OutOfRangeError where the circuit has no solution."""
    f = np.atleast_1d(np.asarray(frequency_hz, float))
    layout, ask = design.layout, design.ask
    near = Driven(design, f, layout.near)
    swr = near.swr
    if layout.gives_to_volts:
        return Response(f, _db(near.volts(layout.near), near.volts(layout.side)), swr)
    if not layout.far:
        return Response(f, 20.0 * np.log10(swr), swr)
    far = Driven(design, f, layout.far)
    if design.shape in TAPS:
        scale = 0.0 if ask.by_volts else 10.0 * math.log10(ask.sensor_ohm / ask.z0_ohm)
        coupling = _db(near.volts(layout.far), near.volts(layout.side)) + scale
        reverse = _db(far.volts(layout.near), far.volts(layout.side)) + scale
        return Response(f, coupling, swr, near.loss_db(layout.far), far.swr, reverse)
    loss, reverse = near.loss_db(layout.far), far.loss_db(layout.near)
    if design.shape in SPLITTERS:
        return Response(f, loss, swr, None, far.swr, reverse, near.loss_db(layout.second), far.loss_db(layout.second))
    return Response(f, loss, swr, None, far.swr, reverse)


def _db(over: ComplexArray, under: ComplexArray) -> FloatArray:
    return np.asarray(20.0 * np.log10(np.abs(over) / np.abs(under)))


class Driven:
    """A design driven from one of its ends with 1 √W, everything else plugged in."""

    def __init__(self, design: Design, frequency_hz: FloatArray, end: str) -> None:
        self._design, self._end = design, end
        self._ohm = self._impedance(end)
        pieces = [*design.branches(), *self._plugged_in()]
        self.solved: SolvedCircuit = solve_circuit(pieces, [design.node(end)], frequency_hz, self._ohm)

    @property
    def swr(self) -> FloatArray:
        """Looking in, against that end's own impedance."""
        gamma = np.minimum(np.abs(self.solved.scattering[:, 0, 0]), 1.0 - 1e-9)
        return np.asarray(swr_from_reflection(gamma))

    def volts(self, node: str) -> ComplexArray:
        """At a node, V rms for 1 √W."""
        place = self._design.node(node)
        return self.solved.volts[:, self.solved.nodes[place], 0]

    def loss_db(self, end: str) -> FloatArray:
        """From what the source could give to what arrives at another end."""
        return np.asarray(-10.0 * np.log10(np.abs(self.volts(end)) ** 2 / self._impedance(end)))

    def _impedance(self, end: str) -> float:
        layout, ask = self._design.layout, self._design.ask
        is_far = end == layout.far and end != layout.near and self._design.shape in PADS
        return ask.far_ohm if is_far else ask.z0_ohm

    def _plugged_in(self) -> list[Branch]:
        layout = self._design.layout
        ends = [layout.near, layout.far, layout.second]
        if layout.far == layout.near or layout.gives_to_volts:
            ends = [layout.far if layout.far else ""]  # the line goes on where it is driven; volts are as they are
        elif self._end in ends:
            ends.remove(self._end)
        found = [
            Branch(f"end {end}", BranchKind.RESISTOR, (self._design.node(end), GROUND), self._impedance(end))
            for end in ends if end
        ]  # fmt: skip
        return [*found, *sensor(self._design)]


def sensor(design: Design) -> list[Branch]:
    """What hangs at the side."""
    ask, side = design.ask, design.layout.side
    found = []
    if side and math.isfinite(ask.sensor_ohm):
        found.append(Branch("sensor", BranchKind.RESISTOR, (side, GROUND), ask.sensor_ohm))
    if side and ask.sensor_f > 0.0:
        found.append(Branch("sensor C", BranchKind.CAPACITOR, (side, GROUND), ask.sensor_f))
    return found


def aim_db(design: Design) -> float:
    """What is wanted of the main figure, in dB."""
    shape, ask = design.shape, design.ask
    if shape in ENDS:
        return 20.0 * math.log10(max(ask.target, 1.0 / ask.target)) if shape is Shape.MISMATCH else 0.0
    if shape is Shape.DIVIDER:
        return 20.0 * math.log10(ask.target)
    if shape is Shape.STAR or shape is Shape.PAIR:
        return 20.0 * math.log10(2.0)
    if shape is Shape.L_PAD:
        return float(respond(replace(design, typed={}, stacks={}, strays=NONE), ask.low_hz).main_db[0])
    return ask.target


@dataclass(frozen=True)
class Span:
    """Where a design holds what is wanted, Hz."""

    low_hz: float  # 0 where no low end was found
    high_hz: float  # without end where no high end was found


def holds(design: Design) -> Span | None:
    """Where the main figure lies within what is asked, around the band's middle or, failing that, its low end.

    Returns
    -------
    Span or None
        None where it doesn't hold there.
    """
    f = np.geomspace(SEEN_FROM_HZ, SEEN_TO_HZ, 2 * FINE)
    aim, within = aim_db(design), design.ask.within_db

    def off(at: ArrayLike) -> FloatArray:
        return np.abs(respond(design, at).main_db - aim) - within

    inside = off(f) <= 0.0
    for begin in (design.ask.low_hz, design.ask.middle_hz):
        here = int(np.argmin(np.abs(np.log(f / begin))))
        if inside[here]:
            break
    else:
        return None
    below, above = np.flatnonzero(~inside[:here]), np.flatnonzero(~inside[here:])
    low = 0.0 if not below.size else _crossing(off, f[below[-1]], f[below[-1] + 1])
    high = math.inf if not above.size else _crossing(off, f[here + above[0] - 1], f[here + above[0]])
    return Span(low, high)


def _crossing(off: Callable[[ArrayLike], FloatArray], low: float, high: float) -> float:
    from scipy.optimize import brentq  # heavy: imported on first use

    return float(math.exp(brentq(lambda log: float(off(math.exp(log))[0]), math.log(low), math.log(high), xtol=1e-6)))


def worst_off_db(design: Design) -> float:
    """How far the main figure gets from what is wanted anywhere in the band, dB."""
    f = np.geomspace(design.ask.low_hz, design.ask.high_hz, FINE // 4)
    return float(np.max(np.abs(respond(design, f).main_db - aim_db(design))))


def trimmed(design: Design) -> Design:
    """The same with the trim wire that leaves least over the band; none where none helps."""
    from scipy.optimize import minimize_scalar  # heavy: imported on first use

    def with_wire(farad: float) -> Design:
        return replace(design, strays=replace(design.strays, trim_f=farad))

    def left(picofarad: float) -> float:
        return worst_off_db(with_wire(picofarad * 1e-12))

    tried = np.concatenate([[0.0], np.geomspace(0.003, MOST_TRIM_F * 1e12, 30)])
    best = int(np.argmin([left(float(value)) for value in tried]))
    if best == 0:
        return with_wire(0.0)
    low, high = tried[best - 1], tried[min(best + 1, tried.size - 1)]
    found = minimize_scalar(left, bounds=(float(low), float(high)), method="bounded", options={"xatol": 1e-4})
    return with_wire(float(found.x) * 1e-12)


@dataclass(frozen=True)
class Sensitivity:
    """What a stray moves at the band's top."""

    name: str  # field of `Strays`
    step: float  # F or H
    db: float


STEPS = {"across_f": 0.01e-12, "joint_f": 0.1e-12, "lead_h": 1e-9, "output_f": 0.1e-12, "trim_f": 0.01e-12}
"""Steps by which strays are known at best, F or H."""


def sensitivities(design: Design) -> tuple[Sensitivity, ...]:
    """What a step of each stray moves the main figure by at the band's top."""
    top, strays = design.ask.high_hz, design.strays
    here = float(respond(design, top).main_db[0])

    def moved(name: str, step: float) -> float:
        more: Strays = replace(strays, **{name: getattr(strays, name) + step})
        return float(respond(replace(design, strays=more), top).main_db[0]) - here

    return tuple(Sensitivity(name, step, moved(name, step)) for name, step in STEPS.items())
