"""Places, steps, notes, themes: by keyboard and mouse."""

import math
import re
from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLineEdit, QTableWidget

from fenmist.calibration.levels import planned_levels
from fenmist.desk.actions import ACTIONS, EVERYWHERE, by_id
from fenmist.desk.theme import MIST, NIGHT
from fenmist.kit.part import PartKind


def test_the_demo_opens_on_its_list_and_is_marked(demo):
    table = demo.shell.logbook.table

    assert "DEMO" in demo.shell.windowTitle()
    assert [table.item(row, 1).text() for row in range(table.rowCount())] == [
        "Bittern 200 of the pilot boat",
        "Pintail 100: since the storm",
        "Smew 100 of the ferry: hardly heard any more",
        "Gadwall 200: is its peak button one?",
        "Sanderling: constants for its firmware",
        "Whimbrel 200 against three references",
        "Redshank 100 below 1 MHz",
        "Grebe beacon at 474 kHz: what does it give?",
        "Dotterel generator: is a milliwatt one?",
        "Shoveler jumper: what does it take?",
        "Phalarope SWR meter: does it flatter?",
        "Two SWR meters and a tuner: which one lies?",
        "Godwit 200, begun",
        "Knot 200, to be read over the wire",
        "Teal 20, to try",
        "Sandpiper 100: can this be?",
        "Dunlin 60 of the ferry, adjusted",
        "Teal 20 against the tap that was built",
        "Bittern 200 of the pilot boat",
        "Bittern 200 of the pilot boat",
    ]


def test_enter_on_the_list_opens_the_job(demo):
    demo.press("enter")

    assert demo.shell.bench.job.job.id == "demo-bittern"
    assert demo.shell.bench.step.where == "results, budget"


def test_an_empty_logbook_says_how_to_begin(hands):
    assert hands.shell.stack.page is hands.shell.first
    hands.press("ctrl+1")
    assert hands.shell.stack.page is hands.shell.places["no job"]
    hands.press("ctrl+4")
    assert "empty" in hands.shell.logbook.headline.text()

    hands.start_job()

    assert hands.shell.bench.step.where == "receive"


@pytest.mark.parametrize(
    ("key", "place"), [("ctrl+1", "bench"), ("ctrl+2", "tools"), ("ctrl+3", "kit"), ("ctrl+4", "logbook")]
)
def test_places_have_their_keys(demo, key, place):
    demo.press(key)

    assert [name for name, made in demo.shell.top.places.items() if made.isChecked()] == [place]


def test_places_can_be_clicked(demo):
    demo.click(demo.shell.top.places["kit"])

    assert demo.shell.stack.page is demo.shell.kit


def test_steps_can_be_clicked_on_the_route(demo):
    demo.press("enter")
    route = demo.shell.bench.route

    demo.click(route.items[2])

    assert demo.shell.bench.step.where == "parts"
    assert "done" in route.items[1].accessibleName()


def test_no_shortcut_stands_twice_where_both_work():
    for action in ACTIONS:
        clashing = [
            other.id
            for other in ACTIONS
            if other is not action and other.shortcut == action.shortcut and other.key_only == action.key_only
            and (other.where == action.where or EVERYWHERE in (other.where, action.where))
        ]  # fmt: skip
        assert clashing == [], action.id
    assert len({action.id for action in ACTIONS}) == len(ACTIONS)


def test_the_shortcut_page_lists_every_action_and_leads_back(demo):
    demo.press("f1")
    page = demo.shell.places["keys"]
    assert demo.shell.stack.page is page
    shown = {child.text() for child in page.findChildren(type(demo.shell.foot.kept))}
    assert {action.text for action in ACTIONS} <= shown

    demo.press("esc")

    assert demo.shell.stack.page is demo.shell.logbook


def test_the_menu_holds_the_actions_of_the_table(demo):
    texts = {action.text() for action in demo.shell.top.more.menu().actions()}

    assert by_id("view.theme").text in texts
    assert by_id("app.quit").text in texts


# notes


