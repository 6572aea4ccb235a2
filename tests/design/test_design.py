"""What designs do, against scikit-rf's circuit, nodes of the simulation and the trade's numbers."""

import math
from dataclasses import replace

import numpy as np
import pytest
import skrf
from skrf.circuit import Circuit

from fenmist.design.choice import chosen, options, wanted_of
from fenmist.design.design import Ask, Design
from fenmist.design.part import bears_w, part_of
from fenmist.design.response import Driven, aim_db, holds, respond, sensitivities, trimmed, worst_off_db
from fenmist.design.shapes import TAPS, Shape
from fenmist.design.shortcut import high_corner_hz, low_corner_hz, shortcut_db
from fenmist.design.spread import spread
from fenmist.design.stack import How, joined, one
from fenmist.design.stock import Piece, stock_from_text
from fenmist.design.strays import NONE, Strays
from fenmist.design.stress import port_strains, strains
from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.kit.network import part_network
from fenmist.rf.circuit import GROUND, Branch
from support.designs import TAP_2460, of_pieces, tap

F = np.geomspace(1e6, 900e6, 7)


def by_library(branches: tuple[Branch, ...], node: str, f: np.ndarray) -> np.ndarray:
    """Γ at a node by scikit-rf's circuit: every piece a two-port between its nodes, ground a short."""
    band = skrf.Frequency.from_f(f, unit="Hz")
    met: dict[str, list] = {}
    for number, item in enumerate(branches):
        omega = 2j * np.pi * f
        z = {"resistor": item.value + 0 * f, "inductor": omega * item.value, "capacitor": 1 / (omega * item.value)}
        made = Circuit.SeriesImpedance(band, z[str(item.kind)], f"x{number}", z0=50.0)
        for place, name in enumerate(item.nodes):
            met.setdefault(name, []).append((made, place))
    met[node].append((Circuit.Port(band, "in", z0=50.0), 0))
    met[GROUND].append((Circuit.Ground(band, "ground", z0=50.0), 0))
    return Circuit(list(met.values())).network.s[:, 0, 0]


@pytest.mark.parametrize("shape", [item for item in Shape if item is not Shape.TRANSFORMER_TAP])
@pytest.mark.parametrize("seed", range(2))
def test_every_design_is_scikit_rfs_circuit(shape, seed):
    """Random values, stacks and strays; Γ at its near end with all that is plugged in, to 1e-9."""
    random = np.random.default_rng(seed)
    target = 2.0 if shape is Shape.MISMATCH else 12.0
    design = Design(shape, Ask(target, far_ohm=25.0, sensor_f=20e-12, block_f=100e-9))
    stacks = {
        item.id: joined(How.SERIES, [
            joined(How.PARALLEL, [one(Piece(float(ohm), 0.05)) for ohm in random.uniform(30.0, 900.0, 2)]),
            one(Piece(float(random.uniform(5.0, 300.0)), 0.05)),
        ])
        for item in design.resistors
    }  # fmt: skip
    strays = Strays(*random.uniform([1e-14, 1e-13, 1e-9, 1e-13, 1e-14], [3e-13, 1e-12, 2e-8, 1e-12, 2e-13]))
    design = replace(design, stacks=stacks, strays=strays)
    driven = Driven(design, F, design.layout.near)

    assert np.max(np.abs(driven.solved.scattering[:, 0, 0] - by_library(driven.solved.branches, "in", F))) < 1e-9


# the trade's numbers


