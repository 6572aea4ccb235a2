"""Sightings as a picture: what arrives of what is set, and the odds of what may be wrong."""

from collections.abc import Iterable

from fenmist.methods.chain import Sighting
from fenmist.methods.triage import Answer
from fenmist.procedures.page import Arrival, Arrivals
from fenmist.units.display import plain, swr

STATIONS = ("set", "own meter", "external meter")

LEAST, MOST = 0.005, 5
"""Odds below which a suspect isn't drawn, and how many are at most."""


def arrivals(sightings: Iterable[tuple[str, Sighting]], answer: Answer) -> Arrivals:
    """The picture of sightings, each with into what it was made."""
    rows = tuple(Arrival(_where(into, one), _parts(one)) for into, one in sightings)
    odds = tuple((item.what, item.odds) for item in answer.suspects if item.odds >= LEAST)[:MOST]
    return Arrivals(STATIONS, rows, odds, answer.headline)


def _where(into: str, one: Sighting) -> str:
    shown = f", SWR {swr(one.swr)}" if one.swr is not None else ""
    return f"{plain(one.set_w, 'W', 3)}, {into}{shown}"


def _parts(one: Sighting) -> tuple[float | None, ...]:
    return (1.0, *(None if watts is None else watts / one.set_w for watts in (one.own_w, one.external_w)))
