"""From a job to its results: the reference at the DUT's plane, the error with its uncertainty, zone and verdict.

Like is compared with like: the meter's forward scale shows incident power at its output, so the reference is
converted to exactly that. A pure function of the job; results are a cache.
"""

import math
from collections.abc import Mapping
from dataclasses import replace
from functools import cached_property
from types import MappingProxyType

import numpy as np

from fenmist.calibration.again import Unit, alike, alone, drawn_now, engines, reduced_again, will_do
from fenmist.calibration.consensus import (
    LOG_CLIP,
    ReferenceResult,
    Weighed,
    each_reference,
    floor_id,
    log_of,
    power_of_log,
    reference_results,
    repeat_id,
    round_influences,
    weighed,
)
from fenmist.calibration.decision import Decision, decide
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.calibration.references import References, references_at
from fenmist.calibration.rounds import PointReadings, Scatter, readings_by_point, scatter
from fenmist.calibration.sent import part_shown
from fenmist.frozen import dataclass
from fenmist.kit.same import Latest
from fenmist.measurand import Detector, Kind, Measurand, Statistic
from fenmist.methods.indication import RESPONDS, harmonic_id
from fenmist.methods.modulated import Shares, stands
from fenmist.procedures.comparison.substitution import substitution, units
from fenmist.procedures.voices import Referred, budgets_of
from fenmist.reading.event import AS_FOUND
from fenmist.uncertainty.agreement import Agreement
from fenmist.uncertainty.estimate import BudgetRow, Estimate
from fenmist.uncertainty.influence import (
    Distribution,
    FloatArray,
    Influence,
    Inputs,
    each_once,
    each_point,
    influence,
    standard_u_from_limit,
)
from fenmist.uncertainty.montecarlo import Sampled, monte_carlo
from fenmist.uncertainty.propagation import Model, Stencil, bends, propagate, remembering
from fenmist.uncertainty.whatif import with_known
from fenmist.waveform.harmonics import volts_weight

RUN_TRIALS = 50_000
"""Trials at a point where Monte Carlo takes over while one types: a blink, and the ends known to 1 % of u."""

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
    references: tuple[ReferenceResult, ...] = ()  # what each of them says
    agreement: Agreement | None = None  # of several, in logarithms of W
    part: float = 1.0  # of the waveform's PEP that the meter claims to show, and the reference is stated as

    @cached_property
    def stated(self) -> Stated:
        """The error as what is stated here."""
        return Stated(
            self.point, self.error_w, self.error_interval_w, self.u_error_w, self.k, "W", self.tolerance_w,
            self.decision, self.engine, self.is_reference, self.error_fraction,
            (self.ratio_interval[0] - 1.0, self.ratio_interval[1] - 1.0), self.tolerance_w / self.reference_w,
            self.drift_limit,
        )  # fmt: skip

    @property
    def expanded_u_w(self) -> float:
        """Half of the error's interval."""
        return (self.error_interval_w[1] - self.error_interval_w[0]) / 2.0

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
        """Error in dB, 10·log10(indicated/reference); minus infinity where it showed nothing."""
        return -math.inf if self.shows_nothing else float(10.0 * np.log10(self.ratio))

    @property
    def error_db_interval(self) -> tuple[float, float]:
        """Ends of the error's interval in dB; asymmetric when U is large."""
        low, high = 10.0 * np.log10(np.maximum(self.ratio_interval, 1e-12))
        return float(low), float(high)

    @property
    def factor(self) -> float:
        """What the indication is to be multiplied by; infinite where it showed nothing."""
        return math.inf if self.shows_nothing else 1.0 / self.ratio

    @property
    def is_steady(self) -> bool:
        """Whether a steady carrier was sent: what is carried over to other readings holds for that."""
        return stands(self.point.waveform)

    @property
    def shows_nothing(self) -> bool:
        """Whether it showed nothing, or less: then neither dB nor a factor say anything."""
        return self.indicated_w <= SMALLEST_RATIO * self.reference_w


@dataclass(frozen=True, eq=False)
class Worked:
    """What the engine made of some points at once; columns in their order."""

    points: tuple[PointResult, ...]
    reference: Estimate  # W, what they say together
    net: Estimate  # W, the part of it that goes into the end of the line
    error: Estimate  # W
    log_ratio: Estimate  # ln(indicated/reference)
    logs: Mapping[str, Estimate]  # ln(power/W) of each reference; empty over points that read differently


