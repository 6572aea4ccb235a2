"""From a job to the power that a source gives: the consensus of its references, and each claim held against it."""

import math
from collections.abc import Mapping
from functools import cached_property
from types import MappingProxyType

import numpy as np

from fenmist.calibration.again import Unit, alike, alone, drawn_now, engines, reduced_again, will_do
from fenmist.calibration.consensus import (
    LOG_CLIP,
    SOURCE_REPEAT,
    ReferenceResult,
    Weighed,
    each_reference,
    floor_id,
    log_of,
    power_of_log,
    reference_results,
    round_influences,
    weighed,
)
from fenmist.calibration.decision import Decision, decide
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Outcome, Stated
from fenmist.calibration.references import References, references_at
from fenmist.calibration.rounds import PointReadings, Scatter, scatter
from fenmist.frozen import dataclass
from fenmist.measurand import Kind, Measurand, Statistic
from fenmist.procedures.voices import Referred, budgets_of
from fenmist.reading.event import AS_FOUND
from fenmist.uncertainty.agreement import Agreement
from fenmist.uncertainty.estimate import BudgetRow, Estimate
from fenmist.uncertainty.influence import Distribution, FloatArray, Influence, Inputs, each_once, each_point, influence
from fenmist.uncertainty.montecarlo import Sampled, monte_carlo
from fenmist.uncertainty.propagation import Model, Stencil, bends, propagate, remembering
from fenmist.uncertainty.whatif import with_known

TRIALS = 50_000
"""Trials at a point where Monte Carlo takes over."""


@dataclass(frozen=True)
class Claim:
    """What a source says of itself at a point, by its setting or its own meter, held against what it gives."""

    channel: str
    claimed_w: float
    error_w: float  # claimed less measured
    expanded_u_w: float
    u_w: float
    interval_w: tuple[float, float]
    tolerance_w: float
    decision: Decision


@dataclass(frozen=True)
class OutputPoint:
    """What a source gives at one point."""

    point: PlanPoint
    rounds: int
    power_w: float
    u_w: float  # standard
    k: float
    interval_w: tuple[float, float]  # symmetric unless drawn
    net_w: float  # the part of it that goes into the end of the line
    engine: str
    is_reference: bool
    drift_limit: float
    references: tuple[ReferenceResult, ...]
    agreement: Agreement | None
    claims: tuple[Claim, ...]

    @property
    def expanded_u_w(self) -> float:
        """Half of the power's interval."""
        return (self.interval_w[1] - self.interval_w[0]) / 2.0

    @cached_property
    def stated(self) -> Stated:
        """The error of its first claim; of a source that claims nothing the power itself."""
        if self.claims:
            claim = self.claims[0]
            k = claim.expanded_u_w / claim.u_w if claim.u_w > 0 else 2.0
            low, high = (end / self.power_w for end in claim.interval_w)
            return Stated(
                self.point, claim.error_w, claim.interval_w, claim.u_w, k, "W", claim.tolerance_w, claim.decision,
                self.engine, self.is_reference, claim.error_w / self.power_w, (low, high),
                claim.tolerance_w / self.power_w, self.drift_limit,
            )  # fmt: skip
        target = self.point.target_w
        low, high = (end / target - 1.0 for end in self.interval_w)
        return Stated(
            self.point, self.power_w, self.interval_w, self.u_w, self.k, "W", 0.0, None, self.engine,
            self.is_reference, self.power_w / target - 1.0, (low, high), 0.0, self.drift_limit,
        )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Output(Referred[OutputPoint, "Worked"]):
    """All points that could be worked out: those with a complete round."""

    def work(self, units: tuple[Unit, ...]) -> "Worked":
        """What the engine makes of some units together."""
        return _work(self.job, units, self.known, 0)

    @property
    def quantities(self) -> Mapping[str, Estimate]:
        """The power, and the error of each claim."""
        return {} if self.worked is None else {"power": self.worked.power, **self.worked.errors}

    def budget(self, point_id: str) -> tuple[BudgetRow, ...]:
        """Budget of what is stated at a point, largest share first; empty where there is nothing."""
        return next(iter(self.budgets(point_id).values()), ())

    def budgets(self, point_id: str) -> Mapping[str, tuple[BudgetRow, ...]]:
        """Budgets of each claim's error, of the power, and of each of several references."""
        here = self.worked_at(point_id)
        return budgets_of(self.job, {**here.errors, "power": here.power}, here.logs) if here else {}

    def power_at(self, point_id: str) -> tuple[float, float, float] | None:
        """The power with its interval, W: low, value, high; none where nothing was read."""
        item = self.of(point_id)
        return (item.interval_w[0], item.power_w, item.interval_w[1]) if item else None


