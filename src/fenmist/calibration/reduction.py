"""From a job to its results: the reference at the DUT's plane, the error with its uncertainty, zone and verdict.

Like is compared with like: the meter's forward scale shows incident power at its output, so the reference is
converted to exactly that. A pure function of the job; results are a cache.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from operator import is_
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from fenmist.calibration.beside import hand_on, keep, once
from fenmist.calibration.decision import Decision, decide
from fenmist.calibration.gather import scope_readings
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.rounds import PointReadings, Scatter, readings_by_point, scatter
from fenmist.kit.part import Detector
from fenmist.measurand import Measurand, PlaneRef
from fenmist.methods.scope_across_load import (
    LoadPower,
    ScopeReadings,
    feed_phase_rad,
    power_corrections,
    power_influences,
    power_model,
    power_outputs,
)
from fenmist.methods.scope_chain import harmonic_id
from fenmist.reading.event import AS_FOUND
from fenmist.uncertainty.estimate import BudgetRow, Estimate
from fenmist.uncertainty.influence import (
    Distribution,
    FloatArray,
    Influence,
    Inputs,
    each_point,
    influence,
    standard_u_from_limit,
)
from fenmist.uncertainty.montecarlo import Sampled, monte_carlo
from fenmist.uncertainty.propagation import Model, bends, propagate
from fenmist.uncertainty.whatif import with_known
from fenmist.waveform.harmonics import Responds, volts_weight

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
    drift_limit: float = 0.0  # ± of the ratio, relative: what may be left of the carrier's drift

    @property
    def error_fraction(self) -> float:
        """Error as a fraction of the reference."""
        return self.ratio - 1.0

    @property
    def tolerance_used(self) -> float:
        """Size of the error as a share of the tolerance; infinite where none is allowed."""
        return abs(self.error_w) / self.tolerance_w if self.tolerance_w > 0 else math.inf

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
class Worked:
    """What the engine made of some points at once; columns in their order."""

    points: tuple[PointResult, ...]
    inputs: ScopeReadings
    power: LoadPower
    error: Estimate  # W
    log_ratio: Estimate  # ln(indicated/reference)


_WORKED = "worked"


@dataclass(frozen=True, eq=False)
class Result:
    """All points that could be worked out. Estimates over all of them are made when first asked for."""

    job: Job
    phase: str
    known: Mapping[str, float]
    readings: tuple[PointReadings, ...]  # every plan point
    points: tuple[PointResult, ...]  # those with a complete round, in the plan's order

    @cached_property
    def read(self) -> tuple[PointReadings, ...]:
        """The readings that `points` were made from, in the same order."""
        return tuple(item for item in self.readings if item.rounds)

    @property
    def worked(self) -> Worked | None:
        """Estimates over all points together, or none where nothing was read."""
        return once(self, _WORKED, lambda: _work(self.job, self.read, self.known) if self.read else None)

    @property
    def power(self) -> LoadPower | None:
        """Powers of the reference over `points`."""
        return self.worked.power if self.worked else None

    @property
    def error(self) -> Estimate | None:
        """Error of indication in W over `points`."""
        return self.worked.error if self.worked else None

    @property
    def log_ratio(self) -> Estimate | None:
        """ln(indicated/reference) over `points`."""
        return self.worked.log_ratio if self.worked else None

    @cached_property
    def _by_id(self) -> dict[str, PointResult]:
        return {item.point.id: item for item in self.points}

    @cached_property
    def _readings_by_id(self) -> dict[str, PointReadings]:
        return {item.point.id: item for item in self.readings}

    def readings_at(self, point_id: str) -> PointReadings:
        """What stands at a point of the plan; raises KeyError."""
        return self._readings_by_id[point_id]

    def of(self, point_id: str) -> PointResult | None:
        """The result at a point, or none yet."""
        return self._by_id.get(point_id)

    def budget(self, point_id: str) -> tuple[BudgetRow, ...]:
        """Budget of the error at a point, largest share first; empty where there is no result."""
        here = tuple(item for item in self.read if item.point.id == point_id)
        return _work(self.job, here, self.known).error.budget(0) if here else ()

    @property
    def missing(self) -> int:
        """Rounds still to be read, over the whole plan."""
        return sum(max(item.wanted - item.complete_rounds, 0) for item in self.readings)

    @property
    def missing_readings(self) -> int:
        """Readings still to be made, over the whole plan: those of rounds that aren't complete."""
        return sum(item.missing_readings for item in self.readings)

    @property
    def wanted(self) -> int:
        """Rounds to be read, over the whole plan."""
        return sum(item.wanted for item in self.readings)

    @property
    def complete(self) -> bool:
        """True when every planned round stands."""
        return bool(self.readings) and self.missing == 0

    def near(self, point_id: str, reach: int) -> "Result":
        """The same results at a point and so many of its neighbours in the plan."""
        place = next(i for i, item in enumerate(self.readings) if item.point.id == point_id)
        some = self.readings[max(place - reach, 0) : place + reach + 1]
        names = {item.point.id for item in some}
        return replace(self, readings=some, points=tuple(item for item in self.points if item.point.id in names))

    def holds_for(self, job: Job, phase: str, known: Mapping[str, float]) -> bool:
        """Whether what was worked out at a point still stands where its readings do: nothing else counts there."""
        mine, other = self.job, job
        return (
            self.phase == phase
            and self.known == known
            and (mine.methods is other.methods and mine.channels == other.channels)
            and _same_bench(mine, other)
            and (mine.dut, mine.tolerances, mine.rule) == (other.dut, other.tolerances, other.rule)
            and mine.part_of_division == other.part_of_division
            and mine.shortest_interval == other.shortest_interval
        )


