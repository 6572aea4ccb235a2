"""A part as a function of what is uncertain in it: at the estimates its network, moved a part built otherwise."""

from dataclasses import replace

import numpy as np
import pytest
import skrf

from fenmist.kit import generic, shelf
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.network import part_network
from fenmist.kit.part import Part, Property, SpecKind, SpecTerm
from fenmist.kit.uncertain import UncertainPart, uncertain_part
from fenmist.uncertainty.influence import Distribution

F = np.array([1.8e6, 14e6, 50e6])
OTHERS = [
    shelf.oscilloscope("o", "Sedge", 1e8), shelf.lead("w", "wire", 0.4), shelf.tee("t", "tee", 0.0, 2e-12),
    shelf.probe("p", "probe"), shelf.jumper("j", "jumper", 0.3, 0.1),
]  # fmt: skip
PARTS = [*generic.generics(), *OTHERS]


def estimates(made: UncertainPart) -> dict[str, np.ndarray]:
    return {item.id: item.estimate for item in made.influences}


def settings_of(part: Part) -> list[dict[str, str]]:
    found: list[dict[str, str]] = [{}]
    for switch in part.switches:
        found = [{**item, switch.id: position.label} for item in found for position in switch.positions]
    return found


CASES = [(part, item) for part in PARTS if part.ports for item in settings_of(part)]


@pytest.mark.parametrize(("part", "settings"), CASES, ids=[f"{p.id} {' '.join(s.values())}" for p, s in CASES])
def test_at_the_estimates_it_is_the_parts_network(part, settings):
    made, wanted = uncertain_part(part, settings, F), part_network(part, settings, F)
    x = estimates(made)
    directivity = part.properties.get("directivity_db")
    if directivity is not None and part.side_ports:  # the network takes what leaks in phase
        x[f"{part.id}.directivity.real"] = np.full(3, 10.0 ** (-directivity.value / 20.0))

    assert made.ports == wanted.ports
    assert np.allclose(made.scattering(x), wanted.scattering, rtol=0, atol=1e-9)
    assert (made.has_phase, made.name) == (wanted.has_phase, part.id)
    counts = not made.has_phase and ("swr" in part.at(settings) or len(made.ports) == 1)
    assert made.match.reflection == (wanted.match.reflection if counts else 0.0)
    assert all(item.id.startswith(f"{part.id}.") and item.source_id == part.id for item in made.influences)


def with_property(part: Part, name: str, value: float) -> Part:
    return replace(part, properties={**part.properties, name: replace(part.properties[name], value=value)})


BY_PROPERTY = [
    (shelf.lead("w", "wire", 0.4), "w.length", "length_m"), (shelf.lead("w", "wire", 0.4), "w.line", "line_ohm"),
    (shelf.lead("w", "wire", 0.4), "w.velocity_factor", "velocity_factor"),
    (shelf.oscilloscope("o", "Sedge", 1e8), "o.capacitance", "capacitance_f"),
    (shelf.tee("t", "tee", 0.0, 2e-12), "t.capacitance", "capacitance_f"),
    (shelf.probe("p", "probe"), "p.ratio", "ratio"), (shelf.probe("p", "probe"), "p.capacitance", "capacitance_f"),
    (shelf.probe("p", "probe"), "p.ground", "ground_m"), (shelf.jumper("j", "jumper", 0.3, 0.1), "j.loss", "loss_db"),
]  # fmt: skip


@pytest.mark.parametrize(("part", "name", "what"), BY_PROPERTY, ids=[name for _, name, _ in BY_PROPERTY])
def test_a_property_that_is_moved_is_a_part_so_stated(part, name, what):
    made = uncertain_part(part, {}, F)
    known = {item.id: item for item in made.influences}[name]
    stated = part.properties[what]
    stack = {key: np.broadcast_to(value, (3, 3)).copy() for key, value in estimates(made).items()}
    stack[name][1] *= 1.05
    found = made.scattering(stack)
    shape = found.shape[-2:]
    moved = part_network(with_property(part, what, 1.05 * stated.value), {}, F).scattering

    assert known.estimate == pytest.approx(stated.value) and known.standard_u == pytest.approx(stated.u)
    assert known.unit == stated.unit
    assert np.allclose(np.broadcast_to(found, (3, 3, *shape))[1], moved, rtol=0, atol=1e-9)
    assert np.allclose(np.broadcast_to(found, (3, 3, *shape))[2], made.scattering(estimates(made)), rtol=0, atol=1e-15)
    assert not np.allclose(np.broadcast_to(found, (3, 3, *shape))[1], made.scattering(estimates(made)), atol=1e-7)


