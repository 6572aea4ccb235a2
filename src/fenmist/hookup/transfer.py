"""What any indicator anywhere on a bench is put to, per watt at the stated plane, with everything uncertain by name.

Waves at every connector are taken relative to the wave forward at the stated plane, so the source drops out. Each
number known to something is an influence of the part it belongs to, so two instruments that share a part share its
errors. Where phases are open, see `openphases`. Page: docs/method/transfer.md.
"""

from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property

import numpy as np

from fenmist.errors import OutOfRangeError, UnknownIdError
from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp, Stop, hung_on, idle_ports, main_way, side_ways, way
from fenmist.hookup.openphases import SMALLEST, Standing, mismatches, standing_waves
from fenmist.hookup.waves import Tree, Walk, Waves
from fenmist.kit.part import Part
from fenmist.kit.uncertain import Values, uncertain_part
from fenmist.measurand import Kind, PlaneRef
from fenmist.uncertainty.influence import Distribution, FloatArray, Influence

QUANTITIES = (Kind.VOLTAGE, Kind.CURRENT, Kind.INCIDENT, Kind.REFLECTED, Kind.NET)
"""What can be asked at a connector: V², A² or W for each watt at the stated plane."""

Plane = tuple[Kind, str, str]
"""What is asked where: kind, element, connector."""


@dataclass(frozen=True, eq=False)
class Transfer(Tree):
    """A bench at n frequencies, from one set of influences."""

    planes: tuple[tuple[Kind, PlaneRef], ...]  # what is shown where

    @cached_property
    def _estimated(self) -> Walk:
        """Both passes at the estimates."""
        walk = Walk(self)
        walk.whole()
        return walk

    @cached_property
    def mismatches(self) -> Mapping[Plane, tuple[Influence, ...]]:
        """What acts on the power behind a way, by plane."""
        return {
            (kind, at.element, at.port): mismatches(self, self._estimated, (at.element, at.port))
            for kind, at in self.planes
        }

    @cached_property
    def standing(self) -> Mapping[Plane, Standing]:
        """What acts on volts and amperes there."""
        return {
            (kind, at.element, at.port): standing_waves(self, self._estimated, (at.element, at.port), kind)
            for kind, at in self.planes
            if kind in (Kind.VOLTAGE, Kind.CURRENT)
        }

    @cached_property
    def influences(self) -> tuple[Influence, ...]:
        """Everything uncertain on the bench that matters, each once."""
        facing = [item for found in self.mismatches.values() for item in found]
        facing += [item for found in self.standing.values() for item in found.influences]
        return tuple({item.id: item for item in (*self.own, *facing)}.values())

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
        known = self._by_waves(x, wanted, stated)
        return tuple(
            _at_least(value * self._by_open_phases(x, kind, at), kind)
            for (kind, at), value in zip(wanted, known, strict=True)
        )

    def estimated_per_watt(
        self, wanted: Iterable[tuple[Kind, PlaneRef]], stated: Kind = Kind.INCIDENT
    ) -> tuple[FloatArray, ...]:
        """The same at the estimates, at which open phases do nothing: these needn't be worked out."""
        return self._by_waves(None, tuple(wanted), stated)

    def _by_waves(
        self, x: Values | None, wanted: Sequence[tuple[Kind, PlaneRef]], stated: Kind
    ) -> tuple[FloatArray, ...]:
        """All but open phases; either sign of a reactance is tried where only its size is known."""
        turning = [item for item in self.own if item.distribution is Distribution.TWO_POINT and
                   np.any(item.standard_u > 0)]  # fmt: skip
        if not turning:
            return self._of_waves(self.waves(x), wanted, stated)
        x, name = {item.id: item.estimate for item in self.own} if x is None else x, turning[0].id
        sign = np.asarray(x[name])
        plus, minus = (
            self._of_waves(self.waves({**x, name: np.full_like(sign, value)}), wanted, stated) for value in (1.0, -1.0)
        )
        return tuple(
            np.asarray((up + down) / 2.0 + sign * (up - down) / 2.0) for up, down in zip(plus, minus, strict=True)
        )

    def _of_waves(
        self, waves: Waves, wanted: Sequence[tuple[Kind, PlaneRef]], stated: Kind
    ) -> tuple[FloatArray, ...]:  # fmt: skip
        z0 = self.hookup.z0_ohm
        plane = (self.hookup.stated.element, self.hookup.stated.port)
        unit = np.maximum(waves.quantity(stated, plane, z0), SMALLEST)
        found = []
        for kind, at in wanted:
            key = (at.element, at.port)
            value = waves.quantity(kind, key, z0) / unit
            standing = self.standing.get((kind, *key))
            if standing is not None:
                value = value * standing.factor
            if kind is Kind.VOLTAGE:
                value = value * self.shown_times(key) ** 2
            found.append(_at_least(value, kind))
        return tuple(found)

    def _by_open_phases(self, x: Values, kind: Kind, at: PlaneRef) -> FloatArray:
        """What reflections of open phase multiply a quantity by; 1 at the estimates."""
        plane = (kind, at.element, at.port)
        factor = np.ones(1)
        for item in self.mismatches.get(plane, ()):
            factor = factor * (1.0 + x[item.id])
        standing = self.standing.get(plane)
        if standing is not None:
            sign = 1.0 if kind is Kind.VOLTAGE else -1.0
            moved = sum((x[item.id] for item in standing.influences), np.zeros(1))
            factor = factor * np.maximum(1.0 + sign * moved, SMALLEST)
        return factor

    def shown_times(self, at: tuple[str, str]) -> float:
        """What an instrument there multiplies its volts by: the settings of the probes in front of it."""
        for stops in self.sides.values():
            names = [stop.element for stop in stops]
            if at[0] in names:
                return float(np.prod([self.elements[name].shown_times for name in names[: names.index(at[0])]]))
        return 1.0

    def waves(self, x: Values | None = None) -> Waves:
        """Waves at every connector; at the estimates where no values are given."""
        if x is None:
            walk = self._estimated
        else:
            walk = Walk(self, x)
            walk.whole()
        plane = (self.hookup.stated.element, self.hookup.stated.port)
        if plane not in walk.into:
            raise OutOfRangeError("Power is stated where the line doesn't pass.", "State it at a part on the line.")
        forward = walk.into[plane] if plane in walk.forward else walk.out[plane]
        return Waves(walk.into, walk.out, frozenset(walk.forward), forward)


