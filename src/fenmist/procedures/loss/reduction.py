"""From a job to what a part loses: a ratio of ratios, with the part and without it.

    loss = −10·log10[(P_behind/P_front) through / (P_behind/P_front) direct]

Each P is made of its reading by the bench (`hookup.transfer`), so what both visits share cancels: the couplers' ratios,
the instruments' gains. What counts is what each reading has of its own, the scatter, what moved between the visits,
and the matches: what the instruments face in turn, and what the part makes of its neighbours. Stated is the loss in
matched surroundings, in dB; of a tuner that is read into several ends, what of the power goes into each. With both
instruments exchanged there is a second ratio of ratios: both are averaged in dB. Where one instrument is all there is,
the source stands for the one in front: its match, and what it did between the visits, count.
Page: docs/method/loss.md.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from statistics import NormalDist
from types import MappingProxyType

import numpy as np

from fenmist.calibration.again import Unit, alike, reduced_again
from fenmist.calibration.answers import Answers
from fenmist.calibration.consensus import (
    LOG_CLIP,
    SOURCE_REPEAT,
    each_reference,
    log_of,
    round_influences,
)
from fenmist.calibration.decision import Decision, decide
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.legs import BETWEEN, between_visits, group_units, half_moved, joined_legs, together
from fenmist.calibration.outcome import Stated
from fenmist.calibration.references import References, references_at
from fenmist.calibration.rounds import PointReadings, Round, readings_by_point, scatter
from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp, main_way
from fenmist.hookup.transfer import reflection_behind
from fenmist.kit.part import SpecKind
from fenmist.measurand import Kind, Measurand, PlaneRef
from fenmist.methods.indication import LEAK
from fenmist.procedures.loss.bench import is_through
from fenmist.reading.event import AS_FOUND
from fenmist.uncertainty.coverage import one_sided
from fenmist.uncertainty.estimate import BudgetRow, Estimate
from fenmist.uncertainty.influence import FloatArray, Influence, Inputs
from fenmist.uncertainty.propagation import propagate
from fenmist.uncertainty.whatif import with_known
from fenmist.units.level import DB_PER_NEPER

ONE_SIDED = 0.95
"""Probability with which a loss that can't be seen is smaller than what is stated (handbook 7)."""


@dataclass(frozen=True)
class RoundLoss:
    """One round with the part beside what the ratio is without it, in dB."""

    number: int
    direct_db: float  # 10·log10(P_behind/P_front) without it, as the instruments show it
    through_db: float
    is_exchanged: bool = False  # with both instruments in each other's place

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
    ratio: float | None  # P_behind/P_front without it; none where nothing is read in front
    moved_db: float  # ± by which that moved from visit to visit
    tolerance_db: float  # the most it may lose
    decision: Decision
    is_usable: bool
    drift_limit: float  # ± relative
    each: tuple[RoundLoss, ...]
    match_swr: float  # of what follows the part, as far as it is known
    into: str = ""  # what ends the line, where several do in turn: then of the power what goes into that
    apart: tuple[float, float] | None = None  # of both losses with the instruments exchanged: difference and its U, dB

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
class Losses(Answers[LossPoint, Worked]):
    """All groups that could be worked out."""

    def work(self, units: tuple[Unit, ...]) -> Worked:
        """What the engine makes of some units together."""
        return _work(self.job, units, self.known)

    @property
    def quantities(self) -> Mapping[str, Estimate]:
        """The loss in dB."""
        return {"loss": self.worked.loss} if self.worked else {}

    @cached_property
    def units(self) -> tuple[Unit, ...]:
        """Groups of which both sides were read."""
        return _units(self.job, self.readings)

    @cached_property
    def _by_group(self) -> dict[str, LossPoint]:
        return {item.point.group: item for item in self.points}

    def of(self, point_id: str) -> LossPoint | None:
        """The loss at a point or in its group, or none yet; without the part the last of those that it serves."""
        if not self.job.has_point(point_id):
            return None
        point = self.job.point(point_id)
        if into_ends(self.job) and self.job.answers_alone(point):
            return super().of(point.id)
        return self._by_group.get(point.group)

    def budget(self, point_id: str) -> tuple[BudgetRow, ...]:
        """Budget of the loss at a point, largest share first; empty where there is none."""
        found = self.of(point_id)
        here = self.worked_at(found.point.id) if found is not None else None
        return here.loss.budget(0) if here else ()


