"""A design held against a measured file: what differs, what would explain it, what the kit then counts."""

from dataclasses import replace

import numpy as np
import pytest

from fenmist.design.design import Ask, Design
from fenmist.design.part import part_of, with_proof
from fenmist.design.proof import ANALYSERS, fitted_strays, prove
from fenmist.design.response import respond
from fenmist.design.shapes import Shape
from fenmist.design.strays import NONE, Strays
from fenmist.errors import FenmistError
from fenmist.kit.network import COUPLING, measured_coupling_db, part_network
from fenmist.kit.touchstone import Touchstone
from support.designs import of_pieces, tap

HAND_HELD, BENCH = ANALYSERS
F = np.linspace(1e6, 480e6, 240)


def measured(truth: Design, noise: float = 0.0, ports: int = 2) -> Touchstone:
    """What an analyser without errors (but noise, relative) writes of a tap that goes on into a real 50 Ω."""
    here, random = respond(truth, F), np.random.default_rng(5)
    s = np.zeros((F.size, ports, ports), complex)
    lost = here.main_db + (here.through_db if here.through_db is not None else 0.0)
    way = ports - 1
    s[:, way, 0] = s[:, 0, way] = 10 ** (-lost / 20) * (1 + noise * random.standard_normal(F.size))
    s[:, 0, 0] = (here.swr - 1) / (here.swr + 1)
    if ports == 3:
        s[:, 1, 0] = s[:, 0, 1] = 10 ** (-here.through_db / 20)
    return Touchstone(F, s, 50.0)


@pytest.mark.parametrize("ports", [2, 3])
def test_a_file_of_the_design_itself_differs_by_nothing(ports):
    """Coupling is against what goes on, whichever of the two a file says; a scope's design is held at 50 Ω."""
    design = tap(sensor_ohm=1e6, sensor_f=15e-12)
    proof = prove(design, measured(of_pieces(design, sensor_ohm=50.0, sensor_f=0.0), ports=ports), HAND_HELD)

    assert np.max(np.abs(proof.off_db)) < 1e-9
    assert proof.explained
    assert proof.swr == pytest.approx(proof.designed_swr, rel=1e-6)
    assert np.max(proof.swr) > 1.03


def test_a_hand_held_analyser_is_two_to_three_decibels_off_at_forty():
    """Common practice, no source; a bench one knows it to tenths."""
    assert 2.0 < HAND_HELD.expanded_u_db(np.array(40.0)) < 3.0
    assert HAND_HELD.expanded_u_db(np.array(3.0)) < 0.3
    assert BENCH.expanded_u_db(np.array(40.0)) < 0.2


def test_more_capacitance_at_the_joints_is_seen_and_named():
    """Truth: 0.35 pF a joint and a wire of 0.2 pF, taken for 0.2 pF and 0.15 pF."""
    design = tap(replace(tap().strays, trim_f=0.15e-12))
    truth = tap(replace(tap().strays, joint_f=0.35e-12, trim_f=0.2e-12))
    proof = prove(design, measured(truth, 0.005), BENCH)
    found = fitted_strays(design, proof)

    assert not proof.explained
    assert abs(proof.off_db[proof.worst]) == pytest.approx(np.max(np.abs(proof.off_db)), rel=0.05)
    assert found.strays.joint_f == pytest.approx(0.35e-12, rel=0.1)
    assert found.strays.trim_f == pytest.approx(0.2e-12, rel=0.15)
    assert found.left_db < 0.1 < found.was_db
    assert abs(found.gain_db) < 0.05


def test_resistors_that_are_off_are_one_gain_not_a_stray():
    design = tap(Strays(0.05e-12, 0.1e-12, 5e-9))
    high = replace(design, stacks={}, typed={"R1": 2460.0 * 1.06, "R2": 50.0}, strays=NONE)
    flat = measured(of_pieces(high))
    slow = Touchstone(F[:20], flat.scattering[:20], 50.0)
    found = fitted_strays(design, prove(design, slow, BENCH))

    assert found.gain_db == pytest.approx(0.5, abs=0.05)
    assert found.strays.trim_f == 0.0


def test_as_measured_the_coupling_counts_in_the_kit():
    """The network gives what was measured (less a through loss that is calculated); u is half of the analyser's U."""
    design, truth = tap(), tap(replace(tap().strays, joint_f=0.3e-12))
    file = measured(truth)
    proof = prove(design, file, HAND_HELD)
    part = with_proof(part_of(design, "t", "Tap"), design, proof, file, "tap.s2p", "2026-11-20")
    f = F[[10, 100, 200]]
    s = part_network(part, {}, f).scattering

    assert 20 * np.log10(np.abs(s[:, 1, 0] / s[:, 2, 0])) == pytest.approx(respond(truth, f).main_db, abs=0.03)
    _, found = measured_coupling_db(part)
    assert found.u == pytest.approx(proof.expanded_u_db / 2.0)
    assert (part.characterisation(COUPLING).source, part.characterisation(COUPLING).measured_on) == (
        "tap.s2p", "2026-11-20",
    )  # fmt: skip


def test_a_pads_file_is_kept_whole():
    pad = Design(Shape.PI_PAD, Ask(10.0), strays=NONE)
    s = np.tile(np.array([[0.02, 0.31], [0.31, 0.03]], complex), (F.size, 1, 1))
    file = Touchstone(F, s, 50.0)
    proof = prove(pad, file, BENCH)
    part = with_proof(part_of(pad, "p", "Pad"), pad, proof, file, "pad.s2p", "")

    assert proof.off_db[0] == pytest.approx(-20 * np.log10(0.31) - 10.0)
    assert np.max(np.abs(part_network(part, {}, F).scattering - s)) < 1e-9


def test_an_ends_file_is_its_match():
    mismatch = Design(Shape.MISMATCH, Ask(2.0), strays=NONE)
    file = Touchstone(F, np.full((F.size, 1, 1), 0.2, complex), 50.0)

    assert prove(mismatch, file, BENCH).off_db[0] == pytest.approx(20 * np.log10(1.5 / 2.0))
    assert prove(mismatch, file, HAND_HELD).expanded_u_db[0] == pytest.approx(0.2 + 20 * np.log10(1 + 10**-1.5))


@pytest.mark.parametrize(
    ("shape", "ports", "z0", "points", "says"),
    [(Shape.RESISTIVE_TAP, 1, 50.0, 9, "isn't of a resistive tap"), (Shape.PI_PAD, 3, 50.0, 9, "isn't of a pi pad"),
     (Shape.RESISTIVE_TAP, 2, 75.0, 9, "of 75 Ω"), (Shape.LOAD, 2, 50.0, 9, "isn't of a dummy load"),
     (Shape.RESISTIVE_TAP, 2, 50.0, 2, "at 2 frequencies")],
)  # fmt: skip
def test_a_file_of_something_else_is_refused(shape, ports, z0, points, says):
    file = Touchstone(F[:points], np.full((points, ports, ports), 0.1, complex), z0)

    with pytest.raises(FenmistError, match=says):
        prove(Design(shape, Ask(10.0)), file, BENCH)


def test_a_file_of_two_ports_says_nothing_the_kit_could_take_of_a_splitter():
    design = Design(Shape.STAR, strays=NONE)
    file = Touchstone(F, np.full((F.size, 2, 2), 0.5, complex), 50.0)

    with pytest.raises(FenmistError, match="at all of its ports"):
        with_proof(part_of(design, "s", "S"), design, prove(design, file, BENCH), file, "s.s2p", "")
