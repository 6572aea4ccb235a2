"""What goes wrong is said in words, in the window; nothing that was kept is lost."""

import sys
import threading
import time
from dataclasses import replace

import shiboken6

from fenmist.desk import faults
from fenmist.errors import RecordError
from fenmist.judgement.judge import Judge
from fenmist.records.jobfile import job_to_bytes
from studies.builders import job
from support.desk import DEMO_JOBS, Hands


def test_an_error_of_the_user_is_said_in_the_foot(demo, tmp_path):
    faults.install(demo.shell.say, tmp_path / "faults.log")
    error = RecordError("The logbook can't be written.", "Free some space.")
    sys.excepthook(RecordError, error, None)

    assert demo.shell.trouble.text() == "✕ The logbook can't be written. Free some space."
    assert not (tmp_path / "faults.log").exists()


def test_a_fault_of_ours_is_logged_and_said(demo, tmp_path, capsys):
    faults.install(demo.shell.say, tmp_path / "faults.log")
    sys.excepthook(ZeroDivisionError, ZeroDivisionError("oops"), None)

    assert "oops" in (tmp_path / "faults.log").read_text()
    assert "It is logged in" in demo.shell.trouble.text()
    assert "oops" in capsys.readouterr().err


def test_a_reading_that_can_not_be_written_goes_to_the_second_folder_and_a_red_line_says_so(demo, monkeypatch):
    demo.shell.open_job("demo-teal")
    demo.press("alt+5")
    faults.install(demo.shell.say, demo.session.logbook.path.with_name("faults.log"))

    def full(*_args):
        raise RecordError("The disk is full.", "Free some space.")

    monkeypatch.setattr(demo.session.logbook, "append", full)
    demo.read("63.4")

    assert demo.shell.trouble.isVisible()
    assert "The disk is full." in demo.shell.trouble.text()
    assert demo.session.second.waiting()[0].events[-1].entry.raw_text == "63.4"
    assert demo.session.logbook.event_count("demo-teal") == 0
    monkeypatch.undo()
    demo.read("10.5")
    assert demo.session.logbook.event_count("demo-teal") == 2
    assert demo.session.second.waiting() == ()
    assert not demo.shell.trouble.isVisible()


def test_a_reading_that_can_be_kept_nowhere_stays_in_its_field(demo, monkeypatch):
    demo.shell.open_job("demo-teal")
    demo.press("alt+5")
    faults.install(demo.shell.say, demo.session.logbook.path.with_name("faults.log"))

    def full(*_args):
        raise RecordError("The disk is full.", "Free some space.")

    monkeypatch.setattr(demo.session.logbook, "append", full)
    monkeypatch.setattr(demo.session.second, "append", full)
    demo.read("63.4")

    assert demo.shell.trouble.isVisible()
    assert demo.shell.bench.step_at(4).rows[0].field.text() == "63.4"
    monkeypatch.undo()
    demo.press("enter")
    assert demo.session.logbook.event_count("demo-teal") == 1


def test_while_a_worker_runs_the_collector_rests_and_then_it_runs_again(qt):
    """Widgets in cycles must be lost in the window's thread: the collector runs in whatever thread allocates."""
    import gc

    from fenmist.desk.runner import JobRunner

    seen = []
    runner = JobRunner()
    runner.answered.connect(seen.append)
    runner.start(gc.isenabled)
    runner.wait()
    assert seen == [False]
    assert gc.isenabled()

    def refuse():
        raise RecordError("No.", "Never.")

    runner.refused.connect(seen.append)
    runner.start(refuse)
    runner.wait()

    assert isinstance(seen[-1], RecordError)
    assert gc.isenabled()


def test_nothing_is_collected_in_the_thread_of_a_worker(qt):
    """Not even between its first step and what it does: a worker allocates before a line of its own is run."""
    import gc

    from fenmist.desk.runner import JobRunner

    seen = set()

    def note(_phase, _info):
        seen.add(threading.get_ident())

    runner, often = JobRunner(), gc.get_threshold()
    gc.callbacks.append(note)
    gc.set_threshold(1)
    try:
        for _ in range(50):
            runner.start(lambda: [[] for _ in range(10)])
            while not gc.isenabled():
                qt.processEvents()
    finally:
        gc.set_threshold(*often)
        gc.callbacks.remove(note)

    assert seen == {threading.get_ident()}


def test_the_collector_runs_again_where_nobody_waits_for_the_worker_any_more(qt):
    """A page that is gone while its work runs: the collector rested for good, and memory grew."""
    import gc

    from fenmist.desk.runner import COLLECTOR, JobRunner

    gone, may_end = JobRunner(), threading.Event()
    gone.start(may_end.wait)
    while gc.isenabled():
        time.sleep(0.01)
    COLLECTOR.go_on()  # a start that is done meanwhile
    assert not gc.isenabled()
    threading.Timer(0.1, may_end.set).start()
    shiboken6.delete(gone)  # waits for what runs
    assert not gc.isenabled()
    while not gc.isenabled():
        qt.processEvents()
    gc.disable()
    COLLECTOR.go_on()
    assert gc.isenabled()