def _at_least(value: FloatArray, kind: Kind) -> FloatArray:
    """Powers and squares stay above nothing, for their logarithms; a net power may be of either sign."""
    return value if kind is Kind.NET else np.maximum(value, SMALLEST)


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
    return Transfer(hookup, f, elements, main, sides, counting, idle_ports(hookup, parts), planes)


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
    hanging = hung_on(hookup, parts, (at for at in sides if at[0] in met))
    whole = {stop.element for stop in way_on(hookup, parts, stops[-1])} | met | hanging
    elements = {
        item.id: uncertain_part(parts[item.part], item.settings, frequency_hz, hookup.z0_ohm, item.id)
        for item in hookup.elements
        if item.id in whole
    }
    idle = idle_ports(hookup, parts)
    walk = Walk(Tree(hookup, frequency_hz, elements, tuple(stops), sides, frozenset(), idle))
    walk.look((*stops, *way_on(hookup, parts, stops[-1])))
    walk.drive(stops[0], np.ones(1, complex))
    return Waves(walk.into, walk.out, frozenset(walk.forward), np.ones(1, complex))


def reflection_behind(bench: Tree, waves: Waves, element_id: str) -> FloatArray | None:
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
        element = bench.elements[stop.element]
        square = square + element.match.mean_square * through**2
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
        place.update({stop.element: place[element] for stop in stops})
    first = min(place.get(item.element, 0) for item in (hookup.stated, *planes))
    begins = [item for item in (hookup.stated, *planes) if place.get(item.element, 0) == first]
    if all(item.element == main[first].element and item.port == main[first].exit for item in begins):
        first += 1  # only what leaves that element counts, not what it does itself
    return frozenset(name for name, number in place.items() if number >= first)
