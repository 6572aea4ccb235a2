"""The stated uncertainty holds through the window: drawn benches, typed key by key into the readings."""

import math

import pytest

from studies.coverage import binomial_limits, observed, predicted, sample_result
from studies.in_window import IN_A_JOB, study_in_window

F, POINTS = 14.2e6, IN_A_JOB


def test_what_is_typed_in_the_window_covers_the_truth_as_often_as_predicted(hands):
    found, sample = study_in_window(hands, POINTS, F), sample_result(F)

    for errors, estimate in ((found.reference, sample.reference), (found.error, sample.error)):
        low, high = binomial_limits(predicted(estimate), POINTS)
        assert low <= observed(errors) <= high
        assert errors.std() == pytest.approx(1.0, abs=0.05 + 2 / math.sqrt(POINTS))
        assert errors.mean() == pytest.approx(0.0, abs=0.05 + 3 / math.sqrt(POINTS))


@pytest.mark.long
def test_the_control_fails_in_the_window_as_well(hands):
    found = study_in_window(hands, POINTS, F, accuracy=0.015)
    low, _ = binomial_limits(predicted(sample_result(F).reference), POINTS)

    assert observed(found.reference) < low
