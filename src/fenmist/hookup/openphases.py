"""What reflections whose phases nobody knows do: to the power behind a way, and to volts and amperes in front of them.

Each pair that faces each other is an influence of its own on the power behind the second; what stands behind a place
moves the volts there one way and the amperes the other. Page: docs/method/transfer.md.
"""

from collections.abc import Sequence
from dataclasses import replace
from itertools import takewhile

import numpy as np

from fenmist.frozen import dataclass
from fenmist.hookup.line import Stop
from fenmist.hookup.waves import ComplexArray, Tree, Walk, Waves
from fenmist.kit.uncertain import UncertainPart
from fenmist.measurand import Kind
from fenmist.rf.mismatch import Facing, mismatch_u
from fenmist.uncertainty.influence import Distribution, FloatArray, Influence, influence, standard_u_from_limit

NEGLIGIBLE = 1e-5
"""Relative u of power below which a pair of reflections is left out: a thousandth of a per cent."""

SMALLEST = 1e-30
"""Of a quantity per watt: below, nothing arrives."""


@dataclass(frozen=True, eq=False)
class Standing:
    """What reflections of open phase behind a place on the line do to the volts and amperes there."""

    influences: tuple[Influence, ...]  # relative, of V²; the other way about of A²
    factor: FloatArray  # (n,): the network takes those reflections in some phase, this takes them out again


def mismatches(bench: Tree, walk: Walk, at: tuple[str, str]) -> tuple[Influence, ...]:
    """One influence for each pair of reflections that face each other between the stated plane and a connector."""
    names = [stop.element for stop in bench.main]
    stated = names.index(bench.hookup.stated.element)
    behind = stated + 1
    begin = stated if bench.hookup.stated.port == bench.main[stated].entry else behind  # what comes after the plane
    for (element, port), stops in bench.sides.items():
        hanging = [stop.element for stop in stops]
        if at[0] in hanging and element in names:
            place = names.index(element)
            root = Stop(element, bench.main[place].entry if place >= begin else "", port)
            way = (*bench.main[begin:place], root, *stops[: hanging.index(at[0]) + 1])
            found = _pairs(bench, walk, way, _as_seen(bench, element))
            if place >= begin:
                return tuple(found + _beyond(bench, walk, bench.main[begin:], place - begin))
            # it hangs in front of the plane: what the wave there faces on its way back
            onward = (Stop(element, "", bench.main[place].exit), *bench.main[place + 1 :])
            facing = _equivalent_source(bench, walk, bench.main[place], port)
            return tuple(found + _pairs(bench, walk, onward, "", facing))
    line: Sequence[Stop] = bench.main[begin:]
    if at[0] in names:
        place = names.index(at[0])
        place += 1 if bench.main[place].entry else 0  # a source's own match faces what is behind it
        line = bench.main[place:behind] if place < behind else bench.main[begin:place]  # or it stands in front of it
    if not line or len(bench.elements[line[-1].element].ports) == 1:
        return tuple(_pairs(bench, walk, line, ""))
    begins = names.index(line[0].element)
    found = _pairs(bench, walk, line, _as_seen(bench, line[-1].element))
    return tuple(found + _beyond(bench, walk, bench.main[begins:], len(line) - 1))


def _as_seen(bench: Tree, element: str) -> str:
    """An element that is taken with all that follows it, as it is seen: one of open phase and what follows it each
    have a phase of their own.
    """
    return element if bench.elements[element].has_phase else ""


def _beyond(bench: Tree, walk: Walk, stops: Sequence[Stop], root: int) -> list[Influence]:
    """Pairs of what stands in front of an element with what stands behind it on the line and isn't seen with it."""
    seen, before = _as_seen(bench, stops[root].element), {stop.element for stop in stops[:root]}
    behind = {stop.element for stop in stops[root + 1 :] if not seen or not bench.elements[stop.element].has_phase}
    if not before or not behind:
        return []
    found = _pairs(bench, walk, stops, seen)

    def is_across(name: str) -> bool:
        near, _, far = name.partition("~")
        return _element_of(near, before) != "" and _element_of(far, behind) != ""

    return [item for item in found if is_across(item.id)]


def _element_of(text: str, names: set[str]) -> str:
    """The element that the name of a connector begins with, of some; nothing where none does."""
    return next((name for name in names if text.startswith(f"{name}.")), "")


