"""Polling for a long time with everything going wrong: memory flat, no wrong reading (in short: 20 seconds)."""

import pytest

from fenmist.instruments.trouble import State
from studies.soak import poll

MOST_BYTES = 400_000


@pytest.mark.parametrize("seconds", [20.0, pytest.param(7200.0, marks=pytest.mark.long)])
def test_polling_with_random_trouble_gives_no_wrong_reading_and_leaves_memory_flat(seconds):
    good, states, wrong, growth = poll(seconds)

    assert (wrong, good > 2 * seconds) == ([], True)
    assert {State.SILENT, State.HUNG_UP, State.GARBLED} <= states
    assert growth < MOST_BYTES
