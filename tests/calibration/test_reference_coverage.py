"""What is stated of any reference holds: truths drawn by nodes, as often inside as the budget's own shapes predict.

A short form; docs/method/coverage.md has 5,000 benches of each. The control must fail.
"""

import math

import numpy as np
import pytest

from studies.coverage import binomial_limits, observed, predicted
from studies.references import BENCHES, errors, result_of


def check(name: str, trials: int) -> None:
    found = errors(name, trials)
    low, high = binomial_limits(predicted(result_of(BENCHES[name](), np.random.default_rng(1)).reference), trials)

    assert low <= observed(found) <= high
    assert found.std() == pytest.approx(1.0, abs=0.05 + 2.0 / math.sqrt(trials))
    assert found.mean() == pytest.approx(0.0, abs=0.05 + 3.0 / math.sqrt(trials))


@pytest.mark.parametrize("name", BENCHES)
def test_the_power_that_a_reference_says_covers_the_truth(name):
    check(name, 60)


@pytest.mark.long
@pytest.mark.parametrize("name", BENCHES)
def test_the_same_over_thousands_of_benches(name):
    check(name, 5000)


def test_the_control_with_half_of_the_leading_inputs_u_fails():
    found = errors("ammeter in the line", 120, halved="a.gain")

    assert found.std() > 1.3
    assert observed(found) < 0.9