@dataclass(frozen=True, eq=False)
class OfPower(Outcome):
    """What another procedure makes of a source's power: its quantity and its budgets are the power's."""

    power: Output

    @property
    def quantities(self) -> Mapping[str, Estimate]:
        """The power at each point."""
        return self.power.quantities

    def budget(self, point_id: str) -> tuple[BudgetRow, ...]:
        """Budget of the power at a point."""
        return self.power.budget(point_id)

    def budgets(self, point_id: str) -> Mapping[str, tuple[BudgetRow, ...]]:
        """Of the power, and of each of several references."""
        return self.power.budgets(point_id)

    def power_at(self, point_id: str) -> tuple[float, float, float] | None:
        """The power with its interval, W: low, value, high; none where nothing was read."""
        return self.power.power_at(point_id)


@dataclass(frozen=True, eq=False)
class Worked:
    points: tuple[OutputPoint, ...]
    power: Estimate  # W
    errors: dict[str, Estimate]  # W, of each claim; empty where points claim differently
    logs: dict[str, Estimate]  # ln(power/W) of each reference


def reduce(
    job: Job, phase: str = AS_FOUND, known: Mapping[str, float] = MappingProxyType({}), former: Output | None = None,
    most: int | None = None,
) -> Output:  # fmt: skip
    """Work a job out as far as its readings reach.

    Parameters
    ----------
    phase : str
        As found, or as left.
    known : mapping
        What if: factors on standard uncertainties by influence id; see `with_known`.
    former : Output, optional
        Of the same job before a change: points whose readings didn't change are taken from it.
    most : int, optional
        How many points are drawn at most where linear propagation doesn't hold, the others later on; at 0 nobody looks
        whether it does.
    """
    return reduced_again(
        Output, job, phase, known, former, lambda fresh: _work(job, fresh, known, most),
        stays=will_do(former, most),
    )  # fmt: skip


def _work(job: Job, read: tuple[Unit, ...], known: Mapping[str, float], most: int | None) -> Worked:
    """Some points together, one propagation for all that are read alike."""
    return alike(read, lambda some: _work_alike(job, alone(some), known, most))


def _work_alike(job: Job, read: tuple[PointReadings, ...], known: Mapping[str, float], most: int | None) -> Worked:
    """Points of one hook-up that read the same channels."""
    mean = scatter(job, read)
    references = references_at(job, read, mean)
    inputs = Inputs(each_once(references.influences, round_influences(references, mean), _claimed(job, mean)))
    inputs = with_known(inputs, known)
    stencil = Stencil(inputs)
    each = remembering(each_reference(references, stencil))
    found = weighed(job, references, each, stencil)
    model = _output(references, each, mean, found.weights)
    made = propagate(model, stencil, _outputs(job, references, mean))
    tolerances = job.tolerance_w(
        [item.point for item in read], made["power"].value,
        mean.device[0].digit if mean.device else np.zeros(len(read)),
    )  # fmt: skip
    bent: list[int] = np.flatnonzero(bends(model, inputs, {"log": made["log"]})).tolist() if most != 0 else []
    drawn = {
        column: _drawn(job, read[column], inputs, column, found.weights, float(tolerances[column]))
        for column in drawn_now(bent, len(read), most)
    }
    engine = engines(len(read), bent, drawn, most)
    points = tuple(
        _point(
            job,
            item,
            references,
            made,
            found,
            column,
            float(tolerances[column]),
            mean,
            drawn.get(column, {}),
            engine[column],
        )
        for column, item in enumerate(read)
    )
    errors = {f"error of {item.channel}": made[_error(item.channel)] for item in mean.device}
    logs = {item.channel: found.logs[log_of(item)] for item in references.means}
    return Worked(points, made["power"], errors, logs)


def _error(channel: str) -> str:
    return f"error.{channel}"


def _reading(channel: str) -> str:
    return f"{channel}.claim"


