"""Circuits and joined parts against scikit-rf on random networks, and against facts of the trade."""

import math

import numpy as np
import pytest
import skrf
from hypothesis import given, settings
from hypothesis import strategies as st
from skrf.circuit import Circuit

from fenmist.errors import OutOfRangeError
from fenmist.rf.circuit import Branch, BranchKind, solve_circuit
from fenmist.rf.joining import join_waves
from fenmist.rf.mismatch import Facing, mismatch_u, substitution_factor
from fenmist.rf.pad import pi_pad, tap_coupling_db, tee_pad, transformer_coupling_db
from fenmist.rf.twoport import cascade, cascaded, matched_twoport, renormalised, seen_reflection

F = np.linspace(1e6, 500e6, 41)
R, C, L = BranchKind.RESISTOR, BranchKind.CAPACITOR, BranchKind.INDUCTOR


def _random_blocks(seed: int, sizes: tuple[int, ...], n: int = 7) -> list[np.ndarray]:
    random = np.random.default_rng(seed)
    return [(random.normal(size=(n, p, p)) + 1j * random.normal(size=(n, p, p))) * 0.4 / p for p in sizes]


def _network(s: np.ndarray, name: str = "x") -> skrf.Network:
    return skrf.Network(
        frequency=skrf.Frequency.from_f(np.arange(1, s.shape[0] + 1), unit="GHz"), s=s, z0=50.0, name=name
    )


@given(st.integers(0, 10_000), st.integers(2, 6))
@settings(max_examples=25)
def test_cascade_of_random_two_ports_is_scikit_rfs(seed, count):
    blocks = _random_blocks(seed, (2,) * count)

    made = cascaded(blocks)

    wanted = _network(blocks[0])
    for block in blocks[1:]:
        wanted = wanted ** _network(block)
    assert np.max(np.abs(made - wanted.s)) < 1e-9


@given(st.integers(0, 10_000))
@settings(max_examples=15)
def test_anything_joined_to_anything_is_scikit_rfs_circuit(seed):
    """A line with a coupler of four ports round a device, and a branch that ends in a load."""
    source, coupler, device, branch, load, end = _random_blocks(seed, (2, 4, 2, 2, 1, 1))

    waves = join_waves(
        [source, coupler, device, branch, load, end],
        [(1, 2), (3, 6), (7, 10), (4, 8), (9, 11)],  # source-coupler-device-load, side-branch-end; one side is free
    )

    freq = _network(source).frequency
    named = {
        name: _network(block, name)
        for name, block in {"s": source, "c": coupler, "d": device, "b": branch, "l": load, "e": end}.items()
    }
    ports = [Circuit.Port(freq, name, z0=50.0) for name in ("in", "free")]
    circuit = Circuit(
        [
            [(ports[0], 0), (named["s"], 0)],
            [(named["s"], 1), (named["c"], 0)],
            [(named["c"], 1), (named["d"], 0)],
            [(named["d"], 1), (named["l"], 0)],
            [(named["c"], 2), (named["b"], 0)],
            [(named["b"], 1), (named["e"], 0)],
            [(named["c"], 3), (ports[1], 0)],
        ]
    )
    incident = waves[:, :, 0]
    reflected = np.einsum("nj,nj->n", source[:, 0, :], incident[:, 0:2])
    at_free = np.einsum("nj,nj->n", coupler[:, 3, :], incident[:, 2:6])
    assert np.max(np.abs(reflected - circuit.network.s[:, 0, 0])) < 1e-9
    assert np.max(np.abs(at_free - circuit.network.s[:, 1, 0])) < 1e-9


