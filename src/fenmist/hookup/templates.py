"""The usual hook-ups, made from what is in the kit: each takes the first part of a kind that is offered.

Where a kind is missing its place is left out if the line goes on without it, else the template says what is needed.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from enum import StrEnum

from fenmist.errors import UnknownIdError
from fenmist.frozen import dataclass
from fenmist.hookup import editing
from fenmist.hookup.editing import free_name
from fenmist.hookup.line import Element, HookUp, Joint, main_way
from fenmist.kit.part import BYPASSED, Part, PartKind
from fenmist.measurand import PlaneRef

K = PartKind

STANDS_FOR: Mapping[PartKind, tuple[PartKind, ...]] = {K.LEAD: (K.LEAD, K.PROBE)}
"""Kinds that may take another's place."""


class Visit(StrEnum):
    """What stands in the device's place where a question is read on several hook-ups in turn."""

    DEVICE = "the device"
    OUT = "nothing: what stands on both sides of it is joined"
    INSTEAD = "a reference"
    BEHIND = "what is read: the device stands behind it"
    TURNED = "the device the other way round"
    EXCHANGED = "the device, what stands on both sides of it exchanged"
    EXCHANGED_OUT = "nothing, what stood on both sides of it exchanged"


_EXCHANGED = (Visit.EXCHANGED, Visit.EXCHANGED_OUT)


@dataclass(frozen=True)
class Template:
    """A line as kinds of parts, source first; what hangs, by the kind it hangs on; kinds that may be missing.

    A kind that stands in the line twice takes two parts of the kit; what hangs is at the first, or at each. Power is
    stated at the device, or else at the first of a kind.
    """

    label: str
    line: tuple[PartKind, ...]
    hanging: Mapping[PartKind, tuple[PartKind, ...]]
    stated: PartKind  # at its far end
    optional: tuple[PartKind, ...] = ()
    read: tuple[PartKind, ...] = ()  # what is read, beside the device: the last of that kind, or of several the last
    place: int = -1  # of the device in the line; the first of the kind at which power is stated where not said
    at_each: bool = False  # what hangs, hangs at each of its kind
    visits: tuple[tuple[str, Visit], ...] = ()  # hook-ups in the order in which they are read, each with its leg
    instead: PartKind | None = None  # what takes the device's place on some
    ends: tuple[PartKind, ...] = ()  # kinds of which each part of the kit ends the line in turn
    steps: PartKind | None = None  # whose switch is turned from position to position, each a visit

    @property
    def device_place(self) -> int:
        """Where the device stands in the line; below 0 where it hangs on it."""
        if self.place >= 0 or self.stated not in self.line:
            return self.place
        return self.line.index(self.stated)

    @property
    def kinds(self) -> tuple[PartKind, ...]:
        """Every kind that it takes, the line first, then what takes the device's place."""
        others = [kind for number, kind in enumerate(self.line) if number != self.device_place]
        hung = [
            kind
            for on, kinds in self.hanging.items()
            for _ in range(others.count(on) if self.at_each else 1)
            for kind in kinds
        ]
        return (*self.line, *((self.instead,) if self.instead else ()), *hung)


@dataclass(frozen=True)
class Bench:
    """Hook-ups as they will be plugged together, their parts, and the elements that are read beside the device."""

    hookup: HookUp
    parts: tuple[Part, ...]
    read: tuple[str, ...]
    others: tuple[HookUp, ...] = ()  # the same with something else, or nothing, in the device's place
    visits: tuple[tuple[str, str], ...] = ()  # leg and id of the hook-up, in the order in which they are read


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
        "oscilloscope behind a divider", (K.TRANSMITTER, K.INLINE_METER, K.TEE, K.LOAD),
        {K.TEE: (K.DIVIDER, K.OSCILLOSCOPE)}, K.INLINE_METER, (), (K.OSCILLOSCOPE,),
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


_IN_TURN = (("reference", Visit.INSTEAD), ("device", Visit.DEVICE), ("reference again", Visit.INSTEAD))