def test_a_tap_of_2460_and_50_ohms():
    """Handbook 4: exact 39.95 dB, shortcut 39.86, 34.0 dB of volts into an oscilloscope, 1.99 W of 100 W in R1,
    0.087 dB through, SWR 1.02, RL 40 dB (practice for the parts, derived for the digits)."""
    here, scope = respond(TAP_2460, 7e6), respond(of_pieces(TAP_2460, sensor_ohm=1e6), 7e6)
    takes = {item.spot: item for item in strains(TAP_2460)}
    off = shortcut_db(TAP_2460)

    assert here.main_db[0] == pytest.approx(39.95, abs=0.005)
    assert here.reverse_db[0] == pytest.approx(here.main_db[0])
    assert off.says_db == pytest.approx(39.86, abs=0.005)
    assert off.off_db == pytest.approx(-20.0 * math.log10(1.0 + 25.0 / 2460.0))
    assert scope.main_db[0] == pytest.approx(34.0, abs=0.05)
    assert here.through_db[0] == pytest.approx(0.087, abs=0.0005)
    assert here.swr[0] == pytest.approx(1.02, abs=0.0005)
    assert 20 * math.log10((here.swr[0] + 1) / (here.swr[0] - 1)) == pytest.approx(40.0, abs=0.1)
    assert takes["R1"].power_w == pytest.approx(1.99, abs=0.005)
    assert takes["R1"].fault_w == pytest.approx(4.0 * 1.99, rel=0.03)  # volts double on an open line, nearly
    assert takes["R1"].volts == pytest.approx(70.7, rel=0.02)


def test_a_tap_designed_for_a_coupling_makes_it_exactly():
    """R1 = Rp·(10^(A/20) − 1) with Rp = 25 Ω: 2475 Ω for 40 dB (handbook 4); into 75 Ω by power, a scope by volts."""
    assert Design(Shape.RESISTIVE_TAP).wanted["R1"] == pytest.approx(2475.0)
    for sensor in (50.0, 75.0, 1e6):
        design = Design(Shape.RESISTIVE_TAP, Ask(33.0, sensor_ohm=sensor), strays=NONE)
        assert respond(design, 5e6).main_db[0] == pytest.approx(33.0, abs=1e-9)


@pytest.mark.parametrize(("shunt", "coupling"), [(50.0, 26.0), (0.0, 20.0)])
def test_ten_turns_are_26_db_with_a_resistor_and_a_sensor_20_with_the_sensor_alone(shunt, coupling):
    """Handbook 4: 10·log10(N²·Z0·Rs/Rp²)."""
    design = Design(Shape.TRANSFORMER_TAP, Ask(26.0, shunt_ohm=shunt), {"core": 10.0, "L": 1.0}, strays=NONE)

    assert respond(design, 7e6).main_db[0] == pytest.approx(coupling, abs=0.03)
    assert shortcut_db(design).off_db == pytest.approx(20.0 - coupling, abs=0.03)
    assert Design(Shape.TRANSFORMER_TAP, Ask(26.0)).wanted["core"] == 10.0


def test_a_winding_reads_a_half_at_its_corner_and_a_third_at_seven_tenths_of_it():
    """f_L = Rp/(2π·L), power as 1/(1 + (f_L/f)²); one third at f_L/f = √2 (handbook 4)."""
    design = Design(Shape.TRANSFORMER_TAP, Ask(26.0, winding_h=10e-6 / 100.0), {"core": 10.0}, strays=NONE)
    corner = low_corner_hz(design)
    far, at, below = respond(design, [1000 * corner, corner, corner / math.sqrt(2.0)]).main_db

    assert corner == pytest.approx(25.0 / (2 * math.pi * design.values["L"]))
    assert at - far == pytest.approx(10 * math.log10(2.0), abs=0.02)
    assert below - far == pytest.approx(10 * math.log10(3.0), abs=0.02)


def test_a_capacitor_against_dc_has_its_corner_where_the_handbook_says():
    """0.1 µF in front of 50 Ω and R1 ∥ R2: 16 kHz (handbook 4)."""
    design = of_pieces(TAP_2460, block_f=0.1e-6)
    corner = low_corner_hz(design)
    far, at = respond(design, [1000 * corner, corner]).main_db

    assert corner == pytest.approx(16e3, rel=0.02)
    assert at - far == pytest.approx(10 * math.log10(2.0), abs=0.01)
    assert holds(design).low_hz == pytest.approx(corner / math.sqrt(10 ** (0.55 / 10) - 1), rel=0.01)


