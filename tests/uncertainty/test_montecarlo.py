"""Propagation of distributions, and when it takes over."""

import numpy as np
import pytest

from fenmist.errors import CancelledError, OutOfRangeError
from fenmist.uncertainty.influence import Distribution, Inputs, each_point, influence
from fenmist.uncertainty.montecarlo import CHUNK, monte_carlo, seed_of
from fenmist.uncertainty.propagation import bends, propagate
from support.referees import from_observations


def _loss(x1: float) -> Inputs:
    return Inputs((influence("x1", "x1", x1, 0.005, points=1), influence("x2", "x2", 0.0, 0.005, points=1)))


def _square(x):
    return {"y": x["x1"] ** 2 + x["x2"] ** 2}


@pytest.mark.parametrize(("x1", "mean", "u"), [(0.0, 50e-6, 50e-6), (0.010, 150e-6, 112e-6), (0.050, 2550e-6, 502e-6)])
def test_jcgm_101_comparison_loss(x1, mean, u):
    """JCGM 101:2008, 9.4.2 (uncorrelated), from memory."""
    made = monte_carlo(_square, _loss(x1), ["y"], trials=1_000_000, seed=1)["y"]

    assert made.mean[0] == pytest.approx(mean, abs=0.5e-6)
    assert made.u[0] == pytest.approx(u, abs=0.6e-6)


def test_linear_propagation_gives_nothing_at_the_comparison_loss_of_zero_and_is_told_so():
    """JCGM 101:2008, 9.4.2.1.2: first-order u = 0 there."""
    made = propagate(_square, _loss(0.0), {"y": ("loss", "")})

    assert made["y"].u[0] == pytest.approx(0.0, abs=1e-12)
    assert bends(_square, _loss(0.0), made)[0]


@pytest.mark.parametrize(("x1", "handed_over"), [(0.010, True), (0.050, True), (1.0, False)])
def test_second_order_terms_above_five_per_cent_hand_over(x1, handed_over):
    """u_lin = 2·x1·u; the deviation at the corners is 2u², so the change lies at x1 = 20u = 0.1."""
    made = propagate(_square, _loss(x1), {"y": ("loss", "")})

    assert bends(_square, _loss(x1), made)[0] == handed_over


@pytest.mark.parametrize(("x1", "handed_over"), [(0.099, True), (0.101, False)])
def test_the_change_over_lies_where_it_is_derived(x1, handed_over):
    made = propagate(_square, _loss(x1), {"y": ("loss", "")})

    assert bends(_square, _loss(x1), made)[0] == handed_over


def test_a_mixed_term_alone_bends_too():
    inputs = Inputs((influence("a", "a", 0.0, 1.0, points=1), influence("b", "b", 0.0, 1.0, points=1)))

    def model(x):
        return {"y": x["a"] * x["b"]}

    assert bends(model, inputs, propagate(model, inputs, {"y": ("y", "")}))[0]


@pytest.mark.parametrize(("bound", "value", "handed_over"), [
    (0.0, 1.9, True), (0.0, 2.1, False), (1.0, 2.9, True), (1.0, 3.1, False), (-1.0, 0.9, True), (-1.0, 1.1, False),
])  # fmt: skip
def test_a_bound_within_two_u_hands_over(bound, value, handed_over):
    inputs = Inputs((influence("p", "p", value / 4, 0.25, points=1),))

    def model(x):
        return {"p": x["p"]}

    made = propagate(model, inputs, {"p": ("p", "W")})
    assert bends(model, inputs, made, {"p": bound / 4})[0] == handed_over


def test_gum_h2_by_drawing_has_the_correlation_and_the_heavier_tails_of_its_ensemble():
    """Multivariate t with 4 degrees of freedom: standard deviation √2 of the normal one."""
    rows = np.random.default_rng(1).normal([5.0, 20.0], [0.01, 0.02], (5, 2))
    inputs = from_observations({"a": "a", "b": "b"}, rows)

    def model(x):
        return {"sum": x["a"] + x["b"]}

    linear = propagate(model, inputs, {"sum": ("sum", "")})["sum"]
    drawn = monte_carlo(model, inputs, ["sum"], trials=400_000, seed=2)["sum"]

    assert drawn.u[0] == pytest.approx(np.sqrt(2) * linear.u[0], rel=0.05)
    assert drawn.half_width[0] == pytest.approx(linear.expanded_u[0], rel=0.01)


