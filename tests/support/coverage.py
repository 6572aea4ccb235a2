"""The coverage study: truths drawn from the stated limits on the simulated bench, typed, and reduced by the core.

Used by the tests in a short form and by `scripts/coverage_study.py`, which writes docs/method/coverage.md. Known
normal: the load (1 % of |Z| in R and X); rectangular: gain ±3 %, response from flat to twice its correction, lead
±10 mm, velocity factor ±3 %, line 50 ± 2 Ω, input 16 pF ±20 %, jumper 0.05 ± 0.03 dB, needle ± a quarter division,
the tee's arm 20 ± 10 mm and body 1 ± 1 pF; second and third harmonic anywhere below −40 dBc, in any phase.
"""

import math
from dataclasses import dataclass

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.make import cross_check, plan_points
from fenmist.calibration.reduction import Result, reduce
from fenmist.kit import shelf
from fenmist.reading.event import Slot
from fenmist.simulation.bench import TrueBench, TrueHarmonic, TrueLine, observe
from fenmist.uncertainty.estimate import Estimate
from support.builders import bench_kit, enter

LEVEL = 80.0
LOAD = 54.0 + 6.0j
BANDWIDTH = 200e6
METER_DB = -0.3
"""What the drawn meter truly does."""


@dataclass(frozen=True)
class Studied:
    """Standardised errors (stated − true)/u of the reference power and of the DUT's error."""

    reference: np.ndarray
    error: np.ndarray


def empty_job(frequency_hz: float, accuracy: float = 0.03) -> Job:
    """A job that states those limits; `accuracy` is the scope's, wrong in the control."""
    kit = bench_kit(
        load=f"{LOAD.real}+j{LOAD.imag}", load_u=0.01, bandwidth_hz=BANDWIDTH, lead_m=0.3, accuracy=accuracy,
        jumper=shelf.jumper("j", "jumper", 0.05, 0.03), tee=shelf.tee("tee", "tee"), harmonics_dbc=-40.0,
    )  # fmt: skip
    return cross_check("job", "coverage", kit, plan_points([frequency_hz], [LEVEL], "200"))


def draw_bench(frequency_hz: float, rng: np.random.Generator) -> TrueBench:
    """One bench as it may be within the stated limits."""
    load = LOAD + complex(*rng.normal(0.0, 0.01 * abs(LOAD), 2))
    loss = 0.5 * math.log1p((frequency_hz / BANDWIDTH) ** 2) * rng.uniform(0.0, 2.0)
    lead = TrueLine(rng.uniform(48, 52), rng.uniform(0.29, 0.31), 0.66 * rng.uniform(0.97, 1.03))
    gain = rng.uniform(0.97, 1.03) * math.exp(-loss)
    jumper = TrueLine(50.0, 0.5, 0.66, rng.uniform(0.02, 0.08))
    capacitance = 16e-12 * rng.uniform(0.8, 1.2)
    arm = TrueLine(50.0, rng.uniform(0.01, 0.03), 0.7)
    harmonics = tuple(
        TrueHarmonic(order, 0.01 * math.sqrt(rng.uniform()), rng.uniform(0.0, 2.0 * math.pi)) for order in (2, 3)
    )
    return TrueBench(
        lambda _: load, lambda _: METER_DB, lead, capacitance, gain, math.inf, jumper, arm=arm,
        tee_capacitance_f=rng.uniform(0.0, 2e-12), harmonics=harmonics,
    )  # fmt: skip


def study(trials: int, frequency_hz: float = 14.2e6, accuracy: float = 0.03, seed: int = 7) -> Studied:
    """Draw benches, type what they show, reduce, and compare with the truth."""
    rng = np.random.default_rng(seed)
    empty = empty_job(frequency_hz, accuracy)
    division = 2.5  # a quarter of the division at 75 W on the 200 W range
    rows = []
    for _ in range(trials):
        shown = observe(draw_bench(frequency_hz, rng), frequency_hz, LEVEL)
        read = shown.meter_w + rng.uniform(-division, division)
        result = reduce(_typed(empty, f"{shown.volts_peak_to_peak:.1f}", f"{read:.6g}"))
        reference, error = result.power.incident_at_meter, result.error
        true_error = LEVEL * (10.0 ** (METER_DB / 10.0) - 1.0)  # on a pure carrier
        rows.append(((reference.value[0] - LEVEL) / reference.u[0], (error.value[0] - true_error) / error.u[0]))
    first, second = np.array(rows).T
    return Studied(first, second)


def _typed(job: Job, volts: str, watts: str) -> Job:
    return enter(enter(job, Slot("p1", 1, 0), volts), Slot("p1", 1, 1), watts)


def sample_result(frequency_hz: float) -> Result:
    """A result near the middle of the drawn ones, for its budgets."""
    bench = TrueBench(
        lambda _: LOAD, lambda _: METER_DB, TrueLine(50, 0.3, 0.66), 16e-12, arm=TrueLine(50, 0.02, 0.7),
        tee_capacitance_f=1e-12,
    )  # fmt: skip
    shown = observe(bench, frequency_hz, LEVEL)
    return reduce(_typed(empty_job(frequency_hz), f"{shown.volts_peak_to_peak:.1f}", f"{shown.meter_w:.4g}"))


def predicted(estimate: Estimate, seed: int = 5) -> float:
    """Probability that the budget's own shapes lie within ± 2u, by Monte Carlo of the same budget."""
    rng = np.random.default_rng(seed)
    draws = np.zeros(400_000)
    for row in estimate.budget():
        draws += row.contribution * _unit(row.influence.distribution, draws.size, rng)
    return float(np.mean(np.abs(draws) <= 2 * estimate.u[0]))


def _unit(shape: str, size: int, rng: np.random.Generator) -> np.ndarray:
    if shape == "rectangular":
        return rng.uniform(-math.sqrt(3), math.sqrt(3), size)
    if shape == "anywhere in a disc":
        return 2.0 * np.sqrt(rng.uniform(size=size)) * np.cos(rng.uniform(0.0, 2.0 * math.pi, size))
    return rng.normal(size=size)


def binomial_limits(probability: float, trials: int) -> tuple[float, float]:
    """Three binomial standard deviations either way."""
    sigma = math.sqrt(probability * (1 - probability) / trials)
    return probability - 3 * sigma, min(probability + 3 * sigma, 1.0)


def observed(errors: np.ndarray) -> float:
    """Part of the errors within ± 2u."""
    return float(np.mean(np.abs(errors) <= 2.0))