def test_a_gap_lifts_harmonics_by_six_decibels_an_octave():
    design = Design(Shape.GAP_TAP, Ask(60.0), strays=NONE)
    one_f, two, three = respond(design, np.array([1.0, 2.0, 3.0]) * design.ask.middle_hz).main_db

    assert one_f == pytest.approx(60.0, abs=1e-6)
    assert (one_f - two, one_f - three) == pytest.approx((6.02, 9.54), abs=0.01)


@pytest.mark.parametrize(
    ("shape", "loss", "values"),
    [(Shape.PI_PAD, 10.0, (96.2, 71.2, 96.2)), (Shape.TEE_PAD, 20.0, (40.9, 10.1, 40.9)),
     (Shape.PI_PAD, 3.0, (292.4, 17.6, 292.4)), (Shape.TEE_PAD, 6.0, (16.6, 66.9, 16.6)),
     (Shape.PI_PAD, 20.0, (61.1, 247.5, 61.1))],
)  # fmt: skip
def test_pads_are_those_of_any_pad_table(shape, loss, values):
    """Any pad table (from memory); matched, and what goes in stays but for what comes out."""
    design = Design(shape, Ask(loss, power_w=10.0), strays=NONE)
    here = respond(design, 7e6)

    assert [round(value, 1) for value in design.wanted.values()] == list(values)
    assert (here.main_db[0], here.reverse_db[0]) == pytest.approx((loss, loss), abs=1e-9)
    assert (here.swr[0], here.swr_far[0]) == pytest.approx((1.0, 1.0), abs=1e-6)
    assert sum(item.power_w for item in strains(design)) == pytest.approx(10.0 * (1 - 10 ** (-loss / 10)))


def test_pads_between_two_impedances_and_the_least_that_matching_takes():
    """75 to 50 Ω: 43.3 and 86.6 Ω, 5.72 dB (any pad table, from memory); a 10 dB tee is matched at both."""
    least, tee = (Design(shape, Ask(10.0, z0_ohm=75.0), strays=NONE) for shape in (Shape.L_PAD, Shape.TEE_PAD))

    assert list(least.wanted.values()) == pytest.approx([43.30, 86.60], abs=0.005)
    for design, loss in ((least, 5.72), (tee, 10.0)):
        here = respond(design, 7e6)
        assert (here.main_db[0], here.reverse_db[0]) == pytest.approx((loss, loss), abs=0.001)
        assert (here.swr[0], here.swr_far[0]) == pytest.approx((1.0, 1.0), abs=1e-6)
    with pytest.raises(FenmistError, match=r"at least 5\.72 dB"):
        _ = Design(Shape.PI_PAD, Ask(3.0, z0_ohm=75.0)).wanted
    assert aim_db(least) == pytest.approx(5.72, abs=0.001)


def test_a_divider_is_what_its_meter_makes_of_it():
    """10 kΩ and 1 kΩ are 11 to 1; for 10 to 1 R2 is R1/9 (handbook 4); a 10 kΩ meter across R2 makes it 12."""
    nominal = Design(Shape.DIVIDER, Ask(10.0, sensor_ohm=math.inf), {"R1": 10e3, "R2": 1e3}, strays=NONE)
    loaded = of_pieces(nominal, sensor_ohm=10e3)
    asked = Design(Shape.DIVIDER, Ask(10.0, sensor_ohm=math.inf, shunt_ohm=1e3))

    assert 10 ** (respond(nominal, 1e6).main_db[0] / 20) == pytest.approx(11.0)
    assert 10 ** (respond(loaded, 1e6).main_db[0] / 20) == pytest.approx(12.0)
    assert asked.wanted["R1"] == pytest.approx(9e3)
    assert shortcut_db(nominal).off_db == pytest.approx(20 * math.log10(10 / 11))
    stray = replace(nominal, strays=replace(NONE, output_f=10e-12))
    corner = high_corner_hz(stray)
    assert corner == pytest.approx((1 / 10e3 + 1 / 1e3) / (2 * math.pi * 10e-12))
    assert respond(stray, corner).main_db[0] - respond(stray, 1e3).main_db[0] == pytest.approx(3.01, abs=0.01)


