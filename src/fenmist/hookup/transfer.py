"""What any indicator anywhere on a bench is put to, per watt at the stated plane, with everything uncertain by name.

A hook-up is a tree: from the ends inwards each part has the reflections of what is behind it, so one pass gives what
every part reflects and a second one the waves at every connector, relative to the wave forward at the stated plane.
The source drops out. Each number known to something is an influence of the part it belongs to, so two instruments that
share a part share its errors. Where phases are open, each pair of reflections that face each other is an influence of
its own on the power behind the second. Page: docs/method/transfer.md.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError, UnknownIdError
from fenmist.hookup.line import HookUp, Stop, main_way, side_ways, way
from fenmist.kit.part import Part
from fenmist.kit.uncertain import UncertainPart, Values, uncertain_part
from fenmist.measurand import Kind, PlaneRef
from fenmist.rf.mismatch import Facing, mismatch_u
from fenmist.uncertainty.influence import (
    Distribution,
    FloatArray,
    Influence,
    IntArray,
    each_value,
    influence,
    standard_u_from_limit,
)

ComplexArray = NDArray[np.complex128]

QUANTITIES = (Kind.VOLTAGE, Kind.CURRENT, Kind.INCIDENT, Kind.REFLECTED, Kind.NET)
"""What can be asked at a connector: V², A² or W for each watt at the stated plane."""

Plane = tuple[Kind, str, str]
"""What is asked where: kind, element, connector."""

NEGLIGIBLE = 1e-5
"""Relative u of power below which a pair of reflections is left out: a thousandth of a per cent."""

SMALLEST = 1e-30
"""Of a quantity per watt: below, nothing arrives."""


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
class Standing:
    """What reflections of open phase behind a place on the line do to the volts and amperes there."""

    influences: tuple[Influence, ...]  # relative, of V²; the other way about of A²
    factor: FloatArray  # (n,): the network takes those reflections in some phase, this takes them out again


@dataclass(frozen=True, eq=False)
class Transfer:
    """A bench at n frequencies, from one set of influences."""

    hookup: HookUp
    frequency_hz: FloatArray
    elements: Mapping[str, UncertainPart]
    main: tuple[Stop, ...]
    sides: Mapping[tuple[str, str], tuple[Stop, ...]]
    mismatches: Mapping[Plane, tuple[Influence, ...]]  # what acts on the power behind a way, by plane
    standing: Mapping[Plane, Standing]  # what acts on volts and amperes there
    counting: frozenset[str]  # elements that matter: what lies in front of every plane doesn't

    @cached_property
    def influences(self) -> tuple[Influence, ...]:
        """Everything uncertain on the bench that matters, each once."""
        own = [item for name, element in self.elements.items() if name in self.counting for item in element.influences]
        facing = [item for found in self.mismatches.values() for item in found]
        facing += [item for found in self.standing.values() for item in found.influences]
        return tuple({item.id: item for item in (*own, *facing)}.values())

    @cached_property
    def of_frequency(self) -> IntArray:
        """`sharing` of what is one error at each frequency on this bench."""
        return each_value(self.frequency_hz, self.hookup.id)

    def per_watt(
        self, x: Values, wanted: Iterable[tuple[Kind, PlaneRef]], stated: Kind = Kind.INCIDENT
    ) -> tuple[FloatArray, ...]:
        """Quantities at connectors per watt of what is stated, one array (..., n) for each that is wanted.

        Parameters
        ----------
        x : mapping
            Values of `influences` by id, arrays of one shape (..., n).
        wanted : sequence of (Kind, PlaneRef)
            Volts give V², amperes A² (rms), powers W.
        stated : Kind
            Whether a watt at the stated plane is incident or net.

        Returns
        -------
        tuple of arrays

        Notes
        -----
        Where only the size of a load's reactance is known, both signs are worked out and taken half-way: what comes out
        is exact for either sign, and the mean of both where it is open.
        """
        wanted = tuple(wanted)
        turning = [item.id for item in self.influences if item.distribution is Distribution.TWO_POINT and
                   np.any(item.standard_u > 0)]  # fmt: skip
        if not turning:
            return self._per_watt(x, wanted, stated)
        name = turning[0]
        sign = np.asarray(x[name])
        plus, minus = (self._per_watt({**x, name: np.full_like(sign, value)}, wanted, stated) for value in (1.0, -1.0))
        return tuple(
            np.asarray((up + down) / 2.0 + sign * (up - down) / 2.0) for up, down in zip(plus, minus, strict=True)
        )

    def _per_watt(self, x: Values, wanted: Sequence[tuple[Kind, PlaneRef]], stated: Kind) -> tuple[FloatArray, ...]:
        waves, z0 = self.waves(x), self.hookup.z0_ohm
        plane = (self.hookup.stated.element, self.hookup.stated.port)
        unit = np.maximum(waves.quantity(stated, plane, z0), SMALLEST)
        found = []
        for kind, at in wanted:
            key = (at.element, at.port)
            value = waves.quantity(kind, key, z0) / unit
            for item in self.mismatches.get((kind, *key), ()):
                value = value * (1.0 + x[item.id])
            standing = self.standing.get((kind, *key))
            if standing is not None:
                sign = 1.0 if kind is Kind.VOLTAGE else -1.0
                moved = sum((x[item.id] for item in standing.influences), np.zeros(1))
                value = value * standing.factor * np.maximum(1.0 + sign * moved, SMALLEST)
            if kind is Kind.VOLTAGE:
                value = value * self.shown_times(key) ** 2
            found.append(np.maximum(value, SMALLEST) if kind is not Kind.NET else value)
        return tuple(found)

    def shown_times(self, at: tuple[str, str]) -> float:
        """What an instrument there multiplies its volts by: the settings of the probes in front of it."""
        for stops in self.sides.values():
            names = [stop.element for stop in stops]
            if at[0] in names:
                return float(np.prod([self.elements[name].shown_times for name in names[: names.index(at[0])]]))
        return 1.0

    def waves(self, x: Values) -> Waves:
        """Waves at every connector."""
        walk = _Walk(self, x)
        walk.whole()
        plane = (self.hookup.stated.element, self.hookup.stated.port)
        if plane not in walk.into:
            raise OutOfRangeError("Power is stated where the line doesn't pass.", "State it at a part on the line.")
        forward = walk.into[plane] if plane in walk.forward else walk.out[plane]
        return Waves(walk.into, walk.out, frozenset(walk.forward), forward)


class _Walk:
    """Both passes over a hook-up for one set of values."""

    def __init__(self, bench: Transfer, x: Values, matched_from: str = "") -> None:
        self.bench, self.matched_from = bench, matched_from
        self.scattering = {
            name: element.scattering(x if name in bench.counting else element.estimates)
            for name, element in bench.elements.items()
        }
        self.behind: dict[tuple[str, str], ComplexArray] = {}  # Γ that a port sees, by (element, port)
        self.passed: dict[str, tuple[int, list[int], ComplexArray]] = {}  # waves out of the others for 1 into the entry
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
                gamma = self.look(ways[port])
            self.behind[stop.element, port] = gamma
            gammas.append(gamma)
        self.ways[stop.element] = ways
        out = _solved(s, entry, others, gammas)
        self.passed[stop.element] = entry, others, out
        back = s[..., entry, entry]
        for place, number in enumerate(others):
            back = back + s[..., entry, number] * gammas[place] * out[..., place]
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
            leaving = out[..., place] * wave
            coming = self.behind[port] * leaving
            self.out[port], self.into[port] = leaving, coming
            back = back + s[..., entry, number] * coming
            way = self.ways[stop.element][port[1]]
            if way:
                self.drive(way[0], leaving)
        self.out[here] = back


def _solved(s: ComplexArray, entry: int, others: list[int], gammas: list[ComplexArray]) -> ComplexArray:
    """Waves out of the other ports for 1 √W into the entry: (1 − S·Γ)⁻¹·S of the others; shape (..., others)."""
    straight = s[..., others, entry]
    if not others:
        return straight
    if len(others) == 1:
        (one,) = others
        return np.asarray((straight[..., 0] / (1.0 - s[..., one, one] * gammas[0]))[..., None])
    if len(others) == 2:  # the common case of a tee or a tap, by Cramer's rule
        (one, two), (g1, g2) = others, gammas
        a, b = 1.0 - s[..., one, one] * g1, -s[..., one, two] * g2
        c, d = -s[..., two, one] * g1, 1.0 - s[..., two, two] * g2
        below, p, q = a * d - b * c, straight[..., 0], straight[..., 1]
        return np.stack(np.broadcast_arrays((p * d - b * q) / below, (a * q - p * c) / below), axis=-1)
    shape = np.broadcast_shapes(straight.shape[:-1], *(item.shape for item in gammas))
    gamma = np.stack([np.broadcast_to(item, shape) for item in gammas], axis=-1)
    inner = s[..., np.ix_(others, others)[0], np.ix_(others, others)[1]]
    left = np.eye(len(others)) - inner * gamma[..., None, :]
    right = np.broadcast_to(straight, (*shape, len(others)))
    return np.asarray(np.linalg.solve(left, right[..., None])[..., 0])


def transfer_of(
    hookup: HookUp,
    parts: Mapping[str, Part],
    frequency_hz: FloatArray,
    planes: Iterable[tuple[Kind, PlaneRef]] = (),
    heat: float | None = None,
) -> Transfer:
    """The bench as a function of everything uncertain on it.

    Parameters
    ----------
    frequency_hz : array, shape (n,)
        In Hz; one for each point.
    planes : sequence of (Kind, PlaneRef)
        What is shown where: open phases count on the way there, and behind it for volts and amperes.
    heat : float, optional
        How hot a load is, 0 to 1.

    Raises
    ------
    UnknownIdError
        Where the line begins at no source.
    """
    f = np.atleast_1d(np.asarray(frequency_hz, float))
    main = main_way(hookup, parts)
    if len(main) < 2:
        raise UnknownIdError("The line begins nowhere, or ends where it begins.", "Put a source at its left end.")
    seen: set[str] = set()
    elements = {}
    for item in hookup.elements:
        name = item.part if item.part not in seen else f"{item.part}@{item.id}"
        seen.add(item.part)
        elements[item.id] = uncertain_part(parts[item.part], item.settings, f, hookup.z0_ohm, name, heat)
    planes, sides = tuple(planes), side_ways(hookup, parts)
    counting = _counting(hookup, main, sides, [at for _, at in planes])
    bare = Transfer(hookup, f, elements, main, sides, {}, {}, counting)
    known = {item.id: item.estimate for item in bare.influences}
    walk = _Walk(bare, known)
    walk.whole()
    facing = {(kind, at.element, at.port): _mismatches(bare, walk, (at.element, at.port)) for kind, at in planes}
    standing: dict[Plane, Standing] = {
        (kind, at.element, at.port): _standing(bare, walk, (at.element, at.port), kind)
        for kind, at in planes
        if kind in (Kind.VOLTAGE, Kind.CURRENT)
    }
    return Transfer(hookup, f, elements, main, sides, facing, standing, counting)


def waves_along(hookup: HookUp, parts: Mapping[str, Part], frequency_hz: FloatArray, stops: Sequence[Stop]) -> Waves:
    """Waves at the connectors of what hangs on a line, at the estimates, for 1 √W into the first of it.

    Parameters
    ----------
    frequency_hz : array, shape (n,)
        In Hz.
    stops : sequence of Stop
        From where it begins.
    """
    sides, met = side_ways(hookup, parts), {stop.element for stop in stops}
    for _ in range(len(sides)):  # what hangs on what hangs there counts, too
        met |= {stop.element for (element, _), hung in sides.items() if element in met for stop in hung}
    whole = {stop.element for stop in way_on(hookup, parts, stops[-1])} | met
    elements = {
        item.id: uncertain_part(parts[item.part], item.settings, frequency_hz, hookup.z0_ohm, item.id)
        for item in hookup.elements
        if item.id in whole
    }
    walk = _Walk(Transfer(hookup, frequency_hz, elements, tuple(stops), sides, {}, {}, frozenset()), {})
    walk.look((*stops, *way_on(hookup, parts, stops[-1])))
    walk.drive(stops[0], np.ones(1, complex))
    return Waves(walk.into, walk.out, frozenset(walk.forward), np.ones(1, complex))


def reflection_behind(bench: Transfer, waves: Waves, element_id: str) -> FloatArray | None:
    """|Γ| of what follows an element of the line, shape (n,); none of what hangs there, or ends it.

    Reflections of open phase are no part of the waves: each counts with its square, of a ceiling with half of it,
    weakened by the loss there and back. Behind a tuner at work nothing is seen.
    """
    names = [stop.element for stop in bench.main]
    if element_id not in names or not bench.main[names.index(element_id)].exit:
        return None
    place = names.index(element_id)
    at = (element_id, bench.main[place].exit or "")
    tuned = any(bench.elements[stop.element].tunes for stop in bench.main[place + 1 :])
    square, through = np.zeros(1) if tuned else np.abs(waves.into[at] / waves.out[at]) ** 2, np.ones(1)
    for stop in bench.main[place + 1 :]:
        element, match = bench.elements[stop.element], bench.elements[stop.element].match
        if not element.has_phase and element.states_match:
            square = square + match.reflection**2 / (2.0 if match.is_ceiling else 1.0) * through**2
        if element.tunes:
            break
        if stop.exit:
            passed = waves.out[stop.element, stop.exit] / waves.into[stop.element, stop.entry]
            through = through * np.abs(passed) ** 2
    return np.broadcast_to(np.sqrt(square), bench.frequency_hz.shape)


def way_on(hookup: HookUp, parts: Mapping[str, Part], stop: Stop) -> tuple[Stop, ...]:
    """What follows an element that is left by a port; nothing behind an end."""
    return way(hookup, parts, stop.element, stop.exit) if stop.exit else ()


def _counting(
    hookup: HookUp,
    main: Sequence[Stop],
    sides: Mapping[tuple[str, str], tuple[Stop, ...]],
    planes: Sequence[PlaneRef],
) -> frozenset[str]:
    """Elements that matter: those behind the first of all planes on the line, and what hangs on them."""
    place = {stop.element: number for number, stop in enumerate(main)}
    for (element, _), stops in sides.items():
        place.update({stop.element: place.get(element, 0) for stop in stops})
    first = min(place.get(item.element, 0) for item in (hookup.stated, *planes))
    begins = [item for item in (hookup.stated, *planes) if place.get(item.element, 0) == first]
    if all(item.element == main[first].element and item.port == main[first].exit for item in begins):
        first += 1  # only what leaves that element counts, not what it does itself
    return frozenset(name for name, number in place.items() if number >= first)


# open phases


def _mismatches(bench: Transfer, walk: _Walk, at: tuple[str, str]) -> tuple[Influence, ...]:
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
            found = _pairs(bench, walk, way, _as_seen(bench, element)) + _beyond(
                bench, walk, bench.main[begin:], place - begin
            )
            if place < begin:  # it hangs in front of the plane: what the wave there faces on its way back
                onward = (Stop(element, "", bench.main[place].exit), *bench.main[place + 1 :])
                found += _pairs(bench, walk, onward, "", _equivalent_source(bench, walk, bench.main[place], port))
            return tuple(found)
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


def _as_seen(bench: Transfer, element: str) -> str:
    """An element that is taken with all that follows it, as it is seen: one of open phase and what follows it each
    have a phase of their own.
    """
    return element if bench.elements[element].has_phase else ""


def _beyond(bench: Transfer, walk: _Walk, stops: Sequence[Stop], root: int) -> list[Influence]:
    """Pairs of what stands in front of an element with what stands behind it on the line and isn't seen with it."""
    if not 0 <= root < len(stops):
        return []
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


