"""What goes wrong is said in words, in the window; nothing that was kept is lost."""

import sys

from fenmist.desk import faults
from fenmist.errors import RecordError


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
    assert demo.session.logbook.entry_count("demo-teal") == 0
    monkeypatch.undo()
    demo.read("10.5")
    assert demo.session.logbook.entry_count("demo-teal") == 2
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
    assert demo.session.logbook.entry_count("demo-teal") == 1


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