@pytest.mark.parametrize(("target", "ohm", "swr"), [(2.0, 100.0, 2.0), (0.5, 25.0, 2.0), (1.5, 75.0, 1.5)])
def test_a_mismatch_of_either_side(target, ohm, swr):
    design = Design(Shape.MISMATCH, Ask(target), strays=NONE)

    assert design.wanted["R"] == pytest.approx(ohm)
    assert respond(design, 7e6).swr[0] == pytest.approx(swr)
    assert sum(item.power_w for item in strains(design)) == pytest.approx(100.0 * (1 - ((swr - 1) / (swr + 1)) ** 2))
    assert holds(design) is not None


def test_splitters_give_a_quarter_to_each():
    """Three of 16.7 Ω: 6.02 dB each way and between outputs, all matched; two of 50 Ω: 6.02 dB, 12.04 dB between
    (any microwave textbook, from memory)."""
    star, pair = (respond(Design(shape, strays=NONE), 7e6) for shape in (Shape.STAR, Shape.PAIR))

    assert (star.main_db[0], star.second_db[0], star.isolation_db[0]) == pytest.approx((6.02,) * 3, abs=0.001)
    assert (star.swr[0], star.swr_far[0]) == pytest.approx((1.0, 1.0), abs=1e-6)
    assert (pair.main_db[0], pair.second_db[0], pair.isolation_db[0]) == pytest.approx((6.02, 6.02, 12.04), abs=0.002)
    assert pair.swr[0] == pytest.approx(1.0, abs=1e-6)
    assert aim_db(Design(Shape.STAR)) == pytest.approx(6.02, abs=0.001)


# the high end


def test_joints_lower_the_output_and_a_trim_wire_lifts_it_again():
    """0.5 pF from each joint to the box alone: 44 dB at 433 MHz; a wire of some tenths of a picofarad brings a tap of
    40 dB from some hundred to near 500 MHz (common practice: 0.1 pF, 500 MHz)."""
    alone = tap(strays=Strays(0.0, 0.5e-12, 0.0))
    built = tap(high_hz=480e6)
    wired = trimmed(built)

    assert respond(alone, 433e6).main_db[0] == pytest.approx(44.1, abs=0.1)
    assert holds(built).high_hz == pytest.approx(283e6, rel=0.01)
    assert 0.05e-12 < wired.strays.trim_f < 0.3e-12
    assert holds(wired).high_hz > 450e6
    assert worst_off_db(wired) < 0.3 < worst_off_db(built)
    for times in (0.7, 1.3):  # too little, too much
        other = replace(wired, strays=replace(wired.strays, trim_f=times * wired.strays.trim_f))
        assert worst_off_db(other) > worst_off_db(wired)
    assert trimmed(tap(strays=Strays(0.3e-12, 0.0, 0.0), high_hz=480e6)).strays.trim_f == 0.0  # too much C already


def test_what_each_stray_moves_is_the_response_with_a_little_more_of_it():
    """Joints take; the first bit of a wire takes, too (it meets what comes late), more of it gives."""
    design = tap(high_hz=440e6)
    found = {item.name: item for item in sensitivities(design)}
    more = replace(design, strays=replace(design.strays, joint_f=design.strays.joint_f + found["joint_f"].step))
    here, there = (float(respond(item, 440e6).main_db[0]) for item in (design, more))

    assert found["joint_f"].db == pytest.approx(there - here)
    assert found["joint_f"].db > 0 and found["trim_f"].db > 0
    assert {item.name: item.db for item in sensitivities(trimmed(design))}["trim_f"] < 0