OF_SENSORS = (
    Template(
        "in the reference's place, at a coupler", (K.GENERATOR, K.COUPLER, K.POWER_METER),
        {K.COUPLER: (K.ATTENUATOR, K.POWER_METER)}, K.POWER_METER, (K.ATTENUATOR,), (K.POWER_METER,),
        visits=_IN_TURN, instead=K.POWER_METER,
    ),
    Template(
        "in the reference's place, behind a pad", (K.TRANSMITTER, K.ATTENUATOR, K.COUPLER, K.POWER_METER),
        {K.COUPLER: (K.POWER_METER,)}, K.POWER_METER, (), (K.POWER_METER,), visits=_IN_TURN, instead=K.POWER_METER,
    ),
    Template(
        "in the reference's place, on a generator", (K.GENERATOR, K.ATTENUATOR, K.POWER_METER), {}, K.POWER_METER,
        (K.ATTENUATOR,), (K.GENERATOR,), visits=_IN_TURN, instead=K.POWER_METER,
    ),
)  # fmt: skip
"""Those on which a sensor is compared: it takes the place of another."""

ENDS = (K.LOAD, K.MISMATCH)
"""What ends a line and reflects as is known."""

END = "{end}"
"""Stands in a visit's name for what ends the line."""

_DIRECT_THROUGH = (("direct", Visit.OUT), ("through", Visit.DEVICE), ("direct again", Visit.OUT))

_THEN_EXCHANGED = (
    ("direct", Visit.OUT), ("through", Visit.DEVICE), ("exchanged through", Visit.EXCHANGED),
    ("exchanged direct", Visit.EXCHANGED_OUT),
)  # fmt: skip

_IN_FRONT_BEHIND = (("in front", Visit.BEHIND), ("through", Visit.DEVICE), ("in front again", Visit.BEHIND))

PASSED = (
    K.TUNER, K.ATTENUATOR, K.CABLE, K.JUMPER, K.ADAPTER, K.INLINE_METER, K.SWR_METER, K.TAP, K.COUPLER,
)  # fmt: skip
"""Kinds that a line passes: they lose something."""


def _of_loss(kind: PartKind) -> tuple[Template, ...]:
    """Benches on which a part's loss is read: an instrument in front of it and one behind, with it and without it."""
    return (
        Template(
            "two couplers", (K.TRANSMITTER, K.COUPLER, kind, K.COUPLER, K.LOAD), {K.COUPLER: (K.POWER_METER,)}, kind,
            (), (K.POWER_METER, K.POWER_METER), 2, True, _DIRECT_THROUGH,
        ),
        Template(
            "two meters in line", (K.TRANSMITTER, K.INLINE_METER, kind, K.INLINE_METER, K.LOAD), {}, kind, (),
            (K.INLINE_METER, K.INLINE_METER), 2,
            visits=_DIRECT_THROUGH,
        ),
        Template(
            "two couplers in both orders", (K.TRANSMITTER, K.COUPLER, kind, K.COUPLER, K.LOAD),
            {K.COUPLER: (K.POWER_METER,)}, kind, (), (K.POWER_METER, K.POWER_METER), 2, True, _THEN_EXCHANGED,
        ),
        Template(
            "two meters in both orders", (K.TRANSMITTER, K.INLINE_METER, kind, K.INLINE_METER, K.LOAD), {},
            kind, (), (K.INLINE_METER, K.INLINE_METER), 2,
            visits=_THEN_EXCHANGED,
        ),
        Template(
            "one meter, in front of it and behind it", (K.TRANSMITTER, K.ATTENUATOR, kind, K.INLINE_METER, K.LOAD), {},
            kind, (K.ATTENUATOR,), (K.INLINE_METER,), 2,
            visits=_IN_FRONT_BEHIND,
        ),
        Template(
            "one sensor, with it and without it", (K.TRANSMITTER, K.ATTENUATOR, kind, K.ATTENUATOR, K.POWER_METER), {},
            kind, (), (K.POWER_METER,), 2,
            visits=_DIRECT_THROUGH,
        ),
        Template(
            "a meter in line and a sensor", (K.TRANSMITTER, K.INLINE_METER, kind, K.ATTENUATOR, K.POWER_METER), {},
            kind, (), (K.INLINE_METER, K.POWER_METER), 2,
            visits=_DIRECT_THROUGH,
        ),
        Template(
            "a sensor on a generator", (K.GENERATOR, K.ATTENUATOR, kind, K.ATTENUATOR, K.POWER_METER), {}, kind,
            (K.ATTENUATOR,), (K.GENERATOR, K.POWER_METER), 2,
            visits=_DIRECT_THROUGH,
        ),
    )  # fmt: skip


