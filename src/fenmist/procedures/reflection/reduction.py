"""From a job to what a meter of match shows against what it should: ρ at its plane, end by end.

    error = ρ shown − |Γ| of the end, as the meter's plane sees it

The end, and what lies in front of it, give Γ with everything uncertain by name (`hookup.seen`). What the meter claims,
its directivity above all, gives the window in which it may show ρ (`methods.match_shown`); an error is held against the
side of the window on which it lies. Near a match |Γ| bends: where it is less than three standard uncertainties the
plane's two axes are drawn. Page: docs/method/reflection.md.
"""

import math
import statistics
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from functools import cached_property, lru_cache
from statistics import NormalDist
from types import MappingProxyType

import numpy as np

from fenmist.calibration.again import Unit, alike, alone, reduced_again
from fenmist.calibration.answers import Answers
from fenmist.calibration.decision import Decision, decide
from fenmist.calibration.job import HEAT, Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.calibration.rounds import PointReadings, Round, Taken, readings_by_point, u_once
from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp
from fenmist.hookup.seen import SeenMatch, between, seen_match
from fenmist.kit.part import Range
from fenmist.measurand import OF_MATCH, Kind
from fenmist.methods.match_shown import MeterClaim, reflection_limit, reflection_shown
from fenmist.procedures.reflection.make import claimed, is_turned
from fenmist.reading.event import AS_FOUND
from fenmist.uncertainty.coverage import COVERAGE
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
from fenmist.uncertainty.propagation import propagate
from fenmist.uncertainty.whatif import with_known

SET_LIMIT = 0.01
"""± part of full scale to which a set control is set: half a division of fifty (Fenmist's own, no source)."""

SET_POWER = "set_power_w"
"""Property of a meter that is set to full scale before it is read."""

FLOOR = "floor_w"
"""Property: reflected power below which its detector may show nothing."""

NEAR = 3.0
"""Standard uncertainties of Γ within which of the centre |Γ| isn't linear."""

DRAWS = 20_000
"""Draws of the plane's axes, the same at every point: ends of an interval are then known to about 1 % of u."""


@dataclass(frozen=True)
class OtherMeter:
    """Another meter of match, further on in the same line; all as ρ."""

    element: str
    shown: float
    ring: tuple[float, float]  # the truth at its own plane behind what it shows
    expected: float  # |Γ| of the end, at its plane
    window: tuple[float, float]  # what it may show with that
    carried: tuple[float, float]  # what its ring means at the first meter's plane
    shows_here: float  # what it shows, carried there without anything uncertain
    loss_db: float  # between both
    tuner: str  # element of a tuner in line between them; nothing where none is

    @property
    def is_inside(self) -> bool:
        """Whether what it shows lies in its window."""
        return self.window[0] <= self.shown <= self.window[1]

    def agrees_with(self, ring: tuple[float, float]) -> bool:
        """Whether its ring, carried to the first meter, touches that one's."""
        return self.carried[0] <= ring[1] and ring[0] <= self.carried[1]


@dataclass(frozen=True)
class MatchPoint:
    """What a meter shows at one frequency and level with one end behind it; all as ρ."""

    point: PlanPoint
    rounds: int
    kind: Kind  # of what is judged
    shown: float
    u_shown: float
    gamma: complex  # of the end, at the meter's plane
    u_axes: tuple[float, float]  # standard, of its real and imaginary part
    has_phase: bool  # whether Γ has one: nothing of open phase lies in front of the end
    expected: float  # |Γ|
    expected_interval: tuple[float, float]
    window: tuple[float, float]  # what a meter within its claims may show
    ring: tuple[float, float]  # the truth behind what it shows, by the same claims
    u: float
    k: float
    interval: tuple[float, float]  # of the error
    decision: Decision
    engine: str
    forward_w: float | None
    reflected_w: float | None
    tuned: bool = False  # a tuner works behind it: what it should show depends on that
    turned: bool = False  # it stands the other way round: its arms have changed places
    u_forward: float = 0.0  # standard, relative, of reading forward power
    others: tuple["OtherMeter", ...] = ()  # further on in the line, read in the same rounds

    @property
    def error(self) -> float:
        """ρ shown less ρ expected."""
        return self.shown - self.expected

    @property
    def tolerance(self) -> float:
        """Distance to the end of the window on the side of the error; where it reaches down to a match, to its top."""
        return _side(self.error, self.expected, self.window)

    @property
    def is_inside(self) -> bool:
        """Whether what is shown lies in the window."""
        return self.window[0] <= self.shown <= self.window[1]

    @cached_property
    def stated(self) -> Stated:
        """The error of ρ as what is stated here; nothing is claimed of one that a tuner makes."""
        tolerance, decision = (0.0, None) if self.tuned else (self.tolerance, self.decision)
        return Stated(
            self.point, self.error, self.interval, self.u, self.k, "", tolerance, decision, self.engine,
            not self.tuned, self.error, self.interval, tolerance,
        )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Worked:
    """Some points together; columns in their order."""

    points: tuple[MatchPoint, ...]
    error: Estimate
    shown: Estimate