@pytest.mark.parametrize("change", [{"joint_f": -1e-12}, {"lead_h": 1.0}, {"trim_f": math.nan}])
def test_a_stray_is_nothing_or_a_little(change):
    with pytest.raises(FenmistError, match="makes no sense"):
        Strays(**change)


@pytest.mark.parametrize(
    ("shape", "asked"),
    [
        (Shape.RESISTIVE_TAP, {"target": 1e9}), (Shape.GAP_TAP, {"target": 1e9}), (Shape.LOAD, {"within_db": 1e9}),
        (Shape.LOAD, {"z0_ohm": 1e-9}), (Shape.TEE_PAD, {"far_ohm": 1e-9}), (Shape.DIVIDER, {"shunt_ohm": 1e-9}),
        (Shape.TRANSFORMER_TAP, {"winding_h": 1e-18}),
    ],
)  # fmt: skip
def test_what_no_box_can_do_is_refused_in_words(shape, asked):
    with pytest.raises(OutOfRangeError, match="Type for example") as problem:
        _ = holds(Design(shape, replace(Ask(), **asked)))
    assert problem.value.headline.endswith(".")


def test_a_lead_without_length_is_no_lead():
    """An inductance of which its admittance would swallow all others by rounding: there 50 Ω looked like SWR 2."""
    with pytest.raises(OutOfRangeError, match="A lead of 1e-18 H"):
        Strays(lead_h=1e-18)
    assert holds(Design(Shape.LOAD, Ask(), strays=Strays(lead_h=1e-12))).low_hz == 0.0


def test_where_nothing_holds_there_is_no_span():
    assert holds(of_pieces(TAP_2460, target=42.0)) is None
    assert holds(TAP_2460).high_hz == math.inf


# heat, volts, tolerance


def test_power_on_an_open_or_shorted_line():
    """Volts double: 4 times in R1; behind 10 dB of pad its far shunt sees twice the volts of a match."""
    pad = Design(Shape.PI_PAD, Ask(10.0, power_w=1.0), strays=NONE)
    ports = {item.port: item for item in port_strains(pad)}
    side = {item.port: item for item in port_strains(TAP_2460)}["side"]

    assert ports["in"].power_w == 1.0 and ports["out"].power_w == pytest.approx(0.1)
    assert ports["out"].volts == pytest.approx(math.sqrt(0.1 * 50.0))
    assert ports["out"].fault_volts == pytest.approx(2.0 * ports["out"].volts, rel=1e-6)
    assert 1e3 * side.power_w == pytest.approx(100e3 * 10 ** (-39.948 / 10), rel=1e-3)
    assert side.fault_volts == pytest.approx(2.0 * side.volts, rel=0.02)
    winding = Design(Shape.TRANSFORMER_TAP, Ask(26.0), strays=NONE)
    taken = strains(winding)[0]
    assert taken.fault_w == pytest.approx(4.0 * taken.power_w, rel=0.02)  # amperes double on a shorted one


def test_how_warm_a_piece_gets_in_a_key_down():
    """A 20 s constant: after 20 s 63 % of the final warmth."""
    piece = strains(tap(power_w=100.0))[0]

    assert piece.used == pytest.approx(piece.power_w / 2.0)
    assert piece.rise(20.0) == pytest.approx(piece.used * (1.0 - math.exp(-1.0)))
    assert piece.rise(1e6) == pytest.approx(piece.used)


