"""A hook-up as one network: the waves at every connector, with any position of any switch and anything at the load.

All parts are joined as they are plugged together, with the load's place left absorbing; one inverse then tells the
waves for any source and, as the load's reflection only adds a second source, for any load, an open or a shorted line
included. Forward is away from the source, on a branch away from the line. Page: docs/method/network.md.
"""

from collections.abc import Mapping
from dataclasses import replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import UnknownIdError
from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp, Stop, idle_ports, main_way, side_ways
from fenmist.kit.network import PartNetwork, part_network
from fenmist.kit.part import Part
from fenmist.rf.joining import join_waves

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]

_ALMOST_ONE = 1.0 - 1e-9
"""Reflection at which a line without loss would ring for ever."""


@dataclass(frozen=True, eq=False)
class LineNetwork:
    """A hook-up at n frequencies, with p ports counted through."""

    hookup: HookUp
    frequency_hz: FloatArray
    elements: Mapping[str, PartNetwork]
    number: Mapping[tuple[str, str], int]  # of each (element, port)
    mate: NDArray[np.int64]  # (p,): the port that each is joined to, itself where it is open
    blocks: tuple[ComplexArray, ...]  # of the elements, what ends the line absorbing
    joints: tuple[tuple[int, int], ...]  # ports screwed together; one with itself is open
    drive: int  # port at which the source's wave arrives
    load: tuple[str, str] | None  # where the line ends
    forward_is_in: NDArray[np.bool_]  # (p,): a wave into that port goes forward
    on_line: NDArray[np.bool_]  # (p,)

    @cached_property
    def _waves(self) -> ComplexArray:
        """Into each port for 1 √W from the source, and for 1 √W coming back from the load: (n, p, 2)."""
        back = int(self.mate[self.number[self.load]]) if self.load else self.drive
        return join_waves(self.blocks, self.joints, (self.drive, back))

    @cached_property
    def load_reflection(self) -> ComplexArray:
        """Γ of what ends the line, shape (n,); 1 where nothing does."""
        if self.load is None:
            return np.ones(self.frequency_hz.size, complex)
        return self.elements[self.load[0]].scattering[:, 0, 0]

    def incident(self, reflection: ComplexArray, ports: NDArray[np.int64] | None = None) -> ComplexArray:
        """Waves into ports for 1 √W from the source and a reflection (m, n) or (n,) at the load: (..., n, ports)."""
        from_source, from_load = self._waves[..., 0], self._waves[..., 1]
        if self.load is None:
            some = from_source if ports is None else from_source[:, ports]
            return np.broadcast_to(some, (*reflection.shape, some.shape[-1]))
        here = self.number[self.load]
        gamma = np.where(np.abs(reflection) > _ALMOST_ONE, reflection * _ALMOST_ONE, reflection)
        back = (gamma * from_source[:, here] / (1.0 - gamma * from_load[:, here]))[..., None]
        if ports is None:
            return np.asarray(from_source + back * from_load)
        return np.asarray(from_source[:, ports] + back * from_load[:, ports])

    def leaving(self, incident: ComplexArray) -> ComplexArray:
        """Waves out of every port: what is joined takes them in, an open connector takes its own back."""
        return np.asarray(incident[..., self.mate])

    def switched(self, parts: Mapping[str, Part], settings: Mapping[str, Mapping[str, str]]) -> "LineNetwork":
        """The same with positions of switches, by element, that differ from those the hook-up states."""
        hookup, elements = self.hookup, dict(self.elements)
        for item in hookup.elements:
            if item.id in settings:
                set_to = {**item.settings, **settings[item.id]}
                elements[item.id] = part_network(parts[item.part], set_to, self.frequency_hz, hookup.z0_ohm)
        moved = settings.keys() - {self.load[0] if self.load else ""}  # what ends the line absorbs, whatever it is
        blocks = tuple(
            element.scattering if name in moved else block
            for block, (name, element) in zip(self.blocks, elements.items(), strict=True)
        )
        return replace(self, elements=elements, blocks=blocks)


def line_network(hookup: HookUp, parts: Mapping[str, Part], frequency_hz: FloatArray) -> LineNetwork:
    """The network of a hook-up.

    Parameters
    ----------
    frequency_hz : array, shape (n,)

    Raises
    ------
    UnknownIdError
        Where the line begins at no source.
    """
    main = main_way(hookup, parts)
    if not main or main[0].exit is None:
        raise UnknownIdError("The line begins nowhere.", "Put a transmitter or a generator at its left end.")
    f = np.atleast_1d(np.asarray(frequency_hz, float))
    made = {item.id: part_network(parts[item.part], item.settings, f, hookup.z0_ohm) for item in hookup.elements}
    number: dict[tuple[str, str], int] = {}
    for name, network in made.items():
        for port in network.ports:
            number[name, port] = len(number)
    end = main[-1]
    load = (end.element, end.entry) if len(main) > 1 and len(made[end.element].ports) == 1 else None
    source = main[0].element
    absorbing = {load[0] if load else "", *(() if made[source].has_phase else (source,))}
    blocks = tuple(np.zeros_like(net.scattering) if name in absorbing else net.scattering for name, net in made.items())
    joints = [(number[j.a], number[j.b]) for j in hookup.joints if {j.a, j.b} <= number.keys()]
    mate = np.arange(len(number))
    for one, other in joints:
        mate[one], mate[other] = other, one
    idle = {number[at] for at in idle_ports(hookup, parts) if at in number}
    # open: all of it comes back; but for a way through that isn't in use, which may resonate by itself
    joints += [(port, port) for port in range(len(number)) if mate[port] == port and port not in idle]
    drive = int(mate[number[source, main[0].exit]])
    ways = side_ways(hookup, parts)
    forward, on_line = _directions(number, main, ways)
    return LineNetwork(hookup, f, made, number, mate, blocks, tuple(joints), drive, load, forward, on_line)


def _directions(
    number: Mapping[tuple[str, str], int],
    main: tuple[Stop, ...],
    ways: Mapping[tuple[str, str], tuple[Stop, ...]],
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    forward, on_line = np.zeros(len(number), bool), np.zeros(len(number), bool)
    for stops in (main, *ways.values()):
        for stop in stops:
            if stop.entry:
                forward[number[stop.element, stop.entry]] = True
            if stops is main:
                on_line[[number[stop.element, port] for port in (stop.entry, stop.exit) if port]] = True
    return forward, on_line