@dataclass(frozen=True, eq=False)
class Result(Referred[PointResult, Worked]):
    """All points that could be worked out: those with a complete round."""

    def work(self, units: tuple[Unit, ...]) -> Worked:
        """What the engine makes of some units together."""
        return _to_first_order(self.job, units, self.known)

    @property
    def quantities(self) -> Mapping[str, Estimate]:
        """Reference, its part in the end of the line, error, and ln(indicated/reference), over `points`."""
        return {name: getattr(self.worked, name) for name in _WHOLE} if self.worked else {}

    @property
    def reference(self) -> Estimate | None:
        """Power of the reference at the stated plane over `points`, W."""
        return self.worked.reference if self.worked else None

    @property
    def net(self) -> Estimate | None:
        """The part of it that goes into the end of the line, W."""
        return self.worked.net if self.worked else None

    @property
    def error(self) -> Estimate | None:
        """Error of indication in W over `points`."""
        return self.worked.error if self.worked else None

    @property
    def log_ratio(self) -> Estimate | None:
        """ln(indicated/reference) over `points`."""
        return self.worked.log_ratio if self.worked else None

    @cached_property
    def units(self) -> tuple[Unit, ...]:
        """What each result was made from: points by themselves, and groups."""
        return units(self.job, self.readings)

    def budget(self, point_id: str) -> tuple[BudgetRow, ...]:
        """Budget of the error at a point, largest share first; empty where there is no result."""
        here = self.worked_at(point_id)
        return here.error.budget(0) if here else ()

    def budgets(self, point_id: str) -> Mapping[str, tuple[BudgetRow, ...]]:
        """Budgets of the error, of what the references say together, and of each of several."""
        here = self.worked_at(point_id)
        if here is None:
            return {}
        together = "consensus" if len(here.logs) > 1 else "reference"
        return budgets_of(self.job, {"error": here.error, together: here.reference}, here.logs)

    def power_at(self, point_id: str) -> tuple[float, float, float] | None:
        """The reference's power with its interval, PEP in W: low, value, high; none where nothing was read."""
        item = self.of(point_id)
        if item is None:
            return None
        ends = (item.reference_w - item.reference_u_w, item.reference_w, item.reference_w + item.reference_u_w)
        low, value, high = (end / item.part for end in ends)
        return low, value, high

    def near(self, point_id: str, reach: int) -> "Result":
        """The same results at a point and so many of its neighbours in the plan."""
        place = self.job.place_of(point_id)
        some = self.job.plan[max(place - reach, 0) : place + reach + 1]
        found = (self.of(point.id) for point in some)
        return replace(
            self, readings=tuple(self.readings_at(point.id) for point in some),
            points=tuple(item for item in found if item is not None),
        )  # fmt: skip


def reduce(
    job: Job, phase: str = AS_FOUND, known: Mapping[str, float] = MappingProxyType({}), former: Result | None = None,
    most: int | None = None,
) -> Result:  # fmt: skip
    """Work a job out as far as its readings reach.

    Parameters
    ----------
    phase : str
        As found, or as left.
    known : mapping
        What if: factors on standard uncertainties by influence id; see `with_known`.
    former : Result, optional
        Of the same job before a change: points whose readings didn't change are taken from it.
    most : int, optional
        How many points are drawn at most where linear propagation doesn't hold, the others later on, and of several at
        once none; at 0 nobody looks whether it does.
    """
    return reduced_again(
        Result, job, phase, known, former, lambda fresh: _work(job, fresh, known, most),
        lambda found: units(job, found), will_do(former, most),
    )  # fmt: skip


def predict(job: Job) -> tuple[Stated, ...]:
    """What a job states whose readings are those that are expected: to first order, nothing is drawn."""
    read = units(job, readings_by_point(job))
    return tuple(point.stated for point in _to_first_order(job, read, {}).points) if read else ()


def _to_first_order(job: Job, read: tuple[Unit, ...], known: Mapping[str, float]) -> Worked:
    return _work(job, read, known, 0)


def _work(job: Job, read: tuple[Unit, ...], known: Mapping[str, float], most: int | None) -> Worked:
    """Some points together, one propagation for all that are read alike."""
    return alike(read, lambda some: _work_alike(job, some, known, most))