def into_ends(job: Job) -> bool:
    """Whether the part is read into several ends in turn, each with a loss of its own."""
    return any(leg.by_itself for leg in job.legs)


def _units(job: Job, found: Sequence[PointReadings]) -> tuple[Unit, ...]:
    """Each point that carries an answer with the others of its group, where it was read without the part, too."""

    def leads(item: PointReadings) -> bool:
        return item.point.hookup == job.bench.id or job.answers_alone(item.point)

    return tuple(unit for unit in group_units(found, leads) if len(unit) > 1 and _arranged(job, unit))


@dataclass(frozen=True)
class _Arranged:
    """What was read with the instruments in one order."""

    through: Unit
    direct: Unit


def _arranged(job: Job, unit: Unit) -> tuple[_Arranged, ...]:
    """What was read with the part and without it, by the order of the instruments; the first as the answer has it."""

    def order(item: PointReadings) -> tuple[str, ...]:
        return tuple(job.part_read(name).id for name in _sides(job, item.point.hookup))

    made = []
    for one in dict.fromkeys(map(order, unit)):
        some = [item for item in unit if order(item) == one]
        with_it = tuple(item for item in some if is_through(job, item.point.hookup))
        without = tuple(item for item in some if item not in with_it)
        if with_it and without:
            made.append(_Arranged(with_it, without))
        elif not made:
            return ()
    return tuple(made)


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
    return reduced_again(
        Losses, job, phase, known, former, lambda fresh: _work(job, fresh, known), lambda found: _units(job, found)
    )


def predict(job: Job) -> tuple[Stated, ...]:
    """What a job states whose readings are those that are expected."""
    read = _units(job, readings_by_point(job))
    return tuple(point.stated for point in _work(job, read, {}).points) if read else ()


def _work(job: Job, read: tuple[Unit, ...], known: Mapping[str, float]) -> Worked:
    """Some groups together, one propagation for all that are read alike."""
    return alike(read, lambda some: _work_alike(job, some, known))


@dataclass(frozen=True, eq=False)
class _Leg:
    """One leg of n groups: what is read there, and what that says of the power behind the part."""

    references: References
    behind: tuple[Kind, PlaneRef]  # incident where the power goes on, or net in the end
    offered: tuple[tuple[Kind, PlaneRef], ...]  # what comes out of the source, where nothing is read in front
    sides: tuple[str, ...]  # channels: in front and behind, or the only one

    def log_ratio(self, x: Mapping[str, FloatArray]) -> FloatArray:
        """ln(P_behind/P_front), the part of it that two matches make of what comes through taken out.

        Where nothing is read in front P_front is what the source would put there, a constant apart; what goes into an
        end is taken as it is.
        """
        made = each_reference(self.references)(x)
        named = {mean.channel: made[log_of(mean)] for mean in self.references.means}
        arrives, *offered = self.references.bench.per_watt(x, (self.behind, *self.offered), self.references.stated)
        log = named[self.sides[-1]] + np.log(arrives)
        log = log + np.log(offered[0]) + x[SOURCE_REPEAT] if offered else log - named[self.sides[0]]
        kind, plane = self.behind
        if kind is Kind.INCIDENT:
            for item in self.references.bench.mismatches.get((kind, plane.element, plane.port), ()):
                log = log - np.log1p(np.clip(x[item.id], -0.9, None))
        return np.asarray(log)


def _leg(job: Job, some: Sequence[PointReadings]) -> tuple[_Leg, tuple[Influence, ...], FloatArray]:
    """A leg, what is uncertain in it, and what the carrier's drift may leave there."""
    mean = scatter(job, tuple(some))
    hookup = job.hookup(some[0].point.hookup)
    behind, sides = _arrives_at(job, hookup), _sides(job, hookup.id)
    source = main_way(hookup, job.parts)[0]
    comes_out = (Kind.INCIDENT, PlaneRef(hookup.id, source.element, source.exit or ""))
    offered = (comes_out,) if len(sides) == 1 else ()
    references = references_at(job, some, mean, (behind, *offered))
    return (
        _Leg(references, behind, offered, sides), (*references.influences, *round_influences(references, mean)),
        mean.drift_limit,
    )  # fmt: skip


EXCHANGED = ", exchanged"
"""Behind the names of what faces each other where both instruments are exchanged: other pairs than before."""


