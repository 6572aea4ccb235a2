"""Odds of detectors against Bayes' rule written out, and a hold's decay on data that tell it and that don't."""

import math

import numpy as np
import pytest
from scipy.stats import multivariate_normal

from fenmist.measurand import Detector
from fenmist.methods.detectors import CHARGING_S, DECAY_S, GRID, HIGHEST, KINDS, LOWEST, told_apart
from fenmist.waveform.movement import hold_readings
from fenmist.waveform.named import waveform_from_text

WAVES = [waveform_from_text(text) for text in ("two-tone", "dots 20 Hz", "dots 1 Hz")]


def covariance(u, r=0.3):
    return u * u * (np.full((3, 3), r) + (1.0 - r) * np.eye(3))


@pytest.mark.parametrize(("shown", "u"), [
    ((0.5, 0.5, 0.5), 0.05), ((0.41, 0.27, 0.22), 0.1), ((0.97, 0.99, 0.96), 0.02), ((0.3, 0.9, 0.6), 0.2),
])  # fmt: skip
def test_odds_are_likelihoods_over_their_sum_all_kinds_as_likely_before(shown, u):
    """Normal in the logarithm; holds evenly over both times; "none of them" anything between 2 and 130 %, evenly."""
    logs, of = np.log(shown), covariance(u)

    def density(fractions):
        return float(multivariate_normal(np.log(fractions), of).pdf(logs))

    times = np.meshgrid(np.geomspace(*CHARGING_S, GRID[0]), np.geomspace(*DECAY_S, GRID[1]), indexing="ij")
    grid = np.array([hold_readings(wave, times[0].ravel(), times[1].ravel()) for wave in WAVES]).T
    wanted = {
        Detector.THERMAL: density((0.5, 0.5, 0.5)), Detector.AVERAGE: density(((2 / math.pi) ** 2, 0.25, 0.25)),
        Detector.HOLD: float(np.mean([density(row) for row in grid])), Detector.PEAK: density((1.0, 1.0, 1.0)),
        None: math.log(HIGHEST / LOWEST) ** -3,
    }  # fmt: skip
    told = told_apart(WAVES, np.array(shown), of)

    assert told.odds == pytest.approx({kind: each / sum(wanted.values()) for kind, each in wanted.items()}, abs=1e-9)
    assert told.likeliest is max(wanted, key=lambda kind: wanted[kind])
    assert told.is_sure == (max(told.odds.values()) >= 0.95)
    best = grid[np.argmax([density(row) for row in grid])]
    assert told.predicted[Detector.HOLD] == pytest.approx(tuple(best))
    assert set(told.predicted) == set(KINDS)


def test_sure_of_a_thermal_meter_and_not_sure_between_two():
    assert told_apart(WAVES, np.array([0.5, 0.5, 0.5]), covariance(0.01)).is_sure
    assert not told_apart(WAVES[:1], np.array([0.45]), np.array([[0.2**2]])).is_sure


def test_a_decay_that_nothing_tells_is_anything_between_its_ends_alike():
    """Readings known to nothing: the middle of the logarithm, both ends as far from it."""
    low, middle, high = told_apart(WAVES, np.array([0.8, 0.8, 0.8]), covariance(2.0)).decay_s
    centre = math.sqrt(DECAY_S[0] * DECAY_S[1])

    assert middle == pytest.approx(centre, rel=0.1)
    assert low * high == pytest.approx(centre**2, rel=0.15)
    assert high / low == pytest.approx((DECAY_S[1] / DECAY_S[0]) ** (0.9545 * 25 / 24), rel=0.05)


def test_a_decay_is_found_where_the_gaps_tell_it():
    (shown,) = (np.array([float(hold_readings(wave, np.array([0.01]), np.array([1.0]))[0]) for wave in WAVES]),)
    low, middle, high = told_apart(WAVES, shown, covariance(0.01)).decay_s

    assert low < 1.0 < high
    assert middle == pytest.approx(1.0, rel=0.15)
    assert told_apart(WAVES, np.array([0.5, 0.5, 0.5]), covariance(0.01)).decay_s is None