def _as_worked(points: tuple[PointResult, ...], made: Mapping[str, Estimate], logs: Mapping[str, Estimate]) -> Worked:
    return Worked(points, made["reference"], made["net"], made["error"], made["log_ratio"], logs)


_WHOLE = ("reference", "net", "error", "log_ratio")
"""What is kept over all points."""


def _work_alike(job: Job, read: tuple[Unit, ...], known: Mapping[str, float], most: int | None) -> Worked:
    """Points, or groups of them, that are read alike; what Enter keeps was worked out at the last digit already."""
    if most != 0 or known or len(read) > 1 or len(read[0]) > 1:
        return _made_alike(job, read, known, most)
    ((item,),) = read
    kept: Latest[Worked] = job.once_of_all("worked at once", lambda _: Latest(2))
    key = item.point, len(item.rounds), scatter(job, (item,)).key
    return kept.once(key, lambda: _made_alike(job, read, known, most))


def _made_alike(job: Job, read: tuple[Unit, ...], known: Mapping[str, float], most: int | None) -> Worked:
    way = _way(job, read, known)
    references, found = way.references, way.found
    made = propagate(way.model, way.stencil, way.outputs)
    first = [unit[0] for unit in read]
    tolerances = job.tolerance_w([item.point for item in first], made["reference"].value, way.mean.device[0].digit)
    decides = found.decides & way.mean.device[0].shares.known
    bent: list[int] = []
    if most != 0:
        bent = np.flatnonzero(bends(way.model, way.stencil.inputs, {"log_ratio": made["log_ratio"]})).tolist()
    drawn = drawn_now(bent, len(read), most)
    sampled = {column: _sampled(job, read[column], way, column, float(tolerances[column])) for column in drawn}
    several, engine = references.means if len(read[0]) == 1 else (), engines(len(first), bent, sampled, most)
    points = tuple(
        _point_result(
            job, item, made, column, _stated(made, sampled, column, engine[column]), float(tolerances[column]),
            bool(decides[column]), float(way.drift_limit[column]),
            reference_results(references, found, column) if several else (), found.agreements[column],
        )
        for column, item in enumerate(first)
    )  # fmt: skip
    logs = {item.channel: found.logs[log_of(item)] for item in several}
    return _as_worked(points, made, logs)


def _of_powers(job: Job, references: References) -> dict[str, tuple[Measurand | str, str]]:
    end = Measurand(Kind.NET, Statistic.CARRIER, references.end, job.stated.z0_ohm)
    return {"reference": (job.stated, "W"), "net": (end, "W")}


_COMPARED: dict[str, tuple[Measurand | str, str]] = {
    "error": ("error of indication", "W"),
    "log_ratio": ("ln(indicated/reference)", ""),
}


AT_METER = "@meter"
"""Ends the name of a harmonic's phase at the meter, where that is an influence of its own."""


@dataclass(frozen=True)
class _Device:
    """The meter under test: whose reading it is, what it answers to, and what of PEP it claims to show."""

    part: str
    detector: Detector
    channel: str
    label: str


def _device(job: Job) -> _Device:
    channel = job.device_channel.id
    return _Device(job.dut, job.indicator(channel).detector, channel, job.dut_part.label)


def _comparison(references: References, each: Model, device: _Device, mean: Scatter, weights: FloatArray) -> Model:
    """The reference's power, the error and the ratio, from all influences at once.

    The source's harmonics move reference and meter, each by its own way of responding to them. Where both effects add
    (an averaging needle falls as the crest rises) they are taken as one; nobody counts on their cancelling, since the
    phase between the two places isn't known: there the meter has an influence of its own (docs/decisions/0007). What a
    drift leaves is the reference's: it is stated for the moment in which the meter was read. The scatter of the rounds
    is that of the ratio: it is no part of what the reference is known to; where the meter shows nothing at times
    there is no ratio, and each has its own.
    """
    of_ratio, shares = np.where(mean.at_floor, 0.0, 1.0), mean.device[0].shares
    meter = _meter_harmonics(references, device)
    names = [log_of(mean) for mean in references.means]

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        found = each(x)
        log = sum((weight * found[name] for weight, name in zip(weights, names, strict=True)), np.zeros(1))
        scatter = sum(
            (
                of_ratio * weight * np.clip(x[repeat_id(references, mean)], -LOG_CLIP, LOG_CLIP)
                for weight, mean in zip(weights, references.means, strict=True)
            ),
            np.zeros(1),
        )
        return _compared(x, device, shares, meter, log + scatter, scatter, found["net share"])

    return model


