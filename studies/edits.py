"""Any sequence of commands: nothing entered is lost, and what is shown is what working it out from scratch gives."""

import tempfile
from collections import Counter
from dataclasses import replace
from datetime import datetime, timedelta, timezone
from pathlib import Path

import pytest
from hypothesis import strategies as st
from hypothesis.stateful import (
    initialize,
    invariant,
    precondition,
    rule,
)

from fenmist.calibration.edit import with_rounds
from fenmist.calibration.job import Job
from fenmist.calibration.planning import with_block
from fenmist.errors import FenmistError
from fenmist.kit.generic import starter_shelf
from fenmist.procedures.comparison.make import cross_check, plan_points
from fenmist.procedures.comparison.reduction import Result, reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.reading.event import EventKind, Slot
from fenmist.session.session import Session
from studies.walking import AnyOrder

TYPED = (
    "200", "199.5 Vpp", "70.7 Vrms", "1,250", "20.0", "2000", "99", "100", "9.9", "990", "98.7", "below 0.5", "abc",
    "80/2",
)  # fmt: skip
TEXTS = st.sampled_from(TYPED)


class Edits(AnyOrder):
    """A technician who does anything in any order."""

    @initialize()
    def begin(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.at = datetime(2026, 11, 25, 9, tzinfo=timezone(timedelta(hours=1)))
        self.path = Path(self.folder.name) / "log.fenlog"
        self.session = self._open()
        plan = plan_points([7e6, 14e6, 21e6], [100.0], "200", repeats=2)
        self.session.logbook.add_job(cross_check("job", "any", starter_shelf(), plan, created_at=self.clock()))
        self.job = self.session.open("job")
        self.entered: Counter[str] = Counter()

    def _open(self) -> Session:
        return Session(self.path, self.clock, second_folder=Path(self.folder.name))

    def slots(self) -> list[Slot]:
        return [slot for point in self.job.job.plan for slot in self.job.view.slots(point)]

    @rule(place=st.integers(0, 40), text=TEXTS)
    def enter(self, place: int, text: str) -> None:
        slots = self.slots()
        slot = slots[place % len(slots)]
        if place % 3 == 0:
            self.job.begin_entry(slot)
        assert self.job.draft(slot, text).result.readings
        self.job.enter(slot, text)
        self.entered[text] += 1

    @precondition(lambda self: self.job.view.standing)
    @rule(place=st.integers(0, 40), what=st.sampled_from(("strike", "doubt")))
    def mark(self, place: int, what: str) -> None:
        standing = list(self.job.view.standing)
        getattr(self.job, what)(standing[place % len(standing)], "why not")

    @rule(place=st.integers(0, 40))
    def skip(self, place: int) -> None:
        slots = self.slots()
        self.job.skip(slots[place % len(slots)], "no time")

    @rule()
    def carrier(self) -> None:
        self.job.switch_carrier(None)

    @rule(place=st.integers(0, 2), rounds=st.integers(1, 3))
    def rounds(self, place: int, rounds: int) -> None:
        self.job.edit(with_rounds(self.job.job, f"p{place + 1}", rounds), "rounds")

    @rule(place=st.integers(0, 2), reason=st.sampled_from(("", "no permission")))
    def block(self, place: int, reason: str) -> None:
        try:
            self.job.edit(with_block(self.job.job, f"p{place + 1}", reason), "block")
        except FenmistError:
            return

    @rule(value=st.sampled_from((0.02, 0.05, 0.1)))
    def tolerance(self, value: float) -> None:
        self.job.edit(replace(self.job.job, tolerance=replace(self.job.job.tolerance, value=value)), "tolerance")

    @rule(value=st.sampled_from((0.25, 0.5)))
    def division(self, value: float) -> None:
        self.job.edit(replace(self.job.job, part_of_division=value), "division")

    @precondition(lambda self: self.job.view.found.points)
    @rule()
    def adjust(self) -> None:
        self.job.begin_as_left()

    @rule(phase=st.sampled_from(("as found", "as left")))
    def look(self, phase: str) -> None:
        self.job.show_phase(phase)

    @precondition(lambda self: self.job.view.notes)
    @rule(text=st.sampled_from(("checked", "")))
    def answer(self, text: str) -> None:
        self.job.answer(self.job.view.notes[0], text)

    @precondition(lambda self: self.job.commands.undo_label)
    @rule()
    def undo_and_redo_leads_back(self) -> None:
        before = self.job.job
        self.job.commands.undo()
        self.job.commands.redo()
        assert _texts(self.job.job) == _texts(before)
        assert replace(self.job.job, events=()) == replace(before, events=())
        assert set(self.job.job.skipped) == set(before.skipped)

    @rule()
    def reopen(self) -> None:
        """As after a crash: what is in memory is gone, what is on disk stays."""
        before = self.job.job
        self.session.close()
        self.session = self._open()
        self.job = self.session.open("job")
        assert self.job.job == before

    @invariant()
    def nothing_entered_is_lost(self) -> None:
        kept = Counter(e.entry.raw_text for e in self.job.job.events if e.kind is EventKind.ENTER and e.entry)
        assert kept == self.entered
        assert self.session.logbook.event_count("job") == len(self.job.job.events)

    @invariant()
    def what_is_shown_is_what_scratch_gives(self) -> None:
        view, shown = self.job.view, self.job.view.result
        assert isinstance(shown, Result)
        scratch = reduce(view.job, view.phase)
        assert [item.point.id for item in shown.points] == [item.point.id for item in scratch.points]
        assert (shown.missing, shown.wanted) == (scratch.missing, scratch.wanted)
        for one, other in zip(shown.points, scratch.points, strict=True):
            assert one.error_w == pytest.approx(other.error_w, rel=1e-9, abs=1e-12)
            assert one.expanded_u_w == pytest.approx(other.expanded_u_w, rel=1e-9)
            assert one.decision.verdict is other.decision.verdict
        found = view.found if view.phase != "as found" else scratch
        assert isinstance(found, Result)
        wanted = judge(view.job, scratch, view.as_of, view.phase, found)
        assert [note.key for note in view.notes] == [note.key for note in wanted]


def _texts(job: Job) -> dict[Slot, str]:
    return {slot: event.entry.raw_text for slot, event in job.standing.items() if event.entry is not None}
