"""From a job to how far steps depart from what they should be, each against one chosen step at its frequency.

    departure = ±10·log10[(P_behind/P_front) at the step / (P_behind/P_front) at the reference step]

Each P is made of its reading by the bench (`hookup.transfer`), the step's stated loss or level included: what is left
is the departure. Gains cancel; linearity, zeros, last digits, a range that changed, and the stated loss of whatever
isn't the device itself do not. Both instruments wrong alike: this can't see it. Page: docs/method/steps.md.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from types import MappingProxyType

import numpy as np

from fenmist.calibration.again import Unit, alike, reduced_again
from fenmist.calibration.answers import Answers
from fenmist.calibration.consensus import LOG_CLIP, each_reference, log_of, round_influences
from fenmist.calibration.decision import Decision, decide
from fenmist.calibration.expected import expected_si
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.legs import joined_legs
from fenmist.calibration.outcome import Stated
from fenmist.calibration.references import References, references_at
from fenmist.calibration.rounds import ChannelMean, PointReadings, readings_by_point, scatter
from fenmist.frozen import dataclass
from fenmist.kit.part import SOURCES
from fenmist.procedures.steps.make import REFERENCE_STEP
from fenmist.reading.event import AS_FOUND
from fenmist.uncertainty.estimate import BudgetRow, Estimate
from fenmist.uncertainty.influence import FloatArray, Influence, Inputs
from fenmist.uncertainty.propagation import propagate
from fenmist.uncertainty.whatif import with_known
from fenmist.units.level import DB_PER_NEPER


@dataclass(frozen=True)
class StepPoint:
    """One step at one frequency."""

    point: PlanPoint
    reference: PlanPoint  # the step that it is held against
    rounds: int
    nominal_db: float  # by which the power behind should be above the reference step's
    departure_db: float
    u_db: float
    k: float
    tolerance_db: float
    decision: Decision
    is_usable: bool
    behind_w: float  # what the instrument behind shows, as a power
    range_id: str  # on which that was read

    @property
    def is_reference(self) -> bool:
        """Whether it is the step that the others are held against."""
        return self.point.id == self.reference.id

    @property
    def expanded_u_db(self) -> float:
        """k·u."""
        return self.k * self.u_db

    @property
    def is_seen(self) -> bool:
        """Whether it departs by more than its uncertainty."""
        return abs(self.departure_db) > self.expanded_u_db

    @cached_property
    def stated(self) -> Stated:
        """The departure as what is stated here; nothing is claimed of the reference step itself."""
        ends = (self.departure_db - self.expanded_u_db, self.departure_db + self.expanded_u_db)
        tolerance, decision = (0.0, None) if self.is_reference else (self.tolerance_db, self.decision)
        return Stated(
            self.point, self.departure_db, ends, self.u_db, self.k, "dB", tolerance, decision, "linear",
            self.is_usable, self.departure_db, ends, tolerance, 0.0, "dB",
        )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Worked:
    """Some units together; columns in their order."""

    points: tuple[StepPoint, ...]
    departure: Estimate  # dB


@dataclass(frozen=True, eq=False)
class Steps(Answers[StepPoint, Worked]):
    """All steps that could be held against their reference."""

    def work(self, units: tuple[Unit, ...]) -> Worked:
        """What the engine makes of some units together."""
        return _work(self.job, units, self.known)

    @property
    def quantities(self) -> Mapping[str, Estimate]:
        """The departure in dB."""
        return {"departure": self.worked.departure} if self.worked else {}

    @cached_property
    def units(self) -> tuple[Unit, ...]:
        """Each step with its reference."""
        return step_units(self.job, self.readings)

    def budget(self, point_id: str) -> tuple[BudgetRow, ...]:
        """Budget of the departure at a point, largest share first; empty where there is none."""
        here = self.worked_at(point_id) if self.of(point_id) is not None else None
        return here.departure.budget(0) if here else ()

    def ladder(self, frequency_hz: float) -> tuple[StepPoint, ...]:
        """The steps at a frequency, the strongest first."""
        here = (item for item in self.points if item.point.frequency_hz == frequency_hz)
        return tuple(sorted(here, key=lambda item: -item.nominal_db))

    def single_step_db(self, item: StepPoint) -> float | None:
        """By how much a step alone departs: against the next stronger one; none of the strongest."""
        steps = self.ladder(item.point.frequency_hz)
        place = next(number for number, other in enumerate(steps) if other.point.id == item.point.id)
        return None if place == 0 else item.departure_db - steps[place - 1].departure_db


def sides(job: Job, hookup_id: str) -> tuple[str, str]:
    """Channels of a hook-up: in front and behind."""
    front, back = (item.id for item in job.channels if item.hookup == hookup_id)
    return front, back


def behind_w(job: Job, point: PlanPoint) -> float:
    """What the instrument behind should show at a point, W."""
    return expected_si(job, point, sides(job, point.hookup)[1]) or 0.0


def reference_of(job: Job, point: PlanPoint) -> PlanPoint:
    """The step of its frequency that a point is held against."""
    kept: dict[str, PlanPoint] = job.once("reference steps", dict)
    if point.group not in kept:
        steps = sorted(job.group_of(point.id), key=lambda item: (-behind_w(job, item), item.id))
        place = int(job.method.parameters.get(REFERENCE_STEP, 0.0))
        kept[point.group] = steps[(0, len(steps) // 2, len(steps) - 1)[place]]
    return kept[point.group]


def step_units(job: Job, found: Sequence[PointReadings]) -> tuple[Unit, ...]:
    """Each step that was read with its reference, where that was read."""
    read = {item.point.id: item for item in found if item.rounds}
    return tuple(
        (item, read[reference.id]) for item in read.values() if (reference := reference_of(job, item.point)).id in read
    )


def reduce(
    job: Job, phase: str = AS_FOUND, known: Mapping[str, float] = MappingProxyType({}), former: Steps | None = None
) -> Steps:
    """Work a job out as far as its readings reach; see `Procedure.reduce`."""
    return reduced_again(
        Steps, job, phase, known, former, lambda fresh: _work(job, fresh, known), lambda found: step_units(job, found)
    )


def predict(job: Job) -> tuple[Stated, ...]:
    """What a job states whose readings are those that are expected."""
    read = step_units(job, readings_by_point(job))
    return tuple(point.stated for point in _work(job, read, {}).points) if read else ()


def _work(job: Job, read: tuple[Unit, ...], known: Mapping[str, float]) -> Worked:
    """Some units together, one propagation for all that are read alike."""
    return alike(read, lambda some: _work_alike(job, some, known))


def _all_read(found: PointReadings) -> PointReadings:
    """Both instruments alike, whichever is the device: their ratio is what counts."""
    rounds = (replace(one, references=(*one.duts, *one.references), duts=(), at_floor=False) for one in found.rounds)
    return replace(found, rounds=tuple(rounds))


def sign_of(job: Job) -> float:
    """+1 where the device reads behind, so that it shows too much; −1 where it stands in front, or between."""
    _, back = sides(job, job.bench.id)
    return 1.0 if job.part_read(back).id == job.dut else -1.0


def _work_alike(job: Job, read: tuple[Unit, ...], known: Mapping[str, float]) -> Worked:
    """Units that read the same channels on the same hook-ups: the step, then its reference."""
    ratios: list[Callable[[Mapping[str, FloatArray]], FloatArray]] = []
    legs, found = [], []
    plain = job.once("no device", lambda: replace(job, dut="", events=()))  # both instruments are read alike
    for name, place in (("the step", 0), ("the reference step", 1)):
        some = [_all_read(unit[place]) for unit in read]
        mean = scatter(plain, tuple(some))
        references = references_at(plain, some, mean)
        ratios.append(_log_ratio(job, references, read[0][place].point.hookup))
        legs.append((name, (*references.influences, *round_influences(references, mean))))
        found.append((references, mean))
    moved = _moved_ranges(found[0][1].references, found[1][1].references, found[0][0])
    order = [stop.element for stop in found[0][0].bench.main]
    stepped = _stepped(job, read[0][0].point.hookup, read[0][1].point.hookup)
    shared = joined_legs(legs, lambda name: name.startswith(moved) or _faces(name, stepped, order))
    inputs = with_known(Inputs(tuple(_judged(job, item) for item in shared.influences)), known)
    sign = sign_of(job)

    def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
        log = ratios[0](shared.of(0, x)) - ratios[1](shared.of(1, x))
        return {"departure": sign * DB_PER_NEPER * np.clip(log, -LOG_CLIP, LOG_CLIP)}

    made = propagate(model, inputs, {"departure": ("departure of the step", "dB")})["departure"]
    is_self = np.array([unit[0] is unit[1] for unit in read])
    made = replace(
        made, value=np.where(is_self, 0.0, made.value),
        sensitivities={name: np.where(is_self, 0.0, slope) for name, slope in made.sensitivities.items()},
    )  # fmt: skip
    trusted = np.all([np.all(item.trusted(job.method.parameters), axis=0) for item, _ in found], axis=0)
    behind = next(item for item in found[0][1].references if item.channel == sides(job, read[0][0].point.hookup)[1])
    points = tuple(
        _point(job, unit, made, n, bool(trusted[n]), float(behind.value[n]), behind.ranges[n])
        for n, unit in enumerate(read)
    )
    return Worked(points, made)


def _log_ratio(job: Job, references: References, hookup_id: str) -> Callable[[Mapping[str, FloatArray]], FloatArray]:
    each, names = each_reference(references), {mean.channel: log_of(mean) for mean in references.means}
    in_front, behind = (names[name] for name in sides(job, hookup_id))

    def ratio(x: Mapping[str, FloatArray]) -> FloatArray:
        made = each(x)
        return np.asarray(made[behind] - made[in_front])

    return ratio


def _moved_ranges(
    first: Sequence[ChannelMean], second: Sequence[ChannelMean], references: References
) -> tuple[str, ...]:
    """Beginnings of the names of accuracies that are another error at the step: read on another range."""
    return tuple(
        f"{indication.read.id}.gain"
        for a, b, indication in zip(first, second, references.indications, strict=True)
        if a.ranges != b.ranges
    )


def _stepped(job: Job, hookup_id: str, reference_id: str) -> frozenset[str]:
    """Elements that are set otherwise at the step than at its reference; all where other parts stand in the line."""
    here, there = (
        {item.id: (item.part, item.settings) for item in job.hookup(name).elements}
        for name in (hookup_id, reference_id)
    )
    moved = {name for name, item in here.items() if there.get(name) != item}
    return frozenset(moved if here.keys() == there.keys() else here)


def _faces(name: str, elements: frozenset[str], order: Sequence[str]) -> bool:
    """Whether an influence is of two reflections that face each other at, or across, a part that was switched."""
    near, facing, far = name.partition("~")
    if not facing:
        return False
    ends = [end.split(".")[0] for end in (near, far)]
    if not set(ends) <= set(order):
        return True  # of the other line alone
    first, last = map(order.index, ends)
    return not elements.isdisjoint(order[first : last + 1])


def _judged(job: Job, item: Influence) -> Influence:
    """What is stated of the device is what is judged: only reading it, and what it faces, is uncertain.

    What a source is set to is no reading: it is exact, and its accuracy is another thing.
    """
    reading = item.id.partition(",")[0].endswith(".reading")
    is_set = reading and item.source_id in job.parts and job.part(item.source_id).kind in SOURCES
    own = (item.source_id == job.dut and "~" not in item.id and not reading) or is_set
    return replace(item, standard_u=np.zeros_like(item.standard_u)) if own else item


def _point(job: Job, unit: Unit, made: Estimate, n: int, trusted: bool, shown_w: float, range_id: str) -> StepPoint:
    point, reference = unit[0].point, unit[1].point
    value, u, k = float(made.value[n]), float(made.u[n]), float(made.k[n])
    most = job.tolerance.value
    decision = decide(value, u, k * u, most, job.rule, trusted)
    nominal = DB_PER_NEPER * math.log(behind_w(job, point) / behind_w(job, reference))
    return StepPoint(
        point, reference, len(unit[0].rounds), nominal, value, u, k, most, decision, trusted, shown_w, range_id
    )
