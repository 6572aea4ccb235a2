"""What is plugged together: elements with ports, joints between ports. Planes are ports.

A job has several hook-ups in general, so everything that names a plane names its hook-up. Nothing here knows
kinds of parts beyond which of their ports the line passes through.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from fenmist.errors import UnknownIdError
from fenmist.kit.part import Part, PartKind
from fenmist.measurand import PlaneRef

THROUGH_PORTS: Mapping[PartKind, tuple[str, ...]] = {
    PartKind.TRANSMITTER: ("out",),
    PartKind.INLINE_METER: ("in", "out"),
    PartKind.JUMPER: ("a", "b"),
    PartKind.TEE: ("a", "b"),
    PartKind.LEAD: ("a", "b"),
    PartKind.PROBE: ("a", "b"),
    PartKind.OSCILLOSCOPE: ("in",),
    PartKind.LOAD: ("in",),
}
"""Ports of each kind in the order in which power passes them."""

SIDE_PORT = "side"
"""A tee's third port."""


@dataclass(frozen=True)
class Element:
    """A part in its place on the line."""

    id: str
    part: str  # part id


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
        for item in self.elements:
            if item.id == element_id:
                return item
        raise UnknownIdError(f"The hook-up has no element “{element_id}”.", "Open the hook-up and look.")

    def mate(self, element_id: str, port: str) -> tuple[str, str] | None:
        """What is joined to a port: (element, port), or none."""
        for joint in self.joints:
            if joint.a == (element_id, port):
                return joint.b
            if joint.b == (element_id, port):
                return joint.a
        return None

    def with_part(self, element_id: str, part_id: str) -> "HookUp":
        """The same hook-up with another part in that place."""
        self.element(element_id)
        elements = (replace(item, part=part_id) if item.id == element_id else item for item in self.elements)
        return replace(self, elements=tuple(elements))


def walk(hookup: HookUp, parts: Mapping[str, Part], element_id: str, port: str) -> tuple[str, ...]:
    """Elements met from a port on, each entered at one end and left at the other, until one ends the way."""
    met: list[str] = []
    here: tuple[str, str] | None = hookup.mate(element_id, port)
    while here is not None and here[0] not in met:
        met.append(here[0])
        ports = THROUGH_PORTS[parts[hookup.element(here[0]).part].kind]
        onward = [other for other in ports if other != here[1]]
        here = hookup.mate(here[0], onward[0]) if len(ports) == 2 else None
    return tuple(met)


def main_line(hookup: HookUp, parts: Mapping[str, Part]) -> tuple[str, ...]:
    """Elements from the source to the load."""
    source = first_of_kind(hookup, parts, PartKind.TRANSMITTER)
    return (source, *walk(hookup, parts, source, "out")) if source else ()


def branches(hookup: HookUp, parts: Mapping[str, Part]) -> dict[str, tuple[str, ...]]:
    """What hangs on each side port, by the element that has it."""
    return {
        item.id: walk(hookup, parts, item.id, SIDE_PORT)
        for item in hookup.elements
        if hookup.mate(item.id, SIDE_PORT) is not None
    }


def first_of_kind(hookup: HookUp, parts: Mapping[str, Part], kind: PartKind) -> str | None:
    """Id of the first element whose part is of a kind, or none."""
    return next((item.id for item in hookup.elements if parts[item.part].kind is kind), None)


def scope_across_load(hookup_id: str, chosen: Iterable[Part]) -> HookUp:
    """The usual hook-up: transmitter, meter, jumper if there is one, tee on the load, lead or probe, oscilloscope.

    Parameters
    ----------
    hookup_id : str
        Its id in the job.
    chosen : parts
        One of each kind; the jumper may be left out, and a probe takes the place of the lead.
    """
    by_kind = {PartKind.LEAD if part.kind is PartKind.PROBE else part.kind: part for part in chosen}
    names = {
        PartKind.TRANSMITTER: "source", PartKind.INLINE_METER: "meter", PartKind.JUMPER: "jumper",
        PartKind.TEE: "tee", PartKind.LOAD: "load", PartKind.LEAD: "lead", PartKind.OSCILLOSCOPE: "scope",
    }  # fmt: skip
    missing = [kind for kind in names if kind not in by_kind and kind is not PartKind.JUMPER]
    if missing:
        raise UnknownIdError(f"The hook-up lacks a {missing[0]}.", "Choose one from the kit, or describe one there.")
    elements = tuple(Element(names[kind], by_kind[kind].id) for kind in names if kind in by_kind)
    joints = [Joint(("source", "out"), ("meter", "in"))]
    if PartKind.JUMPER in by_kind:
        joints += [Joint(("meter", "out"), ("jumper", "a")), Joint(("jumper", "b"), ("tee", "a"))]
    else:
        joints.append(Joint(("meter", "out"), ("tee", "a")))
    joints += [
        Joint(("tee", "b"), ("load", "in")),
        Joint(("tee", SIDE_PORT), ("lead", "a")),
        Joint(("lead", "b"), ("scope", "in")),
    ]
    stated = PlaneRef(hookup_id, "meter", "out")
    return HookUp(hookup_id, "oscilloscope across the load", elements, tuple(joints), stated)