@dataclass(frozen=True, eq=False)
class Matches(Answers[MatchPoint, Worked]):
    """All points that could be worked out."""

    def work(self, units: tuple[Unit, ...]) -> Worked:
        """What the engine makes of some units together."""
        return _work(self.job, units, self.known)

    @property
    def quantities(self) -> Mapping[str, Estimate]:
        """Error of ρ, and ρ as shown."""
        return {"error": self.worked.error, "shown": self.worked.shown} if self.worked else {}

    def budget(self, point_id: str) -> tuple[BudgetRow, ...]:
        """Budget of the error at a point, largest share first; empty where there is none."""
        here = self.worked_at(point_id)
        return here.error.budget(0) if here else ()


def reduce(
    job: Job, phase: str = AS_FOUND, known: Mapping[str, float] = MappingProxyType({}), former: Matches | None = None
) -> Matches:
    """Work a job out as far as its readings reach.

    Parameters
    ----------
    phase : str
        As found, or as left.
    known : mapping
        What if: factors on standard uncertainties by influence id; see `with_known`.
    former : Matches, optional
        Of the same job before a change: points whose readings didn't change are taken from it.
    """
    return reduced_again(Matches, job, phase, known, former, lambda fresh: _work(job, fresh, known))


def predict(job: Job) -> tuple[Stated, ...]:
    """What a job states whose readings are those that are expected."""
    read = tuple((item,) for item in readings_by_point(job) if item.rounds)
    return tuple(point.stated for point in _work(job, read, {}).points) if read else ()


def seen_at(job: Job, hookup_id: str, frequency_hz: FloatArray) -> SeenMatch:
    """What the meter's plane sees on a hook-up, remembered beside the definition."""
    kept: dict[tuple[str, bytes], SeenMatch] = job.once("seen matches", dict)
    key = (hookup_id, frequency_hz.tobytes())
    if key not in kept:
        hookup = job.hookup(hookup_id)
        kept[key] = seen_match(hookup, job.parts, frequency_hz, hookup.stated, job.method.parameters.get(HEAT))
    return kept[key]


def _work(job: Job, read: tuple[Unit, ...], known: Mapping[str, float]) -> Worked:
    """Some points together, one propagation for all that are read alike."""
    return alike(read, lambda some: _work_alike(job, alone(some), known))


@dataclass(frozen=True, eq=False)
class _Shown:
    """What the meter showed at n points, arrays of shape (n,)."""

    kind: Kind
    rho: FloatArray
    u_reading: FloatArray
    u_repeat: FloatArray
    dof_repeat: FloatArray
    forward_w: FloatArray | None
    reflected_w: FloatArray | None
    full_scale: FloatArray | None
    forward_full_scale: FloatArray | None
    digit: FloatArray


