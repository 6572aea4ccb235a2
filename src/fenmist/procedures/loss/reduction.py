"""From a job to what a part loses: a ratio of ratios, with the part and without it.

    loss = −10·log10[(P_behind/P_front) through / (P_behind/P_front) direct]

Each P is made of its reading by the bench (`hookup.transfer`), so what both visits share cancels: the couplers' ratios,
the instruments' gains. What counts is what each reading has of its own, the scatter, what moved between the visits,
and the matches: what the instruments face in turn, and what the part makes of its neighbours. Stated is the loss in
matched surroundings, in dB. Page: docs/method/loss.md.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from statistics import NormalDist
from types import MappingProxyType

import numpy as np

from fenmist.calibration.again import WHOLE, Unit, reduced_again
from fenmist.calibration.beside import once
from fenmist.calibration.consensus import LOG_CLIP, each_reference, log_of, read_alike, round_influences
from fenmist.calibration.decision import Decision, decide
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.legs import BETWEEN, between_visits, group_units, half_moved, joined_legs, together
from fenmist.calibration.outcome import Outcome, Stated
from fenmist.calibration.references import References, references_at
from fenmist.calibration.rounds import PointReadings, Round, readings_by_point, scatter
from fenmist.hookup.transfer import Transfer
from fenmist.kit.part import SpecKind
from fenmist.measurand import Kind, Measurand, PlaneRef
from fenmist.methods.indication import LEAK
from fenmist.reading.event import AS_FOUND
from fenmist.uncertainty.coverage import one_sided
from fenmist.uncertainty.estimate import BudgetRow, Estimate, joined
from fenmist.uncertainty.influence import FloatArray, Inputs
from fenmist.uncertainty.propagation import propagate
from fenmist.uncertainty.whatif import with_known
from fenmist.units.level import DB_PER_NEPER

ONE_SIDED = 0.95
"""Probability with which a loss that can't be seen is smaller than what is stated (handbook 7)."""

THROUGH = "through"
"""Name of the leg with the part."""


@dataclass(frozen=True)
class RoundLoss:
    """One round with the part beside what the ratio is without it, in dB."""

    number: int
    direct_db: float  # 10·log10(P_behind/P_front) without it, as the instruments show it
    through_db: float

    @property
    def loss_db(self) -> float:
        """Of that round alone."""
        return self.direct_db - self.through_db


@dataclass(frozen=True)
class LossPoint:
    """What a part loses at one frequency and level."""

    point: PlanPoint  # with the part
    rounds: int
    loss_db: float  # as it came out, even below 0
    u_db: float
    k: float
    dof: float
    ratio: float  # P_behind/P_front without it
    moved_db: float  # ± by which that moved from visit to visit
    tolerance_db: float  # the most it may lose
    decision: Decision
    is_usable: bool
    drift_limit: float  # ± relative
    each: tuple[RoundLoss, ...]

    @property
    def expanded_u_db(self) -> float:
        """k·u."""
        return self.k * self.u_db

    @property
    def is_seen(self) -> bool:
        """Whether it is larger than its uncertainty; else only a bound is a fact."""
        return self.loss_db >= self.expanded_u_db

    @property
    def bound_db(self) -> float:
        """What it is smaller than with 95 % probability, one-sided; never below 0."""
        return max(self.loss_db + one_sided(ONE_SIDED, self.dof) * self.u_db, 0.0)

    @property
    def efficiency(self) -> float:
        """Part of the power that comes out."""
        return float(10.0 ** (-self.loss_db / 10.0))

    @property
    def heat_w(self) -> float:
        """What stays in it at the planned power, W; at the most that the bound allows where it can't be seen."""
        lost = self.loss_db if self.is_seen else self.bound_db
        return float(self.point.target_w * (1.0 - 10.0 ** (-lost / 10.0)))

    @cached_property
    def stated(self) -> Stated:
        """The loss as what is stated here."""
        wide = self.expanded_u_db
        ends = (self.loss_db - wide, self.loss_db + wide)
        return Stated(
            self.point, self.loss_db, ends, self.u_db, self.k, "dB", self.tolerance_db, self.decision, "linear",
            self.is_usable, self.loss_db, ends, self.tolerance_db, self.drift_limit, "dB",
        )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Worked:
    """Some groups together; columns in their order."""

    points: tuple[LossPoint, ...]
    loss: Estimate  # dB