def test_circuits_of_lumped_parts_and_lines_are_scikit_rfs():
    line = skrf.media.DefinedGammaZ0(
        skrf.Frequency.from_f(F, unit="Hz"), gamma=2j * np.pi * F / 299792458.0, z0_port=50.0, z0=75.0
    )
    wanted = line.line(0.4, "m", z0=75.0) ** line.resistor(22.0) ** line.shunt_capacitor(33e-12) ** line.inductor(80e-9)

    made = solve_circuit(
        [
            Branch("line", BranchKind.LINE, ("a", "x"), 75.0, 0.4),
            Branch("R", R, ("x", "y"), 22.0),
            Branch("C", C, ("y", "0"), 33e-12),
            Branch("L", L, ("y", "b"), 80e-9),
        ],
        ["a", "b"], F,
    )  # fmt: skip

    assert np.max(np.abs(made.scattering - wanted.s)) < 1e-9


def test_three_ports_on_one_node_are_a_tee():
    """An ideal tee: S11 = −1/3, S21 = 2/3 (any textbook, from memory)."""
    s = solve_circuit([], ["n", "n", "n"], 1e6).scattering[0]

    assert s == pytest.approx(np.full((3, 3), 2 / 3) - np.eye(3))


def test_a_resistive_tap_as_a_circuit():
    """2460 Ω and 50 Ω: 39.95 dB into 50 Ω, 34.0 dB of volts into a scope; RL 40 dB, 0.087 dB through, 1.99 W of 100 W
    in R1 (handbook 4: common practice for the parts, derived for the digits)."""
    tap = [Branch("R1", R, ("line", "side"), 2460.0), Branch("R2", R, ("side", "0"), 50.0)]
    solved = solve_circuit(tap, ["line", "line", "side"], 1e6)
    s = solved.scattering[0]

    assert -20 * np.log10(abs(s[2, 0] / s[1, 0])) == pytest.approx(39.95, abs=0.005)
    assert tap_coupling_db(2460.0, 50.0, 50.0) == pytest.approx(-20 * np.log10(abs(s[2, 0] / s[1, 0])), abs=1e-9)
    assert -20 * np.log10(abs(s[0, 0])) == pytest.approx(40.0, abs=0.05)
    assert -20 * np.log10(abs(s[1, 0])) == pytest.approx(0.087, abs=0.0005)
    waves = np.array([[10.0, 0.0, 0.0]], complex)  # 100 W
    assert solved.dissipated_w(waves)["R1"][0] == pytest.approx(1.99, abs=0.05)  # less the through loss

    open_side = solve_circuit([*tap, Branch("scope", R, ("side", "0"), 1e6)], ["line", "line"], 1e6)
    volts = open_side.between("line", "0", waves[:, :2]) / open_side.between("side", "0", waves[:, :2])
    assert 20 * np.log10(abs(volts[0])) == pytest.approx(34.0, abs=0.05)


def test_a_transformer_tap_with_its_own_resistor_and_a_sensor():
    """10 turns, 50 Ω and a 50 Ω sensor: 26.0 dB; reflects Rp/N² in series (handbook 4, derived)."""
    coupler = [
        Branch("core", BranchKind.TURNS, ("a", "b", "side", "0"), 10.0),
        Branch("Rs", R, ("side", "0"), 50.0),
    ]
    s = solve_circuit(coupler, ["a", "b", "side"], 7e6).scattering[0]

    through = abs(s[1, 0]) ** 2
    assert -10 * np.log10(abs(s[2, 0]) ** 2 / through) == pytest.approx(26.0, abs=0.05)
    assert transformer_coupling_db(10.0, 25.0, 50.0) == pytest.approx(
        -10 * np.log10(abs(s[2, 0]) ** 2 / through), abs=1e-9
    )
    assert s[0, 0].real == pytest.approx(0.25 / 100.25, rel=1e-6)