@pytest.mark.parametrize("part", [
    generic.resistive_tap("tap", "tap", 2460.0, 50.0), generic.divider("d", "divider", 22e3, 2.66e3),
    generic.ammeter("a", "ammeter", 2.0), generic.built_pad("pad", "pad", 10.0, 10.0),
], ids=lambda part: part.id)  # fmt: skip
def test_each_piece_that_is_moved_is_a_part_built_so(part):
    made = uncertain_part(part, {}, F)
    moving = [item for item in part.components if item.u > 0]

    assert [item.id for item in made.influences] == [f"{part.id}.{item.id}" for item in moving] and moving
    for item in moving:
        known = {one.id: one for one in made.influences}[f"{part.id}.{item.id}"]
        stack = {key: np.broadcast_to(value, (4, 3)).copy() for key, value in estimates(made).items()}
        stack[known.id][2] *= 1.03
        built = tuple(replace(one, measured=1.03 * one.value) if one is item else one for one in part.components)
        wanted = part_network(replace(part, components=built), {}, F).scattering

        assert (known.estimate[0], known.standard_u[0]) == (item.value, pytest.approx(item.u))
        assert known.unit == {"resistor": "Ω", "capacitor": "F", "inductor": "H", "turns": ""}[item.kind]
        assert np.allclose(made.scattering(stack)[2], wanted, rtol=0, atol=1e-12)
        assert np.allclose(made.scattering(stack)[[0, 1, 3]], made.scattering(estimates(made)), rtol=0, atol=1e-15)


def test_a_measured_piece_is_normal_and_a_nominal_one_as_its_tolerance_says():
    tap = generic.resistive_tap("tap", "tap", 2460.0, 50.0)
    first, *rest = tap.components
    mixed = replace(tap, components=(replace(first, measured=2450.0, u_measured=5.0), *rest))
    known = {item.id: item for item in uncertain_part(mixed, {}, F).influences}

    assert (known["tap.R1"].distribution, known["tap.R1"].basis) == (Distribution.NORMAL, "as measured")
    assert known["tap.R2"].distribution is Distribution.RECTANGULAR
    assert known["tap.R2"].basis == "tolerance of its nominal value"
    assert (known["tap.R1"].estimate[0], known["tap.R1"].standard_u[0]) == (2450.0, 5.0)


def test_what_is_known_exactly_is_no_influence():
    assert uncertain_part(shelf.jumper("j", "jumper", 0.3, 0.0), {}, F).influences == ()


def test_the_same_part_in_another_place_is_named_by_it():
    (loss,) = uncertain_part(shelf.jumper("j", "Long", 0.3, 0.1), {}, F, name="j@jumper 2").influences

    assert (loss.id, loss.label, loss.source_id) == ("j@jumper 2.loss", "Long (jumper 2), loss", "j@jumper 2")


def test_a_tees_arms_turn_what_passes_through_the_ends_of_the_line():
    """Its node joined to a line at two of its ports by a general-purpose library; the third one is at the node."""
    part = shelf.tee("t", "tee", 0.02, 3e-12)
    made = uncertain_part(part, {}, F)
    band = skrf.Frequency.from_f(F, unit="Hz")
    arm = skrf.media.DefinedGammaZ0(band, gamma=2j * np.pi * F / (0.7 * 299792458.0), z0=50.0).line(0.02, "m")
    y = 2j * np.pi * F * 3e-12 * 50.0
    node = (2.0 / (3.0 + y))[:, None, None] - np.eye(3)
    wanted = skrf.Network(frequency=band, s=node, z0=50.0)
    for port in (0, 1):
        wanted = skrf.network.connect(wanted, port, arm, 0)

    assert [port.hangs for port in part.ports] == [False, False, True]
    assert np.allclose(made.scattering(estimates(made)), wanted.s, rtol=0, atol=1e-9)


def test_what_is_at_one_place_of_many_matrices_lies_together():
    """Read and written element by element: a stride across matrices would touch all of them for each."""
    for part in (shelf.tee("t", "tee"), shelf.lead("w", "wire", 0.4), shelf.jumper("j", "jumper", 0.3, 0.1)):
        made = uncertain_part(part, {}, F)
        found = made.scattering({key: np.tile(value, (5, 1)) for key, value in estimates(made).items()})

        assert found.shape == (5, F.size, len(part.ports), len(part.ports))
        assert found[..., 1, 0].flags.c_contiguous


def test_a_cables_loss_is_its_tables_by_a_fifth():
    """± 20 %, rectangular: 0.1155; twice the factor is twice the decibels."""
    made = uncertain_part(generic.cable("c", "cable", "50 Ω, 5 mm, solid polyethylene", 10.0), {}, F)
    known = {item.id: item for item in made.influences}["c.loss"]
    x = estimates(made)
    once, twice = (
        20.0 * np.log10(np.abs(made.scattering({**x, "c.loss": np.full(3, f)})[:, 1, 0])) for f in (1.0, 2.0)
    )

    assert (known.estimate[0], known.standard_u[0]) == (1.0, pytest.approx(0.2 / 3**0.5))
    assert twice == pytest.approx(2.0 * once, rel=1e-6)


