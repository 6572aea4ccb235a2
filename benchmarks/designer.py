"""Stacks of stock values that make a resistance, beside one sort of as many pairs; and all that is said of a design."""

import numpy as np

from benchmarks.clock import median_seconds
from fenmist.design.shapes import Shape
from fenmist.design.stack import Wanted, search
from fenmist.design.stock import stock_from_text
from fenmist.session.designing import design_from, example_of, with_stacks, worked

SERIES = ("E24", "E96")
TIMES = 7


def lines() -> list[str]:
    """A line for each series, and one for a change of a design."""
    return [*(_line(name) for name in SERIES), _change()]


def _line(name: str) -> str:
    wanted = Wanted(2463.0, power_w=2.0, volts=70.0)
    pieces = stock_from_text(f"{name} 2 W").around(wanted.ohm)
    pairs = np.random.default_rng(1).random(len(pieces) * (len(pieces) + 1))
    found = median_seconds(lambda: search(wanted, pieces), TIMES)
    peer = median_seconds(lambda: np.sort(pairs), TIMES)
    return (
        f"stacks of four from {len(pieces)} values of {name}: {1e3 * found:.0f} ms; as many pairs sorted "
        f"{1e3 * peer:.2f} ms: {found / peer:.0f}x (aim 100 ms of E24 at rest)"
    )


def _change() -> str:
    texts = {**example_of(Shape.RESISTIVE_TAP), "trim": "0.15 pF"}
    design = with_stacks(design_from(Shape.RESISTIVE_TAP, texts), texts)
    return f"all that is said of a design after a key: {1e3 * median_seconds(lambda: worked(design), TIMES):.0f} ms"