def _work_alike(job: Job, read: tuple[PointReadings, ...], known: Mapping[str, float]) -> Worked:
    """Points that read the same channels on the same hook-up."""
    f = np.array([item.point.frequency_hz for item in read])
    seen, shown = seen_at(job, read[0].point.hookup, f), _shown(job, read)
    inputs = with_known(Inputs((*seen.influences, *_own(job, shown))), known)

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        gamma = seen.gamma(x)
        rho = x[_READING] * x.get(_SET, np.ones(1)) + x.get(_REPEAT, np.zeros(1))
        return {"real": gamma.real, "imaginary": gamma.imag, "shown": rho}

    made = propagate(model, inputs, {name: (f"Γ, {name}", "") for name in ("real", "imaginary", "shown")})
    gamma = made["real"].value + 1j * made["imaginary"].value
    covariance = _covariance(made)
    ways = np.array([_way(one, matrix) for one, matrix in zip(gamma, covariance, strict=True)])
    slopes = {
        name: made["shown"].sensitivities[name]
        - ways.real * made["real"].sensitivities[name]
        - ways.imag * made["imaginary"].sensitivities[name]
        for name in made["shown"].sensitivities
    }
    error = Estimate("error of ρ", "", made["shown"].value - np.abs(gamma), slopes, inputs)
    near = np.abs(gamma) < NEAR * np.sqrt([np.max(np.linalg.eigvalsh(matrix)) for matrix in covariance])
    has_phase, hookup = _has_phase(seen), job.hookup(read[0].point.hookup)
    tuned = bool(_tuner_in(job, hookup, (stop.element for stop in seen.bench.main if stop.entry)))
    others = [_other(job, read, seen, element) for element in other_meters(job, read[0].point)]
    points = tuple(
        replace(
            _point(
                job,
                item,
                shown,
                made["shown"],
                error,
                complex(gamma[n]),
                covariance[n],
                bool(near[n]),
                n,
                (has_phase, tuned),
            ),
            others=tuple(some[n] for some in others),
            turned=is_turned(hookup, job.dut_part),
            u_forward=_u_forward(job, item),
        )
        for n, item in enumerate(read)
    )
    return Worked(points, error, made["shown"])


def _u_forward(job: Job, found: PointReadings) -> float:
    """Standard uncertainty of the mean forward power, by reading it and by its scatter, relative; 0 where none was."""
    channel = channel_of(job, found.point, Kind.INCIDENT)
    taken = [item for one in found.rounds for item in _all_of(one) if item.entry.channel == channel]
    if not taken or not all(item.reading.value > 0.0 for item in taken):
        return 0.0
    ranges = (_range(job, channel, item.entry.range_id) for item in taken)
    once = max(
        u_once(item.reading, at, job.part_of_division) / item.reading.value
        for item, at in zip(taken, ranges, strict=True)
    )
    logs = [math.log(item.reading.value) for item in taken]
    scatter = statistics.stdev(logs) if len(logs) > 1 else 0.0
    return math.hypot(once, scatter) / math.sqrt(len(taken))


def _other(job: Job, read: tuple[PointReadings, ...], seen: SeenMatch, element: str) -> tuple[OtherMeter, ...]:
    """Another meter of the line at points that are read alike."""
    hookup, shown = job.hookup(read[0].point.hookup), _shown(job, read, element)
    channel = channel_of(job, read[0].point, shown.kind, element)
    part, plane = job.part_read(channel), job.channel(channel).measurand.plane
    own = seen_match(hookup, job.parts, seen.bench.frequency_hz, plane, job.method.parameters.get(HEAT))
    expected = np.abs(np.broadcast_to(own.gamma(own.estimates), seen.bench.frequency_hz.shape))
    way = between(seen, plane)
    first, more = claimed(part)
    claim = MeterClaim(
        shown.kind, first.value, more, shown.forward_w, shown.full_scale, shown.forward_full_scale, shown.digit,
        part.properties[FLOOR].value if FLOOR in part.properties else 0.0,
    )  # fmt: skip
    wide = 2.0 * np.hypot(shown.u_reading, shown.u_repeat)
    low = claim.truth(np.maximum(shown.rho - wide, 0.0))[0]
    high = claim.truth(shown.rho + wide)[1]
    tuner = _tuner_in(job, hookup, way.elements)
    carried = way.carried(low, high) if not tuner else (np.zeros_like(low), np.ones_like(high))
    window = claim.shows(expected)
    here = shown.rho * 10.0 ** (-way.loss_db / 10.0)
    return tuple(
        OtherMeter(
            element, float(shown.rho[n]), (float(low[n]), float(high[n])), float(expected[n]),
            (float(window[0][n]), float(window[1][n])), (float(carried[0][n]), float(carried[1][n])),
            float(here[n]), float(way.loss_db[n]), tuner,
        )
        for n in range(len(read))
    )  # fmt: skip


