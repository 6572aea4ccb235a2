"""Waves at every connector of a hook-up, for one set of values of everything uncertain on it.

A hook-up is a tree: from the ends inwards each part has the reflections of what is behind it, so one pass gives what
every part reflects and a second one the waves at every connector.
"""

from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp, Stop
from fenmist.kit.uncertain import UncertainPart, Values
from fenmist.measurand import Kind
from fenmist.uncertainty.influence import FloatArray, Influence, IntArray, each_value

ComplexArray = NDArray[np.complex128]


@dataclass(frozen=True, eq=False)
class Waves:
    """Waves at every connector for 1 √W from the source; (element, port) -> (..., n), in √W."""

    into: Mapping[tuple[str, str], ComplexArray]  # into the part
    out: Mapping[tuple[str, str], ComplexArray]  # out of it
    forward_is_in: frozenset[tuple[str, str]]  # where a wave into the part goes away from the source
    stated: ComplexArray  # the wave that goes forward at the stated plane

    def quantity(self, kind: Kind, at: tuple[str, str], z0_ohm: float) -> FloatArray:
        """A quantity: V² or A² (rms), or W."""
        into, out = self.into[at], self.out[at]
        if kind is Kind.VOLTAGE:
            return np.asarray(np.abs(into + out) ** 2 * z0_ohm)
        if kind is Kind.CURRENT:
            return np.asarray(np.abs(into - out) ** 2 / z0_ohm)
        forward, back = (into, out) if at in self.forward_is_in else (out, into)
        if kind is Kind.INCIDENT:
            return np.asarray(np.abs(forward) ** 2)
        if kind is Kind.REFLECTED:
            return np.asarray(np.abs(back) ** 2)
        return np.asarray(np.abs(forward) ** 2 - np.abs(back) ** 2)


@dataclass(frozen=True, eq=False)
class Tree:
    """A hook-up at n frequencies as a tree: what stands on the line, what hangs on it, and what each part does."""

    hookup: HookUp
    frequency_hz: FloatArray
    elements: Mapping[str, UncertainPart]
    main: tuple[Stop, ...]
    sides: Mapping[tuple[str, str], tuple[Stop, ...]]
    counting: frozenset[str]  # elements that matter: what lies in front of every plane doesn't
    idle: frozenset[tuple[str, str]]  # ports of ways through that aren't in use: nothing arrives there

    @property
    def own(self) -> list[Influence]:
        """What is uncertain of the parts that matter."""
        return [item for name, element in self.elements.items() if name in self.counting for item in element.influences]

    @cached_property
    def of_frequency(self) -> IntArray:
        """`sharing` of what is one error at each frequency on this bench."""
        return each_value(self.frequency_hz, self.hookup.id)