@pytest.mark.parametrize("attenuation", [3.0, 10.0, 20.0, 30.0])
def test_pads_are_matched_and_attenuate_what_they_say(attenuation):
    shunt, series, _ = pi_pad(attenuation)
    arm, middle, _ = tee_pad(attenuation)
    pi = [Branch("1", R, ("a", "0"), shunt), Branch("2", R, ("a", "b"), series), Branch("3", R, ("b", "0"), shunt)]
    tee = [Branch("1", R, ("a", "m"), arm), Branch("2", R, ("m", "0"), middle), Branch("3", R, ("m", "b"), arm)]

    for pad in (pi, tee):
        solved = solve_circuit(pad, ["a", "b"], 1e6)
        assert solved.scattering[0] == pytest.approx(matched_twoport(attenuation), abs=1e-9)
        powers = solved.dissipated_w(np.array([[1.0, 0.0]], complex))
        assert sum(p[0] for p in powers.values()) == pytest.approx(1.0 - 10 ** (-attenuation / 10))


def test_a_free_node_is_refused_with_words():
    with pytest.raises(OutOfRangeError, match="can't be solved"):
        solve_circuit([Branch("R", R, ("x", "y"), 50.0)], ["a"], 1e6)
    with pytest.raises(OutOfRangeError, match="R1 is 0"):
        solve_circuit([Branch("R1", R, ("a", "0"), 0.0)], ["a"], 1e6)


def test_seen_reflection():
    block = _random_blocks(3, (2,))[0]
    far = np.full(7, 0.3 + 0.1j)
    end = far[:, None, None]

    waves = join_waves([block, end], [(1, 2)])
    seen = np.einsum("nj,nj->n", block[:, 0, :], waves[:, 0:2, 0])

    assert seen_reflection(block, far) == pytest.approx(seen)
    assert cascade(block, matched_twoport(np.zeros(7))) == pytest.approx(block)


@given(st.integers(0, 10_000))
@settings(max_examples=20)
def test_substituted_instruments_see_other_powers_of_an_unmatched_source(seed):
    """|1 − Γg·Γ1|²/|1 − Γg·Γ2|² (handbook 15.3) against waves of a source that ends in each of the two."""
    source, one, two = (block[:1, :1, :1] for block in _random_blocks(seed, (1, 1, 1)))

    powers = [abs(join_waves([source, end], [(0, 1)])[0, 1, 1]) ** 2 for end in (one, two)]

    made = substitution_factor(source[0, 0, 0], one[0, 0, 0], two[0, 0, 0])
    assert made == pytest.approx(powers[1] / powers[0])


@given(st.integers(0, 10_000))
@settings(max_examples=20)
def test_restating_at_another_impedance_is_scikit_rfs(seed):
    (block,) = _random_blocks(seed, (3,))
    referee = _network(block)
    referee.renormalize(75.0)

    assert np.max(np.abs(renormalised(block, 50.0, 75.0) - referee.s)) < 1e-9


@pytest.mark.parametrize(("near", "far", "wanted"), [
    ((0.2, False), (0.1, False), np.sqrt(2) * 0.02), ((0.2, True), (0.1, True), 0.02 / np.sqrt(2)),
    ((0.2, True), (0.1, False), 0.02),
], ids=["known", "ceilings", "mixed"])  # fmt: skip
def test_mismatch_u_is_what_drawn_phases_scatter(near, far, wanted):
    """Handbook 3: √2·|Γ1Γ2| for magnitudes, |Γ1Γ2|/√2 for ceilings; Monte Carlo of the exact formula beside it."""
    random = np.random.default_rng(1)

    def drawn(reflection: float, is_ceiling: bool) -> np.ndarray:
        radius = reflection * (np.sqrt(random.uniform(size=400_000)) if is_ceiling else 1.0)
        return radius * np.exp(2j * np.pi * random.uniform(size=400_000))

    power = np.abs(1.0 - drawn(*near) * drawn(*far)) ** -2

    made = mismatch_u([Facing(*near, False, 0.0), Facing(*far, True, 0.0)])
    assert made == pytest.approx(wanted)
    assert made == pytest.approx(np.std(power), rel=0.03)