def _same_points(result: Result, former: Result) -> bool:
    return len(result.points) == len(former.points) and all(map(is_, result.points, former.points))


def _same_bench(mine: Job, other: Job) -> bool:
    """Whether the hook-up that is read is the same, part by part; any other has no say in the results."""
    read = mine.stated.plane.hookup
    bench = mine.hookup(read)
    if mine.kit is not other.kit:
        parts, others = mine.parts, other.parts
        names = {item.part for item in bench.elements} | {mine.dut}
        if any(parts[name] is not others.get(name) for name in names):
            return False
    return bench is other.hookup(read)


def reduce(
    job: Job, phase: str = AS_FOUND, known: Mapping[str, float] = MappingProxyType({}), former: Result | None = None
) -> Result:
    """Work a job out as far as its readings reach.

    Parameters
    ----------
    phase : str
        As found, or as left.
    known : mapping
        What if: factors on standard uncertainties by influence id; see `with_known`.
    former : Result, optional
        Of the same job before a change: points whose readings didn't change are taken from it.
    """
    kept = former if former is not None and former.holds_for(job, phase, known) else None
    since = job.events_since(kept.job) if kept is not None else None
    if kept is None or since is None:
        found = readings_by_point(job, phase)
    else:
        found = readings_by_point(job, phase, kept.readings, job.points_of(since))
    done = {id(item): point for item, point in zip(kept.read, kept.points, strict=True)} if kept else {}
    fresh = tuple(item for item in found if item.rounds and id(item) not in done)
    worked = _work(job, fresh, known) if fresh else None
    if worked:
        done |= {id(item): point for item, point in zip(fresh, worked.points, strict=True)}
    result = Result(job, phase, known, found, tuple(done[id(item)] for item in found if item.rounds))
    if kept and _same_points(result, kept):
        hand_on(kept, result, _WORKED)  # nothing that was read changed
    if worked and len(fresh) == len(result.points):
        keep(result, _WORKED, worked)  # all of them were made together: no need to do it again
    return result


def _work(job: Job, read: tuple[PointReadings, ...], known: Mapping[str, float]) -> Worked:
    """Some points together, one propagation for all of them."""
    mean = scatter(job, read)
    frequencies = np.array([item.point.frequency_hz for item in read])
    readings = scope_readings(job, frequencies, mean.reference_vrms, mean.u_reference_vrms, mean.forms, mean.digit_rms)
    plane = job.hookup(job.stated.plane.hookup).stated
    device = _Device(job.dut, job.indicator(job.device_channel.id).detector)
    inputs = Inputs(
        (
            *power_influences(readings),
            *_comparison_influences(readings, device, mean),
            *_own_harmonics(readings, device),
        )
    )
    inputs = with_known(inputs, known)
    powers = power_outputs(plane, PlaneRef(plane.hookup, "load", "in"), readings.z0_ohm)
    made = propagate(_comparison(readings, device), inputs, {**powers, **_COMPARED})
    power = LoadPower(**{name: made[name] for name in powers}, corrections=power_corrections(readings))
    compared = {name: made[name] for name in _COMPARED}
    tolerances = job.tolerance_w([item.point for item in read], power.incident_at_meter.value, mean.digit_w)
    sampled = _sample_where_bent(readings, device, inputs, compared, tolerances, job.shortest_interval)
    trusted = _within_physics(readings, power, job.methods[0].parameters)
    points = tuple(
        _point_result(
            job, item, column, power, _stated(compared, sampled, column), float(tolerances[column]),
            bool(trusted[column]), float(mean.drift_limit[column]),
        )
        for column, item in enumerate(read)
    )  # fmt: skip
    return Worked(points, readings, power, compared["error"], compared["log_ratio"])


