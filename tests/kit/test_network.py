"""What parts do to waves, from each kind of knowledge, against circuits written out and a network library."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.kit import generic, shelf
from fenmist.kit.characterisation import Characterisation, Footing, load_state
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.lookup import look_up
from fenmist.kit.network import (
    COUPLING,
    LOSS,
    computed_coupling_db,
    level_of,
    measured_coupling_db,
    part_network,
    port_match,
)
from fenmist.kit.part import Part, PartKind, Port, Property
from fenmist.units.impedance import Known

F = np.array([7e6, 28e6])


def of(part: Part, **settings) -> np.ndarray:
    return part_network(part, settings, F).scattering


def ended(**properties) -> Part:
    """A part with one port and these values."""
    kept = {name: Property(value, "") for name, value in properties.items()}
    return Part("end", PartKind.OSCILLOSCOPE, "end", ports=(Port("in"),), properties=kept)


def gamma(z: complex) -> complex:
    return (z - 50) / (z + 50)


# one port


@pytest.mark.parametrize(("properties", "z"), [
    ({"resistance_ohm": 1e6, "capacitance_f": 16e-12}, lambda w: 1 / (1e-6 + 1j * w * 16e-12)),
    ({"capacitance_f": 16e-12}, lambda w: 1 / (1e-6 + 1j * w * 16e-12)), ({"resistance_ohm": 75.0}, lambda w: 75.0),
    ({"nominal_ohm": 62.0}, lambda w: 62.0),
], ids=["R and C", "C and 1 MΩ", "R", "nominal"])  # fmt: skip
def test_an_end_reflects_as_its_impedance_does(properties, z):
    made = part_network(ended(**properties), {}, F)

    assert made.scattering[:, 0, 0] == pytest.approx([gamma(z(2 * math.pi * f)) for f in F])
    assert made.has_phase and not np.any(made.u_loss_db)
    assert made.footing == ((Footing.UNKNOWN if "nominal_ohm" in properties else Footing.MEASURED),) * 2


def test_a_measured_load_counts_before_its_nominal_value_and_its_swr():
    load = shelf.dummy_load("load", "Reedmace", 150.0)
    table = table_from_rows([(7e6, "57.7+j3"), (28e6, "61-j8")], 0.01)

    measured = of(replace(load, characterisations=(table,)))[:, 0, 0]
    assert measured == pytest.approx([gamma(57.7 + 3j), gamma(61 - 8j)])
    assert of(load)[:, 0, 0] == pytest.approx([0.0, 0.0])


@pytest.mark.parametrize(
    ("stated", "rho", "ceiling"),
    [
        ({}, 0.2 / 2.2, True), ({"swr": Property(1.5, "")}, 0.2, True),
        ({"swr": Property(3.0, "", None, True)}, 0.5, False),
    ],
)  # fmt: skip
def test_an_swr_is_a_ceiling_unless_it_was_measured(stated, rho, ceiling):
    """(s − 1)/(s + 1): 1.5 is 0.2, 3 is 0.5; 1.2 where nothing is said."""
    match = port_match(stated)

    assert (match.reflection, match.is_ceiling) == (pytest.approx(rho), ceiling)
    made = part_network(
        replace(ended(nominal_ohm=50.0), properties={"nominal_ohm": Property(50, "Ω"), **stated}), {}, F
    )
    assert made.has_phase is not bool(stated)
    assert made.match.reflection == pytest.approx(rho if stated else 0.0)


def test_a_transmitter_of_which_nothing_is_said_is_taken_to_be_badly_matched():
    """SWR up to 2, |Γ| = 1/3: its output is made to give power, not to absorb it (common practice, no source)."""
    silent = replace(shelf.transmitter("t", "t", 100.0), properties={})

    made = part_network(silent, {}, F)
    assert (made.match.reflection, made.match.is_ceiling) == (pytest.approx(1 / 3), True)
    assert part_network(replace(silent, kind=PartKind.POWER_METER), {}, F).match.reflection == pytest.approx(0.2 / 2.2)


# circuits


def test_an_ideal_tee_splits_into_thirds():
    """Three ports of 50 Ω on one node: Γ = (25 − 50)/(25 + 50) = −1/3, 2/3 through; a body of C across it."""
    bare = of(shelf.tee("tee", "tee", 0.0, 0.0))[0]
    assert bare == pytest.approx(np.full((3, 3), 2 / 3) - np.eye(3))

    y = 50 * 2j * math.pi * 28e6 * 10e-12
    body = of(replace(shelf.tee("tee", "tee", 0.0, 0.0), properties={
        "arm_m": Property(0.0, "m"), "capacitance_f": Property(10e-12, "F"),
    }))[1]  # fmt: skip
    assert body == pytest.approx(np.full((3, 3), 2 / (3 + y)) - np.eye(3))


def test_a_probe_divides_behind_the_resonance_of_its_ground_lead():
    """Tip volts are 1/(1 − ω²LC) of the tee's; 1 µH a metre (common practice, no source); the scope sees a tenth."""
    probe = shelf.probe("probe", "probe", ratio=10.0, capacitance_f=12e-12, ground_m=0.1)
    made = part_network(probe, {}, F)
    w = 2 * np.pi * F
    z = 1j * w * 0.1e-6 + 1 / (1j * w * 12e-12)

    assert made.scattering[:, 0, 0] == pytest.approx((z - 50) / (z + 50))
    volts = (1 + made.scattering[:, 0, 0]) / (1 - w**2 * 0.1e-6 * 12e-12) / 10
    assert abs(made.scattering[:, 1, 0]) == pytest.approx(abs(volts), rel=1e-6)


