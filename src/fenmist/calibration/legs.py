"""Groups of points that are read on several hook-ups in turn: their legs, and what those share.

What both legs have in common (a coupler's ratio, an instrument's gain) is one influence, as large in each as its own
reading makes it; what belongs to one reading is an influence of its own leg.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from fenmist.calibration.again import Unit
from fenmist.calibration.rounds import PointReadings
from fenmist.frozen import dataclass
from fenmist.uncertainty.influence import (
    Distribution,
    FloatArray,
    Influence,
    each_point,
    influence,
    standard_u_from_limit,
)

BETWEEN = "between the visits"
"""Name of what a ratio moved by from visit to visit."""

_OF_ONE_READING = (".reading", ".noise", ".noise_floor", ".repeat", ".drift", ".linearity")
"""Ends of names of what belongs to one leg, whatever the other one shares."""

Values = Mapping[str, FloatArray]


def group_units(found: Sequence[PointReadings], leads: Callable[[PointReadings], bool]) -> tuple[Unit, ...]:
    """What can be worked out: points by themselves, and groups of which something was read on both sides.

    Parameters
    ----------
    leads : callable
        Whether a point is the one of its group that carries the answer: it comes first, then the visits beside it.
    """
    legs: dict[str, list[PointReadings]] = {}
    for item in found:
        if item.point.group and item.rounds and not leads(item):
            legs.setdefault(item.point.group, []).append(item)
    made: list[Unit] = []
    for item in (one for one in found if one.rounds):
        if not item.point.group:
            made.append((item,))
        elif leads(item) and (others := legs.get(item.point.group)):
            made.append((item, *others))
    return tuple(made)


def together(legs: Unit) -> PointReadings:
    """The rounds of several visits to one hook-up as those of one point."""
    return replace(legs[0], rounds=tuple(one for leg in legs for one in leg.rounds))


@dataclass(frozen=True, eq=False)
class _Place:
    """Where one of a leg's influences is found among all."""

    name: str
    estimate: FloatArray  # its own
    known: FloatArray  # that of what is found there
    scale: FloatArray  # how much larger its u is


@dataclass(frozen=True, eq=False)
class Legs:
    """Influences of several legs together, and each leg's own."""

    influences: tuple[Influence, ...]
    places: tuple[Mapping[str, _Place], ...]

    def of(self, leg: int, x: Values) -> dict[str, FloatArray]:
        """Values of a leg's own influences, by the names they have there."""
        return {
            name: x[place.name]
            if place.known is place.estimate
            else place.estimate + (x[place.name] - place.known) * place.scale
            for name, place in self.places[leg].items()
        }


def joined_legs(
    legs: Sequence[tuple[str, Sequence[Influence]]], is_own: Callable[[str], bool] = lambda _: False
) -> Legs:
    """Influences of legs that are read one after the other, the first by its own names.

    Parameters
    ----------
    legs : sequence of (str, influences)
        Names of the legs, and what is uncertain in each; all over the same points.
    is_own : callable
        Whether an influence of that name is another one in each leg, beside what belongs to a single reading.
    """
    known: dict[str, Influence] = {}
    places: list[dict[str, _Place]] = []
    for leg, some in legs:
        here: dict[str, _Place] = {}
        for item in some:
            there = known.get(item.id)
            own = places and (item.id.endswith(_OF_ONE_READING) or is_own(item.id))
            if there is None and not own:
                known[item.id] = item
                here[item.id] = _Place(item.id, item.estimate, item.estimate, np.ones(1))
            elif own or there is None or not _is_one(there, item):
                name = f"{item.id}, {leg}"
                ensemble = item.ensemble and f"{item.ensemble}, {leg}"
                known[name] = replace(item, id=name, label=f"{item.label}, {leg}", ensemble=ensemble)
                here[item.id] = _Place(name, item.estimate, item.estimate, np.ones(1))
            else:
                known_u = np.where(there.standard_u > 0, there.standard_u, 1.0)
                scale = np.where(there.standard_u > 0, item.standard_u / known_u, 1.0)
                same = np.array_equal(there.estimate, item.estimate) and np.allclose(scale, 1.0, rtol=1e-12)
                here[item.id] = _Place(item.id, there.estimate if same else item.estimate, there.estimate, scale)
        places.append(here)
    return Legs(tuple(known.values()), tuple(places))


def _is_one(first: Influence, second: Influence) -> bool:
    """Whether two influences can be one error, of whatever size in each."""
    nothing = (first.standard_u == 0) != (second.standard_u == 0)
    alike = (np.unique(item.sharing, return_inverse=True)[1] for item in (first, second))
    one, other = alike
    return not np.any(nothing) and np.array_equal(one, other)


def between_visits(moved: FloatArray, what: str) -> tuple[Influence, ...]:
    """What a ratio moved by from the first visit to the last, as a limit; nothing where it was read once.

    Parameters
    ----------
    moved : array, shape (n,)
        Half of that, ± of a logarithm.
    what : str
        Which ratio, in words.
    """
    if not np.any(moved > 0):
        return ()
    n = moved.size
    return (
        influence(
            BETWEEN, f"{what}, from visit to visit", 0.0, standard_u_from_limit(moved, Distribution.RECTANGULAR),
            points=n, distribution=Distribution.RECTANGULAR, sharing=each_point(n), basis="half of what it moved by",
        ),
    )  # fmt: skip


def half_moved(legs: Unit, ratio: Callable[[PointReadings], float]) -> float:
    """Half of what a logarithm moved by from the first visit to the last.

    0 where there was one, and where each was read once: then the scatter of the rounds is what it moved by.
    """
    if len(legs) < 2 or all(len(leg.rounds) == 1 for leg in legs):
        return 0.0
    return abs(ratio(legs[-1]) - ratio(legs[0])) / 2.0