def _equivalent_source(bench: Tree, walk: Walk, stop: Stop, side: str) -> FloatArray:
    """|Γ_GE| that what follows a part faces where its power is told by a side port of it, shape (n,).

    Γ_GE = S22 − S21·S32/S31 (1 in, 2 out, 3 at the side): the source drops out. Of a part of open phases its own match
    and what leaks to the side port are taken together as their root mean square.
    """
    element, n = bench.elements[stop.element], bench.frequency_hz.size
    if element.has_phase:
        s = walk.scattering[stop.element]
        one, two, three = (element.ports.index(name) for name in (stop.entry, stop.exit or "", side))
        made = s[..., two, two] - s[..., two, one] * s[..., three, two] / s[..., three, one]
        return np.broadcast_to(np.minimum(np.abs(made), 1.0), (n,))
    leaks = [item.standard_u**2 for item in element.influences if ".directivity." in item.id]
    return np.sqrt(element.match.mean_square + sum(leaks, np.zeros(n)))


def _pairs(
    bench: Tree, walk: Walk, stops: Sequence[Stop], as_seen: str, first_gamma: FloatArray | None = None
) -> list[Influence]:
    """Pairs along one way. One element counts with all that is behind it, as it is seen: what follows it by known
    phases is in that already. Where the first is a source of a reflection of its own, only what it faces is asked.
    """
    names = [stop.element for stop in stops]
    place = names.index(as_seen) if as_seen in names else len(names)
    before = set(names[:place])
    held = set(takewhile(lambda name: bench.elements[name].has_phase, names[place + 1 :]))  # seen with it
    placed: list[tuple[str, str, Facing]] = []
    tuners: list[str] = []  # the last at work in front of each: across one nothing faces
    loss, section, tuner = np.zeros(bench.frequency_hz.size), len(stops), ""  # the last of open phase, or at work
    for number, stop in enumerate(stops):
        element = bench.elements[stop.element]
        if not element.has_phase:
            section = number
        own = section if element.has_phase else -1
        if stop.entry:
            tuners.append(tuner)
            seen = stop.element == as_seen
            placed.append((stop.element, stop.entry, _facing(bench, walk, stop, True, loss, own, seen)))
        if stop.exit:  # behind the last one nothing faces it
            if stop.entry:
                loss = loss + _loss_db(walk, element, stop)
            facing = _facing(bench, walk, stop, False, loss, own, False)
            if number == 0 and first_gamma is not None:
                facing = replace(facing, reflection=first_gamma, is_ceiling=False)
            tuner = stop.element if element.tunes else tuner
            tuners.append(tuner)
            placed.append((stop.element, stop.exit, facing))
    made = []
    for first, (name, port, near) in enumerate(placed if first_gamma is None else placed[:1]):
        for second, (other, entry, far) in enumerate(placed[first + 1 :], start=first + 1):
            if (name in before and other in held) or tuners[first] != tuners[second]:
                continue
            u = mismatch_u((near, far))
            if np.any(u > NEGLIGIBLE):
                made.append(_pair(bench, name, port, other, entry, u))
    return made


def _facing(bench: Tree, walk: Walk, stop: Stop, is_input: bool, loss: FloatArray, own: int, seen: bool) -> Facing:
    element = bench.elements[stop.element]
    port = stop.entry if is_input else stop.exit or stop.entry
    size = bench.frequency_hz.size
    if seen:
        gamma = np.abs(walk.out[stop.element, port] / walk.into[stop.element, port])
        rho, is_ceiling = np.broadcast_to(np.minimum(gamma, 1.0), (size,)), False
    elif element.has_phase:
        own_reflection = _closed(walk, element, stop, port)[..., -1, -1]
        rho = np.minimum(np.abs(np.broadcast_to(own_reflection, (size,))), 1.0)
        is_ceiling = False
    else:
        rho, is_ceiling = np.full(size, element.match.reflection), element.match.is_ceiling
    return Facing(rho, is_ceiling, is_input, loss, own)


