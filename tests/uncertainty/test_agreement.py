"""Agreement of several values: weighted mean and χ² against closed forms and SciPy, coverage by drawing."""

import math

import numpy as np
import pytest
from scipy import optimize, stats

from fenmist.errors import OutOfRangeError
from fenmist.uncertainty.agreement import agreement, agreements


def drawn(seed, m=4, share=0.5):
    rng = np.random.default_rng(seed)
    loading = rng.normal(size=(m, m + 1)) * share
    return rng.normal(50.0, 2.0, m), loading @ loading.T + np.diag(rng.uniform(0.5, 2.0, m) ** 2)


def test_independent_values_are_weighted_by_what_they_are_known_to():
    """Weighted mean and its uncertainty (any textbook): Σy/u² over Σ1/u²."""
    y, u = np.array([22.5, 25.6, 24.0]), np.array([0.8, 1.0, 0.5])
    found = agreement(y, np.diag(u**2))

    assert found.value == pytest.approx(np.average(y, weights=u**-2))
    assert found.u == pytest.approx(np.sum(u**-2.0) ** -0.5)
    assert found.weights == pytest.approx(u**-2 / np.sum(u**-2))
    assert found.chi_squared == pytest.approx(np.sum((y - found.value) ** 2 / u**2))
    assert found.probability == pytest.approx(stats.chi2.sf(found.chi_squared, 2))
    assert found.expanded_u == 2.0 * found.u


@pytest.mark.parametrize("seed", range(5))
def test_correlated_values_are_the_least_chi_squared(seed):
    """The consensus is where (y − c)ᵀV⁻¹(y − c) is least: SciPy's minimiser as the referee."""
    y, v = drawn(seed)
    found, inverse = agreement(y, v), np.linalg.inv(v)
    least = optimize.minimize_scalar(lambda c: (y - c) @ inverse @ (y - c))

    assert found.value == pytest.approx(least.x, rel=1e-7)
    assert found.chi_squared == pytest.approx(least.fun, rel=1e-9)
    assert found.u == pytest.approx(np.sum(inverse) ** -0.5)
    assert sum(found.weights) == pytest.approx(1.0)


def test_the_consensus_covers_and_chi_squared_is_as_probable_as_it_says():
    """20,000 draws: 95.45 % inside U, probabilities evenly spread (within three binomial sigma)."""
    _, v = drawn(1)
    rng = np.random.default_rng(7)
    sample = rng.multivariate_normal(np.full(4, 50.0), v, 4000)
    made = [agreement(y, v) for y in sample]
    inside = np.mean([abs(item.value - 50.0) <= item.expanded_u for item in made])
    low = np.mean([item.probability < 0.05 for item in made])

    assert abs(inside - 0.9545) < 3.0 * math.sqrt(0.9545 * 0.0455 / 4000)
    assert abs(low - 0.05) < 3.0 * math.sqrt(0.05 * 0.95 / 4000)


def test_what_two_share_drops_out_of_their_difference():
    """U of 2 W each, 0.9 W of u shared: the difference is known to √(2·(1 − 0.81)) = 0.616."""
    v = np.array([[1.0, 0.81], [0.81, 1.0]])
    (pair,) = agreement([50.0, 51.0], v).pairs

    assert (pair.a, pair.b, pair.difference) == (0, 1, -1.0)
    assert pair.u == pytest.approx(math.sqrt(0.38))
    assert pair.en == pytest.approx(-1.0 / (2.0 * math.sqrt(0.38)))
    assert pair.correlation == pytest.approx(0.81)


def test_two_that_share_a_lot_count_little_more_than_one():
    """Correlation 0.81: u falls to √(1.81/2), not to 1/√2; they lean on one thing, which is said."""
    found = agreement([50.0, 50.3], [[1.0, 0.81], [0.81, 1.0]])

    assert found.u == pytest.approx(math.sqrt(1.81 / 2.0))
    assert found.leaning == found.pairs
    assert agreement([50.0, 50.3], [[1.0, 0.69], [0.69, 1.0]]).leaning == ()
    assert agreement([50.0, 52.0], [[1.0, 0.81], [0.81, 1.0]]).leaning == ()  # they don't agree


@pytest.mark.parametrize(
    ("values", "odd"),
    [
        ((50.0, 50.5, 60.0), 2), ((60.0, 50.0, 50.5), 0), ((50.0, 50.5, 51.0), None), ((50.0, 60.0), None),
        ((50.0, 50.5, 60.0, 60.5), None), ((50.0, 55.0, 60.0), None), ((50.0, 50.5, 49.5, 42.0), 3),
        ((50.0, 52.5, 55.0), None),
    ],
)  # fmt: skip
def test_the_odd_one_is_named_where_only_its_absence_mends(values, odd):
    found = agreement(values, np.eye(len(values)))

    assert found.odd == odd
    assert found.agrees is (found.probability >= 0.05)


