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


@dataclass(frozen=True)
class Template:
    """A line as kinds of parts, source first; what hangs, by the kind it hangs on; kinds that may be missing."""

    label: str
    line: tuple[PartKind, ...]
    hanging: Mapping[PartKind, tuple[PartKind, ...]]
    stated: PartKind  # at its far end
    optional: tuple[PartKind, ...] = ()


TEMPLATES = (
    Template(
        "oscilloscope across the load", (K.TRANSMITTER, K.INLINE_METER, K.JUMPER, K.TEE, K.LOAD),
        {K.TEE: (K.LEAD, K.OSCILLOSCOPE)}, K.INLINE_METER, (K.JUMPER,),
    ),
    Template(
        "tap and sensor", (K.TRANSMITTER, K.INLINE_METER, K.TAP, K.LOAD),
        {K.TAP: (K.ATTENUATOR, K.POWER_METER)}, K.INLINE_METER, (K.ATTENUATOR,),
    ),
    Template(
        "sensor behind a pad", (K.TRANSMITTER, K.INLINE_METER, K.ATTENUATOR, K.POWER_METER), {}, K.INLINE_METER,
    ),
    Template(
        "coupler and sensor", (K.TRANSMITTER, K.INLINE_METER, K.COUPLER, K.LOAD),
        {K.COUPLER: (K.POWER_METER,)}, K.INLINE_METER,
    ),
    Template(
        "known mismatch behind an SWR meter", (K.TRANSMITTER, K.ATTENUATOR, K.SWR_METER, K.MISMATCH), {}, K.SWR_METER,
        (K.ATTENUATOR,),
    ),
    Template("generator into a sensor", (K.GENERATOR, K.CABLE, K.POWER_METER), {}, K.GENERATOR, (K.CABLE,)),
    Template("transmitter into its load", (K.TRANSMITTER, K.CABLE, K.LOAD), {}, K.TRANSMITTER, (K.CABLE,)),
)  # fmt: skip
"""What benches are usually like."""


def from_template(template: Template, kit: Sequence[Part], hookup_id: str) -> tuple[HookUp, tuple[Part, ...]]:
    """A hook-up and the parts it takes.

    Raises
    ------
    UnknownIdError
        Names the kind that the kit lacks.
    """
    chosen: dict[PartKind, Part] = {}
    for kind in (*template.line, *(k for kinds in template.hanging.values() for k in kinds)):
        part = next((item for item in kit if item.kind is kind and not item.retired), None)
        if part is not None:
            chosen[kind] = part
        elif kind not in template.optional:
            raise UnknownIdError(f"The kit has no {kind}.", "Add one there, or choose another hook-up.")
    made = HookUp(hookup_id, template.label, (), (), PlaneRef(hookup_id, "", ""))
    made, names = _joined(made, chosen, [kind for kind in template.line if kind in chosen], None)
    for on, kinds in template.hanging.items():
        side = chosen[on].side_ports[0].id
        made, _ = _joined(made, chosen, [kind for kind in kinds if kind in chosen], (names[on], side))
    stated = PlaneRef(hookup_id, names[template.stated], chosen[template.stated].ends[-1])
    return replace(made, stated=stated), tuple(chosen.values())


def _joined(
    hookup: HookUp, chosen: Mapping[PartKind, Part], kinds: Sequence[PartKind], at: tuple[str, str] | None
) -> tuple[HookUp, dict[PartKind, str]]:
    names = {}
    for kind in kinds:
        part = chosen[kind]
        name, ends = free_name(hookup, part), part.ends
        names[kind] = name
        joints = (Joint(at, (name, ends[0])),) if at else ()
        hookup = replace(
            hookup, elements=(*hookup.elements, Element(name, part.id)), joints=(*hookup.joints, *joints)
        )  # fmt: skip
        at = (name, ends[-1])
    return hookup, names
