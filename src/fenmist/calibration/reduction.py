"""From a job to its results: the reference at the DUT's plane, the error with its uncertainty, zone and verdict.

Like is compared with like: the meter's forward scale shows incident power at its output, so the reference is
converted to exactly that. A pure function of the job; results are a cache.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenmist.calibration.decision import Decision, decide
from fenmist.calibration.gather import PointReadings, Scatter, readings_by_point, scatter, scope_readings
from fenmist.calibration.job import Job, PlanPoint
from fenmist.measurand import Measurand, PlaneRef
from fenmist.methods.scope_across_load import (
    LoadPower,
    ScopeReadings,
    lead_phase_rad,
    power_corrections,
    power_influences,
    power_model,
    power_outputs,
)
from fenmist.reading.event import AS_FOUND
from fenmist.uncertainty.estimate import BudgetRow, Estimate
from fenmist.uncertainty.influence import Distribution, FloatArray, Influence, Inputs, each_point, influence
from fenmist.uncertainty.montecarlo import Sampled, monte_carlo
from fenmist.uncertainty.propagation import Model, bends, propagate

RUN_TRIALS = 50_000
"""Trials at a point where Monte Carlo takes over while one types: a blink, and the ends known to 1 % of u."""

LOG_CLIP = 60.0
"""Largest log ratio drawn: two rounds have tails without end, and e^60 is beyond any meter."""

SMALLEST_RATIO = 1e-9
"""Ratio taken for a needle drawn below nothing: it can't be told from the stop."""


@dataclass(frozen=True)
class PointResult:
    """The answer at one point."""

    point: PlanPoint
    rounds: int
    reference_w: float  # incident at the meter's output
    reference_u_w: float
    net_w: float  # in the load
    indicated_w: float
    error_w: float
    u_error_w: float
    expanded_u_w: float  # half of the interval
    error_interval_w: tuple[float, float]  # symmetric unless drawn
    k: float
    dof: float
    ratio: float  # indicated / reference
    ratio_interval: tuple[float, float]
    tolerance_w: float
    decision: Decision
    engine: str  # "linear", or "Monte Carlo" where the linear picture doesn't hold
    is_reference: bool  # false where the method is outside its physics: shown, but no verdict leans on it

    @property
    def error_fraction(self) -> float:
        """Error as a fraction of the reference."""
        return self.ratio - 1.0

    @property
    def expanded_u_ratio(self) -> float:
        """Half of the ratio's interval."""
        return (self.ratio_interval[1] - self.ratio_interval[0]) / 2.0

    @property
    def error_db(self) -> float:
        """Error in dB, 10·log10(indicated/reference)."""
        return float(10.0 * np.log10(self.ratio))

    @property
    def error_db_interval(self) -> tuple[float, float]:
        """Ends of the error's interval in dB; asymmetric when U is large."""
        low, high = 10.0 * np.log10(np.maximum(self.ratio_interval, 1e-12))
        return float(low), float(high)

    @property
    def factor(self) -> float:
        """What the indication is to be multiplied by."""
        return 1.0 / self.ratio


@dataclass(frozen=True, eq=False)
class Result:
    """All points that could be worked out, with the estimates they came from."""

    readings: tuple[PointReadings, ...]  # every plan point
    points: tuple[PointResult, ...]  # those with a complete round, in the plan's order
    inputs: ScopeReadings | None
    power: LoadPower | None
    error: Estimate | None  # W, over `points`
    scatter: Scatter | None

    def of(self, point_id: str) -> PointResult | None:
        """The result at a point, or none yet."""
        return next((item for item in self.points if item.point.id == point_id), None)

    def budget(self, point_id: str) -> tuple[BudgetRow, ...]:
        """Budget of the error at a point, largest share first; empty where there is no result."""
        for column, item in enumerate(self.points):
            if item.point.id == point_id and self.error is not None:
                return self.error.budget(column)
        return ()

    @property
    def missing(self) -> int:
        """Rounds still to be read, over the whole plan."""
        return sum(max(item.point.repeats - len(item.rounds), 0) for item in self.readings)

    @property
    def complete(self) -> bool:
        """True when every planned round stands."""
        return bool(self.readings) and self.missing == 0


def reduce(job: Job, phase: str = AS_FOUND) -> Result:
    """Work a job out as far as its readings reach."""
    found = readings_by_point(job, phase)
    read = tuple(item for item in found if item.rounds)
    if not read:
        return Result(found, (), None, None, None, None)
    mean = scatter(job, read)
    frequencies = np.array([item.point.frequency_hz for item in read])
    readings = scope_readings(job, frequencies, mean.reference_vrms, mean.u_reference_vrms)
    plane = job.methods[0].measurand.plane
    inputs = Inputs((*power_influences(readings), *_comparison_influences(mean)))
    powers = power_outputs(plane, PlaneRef(plane.hookup, "load", "in"), readings.z0_ohm)
    made = propagate(_comparison(readings), inputs, {**powers, **_COMPARED})
    power = LoadPower(**{name: made[name] for name in powers}, corrections=power_corrections(readings))
    compared = {name: made[name] for name in _COMPARED}
    sampled = _sample_where_bent(readings, inputs, compared)
    trusted = _within_physics(readings, power, job.methods[0].parameters)
    points = tuple(
        _point_result(job, item, column, power, _stated(compared, sampled, column), bool(trusted[column]))
        for column, item in enumerate(read)
    )
    return Result(found, points, readings, power, compared["error"], mean)


