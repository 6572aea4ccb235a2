"""The run beyond digits: carrier and heat, skip, doubt, reasons, series, a window of its own, resuming."""

import json
from dataclasses import replace

import pytest
from PySide6.QtCore import QSettings

from fenmist.calibration.edit import plan_with_cell
from fenmist.desk.shell import Shell
from fenmist.desk.theme import ThemeHolder
from fenmist.reading.event import EventKind, Slot, struck


def step_of(hands):
    return hands.shell.bench.step_at(4)


def test_the_carrier_is_on_from_the_first_digit_to_the_last_entry_of_the_point(run):
    step = step_of(run)
    assert "carrier off" in step.heat.text()
    run.type("6")
    assert "carrier on" in step.heat.text()
    run.type("3.4")
    run.press("enter")
    run.read("10.5", "63.3")
    assert "carrier on" in step.heat.text()
    run.read("10.25")
    run.until(lambda: "carrier off" in step.heat.text())
    assert "carrier off" in step.heat.text()


def test_plus_says_otherwise_and_it_is_on_record(run):
    run.read("63.4")
    run.type("+")

    assert "carrier off" in step_of(run).heat.text()
    events = run.shell.bench.job.job.events
    assert (events[-1].kind, events[-1].reason) == (EventKind.CARRIER, "off")
    run.type("+")
    assert "carrier on" in step_of(run).heat.text()


def test_a_hot_load_is_said_in_word_and_shape(run):
    job = run.shell.bench.job
    load = next(part for part in job.job.kit if part.id == "reedmace")
    hot = replace(load, ports=(replace(load.ports[0], power_limit_w=0.5),))
    hot = replace(
        hot, properties={**hot.properties, "rated_time_s": replace(hot.properties["rated_time_s"], value=1.0)}
    )
    job.edit(job.job.with_part(hot), "a small load")
    run.type("6")
    run.settle(1.2)
    step_of(run)._tick()

    assert step_of(run).advice.text().startswith(("✕", "▲"))


def test_slash_three_skips_the_round_and_again_asks_for_it(run):
    run.type("/3")
    assert step_of(run).run.slot == Slot("p1", 2, 0)
    assert run.shell.bench.job.view.result.missing == 7

    run.press("up", "up")
    run.type("/3")

    assert run.shell.bench.job.view.result.missing == 8


def test_slash_four_doubts_the_last_entry_and_the_margin_says_so(run):
    run.read("63.4", "10.5")
    run.type("/4")

    assert [event.reason for event in run.shell.bench.job.job.ledger.doubts.values()] != [""]
    assert any(view.note.code == "entry.doubted" for view in run.shell.bench.margin.views)
    run.type("/4")
    assert [event.reason for event in run.shell.bench.job.job.ledger.doubts.values()] == [""]


def test_slash_five_goes_through_the_ranges_until_the_meter_was_read(run):
    run.type("/5")
    assert run.shell.bench.job.job.plan[0].range_id == "5"
    run.type("/5")
    assert run.shell.bench.job.job.plan[0].range_id == "20"
    run.read("63.4", "10.5")

    run.press("up")
    run.type("/5")

    assert run.shell.bench.job.job.plan[0].range_id == "20"
    assert "was read on range 20" in step_of(run).hint.text()


def test_slash_six_gives_the_strike_another_reason(run):
    run.read("63.4")
    run.type("/1")
    assert list(struck(run.shell.bench.job.job.events).values()) == ["misread"]

    run.type("/6")

    assert list(struck(run.shell.bench.job.job.events).values()) == ["wrong range"]


def test_slash_seven_moves_a_round_to_the_level_it_was_read_at(run):
    job = run.shell.bench.job
    job.edit(plan_with_cell(job.job, 1, 0, "2.182 MHz"), "plan")
    job.edit(plan_with_cell(job.job, 1, 1, "5"), "plan")
    run.read("63.4", "10.5", "44.7", "5.1")

    run.type("/7")

    moved = [slot for slot in job.job.ledger.standing if slot.point == job.job.plan[1].id]
    assert [(slot.round, slot.place) for slot in moved] == [
        (1, f"{job.job.plan[1].id}/1/0"),
        (1, f"{job.job.plan[1].id}/1/1"),
    ]


def test_notes_of_the_point_in_hand_come_first_in_the_margin(demo):
    demo.shell.open_job("demo-sandpiper")
    demo.press("alt+5")
    step = demo.shell.bench.step
    for number in (1, 2, 3, 4):
        while demo.shell.bench.step.point_in_hand != f"p{number}":
            demo.press("pgup" if demo.shell.bench.step.point_in_hand > f"p{number}" else "pgdn")
        about = [view.note.about.partition("/")[0] for view in demo.shell.bench.margin.views]
        there = any(note.about.startswith(f"p{number}/") for note in step.job.view.notes)
        assert (about[0] == f"p{number}") == there


