"""Which benches a kit allows: every usual hook-up that fits a question, with the parts that could stand in it."""

from collections.abc import Iterator, Sequence
from itertools import chain, islice, product

from fenmist.errors import UnknownIdError
from fenmist.hookup.templates import STANDS_FOR, Bench, Template, from_template
from fenmist.kit.part import Part, PartKind

VARIED = (PartKind.ATTENUATOR, PartKind.TAP, PartKind.COUPLER, PartKind.DIVIDER, PartKind.LEAD)
"""Kinds of which each part makes another bench; of others the best one is taken, or none
where the line goes on without it."""

MOST_VARIANTS = 12
"""Benches that are looked at for each instrument in each hook-up."""


def candidates(templates: Sequence[Template], kit: Sequence[Part], device: Part) -> Iterator[tuple[Bench, ...]]:
    """Benches for a device, those that read the same instrument in the same hook-up together."""
    for template in templates:
        for variants in _by_instrument(template, kit, device):
            made = tuple(islice(variants, MOST_VARIANTS))
            if made:
                yield made


def first_made(template: Template, kit: Sequence[Part], device: Part) -> Bench | None:
    """The first of those benches of one hook-up; none where the kit allows none."""
    return next(chain.from_iterable(_by_instrument(template, kit, device)), None)


def fits(template: Template, device: Part) -> bool:
    """Whether a hook-up states its answer at a part of that kind."""
    return device.kind in STANDS_FOR.get(template.stated, (template.stated,))


def _by_instrument(template: Template, kit: Sequence[Part], device: Part) -> Iterator[Iterator[Bench]]:
    """Benches of one hook-up, by the instrument that is read."""
    if not fits(template, device):
        return
    there = [part for part in kit if not part.retired and part.id != device.id]
    is_device = template.read == (template.stated,) and template.kinds.count(template.stated) == 1
    for instrument in [device] if is_device else [part for part in there if part.kind is template.read[0]]:
        yield _variants(template, there, device, instrument)


def _variants(template: Template, there: Sequence[Part], device: Part, instrument: Part) -> Iterator[Bench]:
    kinds = list(template.kinds)
    for taken in {id(device): template.stated, id(instrument): template.read[0]}.values():
        kinds.remove(taken)
    choices = [_choices(kind, [part for part in there if part is not instrument], kind in template.optional)
               for kind in kinds]  # fmt: skip
    ends = [part for part in there if part.kind in template.ends]
    for chosen in product(*choices):
        parts = [part for part in chosen if part is not None]
        if len({part.id for part in parts}) < len(parts):
            continue
        try:
            more = [part for part in ends if part not in parts]
            yield from_template(template, [instrument, *parts, *more], "line", device)
        except UnknownIdError:
            continue


def _choices(kind: PartKind, there: Sequence[Part], optional: bool) -> list[Part | None]:
    fitting: list[Part | None] = [part for part in there if part.kind in STANDS_FOR.get(kind, (kind,))]
    fitting.sort(key=lambda part: -_worth(part))
    if kind not in VARIED:
        return [None] if optional else fitting[:1] or [None]
    return [*([None] if optional or not fitting else []), *fitting]


def _worth(part: Part | None) -> float:
    """What of several parts of a kind is taken first: what is measured, then what bears most."""
    if part is None:
        return 0.0
    limits = [port.power_limit_w for port in part.ports if port.power_limit_w]
    measured = 1e9 if part.characterisations else 0.0
    return measured + max(limits, default=0.0)
