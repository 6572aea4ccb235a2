"""What the desk makes of the numbers: captures in the run, corrections left out, what if, as left, tool into job."""

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QLabel

from fenmist.desk.stepnumbers import ADJUST, RESULTS
from fenmist.desk.widgets.capture_panel import READING
from fenmist.reading.event import AS_FOUND, AS_LEFT, Slot
from fenmist.session.view import View
from studies.builders import job
from support.traces import write_trace


@pytest.fixture
def readings(demo):
    """The demonstration's job to try, in its readings."""
    demo.shell.open_job("demo-teal")
    demo.press("alt+5")
    return demo.shell.bench.step


def _open(demo, readings, path):
    demo.press("ctrl+shift+o")
    demo.type(str(path))
    demo.press("enter")
    demo.until(lambda: readings.below.capture.remark.text() != READING)


def test_a_capture_is_opened_shown_and_taken_by_keyboard(demo, readings, tmp_path):
    _open(demo, readings, write_trace(tmp_path / "trace.csv", frequency_hz=2.182e6, amplitude_v=31.8))
    panel = readings.below.capture
    assert readings.below.currentWidget() is panel
    assert panel.take.hasFocus()
    assert "fitted crest" in panel.view.accessibleDescription()

    demo.press("space")

    entry = demo.shell.bench.job.view.standing[Slot("p1", 1, 0)].entry
    assert entry.reading.value == pytest.approx(31.8 / 2**0.5, rel=2e-3)
    assert entry.attached_name == "trace.csv"
    assert readings.below.currentWidget() is readings.below.plot
    assert readings.run.slot == Slot("p1", 1, 1)
    assert "trace.csv" in readings.rows[0].beside.text()

    demo.press("up", "ctrl+shift+o")

    assert "kept in the logbook" in readings.below.capture.path.text()
    assert readings.below.capture.opened.trace.usable


def test_a_capture_that_gives_no_reading_says_so_and_may_be_kept_open(demo, readings, tmp_path):
    _open(demo, readings, write_trace(tmp_path / "trace.csv", frequency_hz=2.182e6, clip=30.0))

    assert "clipped" in readings.below.capture.said.text()
    assert "open entry" in readings.below.capture.take.text()
    demo.press("space")
    assert demo.shell.bench.job.view.standing[Slot("p1", 1, 0)].entry.reading is None


def test_a_file_that_is_no_capture_is_named_and_the_panel_stays(demo, readings, tmp_path):
    (tmp_path / "notes.csv").write_text("this\nis\nno\ncapture\n")
    _open(demo, readings, tmp_path / "notes.csv")

    assert "notes.csv" in readings.below.capture.said.text()
    assert not readings.below.capture.take.isEnabled()
    demo.press("esc")
    assert readings.below.currentWidget() is readings.below.plot
    assert demo.focus is readings.rows[0].field


def test_a_missing_time_step_is_asked_where_it_is_typed(demo, readings, tmp_path):
    lines = write_trace(tmp_path / "trace.csv", frequency_hz=2.182e6).read_text().splitlines()[2:]
    (tmp_path / "bare.csv").write_text("unit = V\n" + "\n".join(line.split(",")[1] for line in lines))
    _open(demo, readings, tmp_path / "bare.csv")
    assert "time between samples" in readings.below.capture.said.text()
    assert demo.focus is readings.below.capture.step

    demo.type("2 ns")
    demo.press("enter")
    demo.until(readings.below.capture.take.isEnabled)

    assert readings.below.capture.opened.trace.fit.frequency_hz == pytest.approx(2.182e6, rel=1e-3)


def test_a_file_dropped_on_the_run_is_opened(demo, readings, tmp_path):
    data = QMimeData()
    path = write_trace(tmp_path / "trace.csv", frequency_hz=2.182e6)
    data.setUrls([QUrl.fromLocalFile(str(path))])
    copy, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    readings.dropEvent(QDropEvent(QPointF(50, 50), copy, data, left, none))
    demo.until(readings.below.capture.take.isEnabled)

    assert readings.below.capture.path.text() == str(path)


# as left