def test_what_may_follow_the_command_key_is_shown(run):
    run.type("/")

    assert "3\u00a0skip\u00a0the\u00a0round  4" in step_of(run).hint.text()
    run.press("backspace")
    assert step_of(run).rows[0].field.text() == ""


def test_what_may_follow_is_no_longer_shown_once_something_followed(run):
    run.read("63.4")
    run.type("/4")

    assert "strike" not in step_of(run).hint.text()


def test_scatter_and_drift_develop_with_the_rounds(run):
    step = step_of(run)
    run.read("63.4", "10.5")
    run.press("up")
    assert step.running.scatter.text() == "scatter —"
    run.press("pgup")
    run.read("63.6", "10.25")
    run.press("pgup")

    assert "%" in step.running.scatter.text()
    assert "%" in step.running.drift.text()


def test_power_against_time_shows_lowest_highest_mean_and_time_above(run):
    run.read("63.4", "10.5", "60.0", "9.5")
    run.press("pgup")
    run.press("f10")
    series = step_of(run).below.series

    assert "Teal 20: 9.5" in series.said.text()
    assert "mean" in series.said.text()
    series.limit.setFocus()
    run.type("9 W")
    assert "above 9" in series.said.text()
    run.press("f10")
    assert step_of(run).below.currentWidget() is step_of(run).below.plot


def test_the_readings_are_torn_off_read_there_and_put_back(run):
    run.press("f11")
    torn = run.shell.bench.torn
    assert torn.isVisible()
    torn.activateWindow()
    step_of(run).enter()
    run.read("63.4")
    assert run.shell.bench.job.view.standing[Slot("p1", 1, 0)].entry.raw_text == "63.4"

    torn.close()
    run.settle()

    assert run.shell.bench.torn is None
    assert step_of(run).isVisible()
    run.shell.activateWindow()
    run.settle(0.05)
    step_of(run).enter()
    run.read("10.5")
    assert Slot("p1", 1, 1) in run.shell.bench.job.view.standing


def test_after_a_crash_the_run_goes_on_exactly_where_it_was(run):
    """Nothing is closed: a second window over the same session sees only what was on disk."""
    run.read("63.4", "10.5")
    run.type("63.")
    run.settle(0.8)
    place = json.loads(run.session.logbook.setting("place"))
    assert place["draft"] == "63."

    run.shell.hide()
    settings = QSettings(str(run.session.logbook.path.with_suffix(".2.ini")), QSettings.Format.IniFormat)
    shell = Shell(run.session, ThemeHolder(run.application), settings)
    shell.show()
    run.application.processEvents()
    step = shell.bench.step

    assert step.where == "readings"
    assert step.run.slot == Slot("p1", 2, 0)
    assert step.rows[0].field.text() == "63."
    assert not step.rows[0].field.fresh
    shell.close()
    shell.deleteLater()


def test_the_keypad_can_be_changed_and_is_kept(run):
    run.press("f1")
    keys = run.shell.places["keys"]
    field = keys.fields["carrier"]
    field.setFocus()
    field.selectAll()
    run.type("#")
    run.press("tab")
    keys = run.shell.places["keys"]
    assert keys.fields["carrier"].text() == "#"
    field = keys.fields["repeat"]
    field.setFocus()
    field.selectAll()
    run.type("7")
    run.press("tab")
    assert "typed in readings" in keys.said.text()
    run.press("esc", "alt+5")

    run.read("63.4")
    run.type("#")

    assert run.shell.bench.job.job.events[-1].reason == "off"
    assert run.shell.settings.value("keypad/carrier") == "#"


@pytest.mark.parametrize(("name", "shown"), [
    ("Teal", "Teal"), ("Teal 20 directional wattmeter", "Teal 20 directional wattmeter"),
    ("Unterwasserschallgeschwindigkeitsmesser", "…"),
    ("Teal 20 of the pilot boat that lies at the second quay behind the lock", "…"),
], ids=["short", "words", "one long word", "a sentence"])  # fmt: skip
def test_a_long_name_beside_its_field_wraps_or_ends_in_a_sign(run, name, shown):
    job = run.shell.bench.job
    job.edit(job.job.with_part(replace(job.job.dut_part, label=name)), "name")
    run.settle()
    row = step_of(run).rows[1]

    widest = max(row.name.fontMetrics().horizontalAdvance(word) for word in row.name.text().split())
    assert row.name.text().endswith(shown)
    assert widest <= row.name.width()
    assert row.name.height() >= row.name.heightForWidth(row.name.width())
    assert row.name.height() <= 1.3 * row.field.height()
    assert row.name.accessibleName() == name
