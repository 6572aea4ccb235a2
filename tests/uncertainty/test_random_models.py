"""Linear propagation of models made at random, against GTC, the package uncertainties, and Monte Carlo.

A model is a tree of operations over two to six inputs, drawn by its seed; it is kept where it is well conditioned: no
part of it near a pole, and no result that is only what is left of large terms that cancel.
"""

import math
from dataclasses import dataclass

import GTC
import numpy as np
import pytest
import uncertainties
from uncertainties import umath

from fenmist.uncertainty.influence import Inputs, influence
from fenmist.uncertainty.montecarlo import monte_carlo
from fenmist.uncertainty.propagation import propagate

ONE = ("exp", "log", "sqrt", "sin", "square")
TWO = ("+", "-", "*", "/")


@dataclass(frozen=True)
class Functions:
    """One library's elementary functions."""

    exp: object
    log: object
    sqrt: object
    sin: object


NUMPY = Functions(np.exp, np.log, np.sqrt, np.sin)
REFEREE = Functions(GTC.exp, GTC.log, GTC.sqrt, GTC.sin)
SECOND = Functions(umath.exp, umath.log, umath.sqrt, umath.sin)
FLOATS = Functions(math.exp, math.log, math.sqrt, math.sin)


def draw_tree(rng, inputs, depth):
    if depth == 0 or rng.uniform() < 0.15:
        return int(rng.integers(inputs))
    if rng.uniform() < 0.3:
        return (str(rng.choice(ONE)), draw_tree(rng, inputs, depth - 1))
    return (str(rng.choice(TWO)), draw_tree(rng, inputs, depth - 1), draw_tree(rng, inputs, depth - 1))


def evaluate(tree, x, of):
    if isinstance(tree, int):
        return x[tree]
    name, *rest = tree
    a = evaluate(rest[0], x, of)
    if name == "square":
        return a * a
    if name in ONE:
        return getattr(of, name)(a)
    b = evaluate(rest[1], x, of)
    return {"+": lambda: a + b, "-": lambda: a - b, "*": lambda: a * b, "/": lambda: a / b}[name]()


def parts(tree, x):
    """Values of all parts of a tree, or nothing where one of them has none."""
    if isinstance(tree, int):
        return [x[tree]]
    inside = [value for part in tree[1:] for value in parts(part, x)]
    return [*inside, evaluate(tree, x, FLOATS)]


@dataclass(frozen=True)
class Drawn:
    tree: object
    values: np.ndarray
    u: np.ndarray
    dof: np.ndarray
    pair: tuple[int, int]
    r: float


def draw(seed):
    """The first well-conditioned model from a seed on."""
    rng = np.random.default_rng(seed)
    while True:
        count = int(rng.integers(2, 7))
        tree = draw_tree(rng, count, 4)
        values = rng.uniform(0.5, 3.0, count)
        u = values * 10.0 ** rng.uniform(-4, -1, count)
        pair = tuple(int(k) for k in rng.choice(count, 2, replace=False))
        made = Drawn(tree, values, u, rng.uniform(3, 60, count), pair, float(rng.uniform(-0.9, 0.9)))
        if is_good(made):
            return made


def is_good(made):
    if isinstance(made.tree, int):
        return False
    try:
        found = np.abs([float(v) for v in parts(made.tree, made.values.tolist())])
    except (ValueError, ZeroDivisionError, OverflowError):
        return False
    if found.min() < 0.1 or found.max() > 30:
        return False
    real = [GTC.ureal(v, s) for v, s in zip(made.values, made.u, strict=True)]
    result = evaluate(made.tree, real, REFEREE)
    largest = max((abs(GTC.component(result, part)) for part in real), default=0.0)
    return 1e-7 < result.u <= 3.0 * largest


def fenmist(made, correlated=False):
    inputs = tuple(
        influence(f"x{k}", "x", v, s, points=1, dof=d)
        for k, (v, s, d) in enumerate(zip(made.values, made.u, made.dof, strict=True))
    )
    pairs = {(f"x{made.pair[0]}", f"x{made.pair[1]}"): made.r} if correlated else {}

    def model(x):
        return {"y": evaluate(made.tree, [x[f"x{k}"] for k in range(made.values.size)], NUMPY)}

    found = Inputs(inputs, pairs)
    return propagate(model, found, {"y": ("y", "")})["y"], model, found


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
