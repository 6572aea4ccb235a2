"""The run: entries are never refused, drafts follow each key, everything from the numeric pad."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from fenmist.calibration.again import FOR_NOW
from fenmist.calibration.beside import made_so_far
from fenmist.desk.widgets.labels import label, set_state
from fenmist.procedures.benchwork import with_exchanged
from fenmist.reading.event import EventKind, Slot


def _step(run):
    return run.shell.bench.step_at(4)


def _texts(run):
    job = run.shell.bench.job
    return [event.entry.raw_text for event in job.view.standing.values()]


def test_enter_keeps_and_goes_on_in_reading_order(run):
    run.read("63.4", "10.5", "63.2")

    assert _texts(run) == ["63.4", "10.5", "63.2"]
    assert _step(run).run.slot == Slot("p1", 2, 1)
    assert run.session.logbook.event_count("demo-teal") == 3
    assert "3 entries on disk" in run.shell.foot.kept.text()


def test_the_next_point_comes_by_itself(run):
    run.read("63.4", "10.5", "63.2", "10.4")

    assert _step(run).run.slot == Slot("p2", 1, 0)
    assert "20" in _step(run).point.text()


def test_the_needle_follows_each_key(run):
    run.read("63.4")
    dial = _step(run).echo.dial
    run.type("1")
    assert dial.value == pytest.approx(1.0)
    run.type("0")
    assert (dial.value, dial.draft) == (pytest.approx(10.0), True)

    run.press("enter")

    run.press("up")
    assert (dial.value, dial.draft) == (pytest.approx(10.0), False)


def test_mark_and_divisions_move_the_needle(run):
    run.read("63.4")

    run.type("10/2")

    assert _step(run).echo.dial.value == pytest.approx(12.0)


def test_a_draft_shows_its_error_in_grey_and_keeps_nothing(run):
    run.read("63.4")
    step = _step(run)
    assert step.running.error_w.text() == "—"

    run.type("10.5")

    assert step.running.error_w.text().startswith("+0.")
    assert step.running.error_w.property("kept") == "false"
    assert run.session.logbook.event_count("demo-teal") == 1
    run.press("enter")
    run.press("up")
    assert step.running.error_w.property("kept") == "true"


def test_notes_of_a_draft_wait_for_a_rest(run):
    run.read("63.4")
    codes = lambda: [view.note.code for view in run.shell.bench.margin.views]  # noqa: E731
    run.type("105")
    assert "entry.decimal_slip" not in codes()

    run.until(lambda: "entry.decimal_slip" in codes())

    assert _step(run).rows[1].field.property("alarm") == "doubt"
    assert "doubt" in _step(run).hint.text()


def test_a_key_goes_between_what_follows_a_reading(run):
    """Results of the whole job, then its notes, rule by rule: between them a key is taken, and the rest waits again."""
    run.read("63.4")
    bench = run.shell.bench
    QTest.keyClicks(QApplication.focusWidget(), "10.5")
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Enter)
    while bench.job.view.latest.of("p1") is None or bench.job.view.latest.of("p1").engine == FOR_NOW:
        run.application.processEvents()

    assert bench.is_behind
    QTest.keyClicks(QApplication.focusWidget(), "6")
    assert QApplication.focusWidget().text() == "6"
    assert made_so_far(bench.job.view, "notes") is None
    asked = 0
    while made_so_far(bench.job.view, "notes") is None:
        run.application.processEvents()
        asked += 1
    assert asked > 20
    run.settle()
    assert not bench.is_behind


def test_what_can_not_be_read_stays_open_and_one_key_takes_the_likeliest(run):
    run.read("1,250")
    row = _step(run).rows[0]
    assert row.field.property("open") is True
    assert "/2" in row.beside.text()
    assert run.shell.bench.job.view.result.points == ()

    run.type("/2")

    entry = run.shell.bench.job.view.standing[Slot("p1", 1, 0)].entry
    assert entry.reading is not None
    assert run.shell.bench.job.job.events[0].entry.raw_text == "1,250"


def test_a_draft_that_can_not_be_read_says_what_is_most_likely(run):
    run.type("1,250")

    assert _step(run).rows[0].beside.text() == "not read yet · most likely 1250 Vpp"


def test_strike_takes_the_last_entry_out_and_leaves_it_on_record(run):
    run.read("63.4")
    run.type("/1")

    assert _texts(run) == []
    assert _step(run).run.slot == Slot("p1", 1, 0)
    assert [event.kind for event in run.shell.bench.job.job.events] == [EventKind.ENTER, EventKind.STRIKE]


def test_back_one_and_typing_over_replaces(run):
    run.read("63.4")
    run.type("-")
    assert _step(run).run.slot == Slot("p1", 1, 0)

    run.read("63.9")

    assert _texts(run) == ["63.9"]
    assert len(run.shell.bench.job.job.events) == 3


def test_enter_over_what_stands_keeps_it(run):
    run.read("63.4")
    run.press("up", "enter")

    assert len(run.shell.bench.job.job.events) == 1


def test_a_star_adds_a_round_at_this_point(run):
    run.type("*")

    assert run.shell.bench.job.job.point("p1").repeats == 3
    assert _step(run).run.slot == Slot("p1", 3, 0)


def test_undo_and_redo_by_keys_leave_their_trace(run):
    run.read("63.4")
    run.press("ctrl+z")
    assert _texts(run) == []
    assert _step(run).run.slot == Slot("p1", 1, 0) and _step(run).current_widget() is run.focus  # to be made again
    run.press("ctrl+shift+z")

    assert _texts(run) == ["63.4"]
    assert _step(run).run.slot == Slot("p1", 1, 1) and _step(run).current_widget() is run.focus  # where one was
    assert len(run.shell.bench.job.job.events) == 3


def test_an_entry_that_was_taken_back_is_made_again_in_its_place(run):
    """An open one, too: the keyboard goes back to it, and on from there."""
    run.read("1,250")
    run.press("ctrl+z")
    run.read("63.4")

    assert [(slot, event.entry.raw_text) for slot, event in run.shell.bench.job.view.standing.items()] == [
        (Slot("p1", 1, 0), "63.4")
    ]
    assert _step(run).run.slot == Slot("p1", 1, 1)
    run.read("25.6")
    run.press("ctrl+z", "ctrl+z")
    assert _step(run).run.slot == Slot("p1", 1, 0)
    run.press("ctrl+shift+z", "ctrl+shift+z")  # what is typed next doesn't take an entry's place
    assert _texts(run) == ["63.4", "25.6"] and _step(run).run.slot == Slot("p1", 2, 0)
    run.press("up", "ctrl+z")
    assert _step(run).run.slot == Slot("p1", 1, 1)
    run.type("2")  # half typed: what is undone meanwhile doesn't take the hand away
    run.shell.undo()
    assert _step(run).run.slot == Slot("p1", 1, 1) and run.focus.text() == "2"


def test_points_are_walked_with_page_keys(run):
    run.press("pgdn", "pgdn")
    assert _step(run).run.slot.point == "p3"
    run.press("pgup")

    assert _step(run).run.slot.point == "p2"
    assert _step(run).current_widget() is run.focus


def test_the_needle_is_nudged_by_quarter_divisions(run):
    run.read("63.4")
    run.type("10")

    run.press("shift+up")

    assert run.focus.text() == "10.25"
    run.press("shift+down", "shift+down")
    assert run.focus.text() == "9.75"


def test_the_needle_can_be_dragged(run):
    run.read("63.4")
    dial = _step(run).echo.dial

    run.click(dial, QPoint(dial.width() // 2, 40))

    assert float(_step(run).rows[1].field.text()) == pytest.approx(5.0, abs=0.5)
    run.press("enter")
    assert len(_texts(run)) == 2


def test_a_click_on_a_field_moves_the_run_there(run):
    run.click(_step(run).rows[1].field)

    run.read("10.5")

    assert Slot("p1", 1, 1) in run.shell.bench.job.view.standing


@pytest.mark.parametrize("text", ["abc", "63,4,2", "9e999", "<40", "off scale", "12 W", "6 3"])
def test_nothing_that_is_typed_is_refused_or_lost(run, text):
    run.read(text)

    events = run.session.logbook.job("demo-teal").events
    assert [event.entry.raw_text for event in events] == [text.strip()]


def test_the_headline_follows_the_run(run):
    step = _step(run)
    assert step.headline.text().startswith("Read Sedge 200, then Teal 20")
    run.read("63.4", "10.5")
    run.press("up")

    assert step.headline.text().startswith("At 2.182")
    assert step.headline.accessibleName() == step.headline.text()


def test_another_meter_on_the_line_has_its_own_row_and_dial(run):
    bench = run.shell.bench
    other = next(part for part in run.session.kit if part.id == "bittern")
    assert _step(run).rows[1].name.text() == "Teal 20"

    bench.job.edit(with_exchanged(bench.job.job, bench.job.job.hookups[0], "meter", other), "choose")
    run.settle()

    assert _step(run).rows[1].name.text() == "Bittern 200"
    run.press("alt+5")
    run.read("63.4", "10.5")
    assert len(_texts(run)) == 2


def test_a_state_that_changes_is_seen(demo):
    shown = label("12.3 W", "running")
    shown.show()
    drafted = shown.grab().toImage()
    set_state(shown, kept="true")

    assert shown.grab().toImage() != drafted
