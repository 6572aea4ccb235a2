"""From a job to its results: the reference at the DUT's plane, the error with its uncertainty, zone and verdict.

Like is compared with like: the meter's forward scale shows incident power at its output, so the reference is
converted to exactly that. A pure function of the job; results are a cache.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenmist.calibration.decision import Decision, decide
from fenmist.calibration.gather import PointReadings, Scatter, readings_by_point, scatter, scope_readings
from fenmist.calibration.job import Job, PlanPoint
from fenmist.measurand import Kind, Measurand, PlaneRef, Statistic
from fenmist.methods.scope_across_load import LoadPower, ScopeReadings, estimate_power, lead_phase_rad
from fenmist.reading.event import AS_FOUND
from fenmist.uncertainty.estimate import BudgetRow, Estimate
from fenmist.uncertainty.influence import Distribution, FloatArray, Inputs, each_point, influence
from fenmist.uncertainty.propagation import combine, propagate


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
    expanded_u_w: float
    k: float
    dof: float
    ratio: float  # indicated / reference
    expanded_u_ratio: float
    tolerance_w: float
    decision: Decision
    is_reference: bool  # false where the method is outside its physics: shown, but no verdict leans on it

    @property
    def error_fraction(self) -> float:
        """Error as a fraction of the reference."""
        return self.ratio - 1.0

    @property
    def error_db(self) -> float:
        """Error in dB, 10·log10(indicated/reference)."""
        return float(10.0 * np.log10(self.ratio))

    @property
    def error_db_interval(self) -> tuple[float, float]:
        """Ends of the error's interval in dB; asymmetric when U is large."""
        ends = np.maximum([self.ratio - self.expanded_u_ratio, self.ratio + self.expanded_u_ratio], 1e-12)
        low, high = 10.0 * np.log10(ends)
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
    inputs = scope_readings(job, frequencies, mean.reference_vrms, mean.u_reference_vrms)
    plane = job.methods[0].measurand.plane
    power = estimate_power(inputs, plane, PlaneRef(plane.hookup, "load", "in"))
    compared = _compare(power.incident_at_meter, _indicated(mean, plane), mean)
    trusted = _within_physics(inputs, power, job.methods[0].parameters)
    points = tuple(
        _point_result(job, item, column, power, compared, bool(trusted[column])) for column, item in enumerate(read)
    )
    return Result(found, points, inputs, power, compared["error"], mean)


def _indicated(mean: Scatter, plane: PlaneRef) -> Estimate:
    """What the meter showed: its own accuracy is what is sought, so only reading it is uncertain."""
    n = mean.indicated_w.size
    shown = influence(
        "meter.reading", "meter, reading the dial", mean.indicated_w, mean.u_indicated_w, points=n,
        unit="W", source_id="meter", distribution=Distribution.RECTANGULAR, sharing=each_point(n),
        basis="part of the local division",
    )  # fmt: skip

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        return {"shown": x["meter.reading"]}

    measurand = Measurand(Kind.INCIDENT, Statistic.CARRIER, plane)
    return propagate(model, Inputs((shown,)), {"shown": (measurand, "W")})["shown"]


def _compare(reference: Estimate, indicated: Estimate, mean: Scatter) -> dict[str, Estimate]:
    n = indicated.value.size
    repeat = influence(
        "repeat", "repeatability of the ratio", 1.0, mean.u_repeat, points=n, sharing=each_point(n),
        dof=mean.dof_repeat, kind="A", basis="scatter of the rounds",
    )  # fmt: skip

    def unity(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        return {"repeat": x["repeat"]}

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        shown = x["indicated"] * x["repeat"]
        return {"error": shown - x["reference"], "ratio": shown / x["reference"]}

    scattered = propagate(unity, Inputs((repeat,)), {"repeat": ("repeatability", "")})["repeat"]
    parts = {"reference": reference, "indicated": indicated, "repeat": scattered}
    return combine(model, parts, {"error": ("error of indication", "W"), "ratio": ("indicated/reference", "")})


def _within_physics(inputs: ScopeReadings, power: LoadPower, limits: Mapping[str, float]) -> NDArray[np.bool_]:
    """Where the scope is a reference: below its share of the bandwidth, the lead's correction within its limit."""
    low_enough = inputs.frequency_hz <= limits.get("reference_limit", 1.0) * inputs.scope.bandwidth_hz
    lead = power.corrections.get("lead", np.ones_like(inputs.frequency_hz))
    short_enough = (1.0 / lead - 1.0 <= limits.get("lead_limit", np.inf)) & (lead_phase_rad(inputs) < np.pi / 2.0)
    return np.asarray(low_enough & short_enough)


def _point_result(
    job: Job,
    found: PointReadings,
    column: int,
    power: LoadPower,
    compared: Mapping[str, Estimate],
    is_reference: bool,
) -> PointResult:
    reference, error, ratio = power.incident_at_meter, compared["error"], compared["ratio"]
    reference_w = float(reference.value[column])
    error_w, u_w = float(error.value[column]), float(error.u[column])
    expanded = float(error.expanded_u[column])
    tolerance = job.tolerance_w(found.point, reference_w)
    return PointResult(
        point=found.point, rounds=len(found.rounds), reference_w=reference_w,
        reference_u_w=float(reference.expanded_u[column]), net_w=float(power.net_at_load.value[column]),
        indicated_w=reference_w + error_w, error_w=error_w, u_error_w=u_w, expanded_u_w=expanded,
        k=float(error.k[column]), dof=float(error.dof[column]), ratio=float(ratio.value[column]),
        expanded_u_ratio=float(ratio.expanded_u[column]), tolerance_w=tolerance,
        decision=decide(error_w, u_w, expanded, tolerance, job.rule, may_decide=is_reference),
        is_reference=is_reference,
    )  # fmt: skip