@dataclass(frozen=True, eq=False)
class Losses(Outcome):
    """All groups that could be worked out."""

    points: tuple[LossPoint, ...]

    @cached_property
    def stated(self) -> tuple[Stated, ...]:
        """The loss at each frequency and level."""
        return tuple(item.stated for item in self.points)

    @property
    def quantities(self) -> Mapping[str, Estimate]:
        """The loss in dB."""
        worked = once(self, WHOLE, lambda: _work(self.job, self.units, self.known) if self.units else None)
        return {"loss": worked.loss} if worked else {}

    @cached_property
    def units(self) -> tuple[Unit, ...]:
        """Groups of which both sides were read."""
        return _units(self.readings)

    @cached_property
    def _by_group(self) -> dict[str, LossPoint]:
        return {item.point.group: item for item in self.points}

    def of(self, point_id: str) -> LossPoint | None:
        """The loss at a point or in its group, or none yet."""
        return self._by_group.get(self.job.point(point_id).group) if self.job.has_point(point_id) else None

    def budget(self, point_id: str) -> tuple[BudgetRow, ...]:
        """Budget of the loss at a point, largest share first; empty where there is none."""
        group = self.job.point(point_id).group if self.job.has_point(point_id) else ""
        here = tuple(unit for unit in self.units if unit[0].point.group == group)
        if not here:
            return ()
        worked = once(self, f"worked at {group}", lambda: _work(self.job, here, self.known))
        return worked.loss.budget(0)


def _units(found: Sequence[PointReadings]) -> tuple[Unit, ...]:
    return tuple(unit for unit in group_units(found, lambda item: item.point.leg == THROUGH) if len(unit) > 1)


def reduce(
    job: Job, phase: str = AS_FOUND, known: Mapping[str, float] = MappingProxyType({}), former: Losses | None = None
) -> Losses:
    """Work a job out as far as its readings reach.

    Parameters
    ----------
    phase : str
        As found, or as left.
    known : mapping
        What if: factors on standard uncertainties by influence id; see `with_known`.
    former : Losses, optional
        Of the same job before a change: groups whose readings didn't change are taken from it.
    """
    return reduced_again(Losses, job, phase, known, former, lambda fresh: _work(job, fresh, known), _units)


def predict(job: Job) -> tuple[Stated, ...]:
    """What a job states whose readings are those that are expected."""
    read = _units(readings_by_point(job))
    return tuple(point.stated for point in _work(job, read, {}).points) if read else ()


def _work(job: Job, read: tuple[Unit, ...], known: Mapping[str, float]) -> Worked:
    """Some groups together, one propagation for all that are read alike."""
    made, places = read_alike(read, lambda some: _work_alike(job, some, known))
    if len(made) == 1:
        return made[0]
    ordered: dict[int, LossPoint] = {}
    for one, some in zip(made, places, strict=True):
        ordered.update(zip(some.tolist(), one.points, strict=True))
    return Worked(tuple(ordered[n] for n in range(len(read))), joined([one.loss for one in made], places))


@dataclass(frozen=True, eq=False)
class _Leg:
    """One leg of n groups: what is read in front and behind."""

    references: References
    behind: tuple[Kind, PlaneRef]  # where the second instrument takes its power in
    sides: tuple[str, str]  # channels: in front, behind

    def log_ratio(self, x: Mapping[str, FloatArray]) -> FloatArray:
        """ln(P_behind/P_front), the part of it that two matches make of what comes through taken out."""
        made = each_reference(self.references)(x)
        named = {mean.channel: made[log_of(mean)] for mean in self.references.means}
        front, back = (named[name] for name in self.sides)
        (arrives,) = self.references.bench.per_watt(x, (self.behind,), self.references.stated)
        log = back - front + np.log(arrives)
        kind, plane = self.behind
        for item in self.references.bench.mismatches.get((kind, plane.element, plane.port), ()):
            log = log - np.log1p(np.clip(x[item.id], -0.9, None))
        return np.asarray(log)