_COMPARED: dict[str, tuple[Measurand | str, str]] = {
    "error": ("error of indication", "W"),
    "log_ratio": ("ln(indicated/reference)", ""),
}


def _comparison(readings: ScopeReadings) -> Model:
    """The reference's powers, the error and the ratio, from all influences at once."""
    reference = power_model(readings)

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        powers = dict(reference(x))
        shown = x["meter.reading"] * np.exp(np.clip(x["repeat"], -LOG_CLIP, LOG_CLIP))
        incident = powers["incident_at_meter"]
        return {**powers, "error": shown - incident, "log_ratio": np.log(np.maximum(shown / incident, SMALLEST_RATIO))}

    return model


def _comparison_influences(mean: Scatter) -> tuple[Influence, Influence]:
    """What the meter showed (its own accuracy is what is sought, so only reading it is uncertain), and the scatter."""
    n = mean.indicated_w.size
    shown = influence(
        "meter.reading", "meter, reading the dial", mean.indicated_w, mean.u_indicated_w, points=n,
        unit="W", source_id="meter", distribution=Distribution.RECTANGULAR, sharing=each_point(n),
        basis="part of the local division",
    )  # fmt: skip
    repeat = influence(
        "repeat", "repeatability of the ratio", 0.0, mean.u_repeat, points=n, sharing=each_point(n),
        dof=mean.dof_repeat, kind="A", basis="scatter of the rounds",
    )  # fmt: skip
    return shown, repeat


def _sample_where_bent(
    readings: ScopeReadings, inputs: Inputs, compared: Mapping[str, Estimate]
) -> dict[int, dict[str, Sampled]]:
    """Monte Carlo at the points where linear propagation doesn't hold, by column.

    Powers are products, so the linear picture is judged where it is straightest: in the logarithm of the ratio. An 8 %
    load or a wide scatter is linear there, and its interval in per cent and dB is asymmetric by itself.
    """
    bent = np.flatnonzero(bends(_comparison(readings), inputs, {"log_ratio": compared["log_ratio"]}))
    found = {}
    for column in bent:
        here = np.array([column])
        model = _comparison(readings.take(here))
        found[int(column)] = monte_carlo(model, inputs.take(here), list(_COMPARED), trials=RUN_TRIALS)
    return found


@dataclass(frozen=True)
class _Stated:
    """Error and ratio of one point with their intervals, by the engine that holds there."""

    error_w: float
    u_error_w: float
    error_interval_w: tuple[float, float]
    ratio: float
    ratio_interval: tuple[float, float]
    dof: float
    engine: str


def _stated(compared: Mapping[str, Estimate], sampled: Mapping[int, Mapping[str, Sampled]], column: int) -> _Stated:
    error, log_ratio = compared["error"], compared["log_ratio"]
    value, u, expanded = (float(item[column]) for item in (error.value, error.u, error.expanded_u))
    log, log_u = float(log_ratio.value[column]), float(log_ratio.expanded_u[column])
    share, dof = math.exp(log), float(error.dof[column])
    if column not in sampled:
        ends = (value - expanded, value + expanded)
        around = (math.exp(log - log_u), math.exp(min(log + log_u, LOG_CLIP)))
        return _Stated(value, u, ends, share, around, dof, "linear")
    drawn = sampled[column]
    ends = (float(drawn["error"].low[0]), float(drawn["error"].high[0]))
    # not the drawn standard deviation: three rounds have a t whose tails leave none to speak of
    u = (ends[1] - ends[0]) / 2.0 / float(error.k[column])
    shares = (math.exp(float(drawn["log_ratio"].low[0])), math.exp(float(drawn["log_ratio"].high[0])))
    return _Stated(value, u, ends, share, shares, dof, "Monte Carlo")


def _within_physics(inputs: ScopeReadings, power: LoadPower, limits: Mapping[str, float]) -> NDArray[np.bool_]:
    """Where the scope is a reference: below its share of the bandwidth, the lead's correction within its limit."""
    low_enough = inputs.frequency_hz <= limits.get("reference_limit", 1.0) * inputs.scope.bandwidth_hz
    lead = power.corrections.get("lead", np.ones_like(inputs.frequency_hz))
    short_enough = (1.0 / lead - 1.0 <= limits.get("lead_limit", np.inf)) & (lead_phase_rad(inputs) < np.pi / 2.0)
    return np.asarray(low_enough & short_enough)


def _point_result(
    job: Job, found: PointReadings, column: int, power: LoadPower, stated: _Stated, is_reference: bool
) -> PointResult:
    reference = power.incident_at_meter
    reference_w = float(reference.value[column])
    low, high = stated.error_interval_w
    expanded = (high - low) / 2.0
    tolerance = job.tolerance_w(found.point, reference_w)
    return PointResult(
        point=found.point, rounds=len(found.rounds), reference_w=reference_w,
        reference_u_w=float(reference.expanded_u[column]), net_w=float(power.net_at_load.value[column]),
        indicated_w=reference_w + stated.error_w, error_w=stated.error_w, u_error_w=stated.u_error_w,
        expanded_u_w=expanded, error_interval_w=stated.error_interval_w,
        k=expanded / stated.u_error_w if stated.u_error_w > 0 else 2.0, dof=stated.dof, ratio=stated.ratio,
        ratio_interval=stated.ratio_interval, tolerance_w=tolerance,
        decision=decide(stated.error_w, stated.u_error_w, expanded, tolerance, job.rule, may_decide=is_reference),
        is_reference=is_reference, engine=stated.engine,
    )  # fmt: skip