def _work_alike(job: Job, read: tuple[Unit, ...], known: Mapping[str, float]) -> Worked:
    """Groups that read the same channels on the same hook-ups."""
    arranged = [_arranged(job, unit) for unit in read]
    legs: list[tuple[_Leg, _Leg]] = []
    influences, limits = [], []
    for place in range(len(arranged[0])):
        both = []
        for name in ("through", "direct"):
            some = [together(getattr(unit[place], name)) for unit in arranged]
            leg, found, limit = _leg(job, some)
            more = EXCHANGED if place else ""
            influences.append((f"{name}{more}", tuple(_renamed(item, more) for item in found)))
            limits.append(limit)
            both.append(leg)
        legs.append((both[0], both[1]))
    shared = joined_legs(influences, _own([leg for both in legs for leg in both]))
    moved = np.array([half_moved(unit[0].direct, lambda leg: _mean_ratio(job, leg)) for unit in arranged])
    inputs = Inputs((*shared.influences, *between_visits(moved, _what_moves(legs[0][0]))))
    inputs = with_known(inputs, known)

    def each_loss(x: Mapping[str, FloatArray]) -> tuple[list[FloatArray], FloatArray]:
        found, direct = [], np.zeros(1)
        for place, both in enumerate(legs):
            with_it, without = (
                leg.log_ratio(_by_own_name(shared.of(2 * place + number, x))) for number, leg in enumerate(both)
            )
            found.append(without - with_it)
            direct = without if place == 0 else direct
        found[0] = found[0] + x.get(BETWEEN, np.zeros(1))
        return found, direct

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        losses, direct = each_loss(x)
        log = np.clip(sum(losses, np.zeros(1)) / len(losses), -LOG_CLIP, LOG_CLIP)
        return {"loss": DB_PER_NEPER * log, "direct": direct, "apart": DB_PER_NEPER * (losses[0] - losses[-1])}

    outputs: dict[str, tuple[Measurand | str, str]] = {
        "loss": ("insertion loss", "dB"), "direct": ("ln(P_behind/P_front)", ""),
        "apart": ("difference with both exchanged", "dB"),
    }  # fmt: skip
    made = propagate(model, inputs, outputs)
    limit = np.max(limits, axis=0)
    both_of_all = [leg for both in legs for leg in both]
    trusted = np.all([np.all(leg.references.trusted(job.method.parameters), axis=0) for leg in both_of_all], axis=0)
    match = _match_behind(job, legs[0][0].references)
    return Worked(
        tuple(
            _point(job, unit, made, n, float(moved[n]), float(limit[n]), bool(trusted[n]), float(match[n]))
            for n, unit in enumerate(read)
        ),
        made["loss"],
    )


def _what_moves(leg: _Leg) -> str:
    return "ratio of both instruments" if len(leg.sides) == 2 else "the source"


def _renamed(item: Influence, more: str) -> Influence:
    """With both instruments exchanged other pairs face each other, and other waves leak."""
    return replace(item, id=f"{item.id}{more}") if more and ("~" in item.id or item.id.endswith(LEAK)) else item