_TUNED_INTO_ENDS = (
    Template(
        "two meters in line, each end in turn", (K.TRANSMITTER, K.INLINE_METER, K.TUNER, K.INLINE_METER, K.LOAD), {},
        K.TUNER, (), (K.INLINE_METER, K.INLINE_METER), 2,
        visits=_DIRECT_THROUGH, ends=ENDS,
    ),
    Template(
        "two couplers, each end in turn", (K.TRANSMITTER, K.COUPLER, K.TUNER, K.COUPLER, K.LOAD),
        {K.COUPLER: (K.POWER_METER,)}, K.TUNER, (), (K.POWER_METER, K.POWER_METER), 2, True, _DIRECT_THROUGH,
        ends=ENDS,
    ),
)  # fmt: skip

OF_LOSS = (*(template for kind in PASSED for template in _of_loss(kind)), *_TUNED_INTO_ENDS)
"""Benches on which the loss of a part is read."""

OF_METERS = tuple(item for item in TEMPLATES if item.stated is K.INLINE_METER and item.read)
"""Those on which a meter in the line is compared."""


def _of_home_built(template: Template) -> Iterator[Template]:
    """A usual bench with a home-built meter in the place of the one under test, also turned round afterwards."""
    line = tuple(K.HOME_BUILT if kind is K.INLINE_METER else kind for kind in template.line)
    one = replace(template, line=line, stated=K.HOME_BUILT)
    yield one
    yield replace(
        one, label=f"{template.label}, then the meter turned round",
        visits=((END, Visit.DEVICE), (f"{END}, turned round", Visit.TURNED)),
    )  # fmt: skip


OF_HOME_BUILT = tuple(
    made for template in TEMPLATES if template.stated is K.INLINE_METER and template.read
    for made in _of_home_built(template) if template.line.count(K.INLINE_METER) == 1
)  # fmt: skip
"""Those on which the constants of a home-built meter are read."""


def _of_source(template: Template, kind: PartKind) -> Template:
    """A usual bench without the meter under test, at the output of a source of a kind."""
    at = template.line.index(K.INLINE_METER)
    line = (kind, *template.line[1:at], *template.line[at + 1 :])
    return replace(template, line=line, stated=kind)


METERS_OF_MATCH = (K.SWR_METER, K.INLINE_METER, K.TRANSMITTER)
"""Kinds that tell of a match."""

METERS_IN_LINE = (K.SWR_METER, K.INLINE_METER)
"""Of those what stands in a line."""

_OF_THE_RADIO = tuple(
    Template(label, (K.TRANSMITTER, *way, K.LOAD), {}, K.TRANSMITTER, (), read, ends=ENDS)
    for label, way, read in (
        ("known ends at its output", (), (K.TRANSMITTER,)),
        ("known ends behind a cable", (K.CABLE,), (K.TRANSMITTER,)),
        *(
            (f"another meter {where}", (*between, other), (other,))
            for other in METERS_IN_LINE
            for where, between in (
                ("right behind it", ()),
                ("behind a cable", (K.CABLE,)),
                ("behind a tuner", (K.TUNER,)),
            )
        ),
    )
)
"""Benches on which a radio's own SWR meter is checked."""

