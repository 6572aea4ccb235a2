"""Linear propagation of models made at random, against GTC, the package uncertainties, and Monte Carlo."""

import GTC
import numpy as np
import pytest
import uncertainties
from uncertainties import umath

from fenmist.uncertainty.montecarlo import monte_carlo
from studies.models import REFEREE, Drawn, Functions, draw, evaluate, fenmist

SECOND = Functions(umath.exp, umath.log, umath.sqrt, umath.sin)


def check(seed):
    made = draw(seed)
    ours, _, _ = fenmist(made)
    real = [GTC.ureal(v, s, d) for v, s, d in zip(made.values, made.u, made.dof, strict=True)]
    theirs = evaluate(made.tree, real, REFEREE)

    assert ours.value[0] == pytest.approx(theirs.x, rel=1e-12)
    assert ours.u[0] == pytest.approx(theirs.u, rel=1e-8)
    assert ours.dof[0] == pytest.approx(theirs.df, rel=1e-6)
    for row in ours.budget():
        component = abs(GTC.component(theirs, real[int(row.influence.id[1:])]))
        assert row.contribution == pytest.approx(component, abs=1e-8 * theirs.u)


def check_correlated(seed):
    made = draw(seed)
    ours, _, _ = fenmist(made, correlated=True)
    real = [GTC.ureal(v, s, independent=False) for v, s in zip(made.values, made.u, strict=True)]
    GTC.set_correlation(made.r, real[made.pair[0]], real[made.pair[1]])
    theirs = evaluate(made.tree, real, REFEREE)

    assert ours.u[0] == pytest.approx(theirs.u, rel=1e-8, abs=1e-8 * float(np.abs(ours.signed).max()))


@pytest.mark.parametrize("first", range(0, 300, 50))
def test_models_made_at_random_agree_with_the_referee(first):
    for seed in range(first, first + 50):
        check(seed)
        check_correlated(seed)


@pytest.mark.long
@pytest.mark.parametrize("first", range(1000, 6000, 500))
def test_thousands_of_models_made_at_random_agree_with_the_referee(first):
    for seed in range(first, first + 500):
        check(seed)
        check_correlated(seed)


def test_totals_agree_with_the_second_referee():
    for seed in range(100):
        made = draw(seed)
        x = [uncertainties.ufloat(v, s) for v, s in zip(made.values, made.u, strict=True)]
        theirs = evaluate(made.tree, x, SECOND)

        assert fenmist(made)[0].u[0] == pytest.approx(theirs.std_dev, rel=1e-6)


def test_drawing_agrees_where_the_models_are_nearly_straight():
    """Monte Carlo as the third: mean and standard deviation of models whose inputs are known to a thousandth."""
    for seed in range(20):
        made = draw(seed)
        made = Drawn(made.tree, made.values, 1e-3 * made.values, np.full(made.values.size, np.inf), made.pair, made.r)
        ours, model, inputs = fenmist(made, correlated=True)
        drawn = monte_carlo(model, inputs, ["y"], trials=40_000)["y"]

        assert drawn.u[0] == pytest.approx(ours.u[0], rel=0.02)
        assert abs(drawn.mean[0] - ours.value[0]) < 0.05 * ours.u[0]