def _tuner_in(job: Job, hookup: HookUp, elements: Iterable[str]) -> str:
    """The first of some elements that is a tuner in line; nothing where none is."""
    there = (hookup.element(name) for name in elements)
    return next((item.id for item in there if job.part(item.part).tunes(item.settings)), "")


def _covariance(made: Mapping[str, Estimate]) -> FloatArray:
    """Of real and imaginary part of Γ, shape (n, 2, 2)."""
    x, y = made["real"].signed, made["imaginary"].signed
    rows = [[np.sum(a * b, axis=0) for b in (x, y)] for a in (x, y)]
    return np.moveaxis(np.array(rows), 2, 0)


def _way(gamma: complex, covariance: FloatArray) -> complex:
    """The direction in which |Γ| grows; of a match that in which it is known least."""
    values, vectors = np.linalg.eigh(covariance)
    if abs(gamma) > NEAR * math.sqrt(max(values[-1], 0.0)) and abs(gamma) > 0.0:
        return gamma / abs(gamma)
    axis = complex(*vectors[:, -1])
    return axis if (axis.conjugate() * gamma).real >= 0.0 else -axis


def _has_phase(seen: SeenMatch) -> bool:
    names = [stop.element for stop in seen.bench.main]
    behind = names[names.index(seen.plane.element) + 1 :]
    return all(seen.bench.elements[name].has_phase for name in behind)


_READING, _SET, _REPEAT = "meter.reading", "meter.set", "repeat"


def _own(job: Job, shown: _Shown) -> tuple[Influence, ...]:
    """What is uncertain in the readings themselves: what the meter claims is what is judged."""
    n, label = shown.rho.size, job.dut_part.label
    found = [
        influence(
            _READING, f"{label}, reading it", shown.rho, shown.u_reading, points=n, source_id=job.dut,
            distribution=Distribution.RECTANGULAR, sharing=each_point(n), basis="last digit or part of a division",
        ),
        influence(
            _REPEAT, "repeatability", 0.0, shown.u_repeat, points=n, sharing=each_point(n), dof=shown.dof_repeat,
            kind="A", basis="scatter of the rounds",
        ),
    ]  # fmt: skip
    if SET_POWER in job.dut_part.properties:
        found.append(
            influence(
                _SET, f"{label}, set to full scale", 1.0, standard_u_from_limit(SET_LIMIT, Distribution.RECTANGULAR),
                points=n, source_id=job.dut, distribution=Distribution.RECTANGULAR, sharing=each_point(n),
                basis="half a division of fifty",
            )
        )  # fmt: skip
    return tuple(found)


def channel_of(job: Job, point: PlanPoint, kind: Kind, element: str = "") -> str:
    """The channel of a point that reads a quantity on the device, or on another meter; nothing where none does."""
    element = element or job.hookup(point.hookup).stated.element
    names = (name for name in point.sequence if job.channel(name).element == element)
    return next((name for name in names if job.channel(name).measurand.kind is kind), "")


def judged_kind(job: Job, point: PlanPoint, element: str = "") -> Kind:
    """What is judged at a point: SWR, ρ or return loss where the meter says it, else its reflected power."""
    kinds = (*OF_MATCH[1:], OF_MATCH[0])
    return next((kind for kind in kinds if channel_of(job, point, kind, element)), Kind.REFLECTED)


def other_meters(job: Job, point: PlanPoint) -> tuple[str, ...]:
    """Elements of the meters that are read beside the device."""
    own = job.hookup(point.hookup).stated.element
    read = (job.channel(name).element for name in point.sequence if job.is_of_match(name))
    return tuple(dict.fromkeys(element for element in read if element != own))


