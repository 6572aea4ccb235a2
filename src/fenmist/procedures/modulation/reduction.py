"""From a job to what its meter shows of one PEP that is modulated, as a fraction of what it shows on the carrier.

    f = (shown at the waveform / shown at the carrier) / (crest read at the waveform / crest read at the carrier)

Where nothing else reads the crest its ratio is 1 within what the source is said to hold. The meter's gain cancels; how
its scale errs between a high and a low reading doesn't. Page: docs/method/modulation.md.
"""

import math
import statistics
from collections.abc import Mapping, Sequence
from functools import cached_property
from types import MappingProxyType

import numpy as np

from fenmist.calibration.again import Unit, reduced_again
from fenmist.calibration.answers import Answers
from fenmist.calibration.decision import Decision, decide
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.legs import group_units
from fenmist.calibration.outcome import Stated
from fenmist.calibration.rounds import PointReadings, Round, readings_by_point, scatter
from fenmist.frozen import dataclass
from fenmist.methods.detectors import Told, told_apart
from fenmist.procedures.modulation.make import CLAIM, PEP_HELD, SCALE, USUAL
from fenmist.procedures.modulation.waves import waveform_of
from fenmist.reading.event import AS_FOUND
from fenmist.uncertainty.estimate import BudgetRow, Estimate
from fenmist.uncertainty.influence import (
    Distribution,
    FloatArray,
    Influence,
    Inputs,
    IntArray,
    each_point,
    each_value,
    influence,
    standard_u_from_limit,
)
from fenmist.uncertainty.propagation import propagate
from fenmist.uncertainty.whatif import with_known
from fenmist.units.level import DB_PER_NEPER
from fenmist.waveform.shapes import Waveform

OF_PEP, OF_MEAN = 0.0, 1.0
"""Values of the parameter that says what the meter claims."""


@dataclass(frozen=True)
class Fraction:
    """What a meter shows at one waveform, over what it shows on the carrier of the same PEP."""

    point: PlanPoint
    carrier: PlanPoint
    rounds: int
    shown_w: float
    carrier_w: float
    fraction: float
    u_log: float  # standard, of its logarithm
    k: float
    claimed: float | None  # fraction that it claims to show; none where it claims nothing
    tolerance: float
    decision: Decision | None

    @property
    def waveform(self) -> Waveform:
        """What was sent."""
        return waveform_of(self.point.leg)

    @property
    def interval(self) -> tuple[float, float]:
        """Of the fraction, about 95 %."""
        wide = math.exp(self.k * self.u_log)
        return self.fraction / wide, self.fraction * wide

    @property
    def expanded_u(self) -> float:
        """Half of that."""
        return (self.interval[1] - self.interval[0]) / 2.0

    @property
    def off(self) -> float:
        """The fraction over the claimed one, less one; over the carrier where nothing is claimed."""
        return self.fraction / (self.claimed or 1.0) - 1.0

    @cached_property
    def stated(self) -> Stated:
        """By how much it is off, as what is stated here."""
        low, high = (end / (self.claimed or 1.0) - 1.0 for end in self.interval)
        ends, u = (100.0 * low, 100.0 * high), 100.0 * (1.0 + self.off) * self.u_log
        return Stated(
            self.point, 100.0 * self.off, ends, u, self.k, "%", 100.0 * self.tolerance, self.decision, "linear", True,
            self.off, (low, high), self.tolerance,
        )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Worked:
    """Some units together; columns in their order."""

    points: tuple[Fraction, ...]
    log_fraction: Estimate


