"""Along a way: what open phases cost, the stairs of levels and limits, the heat of a load; all worked out by hand."""

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from fenmist.hookup.editing import inserted
from fenmist.hookup.heat import HeatModel, Keying, heat_model
from fenmist.hookup.levels import line_levels
from fenmist.hookup.line import HookUp, main_way, side_ways
from fenmist.hookup.mismatch import end_mismatches, mismatch_before, source_mismatch
from fenmist.hookup.network import line_network
from fenmist.hookup.staircase import staircase
from fenmist.hookup.templates import TEMPLATES, from_template
from fenmist.kit import generic, shelf
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import Part, PartKind, Property
from fenmist.measurand import PlaneRef
from studies.builders import bench_kit, job

F = np.array([7e6])


def with_swr(part: Part, swr: float, measured: bool = True) -> Part:
    return replace(part, properties={**part.properties, "swr": Property(swr, "", measured=measured)})


def line(*parts: Part) -> tuple[HookUp, dict[str, Part]]:
    """Source, wattmeter, then these in a row; power is stated at the meter's output."""
    made = job(load="50")
    known = {**made.parts, **{part.id: part for part in parts}}
    from fenmist.hookup.line import Element, Joint

    names = ["source", "meter", *(part.id for part in parts)]
    elements = [Element("source", "tx"), Element("meter", "meter"), *(Element(part.id, part.id) for part in parts)]
    ports = {"source": ("", "out"), "meter": ("in", "out")}
    ports |= {part.id: (part.ends[0], part.ends[-1]) for part in parts}
    joints = [Joint((a, ports[a][1]), (b, ports[b][0])) for a, b in pairwise(names)]
    return HookUp("x", "x", tuple(elements), tuple(joints), PlaneRef("x", "meter", "out")), known


def pad(name: str, loss_db: float, swr: float, measured: bool = True) -> Part:
    return with_swr(generic.attenuator(name, name, loss_db, 0.1, 150.0), swr, measured)


def sensor(swr: float, measured: bool = True) -> Part:
    return with_swr(generic.power_meter("sensor", "sensor"), swr, measured)


G = {swr: (swr - 1) / (swr + 1) for swr in (1.1, 1.2, 1.5, 2.0)}


@pytest.mark.parametrize(("first", "last", "wanted"), [
    ((1.2, True), (1.5, True), math.sqrt(2) * G[1.2] * G[1.5]), ((1.2, False), (1.5, True), G[1.2] * G[1.5]),
    ((1.2, False), (1.5, False), G[1.2] * G[1.5] / math.sqrt(2)),
])  # fmt: skip
def test_a_pad_against_a_sensor(first, last, wanted):
    """Two known magnitudes cost √2·m1·m2, a ceiling and a magnitude m·c, two ceilings c1·c2/√2."""
    hookup, parts = line(pad("pad", 10.0, *first), sensor(*last))
    (found,) = end_mismatches(hookup, parts, line_network(hookup, parts, F))

    assert found.element == "sensor"
    assert found.u_relative == pytest.approx(wanted)
    assert found.between == ("pad", "sensor")


def test_what_faces_across_a_pad_is_weaker_by_its_loss_both_ways():
    """Pad 1's output sees pad 2's input, and through pad 2 (6 dB) the sensor: 10^(−6/10) of it."""
    hookup, parts = line(pad("one", 3.0, 1.2), pad("two", 6.0, 1.1), sensor(1.5))
    (found,) = end_mismatches(hookup, parts, line_network(hookup, parts, F))
    pairs = {
        ("one", "two"): G[1.2] * G[1.1],
        ("two", "sensor"): G[1.1] * G[1.5],
        ("one", "sensor"): G[1.2] * G[1.5] * 10 ** (-6.0 / 10),
    }

    assert found.u_relative == pytest.approx(math.sqrt(2 * sum(value**2 for value in pairs.values())))
    assert found.between == max(pairs, key=pairs.get)


def test_only_what_lies_behind_the_stated_plane_counts():
    hookup, parts = line(pad("pad", 10.0, 1.2), sensor(1.5))
    before = replace(hookup, stated=PlaneRef("x", "pad", "out"))

    assert end_mismatches(before, parts, line_network(before, parts, F)) == ()


def test_at_a_tee_each_end_has_its_own_pairs():
    made = job(load="100")
    hookup = made.hookups[0]
    jumper = with_swr(shelf.jumper("jumper", "jumper", 0.0, 0.01), 1.2)
    hookup, parts = inserted(hookup, "meter", "out", jumper), {**made.parts, "jumper": jumper}
    network = line_network(hookup, parts, F)
    found = {item.element: item for item in end_mismatches(hookup, parts, network)}

    assert set(found) <= {"load", "scope"}
    # 100 Ω in 50 Ω is |Γ| = 1/3, its phase known: with the jumper of SWR 1.2 √2·|Γ1Γ2|
    assert mismatch_before(hookup, parts, network, "tee") == pytest.approx(math.sqrt(2) * G[1.2] / 3, rel=1e-3)
    silent = replace(jumper, properties={k: v for k, v in jumper.properties.items() if k != "swr"})
    assert list(mismatch_before(hookup, {**parts, "jumper": silent}, network, "tee")) == [0.0]