@pytest.mark.parametrize("line_ohm", [50.0, 75.0])
def test_a_line_by_length_velocity_impedance_and_loss(line_ohm):
    """ABCD of a lossy line; 0.7 of the velocity of light and the system's impedance where nothing is said."""
    known = {"length_m": Property(2.0, "m"), "loss_db": Property(0.4, "dB")}
    stated = {"line_ohm": Property(75.0, "Ω"), "velocity_factor": Property(0.66, "")} if line_ohm == 75 else {}
    part = Part("l", PartKind.LEAD, "l", ports=(Port("a"), Port("b")), properties={**known, **stated})
    velocity = 0.66 if stated else 0.7
    for f, s in zip(F, of(part), strict=True):
        gl = 0.4 / 8.685889638 + 2j * math.pi * f * 2.0 / (velocity * 299_792_458)
        a, b, c = np.cosh(gl), line_ohm * np.sinh(gl), np.sinh(gl) / line_ohm
        below = 2 * a + b / 50 + c * 50
        assert s[1, 0] == pytest.approx(2 / below)
        assert s[0, 0] == pytest.approx((b / 50 - c * 50) / below)


# tables


def table(quantity, real, imag=(), **more) -> Characterisation:
    return Characterisation(quantity, quantity, tuple(F), real, imag, **more)


def two_port(reference=None, u=()) -> Part:
    rows = {"s11": (0.1, 0.05), "s21": (0.7, -0.2), "s12": (0.6, -0.1), "s22": (-0.1, 0.02)}
    tables = tuple(
        table(name, (re, re / 2), (im, im), unit="", u=u if name == "s21" else (), termination_ohm=reference)
        for name, (re, im) in rows.items()
    )
    return Part("dut", PartKind.ATTENUATOR, "dut", ports=(Port("a"), Port("b")), characterisations=tables)


def test_measured_s_parameters_are_brought_to_the_lines_impedance():
    skrf = pytest.importorskip("skrf")
    made = part_network(two_port(75.0, (0.001, 0.002)), {}, F)
    raw = np.array(
        [
            [[0.1 + 0.05j, 0.6 - 0.1j], [0.7 - 0.2j, -0.1 + 0.02j]],
            [[0.05 + 0.05j, 0.3 - 0.1j], [0.35 - 0.2j, -0.05 + 0.02j]],
        ]
    )
    library = skrf.Network(s=raw, f=F, f_unit="Hz", z0=75.0)
    library.renormalize(50.0)

    assert made.scattering == pytest.approx(library.s)
    assert made.has_phase and made.footing == (Footing.MEASURED,) * 2
    # 8.686 dB a neper: 0.001 of |0.7 − j0.2|
    assert made.u_loss_db == pytest.approx(
        [8.685889638 * 0.001 / abs(0.7 - 0.2j), 8.685889638 * 0.002 / abs(0.35 - 0.2j)]
    )
    assert of(two_port()) == pytest.approx(raw)


def test_a_missing_parameter_leaves_the_others_unused():
    part = two_port()
    assert not part_network(replace(part, characterisations=part.characterisations[:3]), {}, F).has_phase