def _claimed(job: Job, mean: Scatter) -> tuple[Influence, ...]:
    """What the source claims: its own accuracy is sought, so only reading it is uncertain."""
    shown = tuple(
        influence(
            _reading(item.channel), f"{job.indicator(item.channel).label}, reading it", item.watts, item.u_reading,
            points=item.watts.size, unit="W", source_id=job.dut, distribution=Distribution.RECTANGULAR,
            sharing=each_point(item.watts.size), basis="last digit or part of a division",
        )
        for item in mean.device
    )  # fmt: skip
    sent = (item.shares.influences(item.channel, job.indicator(item.channel).label, job.dut) for item in mean.device)
    return each_once(shown, *sent)


def _output(references: References, each: Model, mean: Scatter, weights: FloatArray) -> Model:
    """The power by all references together, and what each claim is off it."""
    names = [log_of(item) for item in references.means]

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        found = each(x)
        log = sum((weight * found[name] for weight, name in zip(weights, names, strict=True)), np.zeros(1))
        if SOURCE_REPEAT in x:
            log = log + np.clip(x[SOURCE_REPEAT], -LOG_CLIP, LOG_CLIP)
        power = power_of_log(log)
        errors = {
            _error(item.channel): x[_reading(item.channel)]
            + x.get(floor_id(item.channel), 0.0)
            - power * item.shares.of(x, item.channel)
            for item in mean.device
        }
        return {
            "power": power, "net": power * found["net share"], "log": log, **errors,
        }  # fmt: skip

    return model


def _outputs(job: Job, references: References, mean: Scatter) -> dict[str, tuple[Measurand | str, str]]:
    end = Measurand(Kind.NET, Statistic.CARRIER, references.end, job.stated.z0_ohm)
    errors = {_error(item.channel): (f"error of {item.channel}", "W") for item in mean.device}
    return {
        "power": (job.stated, "W"), "net": (end, "W"), "log": ("ln(power)", ""),
        **errors,
    }  # fmt: skip


def _drawn(
    job: Job, read: PointReadings, inputs: Inputs, column: int, weights: FloatArray, tolerance: float
) -> dict[str, Sampled]:
    """Monte Carlo at a point where linear propagation doesn't hold."""
    here = np.array([column])
    mean = scatter(job, (read,))
    references = references_at(job, (read,), mean)
    model = _output(references, each_reference(references), mean, weights[:, here])
    errors = [_error(item.channel) for item in mean.device]
    return monte_carlo(
        model, inputs.take(here), ["power", *errors], trials=TRIALS, shortest=job.shortest_interval,
        within={name: np.array([tolerance]) for name in errors},
    )  # fmt: skip


def _ends(made: Mapping[str, Estimate], name: str, column: int, drawn: Mapping[str, Sampled]) -> tuple[float, float]:
    if name in drawn:
        return float(drawn[name].low[0]), float(drawn[name].high[0])
    value, expanded = float(made[name].value[column]), float(made[name].expanded_u[column])
    return value - expanded, value + expanded


def _point(
    job: Job, read: PointReadings, references: References, made: Mapping[str, Estimate], found: Weighed, column: int,
    tolerance: float, mean: Scatter, drawn: Mapping[str, Sampled], engine: str,
) -> OutputPoint:  # fmt: skip
    power = made["power"]
    low, high = _ends(made, "power", column, drawn)
    k = float(power.k[column])
    trusted = bool(found.decides[column])
    claims = []
    for item in mean.device:
        error = made[_error(item.channel)]
        ends = _ends(made, _error(item.channel), column, drawn)
        expanded = (ends[1] - ends[0]) / 2.0
        u = expanded / float(error.k[column])
        value = float(error.value[column])
        inside = drawn[_error(item.channel)].inside if drawn else None
        p = None if inside is None else float(inside[0])
        claims.append(
            Claim(
                item.channel, float(item.watts[column]), value, expanded, u, ends, tolerance,
                decide(value, u, expanded, tolerance, job.rule, trusted and bool(item.shares.known[column]), p),
            )
        )  # fmt: skip
    return OutputPoint(
        read.point, len(read.rounds), float(power.value[column]), (high - low) / 2.0 / k if math.isfinite(k) else 0.0,
        k, (low, high), float(made["net"].value[column]), "Monte Carlo" if drawn else engine, trusted,
        float(mean.drift_limit[column]), reference_results(references, found, column), found.agreements[column],
        tuple(claims),
    )  # fmt: skip
