"""A capture as the entry of a reading: fitted, kept with its file, open where it can't be trusted."""

import pytest

from fenmist.calibration.edit import plan_with_cell
from fenmist.errors import FenmistError, UnknownIdError
from fenmist.reading.event import Slot
from fenmist.session.captures import CaptureRequest, opened
from fenmist.session.present import trace_facts
from fenmist.session.session import Session
from support.traces import write_trace

SCOPE, METER = Slot("p1", 1, 0), Slot("p1", 1, 1)


@pytest.fixture
def job(tmp_path):
    session = Session(tmp_path / "book.fenlog")
    made = session.new_job("a job")
    made.edit(plan_with_cell(made.job, 0, 0, "7.125 MHz"), "plan")
    yield made
    session.close()


def test_the_fitted_sine_is_the_reading_and_the_file_stays_with_it(job, tmp_path):
    path = write_trace(tmp_path / "trace.csv")
    found = CaptureRequest(path, expected_hz=7.125e6)()
    job.enter_trace(SCOPE, found.source, found.channel)
    entry = job.view.standing[SCOPE].entry

    assert entry.reading.value == pytest.approx(51 / 2**0.5, rel=1e-3)
    assert (entry.reading.unit, entry.reading.form) == ("Vrms", "fit")
    assert {other.unit for other in entry.reading.also} == {"Vpp", "Vrms"}
    assert (entry.origin, entry.attached_name) == ("capture", "trace.csv")
    path.unlink()
    assert job.attached_capture(entry).capture.samples == 3000


def test_a_captured_and_a_typed_reading_make_one_point(job, tmp_path):
    found = CaptureRequest(write_trace(tmp_path / "trace.csv"))()
    job.enter_trace(SCOPE, found.source, found.channel)
    job.enter(METER, "25.6")

    assert job.view.result.points[0].reference_w == pytest.approx(26.0, rel=5e-3)
    rows = job.view.result.net.budget()
    assert not any(row.influence.id.endswith("harmonic_3") for row in rows if row.share > 0)


def test_a_fit_is_better_known_than_peaks_of_the_same_screen(job, tmp_path):
    found = CaptureRequest(write_trace(tmp_path / "trace.csv"))()
    job.enter_trace(SCOPE, found.source, found.channel)
    job.enter(METER, "25.6")
    fitted = job.view.result.net
    job.enter(SCOPE, "102")
    typed = job.view.result.net

    assert fitted.u[0] / fitted.value[0] < typed.u[0] / typed.value[0]


def test_a_clipped_capture_is_kept_open_with_its_file(job, tmp_path):
    found = CaptureRequest(write_trace(tmp_path / "trace.csv", clip=45.0))()
    job.enter_trace(SCOPE, found.source, found.channel)
    entry = job.view.standing[SCOPE].entry

    assert entry.reading is None
    assert "clipped" in entry.why_open
    assert job.attached_capture(entry).name == "trace.csv"
    assert "entry.open" in [note.code for note in job.view.notes]


def test_a_capture_of_another_frequency_than_the_point_is_kept_open(job, tmp_path):
    found = CaptureRequest(write_trace(tmp_path / "trace.csv", frequency_hz=14.2e6))()
    job.enter_trace(SCOPE, found.source, found.channel)

    assert "not 7.125" in job.view.standing[SCOPE].entry.why_open


def test_undo_strikes_it_and_redo_brings_it_back(job, tmp_path):
    found = CaptureRequest(write_trace(tmp_path / "trace.csv"))()
    job.enter_trace(SCOPE, found.source, found.channel)
    job.commands.undo()
    assert SCOPE not in job.view.standing

    job.commands.redo()

    assert job.view.standing[SCOPE].entry.attached


def test_a_typed_entry_has_no_capture(job):
    job.enter(SCOPE, "102")

    with pytest.raises(UnknownIdError):
        job.attached_capture(job.view.standing[SCOPE].entry)


def test_the_channel_with_the_carrier_is_chosen_and_another_can_be(tmp_path):
    found = CaptureRequest(write_trace(tmp_path / "trace.csv", two=True), expected_hz=7.125e6)()

    assert found.channel == "CH1"
    assert not found.on("CH2", 7.125e6).trace.usable
    assert found.on("CH1").trace.usable


def test_facts_of_a_trace_stand_with_their_units(tmp_path):
    facts = dict(trace_facts(CaptureRequest(write_trace(tmp_path / "trace.csv"))()))

    assert facts["frequency"].endswith("MHz")
    assert facts["fitted rms"].endswith("V")
    assert "dBc" in facts["harmonics"]


def test_what_cannot_be_fitted_says_why(tmp_path):
    source = CaptureRequest(write_trace(tmp_path / "trace.csv", samples=60))().source
    found = opened(source)

    assert found.trace is None
    assert "too short" in found.problem
    assert trace_facts(found) == []


@pytest.mark.parametrize("fields", [{"step": "many"}, {"volts_per_count": "4 W"}])
def test_what_is_said_of_a_file_must_be_readable(tmp_path, fields):
    with pytest.raises(FenmistError):
        CaptureRequest(write_trace(tmp_path / "trace.csv"), **fields)()
