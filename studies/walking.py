"""Walks of machines that draw what is done next."""

import tempfile
from datetime import datetime, timedelta

from hypothesis import HealthCheck, settings
from hypothesis.stateful import RuleBasedStateMachine, rule, run_state_machine_as_test

from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session

QUIET = (HealthCheck.too_slow, HealthCheck.data_too_large, HealthCheck.filter_too_much)


class AnyOrder(RuleBasedStateMachine):
    """Somebody in front of a job of a logbook of their own, by a clock that goes on at each look."""

    folder: tempfile.TemporaryDirectory[str]
    at: datetime
    session: Session
    job: OpenJob

    def clock(self) -> datetime:
        self.at += timedelta(seconds=7)
        return self.at

    @rule()
    def undo(self) -> None:
        self.job.commands.undo()

    @rule()
    def redo(self) -> None:
        self.job.commands.redo()

    def teardown(self) -> None:
        if hasattr(self, "session"):
            self.session.close()
            self.folder.cleanup()


def walk(machine: type[RuleBasedStateMachine], times: int, steps: int) -> None:
    """So many walks of so many steps at most; fails as its checks do, with the shortest walk that leads there."""
    run_state_machine_as_test(
        machine,
        settings=settings(max_examples=times, stateful_step_count=steps, suppress_health_check=QUIET),
    )