def test_a_ratio_from_s_parameters_is_line_over_side():
    """s21 over s31, |0.9| over |0.01|: 39.08 dB; 0.0002 of 0.01 is 2 %, 0.174 dB."""
    names = [f"s{a}{b}" for a in "123" for b in "123"]
    tables = tuple(
        table(
            name, (0.9, 0.9) if name in ("s21", "s12") else (0.01, 0.02) if name in ("s31", "s13") else (0.0, 0.0),
            (0.0, 0.0), unit="", u=(0.0002, 0.0002) if name == "s31" else (),
        )
        for name in names
    )  # fmt: skip
    ports = (Port("a"), Port("b"), Port("c", side=True))
    f, found = measured_coupling_db(Part("t", PartKind.TAP, "t", ports=ports, characterisations=tables))

    assert f.tolist() == F.tolist()
    assert found.value == pytest.approx([20 * math.log10(90), 20 * math.log10(45)])
    assert found.u == pytest.approx([8.685889638 * 0.02, 8.685889638 * 0.01])


def test_a_measured_loss_scales_both_ways_through_and_keeps_the_phase():
    lead = shelf.lead("l", "lead", 0.5)
    measured = replace(lead, characterisations=(table(LOSS, (0.3, 0.6), unit="dB", u=(0.02, 0.03)),))
    made = part_network(measured, {}, F)

    assert -20 * np.log10(abs(made.scattering[:, 1, 0])) == pytest.approx([0.3, 0.6])
    assert made.scattering[:, 0, 1] == pytest.approx(made.scattering[:, 1, 0])
    assert np.angle(made.scattering[:, 1, 0]) == pytest.approx(np.angle(of(lead)[:, 1, 0]))
    assert made.u_loss_db == pytest.approx([0.02, 0.03])


def test_a_measured_ratio_scales_every_way_to_and_from_the_side():
    tap = generic.resistive_tap("t", "tap", 2460.0, 50.0)
    made = replace(tap, characterisations=(table(COUPLING, (41.0, 40.0), unit="dB", u=(0.1, 0.1)),))
    s = of(made)

    for end, other in ((0, 1), (1, 0)):
        assert 20 * np.log10(abs(s[:, other, end] / s[:, 2, end])) == pytest.approx([41.0, 40.0])
        assert s[:, 2, end] == pytest.approx(s[:, end, 2])


def test_a_coupler_known_by_levels_leaks_by_its_directivity():
    """30 dB of coupling, 20 dB of directivity: 10^(−30/20) forward, 10^(−50/20) the other way, for both side ports."""
    ports = (Port("in"), Port("out"), Port("fwd", side=True), Port("rev", side=True))
    known = {
        "loss_db": Property(0.2, "dB"), "coupling_db": Property(30.0, "dB"), "directivity_db": Property(20.0, "dB"),
    }  # fmt: skip
    s = abs(of(Part("c", PartKind.COUPLER, "c", ports=ports, properties=known)))[0]
    take, leak = 10**-1.5, 10**-2.5

    assert s[2, 0] == s[0, 2] == pytest.approx(take) and s[2, 1] == s[1, 2] == pytest.approx(leak)
    assert s[3, 1] == s[1, 3] == pytest.approx(take) and s[3, 0] == s[0, 3] == pytest.approx(leak)
    assert s[1, 0] == s[0, 1] == pytest.approx(10**-0.01)
    assert np.all(np.diag(s) == 0.0)


def test_a_stated_loss_holds_everywhere_with_what_it_is_known_to():
    pad = generic.attenuator("p", "pad", 20.0, 0.3, 50.0)
    found = level_of(pad, LOSS, {}, F)

    assert found.value.tolist() == [20.0, 20.0] and found.footing == (Footing.UNKNOWN,) * 2
    assert found.u == pytest.approx([0.3 / math.sqrt(3)] * 2)
    assert level_of(pad, COUPLING, {}, F).value.tolist() == [0.0, 0.0]
    assert part_network(pad, {}, F).u_loss_db == pytest.approx(found.u)


# what lies between the points of a table


def test_the_limit_between_points_is_that_of_a_straight_line():
    """y = x² on 0, 1, 2, 4 (in MHz): f'' is 2, so half-way between two points the line is off by h²/8·2."""
    f = (1e6, 2e6, 3e6, 5e6)
    squares = Characterisation("x", "loss_db", f, tuple((x / 1e6) ** 2 for x in f), unit="dB")

    for at, h in ((1.5e6, 1.0), (2.5e6, 1.0), (4e6, 2.0)):
        found = look_up(squares, np.array([at]))
        straight = np.interp(at / 1e6, [1, 2, 3, 5], [1, 4, 9, 25])
        limit = max(h**2 / 8 * 2, abs(found.value[0] - straight))
        assert found.u[0] == pytest.approx(limit / math.sqrt(3))


