"""The coverage study: truths drawn from the stated limits on the simulated bench, typed, and reduced by the core.

Used by the tests in a short form and by `studies/coverage_page.py`, which writes docs/method/coverage.md. Known
normal: the load (1 % of |Z| in R and X); rectangular: gain ±3 %, response from flat to twice its correction, lead
±10 mm, velocity factor ±3 %, line 50 ± 2 Ω, input 16 pF ±20 %, jumper 0.05 ± 0.03 dB, needle ± a quarter division,
the tee's arm 20 ± 10 mm and body 1 ± 1 pF; second and third harmonic anywhere below −40 dBc, in any phase. With a
probe: ratio ±2 %, tip 12 pF ±20 %, ground lead 100 mm ±30 %. Hot: R between its cold and its hot table.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import timedelta

import numpy as np

from fenmist.calibration.edit import LoadRow, with_load_rows
from fenmist.calibration.job import Job, PlanPoint
from fenmist.kit import shelf
from fenmist.procedures.comparison.make import cross_check, plan_points
from fenmist.procedures.comparison.reduction import Result, reduce
from fenmist.reading.captured import reading_from_trace
from fenmist.reading.event import Reading, Slot
from fenmist.simulation.bench import TrueBench, TrueHarmonic, TrueLine, TrueProbe, observe, sample
from fenmist.uncertainty.estimate import Estimate
from fenmist.waveform.analysis import analyse
from fenmist.waveform.capture import channel_of
from studies.builders import WHEN, bench_kit, enter, on_many

LEVEL = 80.0
LOAD = 54.0 + 6.0j
HOT = 57.0 + 6.0j
BANDWIDTH = 200e6
PROBE_BANDWIDTH = 400e6
METER_DB = -0.3
"""What the drawn meter truly does."""

QUARTER_W = 2.5
"""A quarter of the division at 75 W on the 200 W range."""

SCENARIOS = ("lead", "probe", "around", "capture", "hot")
"""Typed peak to peak over a lead; over a probe; reference-meter-reference on a drifting carrier; a fitted capture; a
load that is somewhere between cold and hot."""


@dataclass(frozen=True)
class Studied:
    """Standardised errors (stated − true)/u of the reference power and of the DUT's error."""

    reference: np.ndarray
    error: np.ndarray


def empty_job(frequency_hz: float, accuracy: float = 0.03, scenario: str = "lead") -> Job:
    """A job that states those limits; `accuracy` is the scope's, wrong in the control."""
    kit = bench_kit(
        load=f"{LOAD.real}+j{LOAD.imag}", load_u=0.01, bandwidth_hz=BANDWIDTH, lead_m=0.3, accuracy=accuracy,
        jumper=shelf.jumper("j", "jumper", 0.05, 0.03), tee=shelf.tee("tee", "tee"), harmonics_dbc=-40.0,
        probe=shelf.probe("probe", "probe", bandwidth_hz=PROBE_BANDWIDTH) if scenario == "probe" else None,
    )  # fmt: skip
    made = cross_check("job", "coverage", kit, plan_points([frequency_hz], [LEVEL], "200"), created_at=WHEN)
    if scenario == "around":
        order = ("scope", "meter", "scope")
        made = replace(made, plan=tuple(replace(point, sequence=order) for point in made.plan))
    if scenario == "hot":
        rows = [LoadRow(frequency_hz, f"{LOAD.real}+j{LOAD.imag}", f"{HOT.real}+j{HOT.imag}")]
        made = with_load_rows(made, rows, 0.01, "")
    return made


def draw_bench(frequency_hz: float, rng: np.random.Generator, scenario: str = "lead") -> TrueBench:
    """One bench as it may be within the stated limits."""
    load = LOAD + complex(*rng.normal(0.0, 0.01 * abs(LOAD), 2))
    if scenario == "hot":
        load += rng.uniform() * (HOT - LOAD)
    bandwidth = 1 / math.hypot(1 / BANDWIDTH, 1 / PROBE_BANDWIDTH) if scenario == "probe" else BANDWIDTH
    loss = 0.5 * math.log1p((frequency_hz / bandwidth) ** 2) * rng.uniform(0.0, 2.0)
    feed: TrueLine | TrueProbe = TrueLine(rng.uniform(48, 52), rng.uniform(0.29, 0.31), 0.66 * rng.uniform(0.97, 1.03))
    gain = rng.uniform(0.97, 1.03) * math.exp(-loss)
    if scenario == "probe":
        feed = TrueProbe(10 * rng.uniform(0.98, 1.02), 12e-12 * rng.uniform(0.8, 1.2), 100e-9 * rng.uniform(0.7, 1.3))
        gain *= 10.0  # the scope multiplies by what it is set to
    jumper = TrueLine(50.0, 0.5, 0.66, rng.uniform(0.02, 0.08))
    arm = TrueLine(50.0, rng.uniform(0.01, 0.03), 0.7)
    harmonics = tuple(
        TrueHarmonic(order, 0.01 * math.sqrt(rng.uniform()), rng.uniform(0.0, 2.0 * math.pi)) for order in (2, 3)
    )
    return TrueBench(
        lambda _: load, lambda _: METER_DB, feed, 16e-12 * rng.uniform(0.8, 1.2), gain, math.inf, jumper, arm=arm,
        tee_capacitance_f=rng.uniform(0.0, 2e-12), harmonics=harmonics,
        noise_ratio=0.005 if scenario == "capture" else 0.0,
    )  # fmt: skip


