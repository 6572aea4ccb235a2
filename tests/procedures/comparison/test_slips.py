"""The slips study in short: of each kind some runs with a slip, and clean ones."""

import numpy as np
import pytest

from studies import slips


@pytest.fixture(scope="module")
def job():
    return slips.empty_job()


@pytest.mark.parametrize("kind", slips.KINDS)
def test_slips_that_count_are_named(job, kind):
    """Of six of a kind at most one that counts stays unnamed; the study over a thousand stands in docs/method."""
    found = [slips.planted(kind, job, np.random.default_rng([11, slips.KINDS.index(kind), n])) for n in range(6)]
    count = [item for item in found if item.counts]

    assert sum(not item.named for item in count) <= 1
    assert sum(item.named for item in count) >= 2


def test_clean_runs_are_left_alone(job):
    runs = [slips.clean_run(job, np.random.default_rng([12, n])) for n in range(8)]

    assert sum(alarms for alarms, _ in runs) == 0
    assert sum(entries for _, entries in runs) == 8 * 40


def test_the_study_would_see_blind_notes(job, monkeypatch):
    """A control: without the rules on entries nothing is named."""
    monkeypatch.setattr(slips, "judge", lambda *_: ())
    monkeypatch.setattr(slips, "judge_entries", lambda *_: ())

    found = [slips.planted("decimal", job, np.random.default_rng([13, n])) for n in range(3)]

    assert all(item.counts and not item.named for item in found)