def _equivalent_source(bench: Transfer, walk: _Walk, stop: Stop, side: str) -> FloatArray:
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
    own = element.match.reflection**2 / (2.0 if element.match.is_ceiling else 1.0) if element.states_match else 0.0
    leaks = [item.standard_u**2 for item in element.influences if ".directivity." in item.id]
    return np.sqrt(own + sum(leaks, np.zeros(n)))


def _pairs(
    bench: Transfer, walk: _Walk, stops: Sequence[Stop], as_seen: str, first_gamma: FloatArray | None = None
) -> list[Influence]:
    """Pairs along one way. One element counts with all that is behind it, as it is seen: what follows it by known
    phases is in that already. Where the first is a source of a reflection of its own, only what it faces is asked.
    """
    placed: list[tuple[str, str, Facing]] = []
    behind_tuners: list[int] = []  # how many tuners at work lie in front of each: across one nothing faces
    loss, section = np.zeros(bench.frequency_hz.size), 0
    held: set[str] = set()  # elements that are seen with it
    with_it = False
    for number, stop in enumerate(stops):
        element = bench.elements[stop.element]
        last = number == len(stops) - 1
        if not element.has_phase:
            section += 1
        own = section if element.has_phase else -1
        with_it = element.has_phase and (with_it or stop.element == as_seen)
        if with_it and stop.element != as_seen:
            held.add(stop.element)
        before_it = behind_tuners[-1] if behind_tuners else 0
        if stop.entry:
            behind_tuners.append(before_it)
            seen = stop.element == as_seen
            placed.append((stop.element, stop.entry, _facing(bench, walk, stop, True, loss, own, seen)))
        if stop.exit and not last:
            if stop.entry:
                loss = loss + _loss_db(walk, element, stop)
            facing = _facing(bench, walk, stop, False, loss, own, False)
            if number == 0 and first_gamma is not None:
                facing = replace(facing, reflection=first_gamma, is_ceiling=False)
            behind_tuners.append(before_it + element.tunes)
            placed.append((stop.element, stop.exit, facing))
    names = [stop.element for stop in stops]
    made, before = [], set(names[: names.index(as_seen)] if as_seen in names else names)
    for first, (name, port, near) in enumerate(placed if first_gamma is None else placed[:1]):
        for second, (other, entry, far) in enumerate(placed[first + 1 :], start=first + 1):
            if (name in before and other in held) or behind_tuners[first] != behind_tuners[second]:
                continue
            u = mismatch_u((near, far))
            if np.any(u > NEGLIGIBLE):
                made.append(_pair(bench, name, port, other, entry, u))
    return made


