"""A load as an admittance: against complex arithmetic written out and a network library; what is unknown of it."""

import math

import numpy as np
import pytest
import skrf

from fenmist.kit.characterisation import load_state
from fenmist.kit.impedance import load_state_from_text, table_from_rows
from fenmist.kit.loadmodel import Admittance, load_admittance, load_influences

ONE = np.ones(1)


def admittance(g, turning, fixed=0.0, sign=1.0):
    return Admittance(g * ONE, turning * ONE, fixed * ONE, sign * ONE)


def whole(made):
    return made.conductance_s + 1j * (made.sign * made.turning_s + made.fixed_s)


@pytest.mark.parametrize("sign", [1.0, -1.0])
@pytest.mark.parametrize("line_ohm", [50.0, 75.0])
@pytest.mark.parametrize("theta", [0.2, 0.9, 1.4, 2.5])
def test_behind_a_line_as_a_network_library_has_it(theta, line_ohm, sign):
    """scikit-rf: a lossless line terminated; input admittance (1 − Γ)/(1 + Γ)/Z0."""
    y = 0.018 + 0.006j * sign
    medium = skrf.media.DefinedGammaZ0(
        frequency=skrf.Frequency(7, 7, 1, "MHz"), z0=line_ohm, gamma=1j * 2 * math.pi * 7e6 / 3e8
    )
    line = medium.line(theta * 3e8 / (2 * math.pi * 7e6), "m")
    load = medium.load(np.array([(1 / y - line_ohm) / (1 / y + line_ohm)]))
    gamma = (line**load).s[0, 0, 0]
    expected = (1 - gamma) / (1 + gamma) / line_ohm

    seen = admittance(0.018, 0.006, sign=sign).behind_line(theta * ONE, line_ohm)
    assert whole(seen)[0] == pytest.approx(expected, rel=1e-9)


@pytest.mark.parametrize(("g", "turning", "fixed", "sign"), [
    (0.02, 0.0, 0.0, 1.0), (0.015, 0.004, 0.002, 1.0), (0.015, 0.004, 0.002, -1.0), (0.03, 0.01, -0.005, -1.0),
])  # fmt: skip
@pytest.mark.parametrize("z0", [50.0, 75.0])
def test_reflection_and_its_square_are_those_of_the_admittance(g, turning, fixed, sign, z0):
    made = admittance(g, turning, fixed, sign)
    y = complex(whole(made)[0])
    gamma = (1 / z0 - y) / (1 / z0 + y)

    assert made.reflection(z0)[0] == pytest.approx(gamma)
    assert made.reflection_squared(z0)[0] == pytest.approx(abs(gamma) ** 2)
    more = made.with_parallel(np.array([0.001 + 0.003j]))
    assert whole(more)[0] == pytest.approx(y + 0.001 + 0.003j)
    assert more.turning_s[0] == turning  # what is added has a sign that is known


def test_what_is_unknown_of_a_load_of_which_only_a_magnitude_was_noted():
    """Phase within ±30° (common practice): cos φ between 0.866 and 1, rectangular; either sign of the reactance."""
    found = {item.id: item for item in load_influences(load_state_from_text("|60|", 0.01), "load")}

    assert found["load.resistance"].estimate == pytest.approx([60.0])
    assert found["load.resistance"].standard_u == pytest.approx([0.6])
    assert found["load.cos_phi"].estimate == pytest.approx([(1 + 0.866) / 2])
    assert found["load.cos_phi"].standard_u == pytest.approx([(1 - 0.866) / 2 / math.sqrt(3)])
    assert (found["load.sign"].estimate[0], found["load.sign"].standard_u[0]) == (0.0, 1.0)
    known = {item.id: item for item in load_influences(load_state_from_text("45+j12", 0.01), "load")}
    assert (known["load.cos_phi"].standard_u[0], known["load.sign"].standard_u[0]) == (0.0, 0.0)
    assert known["load.reactance"].estimate == pytest.approx([12.0])


@pytest.mark.parametrize("text", ["45+j12", "57.7", "52 @ -8"])
def test_its_admittance_is_one_over_its_impedance(text):
    state = load_state_from_text(text, 0.01)
    x = {item.id: item.estimate for item in load_influences(state, "load")}
    z = complex(state.resistance_ohm[0], state.reactance_ohm[0])
    assert whole(load_admittance(x, state, "load"))[0] == pytest.approx(1 / z)
    up = load_admittance({**x, "load.resistance": x["load.resistance"] * 1.01}, state, "load")
    factor = math.exp(0.01)
    assert whole(up)[0] == pytest.approx(1 / complex(z.real * factor, z.imag))


def test_only_the_magnitude_known_the_phase_turns_it():
    state = load_state_from_text("|60|", 0.01)
    x = {item.id: item.estimate for item in load_influences(state, "load")}
    made = load_admittance({**x, "load.cos_phi": np.array([0.9]), "load.sign": np.array([-1.0])}, state, "load")
    z = 60 * complex(0.9, -math.sqrt(1 - 0.81))
    assert whole(made)[0] == pytest.approx(1 / z)


def test_a_hot_load_is_its_cold_one_and_a_part_of_what_heat_makes():
    f = np.array([7e6])
    cold, hot = (table_from_rows([(1e6, text), (30e6, text)], 0.005) for text in ("50+j0", "52+j1"))
    state = load_state(cold, f, 50.0, hot, None, 0.0)
    found = {item.id: item for item in load_influences(state, "load")}
    x = {name: item.estimate for name, item in found.items()}
    ends = [whole(load_admittance({**x, "load.heat": np.array([heat])}, state, "load"))[0] for heat in (0.0, 1.0)]

    assert found["load.heat"].standard_u[0] > 0.0
    assert [1 / y for y in ends] == [pytest.approx(50.0), pytest.approx(52 + 1j)]


@pytest.mark.parametrize(
    ("change", "factor"), [(-2.0, math.exp(-2)), (0.5, math.exp(0.5)), (1.0, math.e), (300.0, 300 * math.e)]
)
def test_a_small_resistance_beside_a_large_reactance_grows_without_end(change, factor):
    """0.1 + j1000 Ω to 1 %: ±10 Ω is a hundred times the resistance."""
    state = load_state_from_text("0.1+j1000", 0.01)
    x = {item.id: item.estimate for item in load_influences(state, "load")}
    made = load_admittance({**x, "load.resistance": x["load.resistance"] * (1.0 + change)}, state, "load")

    assert float((1.0 / whole(made)).real[0]) == pytest.approx(0.1 * factor, rel=1e-9)
