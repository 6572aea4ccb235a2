"""A job with what follows from it: results, notes, reading order, key-downs; worked out once per change, when asked."""

from collections.abc import Iterator, Mapping, Set
from dataclasses import replace
from datetime import date, datetime
from functools import cached_property
from types import MappingProxyType
from typing import Any, cast

from fenmist.calibration.again import TO_DRAW
from fenmist.calibration.beside import hand_on, keep, made_so_far, once
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.keydown import Carrier, Inferred, inferred
from fenmist.calibration.outcome import Outcome
from fenmist.calibration.planning import cannot_serve
from fenmist.findings.note import Note
from fenmist.frozen import dataclass
from fenmist.procedures.page import ResultPage
from fenmist.procedures.procedure import Procedure, Seen
from fenmist.procedures.table import procedure_of
from fenmist.reading.event import AS_FOUND, AS_LEFT, Slot
from fenmist.reading.ledger import Standing


@dataclass(frozen=True, eq=False)
class View:
    """The job with what follows from it; worked out once per change, when first asked for."""

    job: Job
    as_of: datetime
    phase: str = AS_FOUND  # whose readings are in hand
    former: Outcome | None = None  # before the last change: only what changed is worked out again
    former_keyed: Inferred | None = None
    most: int | None = None  # points that are drawn when results are asked for, the others later on; none for all

    @property
    def procedure(self) -> Procedure[Any]:
        """The room that answers the job's question."""
        return procedure_of(self.job)

    @property
    def result(self) -> Outcome:
        """Results of the phase in hand."""
        return once(self, "result", lambda: self._reduced(self.phase, former=self.latest, most=self.most))

    @property
    def at_once(self) -> Outcome:
        """The same without waiting: where readings changed nothing is drawn yet, all is to first order."""
        known = made_so_far(self, "result")
        return cast(Outcome, known) if known is not None else once(self, "at once", self._made_at_once)

    def _made_at_once(self) -> Outcome:
        work = self.procedure.in_steps
        return self.result if work is None else work(self.job, self.phase, {}, self.former, 0)

    def _reduced(
        self, phase: str, known: Mapping[str, float] = MappingProxyType({}), former: Outcome | None = None,
        most: int | None = None,
    ) -> Outcome:  # fmt: skip
        some = self.procedure.in_steps
        if some is None or most is None:
            return cast(Outcome, self.procedure.reduce(self.job, phase, known, former))
        return cast(Outcome, some(self.job, phase, known, former, most))

    @cached_property
    def to_draw(self) -> int:
        """Points whose turn to be drawn is still to come: what is stated of them is to first order."""
        return 0 if self.most is None else sum(item.engine == TO_DRAW for item in self.result.stated)

    def further(self) -> "View":
        """The same view with some more of its points drawn."""
        return self._drawn(self.most)

    @property
    def whole(self) -> "View":
        """The same view with all of its points drawn: what is stated for good."""
        return once(self, "whole", lambda: self._drawn(None)) if self.to_draw else self

    def _drawn(self, most: int | None) -> "View":
        made = replace(self, former=self.result, most=most)
        hand_on(self, made, "order", "places", "rounds beyond", "keyed")
        return made

    @property
    def latest(self) -> Outcome | None:
        """What has been worked out so far, to be built on."""
        known = made_so_far(self, "result") or made_so_far(self, "at once")
        return cast(Outcome | None, known) or self.former

    def after(self, job: Job, as_of: datetime) -> "View":
        """The view of a changed job."""
        phase = self.phase if job.is_adjusted else AS_FOUND
        keyed = cast(Inferred | None, made_so_far(self, "keyed")) or self.former_keyed
        made = View(job, as_of, phase, self.latest, keyed, self.most)
        since = job.events_since(self.job)
        if since is None or job.plan is not self.job.plan or phase != self.phase:
            return made
        changed = job.points_of(since)
        rounds = keep(made, "rounds beyond", self._rounds_beyond_of(job, changed, self.rounds_beyond))
        if rounds == self.rounds_beyond:
            hand_on(self, made, "order", "places")  # reading order is the same
        return made

    def _rounds_beyond_of(self, job: Job, changed: Set[str], former: Mapping[str, int]) -> dict[str, int]:
        """The rounds beyond the plan after something changed at some points."""
        rounds = {point: number for point, number in former.items() if point not in changed}
        for point in changed:
            found = _round_beyond(job, point, self.phase)
            if found:
                rounds[point] = found
        return rounds

    @cached_property
    def found(self) -> Outcome:
        """Results as found."""
        return self.result if self.phase == AS_FOUND else self._reduced(AS_FOUND)

    @cached_property
    def left(self) -> Outcome | None:
        """Results as left, or none where nothing was adjusted."""
        if not self.job.is_adjusted:
            return None
        return self.result if self.phase == AS_LEFT else self._reduced(AS_LEFT)

    @property
    def seen(self) -> Seen[Any]:
        """The job with what came of it, as pages are made of it."""
        return Seen(self.job, self.phase, self.found, self.left)

    @cached_property
    def page(self) -> ResultPage:
        """The results of the phase in hand as a page."""
        return self.procedure.page(self.seen)

    @property
    def notes(self) -> tuple[Note, ...]:
        """All notes of the phase in hand, most severe first."""
        return once(self, "notes", lambda: self.procedure.judge(*self._judged))

    def judging(self) -> Iterator[None]:
        """The same, a rule at each step, for whoever has to look at keys in between."""
        if made_so_far(self, "notes") is not None:
            return
        judge, judged = self.procedure.judge, self._judged
        yield
        found = []
        for said in judge.one_by_one(*judged):
            found.append(said)
            yield
        keep(self, "notes", judge.said(self.job, found))

    @property
    def _judged(self) -> tuple[Job, Outcome, date, str, Outcome]:
        _ = self.keyed  # built on what was known of the carrier before
        return self.job, self.result, self.as_of.date(), self.phase, self.found

    def notes_near(self, point_id: str) -> tuple[Note, ...]:
        """Notes about the entries at a point, from it and its neighbours alone: at once, however long the plan."""
        if point_id not in self._near:
            found = self.procedure.judge_entries(self.job, self.at_once, self.phase, point_id)
            self._near[point_id] = tuple(note for note in found if note.about.startswith(f"{point_id}/"))
        return self._near[point_id]

    @cached_property
    def _near(self) -> dict[str, tuple[Note, ...]]:
        return {}

    def what_if(self, known: Mapping[str, float], point_id: str) -> Outcome:
        """The results at a point as they would be with other uncertainties; nothing is kept."""
        return self.at(point_id)._reduced(self.phase, known)

    @property
    def standing(self) -> Standing:
        """The entry that stands in each slot."""
        return self.job.standing

    def slots(self, point: PlanPoint) -> tuple[Slot, ...]:
        """All slots of a point in reading order, with rounds beyond the plan that hold entries."""
        rounds = max(point.repeats, self.rounds_beyond.get(point.id, 0))
        return tuple(
            Slot(point.id, number, position, self.phase)
            for number in range(1, rounds + 1)
            for position in range(len(point.sequence))
        )

    @property
    def unserved(self) -> Mapping[str, str]:
        """Points that can't be measured, with the reason."""
        return cannot_serve(self.job)

    @property
    def keyed(self) -> Inferred:
        """The carrier as the record tells."""
        return once(self, "keyed", lambda: inferred(self.job, self.former_keyed))

    @property
    def carrier(self) -> Carrier:
        """The carrier as the record tells."""
        return self.keyed.carrier

    @cached_property
    def _narrowed(self) -> dict[str, "View"]:
        return {}

    def at(self, point_id: str) -> "View":
        """The view of a point's group alone: what stands there and what comes of it, at once, however long the plan."""
        if point_id not in self._narrowed:
            group = self.job.group_of(point_id)
            events = tuple(event for point in group for event in self.job.ledger.at(point.id).values())
            self._narrowed[point_id] = View(self.job.narrowed(group, events), self.as_of, self.phase)
        return self._narrowed[point_id]

    @property
    def rounds_beyond(self) -> dict[str, int]:
        """The highest round that holds an entry beyond what is planned, by point."""
        return once(self, "rounds beyond", lambda: self._rounds_beyond_of(self.job, {p.id for p in self.job.plan}, {}))

    @property
    def order(self) -> tuple[Slot, ...]:
        """All slots of the plan in reading order."""
        return once(self, "order", lambda: tuple(slot for point in self.job.plan for slot in self.slots(point)))

    @property
    def _places(self) -> dict[Slot, int]:
        return once(self, "places", lambda: {slot: place for place, slot in enumerate(self.order)})

    def place_of(self, slot: Slot) -> int:
        """Where a slot stands in reading order; raises KeyError."""
        return self._places[slot]

    def resume_slot(self) -> Slot | None:
        """Where the run goes on: after the entry made last, at the first empty slot where none was."""
        last = next((e.entry.slot for e in reversed(self.job.events) if e.entry is not None), None)
        if last is None or last not in self._places or last.phase != self.phase:
            return self.next_slot()
        order, here = self.order, self._places[last]
        later = (*order[here + 1 :], *order[: here + 1])
        return next((slot for slot in later if slot not in self.standing and self.job.is_wanted(slot)), None)

    def next_slot(self) -> Slot | None:
        """The first slot of the plan that holds nothing."""
        return next((slot for slot in self.order if slot not in self.standing and self.job.is_wanted(slot)), None)


def _round_beyond(job: Job, point_id: str, phase: str) -> int:
    """The highest round of a point that holds an entry beyond what is planned; 0 where none does."""
    if not job.has_point(point_id):
        return 0
    highest = max((slot.round for slot in job.ledger.at(point_id) if slot.phase == phase), default=0)
    return highest if highest > job.point(point_id).repeats else 0
