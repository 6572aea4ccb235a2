"""One quantity worked out apart at different points, as one estimate over all of them."""

import numpy as np
import pytest

from fenmist.uncertainty.agreement import agreement
from fenmist.uncertainty.estimate import joined
from fenmist.uncertainty.influence import Inputs, each_point, influence
from fenmist.uncertainty.montecarlo import monte_carlo
from fenmist.uncertainty.propagation import bends, propagate


def _estimate(at, own=True, extra=()):
    points = len(at)
    inputs = Inputs(
        (
            influence("gain", "gain", 1.0, 0.03, points=points),
            influence("scatter", "scatter", 0.0, [0.5, 0.7], points=points, dof=[4.0, 9.0], sharing=each_point(points)),
            *(influence(name, name, 0.0, 0.2, points=points) for name in extra),
        ),
        {("gain", "zero"): 0.5} if "zero" in extra else {},
    )
    levels = np.array(at)
    return propagate(
        lambda x: {"p": x["gain"] * levels + x["scatter"] + sum(x[name] for name in extra)}, inputs, {"p": ("p", "W")}
    )["p"]


@pytest.fixture
def both():
    places = (np.array([0, 2]), np.array([3, 1]))
    return joined((_estimate([10.0, 20.0]), _estimate([40.0, 30.0], extra=("zero",))), places)


def test_each_value_u_and_freedom_stands_at_its_place(both):
    assert both.value == pytest.approx([10.0, 30.0, 20.0, 40.0])
    # u² = (0.03·P)² + scatter², at the last two + 0.2² + 2·0.5·(0.03·P)·0.2
    by_hand = [
        0.3**2 + 0.5**2, 0.9**2 + 0.7**2 + 0.2**2 + 0.9 * 0.2, 0.6**2 + 0.7**2, 1.2**2 + 0.5**2 + 0.2**2 + 1.2 * 0.2,
    ]  # fmt: skip
    assert both.u**2 == pytest.approx(by_hand)
    assert both.inputs.by_id["scatter"].dof == pytest.approx([4.0, 9.0, 9.0, 4.0])
    assert both.sensitivities["zero"] == pytest.approx([0.0, 1.0, 0.0, 1.0])
    assert both.unit == "W"


def test_what_was_one_error_for_all_stays_one_and_what_was_each_points_own_stays_apart(both):
    covariance = both.covariance()
    zero = 0.2**2
    # between points of two estimates only the gain is shared; within the second the zero, too, and it leans on the gain
    assert covariance[0, 2] == pytest.approx(0.3 * 0.6)
    assert covariance[0, 3] == pytest.approx(0.3 * 1.2 + 0.5 * 0.3 * 0.2)
    assert covariance[1, 3] == pytest.approx(0.9 * 1.2 + zero + 0.5 * 0.2 * (0.9 + 1.2))
    assert len(set(both.inputs.by_id["scatter"].sharing.tolist())) == 4
    assert len(set(both.inputs.by_id["gain"].sharing.tolist())) == 1


def test_freedom_is_worked_out_at_each_point_for_itself():
    """Welch-Satterthwaite (JCGM 100:2008, G.4.1) at two points of different shares."""
    inputs = Inputs(
        (
            influence("a", "a", 0.0, [1.0, 0.1], points=2, dof=5.0),
            influence("b", "b", 0.0, [0.1, 1.0], points=2, dof=20.0),
        )
    )
    made = propagate(lambda x: {"y": x["a"] + x["b"]}, inputs, {"y": ("y", "")})["y"]

    by_hand = [1.01**2 / (1.0 / 5.0 + 1e-4 / 20.0), 1.01**2 / (1e-4 / 5.0 + 1.0 / 20.0)]
    assert made.dof == pytest.approx(by_hand)


def test_one_point_that_bends_says_nothing_of_another():
    inputs = Inputs((influence("x", "x", [0.01, 1.0], [0.1, 1e-3], points=2),))

    def model(x):
        return {"y": x["x"] ** 2}

    assert bends(model, inputs, propagate(model, inputs, {"y": ("y", "")})).tolist() == [True, False]


@pytest.mark.parametrize("dofs", [(6.0, 60.0), (60.0, 6.0)])
def test_correlated_inputs_are_drawn_with_the_smaller_freedom(dofs):
    """A t of ν degrees of freedom has variance ν/(ν − 2)."""
    inputs = Inputs(
        tuple(influence(name, name, 0.0, 1.0, points=1, dof=dof) for name, dof in zip("ab", dofs, strict=True)),
        {("a", "b"): 0.5},
    )
    made = monte_carlo(lambda x: {"y": x["a"], "z": x["b"]}, inputs, ["y", "z"], trials=400_000, seed=2)

    for name in "yz":
        assert made[name].u[0] == pytest.approx(1.5**0.5, rel=0.02)


def test_correlated_inputs_whose_freedom_differs_by_point_take_the_least():
    inputs = Inputs(
        tuple(influence(name, name, 0.0, 1.0, points=2, dof=[6.0, 60.0], sharing=each_point(2)) for name in "ab"),
        {("a", "b"): 0.5},
    )
    made = monte_carlo(lambda x: {"y": x["a"]}, inputs, ["y"], trials=400_000, seed=3)["y"]

    assert made.u == pytest.approx([1.5**0.5] * 2, rel=0.02)


def test_slopes_are_right_to_a_millionth_however_wide_the_input_is():
    """d/dx of x⁻³ is −3x⁻⁴; an input known to 100 % may not smear it."""
    inputs = Inputs((influence("x", "x", [2.0, 2.0, 2.0], [2.0, 1e-3, 1e-9], points=3),))
    made = propagate(lambda x: {"y": x["x"] ** -3.0}, inputs, {"y": ("y", "")})["y"]

    assert made.sensitivities["x"] == pytest.approx([-3.0 / 16.0] * 3, rel=1e-6)


def test_a_single_value_has_nothing_to_be_off_from():
    made = agreement([5.0], [[0.04]])

    assert (made.apart, made.off) == ((0.0,), (0.0,))