_COMPARED: dict[str, tuple[Measurand | str, str]] = {
    "error": ("error of indication", "W"),
    "log_ratio": ("ln(indicated/reference)", ""),
}


AT_METER = "@meter"
"""Ends the name of a harmonic's phase at the meter, where that is an influence of its own."""


@dataclass(frozen=True)
class _Device:
    """The meter under test: whose reading it is, and what it answers to."""

    part: str
    detector: Detector


_RESPONDS: Mapping[Detector, Responds] = {
    Detector.AVERAGE: Responds.AVERAGE,
    Detector.HOLD: Responds.PEAK,
    Detector.PEAK: Responds.PEAK,
    Detector.THERMAL: Responds.RMS,
    Detector.RMS: Responds.RMS,
}


def _comparison(readings: ScopeReadings, device: _Device) -> Model:
    """The reference's powers, the error and the ratio, from all influences at once.

    The source's harmonics move the scope and the meter, each by its own way of responding to them. Where both effects
    add (an averaging needle falls as the crest rises) they are taken as one; nobody counts on their cancelling, since
    the phase between the two places isn't known: there the meter has an influence of its own (docs/decisions/0007).
    What a drift leaves is the reference's: it is stated for the moment in which the meter was read.
    """
    reference = power_model(readings)
    weights = _meter_harmonics(readings, device)

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        drifted = np.exp(np.clip(x[f"{readings.source_id}.drift"], -LOG_CLIP, LOG_CLIP))
        powers = {name: power * drifted for name, power in reference(x).items()}
        scatter = np.clip(x["repeat"], -LOG_CLIP, LOG_CLIP)
        lifted = 1.0 + sum(weight * x[name] for name, weight in weights.items())
        shown = x[f"{device.part}.reading"] * np.exp(scatter) / lifted
        incident = powers["incident_at_meter"]
        return {**powers, "error": shown - incident, "log_ratio": np.log(np.maximum(shown / incident, SMALLEST_RATIO))}

    return model


def _meter_harmonics(readings: ScopeReadings, device: _Device) -> dict[str, float]:
    """Relative change of the power the meter shows, by the influence that holds the harmonic's cos φ there."""
    ratios = readings.harmonics.ratios if readings.harmonics else {}
    weights = {order: 2.0 * ratio * volts_weight(order, _RESPONDS[device.detector]) for order, ratio in ratios.items()}
    return {
        harmonic_id(readings.source_id, order) + (AT_METER if weight > 0 else ""): weight
        for order, weight in weights.items()
        if weight
    }


def _own_harmonics(readings: ScopeReadings, device: _Device) -> tuple[Influence, ...]:
    """The meter's own phase of each harmonic, where it isn't taken together with the scope's."""
    n, measured = readings.frequency_hz.size, bool(readings.harmonics and readings.harmonics.measured)
    shape = Distribution.U_SHAPED if measured else Distribution.DISC
    return tuple(
        influence(
            name, f"source, harmonic {name.removesuffix(AT_METER)[-1]} at the meter", 0.0,
            standard_u_from_limit(1.0, shape), points=n, source_id=readings.source_id, distribution=shape,
            sharing=each_point(n), basis="phase unknown",
        )
        for name in _meter_harmonics(readings, device)
        if name.endswith(AT_METER)
    )  # fmt: skip