def _facing(bench: Transfer, walk: _Walk, stop: Stop, is_input: bool, loss: FloatArray, own: int, seen: bool) -> Facing:
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
        counts = element.states_match or len(element.ports) == 1
        rho, is_ceiling = np.full(size, element.match.reflection if counts else 0.0), element.match.is_ceiling
    return Facing(rho, is_ceiling, is_input, loss, own)


def _closed(walk: _Walk, element: UncertainPart, stop: Stop, port: str) -> ComplexArray:
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


def _loss_db(walk: _Walk, element: UncertainPart, stop: Stop) -> FloatArray:
    through = np.abs(_closed(walk, element, stop, stop.exit or stop.entry)[..., -1, 0])
    return np.asarray(-20.0 * np.log10(np.maximum(through, 1e-9)))


def _standing(bench: Transfer, walk: _Walk, at: tuple[str, str], kind: Kind) -> Standing:
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
        cut = _Walk(bench, {item.id: item.estimate for item in bench.influences}, first.element)
        cut.whole()
        here, plane = at, (bench.hookup.stated.element, bench.hookup.stated.port)
        quantities = [Waves(one.into, one.out, frozenset(one.forward), np.ones(1, complex)) for one in (walk, cut)]
        with_all, without = (
            item.quantity(kind, here, 50.0) / item.quantity(Kind.INCIDENT, plane, 50.0) for item in quantities
        )
        factor = np.broadcast_to(without / np.maximum(with_all, SMALLEST), (n,)).copy()
    return Standing(tuple(found), factor)


def _stands(bench: Transfer, stop: Stop, rho: FloatArray, is_ceiling: bool) -> Influence:
    shape = Distribution.DISC if is_ceiling else Distribution.U_SHAPED
    f = bench.frequency_hz
    return influence(
        f"{stop.element}.{stop.entry}.standing", f"standing wave, {stop.element}", 0.0,
        standard_u_from_limit(2.0 * rho, shape), points=f.size, source_id=bench.hookup.element(stop.element).part,
        distribution=shape, sharing=bench.of_frequency, basis="phase not known",
    )  # fmt: skip


def _pair(bench: Transfer, name: str, port: str, other: str, entry: str, u: FloatArray) -> Influence:
    f = bench.frequency_hz
    return influence(
        f"{name}.{port}~{other}.{entry}.mismatch", f"mismatch, {name} and {other}", 0.0, u, points=f.size,
        source_id=bench.hookup.element(name).part, distribution=Distribution.U_SHAPED,
        sharing=bench.of_frequency, basis="phases not known",
    )  # fmt: skip