@pytest.mark.parametrize("shape", list(Distribution))
def test_every_distribution_has_the_standard_uncertainty_stated(shape):
    inputs = Inputs((influence("x", "x", 3.0, 0.2, points=1, distribution=shape),))

    made = monte_carlo(lambda x: {"y": x["x"]}, inputs, ["y"], trials=200_000, seed=3)["y"]

    assert made.mean[0] == pytest.approx(3.0, abs=0.002)
    assert made.u[0] == pytest.approx(0.2, rel=0.01)


def test_shared_errors_are_drawn_once_and_own_ones_for_each_point():
    shared = influence("s", "s", [0.0, 0.0], 1.0, points=2)
    own = influence("o", "o", [0.0, 0.0], 1.0, points=2, sharing=each_point(2))

    def difference(x):
        return {"s": x["s"] - x["s"][..., ::-1], "o": x["o"] - x["o"][..., ::-1]}

    made = monte_carlo(difference, Inputs((shared, own)), ["s", "o"], trials=50_000, seed=4)

    assert made["s"].u[0] == 0.0
    assert made["o"].u[0] == pytest.approx(np.sqrt(2), rel=0.02)


def test_the_interval_of_a_skewed_output_is_asymmetric_and_the_shortest_one_shorter():
    inputs = Inputs((influence("x", "x", 0.0, 1.0, points=1),))

    def model(x):
        return {"y": np.exp(x["x"])}

    even = monte_carlo(model, inputs, ["y"], seed=5)["y"]
    short = monte_carlo(model, inputs, ["y"], seed=5, shortest=True)["y"]

    assert even.high[0] - 1.0 > 3 * (1.0 - even.low[0])
    assert even.high[0] == pytest.approx(np.exp(2.0), rel=0.03)
    assert short.half_width[0] < even.half_width[0]


def test_the_seed_follows_from_the_inputs():
    assert seed_of(_loss(0.01)) == seed_of(_loss(0.01)) != seed_of(_loss(0.011))
    a, b = (monte_carlo(_square, _loss(0.01), ["y"], trials=2000)["y"].u[0] for _ in range(2))
    assert a == b


def test_progress_is_told_and_the_work_can_be_stopped():
    told = []
    monte_carlo(_square, _loss(0.0), ["y"], trials=3 * CHUNK, progress=told.append)
    assert told == pytest.approx([1 / 3, 2 / 3, 1.0])

    with pytest.raises(CancelledError):
        monte_carlo(_square, _loss(0.0), ["y"], trials=3 * CHUNK, cancelled=lambda: True)


def test_too_few_trials_and_correlated_rectangles_are_refused():
    with pytest.raises(OutOfRangeError, match="trials"):
        monte_carlo(_square, _loss(0.0), ["y"], trials=10)
    boxes = tuple(influence(n, n, 0.0, 1.0, points=1, distribution=Distribution.RECTANGULAR) for n in "ab")
    with pytest.raises(OutOfRangeError, match="not all normal"):
        monte_carlo(lambda x: x, Inputs(boxes, {("a", "b"): 0.5}), ["a"])
    mixed = (influence("a", "a", 0.0, 1.0, points=1), boxes[1])
    with pytest.raises(OutOfRangeError, match="not all normal"):
        monte_carlo(lambda x: x, Inputs(mixed, {("a", "b"): 0.5}), ["a"])


def test_what_is_known_exactly_at_one_point_is_drawn_at_another():
    some = influence("a", "a", [1.0, 1.0], [0.1, 0.0], points=2, sharing=each_point(2))

    made = monte_carlo(lambda x: {"y": x["a"]}, Inputs((some,)), ["y"], trials=20_000)["y"]
    assert made.u == pytest.approx([0.1, 0.0], rel=0.03)
