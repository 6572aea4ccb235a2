"""Plugging and unplugging: edits of a hook-up as pure replacements.

Ports keep their roles when a part is exchanged: the first end of a way stays the first, the first side port the first.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from fenmist.errors import OutOfRangeError
from fenmist.hookup.line import Element, HookUp, Joint, hung_on, main_way
from fenmist.kit.part import Part
from fenmist.measurand import PlaneRef

Parts = Mapping[str, Part]


def free_name(hookup: HookUp, part: Part) -> str:
    """A name for an element that none has yet: its kind's last word, with a number where that is taken."""
    base = str(part.kind).split()[-1]
    taken = {item.id for item in hookup.elements}
    return next(name for n in range(1, 1000) if (name := base if n == 1 else f"{base} {n}") not in taken)


def inserted(hookup: HookUp, element_id: str, port: str, part: Part) -> HookUp:
    """The hook-up with a part plugged in behind a connector; what was there goes on behind the new part.

    Raises
    ------
    OutOfRangeError
        Where something is plugged in there and the new part has no second end to go on from.
    """
    name, ends, mate = free_name(hookup, part), part.ends, hookup.mate(element_id, port)
    if mate is not None and len(ends) < 2:
        raise OutOfRangeError(
            f"{part.label} ends a line: it can't stand in the middle of one.",
            "Hang it on a side port, or put it in the place of what ends the line.",
        )
    joints = tuple(joint for joint in hookup.joints if (element_id, port) not in (joint.a, joint.b))
    joints = (*joints, Joint((element_id, port), (name, ends[0])))
    if mate is not None:
        joints = (*joints, Joint((name, ends[1]), mate))
    return replace(hookup, elements=(*hookup.elements, Element(name, part.id)), joints=joints)


def removed(hookup: HookUp, parts: Parts, element_id: str) -> HookUp:
    """The hook-up without an element and without what hangs on it; its neighbours are joined.

    Raises
    ------
    OutOfRangeError
        Where the line begins there.
    """
    part = parts[hookup.element(element_id).part]
    main = main_way(hookup, parts)
    if main and main[0].element == element_id:
        raise OutOfRangeError(f"The line begins at {part.label}.", "Put another source in its place instead.")
    gone = {element_id, *hung_on(hookup, parts, ((element_id, port.id) for port in part.side_ports))}
    ends = hookup.ends(element_id, part)
    mates = [hookup.mate(element_id, port) for port in ends]
    joints = tuple(j for j in hookup.joints if j.a[0] not in gone and j.b[0] not in gone)
    if len(mates) == 2 and mates[0] is not None and mates[1] is not None:
        joints = (*joints, Joint(mates[0], mates[1]))
    elements = tuple(item for item in hookup.elements if item.id not in gone)
    made = replace(hookup, elements=elements, joints=joints)
    if hookup.stated.element not in gone:
        return made
    entry = next((item.entry for item in main if item.element == element_id), ends[0])
    before = hookup.mate(element_id, entry)  # power is stated where the part was, on the source's side
    return replace(made, stated=PlaneRef(hookup.id, *before)) if before is not None else made


def exchanged(hookup: HookUp, parts: Parts, element_id: str, part: Part) -> HookUp:
    """The hook-up with another part in an element's place; ports that the new one lacks come free.

    Raises
    ------
    OutOfRangeError
        Where the way goes on there and the new part ends it.
    """
    former = parts[hookup.element(element_id).part]
    ends = hookup.ends(element_id, former)
    roles = dict(zip(ends, part.ends, strict=False))
    roles |= dict(zip((p.id for p in former.side_ports), (p.id for p in part.side_ports), strict=False))
    if any(hookup.mate(element_id, port) and port not in roles for port in ends):
        raise OutOfRangeError(f"{part.label} ends the line, and it goes on here.", "Choose a part with two ends.")

    def renamed(end: tuple[str, str]) -> tuple[str, str] | None:
        return end if end[0] != element_id else ((element_id, roles[end[1]]) if end[1] in roles else None)

    loose = hung_on(hookup, parts, ((element_id, port.id) for port in former.side_ports if port.id not in roles))
    elements = tuple(
        replace(item, part=part.id, settings={}) if item.id == element_id else item
        for item in hookup.elements
        if item.id not in loose
    )
    kept = [(renamed(j.a), renamed(j.b)) for j in hookup.joints if j.a[0] not in loose and j.b[0] not in loose]
    joints = tuple(Joint(a, b) for a, b in kept if a and b)
    stated = hookup.stated
    if stated.element == element_id:
        stated = replace(stated, port=roles.get(stated.port, part.ends[-1]))
    return replace(hookup, elements=elements, joints=joints, stated=stated)


def put_behind(hookup: HookUp, parts: Parts, element_id: str, other_id: str) -> HookUp:
    """The hook-up with an element of the line unplugged and put in again behind another one, as it was set."""
    ends, other = (hookup.ends(name, parts[hookup.element(name).part]) for name in (element_id, other_id))
    before, after, leaving = hookup.mate(element_id, ends[0]), hookup.mate(element_id, ends[-1]), (other_id, other[-1])
    onward = hookup.mate(*leaving)
    if len(ends) < 2 or len(other) < 2 or before is None or after is None or onward is None:
        raise OutOfRangeError(f"“{element_id}” can't be put behind “{other_id}”.", "Both stand in the line.")
    gone = {(element_id, end) for end in ends} | {leaving}
    joints = tuple(joint for joint in hookup.joints if not {joint.a, joint.b} & gone)
    added = (Joint(before, after), Joint(leaving, (element_id, ends[0])), Joint((element_id, ends[1]), onward))
    return replace(hookup, joints=(*joints, *added))