def _comparison_influences(readings: ScopeReadings, device: _Device, mean: Scatter) -> tuple[Influence, ...]:
    """What the meter showed (its own accuracy is sought, so only reading it is uncertain), scatter, and drift left."""
    n = mean.indicated_w.size
    shown = influence(
        f"{device.part}.reading", "meter, reading the dial", mean.indicated_w, mean.u_indicated_w, points=n,
        unit="W", source_id=device.part, distribution=Distribution.RECTANGULAR, sharing=each_point(n),
        basis="part of the local division",
    )  # fmt: skip
    repeat = influence(
        "repeat", "repeatability of the ratio", 0.0, mean.u_repeat, points=n, sharing=each_point(n),
        dof=mean.dof_repeat, kind="A", basis="scatter of the rounds",
    )  # fmt: skip
    drift = influence(
        f"{readings.source_id}.drift", "drift of the carrier, left over", 0.0,
        standard_u_from_limit(mean.drift_limit, Distribution.RECTANGULAR), points=n,
        source_id=readings.source_id,
        distribution=Distribution.RECTANGULAR, sharing=each_point(n), basis="after interpolating the reference",
    )  # fmt: skip
    return shown, repeat, drift


def _sample_where_bent(
    readings: ScopeReadings,
    device: _Device,
    inputs: Inputs,
    compared: Mapping[str, Estimate],
    tolerances: FloatArray,
    shortest: bool,
) -> dict[int, dict[str, Sampled]]:
    """Monte Carlo at the points where linear propagation doesn't hold, by column.

    Powers are products, so the linear picture is judged where it is straightest: in the logarithm of the ratio. An 8 %
    load or a wide scatter is linear there, and its interval in per cent and dB is asymmetric by itself.
    """
    whole = _comparison(readings, device)
    bent = np.flatnonzero(bends(whole, inputs, {"log_ratio": compared["log_ratio"]}))
    found = {}
    for column in bent:
        here = np.array([column])
        model = _comparison(readings.take(here), device)
        found[int(column)] = monte_carlo(
            model, inputs.take(here), list(_COMPARED), trials=RUN_TRIALS, shortest=shortest,
            within={"error": tolerances[here]},
        )  # fmt: skip
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
    conformance: float | None = None  # drawn probability that the error lies inside its tolerance


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
    inside = drawn["error"].inside
    conformance = None if inside is None else float(inside[0])
    return _Stated(value, u, ends, share, shares, dof, "Monte Carlo", conformance)


def _within_physics(inputs: ScopeReadings, power: LoadPower, limits: Mapping[str, float]) -> NDArray[np.bool_]:
    """Where the scope is a reference: below its share of the bandwidth, the lead's correction within its limit."""
    low_enough = inputs.frequency_hz <= limits.get("reference_limit", 1.0) * inputs.chain.bandwidth_hz
    ones = np.ones_like(inputs.frequency_hz)
    lead = power.corrections.get("lead", power.corrections.get("ground lead", ones))
    short_enough = (1.0 / lead - 1.0 <= limits.get("lead_limit", np.inf)) & (feed_phase_rad(inputs) < np.pi / 2.0)
    return np.asarray(low_enough & short_enough)


def _point_result(
    job: Job,
    found: PointReadings,
    column: int,
    power: LoadPower,
    stated: _Stated,
    tolerance: float,
    is_reference: bool,
    drift_limit: float,
) -> PointResult:
    reference = power.incident_at_meter
    reference_w = float(reference.value[column])
    low, high = stated.error_interval_w
    expanded = (high - low) / 2.0
    decision = decide(stated.error_w, stated.u_error_w, expanded, tolerance, job.rule, is_reference, stated.conformance)
    return PointResult(
        point=found.point, rounds=len(found.rounds), reference_w=reference_w,
        reference_u_w=float(reference.expanded_u[column]), net_w=float(power.net_at_load.value[column]),
        indicated_w=reference_w + stated.error_w, error_w=stated.error_w, u_error_w=stated.u_error_w,
        expanded_u_w=expanded, error_interval_w=stated.error_interval_w,
        k=expanded / stated.u_error_w if stated.u_error_w > 0 else 2.0, dof=stated.dof, ratio=stated.ratio,
        ratio_interval=stated.ratio_interval, tolerance_w=tolerance,
        decision=decision, is_reference=is_reference, engine=stated.engine, drift_limit=drift_limit,
    )  # fmt: skip