def test_a_sources_own_match_counts_against_all_behind_it():
    hookup, parts = line(pad("pad", 10.0, 1.2), sensor(1.5))
    parts = {**parts, "tx": with_swr(parts["tx"], 2.0), "meter": with_swr(parts["meter"], 1.1)}
    network = line_network(hookup, parts, F)
    through = 10 ** (-parts["meter"].properties["loss_db"].value / 10)
    pairs = [G[2.0] * G[1.1], G[2.0] * G[1.2] * through, G[2.0] * G[1.5] * through * 0.1]

    assert source_mismatch(hookup, parts, network) == pytest.approx(math.sqrt(2 * sum(p**2 for p in pairs)), rel=1e-3)


# the staircase


def stairs(made, f=7e6, watts=100.0):
    hookup = made.hookups[0]
    plan = line_levels(hookup, made.parts, np.array([f])).plan(made.parts, watts)
    return {item.element: item for item in staircase(hookup, made.parts, plan)}


def test_a_stair_for_each_part_with_its_level_and_ceiling():
    """100 W are +50 dBm; the meter stands 200 W (+53.0), the load 150 W (+51.8), the scope 300 V peak (+59.5)."""
    found = stairs(job(load="50"))
    meter, load, scope, source = (found[name] for name in ("meter", "load", "scope", "source"))

    assert (meter.entry_dbm, meter.exit_dbm) == pytest.approx((50.05, 50.0), abs=1e-6)
    assert (meter.level_dbm, meter.ceiling_dbm) == pytest.approx((50.05, 53.0103), abs=1e-3)
    assert meter.room_db == pytest.approx(53.0103 - 50.05, abs=1e-3)
    assert (load.entry_dbm, load.ceiling_dbm) == pytest.approx((50.0, 51.761), abs=1e-3)
    assert load.exit_dbm is None
    assert (scope.entry_dbm, scope.ceiling_dbm) == pytest.approx((50.0, 59.542), abs=2e-3)
    assert (scope.in_volts, meter.in_volts, scope.branch, meter.branch) == (True, False, 1, 0)
    assert scope.fault_dbm == pytest.approx(56.02, abs=0.01)  # an open end doubles the volts
    assert load.fault_dbm == pytest.approx(50.0, abs=1e-3)  # it is the fault itself
    assert source.ceiling_dbm is None and source.room_db is None
    assert list(found) == ["source", "meter", "tee", "load", "lead", "scope"]


def test_the_lower_of_two_limits_is_the_ceiling_and_a_floor_is_shown():
    made = job(load="50")
    load = made.part("load")
    tight = replace(load, ports=(replace(load.ports[0], volts_limit_vpk=110.0),))
    tight = replace(tight, properties={**load.properties, "noise_floor_w": Property(1e-6, "W")})
    stair = stairs(made.with_part(tight))["load"]

    assert stair.ceiling_dbm == pytest.approx(10 * math.log10(110.0**2 / 2 / 50 / 1e-3))
    assert stair.floor_dbm == pytest.approx(-30.0)


def test_the_most_burdened_connector_counts():
    """A pad of 10 dB that stands 100 W at its input and 1 W at its output: 20 W leave 7 and −3 dB."""
    made = generic.attenuator("pad", "pad", 10.0, 0.1, 100.0)
    made = replace(made, ports=(made.ports[0], replace(made.ports[1], power_limit_w=1.0)))
    hookup, parts = line(made, sensor(1.2))
    plan = line_levels(hookup, parts, F).plan(parts, 20.0)
    stair = next(item for item in staircase(hookup, parts, plan) if item.element == "pad")

    assert stair.ceiling_dbm == pytest.approx(30.0)
    assert stair.worst_dbm == pytest.approx(stair.exit_dbm, abs=0.01)
    assert stair.exit_dbm == pytest.approx(10 * math.log10(2000.0), abs=0.05)


# heat


def test_key_downs_add_up_and_nothing_is_cold_without_one():
    model = HeatModel(100.0, math.inf, 100.0)

    assert model.drive(50.0) == 0.5
    assert model.highest_rise(()) == 0.0
    assert model.rise_at((), 1000.0) == 0.0
    keyed = (Keying(0.0, 100.0, 100.0), Keying(1000.0, 1010.0, 50.0))
    first = 1 - math.exp(-1)
    second = 0.5 + (first * math.exp(-9.0) - 0.5) * math.exp(-0.1)
    assert model.highest_rise(keyed) == pytest.approx(first)
    assert model.rise_at(keyed, 1010.0) == pytest.approx(second)
    assert model.rise_at(keyed, 1110.0) == pytest.approx(second * math.exp(-1))
    assert model.rise_at(keyed, 50.0) == pytest.approx(1 - math.exp(-0.5))  # in the middle of it
    assert model.rise_at(keyed[::-1], 1010.0) == pytest.approx(second)


