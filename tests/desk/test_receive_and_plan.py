"""Receive and plan, driven as a user would."""

import math
from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint, QPointF
from PySide6.QtGui import QColor, QImage, QPainter, QPen
from PySide6.QtWidgets import QApplication, QFileDialog, QLabel

from fenmist.calibration.receipt import FINE, LOOK_OVER, NOT_FINE
from fenmist.desk.stepnumbers import READINGS
from fenmist.desk.steps.plan import HOOKUP, REASON
from fenmist.kit.scale import Scale

MARKS = (0.0, 20.0, 40.0, 60.0, 100.0)
TRUE = Scale("true", MARKS, (4, 4, 4, 4), 0.62)


def photo_of(scale, path, tilt=0.0):
    """A dial drawn from a scale whose law is known; returns where its marks are."""
    image = QImage(640, 420, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    painter.setPen(QPen(QColor("black"), 2))
    places = []
    for mark in scale.marks:
        angle = math.radians(150.0 - 120.0 * scale.deflection(mark) + tilt)
        at = QPointF(320 + 250 * math.cos(angle), 330 - 250 * math.sin(angle))
        painter.drawEllipse(at, 3, 3)
        places.append((at.x(), at.y()))
    painter.end()
    image.save(str(path))
    return places


@pytest.fixture
def receive(hands):
    hands.job_begun()
    return hands


def test_fields_are_typed_and_undone(receive):
    step = receive.shell.bench.step
    receive.press("tab")
    receive.type("Ferry Knot")
    receive.press("tab")
    assert receive.shell.bench.job.job.customer == "Ferry Knot"

    receive.type("yesterday")
    receive.press("tab")
    assert "is no day" in receive.problem(step.form, "received_on")
    assert step.form.inputs["received_on"].text() == "yesterday"
    receive.press("ctrl+z")

    assert receive.shell.bench.job.job.customer == ""


def test_the_list_goes_through_its_states_by_keyboard_and_a_fault_is_the_headline(receive):
    step = receive.shell.bench.step
    step.looks.setFocus()
    step.looks.setCurrentCell(0, 0)
    receive.press("space")
    assert receive.shell.bench.job.job.receipt.look("case").state == FINE
    receive.press("space")
    assert receive.shell.bench.job.job.receipt.look("case").state == NOT_FINE
    step.looks.setCurrentCell(0, 2)
    receive.press("f2")
    receive.type("glass cracked")
    receive.press("return")

    assert "glass cracked" in step.headline.text()
    assert "received.faults" in {note.code for note in receive.shell.bench.job.view.notes}
    receive.press("ctrl+z", "ctrl+z", "ctrl+z")
    assert receive.shell.bench.job.job.receipt.missing == tuple(LOOK_OVER)


def test_the_dial_follows_the_marks_typed(receive):
    step = receive.shell.bench.step
    field = step.device.inputs["marks"]
    field.setFocus()
    field.selectAll()
    receive.type("0 10 20 30")
    receive.press("tab")
    assert receive.problem(step.device, "divisions")

    field = step.device.inputs["divisions"]
    field.setFocus()
    field.selectAll()
    receive.type("5 5 5")
    receive.press("tab")

    assert receive.shell.bench.job.job.dut_part.indicators[0].ranges[0].scale.marks == (0.0, 10.0, 20.0, 30.0)


def test_marks_are_clicked_on_a_photo_and_the_needle_moves_as_on_the_dial(receive, tmp_path):
    """The dial on the photo moves by a law of 0.62; the scale taken from clicks gives its deflections back."""
    step = receive.shell.bench.step
    places = photo_of(TRUE, tmp_path / "dial.png")
    step.take_photo(tmp_path / "dial.png")
    receive.settle()
    assert receive.shell.bench.job.job.receipt.photos[0].name == "dial.png"

    receive.click(step.from_photo)
    marks = step.marks
    marks.figures.setText("0 20 40 60 100")
    marks.counts.setText("4 4 4 4")
    photo, picture = marks.photo, marks.photo.pixmap
    factor = min(photo.width() / picture.width(), photo.height() / picture.height())
    left, top = (photo.width() - factor * picture.width()) / 2, (photo.height() - factor * picture.height()) / 2
    for x, y in places:
        receive.click(photo, QPoint(round(left + x * factor), round(top + y * factor)))
    receive.click(marks.take)

    scale = receive.shell.bench.job.job.dut_part.indicators[0].ranges[0].scale
    assert scale.marks == MARKS
    for value in (20.0, 40.0, 60.0, 100.0):
        assert scale.deflection(value) == pytest.approx(TRUE.deflection(value), abs=0.012)
    assert step.pages.currentIndex() == 0


def test_clicks_that_make_no_arc_are_said(receive, tmp_path):
    step = receive.shell.bench.step
    photo_of(TRUE, tmp_path / "dial.png")
    step.take_photo(tmp_path / "dial.png")
    step.open_marks()
    step.marks.figures.setText("0 50 100")
    step.marks.counts.setText("5 5")
    for x in (100, 200, 300):
        receive.click(step.marks.photo, QPoint(x, 200))
    receive.click(step.marks.take)

    assert "line" in step.marks.said.text()
    receive.press("backspace")
    assert len(step.marks.photo.clicks) == 2


def test_what_is_no_picture_is_said(receive, tmp_path):
    path = tmp_path / "dial.png"
    path.write_text("no picture")

    receive.shell.bench.step.take_photo(path)

    assert "no picture" in receive.shell.bench.step.said.text()


# plan


@pytest.fixture
def plan(hands):
    hands.job_begun()
    hands.press("alt+4")
    return hands


def grid(hands, frequencies, levels, rounds="2"):
    hands.type(frequencies)
    hands.press("tab")
    hands.type(levels)
    hands.press("tab", "tab", "ctrl+a")
    hands.type(rounds)
    hands.press("enter")


def test_a_grid_is_laid_out_and_undone_as_one_step(plan):
    grid(plan, "2.2 8.3 16.4 MHz", "20 50 W")
    step = plan.shell.bench.step

    assert len(plan.shell.bench.job.job.plan) == 6
    assert "6 points, 12 rounds" in step.headline.text()
    assert len(step.map.cells()) == 6
    plan.press("ctrl+z")
    assert plan.shell.bench.job.job.plan == ()


@pytest.mark.parametrize("key", ["enter", "return", "space"])
def test_a_key_on_the_button_adds_the_points(plan, key):
    plan.type("2.2 8.3 MHz")
    plan.press("tab")
    plan.type("20 W")
    for _ in range(10):
        if plan.application.focusWidget().accessibleName() != "Add these points":
            plan.press("tab")

    plan.press(key)

    assert [point.frequency_hz for point in plan.shell.bench.job.job.plan] == [2.2e6, 8.3e6]


def test_what_the_grid_lacks_is_said_beneath_its_field(plan):
    grid(plan, "2.2 fast", "20 W")

    form = plan.shell.bench.step.grid
    assert "fast" in plan.problem(form, "frequencies")
    said = next(item for item in form.findChildren(QLabel) if item.isVisible() and "fast" in item.text())
    assert said.height() >= said.heightForWidth(said.width())  # no line of it is cut
    assert plan.shell.bench.job.job.plan == ()


def test_a_point_is_left_out_with_a_reason_and_the_run_passes_it_by(plan):
    grid(plan, "2.2 8.3", "20 W", "1")
    step = plan.shell.bench.step
    step.plan.setFocus()
    step.plan.setCurrentCell(0, REASON)
    plan.press("f2")
    plan.type("no permission")
    plan.press("return")
    assert plan.shell.bench.job.job.plan[0].blocked == "no permission"
    assert "left out" in step.plan.texts(0)[REASON - 1]

    plan.press("alt+5")

    assert plan.shell.bench.step.run.slot.point == plan.shell.bench.job.job.plan[1].id


def test_a_point_is_chosen_on_the_map(plan):
    grid(plan, "2.2 8.3", "20 50 W")
    step = plan.shell.bench.step
    cell = step.map.cells()[3]

    plan.click(step.map, cell.box.center().toPoint())

    assert plan.shell.bench.job.job.plan[step.plan.currentRow()].id == cell.point.id


def test_rows_are_pasted_from_a_spreadsheet_as_one_step(plan):
    step = plan.shell.bench.step
    QApplication.clipboard().setText("frequency\tlevel\n2,2 MHz\t20 W\n8.3\t50\n")
    step.plan.setFocus()
    step.plan.setCurrentCell(0, 0)
    plan.press("ctrl+v")

    assert [(p.frequency_hz, p.target_w) for p in plan.shell.bench.job.job.plan] == [(2.2e6, 20.0), (8.3e6, 50.0)]
    plan.press("ctrl+z")
    assert plan.shell.bench.job.job.plan == ()


def test_a_paste_that_can_not_be_read_names_its_row_and_changes_nothing(plan):
    step = plan.shell.bench.step
    QApplication.clipboard().setText("2.2\t20\n8.3\tlots\n")
    step.plan.setFocus()
    step.plan.setCurrentCell(0, 0)
    plan.press("ctrl+v")

    assert "Row 2" in step.problem.text()
    assert plan.shell.bench.job.job.plan == ()


def test_a_loads_table_is_pasted(plan):
    grid(plan, "2.2 8.3", "20 W")
    plan.press("alt+3")
    QApplication.clipboard().setText("MHz\tZ\n2.2\t49.8+j1\n8.3\t52-j3\n")
    plan.press("ctrl+v")

    rows = [plan.shell.bench.step.table.texts(row)[1] for row in range(2)]
    assert rows == ["49.8+j1", "52-j3"]


def test_points_beyond_the_meter_can_not_be_served_and_the_map_says_so(plan):
    grid(plan, "2.2", "20 900 W", "1")
    step = plan.shell.bench.step

    assert "can't be measured" in step.headline.text()
    assert "1 can't be measured" in step.map.accessibleDescription()
    assert plan.shell.bench.route.items[3].state.needs == "1 can't be measured"


def test_a_run_sheet_is_written_filled_in_and_taken_back(plan, tmp_path):
    grid(plan, "2.2 8.3", "20 W", "1")
    step = plan.shell.bench.step
    path = tmp_path / "sheet.csv"
    step.sheet.path.setText(str(path))
    plan.click(step.sheet.do)
    plan.until(path.exists)
    lines = path.read_text("utf-8-sig").splitlines()
    path.write_text("\n".join([lines[0], *(line[:-1] + "89,20" for line in lines[1:])]), "utf-8")

    step.form_path.setText(str(path))
    plan.click(step.take)

    assert "4 readings were taken" in step.problem.text()
    assert len(plan.shell.bench.job.view.standing) == 4
    step.form_path.setText(str(tmp_path / "none.csv"))
    plan.click(step.take)
    assert "can't be read" in step.problem.text()


def test_readings_typed_from_paper_say_so_and_carry_no_time(plan):
    grid(plan, "2.2", "20 W", "1")
    plan.press("f12")
    step = plan.shell.bench.step
    assert step.paper.isVisibleTo(step)
    plan.read("89", "20")

    assert {event.entry.observed_at for event in plan.shell.bench.job.view.standing.values()} == {None}
    plan.press("f12")
    assert not step.paper.isVisibleTo(step)


def test_points_are_given_to_a_hook_up_by_its_number_or_name(plan):
    grid(plan, "2.2 8.3", "20 W", "1")
    job = plan.shell.bench.job
    from fenmist.calibration.edit import plan_with_cell
    from fenmist.errors import UnreadableError
    from fenmist.procedures.benchwork import with_new_hookup

    job.edit(with_new_hookup(job.job, plan.shell.session.from_template("transmitter into its load")), "another")
    made = plan_with_cell(job.job, 0, HOOKUP, "2")
    assert made.plan[0].hookup == "line 2"
    assert plan_with_cell(made, 0, HOOKUP, "oscillo").plan[0].hookup == "line"
    with pytest.raises(UnreadableError, match="no hook-up"):
        plan_with_cell(made, 0, HOOKUP, "nowhere")
    job.edit(made, "plan")
    plan.settle()
    assert not plan.shell.bench.step.plan.isColumnHidden(HOOKUP)
    assert len(plan.shell.bench.job.job.to_read) == 1
    assert "on paper" in plan.shell.bench.step.plan.texts(0)[REASON - 1]
    plan.press("alt+5")
    assert plan.shell.bench.step.run.slot.point == plan.shell.bench.job.job.plan[1].id


def test_a_reading_table_is_asked_for_beside_the_run_sheet_and_printed_in_readings(plan, tmp_path):
    grid(plan, "2.2 8.3", "20 W", "1")
    step = plan.shell.bench.step
    wanted = step.saving_tables
    assert wanted.endings == (".pdf", ".csv") and wanted.suggested.name.endswith("-reading-table.pdf")
    step.tables.setFocus()
    plan.press("enter")  # asks where it goes
    dialog = plan.shell.findChild(QFileDialog)
    dialog.fileSelected.emit(str(tmp_path / "table.csv"))
    dialog.close()
    assert (tmp_path / "table.csv").read_text("utf-8-sig").startswith("instrument,shown,unit,frequency")
    plan.shell.go_step(READINGS)
    reading = plan.shell.bench.step
    assert reading.printing.name == "reading table"
    assert reading.printing.pages(30.0)[0].startswith(b"\x89PNG")
    reading.saving.take(tmp_path / "table.pdf")
    assert (tmp_path / "table.pdf").read_bytes().startswith(b"%PDF")


def test_without_a_plan_there_is_no_table_and_that_is_said(plan, tmp_path):
    job = plan.shell.bench.job
    job.edit(replace(job.job, plan=(), events=()), "nothing planned")
    step = plan.shell.bench.step
    step.ask_for_tables()
    dialog = plan.shell.findChild(QFileDialog)
    dialog.fileSelected.emit(str(tmp_path / "table.pdf"))
    dialog.close()
    assert "no table to make" in step.problem.text()
    assert not (tmp_path / "table.pdf").exists()