def test_tolerance_by_corners_and_by_brute_force():
    """Each of the five resistors anywhere in its ±5 %, drawn another way, through the closed form."""
    design = tap()
    found, random = spread(design), np.random.default_rng(77)
    r1 = 820.0 * (1 + 0.05 * random.uniform(-1, 1, (200_000, 3))).sum(axis=1)
    r2 = 1.0 / (1.0 / (100.0 * (1 + 0.05 * random.uniform(-1, 1, (200_000, 2))))).sum(axis=1)
    rp = 1.0 / (1.0 / r2 + 1.0 / 50.0)
    off = 20 * np.log10((r1 + rp) / rp) - 40.0
    low, high = (20 * math.log10(1 + 2460 * (1 + a) / (1 / (1 / (50 * (1 - a)) + 1 / 50))) - 40 for a in (-0.05, 0.05))

    assert found.nominal_db == pytest.approx(-0.052, abs=0.001)
    assert (found.low_db, found.high_db) == pytest.approx((low, high), abs=1e-6)
    assert found.u_db == pytest.approx(float(np.std(off)), rel=0.03)
    tight = replace(design, ask=replace(design.ask, within_db=0.2))
    assert spread(tight).share == pytest.approx(float(np.mean(np.abs(off) <= 0.2)), abs=0.02)


# choosing, and the part


def test_each_resistor_is_made_of_what_bears_its_power():
    """From a drawer of 820 and 100 Ω: three in series and two across, as builders do (common practice)."""
    stock = stock_from_text("820 Ω 3 W × 10; 100 Ω 1 W × 10")
    made = chosen(Design(Shape.RESISTIVE_TAP), stock)
    wanted = wanted_of(Design(Shape.RESISTIVE_TAP), "R1")

    assert {name: stack.said().replace("\u202f", " ") for name, stack in made.stacks.items()} == {
        "R1": "3 × 820 Ω in series", "R2": "2 × 100 Ω in parallel",
    }  # fmt: skip
    assert wanted.power_w == pytest.approx(1.98, abs=0.02) and wanted.volts == pytest.approx(70.0, rel=0.01)
    assert all(item.holds for item in options(Design(Shape.RESISTIVE_TAP), "R1", stock)[:1])
    load = chosen(Design(Shape.LOAD), stock_from_text("E24 3 W"))
    assert len(load.stack("R").leaves) >= 67 and load.stack("R").ohm == pytest.approx(50.0, rel=0.01)


@pytest.mark.parametrize("shape", [*TAPS, Shape.PI_PAD, Shape.STAR])
def test_on_the_shelf_it_does_what_the_design_does(shape):
    design = Design(shape, Ask(12.0 if shape in (Shape.PI_PAD, Shape.STAR) else 30.0))
    design = chosen(design, stock_from_text("E24 2 W"))
    part = part_of(design, "made", "Made")
    here = respond(design, F)
    s = part_network(part, {}, F).scattering
    way = 2 if shape in TAPS else 1
    through = here.through_db if here.through_db is not None else 0.0
    assert -20 * np.log10(np.abs(s[:, way, 0])) == pytest.approx(here.main_db + through, abs=1e-9)
    gamma = np.abs(s[:, 0, 0])
    assert (1 + gamma) / (1 - gamma) == pytest.approx(here.swr, rel=1e-6)