def test_mismatch_over_a_whole_line_against_exact_cascades_of_random_phases():
    """Source, a 3 dB pad and a load with known magnitudes: all three pairs, one of them through the pad twice."""
    random = np.random.default_rng(2)
    n, (g, in_, out, load) = 200_000, (0.2, 0.1, 0.12, 0.3)

    def turned(magnitude: float) -> np.ndarray:
        return magnitude * np.exp(2j * np.pi * random.uniform(size=n))

    s11, s22, gl, gg = turned(in_), turned(out), turned(load), turned(g)
    through = 10 ** (-3.0 / 20) * np.exp(2j * np.pi * random.uniform(size=n))
    power = np.abs(through / ((1 - gg * s11) * (1 - gl * s22) - gg * gl * through**2)) ** 2

    facing = [
        Facing(g, False, False, 0.0), Facing(in_, False, True, 0.0),
        Facing(out, False, False, 3.0), Facing(load, False, True, 3.0),
    ]  # fmt: skip

    assert mismatch_u(facing) == pytest.approx(np.std(power) / np.mean(power), rel=0.05)


def test_mismatch_u_counts_an_output_with_every_input_behind_it_and_no_other():
    """Written out: √(2·Γi²·Γo²)·10^(−A/10) each, a ceiling half its square; pairs of one section are a correction."""
    facing = [
        Facing(0.3, False, True, 0.0), Facing(0.2, False, False, 0.0), Facing(0.1, True, True, 3.0),
        Facing(0.15, False, False, 3.0, 1), Facing(0.05, False, True, 4.0, 1), Facing(0.25, False, True, 10.0),
    ]  # fmt: skip
    pairs = [
        (0.2**2, 0.1**2 / 2, 3.0), (0.2**2, 0.05**2, 4.0), (0.2**2, 0.25**2, 10.0), (0.15**2, 0.25**2, 7.0),
    ]  # fmt: skip

    assert mismatch_u(facing) == pytest.approx(sum(2 * a * b * 10 ** (-db / 5) for a, b, db in pairs) ** 0.5)


@given(st.integers(0, 10_000))
@settings(max_examples=15)
def test_many_frequencies_are_joined_as_few_are(seed):
    """Many are worked out port by port, few at once: a ring, a branch, an open end and a free one."""
    blocks = _random_blocks(seed, (2, 4, 2, 3, 1, 2))
    joints = [(1, 2), (3, 6), (7, 10), (4, 8), (9, 11), (12, 12)]
    for put_in in (None, (0, 10)):
        few = join_waves(blocks, joints, put_in)
        many = join_waves([np.tile(block, (20, 1, 1)) for block in blocks], joints, put_in)
        assert np.max(np.abs(many - np.tile(few, (20, 1, 1)))) < 1e-10 * np.max(np.abs(few))


def test_an_end_that_resonates_with_what_it_faces_is_worked_out_among_many():
    """All comes back at the end and again in front of it, 1 − Γ·S11 is 0 there: no wave may pass back from that."""
    end, far = np.full((100, 1, 1), 0.5 + 0j), np.full((100, 1, 1), 0.5 + 0j)
    between = np.tile(np.array([[0.5, 0.25], [0.25, 0.0]], complex), (100, 1, 1))
    end[70], between[70, 0, 0] = 1.0, 1.0
    found = join_waves([end, between, far], [(0, 1), (2, 3)], put_in=(2,))[:, :, 0]
    assert found[70] == pytest.approx([-8.0, -8.0, 0.0, -2.0])
    assert found[0] == pytest.approx(join_waves([end[:1], between[:1], far[:1]], [(0, 1), (2, 3)], (2,))[0, :, 0])


@pytest.mark.parametrize("loss_db", [0.0, 2.0])
def test_a_line_of_another_impedance_in_a_circuit_is_scikit_rfs(loss_db):
    """75 Ω in 50 Ω, of 1 m and some loss, at a few frequencies and at many."""
    media = skrf.media.DefinedGammaZ0
    for f in (np.linspace(1e6, 400e6, 7), np.linspace(1e6, 400e6, 100)):
        gamma = loss_db * np.log(10.0) / 20.0 + 2j * np.pi * f / 299792458.0
        wanted = media(skrf.Frequency.from_f(f, unit="Hz"), z0=75.0, gamma=gamma, z0_port=50.0).line(1.0, "m").s
        line = Branch("l", BranchKind.LINE, ("a", "b"), 75.0, 1.0, np.full(f.size, loss_db))
        assert np.max(np.abs(solve_circuit([line], ["a", "b"], f).scattering - wanted)) < 1e-9


