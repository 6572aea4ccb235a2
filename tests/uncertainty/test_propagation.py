"""Propagation against a referee, Monte Carlo, and by hand."""

import math
from dataclasses import replace

import GTC
import numpy as np
import pytest
import uncertainties
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import stdtrit
from uncertainties import umath

from fenmist.errors import OutOfRangeError
from fenmist.uncertainty.coverage import coverage_factor
from fenmist.uncertainty.influence import Distribution, Inputs, each_point, influence, standard_u_from_limit
from fenmist.uncertainty.propagation import Stencil, propagate, remembering


def _model(x, log=np.log, sqrt=np.sqrt):
    return x["a"] * x["b"] ** 2 / (x["c"] + x["a"]) + log(x["b"]) * sqrt(x["c"])


NAMES = ("a", "b", "c")
DRAWN = (st.tuples(*[st.floats(0.5, 5.0)] * 3), st.tuples(*[st.floats(1e-4, 0.3)] * 3), st.floats(-0.9, 0.9))


def _against_the_referee(values, relative, r):
    """GTC (a national laboratory's general-purpose calculator) with exact derivatives."""
    u = [v * k for v, k in zip(values, relative, strict=True)]
    inputs = Inputs(
        tuple(influence(n, n, v, s, points=1) for n, v, s in zip(NAMES, values, u, strict=True)), {("a", "b"): r}
    )
    made = propagate(lambda x: {"y": _model(x)}, inputs, {"y": ("y", "")})["y"]
    real = {n: GTC.ureal(v, s, independent=False) for n, v, s in zip(NAMES, values, u, strict=True)}
    GTC.set_correlation(r, real["a"], real["b"])
    expected = _model(real, GTC.log, GTC.sqrt)

    assert made.value[0] == pytest.approx(expected.x, rel=1e-12)
    assert made.u[0] == pytest.approx(expected.u, rel=1e-8)


@settings(max_examples=300)
@given(*DRAWN)
def test_linear_propagation_agrees_with_the_referee(values, relative, r):
    _against_the_referee(values, relative, r)


@pytest.mark.long
@settings(max_examples=4000)
@given(*DRAWN)
def test_linear_propagation_agrees_with_the_referee_on_thousands_of_models(values, relative, r):
    _against_the_referee(values, relative, r)


@settings(max_examples=100)
@given(DRAWN[0], DRAWN[1])
def test_totals_agree_with_a_second_referee(values, relative):
    """The package uncertainties, for totals."""
    u = [v * k for v, k in zip(values, relative, strict=True)]
    inputs = Inputs(tuple(influence(n, n, v, s, points=1) for n, v, s in zip(NAMES, values, u, strict=True)))
    made = propagate(lambda x: {"y": _model(x)}, inputs, {"y": ("y", "")})["y"]
    expected = _model(
        {n: uncertainties.ufloat(v, s) for n, v, s in zip(NAMES, values, u, strict=True)}, umath.log, umath.sqrt
    )

    assert made.u[0] == pytest.approx(expected.std_dev, rel=1e-6)


def test_all_points_at_once_equal_each_point_alone():
    rng = np.random.default_rng(3)
    a, b, c = rng.uniform(1, 3, (3, 40))

    def made(pick):
        inputs = [influence(n, n, v[pick], 0.05, points=v[pick].size) for n, v in zip("abc", (a, b, c), strict=True)]
        return propagate(lambda x: {"y": _model(x)}, Inputs(tuple(inputs)), {"y": ("y", "")})["y"]

    together = made(slice(None))

    assert together.u == pytest.approx([made(slice(i, i + 1)).u[0] for i in range(40)])


def test_a_shared_error_joins_points_and_an_own_one_does_not():
    gain = influence("gain", "gain", 1.0, 0.02, points=3)
    digit = influence("digit", "digit", [10.0, 20.0, 30.0], 0.1, points=3, sharing=each_point(3))

    made = propagate(lambda x: {"y": x["gain"] * x["digit"]}, Inputs((gain, digit)), {"y": ("y", "")})["y"]
    covariance = made.covariance()

    assert covariance[0, 1] == pytest.approx(0.02**2 * 10 * 20)
    assert covariance[0, 0] == pytest.approx(made.u[0] ** 2)


def test_welch_satterthwaite_of_two_equal_parts():
    """JCGM 100:2008, G.4.1: equal parts with 4 and infinite degrees of freedom have 16."""
    parts = (influence("a", "a", 0.0, 1.0, points=1, dof=4), influence("b", "b", 0.0, 1.0, points=1))

    made = propagate(lambda x: {"y": x["a"] + x["b"]}, Inputs(parts), {"y": ("y", "")})["y"]

    assert made.dof[0] == pytest.approx(16.0)
    assert made.k[0] == pytest.approx(2.17, abs=0.005)