OF_MATCH = (*_OF_THE_RADIO, *(
    template
    for kind in METERS_IN_LINE
    for template in (
        Template(
            "known ends of the line in turn", (K.TRANSMITTER, K.ATTENUATOR, kind, K.LOAD), {}, kind, (K.ATTENUATOR,),
            (kind,), ends=ENDS,
        ),
        Template(
            "known ends behind a cable", (K.TRANSMITTER, K.ATTENUATOR, kind, K.CABLE, K.LOAD), {}, kind,
            (K.ATTENUATOR,), (kind,), ends=ENDS,
        ),
        *(
            Template(
                f"another meter {where}", (K.TRANSMITTER, kind, *way, other, K.LOAD), {}, kind, (), (other,),
                place=1, ends=ENDS,
            )
            for other in METERS_IN_LINE
            for where, way in (("right behind it", ()), ("behind a cable", (K.CABLE,)), ("behind a tuner", (K.TUNER,)))
        ),
        Template(
            "a good load, then the meter turned round", (K.TRANSMITTER, K.ATTENUATOR, kind, K.LOAD), {}, kind,
            (K.ATTENUATOR,), (kind,),
            visits=((END, Visit.DEVICE), (f"{END}, turned round", Visit.TURNED)),
        ),
        Template(
            "known mismatches in turn", (K.TRANSMITTER, K.ATTENUATOR, kind, K.MISMATCH), {}, kind, (K.ATTENUATOR,),
            (kind,), ends=(K.MISMATCH,),
        ),
    )
))  # fmt: skip
"""Benches on which a reading of a match is checked."""


STEPPED = (K.ATTENUATOR, K.POWER_METER, K.GENERATOR, K.INLINE_METER)
"""Kinds that are asked whether their steps step."""

OF_STEPS = (
    *(
        Template(
            "an attenuator's steps, generator to sensor", (K.GENERATOR, K.ATTENUATOR, K.POWER_METER), {}, kind, (),
            (K.GENERATOR, K.POWER_METER), steps=K.ATTENUATOR,
        )
        for kind in (K.ATTENUATOR, K.POWER_METER)
    ),
    Template(
        "a generator's levels into a sensor", (K.GENERATOR, K.POWER_METER), {}, K.GENERATOR, (),
        (K.GENERATOR, K.POWER_METER),
    ),
    Template(
        "a generator's outputs in turn, into one sensor", (K.GENERATOR, K.POWER_METER), {}, K.GENERATOR, (),
        (K.GENERATOR, K.POWER_METER), steps=K.GENERATOR,
    ),
    Template(
        "a meter in line over levels, sensor behind a pad",
        (K.TRANSMITTER, K.INLINE_METER, K.ATTENUATOR, K.POWER_METER), {}, K.INLINE_METER, (), (K.POWER_METER,),
    ),
)  # fmt: skip
"""Benches on which steps are checked."""


OF_MODULATION = tuple(
    template
    for kind in METERS_IN_LINE
    for template in (
        Template("waveforms in turn, the crest on an oscilloscope", (K.TRANSMITTER, kind, K.JUMPER, K.TEE, K.LOAD),
                 {K.TEE: (K.LEAD, K.OSCILLOSCOPE)}, kind, (K.JUMPER,), (K.OSCILLOSCOPE,)),
        Template("waveforms in turn into a load", (K.TRANSMITTER, kind, K.LOAD), {}, kind, (), (kind,)),
    )
)  # fmt: skip
"""Benches on which a meter is shown several waveforms of one PEP."""


OF_TRIAGE = (
    Template(
        "its own meter and one behind it", (K.TRANSMITTER, K.JUMPER, K.INLINE_METER, K.LOAD), {}, K.TRANSMITTER,
        (K.JUMPER,), (K.INLINE_METER,),
    ),
)  # fmt: skip
"""For what is wrong of a transmitter, its line or a meter."""

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


