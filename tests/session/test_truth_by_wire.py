"""Truth by the simulated bench: a job is planned, read through the wire and reduced; its U holds what it says.

Every hidden truth is drawn within what is stated, so rectangular shares make coverage exceed 95.45 %
(docs/method/coverage.md).
"""

import math

import numpy as np
import pytest

from fenmist.session.session import Session
from fenmist.simulation.scenarios import scenario
from studies.by_wire import RUNS, errors


@pytest.fixture(scope="module")
def session(tmp_path_factory):
    made = Session(tmp_path_factory.mktemp("wire") / "log.fenlog", first_kit=scenario("live").parts())
    yield made
    made.close()


@pytest.mark.parametrize(("room", "name"), RUNS, ids=str)
def test_what_is_stated_holds_the_truth(session, room, name):
    found = errors(session, room, name, range(2))

    assert np.all(np.isfinite(found))
    assert np.mean(np.abs(found) <= 1.0) >= 0.8


@pytest.mark.long
@pytest.mark.parametrize(("room", "name"), RUNS, ids=str)
def test_coverage_is_as_predicted_and_a_control_fails(session, room, name):
    """One point of each of 150 benches counts: those of one bench share their errors."""
    found = errors(session, room, name, range(150))[:, 0 if room == "modulation" else -1]
    hits = np.mean(np.abs(found) <= 1.0)
    spread = 3.0 * math.sqrt(0.9545 * 0.0455 / found.size)

    assert hits >= 0.9545 - spread
    assert np.std(found) > 0.3  # not a U so large that it says nothing
    assert np.mean(np.abs(found) <= 0.4) < 0.9545 - spread  # a U of two fifths would not hold