@dataclass(frozen=True, eq=False)
class Modulation(Answers[Fraction, Worked]):
    """All waveforms that could be held against their carrier."""

    def work(self, units: tuple[Unit, ...]) -> Worked:
        """What the engine makes of some units together."""
        return _work(self.job, units, self.known)

    @property
    def quantities(self) -> Mapping[str, Estimate]:
        """The logarithms of the fractions."""
        return {"log_fraction": self.worked.log_fraction} if self.worked else {}

    @cached_property
    def units(self) -> tuple[Unit, ...]:
        """Each waveform with its carrier."""
        return fraction_units(self.job, self.readings)

    def budget(self, point_id: str) -> tuple[BudgetRow, ...]:
        """Budget of the logarithm of a fraction, largest share first; empty where there is none."""
        worked = self.worked
        places = {item.point.id: n for n, item in enumerate(self.points)}
        return worked.log_fraction.budget(places[point_id]) if worked and point_id in places else ()

    @cached_property
    def told(self) -> tuple[tuple[tuple[Fraction, ...], Told], ...]:
        """What each frequency and level tells of the detector, all waveforms there together, the surest first."""
        worked = self.worked
        if worked is None:
            return ()
        covariance = worked.log_fraction.covariance()
        made = []
        for name in dict.fromkeys(item.point.group for item in self.points):
            rows = [n for n, item in enumerate(self.points) if item.point.group == name and item.waveform.period_s]
            if rows:
                some = tuple(self.points[n] for n in rows)
                logs = covariance[np.ix_(rows, rows)]
                fractions = np.array([item.fraction for item in some])
                made.append((some, told_apart([item.waveform for item in some], fractions, logs)))
        return tuple(sorted(made, key=lambda pair: -max(pair[1].odds.values())))


def fraction_units(job: Job, found: Sequence[PointReadings]) -> tuple[Unit, ...]:
    """Each waveform that was read with its carrier, where that was read."""
    carrier = job.visits[0].id
    return group_units(found, lambda item: item.point.leg != carrier)


def reduce(
    job: Job, phase: str = AS_FOUND, known: Mapping[str, float] = MappingProxyType({}), former: Modulation | None = None
) -> Modulation:
    """Work a job out as far as its readings reach; see `Procedure.reduce`."""
    return reduced_again(
        Modulation, job, phase, known, former, lambda fresh: _work(job, fresh, known),
        lambda found: fraction_units(job, found),
    )  # fmt: skip


def predict(job: Job) -> tuple[Stated, ...]:
    """What a job states whose readings are those that are expected: all that is sent."""
    read = fraction_units(job, readings_by_point(job))
    return tuple(item.stated for item in _work(job, read, {}).points) if read else ()


LEAST_W = 1e-12
"""Power taken for a display that shows nothing and whose last digit nobody knows."""


@dataclass(frozen=True, eq=False)
class _Read:
    """What was read at one visit of n units; arrays have shape (n,). Relative uncertainties of powers."""

    shown_w: FloatArray
    u_shown: FloatArray
    log_crest: FloatArray  # 0 where nothing reads it
    u_crest: FloatArray
    log_ratio: FloatArray  # mean of the rounds
    u_repeat: FloatArray
    dof: FloatArray


def _read_at(job: Job, some: Sequence[PointReadings]) -> _Read:
    """What was read at one visit; a meter that shows nothing shows as much as can't be told from nothing."""
    mean = scatter(job, tuple(some))
    (shown,) = mean.device
    power = 2.0  # volts and amperes count twice
    u_crest = np.zeros(len(some))
    for item in mean.references:
        times = power if item.forms[0] != "W" else 1.0
        u_crest = np.hypot(u_crest, times * item.u_reading / item.value / len(mean.references))
    crests = np.array([statistics.fmean(_crest(one) for one in found.rounds) for found in some])
    least = np.maximum(shown.u_reading, LEAST_W)
    ratios = [
        [max(one.log_dut, math.log(floor)) - _crest(one) for one in found.rounds]
        for found, floor in zip(some, least, strict=True)
    ]
    spread = [statistics.stdev(logs) / math.sqrt(len(logs)) if len(logs) > 1 else 0.0 for logs in ratios]
    dof = [len(logs) - 1.0 if len(logs) > 1 else math.inf for logs in ratios]
    relative = shown.u_reading / np.maximum(shown.watts, least)
    return _Read(
        shown.watts, relative, crests, u_crest, np.array([statistics.fmean(logs) for logs in ratios]),
        np.array(spread), np.array(dof),
    )  # fmt: skip


def _crest(one: Round) -> float:
    """Logarithm of the power that the other instruments read at the crest, a constant apart; 0 where there are none."""
    return one.log_reference if one.references else 0.0