def test_the_sharper_bend_beside_a_gap_counts():
    """Flat, flat, then a step: the second difference beside the last gap is 2·1/2 of it."""
    step = Characterisation("x", "loss_db", (1e6, 2e6, 3e6, 4e6), (0.0, 0.0, 0.0, 1.0), unit="dB")

    assert look_up(step, np.array([1.5e6])).u[0] == 0.0
    between = look_up(step, np.array([2.5e6]))
    assert between.u[0] == pytest.approx(1 / 8 / math.sqrt(3))


def test_what_is_held_costs_by_the_octave():
    """1 dB at 1.5 times the end, by the logarithm: 1.2 times is ln 1.2/ln 1.5 of it; a tenth of other values."""
    loss = Characterisation("x", "loss_db", (10e6, 20e6), (3.0, 3.0), unit="dB", u=(0.1, 0.3))
    factor = Characterisation("x", "factor", (10e6, 20e6), (4.0, 4.0), unit="", u_relative=0.01)
    share = math.log(1.2) / math.log(1.5)

    assert look_up(loss, np.array([24e6])).u[0] == pytest.approx(math.hypot(0.3, share / math.sqrt(3)))
    assert look_up(loss, np.array([10e6 / 1.2])).u[0] == pytest.approx(math.hypot(0.1, share / math.sqrt(3)))
    assert look_up(factor, np.array([24e6])).u[0] == pytest.approx(math.hypot(0.04, 0.4 * share / math.sqrt(3)))
    assert look_up(loss, np.array([15e6])).u[0] == pytest.approx(0.2)


def test_a_table_of_one_point_is_that_value():
    one = Characterisation("x", "loss_db", (10e6,), (3.0,), unit="dB", u=(0.1,))
    found = look_up(one, np.array([10e6, 10e6 * (1 + 5e-7), 12e6]))

    assert found.value.tolist() == [3.0, 3.0, 3.0]
    assert found.footing == (Footing.MEASURED, Footing.MEASURED, Footing.HELD)


# a load over frequency

COLD = table_from_rows([(4e6, "50+j2"), (8e6, "54+j6")], 0.01)
HOT = table_from_rows([(4e6, "52+j3"), (8e6, "57+j8")], 0.01)


def test_heat_adds_the_difference_of_the_two_tables():
    state = load_state(COLD, np.array([4e6, 6e6, 9e6]), 50.0, HOT)

    assert state.hot_resistance_ohm == pytest.approx([2.0, 2.5, 0.0])
    assert state.hot_reactance_ohm == pytest.approx([1.0, 1.5, 0.0])
    assert state.can_be_hot and (state.heat, state.u_heat) == (0.5, pytest.approx(0.5 / math.sqrt(3)))
    some = state.take(np.array([1, 0]))
    assert (some.hot_resistance_ohm.tolist(), some.reactance_ohm.tolist()) == ([2.5, 2.0], [4.0, 2.0])
    assert some.u_reactance_ohm.tolist() == state.u_reactance_ohm[[1, 0]].tolist()
    assert some.hot_reactance_ohm.tolist() == [1.5, 1.0] and some.footing == (Footing.BETWEEN, Footing.MEASURED)
    said = load_state(COLD, np.array([4e6]), 50.0, HOT, 0.8)
    assert (said.heat, said.u_heat) == (0.8, 0.0)
    assert not load_state(COLD, np.array([4e6]), 50.0).can_be_hot


def test_reactance_between_and_past_the_points():
    """Straight between; mid-way half of the change of 4 Ω is the limit, beside 1 % of |Z|."""
    state = load_state(COLD, np.array([6e6, 8e6 * 1.2, 3.5e6]), 50.0)
    own = 0.01 * (abs(50 + 2j) + abs(54 + 6j)) / 2
    grown = math.hypot(0.01, 0.1 * math.log(1.2) / math.log(1.5) / math.sqrt(3))
    below = math.hypot(0.01, 0.1 * math.log(4 / 3.5) / math.log(1.5) / math.sqrt(3))

    assert state.reactance_ohm == pytest.approx([4.0, 6.0, 2.0])
    assert state.u_reactance_ohm == pytest.approx(
        [math.hypot(own, 2 / math.sqrt(3)), grown * abs(54 + 6j), below * abs(50 + 2j)]
    )
    assert state.footing == (Footing.BETWEEN, Footing.HELD, Footing.HELD)