def _closed(walk: Walk, element: UncertainPart, stop: Stop, port: str) -> ComplexArray:
    """A part between its entry and a port of a way, what else hangs on it as it is: (..., 2, 2), entry first."""
    s = walk.scattering[stop.element]
    kept = [element.ports.index(name) for name in dict.fromkeys((stop.entry or port, port))]
    others = [number for number in range(len(element.ports)) if number not in kept]
    if not others:
        return np.asarray(s[..., np.ix_(kept, kept)[0], np.ix_(kept, kept)[1]])
    gammas = [walk.behind.get((stop.element, element.ports[number]), np.zeros(1, complex)) for number in others]
    gamma = np.stack(np.broadcast_arrays(*(np.asarray(item) for item in gammas)), axis=-1)

    def part(rows: list[int], columns: list[int]) -> ComplexArray:
        return np.asarray(s[..., np.ix_(rows, columns)[0], np.ix_(rows, columns)[1]])

    left = np.eye(len(others)) - gamma[..., None] * part(others, others)
    back = np.linalg.solve(left, gamma[..., None] * part(others, kept))
    return np.asarray(part(kept, kept) + part(kept, others) @ back)


def _loss_db(walk: Walk, element: UncertainPart, stop: Stop) -> FloatArray:
    through = np.abs(_closed(walk, element, stop, stop.exit or stop.entry)[..., -1, 0])
    return np.asarray(-20.0 * np.log10(np.maximum(through, 1e-9)))


def standing_waves(bench: Tree, walk: Walk, at: tuple[str, str], kind: Kind) -> Standing:
    """Volts and amperes on a line stand as its reflections do: those of open phase behind a place are an uncertainty.

    |1 ± Γ|² is 1 ± 2·Re Γ to first order: ± 2ρ of power, weaker by the loss there and back. What lies behind a part of
    open phase has an open phase itself; the network takes it in some phase, which is taken out again.
    """
    n, names = bench.frequency_hz.size, [stop.element for stop in bench.main]
    root = at[0]
    for (root_of, _), stops in bench.sides.items():
        if root in [stop.element for stop in stops]:
            root = root_of
            break
    behind = bench.main[names.index(root) + 1 :] if root in names else ()
    found: list[Influence] = []
    loss, is_open = np.zeros(n), False
    for stop in behind:
        element = bench.elements[stop.element]
        facing = _facing(bench, walk, stop, True, loss, -1, False)
        if is_open or not element.has_phase:
            rho = np.asarray(facing.reflection * 10.0 ** (-loss / 10.0))
            if np.any(rho > 0):
                found.append(_stands(bench, stop, rho, facing.is_ceiling))
        is_open = is_open or not element.has_phase
        if stop.exit:
            loss = loss + _loss_db(walk, element, stop)
    factor = np.ones(n)
    first = next((stop for stop in behind if not bench.elements[stop.element].has_phase), None)
    if first is not None:
        cut = Walk(bench, None, first.element)
        cut.whole()
        here, plane = at, (bench.hookup.stated.element, bench.hookup.stated.port)
        quantities = [Waves(one.into, one.out, frozenset(one.forward), np.ones(1, complex)) for one in (walk, cut)]
        with_all, without = (
            item.quantity(kind, here, 50.0) / item.quantity(Kind.INCIDENT, plane, 50.0) for item in quantities
        )
        factor = np.broadcast_to(without / np.maximum(with_all, SMALLEST), (n,)).copy()
    return Standing(tuple(found), factor)


def _stands(bench: Tree, stop: Stop, rho: FloatArray, is_ceiling: bool) -> Influence:
    shape = Distribution.DISC if is_ceiling else Distribution.U_SHAPED
    f = bench.frequency_hz
    return influence(
        f"{stop.element}.{stop.entry}.standing", f"standing wave, {stop.element}", 0.0,
        standard_u_from_limit(2.0 * rho, shape), points=f.size, source_id=bench.hookup.element(stop.element).part,
        distribution=shape, sharing=bench.of_frequency, basis="phase not known",
    )  # fmt: skip


def _pair(bench: Tree, name: str, port: str, other: str, entry: str, u: FloatArray) -> Influence:
    f = bench.frequency_hz
    return influence(
        f"{name}.{port}~{other}.{entry}.mismatch", f"mismatch, {name} and {other}", 0.0, u, points=f.size,
        source_id=bench.hookup.element(name).part, distribution=Distribution.U_SHAPED,
        sharing=bench.of_frequency, basis="phases not known",
    )  # fmt: skip
