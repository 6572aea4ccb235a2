"""Every usual hook-up, made from a kit that has all of it: what stands, hangs and is read is what it says."""

from collections import Counter
from dataclasses import replace

import pytest

from fenmist.errors import UnknownIdError
from fenmist.hookup.line import main_way
from fenmist.hookup.templates import (
    END,
    OF_LOSS,
    OF_MATCH,
    OF_MODULATION,
    OF_SENSORS,
    OF_SOURCES,
    OF_STEPS,
    TEMPLATES,
    Visit,
    from_template,
)
from fenmist.kit import generic
from fenmist.kit.part import PartKind

K = PartKind
ALL = (*TEMPLATES, *OF_SENSORS, *OF_LOSS, *OF_MATCH, *OF_STEPS, *OF_SOURCES, *OF_MODULATION)


def whole_kit():
    """Two of each kind, so that a line may have both."""
    parts = {part.id: part for part in (*generic.generics(), *generic.starter_shelf())}
    parts["generic-steps"] = generic.attenuator("generic-steps", "steps", 0.0, 0.1, 1.0, positions=(0.0, 10.0, 20.0))
    twice = [replace(part, id=f"{part.id} {n}", label=f"{part.label} {n}") for part in parts.values() for n in (1, 2)]
    stepped = [part for part in twice if part.switches]
    return (*stepped, *(part for part in twice if not part.switches))


KIT = whole_kit()


def device_for(template):
    """What a question on that bench may be asked of; none where the bench takes the first of its kind."""
    kind = template.stated
    fitting = (part for part in KIT if part.kind is kind)
    return next(part for part in fitting if part.switches or template.steps is not kind or kind is K.GENERATOR)


@pytest.mark.parametrize("template", ALL, ids=[f"{n} {item.label} {item.stated}" for n, item in enumerate(ALL)])
def test_what_a_template_says_stands_on_its_bench(template):
    device = device_for(template)
    try:
        bench = from_template(template, KIT, "line", device)
    except UnknownIdError:
        pytest.skip("the generic kit has none of that kind")
    parts = {part.id: part for part in bench.parts}
    kinds = Counter(parts[item.part].kind for item in bench.hookup.elements)
    on_line = [parts[bench.hookup.element(stop.element).part].kind for stop in main_way(bench.hookup, parts)]

    # the line, in its order, with ends that may stand for each other
    same = [a is b or {a, b} <= {K.LOAD, K.MISMATCH} for a, b in zip(on_line, template.line, strict=True)]
    assert all(same)
    # what hangs, at the first of its kind or at each
    for on, hung in template.hanging.items():
        times = sum(kind is on for n, kind in enumerate(template.line) if n != template.device_place)
        for kind in hung:
            wanted = (times if template.at_each else 1) * hung.count(kind) + template.line.count(kind)
            lead = kind is K.LEAD and kinds[K.PROBE]
            assert kinds[kind] + (lead or 0) == wanted
    # what is read, beside the device, as many of each kind
    device_element = bench.hookup.stated.element
    read = Counter(parts[bench.hookup.element(name).part].kind for name in bench.read)
    assert read == Counter(template.read)
    if template.stated not in template.read:
        assert device_element not in bench.read
    # power is stated where it leaves the device
    stated = bench.hookup.stated
    if template.device_place >= 0:
        assert bench.hookup.element(stated.element).part == device.id
        assert stated.port == device.ends[-1]
    # hook-ups in turn
    known = {bench.hookup.id, *(item.id for item in bench.others)}
    assert {hookup for _, hookup in bench.visits} <= known
    if template.visits and not template.ends:
        last = parts[bench.hookup.element(main_way(bench.hookup, parts)[-1].element).part].label
        assert [leg for leg, _ in bench.visits] == [leg.replace(END, last) for leg, _ in template.visits]
        of = dict(zip([visit for _, visit in template.visits], [hookup for _, hookup in bench.visits], strict=True))
        assert of.get(Visit.DEVICE, bench.hookup.id) == bench.hookup.id
        without = next((item for item in bench.others if item.id == of.get(Visit.OUT)), None)
        if without is not None:
            assert all(item.part != device.id for item in without.elements)
    if template.ends:
        ends = {part.id for part in KIT if part.kind in template.ends}
        made = [bench.hookup, *bench.others]
        last = {hookup.element(main_way(hookup, parts)[-1].element).part for hookup in made}
        assert ends <= last | {device.id}
        numbered = [hookup.id for hookup in made if hookup.id != "line direct"]
        assert numbered == ["line", *(f"line {n}" for n in range(2, len(numbered) + 1))]
        for hookup in made:
            assert hookup.stated.hookup == hookup.id
    if template.steps is not None:
        switch = next(part for part in bench.parts if part.kind is template.steps and part.switches).switches[0]
        assert [leg for leg, _ in bench.visits] == [position.label for position in switch.positions]


def test_power_is_stated_where_the_device_stands_unless_another_place_is_said():
    for template in ALL:
        if template.place >= 0:
            assert template.device_place == template.place
        elif template.stated in template.line:
            assert template.line[template.device_place] is template.stated
            assert template.stated not in template.line[: template.device_place]
        else:
            assert template.device_place == -1


def test_steps_of_each_kind_of_thing_can_be_gone_through():
    """A ladder of one's own, a generator's outputs."""
    assert {K.ATTENUATOR, K.GENERATOR} <= {item.steps for item in (*OF_STEPS, *OF_SOURCES)}


def test_all_templates_but_a_few_can_be_made_of_generic_parts():
    made = 0
    for template in ALL:
        try:
            from_template(template, KIT, "line", device_for(template))
        except UnknownIdError:
            continue
        made += 1
    assert made >= len(ALL) - 3


def test_a_match_is_read_with_several_ends_or_both_ways_round_and_a_loss_with_and_without():
    """One end tells nothing of a meter of match; one visit nothing of a loss."""
    for template in OF_MATCH:
        assert template.ends or len(template.visits) > 1, template.label
    for template in OF_LOSS:
        assert len(template.visits) >= 3, template.label
    for template in OF_LOSS:  # couplers read what hangs at each of them
        assert template.at_each is (template.hanging != {}), template.label
    for template in OF_SENSORS:
        assert template.instead is K.POWER_METER and len(template.visits) == 3
