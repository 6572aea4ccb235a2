"""Any hook-up by nodes: against the transfer, which shares nothing with it, and against the trade's numbers."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.design.design import Ask, Design
from fenmist.design.part import part_of
from fenmist.design.response import trimmed
from fenmist.design.shapes import Shape
from fenmist.hookup.transfer import transfer_of
from fenmist.kit import generic, shelf
from fenmist.kit.part import PartKind, Property
from fenmist.measurand import Kind, PlaneRef
from fenmist.simulation.netlist import TrueHookUp, draw
from fenmist.simulation.wattmeter import disc
from studies.benches import LOAD, SOURCE, bench
from studies.references import with_properties
from support.designs import tap

METER = shelf.inline_meter("m", "Teal", (200.0,), None, 0.05)
COMPLEX = replace(LOAD, properties={"nominal_ohm": Property(57.7, "Ω")})
F = 14.2e6


class Middle:
    """Draws the middle of everything, and some phase."""

    def uniform(self, low=0.0, high=1.0):
        return (low + high) / 2.0

    def normal(self, *_):
        return 0.0


def made(*parts, hang=None, behind=(), source=SOURCE):
    job = bench(METER, *parts, hang=hang, source=source)
    hookup = job.hookups[-1]
    kit = dict(job.parts)
    from fenmist.hookup.editing import inserted

    for part in behind:
        kit[part.id] = part
        last = next(item.id for item in hookup.elements if item.part == hang[1].id)
        hookup = inserted(hookup, last, hang[1].ends[-1], part)
    meter = next(item.id for item in hookup.elements if item.part == "m")
    return replace(hookup, stated=PlaneRef(hookup.id, meter, "out")), kit


def sensor(name="s"):
    part = generic.power_meter(name, name)
    return replace(part, properties={**part.properties, "swr": Property(1.0, "", measured=True)})


TEE, TAP = shelf.tee("middle", "tee"), generic.resistive_tap("tap", "tap", 2460.0, 50.0)
DESIGNED, WOUND, SPLIT = (
    part_of(design, name, name)
    for name, design in {
        "designed": trimmed(tap(high_hz=480e6)), "wound": Design(Shape.TRANSFORMER_TAP, Ask(26.0)),
        "split": Design(Shape.STAR),
    }.items()
)  # fmt: skip
BENCHES = {
    "lead and scope": lambda: made(TEE, COMPLEX, hang=(TEE, shelf.lead("wire", "wire", 0.4)),
                                   behind=(shelf.oscilloscope("o", "Sedge", 1e9),)),
    "probe": lambda: made(TEE, COMPLEX, hang=(TEE, shelf.probe("p", "probe")),
                          behind=(shelf.oscilloscope("o", "Sedge", 1e9),)),
    "tap": lambda: made(TAP, COMPLEX, hang=(TAP, sensor())),
    "jumper behind a tap": lambda: made(TAP, shelf.jumper("j", "jumper", 0.3, 0.1), COMPLEX,
                          hang=(TAP, sensor())),
    "designed tap": lambda: made(DESIGNED, COMPLEX, hang=(DESIGNED, sensor())),
    "designed winding": lambda: made(WOUND, COMPLEX, hang=(WOUND, sensor())),
    "designed splitter": lambda: made(SPLIT, COMPLEX, hang=(SPLIT, sensor())),
    "designed pad": lambda: made(part_of(Design(Shape.TEE_PAD, Ask(6.0)), "tee pad", "pad"), COMPLEX),
    "pad": lambda: made(generic.built_pad("pad", "pad", 10.0, 10.0), COMPLEX),
    "divider": lambda: made(TEE, COMPLEX, hang=(TEE, generic.divider("d", "divider", 22e3, 2.66e3)),
                            behind=(next(p for p in generic.generics() if p.kind is PartKind.VOLTMETER),)),
    "ammeter": lambda: made(generic.ammeter("a", "ammeter", 2.0), COMPLEX),
    "adapter": lambda: made(generic.adapter("ad", "adapter", 0.03, 35.0), COMPLEX),
}  # fmt: skip


@pytest.mark.parametrize("name", BENCHES)
def test_nodes_and_transfer_agree_where_nothing_is_hidden(name):
    """Volts, amperes and waves at every connector for a watt at the stated plane, to 1e-9."""
    hookup, kit = BENCHES[name]()
    true = draw(hookup, kit, Middle())
    solved = true.solve(F)
    ours = transfer_of(hookup, kit, np.array([F]))
    x = {item.id: item.estimate for item in ours.influences}
    _, forward = solved.waves((hookup.stated.element, hookup.stated.port))
    for key in ours.waves(x).into:
        at = PlaneRef(hookup.id, *key)
        volts, amperes = ours.per_watt(x, [(Kind.VOLTAGE, at), (Kind.CURRENT, at)])
        scale, times = abs(forward) ** 2, ours.shown_times(key) ** 2
        assert float(volts[0]) == pytest.approx(times * abs(solved.volts[key]) ** 2 / scale, rel=1e-9, abs=1e-15), key
        assert float(amperes[0]) == pytest.approx(abs(solved.amperes[key]) ** 2 / scale, rel=1e-9, abs=1e-15), key


def test_the_sources_match_drops_out():
    hookup, kit = BENCHES["tap"]()
    true = draw(hookup, kit, Middle())
    shares = []
    for ohm in (50.0, 20.0 + 30.0j, 200.0):
        solved = replace(true, source_ohm=ohm).solve(F)
        _, forward = solved.waves((hookup.stated.element, "out"))
        sensor_at = next(item.id for item in hookup.elements if item.part == "s")
        shares.append(abs(solved.waves((sensor_at, "in"))[0] / forward))

    assert shares == pytest.approx([shares[0]] * 3, rel=1e-12)


def test_a_watt_into_fifty_ohms_by_nodes():
    """100 W from 50 Ω: 70.7 V, 1.414 A."""
    matched = replace(LOAD, properties={"nominal_ohm": Property(50.0, "Ω")})
    hookup, kit = made(matched)
    solved = draw(hookup, kit, Middle()).solve(F)
    load = next(item.id for item in hookup.elements if item.part == matched.id)
    volts, amperes = solved.volts[load, "in"], solved.amperes[load, "in"]

    assert abs(volts / amperes) == pytest.approx(50.0)
    scale = 10.0 / abs(solved.waves((load, "in"))[0])
    assert abs(volts) * scale == pytest.approx(70.7107, rel=1e-5)


def test_what_is_only_a_ceiling_is_drawn_evenly_over_its_disc():
    """A source of SWR 1.5 and a coupler of 25 dB at least: never beyond, half of the power there on average."""
    source = with_properties(SOURCE, swr=Property(1.5, ""))
    hookup, kit = made(generic.coupler("c", "coupler", 30.0, 25.0, 0.1, 200.0), COMPLEX, source=source)
    coupler, random = next(item.id for item in hookup.elements if item.part == "c"), np.random.default_rng(4)
    found = [draw(hookup, kit, random) for _ in range(600)]
    gamma = np.array([(one.source_ohm - 50.0) / (one.source_ohm + 50.0) for one in found])
    quiet = np.array([one.truths[coupler].part.properties["directivity_db"].value for one in found])
    anywhere = np.array([disc(20.0, random) for _ in range(600)])

    for power, most in ((abs(gamma) ** 2, 0.04), (10.0 ** (-quiet / 10.0), 10.0**-2.5), (abs(anywhere) ** 2, 0.01)):
        assert 0.95 * most < power.max() <= most * (1.0 + 1e-9)
        assert power.mean() == pytest.approx(most / 2.0, rel=0.1)
    for wave in (gamma, anywhere):
        quarters = np.histogram(np.angle(wave), 4, (-math.pi, math.pi))[0]
        assert quarters.min() > 110


def test_truths_are_drawn_within_what_is_stated_and_by_their_seed():
    hookup, kit = BENCHES["lead and scope"]()
    lead = next(item.id for item in hookup.elements if item.part == "wire")

    def length(seed):
        true = draw(hookup, kit, np.random.default_rng(seed))
        assert isinstance(true, TrueHookUp)
        return true.truths[lead].part.properties["length_m"].value

    stated = kit["wire"].properties["length_m"]
    drawn = np.array([length(seed) for seed in range(400)])
    assert length(3) == length(3)
    assert np.all(np.abs(drawn - 0.4) <= stated.u * 3**0.5 * (1 + 1e-9))
    assert drawn.std() == pytest.approx(stated.u, rel=0.1)