def test_key_downs_that_overlap_are_not_counted_twice():
    model = HeatModel(100.0, math.inf, 100.0)
    both = model.highest_rise((Keying(0.0, 50.0, 100.0), Keying(30.0, 80.0, 100.0)))

    assert both == pytest.approx(1 - math.exp(-0.8))


@pytest.mark.parametrize(
    ("minutes", "cooling", "seconds", "constant"),
    [(5.0, None, 300.0, 900.0), (5.0, 15.0, 300.0, 900.0), (2.0, None, 120.0, 360.0), (2.0, 20.0, 120.0, 1200.0)],
)
def test_a_loads_rating_is_its_model(minutes, cooling, seconds, constant):
    model = heat_model(shelf.dummy_load("l", "l", 150.0, minutes=minutes, cooling_minutes=cooling))

    assert (model.rated_w, model.rated_s, model.cooling_s) == (150.0, seconds, constant)
    assert model.seconds_left(0.0, 150.0) == pytest.approx(seconds)
    assert model.seconds_left(1.0, 10.0) == 0.0
    assert model.rest_before(0.0, 150.0, seconds) == pytest.approx(0.0, abs=1e-6)


def test_without_a_rating_there_is_no_model_and_without_a_time_it_is_for_ever():
    load = shelf.dummy_load("l", "l", 150.0)
    bare = replace(load, ports=(replace(load.ports[0], power_limit_w=None),))
    ever = replace(load, properties={"nominal_ohm": Property(50.0, "Ω")})

    assert heat_model(bare) is None
    assert (heat_model(ever).rated_s, heat_model(ever).cooling_s) == (math.inf, 900.0)


# templates


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda item: item.label)
def test_a_template_takes_the_first_part_of_each_kind(template):
    bench = from_template(template, starter_shelf(), "x")
    hookup, parts = bench.hookup, bench.parts
    by_id = {part.id: part for part in parts}
    used = [by_id[item.part] for item in hookup.elements]
    first = {}
    for part in starter_shelf():
        first.setdefault(part.kind, part)

    assert {part.id for part in used} == set(by_id)
    assert all(part == first[part.kind] for part in used if [p.kind for p in used].count(part.kind) == 1)
    assert hookup.label == template.label and hookup.id == "x"
    on_ways = {stop.element for stop in main_way(hookup, by_id)}
    on_ways |= {stop.element for stops in side_ways(hookup, by_id).values() for stop in stops}
    assert on_ways == {item.id for item in hookup.elements}


def test_kit_without_a_kind_is_named():
    from fenmist.errors import UnknownIdError

    kit = [part for part in bench_kit() if part.kind is not PartKind.LOAD]
    with pytest.raises(UnknownIdError, match="load"):
        from_template(TEMPLATES[0], kit, "x")


def test_a_branch_sees_what_stands_on_the_line_before_it():
    """Pad (SWR 1.5) and coupler (1.2) face each other; the coupler's port and the pad, 30 dB away, face the sensor."""
    coupler = with_swr(generic.coupler("coupler", "coupler", 30.0, 25.0, 0.0, 200.0), 1.2)
    load = shelf.dummy_load("end", "end", 150.0)
    hookup, parts = line(pad("pad", 3.0, 1.5), coupler, load)
    parts["sensor"] = sensor(2.0)
    hookup = inserted(hookup, "coupler", "forward", parts["sensor"])
    found = {item.element: item for item in end_mismatches(hookup, parts, line_network(hookup, parts, F))}

    pairs = (G[1.5] * G[1.2], G[1.2] * G[2.0], G[1.5] * G[2.0] * 10 ** (-30 / 10))
    (branch,) = (item for name, item in found.items() if name != "end")
    assert branch.u_relative == pytest.approx(math.sqrt(2 * sum(own**2 for own in pairs)), rel=1e-6)
    assert branch.between == ("coupler", branch.element)


def test_the_stair_is_shown_at_the_end_with_the_higher_level():
    """A pad that nothing limits: its input; what stands at its output is 20 dB lower."""
    free = generic.attenuator("pad", "pad", 20.0, 0.1, 1.0)
    free = replace(free, ports=tuple(replace(port, power_limit_w=None) for port in free.ports))
    hookup, parts = line(free, sensor(1.0))
    plan = line_levels(hookup, parts, F).plan(parts, 10.0)
    stair = next(item for item in staircase(hookup, parts, plan) if item.element == "pad")

    assert stair.level_dbm == stair.entry_dbm == pytest.approx(40.0, abs=1e-6)
    assert (stair.exit_dbm, stair.room_db) == (pytest.approx(20.0, abs=1e-6), None)