def _work_alike(job: Job, read: tuple[Unit, ...], known: Mapping[str, float]) -> Worked:
    """Groups that read the same channels on the same hook-ups."""
    through = [unit[0] for unit in read]
    direct = [together(unit[1:]) for unit in read]
    legs, influences, limits = [], [], []
    for leg, some in ((THROUGH, through), ("direct", direct)):
        mean = scatter(job, tuple(some))
        hookup = job.hookup(some[0].point.hookup)
        behind = (Kind.INCIDENT, _taken_in(job, hookup.id))
        references = references_at(job, some, mean, (behind,))
        legs.append(_Leg(references, behind, _sides(job, hookup.id)))
        influences.append((leg, (*references.influences, *round_influences(references, mean))))
        limits.append(mean.drift_limit)
    shared = joined_legs(influences, _own(legs[0].references.bench))
    moved = np.array([half_moved(unit[1:], lambda leg: _mean_ratio(job, leg)) for unit in read])
    inputs = Inputs((*shared.influences, *between_visits(moved, "ratio of both instruments")))
    inputs = with_known(inputs, known)

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        with_it, without = legs[0].log_ratio(shared.of(0, x)), legs[1].log_ratio(shared.of(1, x))
        log = np.clip(without - with_it + x.get(BETWEEN, 0.0), -LOG_CLIP, LOG_CLIP)
        return {"loss": DB_PER_NEPER * log, "direct": without}

    outputs: dict[str, tuple[Measurand | str, str]] = {
        "loss": ("insertion loss", "dB"), "direct": ("ln(P_behind/P_front)", ""),
    }  # fmt: skip
    made = propagate(model, inputs, outputs)
    limit = np.maximum(*limits)
    trusted = np.all([np.all(leg.references.trusted(job.method.parameters), axis=0) for leg in legs], axis=0)
    return Worked(
        tuple(
            _point(job, unit, made, n, float(moved[n]), float(limit[n]), bool(trusted[n]))
            for n, unit in enumerate(read)
        ),
        made["loss"],
    )


def _own(bench: Transfer) -> Callable[[str], bool]:
    """Whether an influence is another one with the part than without it: scatter, drift, and what faces across it."""
    names = [stop.element for stop in bench.main]
    front = set(names[: names.index(bench.hookup.stated.element)])
    faces_it = {f"{bench.elements[name].name}{LEAK}" for name in front}
    front |= {stop.element for (on, _), hung in bench.sides.items() if on in front for stop in hung}

    def is_own(name: str) -> bool:
        near, facing, far = name.partition("~")
        across = bool(facing) and near.split(".")[0] in front and far.split(".")[0] not in front
        return across or name in faces_it or name.startswith("repeat") or ".drift" in name

    return is_own


def _taken_in(job: Job, hookup_id: str) -> PlaneRef:
    """Where what stands behind the part takes its power in: the same element on every hook-up."""
    direct = next(leg.hookup for leg in job.visits if leg.hookup != job.bench.id)
    return PlaneRef(hookup_id, job.hookup(direct).stated.element, job.hookup(direct).stated.port)


def _sides(job: Job, hookup_id: str) -> tuple[str, str]:
    """Channels of a hook-up: in front of the part, and behind it."""
    front, back = (item.id for item in job.channels if item.hookup == hookup_id)
    return front, back


def _mean_ratio(job: Job, found: PointReadings) -> float:
    return float(np.mean([_shown_ratio(job, found, one) for one in found.rounds]))


def _shown_ratio(job: Job, found: PointReadings, one: Round) -> float:
    """ln(behind/front) as shown, a constant apart."""
    front, back = _sides(job, found.point.hookup)
    return one.log_of(back) - one.log_of(front)


def _point(
    job: Job, unit: Unit, made: Mapping[str, Estimate], n: int, moved: float, limit: float, trusted: bool
) -> LossPoint:
    loss = made["loss"]
    value, u, k = float(loss.value[n]), float(loss.u[n]), float(loss.k[n])
    most = sum(term.value for term in job.tolerances if term.kind is SpecKind.DB)
    # a loss is no smaller than nothing: of what comes out below 0 by chance the size is no fault
    decision = decide(max(value, 0.0), u, k * u, most, job.rule, trusted, _conformance(value, u, most))
    first = unit[0].point
    direct = math.exp(float(made["direct"].value[n]))
    return LossPoint(
        first, len(unit[0].rounds), value, u, k, float(loss.dof[n]), direct, DB_PER_NEPER * moved, most, decision,
        trusted, limit, _each(job, unit, value, direct),
    )  # fmt: skip


def _conformance(value: float, u: float, most: float) -> float:
    """Probability that the loss is no more than it may be (JCGM 106:2012, one-sided)."""
    return NormalDist(value, u).cdf(most) if u > 0 else float(value <= most)


def _each(job: Job, unit: Unit, loss_db: float, direct: float) -> tuple[RoundLoss, ...]:
    """Each round with the part beside the same of each visit without it, on the scale of what came of all of them."""
    shown = [[_shown_ratio(job, leg, one) for one in leg.rounds] for leg in unit]
    without = float(np.mean([value for visit in shown[1:] for value in visit]))
    base, middle = DB_PER_NEPER * math.log(direct), float(np.mean(shown[0]))
    made = []
    for place, value in enumerate(shown[0]):
        beside = float(np.mean([visit[min(place, len(visit) - 1)] for visit in shown[1:]]))
        first, second = DB_PER_NEPER * (beside - without) + base, DB_PER_NEPER * (value - middle) + base - loss_db
        made.append(RoundLoss(unit[0].rounds[place].number, first, second))
    return tuple(made)
