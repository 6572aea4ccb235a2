"""Zone, verdict and risk."""

import math
from statistics import NormalDist

import numpy as np
import pytest

from fenmist.calibration.decision import Verdict, Zone, conformance_probability, decide
from fenmist.calibration.job import Rule


@pytest.mark.parametrize(
    ("error", "zone"),
    [
        (0.0, Zone.INSIDE), (7.9, Zone.INSIDE), (8.1, Zone.INSIDE_WITHIN), (10.0, Zone.INSIDE_WITHIN),
        (10.1, Zone.OUTSIDE_WITHIN), (11.9, Zone.OUTSIDE_WITHIN), (12.1, Zone.OUTSIDE), (-12.1, Zone.OUTSIDE),
        (-9.0, Zone.INSIDE_WITHIN),
    ],
)  # fmt: skip
def test_the_zone_says_where_the_error_lies_seen_through_u(error, zone):
    assert decide(error, 1.0, 2.0, 10.0, Rule.SIMPLE).zone is zone


@pytest.mark.parametrize(
    ("rule", "error", "verdict"),
    [
        (Rule.SIMPLE, 9.9, Verdict.ACCEPT), (Rule.SIMPLE, 10.1, Verdict.REJECT),
        (Rule.GUARDED, 7.9, Verdict.ACCEPT), (Rule.GUARDED, 8.1, Verdict.REJECT),
    ],
)  # fmt: skip
def test_the_verdict_follows_the_agreed_rule(rule, error, verdict):
    assert decide(error, 1.0, 2.0, 10.0, rule).verdict is verdict


@pytest.mark.parametrize(
    ("error", "verdict"), [(0.0, Verdict.CANNOT_DECIDE), (21.0, Verdict.CANNOT_DECIDE), (23.0, Verdict.REJECT)]
)
def test_with_u_above_the_tolerance_only_what_is_surely_outside_is_decided(error, verdict):
    """docs/decisions/0003: 23 > 10 + 12 is outside whatever the truth."""
    assert decide(error, 6.0, 12.0, 10.0, Rule.SIMPLE).verdict is verdict


def test_what_is_no_reference_decides_nothing():
    made = decide(0.0, 1.0, 2.0, 10.0, Rule.SIMPLE, may_decide=False)

    assert made.verdict is Verdict.CANNOT_DECIDE
    assert made.risk is None


def test_at_the_limit_without_a_guard_band_half_are_wrong():
    """JCGM 106:2012, from memory: error exactly at the limit, no guard band: 50 %."""
    assert decide(10.0, 0.5, 1.0, 10.0, Rule.SIMPLE).risk == pytest.approx(0.5, abs=1e-6)


def test_guarded_by_u_at_most_2_3_per_cent_are_wrong():
    """Derived: Φ(−2) = 2.3 %; ILAC-G8 names it, from memory."""
    assert decide(8.0, 1.0, 2.0, 10.0, Rule.GUARDED).risk == pytest.approx(NormalDist().cdf(-2.0), abs=1e-4)


@pytest.mark.parametrize(("error", "u"), [(3.0, 4.0), (-9.0, 2.0), (12.0, 5.0)])
def test_probability_of_conformance_is_what_is_drawn(error, u):
    truths = np.random.default_rng(4).normal(error, u, 200_000)

    assert conformance_probability(error, u, 10.0) == pytest.approx(np.mean(np.abs(truths) <= 10.0), abs=0.004)


def test_without_uncertainty_the_answer_is_plain():
    assert conformance_probability(9.0, 0.0, 10.0) == 1.0
    assert math.isinf(decide(9.0, 0.0, 0.0, 10.0, Rule.SIMPLE).tur)


def test_the_test_uncertainty_ratio_is_tolerance_over_u():
    assert decide(1.0, 0.5, 1.0, 5.0, Rule.SIMPLE).tur == pytest.approx(5.0)
    assert decide(1.0, 2.0, 4.0, 5.0, Rule.SIMPLE).tur == pytest.approx(1.25)
