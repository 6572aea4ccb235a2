"""What unknown phases cost at the end of a way: the mismatch of all that stands between the source and an instrument.

Parts of which the phases are known are a correction in the network; facing reflections between which a phase is open
are an uncertainty. Page: docs/method/mismatch.md.
"""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp, Stop, main_way, side_ways
from fenmist.hookup.network import LineNetwork
from fenmist.kit.network import PartNetwork
from fenmist.kit.part import Part
from fenmist.rf.mismatch import Facing, mismatch_u


@dataclass(frozen=True)
class EndMismatch:
    """At one end of the hook-up: relative standard uncertainty of its power, and the pair that makes most of it."""

    element: str
    u_relative: float
    between: tuple[str, str]  # elements that face each other


def end_mismatches(
    hookup: HookUp, parts: Mapping[str, Part], network: LineNetwork, place: int = 0
) -> tuple[EndMismatch, ...]:
    """One for each end of the line and its branches, at one of the network's frequencies.

    What is stated is the wave incident at the stated plane, with all that went on in front of it: only what lies behind
    that plane counts.
    """
    whole = main_way(hookup, parts)
    begin = next((number for number, stop in enumerate(whole) if stop.element == hookup.stated.element), -1) + 1
    main = whole[begin:]
    found = [_of_way(network, main, place)] if main else []
    for (element, port), stops in side_ways(hookup, parts).items():
        before = next((number for number, stop in enumerate(main) if stop.element == element), None)
        way = () if before is None else (*main[:before], Stop(element, main[before].entry, port))
        if stops:
            found.append(_of_way(network, (*way, *stops), place))
    return tuple(item for item in found if item.u_relative > 0.0)


def source_mismatch(hookup: HookUp, parts: Mapping[str, Part], network: LineNetwork, place: int = 0) -> float:
    """Relative standard uncertainty of what a source gives a line: its own match against all that is behind it.

    Of two instruments read at once on one line it drops out; where one is put in the place of the other it counts for
    both: |1 − Γg·Γ2|²/|1 − Γg·Γ1|² (docs/method/mismatch.md).
    """
    facing, _ = _facing(network, main_way(hookup, parts), place)
    pairs = (mismatch_u((facing[0], far)) for far in facing[1:])
    return float(np.sqrt(sum(float(item) ** 2 for item in pairs)))


def _of_way(network: LineNetwork, stops: Sequence[Stop], place: int) -> EndMismatch:
    facing, owners = _facing(network, stops, place)
    pairs = [
        (float(mismatch_u((near, far))), (owners[i], owners[j]))
        for i, near in enumerate(facing)
        for j, far in enumerate(facing[i + 1 :], start=i + 1)
    ]
    worst = max(pairs, key=lambda item: item[0], default=(0.0, ("", "")))
    return EndMismatch(stops[-1].element, float(mismatch_u(facing)), worst[1])


def _facing(network: LineNetwork, stops: Sequence[Stop], place: int) -> tuple[list[Facing], list[str]]:
    """Every reflection on a way, and the element that each belongs to."""
    facing: list[Facing] = []
    owners: list[str] = []
    loss, section = 0.0, 0
    for stop in stops:
        element = network.elements[stop.element]
        if not element.has_phase:
            section += 1
        own = section if element.has_phase else -1
        for port, is_input in ((stop.entry, True), (stop.exit, False)):
            if not port:
                continue
            if not is_input and stop.entry:
                loss += _loss_db(element, stop, place)
            facing.append(Facing(*_port_reflection(element, port, place), is_input, loss, own))
            owners.append(stop.element)
    return facing, owners


def _loss_db(element: PartNetwork, stop: Stop, place: int) -> float:
    way = (element.ports.index(stop.exit or stop.entry), element.ports.index(stop.entry))
    through = abs(element.scattering[(place, *way)])
    return float(-20.0 * np.log10(max(through, 1e-9)))


def mismatch_before(
    hookup: HookUp, parts: Mapping[str, Part], network: LineNetwork, element: str
) -> NDArray[np.float64]:
    """Relative standard uncertainty of the power that arrives at an element of the line, shape (n,).

    From the stated plane on; counts parts whose SWR is stated or whose phases are known. A part of which no SWR is said
    is taken as matched here: an assumed ceiling would cost every bench.

    Parameters
    ----------
    hookup, parts, network : HookUp, mapping, LineNetwork
        The network at n frequencies.
    element : str
        Where the power arrives; on the line behind the stated plane.

    Returns
    -------
    array, shape (n,)
        Relative, of power.
    """
    whole = main_way(hookup, parts)
    names = [stop.element for stop in whole]
    begin, end = names.index(hookup.stated.element) + 1, names.index(element)
    stops = whole[begin : end + 1]
    stated = {stop.element for stop in stops if "swr" in parts[hookup.element(stop.element).part].properties}
    silent = [s for s in stops if not network.elements[s.element].has_phase and s.element not in stated]
    if not stated:
        return np.zeros(network.frequency_hz.size)
    counted = [stop for stop in stops if stop not in silent]
    seen = _seen(network, element)
    return np.array([_u_at(network, counted, place, float(seen[place])) for place in range(network.frequency_hz.size)])


def _seen(network: LineNetwork, element: str) -> NDArray[np.float64]:
    """|Γ| that arrives at an element's entry, with all that is behind it."""
    incident = network.incident(network.load_reflection)
    leaving = network.leaving(incident)
    port = next(
        number for (name, _), number in network.number.items() if name == element and network.forward_is_in[number]
    )
    return np.asarray(np.abs(leaving[:, port] / incident[:, port]))


def _u_at(network: LineNetwork, stops: Sequence[Stop], place: int, seen: float) -> float:
    facing, loss = [], 0.0
    for stop in stops[:-1]:
        element = network.elements[stop.element]
        facing.append(Facing(*_port_reflection(element, stop.entry, place), True, loss))
        loss += _loss_db(element, stop, place)
        facing.append(Facing(*_port_reflection(element, stop.exit or stop.entry, place), False, loss))
    facing.append(Facing(min(seen, 1.0), False, True, loss))
    return float(mismatch_u(facing))


def _port_reflection(element: PartNetwork, port: str, place: int) -> tuple[float, bool]:
    """A port's |Γ|, and whether that is a ceiling."""
    if not element.has_phase:
        return element.match.reflection, element.match.is_ceiling
    number = element.ports.index(port)
    return min(float(abs(element.scattering[place, number, number])), 1.0), False
