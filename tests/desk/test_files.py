"""Files are opened, saved and printed through the system's own dialogs."""

import json
import threading
from pathlib import Path

import pytest
from PySide6.QtWidgets import QFileDialog, QLineEdit

from fenmist.desk import runner
from fenmist.desk.widgets.busy import Busy
from support.traces import write_trace


def _dialog(demo) -> QFileDialog:
    return next(item for item in demo.shell.findChildren(QFileDialog) if item.isVisible())


@pytest.mark.parametrize(("step", "name"), [(1, "dial"), (2, "line"), (3, "line"), (5, "error")])
@pytest.mark.parametrize("ending", [".svg", ".png"])
def test_the_drawing_in_front_is_saved_under_the_name_chosen(demo, tmp_path, step, name, ending):
    demo.shell.open_job("demo-bittern")
    demo.press(f"alt+{step}")
    demo.settle(0.3)
    demo.press("ctrl+s")
    assert not _dialog(demo).isModal()
    assert _dialog(demo).selectedFiles() == [str(Path.home() / f"Bittern-200-2026-11-23 {name}.svg")]
    demo.choose_file(tmp_path / f"drawn{ending}")

    assert demo.shell.foot.kept.text().startswith(f"written: drawn{ending}"), demo.shell.trouble.text()
    data = (tmp_path / f"drawn{ending}").read_bytes()
    assert b"<svg" in data[:400] if ending == ".svg" else data.startswith(b"\x89PNG")


def test_a_drawing_has_no_other_ending(demo, tmp_path):
    demo.press("enter", "alt+2", "ctrl+s")
    demo.choose_file(tmp_path / "drawn.pdf")

    assert "neither .svg nor .png" in demo.shell.trouble.text()


def test_the_tools_drawing_is_saved_too(demo, tmp_path):
    demo.shell.go("tools")
    demo.settle()
    demo.press("ctrl+s")
    demo.choose_file(tmp_path / "steps.svg")

    assert (tmp_path / "steps.svg").exists()


@pytest.mark.parametrize(
    ("step", "name", "begins"),
    [(4, "sheet.pdf", b"%PDF"), (4, "sheet.csv", b"\xef\xbb\xbf"), (6, "t.csv", b"\xef\xbb\xbf"),
     (6, "c.svg", b"<?xml"), (8, "page.pdf", b"%PDF")],
)  # fmt: skip
def test_a_step_saves_what_it_has(demo, tmp_path, step, name, begins):
    demo.shell.open_job("demo-dunlin")
    demo.press(f"alt+{step}")
    demo.settle(0.3)
    demo.press("ctrl+s")
    assert _dialog(demo).selectedFiles()[0].startswith(str(Path.home() / "Dunlin-60-2026-11-20"))
    demo.choose_file(tmp_path / name)
    demo.until((tmp_path / name).exists)

    assert (tmp_path / name).read_bytes().startswith(begins)


def test_a_job_is_handed_over_and_taken_in(demo, tmp_path):
    demo.press("ctrl+4", "down", "ctrl+s")
    demo.choose_file(tmp_path / "one.fenjob.json")
    title = json.loads((tmp_path / "one.fenjob.json").read_bytes())["job"]["title"]

    demo.press("ctrl+o")
    demo.choose_file(tmp_path / "one.fenjob.json")
    demo.until(lambda: not demo.shell.logbook.intake.is_busy)
    assert {job.title for job in demo.session.summaries(title)} == {f"{title} (copy)", title}


def test_a_capture_is_opened_where_one_reads(run, tmp_path):
    write_trace(tmp_path / "trace.csv")
    run.press("ctrl+o")
    run.choose_file(tmp_path / "trace.csv")
    step = run.shell.bench.step
    run.until(lambda: step.below.capture.opened is not None)

    run.click(step.below.capture.take)
    assert step.job.job.ledger.made == 1


def test_what_has_no_place_in_front_is_put_where_it_belongs(demo, tmp_path):
    """In the parts step a Touchstone file goes to the kit; a text that is nothing is refused."""
    (tmp_path / "load.s1p").write_text("# MHz S RI R 50\n1 0.01 0.0\n30 0.02 0.01\n")
    demo.press("enter", "alt+3", "ctrl+o")
    demo.choose_file(tmp_path / "load.s1p")
    assert demo.shell.here == "kit"


def test_the_page_in_front_goes_to_a_printer(demo, tmp_path):
    demo.shell.open_job("demo-dunlin")
    demo.press("alt+8")
    demo.settle(0.3)
    demo.press("ctrl+p")
    dialog = demo.shell.print_job.dialog
    assert not dialog.isModal()
    field = dialog.findChild(QLineEdit, "filename")  # without a printer it prints to a file
    field.setText(str(tmp_path / "out.pdf"))
    dialog.accept()
    demo.until(lambda: demo.shell.foot.kept.text().startswith("Sent to the printer: certificate, "))

    data = (tmp_path / "out.pdf").read_bytes()
    assert data.startswith(b"%PDF") and len(data) > 50_000  # a page at 300 dots an inch, not an empty one


def test_where_there_is_nothing_to_print_that_is_said(demo):
    demo.press("ctrl+4", "ctrl+p")

    assert "There is nothing to print here" in demo.shell.foot.kept.text()


def test_what_takes_long_is_shown_and_stopped_with_nothing_written(demo, tmp_path, monkeypatch):
    go_on = threading.Event()
    path = tmp_path / "late.pdf"
    demo.shell.open_job("demo-dunlin")
    demo.press("alt+8")
    bar = demo.shell.bench.step.save
    demo.shell.bench.step.runner.wait()
    monkeypatch.setattr(runner, "LATE_MS", 10)
    busy = bar.findChild(Busy)
    assert not busy.isVisible()
    bar.write(path, lambda: b"x" if go_on.wait(20) else b"")
    demo.until(busy.isVisible)
    demo.press("esc")

    assert not busy.isVisible()
    assert bar.said.text().startswith("Stopped.")
    go_on.set()
    bar.wait()
    assert not path.exists()
    bar.write(path, lambda: b"y")
    bar.wait()
    assert path.read_bytes() == b"y"
    assert bar.said.text() == "Written: late.pdf"


def test_due_dates_of_the_kit_are_saved_as_a_calendar(demo, tmp_path):
    demo.press("ctrl+3", "ctrl+s")
    demo.choose_file(tmp_path / "dates.ics")
    assert (tmp_path / "dates.ics").read_text("utf-8").count("BEGIN:VEVENT") == 7
    assert demo.shell.kit.said.text().startswith("Seven due dates written to ")
    demo.press("ctrl+s")
    demo.choose_file(tmp_path / "dates.pdf")
    assert "doesn't end in .ics" in demo.shell.trouble.text()
