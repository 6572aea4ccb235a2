"""Plugging at random on the benches that a job reads, whatever its question: all of it is worked out, or refused."""

import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import HealthCheck, assume, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test

from fenmist.calibration.planning import Grid
from fenmist.errors import FenmistError, UnworkableJobError
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import SOURCES
from fenmist.procedures import benchwork
from fenmist.procedures.benches import candidates
from fenmist.procedures.shelf import devices
from fenmist.procedures.table import ROOMS, room_of
from fenmist.session.session import Session
from fenmist.session.workable import working_out
from fenmist.units.unit import UNITS

SHELF = {part.id: part for part in starter_shelf()}
READ = 24
"""Readings made at most."""

NUMBERS, PARTS = st.integers(0, 999), st.sampled_from(sorted(SHELF))
FREQUENCIES, LEVELS = st.sampled_from(("7.1", "145", "0.474", "1.8 7 28")), st.sampled_from(("10", "100", "1 5 20"))


class Plugging(RuleBasedStateMachine):
    """Somebody who plugs anything anywhere, before and after reading."""

    @initialize(question=st.sampled_from(sorted(ROOMS)), number=NUMBERS, frequencies=FREQUENCIES, levels=LEVELS)
    def begin(self, question: str, number: int, frequencies: str, levels: str) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.at = datetime(2026, 11, 29, 9, tzinfo=UTC)
        self.session = Session(Path(self.folder.name) / "log.fenlog", self.clock)
        room, kit = room_of(question), list(SHELF.values())
        asked = devices(room, kit)
        device = asked[number % len(asked)]
        benches = [bench for group in candidates(room.templates, kit, device) for bench in group]
        assume(benches)
        bench = benches[number // len(asked) % len(benches)]
        try:
            self.job = self.session.new_job("any", device.id, bench, question, Grid(frequencies, levels, rounds="1"))
        except FenmistError as error:
            assert not isinstance(error, UnworkableJobError)
            assume(False)

    def clock(self) -> datetime:
        self.at += timedelta(seconds=7)
        return self.at

    @rule(part=st.sampled_from((1.0, 0.97, 1.03)))
    def read(self, part: float) -> None:
        for slot in self.job.view.order[:READ]:
            shows = self.job.job.indicator(self.job.job.point(slot.point).sequence[slot.position])
            value = part * (self.job.expected_si(slot) or 1.0)
            self.job.get_ready(slot)
            self.job.enter(slot, f"{UNITS[shows.unit].from_si(value):.5g}")

    @rule(
        how=st.sampled_from(("insert", "hang", "exchange", "remove", "turn", "state", "switch", "switch back", "read")),
        line=NUMBERS, place=NUMBERS, part=PARTS,
    )  # fmt: skip
    def plug(self, how: str, line: int, place: int, part: str) -> None:
        job, kind = self.job.job, SHELF[part].kind
        hookup = job.hookups[line % len(job.hookups)]
        at = hookup.elements[place % len(hookup.elements)]
        is_source = job.part(at.part).kind in SOURCES
        assume(how != "hang" or kind not in SOURCES)
        assume(how != "exchange" or is_source == (kind in SOURCES))
        edits = {
            "insert": lambda: benchwork.with_inserted(job, hookup, at.id, SHELF[part]),
            "hang": lambda: benchwork.with_hung(job, hookup, at.id, SHELF[part]),
            "exchange": lambda: benchwork.with_exchanged(job, hookup, at.id, SHELF[part]),
            "remove": lambda: benchwork.with_removed(job, hookup, at.id),
            "turn": lambda: benchwork.with_turned(job, hookup, at.id),
            "state": lambda: benchwork.with_stated(job, hookup, at.id),
            "switch": lambda: benchwork.with_switched(job, hookup, at.id),
            "switch back": lambda: benchwork.with_switched(job, hookup, at.id, -1),
            "read": lambda: benchwork.with_read(job, hookup, at.id),
        }
        try:
            self.job.edit(edits[how](), how)
        except FenmistError as error:
            assert not isinstance(error, UnworkableJobError), error.headline
            assert error.headline.endswith(".") and error.hint.endswith(".")

    @rule()
    def undo(self) -> None:
        self.job.commands.undo()

    @rule()
    def redo(self) -> None:
        self.job.commands.redo()

    @invariant()
    def it_is_worked_out(self) -> None:
        if not hasattr(self, "job"):
            return
        view = self.job.view
        with working_out("any"):
            assert view.at_once.readings and view.result.readings
            assert view.page.headings
            _ = view.notes, view.unserved
            for slot in view.order:
                self.job.expected_si(slot)
        for channel in view.job.channels:
            hookup = view.job.hookup(channel.hookup)
            assert channel.measurand.plane.element in {item.id for item in hookup.elements}

    def teardown(self) -> None:
        if hasattr(self, "session"):
            self.session.close()
            self.folder.cleanup()


QUIET = (HealthCheck.too_slow, HealthCheck.data_too_large, HealthCheck.filter_too_much)


def test_whatever_is_plugged_is_worked_out_or_refused_in_words():
    run_state_machine_as_test(
        Plugging, settings=settings(max_examples=8, stateful_step_count=8, deadline=None, suppress_health_check=QUIET)
    )


@pytest.mark.long
def test_whatever_is_plugged_a_thousand_times_is_worked_out_or_refused_in_words():
    run_state_machine_as_test(
        Plugging,
        settings=settings(max_examples=400, stateful_step_count=12, deadline=None, suppress_health_check=QUIET),
    )