def spoiled(demo):
    """A job that no gate has seen, in the open logbook."""
    made = demo.session.logbook.job("demo-bittern-2022")
    events = tuple(replace(event, id=f"x{number}") for number, event in enumerate(made.events))
    demo.session.logbook.add_job(replace(made, id="spoiled", title="Spoiled", kit=(), events=events))


def test_a_job_that_can_not_be_worked_out_is_listed_with_its_reason_and_handed_over(demo, tmp_path):
    spoiled(demo)
    demo.press("ctrl+4")
    book = demo.shell.logbook
    row = next(row for row in range(book.table.rowCount()) if book.table.texts(row)[1] == "Spoiled")
    assert "✕ This job can't be worked out" in book.table.texts(row)[5]
    assert book.headline.text() == (
        f"{DEMO_JOBS + 1} jobs in the logbook, 3 of them not read to the end; one job can't be worked out."
    )

    book.table.setCurrentCell(row, 0)
    assert "has no part" in book.history.text()
    book.table.setFocus()
    demo.press("enter")
    assert demo.shell.trouble.isVisible()
    assert demo.shell.bench is None
    assert demo.shell.stack.page is book

    book.path.setText(str(tmp_path / "s.fenjob.json"))
    demo.click(book.hand_over_button)
    assert (tmp_path / "s.fenjob.json").exists()

    demo.shell.open_job("demo-teal")
    assert demo.shell.bench.job.job.id == "demo-teal"


def test_taking_in_can_be_cancelled_and_shows_how_far_it_is(demo, tmp_path):
    book = demo.shell.logbook
    demo.shell.go("logbook")
    long = tmp_path / "long.json"
    made = job([[("102", "25.6")] * 3] * 120, frequencies_hz=[3e6 + 1e5 * n for n in range(120)])
    long.write_bytes(job_to_bytes(made, lambda _: b""))

    book.take_in(long)
    book.take_in(tmp_path / "next.json")
    demo.until(lambda: "Checking long.json" in book.said.text())
    assert book.cancel_button.isVisible()
    book.table.setFocus()
    demo.press("esc")
    demo.until(lambda: not book.intake.is_busy)

    assert "was cancelled" in book.said.text()
    assert not book.cancel_button.isVisible()
    assert book.table.rowCount() == DEMO_JOBS


def test_what_the_opening_found_is_said_wherever_the_work_goes_on(qt, demo_file, tmp_path):
    path = tmp_path / "demo.fenlog"
    data = bytearray(demo_file.read_bytes())
    data[18:20] = b"\x02\x02"  # as a crash leaves it, its log gone
    path.write_bytes(data)
    hands = Hands(qt, path)
    hands.shell.open_job("demo-teal")
    hands.close()
    path.write_bytes(path.read_bytes()[:18] + b"\x02\x02" + path.read_bytes()[20:])

    again = Hands(qt, path)

    assert again.shell.bench is not None
    assert again.shell.trouble.isVisible()
    assert "log demo.fenlog-wal is missing" in again.shell.trouble.text()
    again.close()


def test_a_job_stands_before_its_notes_and_one_whose_rules_fail_ends_in_the_list(demo, monkeypatch):
    demo.shell.open_job("demo-bittern")
    bench = demo.shell.bench
    certificate = bench.route.items[-1]
    assert bench.is_behind and not bench.margin.views
    assert (certificate.state.fill, certificate.state.needs) == (0.5, "")  # nobody knows whether a note waits
    demo.settle()
    assert {view.note.code for view in bench.margin.views} <= {note.code for note in bench.job.view.notes} != set()
    assert (certificate.state.fill, certificate.state.needs) == (0.5, "1 unanswered")

    def fails(*_):
        yield ()
        raise OverflowError("too large")

    monkeypatch.setattr(Judge, "one_by_one", fails)
    demo.shell.open_job("demo-dunlin")
    assert demo.shell.here == "bench"
    demo.settle()
    demo.until(lambda: demo.shell.bench is None)
    assert demo.shell.here == "logbook"
    assert demo.shell.trouble.text().startswith("✕ “Dunlin")
    assert "can't be worked out: too large (OverflowError)." in demo.shell.trouble.text()
    assert demo.session.open_job is None and demo.session.remembered() is None
    monkeypatch.undo()
    demo.shell.open_job("demo-dunlin")
    demo.settle()
    assert demo.shell.bench.margin.views
