"""The demonstration: made by the code that users run, its truth known."""

import math

import pytest

from fenmist.demo.world import BENCH, WORKSHOP, make_demo, true_bittern_error_db
from fenmist.reading.event import struck
from fenmist.session.session import Session


@pytest.fixture(scope="module")
def session(tmp_path_factory):
    path = tmp_path_factory.mktemp("demo") / "demo.fenlog"
    make_demo(path)
    made = Session(path)
    yield made
    made.close()


@pytest.fixture(scope="module")
def bittern(session):
    return session.open("demo-bittern")


def test_it_is_marked_and_has_a_read_job_and_one_to_try(session):
    assert session.is_demo
    assert session.workshop == WORKSHOP
    assert {job.id: job.points_read for job in session.summaries()} == {"demo-bittern": 12, "demo-teal": 0}


def test_every_stated_error_holds_the_truth_within_its_uncertainty(bittern):
    """12 intervals of about 95 %: at most two may miss; with shared errors they miss or hold together."""
    misses = 0
    for point in bittern.view.result.points:
        truth = 10 ** (true_bittern_error_db(point.point.frequency_hz) / 10)
        misses += abs(point.ratio - truth) > point.expanded_u_ratio

    assert misses <= 2


def test_the_wattmeter_reads_low_at_the_top_of_its_span(bittern):
    worst = min(bittern.view.result.points, key=lambda item: item.error_db)

    assert worst.point.frequency_hz == 16.42e6
    assert worst.error_db == pytest.approx(true_bittern_error_db(16.42e6), abs=0.25)


def test_a_slip_was_struck_with_its_reason_and_is_still_on_record(bittern):
    assert "misread" in struck(bittern.job.events).values()


def test_the_lead_is_what_the_notes_speak_of(bittern):
    assert "lead.stub" in [note.code for note in bittern.view.notes]


def test_the_same_demo_is_made_each_time(session, bittern, tmp_path):
    make_demo(tmp_path / "again.fenlog")
    again = Session(tmp_path / "again.fenlog")
    texts = [event.entry.raw_text for event in again.open("demo-bittern").job.events if event.entry]
    again.close()

    assert texts == [event.entry.raw_text for event in bittern.job.events if event.entry]


def test_the_truth_differs_from_what_the_workshop_believes():
    assert BENCH.scope_gain != 1.0
    assert math.isfinite(BENCH.scope_bandwidth_hz)