def test_a_note_is_answered_by_keyboard_and_the_answer_is_kept(demo):
    demo.press("enter", "f6", "enter")
    demo.type("checked with a short lead")
    demo.press("enter")

    job = demo.shell.bench.job.job
    assert job.answers["lead.stub@lead"].text == "checked with a short lead"
    assert demo.session.logbook.job(job.id).answers["lead.stub@lead"].text == "checked with a short lead"
    folded = [view for view in demo.shell.bench.margin.views if view.answer]
    assert [view.note.code for view in folded] == ["lead.stub"]


def test_an_answered_note_opens_again_when_its_evidence_moves(demo):
    demo.press("enter", "f6", "enter", "enter")
    margin = demo.shell.bench.margin
    assert any(view.answer for view in margin.views)

    demo.press("alt+3")
    form = demo.shell.bench.step_at(2).forms["lead"]
    field = form.inputs["length"]
    field.setFocus()
    demo.press("ctrl+a")
    field.selectAll()
    demo.type("0.6 m")
    demo.press("tab")

    assert not any(view.answer for view in margin.views)
    assert "lead.stub" in [view.note.code for view in margin.views]


@pytest.mark.parametrize("metres", [0.3, 0.6])
def test_half_an_answer_stays_while_the_job_changes_the_note_it_is_for_too(demo, metres):
    demo.press("enter", "f6", "enter")
    demo.type("checked wi")
    job = demo.shell.bench.job
    shown = demo.shell.bench.margin.views
    lead = job.job.part("lead")
    properties = {**lead.properties, "length_m": replace(lead.properties["length_m"], value=metres)}
    job.edit(replace(job.job.with_part(replace(lead, properties=properties)), title="again"), "measured again")
    demo.settle()

    assert (demo.shell.bench.margin.views == shown) is (metres == 0.3)  # made anew only where it says something else
    demo.type("th a short lead")
    demo.press("enter")
    assert job.job.answers["lead.stub@lead"].text == "checked with a short lead"


def test_tab_goes_through_the_notes_from_the_top(demo):
    demo.press("enter", "f6")
    margin = demo.shell.bench.margin
    demo.click(next(child for child in margin.findChildren(QAbstractButton) if "more" in child.text()))
    demo.press("f6")
    walked = []
    for _ in margin.views:
        walked.append(demo.focus)
        demo.press("tab")

    assert walked == list(margin.views)
    assert demo.focus.text() == "show fewer"


def test_only_the_three_most_severe_notes_are_shown_until_asked(demo):
    demo.press("enter")
    margin = demo.shell.bench.margin

    assert len(margin.views) == 3
    more = next(child for child in margin.findChildren(QAbstractButton) if "more" in child.text())
    demo.click(more)
    assert len(margin.views) > 3


# hook-up


def test_the_line_is_walked_and_a_part_chosen_by_keyboard(demo):
    demo.press("enter", "alt+2")
    step = demo.shell.bench.step_at(1)
    demo.press("right")
    assert "Bittern 200" in step.line.accessibleDescription()

    demo.press("enter")
    demo.press("down", "enter")

    assert demo.shell.bench.job.job.dut == "teal"
    demo.shell.activateWindow()
    demo.press("ctrl+z")
    assert demo.shell.bench.job.job.dut == "bittern"


def test_units_on_the_line_go_round(demo):
    demo.press("enter", "alt+2")
    line = demo.shell.bench.step_at(1).line
    level = planned_levels(demo.shell.bench.job.job)["line"].highest.at("meter", "out")
    seen = []
    for _ in range(5):
        seen.append(line.level_text(level).replace("\u202f", " "))
        demo.press("u")

    assert [*seen[:2], seen[4]] == ["100 W", "+50.0 dBm", "100 W"]
    volts, swr = float(seen[2].removesuffix(" V rms")), float(seen[3].removeprefix("SWR "))
    assert volts == pytest.approx(math.sqrt(100 * 50), rel=(swr - 1) / (swr + 1) + 0.01)  # within 1 ± |Γ|