def test_after_an_adjustment_the_plan_is_read_again_beside_what_was_found(demo):
    demo.press("enter")
    bench = demo.shell.bench
    found = len(bench.job.view.result.points)
    demo.press("f8", "alt+5")
    assert bench.job.view.phase == AS_LEFT
    assert bench.step.phases.left.isChecked()
    assert "as left" in demo.shell.top.about.text()

    demo.read("138.2", "49")

    assert len(bench.job.view.result.points) == 1
    assert len(bench.job.view.found.points) == found
    demo.press("alt+6")
    assert bench.step.headline.text().startswith("As left, Bittern 200")
    demo.press("f8")
    assert bench.job.view.phase == AS_FOUND
    assert len(bench.job.view.result.points) == found
    demo.click(bench.step.phases.left)
    assert bench.job.view.phase == AS_LEFT


def test_nothing_can_be_as_left_before_something_was_found(demo, readings):
    demo.press("f8")

    assert demo.shell.bench.job.view.phase == AS_FOUND
    assert not readings.phases.left.isEnabled()


# what if


def test_a_job_of_which_much_is_drawn_opens_at_once_and_says_what_is_still_to_come(hands):
    """The sign of the load's reactance is open at four points: the page stands before one is drawn, then all are."""
    made = job(
        [[("102", "25.6")]] * 4, frequencies_hz=(14e6, 18e6, 21e6, 28e6), lead_m=0.3,
        load=[(3e6, "|57.7| swr 1.9"), (28e6, "|57.7| swr 1.9")],
    )  # fmt: skip
    hands.session.logbook.add_job(made)
    hands.shell.open_job(made.id)
    bench = hands.shell.bench
    assert bench.job.view.to_draw == 4
    bench.go(RESULTS)
    late = bench.step.late
    assert late.text().startswith("4 points are still to be drawn by Monte Carlo")
    first = bench.step.table.texts(3)
    texts, drawn_before_notes = set(), set()
    while bench.is_behind:
        texts.add(late.text().partition(" by ")[0])
        if not bench.margin.views:
            drawn_before_notes.add(4 - bench.job.view.to_draw)
        hands.application.processEvents()

    assert drawn_before_notes == {0}  # the first notes don't wait
    assert {
        "3 points are still to be drawn",
        "2 points are still to be drawn",
        "One point is still to be drawn",
    } <= texts
    assert (bench.job.view.to_draw, late.isVisible()) == (0, False)
    assert bench.step.table.texts(3) != first
    assert bench.job.view.result.stated == View(made, bench.job.view.as_of).result.stated


def test_pages_of_a_certificate_wait_until_all_is_drawn(hands):
    made = job(
        [[("102", "25.6")]] * 3, frequencies_hz=(14e6, 21e6, 28e6), lead_m=0.3,
        load=[(3e6, "|57.7| swr 1.9"), (28e6, "|57.7| swr 1.9")],
    )  # fmt: skip
    hands.session.logbook.add_job(made)
    hands.shell.open_job(made.id)
    bench = hands.shell.bench
    bench.go(ADJUST + 1)
    assert bench.step.said.text() == "3 points are still to be drawn by Monte Carlo: then the pages are set."
    hands.settle()
    hands.until(lambda: bench.step.findChildren(QLabel, "page"))
    assert bench.step.said.text() == ""
    hands.press("f8")  # adjusted: the certificate states what was found until something is read as left
    assert bench.step.headline.text().startswith("As left nothing is read yet")


def test_a_budget_line_is_asked_about_and_taken_back(demo):
    demo.press("enter", "alt+6")
    step = demo.shell.bench.step
    step.bars.setFocus()
    line = step.bars.lines[0][0]
    demo.press("left")

    assert "What if: U would be" in step.what_if.text()
    assert step.bars.lines[0][0] == line
    assert "u × 0.5" in step.bars.accessibleDescription()
    demo.press("down", "0")
    assert "known exactly" in step.bars.accessibleDescription()
    demo.press("backspace")
    assert step.bars.known == {}
    assert "What if a line" in step.what_if.text()


def test_every_line_of_a_budget_can_be_shown_and_asked_about(demo):
    demo.press("enter", "alt+6")
    bars = demo.shell.bench.step.bars
    few = len(bars.lines)
    bars.setFocus()
    demo.press("enter")
    assert len(bars.lines) > few

    demo.press("up", "left")

    assert len(bars.known) == 1 and bars.lines[-1][0] in bars.accessibleDescription().split("; ")[-1]
    demo.press("backspace", "enter")
    assert len(bars.lines) == few


