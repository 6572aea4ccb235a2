"""What is plugged together: elements with ports, joints between ports. Planes are ports.

A job has several hook-ups in general, so everything that names a plane names its hook-up. Nothing here knows
kinds of parts beyond that a line begins at a source.
"""

from collections.abc import Iterable, Mapping
from dataclasses import field
from functools import cached_property
from types import MappingProxyType
from typing import NamedTuple

from fenmist.errors import UnknownIdError
from fenmist.frozen import dataclass
from fenmist.kit.part import SOURCES, Part, PartKind
from fenmist.kit.same import Latest
from fenmist.measurand import PlaneRef

SIDE_PORT = "side"
"""A tee's third port."""


@dataclass(frozen=True)
class Element:
    """A part in its place on the line."""

    id: str
    part: str  # part id
    settings: Mapping[str, str] = field(
        default_factory=dict
    )  # position of each switch; its first where nothing is said


@dataclass(frozen=True)
class Joint:
    """Two ports screwed together, as (element, port)."""

    a: tuple[str, str]
    b: tuple[str, str]


@dataclass(frozen=True)
class HookUp:
    """Elements and joints, and the plane where power is stated."""

    id: str
    label: str
    elements: tuple[Element, ...]
    joints: tuple[Joint, ...]
    stated: PlaneRef
    z0_ohm: float = 50.0

    def element(self, element_id: str) -> Element:
        """The element named; raises UnknownIdError."""
        found = self._by_id.get(element_id)
        if found is None:
            raise UnknownIdError(f"The hook-up has no element “{element_id}”.", "Open the hook-up and look.")
        return found

    def mate(self, element_id: str, port: str) -> tuple[str, str] | None:
        """What is joined to a port: (element, port), or none."""
        return self._mates.get((element_id, port))

    @cached_property
    def _by_id(self) -> dict[str, Element]:
        return {item.id: item for item in reversed(self.elements)}

    @cached_property
    def _mates(self) -> dict[tuple[str, str], tuple[str, str]]:
        ends = [pair for joint in reversed(self.joints) for pair in ((joint.b, joint.a), (joint.a, joint.b))]
        return dict(ends)

    def ends(self, element_id: str, part: Part) -> tuple[str, ...]:
        """The ports by which an element's part lies in the line: of several pairs the one in use; one at an end."""
        used = next((port.pair for port in part.ports if not port.hangs and self.mate(element_id, port.id)), None)
        first = next((port.id for port in part.ports if not port.hangs and port.pair == used), part.ends[0])
        onward = part.onward(first)
        return (first, onward) if onward else (first,)


class Stop(NamedTuple):
    """An element on a way, with the port it is entered by and the one it is left by, if any."""

    element: str
    entry: str
    exit: str | None


def way(hookup: HookUp, parts: Mapping[str, Part], element_id: str, port: str) -> tuple[Stop, ...]:
    """Stops met from a port on, each entered at one end and left at the other, until one ends the way."""
    met: list[Stop] = []
    here = hookup.mate(element_id, port)
    while here is not None and here[0] not in {element_id, *(stop.element for stop in met)}:
        onward = parts[hookup.element(here[0]).part].onward(here[1])
        met.append(Stop(here[0], here[1], onward))
        here = hookup.mate(here[0], onward) if onward else None
    return tuple(met)


def source_of(hookup: HookUp, parts: Mapping[str, Part]) -> str | None:
    """The element the line begins with: the first source; none where there is none."""
    return next((item.id for item in hookup.elements if parts[item.part].kind in SOURCES), None)


class _Ways(NamedTuple):
    """All ways of a hook-up."""

    main: tuple[Stop, ...]
    sides: Mapping[tuple[str, str], tuple[Stop, ...]]
    idle: frozenset[tuple[str, str]]


def _ways(hookup: HookUp, parts: Mapping[str, Part]) -> _Ways:
    """Asked for over and over while a bench is worked out: the latest are remembered."""
    standing = [parts[item.part] for item in hookup.elements]
    return _WAYS.once((id(hookup), *map(id, standing)), lambda: _Kept(hookup, standing, _made(hookup, parts))).ways


class _Kept(NamedTuple):
    """Ways with what they are of: as long as it is here nothing else has its identity."""

    hookup: HookUp
    standing: list[Part]
    ways: _Ways


_WAYS: Latest[_Kept] = Latest(32)


def _made(hookup: HookUp, parts: Mapping[str, Part]) -> _Ways:
    return _Ways(_main_way(hookup, parts), _side_ways(hookup, parts), _idle_ports(hookup, parts))


def main_way(hookup: HookUp, parts: Mapping[str, Part]) -> tuple[Stop, ...]:
    """Stops from the source to the load; the source is entered nowhere."""
    return _ways(hookup, parts).main


def side_ways(hookup: HookUp, parts: Mapping[str, Part]) -> Mapping[tuple[str, str], tuple[Stop, ...]]:
    """What hangs on each side port, by (element, port)."""
    return _ways(hookup, parts).sides


def idle_ports(hookup: HookUp, parts: Mapping[str, Part]) -> frozenset[tuple[str, str]]:
    """Ports of ways through that aren't in use, of parts that have several: (element, port)."""
    return _ways(hookup, parts).idle


def _main_way(hookup: HookUp, parts: Mapping[str, Part]) -> tuple[Stop, ...]:
    source = source_of(hookup, parts)
    if source is None:
        return ()
    out = parts[hookup.element(source).part].ports[0].id
    return (Stop(source, "", out), *way(hookup, parts, source, out))


def _side_ways(hookup: HookUp, parts: Mapping[str, Part]) -> Mapping[tuple[str, str], tuple[Stop, ...]]:
    return MappingProxyType({
        (item.id, port.id): way(hookup, parts, item.id, port.id)
        for item in hookup.elements
        for port in parts[item.part].side_ports
        if hookup.mate(item.id, port.id) is not None
    })  # fmt: skip


def _idle_ports(hookup: HookUp, parts: Mapping[str, Part]) -> frozenset[tuple[str, str]]:
    return frozenset(
        (item.id, port.id)
        for item in hookup.elements
        if len(parts[item.part].ends) + len(parts[item.part].side_ports) < len(parts[item.part].ports)
        for port in parts[item.part].ports
        if not port.hangs and port.id not in hookup.ends(item.id, parts[item.part])
    )


def main_line(hookup: HookUp, parts: Mapping[str, Part]) -> tuple[str, ...]:
    """Elements from the source to the load."""
    return tuple(stop.element for stop in main_way(hookup, parts))


def branches(hookup: HookUp, parts: Mapping[str, Part]) -> dict[tuple[str, str], tuple[str, ...]]:
    """Elements that hang on each side port, by (element, port)."""
    return {at: tuple(stop.element for stop in stops) for at, stops in side_ways(hookup, parts).items()}


def hung_on(hookup: HookUp, parts: Mapping[str, Part], ports: Iterable[tuple[str, str]]) -> set[str]:
    """Elements that hang on side ports, given as (element, port), and all that hangs on those in turn."""
    hung, left = branches(hookup, parts), list(ports)
    found: set[str] = set()
    while left:
        met = set(hung.get(left.pop(), ())) - found
        found |= met
        left += [at for at in hung if at[0] in met]
    return found


def first_of_kind(hookup: HookUp, parts: Mapping[str, Part], kind: PartKind) -> str | None:
    """Id of the first element whose part is of a kind, or none."""
    return next((item.id for item in hookup.elements if parts[item.part].kind is kind), None)
