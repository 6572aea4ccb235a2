"""Channels made from what stands on a bench: an instrument by what it shows, at the connector where it shows that."""

from collections.abc import Collection, Mapping

from fenmist.calibration.job import Channel
from fenmist.errors import OutOfRangeError
from fenmist.hookup.line import HookUp, main_way
from fenmist.kit.part import Indicator, Part
from fenmist.measurand import OF_MATCH, SUPPLY, Kind, Measurand, PlaneRef, Statistic

READABLE = (Kind.VOLTAGE, Kind.CURRENT, Kind.INCIDENT)
"""What can be made a power at the stated plane."""


def readable(part: Part) -> tuple[Indicator, ...]:
    """Indicators of a part that a power follows from."""
    return tuple(item for item in part.indicators if item.quantity in READABLE)


def supply_of(hookup: HookUp, element_id: str, part: Part) -> tuple[Channel, ...]:
    """Channels of the DC that goes into a source: volts and amperes, or none where it doesn't show both."""
    shows = {item.quantity: item for item in part.indicators if item.quantity in SUPPLY}
    if len(shows) < len(SUPPLY):
        return ()
    plane = PlaneRef(hookup.id, element_id, part.ports[0].id)
    return tuple(
        Channel(
            f"{element_id}, {shows[kind].id}", element_id, shows[kind].id,
            Measurand(kind, Statistic.MEAN, plane, hookup.z0_ohm),
        )
        for kind in SUPPLY
    )  # fmt: skip


def supply_at_source(hookup: HookUp, parts: Mapping[str, Part]) -> tuple[Channel, ...]:
    """The same of the source that a line begins with."""
    source = main_way(hookup, parts)[0].element
    return supply_of(hookup, source, parts[hookup.element(source).part])


def match_channels(
    hookup: HookUp, element_id: str, part: Part, taken: Collection[str] = (), *, is_turned: bool = False
) -> tuple[Channel, ...]:
    """Channels of what a meter tells of the match behind it, in the order read: forward, reflected, SWR.

    Turned round its arms change places: what it calls reflected is what goes out, and its SWR means nothing.

    Raises
    ------
    OutOfRangeError
        Where it tells nothing of a match: reflected power counts beside forward power alone.
    """
    kinds = {item.quantity for item in part.indicators}
    both = {Kind.INCIDENT, Kind.REFLECTED} <= kinds
    wanted = (*((Kind.INCIDENT, Kind.REFLECTED) if both else ()), *(kind for kind in OF_MATCH[1:] if kind in kinds))
    if not wanted:
        raise OutOfRangeError(
            f"{part.label} tells nothing of a match: neither reflected beside forward power, nor SWR.",
            "Choose a meter that does, or say in the kit what it shows.",
        )
    if is_turned and not both:
        raise OutOfRangeError(
            f"{part.label} doesn't show forward and reflected power: turned round it tells nothing.",
            "Choose a meter that shows both.",
        )
    wanted = (Kind.REFLECTED, Kind.INCIDENT) if is_turned else wanted
    plane = PlaneRef(hookup.id, element_id, hookup.ends(element_id, part)[0 if is_turned else -1])
    shows = [next(item for item in part.indicators if item.quantity is kind) for kind in wanted]
    names = [f"{element_id}, {item.id}" for item in shows]
    names = [f"{name}, {hookup.id}" if name in taken else name for name in names]
    means = (Kind.INCIDENT, Kind.REFLECTED) if is_turned else wanted
    return tuple(
        Channel(name, element_id, item.id, Measurand(kind, Statistic.CARRIER, plane, hookup.z0_ohm))
        for name, item, kind in zip(names, shows, means, strict=True)
    )


def channel_on(
    hookup: HookUp, element_id: str, part: Part, taken: Collection[str] = (), indicator_id: str = ""
) -> Channel:
    """An instrument by what it shows first, or by the indicator named; a source and a meter in line: going out.

    Raises
    ------
    OutOfRangeError
        Where it shows nothing that a power follows from.
    """
    shows = [item for item in readable(part) if indicator_id in ("", item.id)]
    if not shows:
        raise OutOfRangeError(
            f"{part.label} shows nothing that a power follows from.",
            "Choose an instrument for volts, amperes or watts.",
        )
    goes_out = shows[0].quantity is Kind.INCIDENT
    plane = PlaneRef(hookup.id, element_id, hookup.ends(element_id, part)[-1 if goes_out else 0])
    names = (element_id, f"{element_id}, {hookup.id}", f"{element_id}, {shows[0].id}")
    name = next(item for item in (*names, f"{element_id}, {hookup.id}, {shows[0].id}") if item not in taken)
    measurand = Measurand(shows[0].quantity, Statistic.CARRIER, plane, hookup.z0_ohm)
    return Channel(name, element_id, shows[0].id, measurand)