def test_a_click_on_the_chosen_line_halves_it(demo):
    demo.press("enter", "alt+6")
    bars = demo.shell.bench.step.bars
    place = bars.rect().topLeft()
    place.setX(20)
    place.setY(40)
    demo.click(bars, place)
    demo.click(bars, place)

    assert list(bars.known.values()) == [0.5]


def test_the_chart_turns_from_frequency_to_level(demo):
    demo.press("enter", "alt+6")
    step = demo.shell.bench.step
    demo.click(step.over_button)
    demo.settle(0.1)

    assert "100 W" in step.plot.accessibleDescription() or "50 W" in step.plot.accessibleDescription()
    assert step.over_button.text() == "show what it leans on"


def test_a_reading_is_looked_up_and_nonsense_is_said(demo):
    demo.press("enter", "alt+6")
    step = demo.shell.bench.step
    step.question.setFocus()
    demo.type("40 W at 12.29 MHz")
    assert "W, range 200, by the curve at 50" in step.stands_for.text().replace("\u202f", " ")
    assert float(step.stands_for.text().split()[0]) == pytest.approx(44.4, abs=1.5)

    step.question.selectAll()
    demo.type("40 W at 30 MHz")

    assert "Nothing was read" in step.stands_for.text()


# the tool


def test_a_correction_is_left_out_by_its_box_and_the_headline_says_so(demo):
    demo.press("ctrl+2")
    tools = demo.shell.tools.tool
    box = tools.steps.boxes["load"]
    box.setFocus()
    demo.press("space")

    assert "if load were left uncorrected" in tools.headline.text()
    assert float(tools.answer.net.value[0]) == pytest.approx(25.9, abs=0.1)
    demo.press("space")
    assert "go into the load" in tools.headline.text()


def test_a_line_of_the_tools_budget_is_asked_about(demo):
    demo.press("ctrl+2")
    tools = demo.shell.tools.tool
    tools.bars.setFocus()
    demo.press("left", "left")

    assert "What if: U would be" in tools.what_if.text()
    demo.press("right", "right")
    assert tools.bars.known == {}


def test_a_line_too_small_to_matter_is_said_to_leave_u_as_it_is(demo):
    demo.press("ctrl+2")
    tools = demo.shell.tools.tool
    tools.bars.setFocus()
    demo.press("return", "up", "left")

    assert "What if: U would stay" in tools.what_if.text()


def test_a_probe_takes_the_leads_place_and_both_are_refused(demo):
    demo.press("ctrl+2")
    tools = demo.shell.tools.tool
    tools.form.inputs["probe"].setFocus()
    demo.type("10:1")
    demo.settle(0.1)
    assert "only one of the two" in tools.said.text()
    assert not tools.new_job.isEnabled()

    tools.form.inputs["lead"].setFocus()
    tools.form.inputs["lead"].selectAll()
    demo.press("del")
    demo.settle(0.1)

    assert list(tools.steps.boxes) == ["load", "bandwidth", "ground lead"]


def test_the_answer_goes_into_a_new_job_and_into_the_one_on_the_bench(demo):
    demo.press("ctrl+2")
    demo.click(demo.shell.tools.tool.new_job)
    bench = demo.shell.bench
    assert demo.shell.stack.page is bench
    assert [event.entry.raw_text for event in bench.job.view.standing.values()] == ["102 Vpp"]

    demo.press("ctrl+2")
    demo.click(demo.shell.tools.tool.this_job)

    assert demo.shell.bench is bench
    assert len(bench.job.view.standing) == 2


def test_nothing_scrolls_but_the_table_and_what_is_chosen_in_it_stays_in_sight(demo):
    demo.shell.resize(1280, 800)
    demo.shell.open_job("demo-bittern")
    for key in ("alt+7", "alt+6"):
        demo.press(key)
        demo.settle(0.1)
        page = demo.shell.bench.step
        assert page.height() <= page.parentWidget().height()
    table = page.table
    table.setCurrentCell(table.rowCount() - 1, 0)
    page.bars.setFocus()
    demo.press("left")  # what if takes a line more, the table gives way
    demo.settle(0.1)
    assert table.viewport().rect().contains(table.visualItemRect(table.currentItem()).center())