def test_a_couplers_loss_coupling_and_leak_by_level():
    """Each 1 dB more; the leak is the coupled wave times its own, and may have any phase."""
    coupler = generic.coupler("c", "coupler", 30.0, 20.0, 0.5, 200.0)
    made = uncertain_part(coupler, {}, F)
    x = estimates(made)
    base = made.scattering(x)
    place = {name: number for number, name in enumerate(made.ports)}
    more = made.scattering({**x, "c.coupling": np.full(3, 1.0)})
    leak = made.scattering({**x, "c.directivity.real": np.full(3, 0.03), "c.directivity.imaginary": np.full(3, 0.04)})
    forward, back, into, out = (place[name] for name in ("forward", "reflected", "in", "out"))
    known = {item.id: item for item in made.influences}

    assert 20.0 * np.log10(np.abs(more[:, forward, into] / base[:, forward, into])) == pytest.approx([-1.0] * 3)
    assert np.allclose(base[:, forward, out], 0.0) and np.allclose(base[:, back, into], 0.0)
    assert leak[:, forward, out] == pytest.approx(base[:, forward, into] * (0.03 + 0.04j))
    assert leak[:, back, into] == pytest.approx(base[:, back, out] * (0.03 + 0.04j))
    assert known["c.directivity.real"].distribution is Distribution.DISC
    assert known["c.directivity.real"].standard_u[0] == pytest.approx(0.1 / 2.0)
    measured = replace(
        coupler, properties={**coupler.properties, "directivity_db": Property(20.0, "dB", measured=True)}
    )
    known = {item.id: item for item in uncertain_part(measured, {}, F).influences}
    assert known["c.directivity.real"].standard_u[0] == pytest.approx(0.1 / 2**0.5)


def test_measured_parameters_move_in_level_and_in_both_parts_of_a_reflection():
    def table(name, value):
        parts = (value.real,) * 2, (value.imag,) * 2
        return Characterisation(name, name, (1e6, 100e6), *parts, unit="", u=(0.01, 0.01), termination_ohm=50.0)

    known = (("s11", 0.1 + 0j), ("s12", 0.5 + 0j), ("s21", 0.5 + 0j), ("s22", 0.05 + 0.02j))
    tables = [table(name, value) for name, value in known]
    pad = replace(generic.attenuator("pad", "pad", 6.0, 0.1, 150.0), characterisations=tuple(tables))
    made = uncertain_part(pad, {}, F)
    x = estimates(made)
    known = {item.id: item for item in made.influences}
    more = made.scattering({**x, "pad.loss": np.full(3, 1.0)})
    turned = made.scattering({**x, "pad.s11.real": np.full(3, 0.02), "pad.s22.imaginary": np.full(3, -0.01)})

    assert set(known) == {"pad.loss", "pad.s11.real", "pad.s11.imaginary", "pad.s22.real", "pad.s22.imaginary"}
    assert known["pad.loss"].standard_u[0] == pytest.approx(20.0 / np.log(10.0) * 0.01 / 0.5)
    assert known["pad.s11.real"].standard_u[0] == pytest.approx(0.01)
    assert np.abs(more[:, 1, 0]) == pytest.approx(0.5 * 10 ** (-0.05)) == pytest.approx(np.abs(more[:, 0, 1]))
    assert turned[:, 0, 0] == pytest.approx(0.12) and turned[:, 1, 1] == pytest.approx(0.05 + 0.01j)


def test_a_probe_says_what_it_divides_by_and_what_the_screen_multiplies_by():
    made = uncertain_part(shelf.probe("p", "probe", ratio=10.0, setting=1.0), {}, F)

    assert (made.divides, made.shown_times) == (10.0, 1.0)
    assert (uncertain_part(shelf.lead("w", "wire", 0.4), {}, F).divides) == 1.0


def test_a_hot_load_is_known_by_its_heat():
    from fenmist.kit.impedance import HOT_IMPEDANCE, table_from_rows

    cold = table_from_rows([(1e6, "50"), (100e6, "50")], 0.01)
    hot = table_from_rows([(1e6, "54"), (100e6, "54")], 0.01, quantity=HOT_IMPEDANCE)
    load = replace(shelf.dummy_load("l", "Reedmace", 150.0), characterisations=(cold, hot))
    made = [uncertain_part(load, {}, F, heat=heat) for heat in (0.0, 1.0, None)]
    gammas = [float(np.real(item.scattering(estimates(item))[0, 0, 0])) for item in made]

    assert gammas == [pytest.approx(0.0), pytest.approx(4.0 / 104.0), pytest.approx(2.0 / 102.0)]
    assert "l.heat" in {item.id for item in uncertain_part(load, {}, F).influences}


def test_an_input_of_stated_resistance_draws_its_current():
    """1 kΩ ± 1 %: Γ is (1000 − 50)/(1000 + 50)."""
    part = replace(
        shelf.oscilloscope("o", "Sedge", 1e8, capacitance_f=0.0),
        properties={"resistance_ohm": Property(1000.0, "Ω", SpecTerm(SpecKind.OF_READING, 0.01))},
    )
    made = uncertain_part(part, {}, F)

    assert made.scattering(estimates(made))[:, 0, 0] == pytest.approx([950.0 / 1050.0] * 3)
    assert made.scattering({"o.resistance": np.full(3, 2000.0)})[:, 0, 0] == pytest.approx([1950.0 / 2050.0] * 3)