class Walk:
    """Both passes over a hook-up for one set of values, or at the estimates."""

    def __init__(self, bench: Tree, x: Values | None = None, matched_from: str = "") -> None:
        self.bench, self.matched_from = bench, matched_from
        self.scattering = {
            name: element.estimated if x is None or name not in bench.counting else element.scattering(x)
            for name, element in bench.elements.items()
        }
        self.behind: dict[tuple[str, str], ComplexArray] = {}  # Γ that a port sees, by (element, port)
        self.passed: dict[str, tuple[int, list[int], list[ComplexArray]]] = {}  # waves out of the others for 1 into it
        self.ways: dict[str, dict[str, tuple[Stop, ...]]] = {}
        self.into: dict[tuple[str, str], ComplexArray] = {}
        self.out: dict[tuple[str, str], ComplexArray] = {}
        self.forward: set[tuple[str, str]] = set()

    def whole(self) -> None:
        """Both passes, for 1 √W out of the source."""
        source, first = self.bench.main[0], self.bench.main[1]
        self.look(self.bench.main[1:])
        self.drive(first, np.ones(1, complex))
        at = (source.element, source.exit or "")
        self.out[at], self.into[at] = np.ones(1, complex), self.out[first.element, first.entry]

    def look(self, stops: Sequence[Stop]) -> ComplexArray:
        """Γ of a way at its first entry, everything behind it worked out on the way back."""
        seen: ComplexArray = np.ones(1, complex)  # an open connector sends all back
        for place in range(len(stops) - 1, -1, -1):
            seen = self._look(stops[place], stops[place + 1 :], seen)
        return seen

    def _look(self, stop: Stop, onward: Sequence[Stop], seen: ComplexArray) -> ComplexArray:
        element = self.bench.elements[stop.element]
        s, entry = self.scattering[stop.element], element.ports.index(stop.entry)
        if stop.element == self.matched_from:  # it and all behind it reflect nothing
            seen, s = np.zeros(1, complex), np.where(np.eye(s.shape[-1], dtype=bool), 0.0, s)
        others = [number for number in range(len(element.ports)) if number != entry]
        ways: dict[str, tuple[Stop, ...]] = {}
        gammas = []
        for number in others:
            port = element.ports[number]
            if port == stop.exit:
                ways[port], gamma = tuple(onward), seen
            else:
                ways[port] = self.bench.sides.get((stop.element, port), ())
                is_idle = (stop.element, port) in self.bench.idle
                gamma = np.zeros(1, complex) if is_idle else self.look(ways[port])
            self.behind[stop.element, port] = gamma
            gammas.append(gamma)
        self.ways[stop.element] = ways
        out = _solved(s, entry, others, gammas)
        self.passed[stop.element] = entry, others, out
        back = s[..., entry, entry]
        for place, number in enumerate(others):
            back = back + s[..., entry, number] * gammas[place] * out[place]
        return back

    def drive(self, stop: Stop, wave: ComplexArray) -> None:
        """Waves at a part and at all behind it, for a wave into its entry."""
        element = self.bench.elements[stop.element]
        entry, others, out = self.passed[stop.element]
        s = self.scattering[stop.element]
        here = (stop.element, stop.entry)
        self.into[here] = np.asarray(wave)
        self.forward.add(here)
        back = s[..., entry, entry] * wave
        for place, number in enumerate(others):
            port = (stop.element, element.ports[number])
            leaving = out[place] * wave
            coming = self.behind[port] * leaving
            self.out[port], self.into[port] = leaving, coming
            back = back + s[..., entry, number] * coming
            way = self.ways[stop.element][port[1]]
            if way:
                self.drive(way[0], leaving)
        self.out[here] = back


def _solved(s: ComplexArray, entry: int, others: list[int], gammas: list[ComplexArray]) -> list[ComplexArray]:
    """Waves out of the other ports for 1 √W into the entry: (1 − S·Γ)⁻¹·S of the others; an array (...) for each."""
    straight = [s[..., number, entry] for number in others]
    if not others:
        return straight
    if len(others) == 1:
        (one,) = others
        return [np.asarray(straight[0] / (1.0 - s[..., one, one] * gammas[0]))]
    if len(others) == 2:  # the common case of a tee or a tap, by Cramer's rule
        (one, two), (g1, g2), (p, q) = others, gammas, straight
        a, b = 1.0 - s[..., one, one] * g1, -s[..., one, two] * g2
        c, d = -s[..., two, one] * g1, 1.0 - s[..., two, two] * g2
        over = 1.0 / (a * d - b * c)
        return [np.asarray((p * d - b * q) * over), np.asarray((a * q - p * c) * over)]
    shape = np.broadcast_shapes(s.shape[:-2], *(item.shape for item in gammas))
    gamma = np.stack([np.broadcast_to(item, shape) for item in gammas], axis=-1)
    inner = s[..., np.ix_(others, others)[0], np.ix_(others, others)[1]]
    left = np.eye(len(others)) - inner * gamma[..., None, :]
    right = np.broadcast_to(s[..., others, entry], (*shape, len(others)))
    return list(np.moveaxis(np.linalg.solve(left, right[..., None])[..., 0], -1, 0))