@pytest.mark.parametrize("m", [1, 2, 3, 4])
def test_many_points_at_once_are_each_as_by_itself(m):
    """Of some one is odd, of some two stand against two: places of points and of estimates aren't mixed up."""
    rng = np.random.default_rng(m)
    made = [drawn(seed, m) for seed in range(24)]
    values, covariance = np.array([y for y, _ in made]), np.array([v for _, v in made])
    values[::3, rng.integers(m)] += 12.0

    together = agreements(values, covariance)

    odd = [item.odd for item in together]
    assert (len({*odd}) > 1, None in odd) == (m > 2, True)
    for found, y, v in zip(together, values, covariance, strict=True):
        alone = agreement(y, v)
        assert (found.odd, len(found.pairs)) == (alone.odd, m * (m - 1) // 2)
        for name in ("value", "u", "weights", "chi_squared", "probability", "apart", "off"):
            assert getattr(found, name) == pytest.approx(getattr(alone, name), rel=1e-9, abs=1e-12)
        for pair, other in zip(found.pairs, alone.pairs, strict=True):
            assert vars(pair) == pytest.approx(vars(other))


def test_one_of_many_that_can_not_be_weighed_is_said():
    good, y = np.array([[1.0, 0.2], [0.2, 1.0]]), np.array([[50.0, 51.0]] * 3)
    for bad, says in (
        ([[0.0, 0.0], [0.0, 1.0]], "no uncertainty"), ([[1.0, 1.5], [1.5, 1.0]], "More is shared"),
        ([[1.0, 1.0], [1.0, 1.0]], "entirely on the same"),
    ):  # fmt: skip
        with pytest.raises(OutOfRangeError, match=says):
            agreements(y, np.array([good, bad, good]))


@pytest.mark.parametrize(("z", "agrees"), [(1.93, True), (1.99, False)])
def test_two_disagree_from_one_chance_in_twenty(z, agrees):
    """1.96 standard deviations of their difference (any table of the normal distribution)."""
    assert agreement([50.0, 50.0 + z * math.sqrt(2.0)], np.eye(2)).agrees is agrees


def test_the_odd_one_is_off_by_more_than_its_u():
    """Of three with u = 1 one is 3.025 off: U of that is 2·√1.5, so 1.235 of it, and χ² = 3.025²/1.5 is beyond 5.99."""
    found = agreement([50.0, 50.0, 53.025], np.eye(3))
    assert not found.agrees and found.odd == 2 and found.off[2] == pytest.approx(1.235, abs=1e-3)


@pytest.mark.parametrize(("en", "leans"), [(0.95, True), (1.1, False)])
def test_two_that_lean_on_one_thing_are_told_while_they_agree(en, leans):
    """Correlation 0.8: the difference is known to √(2 − 1.6), twice that is U."""
    apart = en * 2.0 * math.sqrt(0.4)
    assert bool(agreement([50.0, 50.0 + apart], [[1.0, 0.8], [0.8, 1.0]]).leaning) is leans


def test_each_against_the_others():
    """50 and 51 (u 1 each) against 60: 60 − 50.5 is known to √(1 + 1/2)."""
    found = agreement([50.0, 51.0, 60.0], np.eye(3))

    assert found.off[2] == pytest.approx(9.5 / (2.0 * math.sqrt(1.5)))
    assert found.off[0] == pytest.approx(-5.5 / (2.0 * math.sqrt(1.5)))
    assert found.apart == pytest.approx((-5.5, -4.0, 9.5))
    shared = np.eye(3)
    shared[0, 2] = shared[2, 0] = 0.5  # 60 shares a half of its variance with 50: 1.5 − 0.5 is left
    assert agreement([50.0, 51.0, 60.0], shared).off[2] == pytest.approx(9.5 / 2.0)
    uneven = agreement([50.0, 51.0], [[1.0, 0.9], [0.9, 4.0]]).pairs[0]
    assert (uneven.correlation, uneven.u) == (pytest.approx(0.45), pytest.approx(math.sqrt(3.2)))


def test_a_value_that_shares_more_than_it_adds_counts_negatively():
    """u 1 and 2, 1.8 W² shared: the weight of the poorer one is (1 − 1.8)/(1 + 4 − 3.6)."""
    found = agreement([50.0, 52.0], [[1.0, 1.8], [1.8, 4.0]])

    assert found.weights[1] == pytest.approx((1.0 - 1.8) / 1.4)
    assert found.outside and found.value < 50.0
    assert not agreement([50.0, 52.0], np.eye(2)).outside


def test_units_do_not_matter():
    small, large = (agreement(np.array([50.0, 51.0]) * s, np.eye(2) * s**2) for s in (1e-12, 1e6))

    assert small.value / 1e-12 == pytest.approx(large.value / 1e6)
    assert small.chi_squared == pytest.approx(large.chi_squared)


@pytest.mark.parametrize(
    ("values", "covariance", "says"),
    [
        ([50.0], [[0.0]], "no uncertainty"), ([], np.zeros((0, 0)), "nothing to compare"),
        ([50.0, 51.0], [[1.0]], "nothing to compare"), ([50.0, 51.0], [[1.0, 1.0], [1.0, 1.0]], "entirely on the same"),
        ([50.0, 51.0], [[1.0, 1.5], [1.5, 1.0]], "More is shared"),
    ],
)  # fmt: skip
def test_what_can_not_be_weighed_is_said(values, covariance, says):
    with pytest.raises(OutOfRangeError, match=says):
        agreement(values, covariance)


def test_one_value_is_its_own_consensus():
    found = agreement([50.0], [[4.0]])

    assert (found.value, found.u, found.probability, found.odd, found.off) == (50.0, 2.0, 1.0, None, (0.0,))