def test_the_jumper_is_taken_out_and_put_back(demo):
    demo.press("enter", "alt+2", "right", "right", "del")
    kinds = [item.kind for item in demo.shell.bench.step_at(1).line.placed()]
    assert PartKind.JUMPER not in kinds

    demo.press("ins")
    demo.type("jumper")
    demo.press("enter")

    assert PartKind.JUMPER in [item.kind for item in demo.shell.bench.step_at(1).line.placed()]


def test_a_part_is_selected_by_mouse(demo):
    demo.press("enter", "alt+2")
    line = demo.shell.bench.step_at(1).line
    box = next(item.box for item in line.placed() if item.kind is PartKind.LOAD)

    demo.click(line, QPoint(int(box.center().x()), int(box.center().y())))

    assert "Reedmace 150" in line.accessibleDescription()


def test_a_part_over_its_rating_says_so_on_itself(demo):
    demo.press("enter", "alt+4")
    step = demo.shell.bench.step_at(3)
    step.plan.setFocus()
    step.plan.setCurrentCell(0, 1)
    demo.press("f2")
    demo.type("195 W")
    demo.press("return")

    demo.press("alt+2")
    step = demo.shell.bench.step_at(1)
    over = {item.label: item.over for item in step.line.placed() if item.over}
    assert "✕ limit" in over["Reedmace 150"]
    assert "over a rating" in step.headline.text()
    assert demo.shell.bench.margin.views[0].note.severity == "stop"


def test_a_part_that_a_plan_puts_at_its_rating_is_watched_not_stopped(demo):
    """Teal 20 rated 20 W, 20 W planned behind it: 20.2 W, as well as a plan is known."""
    demo.shell.open_job("demo-teal")
    demo.press("alt+2")
    step = demo.shell.bench.step_at(1)

    said = {item.label: (item.over, item.stops) for item in step.line.placed() if item.over}
    assert said["Teal 20"] == ("● limit 20\u202fW", False)
    assert "over a rating" not in step.headline.text()


@pytest.mark.parametrize(("column", "text"), [(0, "fast"), (1, "lots"), (2, "7"), (3, "-1")])
def test_a_plan_cell_that_makes_no_sense_is_said_and_nothing_is_lost(demo, column, text):
    demo.press("enter", "alt+4")
    step = demo.shell.bench.step_at(3)
    before = demo.shell.bench.job.job.plan
    step.plan.setFocus()
    step.plan.setCurrentCell(0, column)
    demo.press("f2")
    demo.type(text)
    demo.press("return")

    assert step.problem.isVisible()
    assert demo.shell.bench.job.job.plan == before


def test_the_tolerance_is_typed_and_wrong_ones_are_said_beneath(demo):
    demo.press("enter", "alt+4")
    form = demo.shell.bench.step_at(3).asked
    field = form.inputs["tolerance"]
    for text, fine in (("7 %", True), ("none", False)):
        field.setFocus()
        field.selectAll()
        demo.type(text)
        demo.press("tab")
        assert bool(demo.problem(form, "tolerance")) is not fine

    assert demo.shell.bench.job.job.tolerance.value == pytest.approx(0.07)


# parts, results, tools, kit


def test_the_load_is_typed_and_what_it_comes_to_stands_beside_it(demo):
    demo.shell.open_job("demo-teal")
    demo.press("alt+3")
    table = demo.shell.bench.step_at(2).table
    row = next(r for r in range(table.rowCount()) if not table.texts(r)[1])
    assert (table.currentRow(), table.currentColumn()) == (row, 1)
    demo.press("f2")
    demo.type("52<-8")
    demo.press("return")

    assert table.texts(row)[3].replace("\u202f", " ") == "51.5 − j7.2 Ω"
    assert table.texts(row)[5] == "measured"


def test_an_impedance_that_makes_no_sense_is_said(demo):
    demo.shell.open_job("demo-teal")
    demo.press("alt+3", "f2")
    demo.type("fifty")
    demo.press("return")

    assert "not an impedance" in demo.shell.bench.step_at(2).problem.text()


def test_a_row_of_results_shows_its_budget(demo):
    demo.press("enter")
    step = demo.shell.bench.step_at(5)
    first = step.budget_title.text()
    demo.press("down", "down")

    assert step.budget_title.text() != first
    assert step.bars.lines
    assert "Improve next" in step.improve.text()