def from_template(template: Template, kit: Sequence[Part], hookup_id: str, device: Part | None = None) -> Bench:
    """A hook-up with a device, if one is given, and the first parts of each kind in a kit.

    Raises
    ------
    UnknownIdError
        Names the kind that the kit lacks.
    """
    left = [item for item in kit if not item.retired and (device is None or item.id != device.id)]
    if device is not None and template.device_place < 0:
        left.insert(0, device)
    made = HookUp(hookup_id, template.label, (), (), PlaneRef(hookup_id, "", ""))
    placed: dict[PartKind, list[tuple[str, Part]]] = {}
    chosen = _taken(template, template.line, left, device)
    made = _joined(made, chosen, None, placed)
    there = _taken(template, (template.instead,), left) if template.instead else []
    first = _device_in(template, placed, chosen, device) if template.device_place >= 0 else None
    for on, kinds in template.hanging.items():
        for name, part in [item for item in placed[on] if item != first] if template.at_each else placed[on][:1]:
            made = _joined(made, _taken(template, kinds, left), (name, part.side_ports[0].id), placed)
    stated, part = first or placed[template.stated][0]
    hookup = replace(made, stated=PlaneRef(hookup_id, stated, part.ends[-1]))
    if template.ends and template.visits:
        hookup = _at_work(hookup, stated, part)
    parts = (*(part for some in placed.values() for _, part in some), *(part for _, part in there))
    read = _read(template, placed, stated)
    pairs = _on_both_sides(template, placed, stated, read)
    others, visits = _other_hookups(template, hookup, {part.id: part for part in parts}, there, pairs, read)
    if template.ends:
        more = tuple(item for item in left if item.kind in template.ends)
        ended, of_ends = _with_other_ends(hookup, {part.id: part for part in parts}, more)
        around = [visit for visit in visits if visit[1] != hookup.id]  # without the device once, before and after
        others = (*others, *ended)
        visits = (*around[:1], *of_ends, *around[1:])
        parts = (*parts, *more)
    if template.steps is not None:
        hookup, others, visits = _with_positions(hookup, placed[template.steps][0])
    return Bench(hookup, parts, read, others, visits)


def _read(template: Template, placed: Mapping[PartKind, Sequence[tuple[str, Part]]], device: str) -> tuple[str, ...]:
    """Elements that are read: of each kind the last ones beside the device, in the order of the line."""
    found: list[str] = []
    for kind in dict.fromkeys(template.read):
        names = [name for name, _ in placed[kind] if name != device] or [name for name, _ in placed[kind]]
        found += names[-template.read.count(kind) :]
    return tuple(found)


def _at_work(hookup: HookUp, element: str, part: Part) -> HookUp:
    """The hook-up with a tuner in line rather than bypassed."""
    settings = {
        switch.id: next((item.label for item in switch.positions if item.label != BYPASSED), switch.positions[0].label)
        for switch in part.switches
    }
    elements = tuple(replace(item, settings=settings) if item.id == element else item for item in hookup.elements)
    return replace(hookup, elements=elements)


def _on_both_sides(
    template: Template, placed: Mapping[PartKind, Sequence[tuple[str, Part]]], device: str, read: Sequence[str]
) -> tuple[tuple[str, str], ...]:
    """Elements that change places where both sides are exchanged: what is read, and what that hangs on."""
    kinds = [kind for kind in placed if kind in template.read or (template.at_each and kind in template.hanging)]
    found = []
    for kind in kinds:
        names = [name for name, _ in placed[kind] if name != device]
        names = [name for name in names if name in read] if kind in template.read else names
        if len(names) == 2:
            found.append((names[0], names[1]))
    return tuple(found)


def _device_in(
    template: Template,
    placed: Mapping[PartKind, Sequence[tuple[str, Part]]],
    chosen: Sequence[tuple[PartKind, Part]],
    device: Part | None,
) -> tuple[str, Part]:
    """What stands in the device's place of the line; what is missing in front of it doesn't count."""
    there = {kind for kind, _ in chosen}
    at = sum(kind in there for kind in template.line[: template.device_place])
    part = device or chosen[at][1]
    return next((name, item) for some in placed.values() for name, item in some if item is part)