def _work(job: Job, read: tuple[Unit, ...], known: Mapping[str, float]) -> Worked:
    here = _read_at(job, [unit[0] for unit in read])
    there = _read_at(job, [unit[1] for unit in read])
    settings = {**USUAL, **job.method.parameters}
    groups = [unit[0].point.group for unit in read]
    of_carrier = each_value(groups)
    log = here.log_ratio - there.log_ratio
    inputs = with_known(Inputs(tuple(_influences(job, here, there, of_carrier, log, settings))), known)

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        shown = x["shown"] - x["carrier"] + x["repeat"] - x["repeat.carrier"] + x["scale"]
        return {"log_fraction": log + shown - (x["crest"] - x["crest.carrier"] if "crest" in x else x["pep"])}

    made = propagate(model, inputs, {"log_fraction": ("logarithm of the fraction shown", "")})["log_fraction"]
    points = tuple(_point(job, unit, made, n, here, there, settings[CLAIM]) for n, unit in enumerate(read))
    return Worked(points, made)


def _influences(
    job: Job, here: _Read, there: _Read, of_carrier: IntArray, log: FloatArray, settings: Mapping[str, float]
) -> list[Influence]:
    n, device = log.size, job.dut_part
    own, rectangular = each_point(n), Distribution.RECTANGULAR

    def one(name: str, label: str, u: FloatArray, sharing: IntArray, basis: str, source_id: str = "") -> Influence:
        return influence(
            name, label, 0.0, u, points=n, sharing=sharing, basis=basis, distribution=rectangular, source_id=source_id
        )

    def scattered(name: str, label: str, read: _Read, sharing: IntArray) -> Influence:
        return influence(
            name, label, 0.0, read.u_repeat, points=n, sharing=sharing, basis="scatter of the rounds", kind="A",
            dof=read.dof,
        )  # fmt: skip

    digit = "last digit or part of a division"
    found = [
        one("shown", f"{device.label}, reading it", here.u_shown, own, digit, device.id),
        one("carrier", f"{device.label}, reading it on the carrier", there.u_shown, of_carrier, digit, device.id),
        scattered("repeat", "repeatability", here, own),
        scattered("repeat.carrier", "repeatability on the carrier", there, of_carrier),
        one(
            "scale", f"{device.label}, its scale between both readings",
            standard_u_from_limit(settings[SCALE] * np.minimum(np.abs(np.expm1(log)), 1.0), rectangular),
            np.zeros(n, int), "as stated, of the way between them", device.id,
        ),
    ]  # fmt: skip
    if np.any(here.u_crest) or np.any(there.u_crest):
        found.append(one("crest", "crest, reading it", here.u_crest, own, digit))
        found.append(one("crest.carrier", "crest of the carrier, reading it", there.u_crest, of_carrier, digit))
    else:
        limit = standard_u_from_limit(np.full(n, settings[PEP_HELD] / DB_PER_NEPER), rectangular)
        found.append(
            one("pep", "PEP, the same at each waveform", limit, own, "as the source is said to hold it", _source(job))
        )
    return found


def _source(job: Job) -> str:
    return job.bench.elements[0].part


def _point(job: Job, unit: Unit, made: Estimate, n: int, here: _Read, there: _Read, claim: float) -> Fraction:
    point = unit[0].point
    log, u, k = float(made.value[n]), float(made.u[n]), float(made.k[n])
    exact = waveform_of(point.leg).exact
    claimed = {OF_PEP: 1.0, OF_MEAN: exact.mean if exact else 1.0}.get(claim)
    tolerance, decision = (0.0, None) if claimed is None else (job.tolerance.value, None)
    fraction = math.exp(log)
    if claimed is not None:
        relative = fraction / claimed
        decision = decide(relative - 1.0, relative * u, relative * math.sinh(k * u), tolerance, job.rule, True)
    return Fraction(
        point, unit[1].point, len(unit[0].rounds), float(here.shown_w[n]), float(there.shown_w[n]), fraction, u, k,
        claimed, tolerance, decision,
    )  # fmt: skip