@pytest.mark.parametrize(
    ("dof", "k"), [(1, 13.97), (2, 4.53), (5, 2.65), (10, 2.28), (20, 2.13), (50, 2.05), (math.inf, 2.00)]
)
def test_coverage_factor_is_the_guides_table(dof, k):
    """JCGM 100:2008, table G.2, column 95.45 %, from memory."""
    assert float(coverage_factor(dof)) == pytest.approx(k, abs=0.005)


def test_the_expansion_for_many_degrees_of_freedom_is_students_t():
    """SciPy as the referee, on both sides of the change-over."""
    dof = np.array([59.9, 60.0, 61.0, 100.0, 1e3, 1e5])

    assert coverage_factor(dof) == pytest.approx(stdtrit(dof, (1 + 0.9545) / 2), rel=1e-7)


@pytest.mark.parametrize(("shape", "draw"), [
    (Distribution.RECTANGULAR, lambda r, n: r.uniform(-1, 1, n)),
    (Distribution.TRIANGULAR, lambda r, n: r.triangular(-1, 0, 1, n)),
    (Distribution.U_SHAPED, lambda r, n: np.sin(r.uniform(0, 2 * np.pi, n))),
    (Distribution.DISC, lambda r, n: np.sqrt(r.uniform(0, 1, n)) * np.cos(r.uniform(0, 2 * np.pi, n))),
    (Distribution.TWO_POINT, lambda r, n: r.choice([-1.0, 1.0], n)),
])  # fmt: skip
def test_standard_u_of_a_limit_is_the_deviation_of_its_shape(shape, draw):
    sample = draw(np.random.default_rng(1), 400_000)

    assert float(standard_u_from_limit(1.0, shape)) == pytest.approx(sample.std(), rel=0.01)


def test_an_input_below_zero_uncertainty_is_refused_by_name():
    with pytest.raises(OutOfRangeError, match="vertical gain"):
        influence("g", "vertical gain", 1.0, -0.1, points=1)


def test_an_output_that_is_no_number_names_the_point():
    inputs = Inputs((influence("a", "a", [1.0, 0.0], 0.0, points=2),))

    with pytest.raises(OutOfRangeError, match="point 2"), np.errstate(divide="ignore"):
        propagate(lambda x: {"y": 1.0 / x["a"]}, inputs, {"y": ("y", "")})


def test_correlated_inputs_of_few_degrees_of_freedom_count_as_one():
    """Two fully correlated inputs with 4 degrees of freedom are one input with 4, not 8 (JCGM 100:2008, G.4.1 note)."""
    parts = (influence("a", "a", 0.0, 1.0, points=1, dof=4), influence("b", "b", 0.0, 1.0, points=1, dof=4))
    joined, apart = Inputs(parts, {("a", "b"): 1.0}), Inputs(parts)

    def dof(inputs):
        return propagate(lambda x: {"y": x["a"] + x["b"]}, inputs, {"y": ("y", "")})["y"].dof[0]

    assert dof(joined) == pytest.approx(4.0)
    assert dof(apart) == pytest.approx(8.0)


def test_groups_are_what_correlations_join():
    parts = tuple(influence(name, name, 0.0, 1.0, points=1) for name in "abcde")
    group = Inputs(parts, {("a", "b"): 0.5, ("b", "c"): 0.2, ("d", "e"): 0.0}).group_of

    assert group["a"] == group["b"] == group["c"]
    assert len({group["a"], group["d"], group["e"]}) == 3


def test_what_was_made_of_some_inputs_holds_in_the_rows_of_more():
    """y of a and b, worked out on their own stencil, is what it is on that of a, b, one that stands still, and c."""
    a, b, c = (influence(name, name, [2.0, 3.0], u, points=2) for name, u in zip("abc", (0.1, 0.2, 0.3), strict=True))
    still = influence("still", "still", 1.0, 0.0, points=2)
    some, more = Stencil(Inputs((a, still, b))), Stencil(Inputs((c, a, still, b)))

    made = some.spread(some.x["a"] ** 2 / some.x["b"])[more.rows_in(some)]
    assert made == pytest.approx(more.x["a"] ** 2 / more.x["b"], rel=1e-15)
    other = Stencil(Inputs((replace(a, standard_u=2.0 * a.standard_u), still, b, c)))
    assert other.rows_in(some) is None
    assert some.rows_in(more) is None


def test_what_follows_from_exact_inputs_has_no_covariance():
    exact = Inputs((influence("a", "a", [1.0, 2.0, 3.0], 0.0, points=3),))
    made = propagate(lambda x: {"y": x["a"]}, exact, {"y": ("y", "")})["y"]

    assert made.covariance() == pytest.approx(np.zeros((3, 3)))
    assert made.u == pytest.approx(np.zeros(3))


def test_a_model_that_remembers_is_asked_again_for_another_stack_only():
    asked = []
    model = remembering(lambda x: asked.append(x) or {"y": 2.0 * x["a"]})
    first, second = {"a": np.array([1.0])}, {"a": np.array([3.0])}

    assert [float(model(x)["y"][0]) for x in (first, first, second, first)] == [2.0, 2.0, 6.0, 2.0]
    assert asked == [first, second, first]