def _shown(job: Job, read: Sequence[PointReadings], element: str = "") -> _Shown:
    kind = judged_kind(job, read[0].point, element)
    rows = [_row(job, item, kind, element) for item in read]
    rho, u_reading, u_repeat, dof, forward, reflected, full, forward_full, digit = (
        np.array(column, float) for column in zip(*rows, strict=True)
    )
    return _Shown(
        kind, rho, u_reading, u_repeat, dof, _if_known(forward),
        _if_known(reflected), _if_known(full), _if_known(forward_full), digit,
    )  # fmt: skip


def _if_known(values: FloatArray) -> FloatArray | None:
    return values if np.all(np.isfinite(values)) else None


def round_reflection(job: Job, point: PlanPoint, one: Round, kind: Kind, element: str = "") -> float:
    """ρ that one round shows."""
    value, forward = (_mean(one, channel_of(job, point, of, element)) for of in (kind, Kind.INCIDENT))
    power = None if forward is None else np.array(max(forward, 1e-12))
    return float(reflection_shown(kind, np.array(value if value is not None else 0.0), power))


def _mean(one: Round, channel: str) -> float | None:
    taken = [item.reading.value for item in _all_of(one) if item.entry.channel == channel]
    return statistics.fmean(taken) if taken else None


def _all_of(one: Round) -> tuple[Taken, ...]:
    return (*one.duts, *one.references, *one.others)


def _row(job: Job, found: PointReadings, kind: Kind, element: str) -> tuple[float, ...]:
    """ρ, u of reading it once, of repeating it, its degrees of freedom; watts; full scale and digit of what is read."""
    point, channel = found.point, channel_of(job, found.point, kind, element)
    each = [round_reflection(job, point, one, kind, element) for one in found.rounds]
    watts = {
        of: [value for one in found.rounds if (value := _mean(one, channel_of(job, point, of, element))) is not None]
        for of in (Kind.INCIDENT, Kind.REFLECTED)
    }
    forward, reflected = (statistics.fmean(some) if some else math.nan for some in watts.values())
    taken = [item for one in found.rounds for item in _all_of(one) if item.entry.channel == channel]
    used = [_range(job, channel, item.entry.range_id) for item in taken]
    u = max(u_once(item.reading, at, job.part_of_division) for item, at in zip(taken, used, strict=True))
    rho = statistics.fmean(each)
    power = np.array(forward) if math.isfinite(forward) else None
    below, above = reflection_limit(kind, np.array(rho), np.array(u), power)
    u_reading = max(float(below), float(above)) / math.sqrt(len(each))
    repeat = statistics.stdev(each) / math.sqrt(len(each)) if len(each) > 1 else 0.0
    ahead = channel_of(job, point, Kind.INCIDENT, element)
    on = {item.entry.range_id for one in found.rounds for item in _all_of(one) if item.entry.channel == ahead}
    forward_full = max((at.full_scale for name in on if (at := _range(job, ahead, name))), default=math.nan)
    full = max((at.full_scale for at in used if at is not None), default=math.nan)
    digit = max(item.reading.digit for item in taken)
    dof = len(each) - 1.0 if len(each) > 1 else math.inf
    return rho, u_reading, repeat, dof, forward, reflected, full, forward_full, digit


def _range(job: Job, channel: str, range_id: str) -> Range | None:
    return job.indicator(channel).range(range_id)


def _claim_at(
    job: Job, kind: Kind, forward_w: float | None, full_scales: tuple[float | None, float | None], digit: float
) -> MeterClaim:
    """What the job holds the meter to, at one reading; full scales of what is judged, and of forward power."""
    floor = job.dut_part.properties.get(FLOOR)
    forward, full, ahead = (None if item is None else np.array(item) for item in (forward_w, *full_scales))
    return MeterClaim(
        kind, job.tolerance.value, job.tolerance_more, forward, full, ahead, np.array(digit),
        floor.value if floor else 0.0,
    )  # fmt: skip