def _compared(
    x: Mapping[str, FloatArray], device: _Device, shares: Shares, meter: Mapping[str, float], log: FloatArray,
    scatter: FloatArray, net_share: FloatArray,
) -> dict[str, FloatArray]:  # fmt: skip
    """What the device shows against a power, W, of whose PEP the logarithm is given: as the part that it claims."""
    reference = power_of_log(log) * shares.of(x, device.part)
    lifted = 1.0 + sum(weight * x[name] for name, weight in meter.items())
    shown = x[f"{device.part}.reading"] * np.exp(scatter) / lifted + x.get(floor_id(device.channel), 0.0)
    return {
        "reference": reference, "net": reference * net_share, "error": shown - reference,
        "log_ratio": np.log(np.maximum(shown / reference, SMALLEST_RATIO)),
    }  # fmt: skip


def _meter_harmonics(references: References, device: _Device) -> dict[str, float]:
    """Relative change of the power the meter shows, by the influence that holds the harmonic's cos φ there."""
    ratios, source = references.source.harmonics.ratios, references.source.id
    weights = {order: 2.0 * ratio * volts_weight(order, RESPONDS[device.detector]) for order, ratio in ratios.items()}
    shared = {item.id for item in references.influences}
    return {
        harmonic_id(source, order)
        + (AT_METER if weight > 0 or harmonic_id(source, order) not in shared else ""): weight
        for order, weight in weights.items()
        if weight
    }


def _comparison_influences(references: References, device: _Device, mean: Scatter) -> tuple[Influence, ...]:
    """What the meter showed, scatter, and drift left."""
    return (*_shown_influences(references, device, mean), *round_influences(references, mean))


def _shown_influences(references: References, device: _Device, mean: Scatter) -> tuple[Influence, ...]:
    """What the meter showed: its own accuracy is sought, so only reading it is uncertain; and harmonics in it."""
    (shown,), source = mean.device, references.source
    n = shown.watts.size
    found = [
        influence(
            f"{device.part}.reading", "meter, reading the dial", shown.watts, shown.u_reading, points=n,
            unit="W", source_id=device.part, distribution=Distribution.RECTANGULAR, sharing=each_point(n),
            basis="part of the local division",
        )
    ]  # fmt: skip
    shape = Distribution.U_SHAPED if source.harmonics.measured else Distribution.DISC
    found += [
        influence(
            name, f"source, harmonic {name.removesuffix(AT_METER)[-1]} at the meter", 0.0,
            standard_u_from_limit(1.0, shape), points=n, source_id=source.id, distribution=shape,
            sharing=each_point(n), basis="phase unknown",
        )
        for name in _meter_harmonics(references, device)
        if name.endswith(AT_METER)
    ]  # fmt: skip
    return (*found, *shown.shares.influences(device.part, device.label, device.part))


@dataclass(frozen=True, eq=False)
class _Way:
    """How the power at some points is worked out: what is read, everything uncertain in it, and what it makes."""

    references: References
    mean: Scatter  # of the device
    drift_limit: FloatArray
    stencil: Stencil
    found: Weighed
    model: Model
    outputs: dict[str, tuple[Measurand | str, str]]


def _way(job: Job, read: tuple[Unit, ...], known: Mapping[str, float], weights: FloatArray | None = None) -> _Way:
    """Points of one hook-up that read the same channels, or groups that do; with weights where they are known."""
    device = _device(job)
    if len(read[0]) > 1:
        return _substituted(job, device, read, known)
    mean = scatter(job, alone(read))
    references = references_at(job, alone(read), mean)
    inputs = with_known(
        Inputs(each_once(references.influences, _comparison_influences(references, device, mean))), known
    )
    stencil = Stencil(inputs)
    each = remembering(each_reference(references, stencil))
    found = weighed(job, references, each, stencil)
    model = _comparison(references, each, device, mean, found.weights if weights is None else weights)
    return _Way(references, mean, mean.drift_limit, stencil, found, model, {**_of_powers(job, references), **_COMPARED})


