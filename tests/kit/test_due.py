"""When equipment is due."""

from dataclasses import replace
from datetime import date

import pytest

from fenmist.kit import shelf
from fenmist.kit.due import State, due
from fenmist.kit.part import CalibrationRecord

SCOPE = shelf.oscilloscope("s", "Sedge", 100e6)


@pytest.mark.parametrize(
    ("until", "state", "days"),
    [("2027-03-12", State.FINE, 107), ("2027-01-24", State.DUE, 60), ("2027-01-25", State.FINE, 61),
     ("2026-11-25", State.DUE, 0), ("2026-11-24", State.OVERDUE, -1), ("", State.UNKNOWN, 0)],
)  # fmt: skip
def test_state_follows_from_the_date_alone(until, state, days):
    part = replace(SCOPE, history=(CalibrationRecord("2026-03-12", "room", until),))

    found = due(part, date(2026, 11, 25))

    assert (found.state, found.days) == (state, days)


def test_the_latest_comparison_counts_not_the_last_typed():
    history = (
        CalibrationRecord("2026-03-12", "room", "2028-03-12"),
        CalibrationRecord("2020-01-01", "x", "2021-01-01"),
    )

    assert due(replace(SCOPE, history=history), date(2026, 11, 25)).state is State.FINE


def test_without_a_history_a_scope_is_unknown_and_a_tee_needs_none():
    assert due(SCOPE, date(2026, 11, 25)).state is State.UNKNOWN
    assert due(shelf.tee("t", "tee"), date(2026, 11, 25)).state is State.NOT_NEEDED