def _point(
    job: Job, found: PointReadings, shown: _Shown, of_shown: Estimate, of_error: Estimate, gamma: complex,
    covariance: FloatArray, near: bool, n: int, end: tuple[bool, bool],
) -> MatchPoint:  # fmt: skip
    rho, u_shown, k_shown = float(shown.rho[n]), float(of_shown.u[n]), float(of_shown.k[n])
    forward, full, ahead = (
        None if item is None else float(item[n])
        for item in (shown.forward_w, shown.full_scale, shown.forward_full_scale)
    )
    claim = _claim_at(job, shown.kind, forward, (full, ahead), float(shown.digit[n]))
    k = float(of_error.k[n])
    if near:
        expected, interval_of, u, interval = _drawn(gamma, covariance, rho, u_shown * k_shown / 2.0)
        k = (interval[1] - interval[0]) / (2.0 * u) if u > 0.0 else 2.0
    else:
        expected, u = abs(gamma), float(of_error.u[n])
        own = math.sqrt(max(u**2 - u_shown**2, 0.0))
        interval_of = (max(expected - 2.0 * own, 0.0), min(expected + 2.0 * own, 1.0))
        interval = (rho - expected - k * u, rho - expected + k * u)
    low, high = (float(end) for end in claim.shows(np.array(expected)))
    ring_low, ring_high = (
        claim.truth(np.array(max(rho - k_shown * u_shown, 0.0)))[0], claim.truth(np.array(rho + k_shown * u_shown))[1],
    )  # fmt: skip
    error = rho - expected
    tolerance = _side(error, expected, (low, high))
    within = _probability(error, u, low - expected if low > 0.0 else -math.inf, high - expected)
    decision = decide(error, u, (interval[1] - interval[0]) / 2.0, tolerance, job.rule, not end[1], within)
    return MatchPoint(
        found.point, len(found.rounds), shown.kind, rho, u_shown, gamma,
        (math.sqrt(covariance[0, 0]), math.sqrt(covariance[1, 1])), end[0], expected, interval_of, (low, high),
        (float(ring_low), float(ring_high)), u, k, interval, decision, "Monte Carlo" if near else "linear", forward,
        None if shown.reflected_w is None else float(shown.reflected_w[n]), end[1],
    )  # fmt: skip


def _side(error: float, expected: float, window: tuple[float, float]) -> float:
    """What an error is held against: no meter shows less than nothing."""
    low, high = window
    return max(expected - low if error < 0.0 and low > 0.0 else high - expected, 1e-12)


def _probability(error: float, u: float, low: float, high: float) -> float:
    """That the true error lies in the window (JCGM 106:2012)."""
    if u <= 0.0:
        return float(low <= error <= high)
    normal = NormalDist(error, u)
    return normal.cdf(high) - normal.cdf(low)


@lru_cache(maxsize=1)
def _axes() -> FloatArray:
    """Standard normal draws, shape (3, DRAWS), in pairs of opposite signs."""
    half = np.random.default_rng(20).standard_normal((3, DRAWS // 2))
    return np.concatenate([half, -half], axis=1)


def _drawn(
    gamma: complex, covariance: FloatArray, shown: float, u_shown: float
) -> tuple[float, tuple[float, float], float, tuple[float, float]]:
    """|Γ| near a match with its interval; u and the interval of the error: from draws of both axes."""
    values, vectors = np.linalg.eigh(covariance)
    z = _axes()
    axes = vectors @ (np.sqrt(np.maximum(values, 0.0))[:, None] * z[:2])
    size = np.abs(gamma + axes[0] + 1j * axes[1])
    error = shown + u_shown * z[2] - size
    tails = ((1.0 - COVERAGE) / 2.0, (1.0 + COVERAGE) / 2.0)
    of_size, of_error = np.quantile(size, tails), np.quantile(error, tails)
    return (
        float(np.mean(size)), (float(of_size[0]), float(of_size[1])), float(np.std(error)),
        (float(of_error[0]), float(of_error[1])),
    )  # fmt: skip
