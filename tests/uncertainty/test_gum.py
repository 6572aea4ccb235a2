"""The engine against the worked examples of the guides."""

import numpy as np
import pytest

from fenmist.uncertainty.influence import Inputs, influence
from fenmist.uncertainty.propagation import propagate
from support.published import published
from support.referees import from_observations


def _impedance(x):
    ratio = x["V"] / (1e-3 * x["I"])
    return {"R": ratio * np.cos(x["phi"]), "X": ratio * np.sin(x["phi"]), "Z": ratio}


@pytest.fixture
def h2():
    data = published("gum_h2")
    rows = np.column_stack([data["volts"], data["milliamperes"], data["radians"]])
    inputs = from_observations({"V": "volts", "I": "amperes", "phi": "phase"}, rows)
    return data, propagate(_impedance, inputs, {name: (name, "Ω") for name in "RXZ"})


@pytest.mark.parametrize("name", ["R", "X", "Z"])
def test_gum_h2_from_its_data_gives_the_printed_values(h2, name):
    data, made = h2
    printed = data["printed"][name]

    assert made[name].value[0] == pytest.approx(printed["value"], abs=0.0005)
    assert made[name].u[0] == pytest.approx(printed["u"], abs=0.001)


@pytest.mark.parametrize("pair", ["RX", "RZ", "XZ"])
def test_gum_h2_correlation_of_results_follows_from_sensitivities(h2, pair):
    data, made = h2
    a, b = (made[name] for name in pair)
    ids = list(a.sensitivities)
    u = np.array([a.inputs.by_id[name].standard_u[0] for name in ids])
    rows = [np.array([e.sensitivities[name][0] for name in ids]) * u for e in (a, b)]
    covariance = rows[0] @ a.inputs.correlation(ids) @ rows[1]

    assert covariance / (a.u[0] * b.u[0]) == pytest.approx(data["correlation"][pair], abs=0.001)


def test_an_ensemble_has_its_degrees_of_freedom_in_common(h2):
    """JCGM 100:2008, H.2: five sets give four degrees of freedom, however many inputs they estimate."""
    _, made = h2

    assert made["R"].dof[0] == pytest.approx(4.0)


def test_ea_4_02_attenuator_budget_gives_the_printed_uncertainty():
    data = published("ea_4_02_attenuator")
    names = [f"x{i}" for i in range(len(data["standard_u_db"]))]
    inputs = Inputs(
        tuple(influence(n, n, 0.0, u, points=1, unit="dB") for n, u in zip(names, data["standard_u_db"], strict=True))
    )

    made = propagate(lambda x: {"L": data["result_db"] + sum(x[n] for n in names)}, inputs, {"L": ("loss", "dB")})["L"]

    assert made.value[0] == pytest.approx(data["result_db"])
    assert made.u[0] == pytest.approx(data["combined_u_db"], abs=0.00005)
    assert made.expanded_u[0] == pytest.approx(data["expanded_u_db"], abs=0.0005)
    assert made.budget()[0].influence.id == "x3"
    assert sum(row.share for row in made.budget()) == pytest.approx(1.0)
