"""Models made at random, for uncertainties to be carried through.

A model is a tree of operations over two to six inputs, drawn by its seed; it is kept where it is well conditioned: no
part of it near a pole, and no result that is only what is left of large terms that cancel.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import GTC
import numpy as np

from fenmist.uncertainty.estimate import Estimate
from fenmist.uncertainty.influence import FloatArray, Inputs, influence
from fenmist.uncertainty.propagation import Model, propagate

ONE = ("exp", "log", "sqrt", "sin", "square")
TWO = ("+", "-", "*", "/")

Tree = int | tuple[Any, ...]
"""An input by its number, or an operation with what it is done to."""


@dataclass(frozen=True)
class Functions:
    """One library's elementary functions."""

    exp: Callable[[Any], Any]
    log: Callable[[Any], Any]
    sqrt: Callable[[Any], Any]
    sin: Callable[[Any], Any]


NUMPY = Functions(np.exp, np.log, np.sqrt, np.sin)
REFEREE = Functions(GTC.exp, GTC.log, GTC.sqrt, GTC.sin)
FLOATS = Functions(math.exp, math.log, math.sqrt, math.sin)


def draw_tree(rng: np.random.Generator, inputs: int, depth: int) -> Tree:
    if depth == 0 or rng.uniform() < 0.15:
        return int(rng.integers(inputs))
    if rng.uniform() < 0.3:
        return (str(rng.choice(ONE)), draw_tree(rng, inputs, depth - 1))
    return (str(rng.choice(TWO)), draw_tree(rng, inputs, depth - 1), draw_tree(rng, inputs, depth - 1))


def evaluate(tree: Tree, x: Sequence[Any], of: Functions) -> Any:
    """What a tree makes of inputs, by a library's functions."""
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


def parts(tree: Tree, x: Sequence[float]) -> list[float]:
    """Values of all parts of a tree, or nothing where one of them has none."""
    if isinstance(tree, int):
        return [x[tree]]
    inside = [value for part in tree[1:] for value in parts(part, x)]
    return [*inside, evaluate(tree, x, FLOATS)]


@dataclass(frozen=True)
class Drawn:
    """A model with what its inputs are known to."""

    tree: Tree
    values: FloatArray
    u: FloatArray
    dof: FloatArray
    pair: tuple[int, int]
    r: float


def draw(seed: int) -> Drawn:
    """The first well-conditioned model from a seed on."""
    rng = np.random.default_rng(seed)
    while True:
        count = int(rng.integers(2, 7))
        tree = draw_tree(rng, count, 4)
        values = rng.uniform(0.5, 3.0, count)
        u = values * 10.0 ** rng.uniform(-4, -1, count)
        first, second = (int(k) for k in rng.choice(count, 2, replace=False))
        made = Drawn(tree, values, u, rng.uniform(3, 60, count), (first, second), float(rng.uniform(-0.9, 0.9)))
        if is_good(made):
            return made


def is_good(made: Drawn) -> bool:
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
    return bool(1e-7 < result.u <= 3.0 * largest)


def fenmist(made: Drawn, correlated: bool = False) -> tuple[Estimate, Model, Inputs]:
    """As it is carried through here."""
    inputs = tuple(
        influence(f"x{k}", "x", v, s, points=1, dof=d)
        for k, (v, s, d) in enumerate(zip(made.values, made.u, made.dof, strict=True))
    )
    pairs = {(f"x{made.pair[0]}", f"x{made.pair[1]}"): made.r} if correlated else {}

    def model(x: Mapping[str, FloatArray]) -> Mapping[str, FloatArray]:
        return {"y": evaluate(made.tree, [x[f"x{k}"] for k in range(made.values.size)], NUMPY)}

    found = Inputs(inputs, pairs)
    return propagate(model, found, {"y": ("y", "")})["y"], model, found
