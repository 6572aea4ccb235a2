"""Complex quantities by real and imaginary part: the GUM's example, a general calculator, Monte Carlo."""

import GTC
import numpy as np
import pytest

from fenmist.uncertainty.complexvalue import parts_of, propagate_complex
from fenmist.uncertainty.influence import Inputs, influence
from fenmist.uncertainty.montecarlo import monte_carlo
from support.published import published
from support.referees import from_observations

LOAD = Inputs(
    (
        influence("r", "resistance", 57.7, 0.6, points=1, unit="Ω"),
        influence("x", "reactance", -8.0, 0.4, points=1, unit="Ω"),
        influence("b", "susceptance of a stub", 2e-3, 2e-4, points=1, unit="S"),
    ),
    {("r", "x"): 0.3},
)


def _reflection(x):
    z = 1 / (1 / (x["r"] + 1j * x["x"]) + 1j * x["b"])
    return {"gamma": (z - 50) / (z + 50)}


def test_both_parts_and_their_covariance_agree_with_a_general_calculator():
    made = propagate_complex(_reflection, LOAD, {"gamma": ("Γ", "")})["gamma"]
    r, x = (
        GTC.ureal(57.7, 0.6, independent=False, label="r"),
        GTC.ureal(-8.0, 0.4, independent=False, label="x"),
    )
    GTC.set_correlation(0.3, r, x)
    b = GTC.ureal(2e-3, 2e-4)
    d = r * r + x * x
    g_all, b_all = r / d, b - x / d
    bottom = g_all * g_all + b_all * b_all
    re, im = g_all / bottom, -b_all / bottom
    low = (re + 50) * (re + 50) + im * im
    real, imag = (re * re + im * im - 2500) / low, 100 * im / low

    assert made.value[0] == pytest.approx(complex(real.x, imag.x), rel=1e-10)
    assert made.real.u[0] == pytest.approx(real.u, rel=1e-8)
    assert made.imag.u[0] == pytest.approx(imag.u, rel=1e-8)
    assert made.covariance()[0, 0, 1] == pytest.approx(GTC.get_covariance(real, imag), rel=1e-7)


def test_the_two_budgets_differ():
    """A resistance moves the real part of Γ, a susceptance the imaginary one."""
    made = propagate_complex(_reflection, LOAD, {"gamma": ("Γ", "")})["gamma"]
    real, imag = made.budgets()

    assert real[0].influence.id == "r"
    assert imag[0].influence.id == "b"
    assert sum(row.share for row in real) == pytest.approx(1.0)


def test_the_ellipse_agrees_with_drawing():
    made = propagate_complex(_reflection, LOAD, {"gamma": ("Γ", "")})["gamma"]
    drawn = monte_carlo(parts_of(_reflection), LOAD, ["Re gamma", "Im gamma"], trials=200_000)

    assert drawn["Re gamma"].u[0] == pytest.approx(made.real.u[0], rel=0.01)
    assert drawn["Im gamma"].u[0] == pytest.approx(made.imag.u[0], rel=0.01)


def test_gum_h2_resistance_and_reactance_as_one_complex_quantity():
    """JCGM 100:2008, H.2, from memory: u(R) = 0.071, u(X) = 0.295, r(R, X) = −0.588."""
    data = published("gum_h2")
    rows = np.array([data["volts"], data["milliamperes"], data["radians"]]).T
    inputs = from_observations({"v": "V", "i": "I", "phi": "φ"}, rows)

    made = propagate_complex(
        lambda x: {"z": x["v"] / (x["i"] * 1e-3) * np.exp(1j * x["phi"])}, inputs, {"z": ("Z", "Ω")}
    )["z"]

    matrix = made.covariance()[0]
    assert made.value[0] == pytest.approx(127.732 + 219.847j, abs=1e-3)
    assert matrix[0, 1] / np.sqrt(matrix[0, 0] * matrix[1, 1]) == pytest.approx(-0.588, abs=1e-3)
