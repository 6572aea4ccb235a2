"""The stated uncertainty holds: truths drawn from the stated limits, reduced by the core, as often inside as predicted.

A short form of the proof; its control must fail.
"""

import math

import numpy as np
import pytest

from fenmist.calibration.make import cross_check, plan_points
from fenmist.calibration.reduction import reduce
from fenmist.kit import shelf
from fenmist.reading.event import Slot
from fenmist.simulation.bench import TrueBench, TrueLine, observe
from support.builders import bench_kit, enter

F, LEVEL = 14.2e6, 80.0
LOAD = 54.0 + 6.0j


def _standardised_errors(trials: int, accuracy: float, seed: int) -> np.ndarray:
    """(stated reference − truth)/u over drawn benches; the job states `accuracy`, the truth is drawn from ±3 %."""
    rng = np.random.default_rng(seed)
    kit = bench_kit(
        load=f"{LOAD.real}+j{LOAD.imag}", load_u=0.01, bandwidth_hz=200e6, lead_m=0.3, accuracy=accuracy,
        jumper=shelf.jumper("j", "jumper", 0.05, 0.03),
    )  # fmt: skip
    empty = cross_check("job", "coverage", kit, plan_points([F], [LEVEL], "200"))
    out = []
    for _ in range(trials):
        spread = 0.01 * abs(LOAD)
        load = LOAD + complex(*rng.normal(0.0, spread, 2))
        # the response is known to lie between flat and twice its correction: drawn as one effective bandwidth
        share = rng.uniform(0.0, 2.0)
        loss = 0.5 * math.log1p((F / 200e6) ** 2) * share
        bench = TrueBench(
            lambda _f, z=load: z, lambda _f: 0.0,
            TrueLine(rng.uniform(48, 52), rng.uniform(0.29, 0.31), 0.66 * rng.uniform(0.97, 1.03)),
            16e-12 * rng.uniform(0.8, 1.2), rng.uniform(0.97, 1.03) * math.exp(-loss), math.inf,
            TrueLine(50.0, 0.5, 0.66, rng.uniform(0.02, 0.08)),
        )  # fmt: skip
        shown = observe(bench, F, LEVEL)
        job = enter(empty, Slot("p1", 1, 0), f"{shown.volts_peak_to_peak:.1f}")
        job = enter(job, Slot("p1", 1, 1), "80")
        result = reduce(job)
        stated = result.power.incident_at_meter
        out.append((stated.value[0] - LEVEL) / stated.u[0])
    return np.array(out)


def _coverage_limits(predicted: float, trials: int) -> tuple[float, float]:
    sigma = math.sqrt(predicted * (1 - predicted) / trials)
    return predicted - 3 * sigma, min(predicted + 3 * sigma, 1.0)


def predicted_coverage() -> float:
    """Probability that the budget's own shapes lie within ± 2u, by Monte Carlo of the same budget."""
    rng = np.random.default_rng(5)
    kit = bench_kit(load="54+j6", bandwidth_hz=200e6, lead_m=0.3, jumper=shelf.jumper("j", "jumper", 0.05, 0.03))
    empty = cross_check("job", "c", kit, plan_points([F], [LEVEL], "200"))
    rows = reduce(
        enter(enter(empty, Slot("p1", 1, 0), "186.0"), Slot("p1", 1, 1), "80")
    ).power.incident_at_meter.budget()
    half = math.sqrt(3)
    draws = sum(
        row.contribution
        * (
            rng.uniform(-half, half, 200_000)
            if row.influence.distribution == "rectangular"
            else rng.normal(size=200_000)
        )
        for row in rows
    )
    return float(np.mean(np.abs(draws) <= 2 * math.sqrt(sum(row.contribution**2 for row in rows))))


def _check(trials: int) -> None:
    errors = _standardised_errors(trials, 0.03, seed=7)
    low, high = _coverage_limits(predicted_coverage(), trials)

    assert low <= np.mean(np.abs(errors) <= 2.0) <= high
    assert errors.std() == pytest.approx(1.0, abs=0.05 + 2 / math.sqrt(trials))
    assert errors.mean() == pytest.approx(0.0, abs=0.05 + 3 / math.sqrt(trials))


def test_the_reference_covers_the_truth_as_often_as_predicted():
    _check(300)


@pytest.mark.long
def test_the_reference_covers_the_truth_over_thousands_of_benches():
    _check(5000)


def test_rectangular_shares_make_the_coverage_exceed_95_45_per_cent():
    assert 0.975 < predicted_coverage() < 0.995


def test_the_control_with_half_the_gain_limit_fails():
    errors = _standardised_errors(300, 0.015, seed=7)
    low, _ = _coverage_limits(predicted_coverage(), 300)

    assert np.mean(np.abs(errors) <= 2.0) < low
    assert errors.std() > 1.3