@pytest.mark.parametrize(
    ("text", "known", "has_reactance"),
    [("50+j2", Known.COMPLEX, True), ("|52|", Known.MAGNITUDE, False), ("52", Known.RESISTANCE, False),
     ("|52| swr 1.2", Known.MAGNITUDE_SWR, True)],
)  # fmt: skip
def test_only_what_was_stated_has_an_uncertainty(text, known, has_reactance):
    state = load_state(table_from_rows([(7e6, text)], 0.01), np.array([7e6 * (1 + 5e-7)]), 50.0)

    assert state.known == (known,) and state.footing == (Footing.MEASURED,)
    assert state.u_resistance_ohm[0] > 0
    assert bool(state.u_reactance_ohm[0]) is has_reactance


def test_a_nominal_75_ohm_load_is_known_to_as_many_per_cent():
    state = load_state(None, np.array([7e6]), 75.0)

    assert (state.resistance_ohm[0], state.reactance_ohm[0], state.u_reactance_ohm[0]) == (75.0, 0.0, 0.0)
    # (58 − 45)²/12 + 1.5² about 50 Ω
    assert state.u_resistance_ohm[0] / 75.0 == pytest.approx(math.sqrt(169 / 12 + 2.25) / 50)
    assert (state.known, state.footing) == ((Known.RESISTANCE,), (Footing.UNKNOWN,))


def test_s_parameters_count_in_the_position_they_were_measured_in():
    """Two positions, of which one was measured; the other falls back on what was measured without a position."""
    steps = generic.attenuator("s", "steps", 0.0, 0.1, 1.0, positions=(0.0, 10.0))

    def tables(through, setting):
        return tuple(
            table(name, (through if name in ("s21", "s12") else 0.0,) * 2, (0.0, 0.0), unit="", setting=setting)
            for name in ("s11", "s21", "s12", "s22")
        )

    both = replace(steps, characterisations=(*tables(0.98, ""), *tables(0.31, "10 dB")))
    assert of(both)[:, 1, 0] == pytest.approx([0.98, 0.98])
    assert of(both, step="10 dB")[:, 1, 0] == pytest.approx([0.31, 0.31])
    one = replace(steps, characterisations=tables(0.31, "10 dB"))
    assert part_network(one, {"step": "10 dB"}, F).has_phase and not part_network(one, {}, F).has_phase


def test_each_piece_moves_a_computed_ratio_by_what_it_is_known_to():
    """A = 20·log((R1 + Rp)/Rp) with Rp = R2 beside 50 Ω: every resistor moved by its u in turn."""
    tap = generic.resistive_tap("t", "tap", 2460.0, 50.0)
    pieces = tuple(
        replace(item, measured=value, u_measured=u)
        for item, value, u in zip(tap.components, (2460.0, 50.0), (24.6, 1.0), strict=True)
    )
    made = computed_coupling_db(replace(tap, components=pieces), np.array([1e6]))

    def ratio(r1, r2):
        parallel = r2 * 50 / (r2 + 50)
        return 20 * math.log10((r1 + parallel) / parallel)

    moved = (ratio(2484.6, 50) - ratio(2460, 50), ratio(2460, 51) - ratio(2460, 50))
    assert made.u[0] == pytest.approx(math.hypot(*moved), rel=1e-3)


def test_three_ports_are_no_tee_unless_they_have_an_arm():
    ports = (Port("a"), Port("b"), Port("c", side=True))
    plain = Part("x", PartKind.TAP, "x", ports=ports, properties={"coupling_db": Property(20.0, "dB")})
    assert not part_network(plain, {}, F).has_phase


@pytest.mark.parametrize(("hot", "can"), [("52+j2", True), ("50+j3", True), ("50+j2", False)])
def test_a_load_can_be_hot_where_either_part_moves(hot, can):
    cold, warm = (table_from_rows([(7e6, text)], 0.01) for text in ("50+j2", hot))

    assert load_state(cold, np.array([7e6]), 50.0, warm).can_be_hot is can


def test_a_probe_without_a_ground_lead_is_its_tip_alone():
    made = of(shelf.probe("probe", "probe", ratio=10.0, capacitance_f=12e-12, ground_m=0.0))
    z = 1 / (2j * np.pi * F * 12e-12)

    assert made[:, 0, 0] == pytest.approx((z - 50) / (z + 50))
    assert abs(made[:, 1, 0]) == pytest.approx(abs(1 + made[:, 0, 0]) / 10, rel=1e-6)
