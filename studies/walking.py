"""Walks of machines that draw what is done next."""

from hypothesis import HealthCheck, settings
from hypothesis.stateful import RuleBasedStateMachine, run_state_machine_as_test

QUIET = (HealthCheck.too_slow, HealthCheck.data_too_large, HealthCheck.filter_too_much)


def walk(machine: type[RuleBasedStateMachine], times: int, steps: int) -> None:
    """So many walks of so many steps at most; fails as its checks do, with the shortest walk that leads there."""
    run_state_machine_as_test(
        machine,
        settings=settings(max_examples=times, stateful_step_count=steps, deadline=None, suppress_health_check=QUIET),
    )
