"""Arrangements of a bench: what is put behind, exchanged, turned round or ended otherwise, plug by plug."""

from dataclasses import replace

import pytest

from fenmist.errors import OutOfRangeError, UnknownIdError
from fenmist.hookup import editing
from fenmist.hookup.line import main_way
from fenmist.hookup.templates import OF_LOSS, OF_MATCH, OF_MODULATION, OF_SOURCES, OF_STEPS, TEMPLATES, from_template
from fenmist.kit import generic
from fenmist.kit.part import BYPASSED, SOURCES, PartKind
from studies.losses import device, meter
from studies.matches import end, watt_meter
from studies.references import QUIET, load, sensor


def bench(label, kind=PartKind.ATTENUATOR, part=None, *more):
    template = next(item for item in OF_LOSS if item.label == label and item.stated is kind)
    couplers = [generic.coupler(name, name, 40.0, 25.0, 0.1, 200.0) for name in ("c1", "c2")]
    kit = [QUIET, *couplers, meter("m1"), meter("m2"), load(), sensor("a"), sensor("b"), *more]
    return from_template(template, kit, "line", part or device())


def along(made, hookup):
    """Parts of a line, source first."""
    parts = {part.id: part for part in made.parts}
    return [hookup.element(stop.element).part for stop in main_way(hookup, parts)]


def by_leg(made):
    hookups = {item.id: item for item in (made.hookup, *made.others)}
    return {leg: hookups[name] for leg, name in made.visits}


def test_one_meter_stands_behind_the_part_and_then_in_front():
    made = bench("one meter, in front of it and behind it")
    legs = by_leg(made)

    assert along(made, legs["through"]) == ["source", "dev", "m1", "end"]
    assert along(made, legs["in front"]) == ["source", "m1", "dev", "end"]
    assert legs["in front again"] is legs["in front"]
    assert list(legs) == ["in front", "through", "in front again"]


def test_both_orders_exchange_couplers_with_what_hangs_on_them():
    made = bench("two couplers in both orders")
    legs = by_leg(made)

    def hung(hookup):
        return {hookup.element(joint.a[0]).part: hookup.element(joint.b[0]).part for joint in hookup.joints
                if joint.a[1] not in ("in", "out")}  # fmt: skip

    assert along(made, legs["direct"]) == ["source", "c1", "c2", "end"]
    assert along(made, legs["exchanged through"]) == ["source", "c2", "dev", "c1", "end"]
    assert along(made, legs["exchanged direct"]) == ["source", "c2", "c1", "end"]
    assert [hung(legs[name]) for name in ("through", "exchanged through")] == [{"c1": "a", "c2": "b"}] * 2


def test_settings_go_with_what_is_exchanged():
    made = bench("two meters in both orders")
    parts = {part.id: part for part in made.parts}
    one, two = made.read
    set_to = replace(made.hookup, elements=tuple(
        replace(item, settings={"range": item.part}) if item.id in made.read else item for item in made.hookup.elements
    ))  # fmt: skip
    swapped = editing.swapped(set_to, parts, [(one, two)])

    assert [(swapped.element(name).part, dict(swapped.element(name).settings)) for name in (one, two)] == [
        ("m2", {"range": "m2"}), ("m1", {"range": "m1"}),
    ]  # fmt: skip


def test_what_stands_at_an_end_is_put_behind_nothing():
    made = bench("two meters in line")
    parts = {part.id: part for part in made.parts}
    with pytest.raises(OutOfRangeError, match="can't be put behind"):
        editing.put_behind(made.hookup, parts, made.hookup.stated.element, made.hookup.joints[-1].b[0])


def test_a_tuner_is_read_into_each_end_at_work_and_once_without_it():
    tuner = next(part for part in generic.generics() if part.kind is PartKind.TUNER)
    ends = (end("r25", 25.0), end("r150", 150.0))
    made = bench("two couplers, each end in turn", PartKind.TUNER, tuner, *ends)
    legs = by_leg(made)

    assert list(legs) == ["direct", "Reedmace", "r25", "r150", "direct again"]
    assert [along(made, hookup)[-1] for hookup in legs.values()] == ["end", "end", "r25", "r150", "end"]
    at_work = [item.settings for hookup in legs.values() for item in hookup.elements if item.part == tuner.id]
    assert at_work == [{"tuner": "in line"}] * 3
    assert tuner.tunes({"tuner": "in line"}) and not tuner.tunes({"tuner": BYPASSED}) and not tuner.tunes({})
    assert not device().tunes({})


def test_a_meter_is_turned_round_behind_what_it_stood_behind():
    template = next(item for item in OF_MATCH if "turned round" in item.label and item.stated is PartKind.INLINE_METER)
    made = from_template(template, [QUIET, load()], "line", watt_meter())
    legs = by_leg(made)

    assert list(legs) == ["Reedmace", "Reedmace, turned round"]
    straight, turned = legs.values()
    assert straight.mate("wattmeter", "in") == turned.mate("wattmeter", "out") == ("transmitter", "out")
    assert (turned.id, turned.label) == ("line turned round", f"{made.hookup.label}, turned round")


def test_every_usual_line_begins_with_a_source_and_ends_with_what_ends_a_line():
    """Or with what is read there: a sensor, an analyser's own end."""
    ends = {PartKind.LOAD, PartKind.MISMATCH, PartKind.POWER_METER}
    for template in (*TEMPLATES, *OF_LOSS, *OF_MATCH, *OF_SOURCES, *OF_MODULATION):
        assert template.line[0] in SOURCES, template.label
        assert template.line[-1] in ends, template.label


def test_a_bench_of_a_source_is_the_usual_one_without_the_meter_under_test():
    usual = {item.label: item for item in TEMPLATES}
    for template in OF_SOURCES:
        if template.label in usual:
            former = usual[template.label].line
            at = former.index(PartKind.INLINE_METER)
            assert template.line[1:] == (*former[1:at], *former[at + 1 :]), template.label


def test_only_an_end_stands_for_an_end():
    """Without a load the mismatch ends the line; a cable that isn't there is said, not another end put in its place."""
    template = next(item for item in OF_MATCH if PartKind.CABLE in item.line and item.ends)
    pads = [generic.attenuator(f"p{n}", "pad", 10.0, 0.1, 9.0) for n in (1, 2)]
    parts = [watt_meter(), QUIET, end("e", 100.0), *pads]

    with pytest.raises(UnknownIdError, match="no cable"):
        from_template(template, parts, "line")


def test_a_switch_is_stepped_through_on_hook_ups_called_by_number():
    template = next(item for item in OF_STEPS if item.steps is PartKind.ATTENUATOR)
    kit = [generic.attenuator("steps", "steps", 0.0, 0.1, 9.0, positions=(0.0, 10.0, 20.0)), QUIET, load(),
           *generic.generics()]  # fmt: skip
    made = from_template(template, kit, "line", kit[0])

    assert [item.id for item in (made.hookup, *made.others)] == ["line", "line 2", "line 3"]
    assert made.visits == (("0 dB", "line"), ("10 dB", "line 2"), ("20 dB", "line 3"))