def _by_own_name(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
    return {name.removesuffix(EXCHANGED): value for name, value in x.items()}


def _own(legs: Sequence[_Leg]) -> Callable[[str], bool]:
    """Whether an influence is another one with the part than without it: scatter, drift, and what faces across it.

    What leaks into a meter's forward arm stays the same only where the same follows it: behind the part, before the
    same end.
    """
    fronts, leaks = [], set()
    for leg in legs:
        bench = leg.references.bench
        names = [stop.element for stop in bench.main]
        front = set(names[: names.index(bench.hookup.stated.element)])
        leaks |= {f"{bench.elements[name].name}{LEAK}" for name in front}
        if leg.behind[0] is Kind.NET:
            leaks |= {f"{bench.elements[name].name}{LEAK}" for name in names}
        fronts.append(front | {s.element for (on, _), hung in bench.sides.items() if on in front for s in hung})

    def is_own(name: str) -> bool:
        if name.removesuffix(EXCHANGED) in leaks or name.startswith("repeat") or ".drift" in name:
            return True
        near, facing, far = name.partition("~")
        first, second = near.split(".")[0], far.split(".")[0]
        return bool(facing) and any(first in front and second not in front for front in fronts)

    return is_own


def _arrives_at(job: Job, hookup: HookUp) -> tuple[Kind, PlaneRef]:
    """Where the power goes on behind the part, or where it would without it; in the end, where ends take turns."""
    if not is_through(job, hookup.id):
        return Kind.INCIDENT, hookup.stated
    way = main_way(hookup, job.parts)
    if any(leg.by_itself and leg.hookup == hookup.id for leg in job.legs):
        return Kind.NET, PlaneRef(hookup.id, way[-1].element, way[-1].entry)
    place = next(number for number, stop in enumerate(way) if stop.element == hookup.stated.element)
    return Kind.INCIDENT, PlaneRef(hookup.id, way[place + 1].element, way[place + 1].entry)


def _sides(job: Job, hookup_id: str) -> tuple[str, ...]:
    """Channels of a hook-up: in front of the part and behind it, or the only one."""
    return tuple(item.id for item in job.channels if item.hookup == hookup_id)


def _match_behind(job: Job, references: References) -> FloatArray:
    """SWR of what follows the part, shape (n,): it is the match in which the loss was measured."""
    found = reflection_behind(references.bench, references.waves, job.bench.stated.element)
    rho = np.zeros(references.bench.frequency_hz.size) if found is None else np.minimum(found, 0.999)
    return np.asarray((1.0 + rho) / (1.0 - rho))


def _mean_ratio(job: Job, found: PointReadings) -> float:
    return float(np.mean([_shown_ratio(job, found, one) for one in found.rounds]))


def _shown_ratio(job: Job, found: PointReadings, one: Round) -> float:
    """ln(behind/front) as shown, a constant apart; of an instrument that is alone what it shows."""
    *front, back = _sides(job, found.point.hookup)
    return one.log_of(back) - sum(one.log_of(name) for name in front)


def _point(
    job: Job, unit: Unit, made: Mapping[str, Estimate], n: int, moved: float, limit: float, trusted: bool, match: float
) -> LossPoint:
    loss, apart = made["loss"], made["apart"]
    value, u, k = float(loss.value[n]), float(loss.u[n]), float(loss.k[n])
    most = sum(term.value for term in job.tolerances if term.kind is SpecKind.DB)
    # a loss is no smaller than nothing: of what comes out below 0 by chance the size is no fault
    decision = decide(max(value, 0.0), u, k * u, most, job.rule, trusted, _conformance(value, u, most))
    first, arranged = unit[0].point, _arranged(job, unit)
    is_alone = len(_sides(job, first.hookup)) == 1
    direct = 1.0 if is_alone else math.exp(float(made["direct"].value[n]))
    return LossPoint(
        first, len(unit[0].rounds), value, u, k, float(loss.dof[n]), None if is_alone else direct,
        DB_PER_NEPER * moved, most, decision, trusted, limit, _each(job, arranged, value, direct), match,
        first.leg if into_ends(job) else "",
        (float(apart.value[n]), float(apart.expanded_u[n])) if len(arranged) > 1 else None,
    )  # fmt: skip


def _each(job: Job, arranged: Sequence[_Arranged], loss_db: float, direct: float) -> tuple[RoundLoss, ...]:
    """Each round with the part beside the same of each visit without it, on the scale of what came of all of them."""
    base = DB_PER_NEPER * math.log(direct)
    shown = [
        tuple(
            [[_shown_ratio(job, leg, one) for one in leg.rounds] for leg in legs] for legs in (one.through, one.direct)
        )
        for one in arranged
    ]
    losses = [_mean_of(without) - _mean_of(with_it) for with_it, without in shown]
    off = float(np.mean(losses))
    made = []
    for number, (with_it, without) in enumerate(shown):
        rounds = [one.number for leg in arranged[number].through for one in leg.rounds]
        middle = loss_db + DB_PER_NEPER * (losses[number] - off)
        for place, value in enumerate(value for visit in with_it for value in visit):
            beside = float(np.mean([visit[min(place, len(visit) - 1)] for visit in without]))
            first = DB_PER_NEPER * (beside - _mean_of(without)) + base
            second = DB_PER_NEPER * (value - _mean_of(with_it)) + base - middle
            made.append(RoundLoss(rounds[place], first, second, number > 0))
    return tuple(made)


def _mean_of(visits: Sequence[Sequence[float]]) -> float:
    return float(np.mean([value for visit in visits for value in visit]))


def _conformance(value: float, u: float, most: float) -> float:
    """Probability that the loss is no more than it may be (JCGM 106:2012, one-sided)."""
    return NormalDist(value, u).cdf(most) if u > 0 else float(value <= most)