def _substituted(job: Job, device: _Device, groups: tuple[Unit, ...], known: Mapping[str, float]) -> _Way:
    made = substitution(job, groups)
    references, mean = made.device, made.device_mean
    own = _shown_influences(references, device, mean)
    inputs = with_known(Inputs(each_once(made.influences, own)), known)
    log_power, meter, shares = made.log_power(), _meter_harmonics(references, device), mean.device[0].shares
    of_ratio = np.where(mean.at_floor, 0.0, 1.0)

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        found = log_power(x)
        scatter = of_ratio * np.clip(found["scatter"], -LOG_CLIP, LOG_CLIP)
        return _compared(x, device, shares, meter, found["log"] + scatter, scatter, found["net share"])

    trusted = made.reference.trusted(job.method.parameters)[[made.standard]]
    n = trusted.shape[1]
    weights = Weighed(np.zeros((0, n)), trusted, (None,) * n, trusted[0], {})
    limit = np.maximum(mean.drift_limit, made.reference_mean.drift_limit)
    return _Way(references, mean, limit, Stencil(inputs), weights, model, {**_of_powers(job, references), **_COMPARED})


def _sampled(job: Job, unit: Unit, way: _Way, column: int, tolerance: float) -> dict[str, Sampled]:
    """Monte Carlo at a point where linear propagation doesn't hold.

    Powers are products, so the linear picture is judged where it is straightest: in the logarithm of the ratio. An 8 %
    load or a wide scatter is linear there, and its interval in per cent and dB is asymmetric by itself.
    """
    here = np.array([column])
    model = _way(job, (unit,), {}, way.found.weights[:, here]).model
    return monte_carlo(
        model, way.stencil.inputs.take(here), list(_COMPARED), trials=RUN_TRIALS, shortest=job.shortest_interval,
        within={"error": np.array([tolerance])},
    )  # fmt: skip


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


def _stated(
    compared: Mapping[str, Estimate], sampled: Mapping[int, Mapping[str, Sampled]], column: int, engine: str
) -> _Stated:
    error, log_ratio = compared["error"], compared["log_ratio"]
    value, u, expanded = (float(item[column]) for item in (error.value, error.u, error.expanded_u))
    log, log_u = float(log_ratio.value[column]), float(log_ratio.expanded_u[column])
    share, dof = math.exp(log), float(error.dof[column])
    if column not in sampled:
        ends = (value - expanded, value + expanded)
        around = (math.exp(log - log_u), math.exp(min(log + log_u, LOG_CLIP)))
        return _Stated(value, u, ends, share, around, dof, engine)
    drawn = sampled[column]
    ends = (float(drawn["error"].low[0]), float(drawn["error"].high[0]))
    # not the drawn standard deviation: three rounds have a t whose tails leave none to speak of
    u = (ends[1] - ends[0]) / 2.0 / float(error.k[column])
    shares = (math.exp(float(drawn["log_ratio"].low[0])), math.exp(float(drawn["log_ratio"].high[0])))
    inside = drawn["error"].inside
    conformance = None if inside is None else float(inside[0])
    return _Stated(value, u, ends, share, shares, dof, "Monte Carlo", conformance)


def _point_result(
    job: Job,
    found: PointReadings,
    made: Mapping[str, Estimate],
    column: int,
    stated: _Stated,
    tolerance: float,
    is_reference: bool,
    drift_limit: float,
    references: tuple[ReferenceResult, ...],
    agrees: Agreement | None,
) -> PointResult:
    reference = made["reference"]
    reference_w = float(reference.value[column])
    low, high = stated.error_interval_w
    expanded = (high - low) / 2.0
    decision = decide(stated.error_w, stated.u_error_w, expanded, tolerance, job.rule, is_reference, stated.conformance)
    return PointResult(
        point=found.point, rounds=len(found.rounds), reference_w=reference_w,
        reference_u_w=float(reference.expanded_u[column]), net_w=float(made["net"].value[column]),
        indicated_w=reference_w + stated.error_w, error_w=stated.error_w, u_error_w=stated.u_error_w,
        error_interval_w=stated.error_interval_w,
        k=expanded / stated.u_error_w if stated.u_error_w > 0 else 2.0, dof=stated.dof, ratio=stated.ratio,
        ratio_interval=stated.ratio_interval, tolerance_w=tolerance,
        decision=decision, is_reference=is_reference, engine=stated.engine, drift_limit=drift_limit,
        references=references, agreement=agrees, part=part_shown(job, found.point, job.device_channel.id),
    )  # fmt: skip
