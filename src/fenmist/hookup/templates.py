"""The usual hook-ups, made from what is in the kit: each takes the first part of a kind that is offered.

Where a kind is missing its place is left out if the line goes on without it, else the template says what is needed.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from fenmist.errors import UnknownIdError
from fenmist.hookup.editing import free_name
from fenmist.hookup.line import Element, HookUp, Joint
from fenmist.kit.part import Part, PartKind
from fenmist.measurand import PlaneRef

K = PartKind

STANDS_FOR: Mapping[PartKind, tuple[PartKind, ...]] = {K.LEAD: (K.LEAD, K.PROBE)}
"""Kinds that may take another's place."""


@dataclass(frozen=True)
class Template:
    """A line as kinds of parts, source first; what hangs, by the kind it hangs on; kinds that may be missing.

    A kind that stands in the line twice takes two parts of the kit; what hangs, and the plane, are at the first.
    """

    label: str
    line: tuple[PartKind, ...]
    hanging: Mapping[PartKind, tuple[PartKind, ...]]
    stated: PartKind  # at its far end
    optional: tuple[PartKind, ...] = ()
    read: tuple[PartKind, ...] = ()  # what is read, beside the device: the last of that kind

    @property
    def kinds(self) -> tuple[PartKind, ...]:
        """Every kind that it takes, the line first."""
        return (*self.line, *(kind for kinds in self.hanging.values() for kind in kinds))


@dataclass(frozen=True)
class Bench:
    """A hook-up as it will be plugged together, its parts, and the elements that are read beside the device."""

    hookup: HookUp
    parts: tuple[Part, ...]
    read: tuple[str, ...]


TEMPLATES = (
    Template(
        "oscilloscope across the load", (K.TRANSMITTER, K.INLINE_METER, K.JUMPER, K.TEE, K.LOAD),
        {K.TEE: (K.LEAD, K.OSCILLOSCOPE)}, K.INLINE_METER, (K.JUMPER,), (K.OSCILLOSCOPE,),
    ),
    Template(
        "tap and sensor", (K.TRANSMITTER, K.INLINE_METER, K.TAP, K.LOAD),
        {K.TAP: (K.ATTENUATOR, K.POWER_METER)}, K.INLINE_METER, (K.ATTENUATOR,), (K.POWER_METER,),
    ),
    Template(
        "sensor behind a pad", (K.TRANSMITTER, K.INLINE_METER, K.ATTENUATOR, K.POWER_METER), {}, K.INLINE_METER,
        (), (K.POWER_METER,),
    ),
    Template(
        "coupler and sensor", (K.TRANSMITTER, K.INLINE_METER, K.COUPLER, K.LOAD),
        {K.COUPLER: (K.ATTENUATOR, K.POWER_METER)}, K.INLINE_METER, (K.ATTENUATOR,), (K.POWER_METER,),
    ),
    Template(
        "known mismatch behind an SWR meter", (K.TRANSMITTER, K.ATTENUATOR, K.SWR_METER, K.MISMATCH), {}, K.SWR_METER,
        (K.ATTENUATOR,),
    ),
    Template(
        "generator into a sensor", (K.GENERATOR, K.CABLE, K.POWER_METER), {}, K.GENERATOR, (K.CABLE,), (K.POWER_METER,),
    ),
    Template("transmitter into its load", (K.TRANSMITTER, K.CABLE, K.LOAD), {}, K.TRANSMITTER, (K.CABLE,)),
    Template(
        "voltmeter behind a divider", (K.TRANSMITTER, K.INLINE_METER, K.TEE, K.LOAD),
        {K.TEE: (K.DIVIDER, K.VOLTMETER)}, K.INLINE_METER, (), (K.VOLTMETER,),
    ),
    Template(
        "ammeter before the load", (K.TRANSMITTER, K.INLINE_METER, K.AMMETER, K.LOAD), {}, K.INLINE_METER, (),
        (K.AMMETER,),
    ),
    Template(
        "another meter in the line", (K.TRANSMITTER, K.INLINE_METER, K.INLINE_METER, K.LOAD), {}, K.INLINE_METER, (),
        (K.INLINE_METER,),
    ),
    Template(
        "sensor behind two pads", (K.TRANSMITTER, K.INLINE_METER, K.ATTENUATOR, K.ATTENUATOR, K.POWER_METER), {},
        K.INLINE_METER, (), (K.POWER_METER,),
    ),
    Template(
        "generator's own level", (K.GENERATOR, K.INLINE_METER, K.LOAD), {}, K.INLINE_METER, (), (K.GENERATOR,),
    ),
)  # fmt: skip
"""What benches are usually like."""