def test_a_part_keeps_pieces_tolerances_and_ratings():
    made = part_of(tap(power_w=50.0), "t", "Tap")
    by_id = {item.id: item for item in made.components}

    assert made.remarks.replace("\u202f", " ") == "R1: 3 × 820 Ω in series; R2: 2 × 100 Ω in parallel"
    assert (by_id["R1.2"].nominal, by_id["R1.2"].power_limit_w) == (820.0, 1.0)  # 2 W, half used
    assert by_id["R1.2"].u == pytest.approx(0.05 * 820 / math.sqrt(3))
    assert by_id["R1 joint 1 C"].u == pytest.approx(0.5 * 0.2e-12 / math.sqrt(3))
    hottest = max(item.power_w for item in strains(tap(power_w=50.0)))
    assert bears_w(tap(power_w=50.0)) == pytest.approx(50.0 * 0.5 * 2.0 / hottest) == pytest.approx(147.5, abs=0.1)
    assert made.ports[0].power_limit_w == 140.0  # two figures, on the safe side
    assert holds(tap()).high_hz == pytest.approx(282.7e6, abs=0.1e6)
    assert made.ports[0].frequency_max_hz == 280e6
    gap = part_of(Design(Shape.GAP_TAP), "g", "Gap").ports[0]
    assert gap.frequency_min_hz is gap.frequency_max_hz is None
    blocked = of_pieces(tap(), block_f=0.1e-6)
    assert holds(blocked).low_hz == pytest.approx(43.65e3, rel=0.01)
    assert part_of(blocked, "t", "T").ports[0].frequency_min_hz == 44e3
    measured = replace(tap(), stacks={**tap().stacks, "R2": one(Piece(49.9, 0.002, 1.0, is_measured=True))})
    piece = next(item for item in part_of(measured, "t", "T").components if item.id == "R2.1")
    assert (piece.measured, piece.u) == (49.9, pytest.approx(0.002 * 49.9 / math.sqrt(3)))
    assert bears_w(TAP_2460) is None


def test_what_ends_a_line_goes_to_the_kit_by_its_resistance():
    load = chosen(Design(Shape.LOAD, Ask(power_w=10.0)), stock_from_text("E24 2 W 5 %"))
    made = part_of(load, "l", "Load")

    assert made.properties["nominal_ohm"].value == pytest.approx(load.stack("R").ohm)
    assert made.properties["nominal_ohm"].u == pytest.approx(0.05 * load.stack("R").ohm / math.sqrt(3))
    assert made.ports[0].power_limit_w >= 10.0


@pytest.mark.parametrize(
    "change",
    [{"target": 0.0}, {"z0_ohm": -50.0}, {"sensor_ohm": 0.0}, {"low_hz": 60e6}, {"high_hz": 1e12}, {"shunt_ohm": -1.0},
     {"power_w": 0.0}, {"within_db": 0.0}, {"block_f": -1e-9}],
)  # fmt: skip
def test_numbers_that_make_no_sense_are_said(change):
    with pytest.raises(FenmistError):
        Ask(**change)


@pytest.mark.parametrize(
    ("shape", "ask", "says"),
    [(Shape.RESISTIVE_TAP, Ask(40.0, shunt_ohm=0.0), "R2"),
     (Shape.GAP_TAP, Ask(40.0, sensor_ohm=math.inf, shunt_ohm=0.0), "holds the output"),
     (Shape.L_PAD, Ask(z0_ohm=50.0, far_ohm=75.0), "Exchange the two"), (Shape.DIVIDER, Ask(1.0), "divides nothing"),
     (Shape.PI_PAD, Ask(0.5, z0_ohm=75.0), "at least"), (Shape.L_PAD, Ask(), "needs no pad")],
)  # fmt: skip
def test_what_can_not_be_designed_is_said(shape, ask, says):
    with pytest.raises(FenmistError) as raised:
        _ = Design(shape, ask).wanted
    assert says in str(raised.value)


@pytest.mark.parametrize("shape", [Shape.L_PAD, Shape.TEE_PAD])
def test_what_goes_into_a_pad_between_two_impedances_is_in_it_or_comes_out(shape):
    design = Design(shape, Ask(10.0, z0_ohm=75.0, power_w=10.0), strays=NONE)
    out = {item.port: item for item in port_strains(design)}["out"]
    loss = float(respond(design, 7e6).main_db[0])

    assert out.power_w == pytest.approx(10.0 * 10 ** (-loss / 10), rel=1e-6)
    assert sum(item.power_w for item in strains(design)) + out.power_w == pytest.approx(10.0, rel=1e-6)


def test_a_transformer_has_a_turn_at_least():
    assert Design(Shape.TRANSFORMER_TAP, Ask(0.1)).wanted["core"] == 1.0