def test_a_circuit_at_many_frequencies_is_that_at_each():
    """Many are worked out node by node: resistors, turns, a line and a coil with its capacitor; at few all at once."""
    pieces = [
        Branch("R1", R, ("a", "x"), 2460.0), Branch("R2", R, ("x", "0"), 50.0), Branch("L", L, ("x", "y"), 1e-6),
        Branch("C", C, ("y", "b"), 100e-12), Branch("l", BranchKind.LINE, ("b", "c"), 75.0, 2.0, 0.3),
        Branch("t", BranchKind.TURNS, ("c", "0", "d", "0"), 3.0),
    ]  # fmt: skip
    for some in (pieces[:3], pieces[:4], pieces):
        ports = list(dict.fromkeys(node for item in some for node in item.nodes if node != "0"))[::2]
        f = np.linspace(1e6, 30e6, 100)
        many, few = solve_circuit(some, ports, f), [solve_circuit(some, ports, f[n : n + 1]) for n in range(100)]
        assert np.max(np.abs(many.scattering - np.concatenate([one.scattering for one in few]))) < 1e-9
        volts = np.concatenate([one.volts for one in few])
        assert np.max(np.abs(many.volts - volts)) < 1e-9 * np.max(np.abs(volts))


def test_a_coil_and_its_capacitor_are_a_short_at_resonance_among_many_frequencies():
    farad, henry = 100e-12, 1e-6
    f = np.linspace(1e6, 30e6, 100)
    f[30] = 1.0 / (2.0 * np.pi * math.sqrt(farad * henry))
    series = [Branch("L", L, ("a", "x"), henry), Branch("C", C, ("x", "b"), farad)]
    s = solve_circuit(series, ["a", "b"], f).scattering
    z = 2j * np.pi * f * henry + 1.0 / (2j * np.pi * f * farad)
    assert s[:, 1, 0] == pytest.approx(100.0 / (100.0 + z), abs=1e-8)
    assert s[30, 1, 0] == pytest.approx(1.0)


def test_waves_are_put_in_where_it_is_said():
    """Alone: into one two-port with both ends matched nothing comes back to where it was put in."""
    block = np.array([[[0.1, 0.5], [0.6, 0.2]]], complex)
    columns = join_waves([block], [], put_in=(1,))
    assert columns == pytest.approx(np.array([[[0.0], [1.0]]]))
    both = join_waves([block, block], [(1, 2)])
    assert join_waves([block, block], [(1, 2)], put_in=(0, 3)) == pytest.approx(both[:, :, [0, 3]])


@pytest.mark.parametrize("loss_db", [0.0, 0.5, 6.0])
def test_a_matched_line_in_a_circuit_loses_what_it_is_said_to(loss_db):
    line = Branch("l", BranchKind.LINE, ("a", "b"), 50.0, 3.0, np.array([loss_db, 2 * loss_db]))
    s = solve_circuit([line], ["a", "b"], np.array([7e6, 28e6])).scattering

    assert -20 * np.log10(abs(s[:, 1, 0])) == pytest.approx([loss_db, 2 * loss_db], abs=1e-9)
    assert abs(s[:, 0, 0]) == pytest.approx([0.0, 0.0], abs=1e-9)


def test_a_wave_through_a_matched_part_lags():
    """A quarter of a wave and 6.02 dB: −j/2, by the sign that engineers take, exp(+jωt)."""
    assert matched_twoport(20.0 * np.log10(2.0), np.pi / 2.0) == pytest.approx(np.array([[0, -0.5j], [-0.5j, 0]]))