def swapped(hookup: HookUp, parts: Parts, pairs: Sequence[tuple[str, str]]) -> HookUp:
    """The hook-up with the parts of each two elements exchanged, with what they are set to."""
    made = hookup
    for one, two in pairs:
        first, second = hookup.element(one), hookup.element(two)
        made = exchanged(made, parts, one, parts[second.part])
        made = exchanged(made, parts, two, parts[first.part])
        settings = {one: second.settings, two: first.settings}
        elements = tuple(replace(item, settings=settings.get(item.id, item.settings)) for item in made.elements)
        made = replace(made, elements=elements)
    return made


def turned_round(hookup: HookUp, parts: Parts, element_id: str) -> HookUp:
    """The hook-up with a part the other way round.

    Raises
    ------
    OutOfRangeError
        Where the part has one end only.
    """
    part = parts[hookup.element(element_id).part]
    used = [port.id for port in part.ports if not port.hangs and hookup.mate(element_id, port.id)]
    first = used[0] if used else part.ports[0].id
    other = part.onward(first)
    if other is None:
        raise OutOfRangeError(f"{part.label} has one end only.", "There is nothing to turn round.")
    return _moved(hookup, element_id, {first: other, other: first})


def _moved(hookup: HookUp, element_id: str, swap: Mapping[str, str]) -> HookUp:
    """The hook-up with what is joined to some ports of an element joined to others."""

    def moved(end: tuple[str, str]) -> tuple[str, str]:
        return (element_id, swap.get(end[1], end[1])) if end[0] == element_id else end

    joints = tuple(Joint(moved(j.a), moved(j.b)) for j in hookup.joints)
    stated = hookup.stated
    if stated.element == element_id:
        stated = replace(stated, port=swap.get(stated.port, stated.port))
    return replace(hookup, joints=joints, stated=stated)


def free_side_port(hookup: HookUp, parts: Parts, element_id: str) -> str:
    """A side port of an element on which nothing hangs.

    Raises
    ------
    OutOfRangeError
        Where it has none.
    """
    part = parts[hookup.element(element_id).part]
    found = next((p.id for p in part.side_ports if hookup.mate(element_id, p.id) is None), None)
    if found is None:
        raise OutOfRangeError(
            f"{part.label} has no free side port.", "Put a tee, a tap or a coupler into the line first."
        )
    return found


def stated_at(hookup: HookUp, parts: Parts, element_id: str) -> HookUp:
    """The hook-up with power stated at an element: at its far end, or at its near one where it was stated there."""
    stop = next((item for item in main_way(hookup, parts) if item.element == element_id), None)
    if stop is None:
        raise OutOfRangeError("Power is stated on the line.", "Choose a part of the line itself.")
    wanted = stop.exit or stop.entry
    if hookup.stated == PlaneRef(hookup.id, element_id, wanted) and stop.entry:
        wanted = stop.entry
    return replace(hookup, stated=PlaneRef(hookup.id, element_id, wanted))


def with_next_pair(hookup: HookUp, parts: Parts, element_id: str, step: int = 1) -> HookUp:
    """The hook-up with a part joined by its next pair of ports; raises OutOfRangeError where it has one only."""
    part = parts[hookup.element(element_id).part]
    pairs = list(dict.fromkeys(port.pair for port in part.ports if not port.hangs))
    used = part.port(hookup.ends(element_id, part)[0]).pair
    if len(pairs) < 2:
        raise OutOfRangeError(f"{part.label} has one pair of ports only.", "There is no other to use.")
    chosen = pairs[(pairs.index(used) + step) % len(pairs)]
    here, there = ([p.id for p in part.ports if not p.hangs and p.pair == pair] for pair in (used, chosen))
    return _moved(hookup, element_id, dict(zip(here, there, strict=False)))


def with_next_position(hookup: HookUp, parts: Parts, element_id: str, step: int = 1) -> HookUp:
    """The hook-up with an element's first switch one position on; without a switch, with its next pair of ports.

    Raises
    ------
    OutOfRangeError
        Where it has neither.
    """
    element = hookup.element(element_id)
    part = parts[element.part]
    if not part.switches and len({port.pair for port in part.ports if not port.hangs}) > 1:
        return with_next_pair(hookup, parts, element_id, step)
    if not part.switches:
        raise OutOfRangeError(f"{part.label} has no switch.", "Describe its positions in the kit.")
    switch = part.switches[0]
    labels = [position.label for position in switch.positions]
    here = labels.index(switch.position(element.settings.get(switch.id, "")).label)
    chosen = {**element.settings, switch.id: labels[(here + step) % len(labels)]}
    elements = tuple(replace(e, settings=chosen) if e.id == element_id else e for e in hookup.elements)
    return replace(hookup, elements=elements)