OF_METERS = tuple(item for item in TEMPLATES if item.stated is K.INLINE_METER and item.read)
"""Those on which a meter in the line is compared."""


def _of_source(template: Template, kind: PartKind) -> Template:
    """A usual bench without the meter under test, at the output of a source of a kind."""
    at = template.line.index(K.INLINE_METER)
    line = (kind, *template.line[1:at], *template.line[at + 1 :])
    return replace(template, line=line, stated=kind)


OF_SOURCES = tuple(
    _of_source(template, kind)
    for template in OF_METERS
    if K.GENERATOR not in template.line
    for kind in (K.TRANSMITTER, K.GENERATOR)
) + tuple(
    Template("sensor on the output", (kind, K.CABLE, K.POWER_METER), {}, kind, (K.CABLE,), (K.POWER_METER,))
    for kind in (K.TRANSMITTER, K.GENERATOR)
)
"""Benches on which the power of a source is read."""


def from_template(template: Template, kit: Sequence[Part], hookup_id: str) -> Bench:
    """A hook-up with the first parts of each kind in a kit.

    Raises
    ------
    UnknownIdError
        Names the kind that the kit lacks.
    """
    left = [item for item in kit if not item.retired]
    made = HookUp(hookup_id, template.label, (), (), PlaneRef(hookup_id, "", ""))
    placed: dict[PartKind, list[tuple[str, Part]]] = {}
    made = _joined(made, _taken(template, template.line, left), None, placed)
    for on, kinds in template.hanging.items():
        name, part = placed[on][0]
        made = _joined(made, _taken(template, kinds, left), (name, part.side_ports[0].id), placed)
    stated, part = placed[template.stated][0]
    hookup = replace(made, stated=PlaneRef(hookup_id, stated, part.ends[-1]))
    parts = tuple(part for some in placed.values() for _, part in some)
    return Bench(hookup, parts, tuple(placed[kind][-1][0] for kind in template.read))


def _taken(template: Template, kinds: Sequence[PartKind], left: list[Part]) -> list[tuple[PartKind, Part]]:
    """The next part of each kind out of what is left of a kit."""
    taken = []
    for kind in kinds:
        place = next((n for n, item in enumerate(left) if item.kind in STANDS_FOR.get(kind, (kind,))), None)
        if place is not None:
            taken.append((kind, left.pop(place)))
        elif kind not in template.optional:
            raise UnknownIdError(f"The kit has no {kind}.", "Add one there, or choose another hook-up.")
    return taken


def _joined(
    hookup: HookUp,
    chosen: Sequence[tuple[PartKind, Part]],
    at: tuple[str, str] | None,
    placed: dict[PartKind, list[tuple[str, Part]]],
) -> HookUp:
    """A hook-up with parts in a row, from a connector on; where each stands is noted in `placed`."""
    for kind, part in chosen:
        name, ends = free_name(hookup, part), part.ends
        placed.setdefault(kind, []).append((name, part))
        joints = (Joint(at, (name, ends[0])),) if at else ()
        hookup = replace(hookup, elements=(*hookup.elements, Element(name, part.id)), joints=(*hookup.joints, *joints))
        at = (name, ends[-1])
    return hookup