def _other_hookups(
    template: Template,
    hookup: HookUp,
    parts: Mapping[str, Part],
    there: Sequence[tuple[PartKind, Part]],
    pairs: Sequence[tuple[str, str]],
    read: Sequence[str],
) -> tuple[tuple[HookUp, ...], tuple[tuple[str, str], ...]]:
    """The hook-ups that are read besides the one with the device, and all in the order in which they are."""
    made: dict[Visit, HookUp] = {Visit.DEVICE: hookup}
    for leg, visit in template.visits:
        if visit in made:
            continue
        device = hookup.stated.element
        there_now = editing.swapped(hookup, parts, pairs) if visit in _EXCHANGED else hookup
        if visit in (Visit.OUT, Visit.EXCHANGED_OUT):
            other = editing.removed(there_now, parts, device)
        elif visit is Visit.INSTEAD:
            other = editing.exchanged(hookup, parts, device, there[0][1])
        elif visit is Visit.TURNED:
            other = editing.turned_round(hookup, parts, device)
        elif visit is Visit.BEHIND:
            (name,) = read
            other = editing.put_behind(hookup, parts, device, name)
        else:
            other = there_now
        name = f"{hookup.id} {leg.replace(END, '').strip(', ')}"
        made[visit] = replace(
            other,
            id=name,
            label=f"{hookup.label}, {leg.replace(END, '').strip(', ')}",
            stated=replace(other.stated, hookup=name),
        )
    last = parts[hookup.element(main_way(hookup, parts)[-1].element).part].label
    visits = tuple((leg.replace(END, last), made[visit].id) for leg, visit in template.visits)
    return tuple(item for visit, item in made.items() if visit is not Visit.DEVICE), visits


def _with_other_ends(
    hookup: HookUp, parts: Mapping[str, Part], ends: Sequence[Part]
) -> tuple[tuple[HookUp, ...], tuple[tuple[str, str], ...]]:
    """The hook-up with each of the other ends, and all in turn, each visit called by what ends the line."""
    last = main_way(hookup, parts)[-1].element
    made = []
    for number, part in enumerate(ends, start=2):
        other, name = editing.exchanged(hookup, parts, last, part), f"{hookup.id} {number}"
        label = f"{hookup.label}, {part.label}"
        made.append(replace(other, id=name, label=label, stated=replace(other.stated, hookup=name)))
    first = parts[hookup.element(last).part].label
    visits = ((first, hookup.id), *((part.label, item.id) for part, item in zip(ends, made, strict=True)))
    return tuple(made), visits


def _with_positions(
    hookup: HookUp, stepped: tuple[str, Part]
) -> tuple[HookUp, tuple[HookUp, ...], tuple[tuple[str, str], ...]]:
    """The hook-up with a switch in its first position, in each of the others, and all as visits by their names."""
    name, part = stepped
    if not part.switches or len(part.switches[0].positions) < 2:
        raise UnknownIdError(f"{part.label} has no positions to step through.", "Describe them in the kit.")
    made = []
    for number, position in enumerate(part.switches[0].positions, start=1):
        there = hookup.id if number == 1 else f"{hookup.id} {number}"
        elements = tuple(
            replace(item, settings={part.switches[0].id: position.label}) if item.id == name else item
            for item in hookup.elements
        )
        label = hookup.label if number == 1 else f"{hookup.label}, {position.label}"
        stated = replace(hookup.stated, hookup=there)
        made.append((position.label, replace(hookup, id=there, label=label, elements=elements, stated=stated)))
    first, *others = (item for _, item in made)
    return first, tuple(others), tuple((label, item.id) for label, item in made)


def _taken(
    template: Template, kinds: Sequence[PartKind], left: list[Part], device: Part | None = None
) -> list[tuple[PartKind, Part]]:
    """The next part of each kind out of what is left of a kit; the device in its place of the line."""
    taken = []
    for number, kind in enumerate(kinds):
        if device is not None and number == template.device_place:
            taken.append((kind, device))
            continue
        places = [
            next((n for n, item in enumerate(left) if item.kind in fitting), None)
            for fitting in (STANDS_FOR.get(kind, (kind,)), template.ends if kind in template.ends else ())
        ]  # an end of the line may be any other one
        place = next((item for item in places if item is not None), None)
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
