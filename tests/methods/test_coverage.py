"""The stated uncertainty holds: truths drawn from the stated limits, reduced by the core, as often inside as predicted.

A short form of the proof; its control must fail. The study's results stand in docs/method/coverage.md.
"""

import math

import pytest

from studies.coverage import SCENARIOS, binomial_limits, observed, predicted, sample_result, study

F = 14.2e6


def _check(trials: int, scenario: str) -> None:
    found, sample = study(trials, F, scenario=scenario), sample_result(F, scenario)
    for errors, estimate in ((found.reference, sample.reference), (found.error, sample.error)):
        low, high = binomial_limits(predicted(estimate), trials)

        assert low <= observed(errors) <= high
        assert errors.std() == pytest.approx(1.0, abs=0.05 + 2 / math.sqrt(trials))
        assert errors.mean() == pytest.approx(0.0, abs=0.05 + 3 / math.sqrt(trials))


@pytest.mark.parametrize("scenario", SCENARIOS)
def test_reference_and_error_cover_the_truth_as_often_as_predicted(scenario):
    _check(60 if scenario == "capture" else 120, scenario)  # a capture takes as long as ten readings


@pytest.mark.long
@pytest.mark.parametrize("scenario", SCENARIOS)
def test_reference_and_error_cover_the_truth_over_thousands_of_benches(scenario):
    _check(5000, scenario)


def test_rectangular_shares_make_the_coverage_exceed_95_45_per_cent():
    sample = sample_result(F)

    assert 0.97 < predicted(sample.reference) < 0.995


def test_the_control_with_half_the_gain_limit_fails():
    errors = study(200, F, accuracy=0.015).reference
    low, _ = binomial_limits(predicted(sample_result(F).reference), 200)

    assert observed(errors) < low
    assert errors.std() > 1.3
