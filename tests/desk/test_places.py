"""Kit, logbook, first page, sizes, results and certificate to files: as their users do it."""

import json
import subprocess
import sys
from pathlib import Path

import openpyxl
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QGraphicsView,
    QLineEdit,
    QScrollArea,
    QTableWidget,
)

from fenmist.desk.app import STANDS_AFTER_MS, Start
from fenmist.desk.places import logbook
from fenmist.desk.single import Doorbell, raise_other
from fenmist.desk.theme import SCALES
from fenmist.session import summaries
from fenmist.session.backup import backups
from fenmist.session.session import Session
from support.desk import DEMO_JOBS


def typed_into(hands, field, text):
    field.setFocus()
    field.selectAll()
    hands.type(text)
    hands.press("tab")


def drop(hands, path):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    event = QDropEvent(
        QPointF(400, 300), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    hands.shell.dropEvent(event)
    hands.settle()


# a new edition


def test_after_a_new_edition_the_list_is_made_anew_while_the_window_stands(demo, monkeypatch):
    """None of the former lines holds any more: one is made at once, the rest between keys."""
    monkeypatch.setattr(summaries, "EDITION", "next")
    monkeypatch.setattr(logbook, "AT_A_TIME_S", 0.0)
    place = demo.shell.logbook
    place.refresh()
    assert place.headline.text() == f"The list is being made anew: {DEMO_JOBS - 1} jobs are still to come."
    assert place.table.rowCount() == 1
    assert not place.history.text().strip("… ").endswith("drift")

    demo.until(lambda: "still to come" not in place.headline.text())

    assert place.table.rowCount() == DEMO_JOBS
    assert place.table.currentRow() == 0
    demo.until(lambda: "…" not in place.history.text())


# kit


def test_the_kit_says_what_is_overdue_and_shows_only_that(demo):
    demo.press("ctrl+3")
    kit = demo.shell.kit
    assert "Avocet 60" in kit.headline.text()
    assert "overdue" in kit.headline.text()

    demo.pick(kit.search, kit.search.itemText(1))

    labels = {kit.table.texts(row)[0] for row in range(kit.table.rowCount())}
    assert "Avocet 60" in labels
    assert "Sedge 200" not in labels


def test_an_edit_in_the_kit_is_undone_and_redone_and_a_used_job_opens(demo):
    demo.press("ctrl+3")
    kit = demo.shell.kit
    row = next(row for row in range(kit.table.rowCount()) if kit.table.texts(row)[0] == "Teal 20")
    kit.table.setCurrentCell(row, 0)
    typed_into(demo, kit.form.inputs["serial"], "T-99")
    assert next(part for part in demo.session.kit if part.id == "teal").serial == "T-99"

    demo.press("ctrl+z")
    assert next(part for part in demo.session.kit if part.id == "teal").serial == "T-88"
    demo.press("ctrl+shift+z")
    assert next(part for part in demo.session.kit if part.id == "teal").serial == "T-99"

    shown = [b for b in kit.findChildren(QAbstractButton) if b.isVisible()]
    demo.click(next(b for b in shown if b.accessibleName().startswith("open the job")))
    assert demo.shell.bench.job.job.id == "demo-teal"
    assert demo.shell.bench.job.job.dut_part.serial == "T-88"


def test_a_part_is_taken_off_the_list_and_back(demo):
    demo.press("ctrl+3")
    kit = demo.shell.kit
    before = kit.table.rowCount()
    demo.click(kit.away)
    assert kit.table.rowCount() == before - 1

    demo.press("ctrl+z")

    assert kit.table.rowCount() == before


# logbook


def test_search_narrows_the_list_as_it_is_typed(demo):
    demo.press("ctrl+f")
    demo.type("lock-keeper")
    demo.settle(0.3)
    book = demo.shell.logbook

    assert [book.table.texts(row)[1] for row in range(book.table.rowCount())] == ["Godwit 200, begun"]
    assert "One job holds" in book.headline.text()
    demo.press("enter", "enter")
    assert demo.shell.bench.job.job.id == "demo-godwit"


def test_filters_and_the_meters_drift_through_the_years(demo):
    book = demo.shell.logbook
    demo.pick(book.state, "unfinished")
    assert {book.table.texts(row)[1] for row in range(book.table.rowCount())} == {
        "Godwit 200, begun",
        "Knot 200, to be read over the wire",
        "Teal 20, to try",
    }
    demo.pick(book.state, "all jobs")
    book.table.setCurrentCell(0, 0)
    demo.settle()

    demo.until(lambda: "three jobs" in book.history.text())  # once the hands rest
    assert "a year" in book.history.text()


def test_a_job_is_handed_over_and_taken_in_again(demo, tmp_path):
    book = demo.shell.logbook
    path = tmp_path / "bittern.fenjob.json"
    book.path.setText(str(path))
    demo.click(book.hand_over_button)
    assert json.loads(path.read_text())["format"] == "fenmist-job"

    demo.click(book.take_in_button)
    demo.until(lambda: not book.intake.is_busy)

    assert "Imported: Bittern 200 of the pilot boat (copy)" in book.said.text()
    assert book.table.rowCount() == DEMO_JOBS + 1


def test_a_file_that_is_no_job_is_said_and_nothing_is_kept(demo, tmp_path):
    path = tmp_path / "bad.json"
    path.write_text("{}")
    drop(demo, path)
    demo.until(lambda: not demo.shell.logbook.intake.is_busy)

    assert "doesn't say that it is a job" in demo.shell.logbook.said.text()
    assert demo.shell.logbook.table.rowCount() == DEMO_JOBS


def test_what_is_dropped_goes_where_it_belongs(demo, tmp_path):
    demo.shell.open_job("demo-teal")
    captures = demo.session.logbook.path.parent / "none.csv"
    captures.write_text("1,2\n")
    drop(demo, captures)
    assert demo.shell.bench.step.where == "readings"
    demo.shell.bench.step.below.capture.wait()
    demo.settle()

    odd = tmp_path / "what.xyz"
    odd.write_text("?")
    drop(demo, odd)
    assert "can't be opened here" in demo.shell.trouble.text()


# first page


def test_the_first_page_asks_and_what_it_asks_stands_on_a_new_job(hands):
    first = hands.shell.first
    assert hands.shell.stack.page is first
    typed_into(hands, first.form.inputs["workshop"], "Heron Quay")
    typed_into(hands, first.form.inputs["technician"], "A. Reed")
    typed_into(hands, first.form.inputs["numbering"], "HQ-{year}-")
    typed_into(hands, first.form.inputs["workshop"], "Heron Key")
    hands.press("ctrl+z")
    assert first.form.inputs["workshop"].text() == "Heron Quay"
    hands.click(first.new)
    hands.choose_bench()

    job = hands.shell.bench.job.job
    assert (job.place, job.technician) == ("Heron Quay", "A. Reed")
    hands.press("alt+8")
    assert "HQ-26-001" in hands.shell.bench.step.issue_button.text()
    hands.press("f9")
    assert hands.shell.stack.page is first
    assert not any(made.isChecked() for made in hands.shell.top.places.values())
    hands.press("esc")
    assert hands.shell.top.places["bench"].isChecked()
    assert hands.shell.stack.page is hands.shell.bench


def test_paper_goes_by_its_usual_name_and_is_kept(hands):
    choice = hands.shell.first.form.inputs["paper"]
    assert [choice.itemText(row) for row in range(choice.count())] == ["A4", "US letter"]
    choice.setFocus()
    hands.press("down")

    assert hands.session.setting("paper") == "us-letter"
    hands.press("f9")
    assert choice.currentText() == "US letter"


# sizes


@pytest.mark.parametrize("notes", [False, True], ids=["alone", "with the notes"])
@pytest.mark.parametrize("job", ["demo-teal", "demo-bittern"])
def test_the_run_needs_no_scrolling_sideways_at_arms_length(demo, job, notes):
    demo.shell.open_job(job)
    demo.press("alt+5", "f7")
    demo.settle(0.2)
    if notes:
        demo.press("f6")
    demo.settle(0.2)

    place = demo.shell.bench.step.parentWidget().parentWidget()
    assert isinstance(place, QScrollArea)
    assert place.horizontalScrollBar().maximum() == 0
    assert demo.shell.bench.margin.isVisible() == notes


@pytest.mark.parametrize(
    "scale", [SCALES[-1], *(pytest.param(scale, marks=pytest.mark.long) for scale in (SCALES[0], 1.5))]
)
def test_nothing_makes_the_window_wider_or_higher_at_any_font_scale(demo, scale):
    """At 1280x800 every view fits or scrolls; no letter of a button or label stands outside its widget."""
    demo.shell.open_job("demo-godwit")
    demo.shell.themes.resize(scale, False)
    demo.settle(0.1)
    for number in range(7):
        demo.shell.go_step(number)
        demo.settle(0.05)
        assert demo.shell.size().width() == 1280
        for control in demo.shell.bench.step.findChildren(QAbstractButton):
            if control.isVisible() and control.text():
                assert control.width() >= control.fontMetrics().horizontalAdvance(control.text()), control.text()
    for place in ("tools", "kit", "logbook"):
        demo.shell.go(place)
        demo.settle(0.05)
        assert demo.shell.size().width() == 1280
    demo.shell.themes.resize(1.0, False)


def test_letters_grow_by_keyboard_and_the_job_stays(demo):
    demo.shell.open_job("demo-godwit")
    demo.press("alt+5")
    small = demo.shell.bench.step.headline.fontMetrics().height()
    demo.press("ctrl++")

    assert demo.shell.bench.step.where == "readings"
    assert demo.shell.bench.step.headline.fontMetrics().height() > small
    assert float(demo.shell.settings.value("scale")) == 1.1
    demo.press("f7")
    assert demo.shell.bench.step.rows[0].field.fontMetrics().height() > 1.4 * 34
    demo.press("f7")
    demo.press("ctrl+0")


def test_every_control_of_every_place_has_a_name(demo):
    for place in ("tools", "kit", "logbook"):
        demo.shell.go(place)
        demo.settle()
        for kind in (QLineEdit, QComboBox, QTableWidget, QAbstractButton):
            for control in demo.shell.stack.page.findChildren(kind):
                if control.isVisible() and not control.objectName().startswith("qt_"):
                    assert control.accessibleName(), (place, kind, control)


# results and certificate to files


def saved(hands, bar, path):
    bar.path.setFocus()
    bar.path.selectAll()
    hands.type(str(path))
    hands.press("enter")
    hands.until(lambda: "Written" in bar.said.text() or "no" in bar.said.text())


@pytest.mark.parametrize(
    ("ending", "begins"),
    [(".svg", b"<?xml"), (".png", b"\x89PNG"), (".csv", b"\xef\xbb\xbfphase"), (".xlsx", b"PK")],
)
def test_chart_and_table_are_saved_by_the_ending_of_the_name(demo, tmp_path, ending, begins):
    demo.shell.open_job("demo-dunlin")
    demo.press("alt+6")
    saved(demo, demo.shell.bench.step.save, tmp_path / f"r{ending}")

    data = (tmp_path / f"r{ending}").read_bytes()
    assert data.startswith(begins)
    if ending == ".xlsx":
        sheet = openpyxl.load_workbook(tmp_path / "r.xlsx")["results"]
        assert {sheet.cell(row, 1).value for row in range(2, sheet.max_row + 1)} == {"as found", "as left"}


def test_the_table_is_copied_with_its_headings(demo):
    demo.shell.open_job("demo-dunlin")
    demo.press("alt+6", "ctrl+c")

    lines = QApplication.clipboard().text().splitlines()
    assert lines[0].startswith("frequency\tlevel\treference")
    assert len(lines) == 5


def test_the_budget_is_copied_whole(demo):
    demo.shell.open_job("demo-dunlin")
    demo.press("alt+6")
    demo.shell.bench.step.bars.setFocus()
    demo.press("ctrl+c")

    lines = QApplication.clipboard().text().splitlines()
    assert lines[0] == "influence\tfrom\tevaluation\tcontribution\tshare"
    assert len(lines) == 1 + len(demo.shell.bench.job.view.result.budget("p1"))


def test_the_chart_goes_through_frequency_level_and_years(demo):
    demo.shell.open_job("demo-bittern")
    demo.press("alt+6")
    step = demo.shell.bench.step
    step.table.setCurrentCell(11, 0)
    demo.settle()
    assert "Since 2022-11" in step.drift.text()
    seen = []
    for _ in range(4):
        seen.append(step.over_button.text())
        demo.click(step.over_button)

    assert seen == ["show over level", "show through the years", "show what it leans on", "show over frequency"]


def test_what_a_result_leans_on_is_drawn_with_its_weakest_link(demo):
    demo.shell.open_job("demo-whimbrel")
    demo.press("alt+6")
    step = demo.shell.bench.step
    while step.over != "what it leans on":
        demo.click(step.over_button)
    drawn = step.picture.picture

    assert step.picture.isVisible() and not step.plot.isVisible()
    assert step.agreement.text() == "The weakest link is Pochard 3 A: no calibration of it is on record."
    assert [twig.label for twig in drawn.twigs if twig.is_weakest] == ["Pochard 3 A"]
    assert step.drawing[0] == "what it leans on"


def test_the_crosshair_says_the_values_under_the_mouse(demo):
    demo.shell.open_job("demo-bittern")
    demo.press("alt+6")
    plot = demo.shell.bench.step.plot
    demo.until(lambda: bool(plot.values.text()))
    first = plot.values.text()
    said, drawing = set(), plot.findChild(QGraphicsView).viewport()
    for x in range(60, drawing.width(), 20):
        demo.move_to(drawing, QPoint(x, drawing.height() // 2))
        said.add(plot.values.text().partition(" ")[0])

    assert len(said) == len({point.frequency_hz for point in demo.shell.bench.job.job.plan})
    demo.move_to(drawing, QPoint(1, 1))
    assert plot.values.text() == first


def test_a_certificate_is_issued_by_keyboard_then_revised_with_a_reason(demo, tmp_path):
    demo.shell.open_job("demo-dunlin")
    demo.press("alt+8")
    step = demo.shell.bench.step
    step.save.path.setText(str(tmp_path / "x.pdf"))
    step.issue_button.setFocus()
    demo.press("space")
    demo.until(lambda: bool(demo.session.issued("demo-dunlin")))
    demo.until(lambda: bool(list(tmp_path.glob("Dunlin*.pdf"))))
    assert demo.session.issued("demo-dunlin")[0].name == "26-001"

    demo.press("space")
    assert "Nothing changed" in step.said.text()
    demo.shell.bench.job.strike(next(iter(demo.shell.bench.job.view.standing)), "misread")
    step.reason.setFocus()
    demo.type("one reading struck")
    step.issue_button.setFocus()
    demo.press("space")
    demo.until(lambda: len(demo.session.issued("demo-dunlin")) == 2)

    assert demo.session.issued("demo-dunlin")[1].supersedes == 1
    names = [b.text() for b in step.findChildren(QAbstractButton) if b.accessibleName().startswith("save 26-001")]
    assert any("superseded" in name for name in names)


def test_the_cards_are_shown_and_saved(demo, tmp_path):
    demo.shell.open_job("demo-bittern")
    demo.press("alt+8")
    step = demo.shell.bench.step
    demo.click(step.choices["correction cards"])
    step.runner.wait()
    saved(demo, step.save, tmp_path / "cards.pdf")

    assert (tmp_path / "cards.pdf").read_bytes().startswith(b"%PDF")


# opening


def test_a_second_start_raises_the_first_window(qt, tmp_path):
    path = tmp_path / "b.fenlog"
    path.touch()
    rung = []
    bell = Doorbell(path, lambda: rung.append(True))
    code = (
        "import sys; from pathlib import Path; from PySide6.QtCore import QCoreApplication; a = QCoreApplication([]); "
        f"from fenmist.desk.single import raise_other; sys.exit(0 if raise_other(Path({str(path)!r})) else 3)"
    )
    other = subprocess.Popen([sys.executable, "-c", code])
    while other.poll() is None:
        qt.processEvents()

    assert other.returncode == 0
    assert rung == [True]
    bell.close()
    assert not raise_other(path)


@pytest.mark.parametrize("kind", ["damaged", "newer", "locked", "folder"])
def test_a_logbook_that_can_not_be_opened_is_said_in_a_window_with_ways_on(qt, tmp_path, kind, capsys):
    path = tmp_path / "log.fenlog"
    held = None
    if kind == "damaged":
        path.write_bytes(b"not a database at all" * 100)
    elif kind == "newer":
        Session(path).close()
        import sqlite3

        with sqlite3.connect(path) as other:
            other.execute("PRAGMA user_version = 99")
        other.close()
    elif kind == "locked":
        held = Session(path)
    else:
        path.mkdir()
    start = Start(qt)

    assert start.open(path)

    assert start.trouble.isVisible()
    assert str(path) in start.trouble.headline.text()
    assert start.trouble.hint.text()
    assert str(path) in capsys.readouterr().err
    QTest.keyClicks(start.trouble.other, str(tmp_path / "new.fenlog"))
    QTest.keyClick(start.trouble.other, Qt.Key.Key_Return)
    assert start.shell.isVisible()
    assert start.trouble is None
    start.shell.close()
    start.shell.deleteLater()
    start.end()
    if held is not None:
        held.close()


def test_from_a_damaged_logbook_work_goes_on_in_a_copy_of_the_newest_backup(qt, tmp_path, demo_file):
    import shutil

    path = tmp_path / "demo.fenlog"
    shutil.copy(demo_file, path)
    first = Start(qt)
    first.open(path)
    assert (first.shell.isVisible(), backups(path)) == (True, [])  # the window needn't wait for it
    for _ in range(100):  # a machine that stands still is waited for
        if not backups(path):
            QTest.qWait(STANDS_AFTER_MS)
    assert len(backups(path)) == 1
    assert first.doorbell is not None
    first.shell.close()
    first.shell.deleteLater()
    first.end()
    path.write_bytes(path.read_bytes()[:5000] + b"\0" * 60_000)
    start = Start(qt)
    start.open(path)
    assert start.trouble.backup.isVisible()
    start.trouble.backup.click()

    assert start.session.logbook.path == Path(tmp_path / "demo restored.fenlog")
    assert len(start.session.summaries()) == DEMO_JOBS
    assert path.read_bytes()[5000:5010] == b"\0" * 10
    start.shell.close()
    start.shell.deleteLater()
    start.end()


def test_a_meters_certificate_gives_its_correction_in_the_kit(demo):
    """Issued in the certificate step; in the kit “from certificate 26-001” stands among the new tables."""
    demo.shell.open_job("demo-bittern")
    demo.press("alt+8")
    step = demo.shell.bench.step
    step.issue_button.setFocus()
    demo.press("enter")
    demo.until(lambda: step.said.text().startswith("Issued:"))
    step.save.wait()
    demo.press("ctrl+3")
    kit = demo.shell.kit
    names = [kit.table.texts(row)[0] for row in range(kit.table.rowCount())]
    kit.table.setCurrentCell(names.index("Bittern 200"), 0)
    kit.show_side(True)
    (choice,) = [
        kit.tables.new.itemText(n) for n in range(kit.tables.new.count()) if "certificate" in kit.tables.new.itemText(n)
    ]
    demo.choose(kit.tables.new, choice)
    part = next(part for part in demo.session.kit if part.id == "bittern")
    table = part.characterisation("correction")
    assert table.source == choice.removeprefix("from ")
    by_frequency = dict(zip(table.frequency_hz, table.real, strict=True))
    assert by_frequency[16.42e6] == pytest.approx(10 ** (1.18 / 10), abs=0.06)
    assert len(table.frequency_hz) == 6