def test_the_certificate_is_shown_as_pages(demo):
    demo.press("enter", "alt+8")
    pages = demo.shell.bench.step_at(7)

    demo.until(lambda: any("page 1 of" in child.accessibleName() for child in pages.findChildren(type(pages.said))))


def test_the_tool_answers_as_one_types(demo):
    demo.press("ctrl+2")
    tools = demo.shell.tools.tool
    assert tools.headline.text().replace("\u202f", " ") == "22.4 ± 1.7 W go into the load."
    field = tools.form.inputs["volts"]
    field.selectAll()
    demo.type("36.0624 Vrms")
    demo.settle(0.1)
    assert tools.answer.vrms_v == pytest.approx(36.0624)

    field.selectAll()
    demo.type("102")
    demo.settle(0.1)

    assert "doesn't say how" in tools.said.text()
    assert tools.answer is None
    assert tools.steps.boxes == {}
    assert tools.bars.lines == []
    assert tools.margin.views == ()


def test_kit_fields_are_kept_and_wrong_ones_said(demo):
    demo.press("ctrl+3")
    kit = demo.shell.kit
    row = next(r for r in range(kit.table.rowCount()) if kit.table.texts(r)[0].startswith("Sedge"))
    kit.table.setCurrentCell(row, 0)
    demo.settle()
    field = kit.form.inputs["accuracy"]
    for text in ("1.5 %", "many"):
        field.setFocus()
        field.selectAll()
        demo.type(text)
        demo.press("tab")

    scope = next(part for part in demo.session.kit if part.id == "sedge")
    assert scope.indicators[0].spec[0].value == pytest.approx(0.015)
    assert demo.problem(kit.form, "accuracy")


def test_a_new_part_is_added_and_named(demo):
    demo.press("ctrl+3")
    before = len(demo.session.kit)
    demo.shell.kit.kind.setCurrentText(str(PartKind.LOAD))
    demo.click(demo.shell.kit.add)
    demo.focus.selectAll()
    demo.type("Bulrush 50")
    demo.press("tab")

    assert len(demo.session.kit) == before + 1
    assert demo.session.kit[-1].label == "Bulrush 50"


# looks


def test_day_and_night_are_kept(demo):
    demo.press("ctrl+t")

    assert demo.shell.themes.theme is NIGHT
    assert demo.shell.settings.value("theme") == NIGHT.name


def _luminance(color: QColor) -> float:
    """WCAG 2.1 relative luminance, from memory."""

    def linear(value: float) -> float:
        return value / 12.92 if value <= 0.03928 else ((value + 0.055) / 1.055) ** 2.4

    return 0.2126 * linear(color.redF()) + 0.7152 * linear(color.greenF()) + 0.0722 * linear(color.blueF())


@pytest.mark.parametrize("theme", [MIST, NIGHT], ids=lambda theme: theme.name)
@pytest.mark.parametrize("text", ["ink", "second", "teal", "rust", "stop"])
@pytest.mark.parametrize("ground", ["mist", "paper"])
def test_text_stands_out_from_its_ground(theme, text, ground):
    """Contrast of at least 4.5 to 1 (WCAG 2.1, 1.4.3, from memory)."""
    light, dark = sorted((_luminance(theme.color(name)) for name in (text, ground)), reverse=True)

    assert (light + 0.05) / (dark + 0.05) >= 4.5


def test_every_control_has_a_name(demo):
    demo.press("enter")
    for number in range(7):
        demo.press(f"alt+{number + 1}")
        for kind in (QLineEdit, QComboBox, QTableWidget, QAbstractButton):
            for control in demo.shell.bench.step.findChildren(kind):
                hidden = re.match(r"qt_|", control.objectName()).group() == "qt_"
                assert hidden or control.accessibleName() or not control.isVisible(), (kind, control)


def test_a_part_painted_changes_with_the_theme(demo):
    demo.press("enter", "alt+5")
    day = demo.shell.grab().toImage().pixelColor(600, 500)
    demo.press("ctrl+t")
    demo.settle(0.1)

    assert demo.shell.grab().toImage().pixelColor(600, 500) != day