def texts(bench: TrueBench, frequency_hz: float, rng: np.random.Generator) -> tuple[str, str]:
    """What is typed of a bench at the level: the screen and the needle, misjudged by up to a quarter division."""
    shown = observe(bench, frequency_hz, LEVEL)
    read = shown.meter_w + rng.uniform(-QUARTER_W, QUARTER_W)
    return f"{shown.volts_peak_to_peak:.1f}", f"{read:.6g}"


def read_job(made: Job, point: str, bench: TrueBench, f: float, rng: np.random.Generator, scenario: str) -> Job:
    """The job with what the bench shows entered at a point, in the scenario's way."""
    volts, watts = texts(bench, f, rng)
    if scenario == "around":
        return _around(made, point, float(volts), watts, rng)
    captured = _captured(bench, f, rng) if scenario == "capture" else None
    return enter(enter(made, Slot(point, 1, 0), volts, reading=captured), Slot(point, 1, 1), watts)


def _around(made: Job, point: str, volts: float, watts: str, rng: np.random.Generator) -> Job:
    """Reference, meter, reference at 0, 20, 40 s; the carrier changes by up to 6 %, and is off its straight line at the
    meter's moment by up to a quarter of that change."""
    change = rng.uniform(-0.06, 0.06)
    bend = rng.uniform(-0.25, 0.25) * change
    for position, ln in enumerate((-change / 2.0 - bend, None, change / 2.0 - bend)):
        text = watts if ln is None else f"{volts * math.exp(ln / 2.0):.2f}"
        made = enter(made, Slot(point, 1, position), text, WHEN + timedelta(seconds=20 * position))
    return made


def _captured(bench: TrueBench, frequency_hz: float, rng: np.random.Generator) -> Reading | None:
    """The reference read from an 8-bit capture instead of the screen."""
    step = 1.0 / (frequency_hz * rng.uniform(20, 30))
    channel = channel_of("CH1", sample(bench, frequency_hz, LEVEL, step, 1200, 1.0, rng))
    return reading_from_trace(analyse(channel, step, frequency_hz), channel).reading


def study(
    trials: int, frequency_hz: float = 14.2e6, accuracy: float = 0.03, seed: int = 7, scenario: str = "lead"
) -> Studied:
    """Draw benches, type what they show, reduce, and compare with the truth."""
    rng = np.random.default_rng(seed)

    def read(job: Job, plan: tuple[PlanPoint, ...]) -> Job:
        return read_job(job, plan[0].id, draw_bench(frequency_hz, rng, scenario), frequency_hz, rng, scenario)

    rows = [
        tuple(standardised(result, point))
        for result in map(reduce, on_many(empty_job(frequency_hz, accuracy, scenario), trials, read))
        for point in range(len(result.points))
    ]
    first, second = np.array(rows).T
    return Studied(first, second)


def standardised(result: Result, point: int = 0) -> Iterator[float]:
    """(stated − true)/u of reference and error at one point; truth on a pure carrier."""
    reference, error = result.reference, result.error
    assert reference is not None and error is not None
    true_error = LEVEL * (10.0 ** (METER_DB / 10.0) - 1.0)
    yield (reference.value[point] - LEVEL) / reference.u[point]
    yield (error.value[point] - true_error) / error.u[point]


def sample_result(frequency_hz: float, scenario: str = "lead") -> Result:
    """A result near the middle of the drawn ones, for its budgets."""
    probe = scenario == "probe"
    load = (LOAD + HOT) / 2 if scenario == "hot" else LOAD
    bench = TrueBench(
        lambda _: load, lambda _: METER_DB, TrueProbe(10, 12e-12, 100e-9) if probe else TrueLine(50, 0.3, 0.66), 16e-12,
        10.0 if probe else 1.0, arm=TrueLine(50, 0.02, 0.7), tee_capacitance_f=1e-12,
        noise_ratio=0.005 if scenario == "capture" else 0.0,
    )  # fmt: skip

    class Middle:
        """Draws the middle of everything, but for the drift's size."""

        def uniform(self, low: float = 0.0, high: float = 1.0) -> float:
            return 0.03 if (low, high) == (-0.06, 0.06) else (low + high) / 2.0

        def standard_normal(self, size: int) -> np.ndarray:
            return np.random.default_rng(1).standard_normal(size)

    empty = empty_job(frequency_hz, scenario=scenario)
    return reduce(read_job(empty, "p1", bench, frequency_hz, Middle(), scenario))  # type: ignore[arg-type]


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
    if shape == "U-shaped":
        return math.sqrt(2.0) * np.cos(rng.uniform(0.0, 2.0 * math.pi, size))
    return rng.normal(size=size)


def binomial_limits(probability: float, trials: int) -> tuple[float, float]:
    """Three binomial standard deviations either way."""
    sigma = math.sqrt(probability * (1 - probability) / trials)
    return probability - 3 * sigma, min(probability + 3 * sigma, 1.0)


def observed(errors: np.ndarray) -> float:
    """Part of the errors within ± 2u."""
    return float(np.mean(np.abs(errors) <= 2.0))
