"""Adjust, driven as a user would: the slider moves the errors, a row puts it where that setting is."""

import math

import pytest


@pytest.fixture
def adjust(demo):
    demo.shell.open_job("demo-bittern")
    demo.press("alt+7")
    return demo


def reads(step) -> str:
    return step.reads.text().replace("\u202f", " ")


def test_the_slider_stands_at_the_best_setting_and_arrows_move_it(adjust):
    step = adjust.shell.bench.step
    assert "(least squares): 11 of 12 inside the tolerance, 9 as found." in step.headline.text()
    assert adjust.focus is step.slider
    gain = step.found.answer.least_squares.gain
    assert step.slider.value() == round(500 * math.log(gain) / 0.25)
    before = step.view.accessibleDescription()
    adjust.press("right")
    assert step.view.setting.gain == pytest.approx(math.exp(0.25 * step.slider.value() / 500))
    assert step.view.setting.gain > gain
    assert step.view.accessibleDescription() != before
    assert f"× {step.view.setting.gain:.4f}" in reads(step)


def test_a_row_puts_the_slider_where_its_setting_is(adjust):
    step = adjust.shell.bench.step
    step.table.setFocus()
    adjust.press("home")
    for row, setting in ((1, step.found.answer.exact), (2, step.found.answer.minimax), (0, step.found.answer.as_found)):
        adjust.click(step.table.viewport(), step.table.visualRect(step.table.model().index(row, 0)).center())
        assert step.view.setting is setting
        assert step.slider.value() == round(500 * math.log(setting.gain) / 0.25)
    assert step.marks.accessibleDescription() == "exact at the working level; least squares; least worst case"


def test_ranges_measures_and_places_are_chosen_and_notes_follow(adjust):
    step = adjust.shell.bench.step
    whole = step.found.answer
    field = step.form.inputs["measure"]
    field.setFocus()
    adjust.press("down")
    assert "dB ±" in step.table.texts(0)[3]
    adjust.press("down")
    assert step.found.answer.minimax.worst < whole.minimax.worst  # of full scale a large error is a small share
    at = step.form.inputs["at"]
    at.setFocus()
    adjust.press("down")
    assert step.found.at is step.found.turnable.places[0]
    control = step.form.inputs["control"]
    control.setFocus()
    adjust.press("down")
    assert "W" in step.table.texts(2)[1]
    field.setFocus()
    adjust.press("up")  # a zero isn't weighed in dB
    assert step.found is None and "A zero isn't weighed in dB." in step.left.text()
    assert step.table.rowCount() == 0 and not step.slider.isEnabled()


def test_a_question_without_a_control_has_no_such_step(demo):
    demo.shell.open_job("demo-gadwall")
    demo.press("alt+6", "alt+7")
    bench = demo.shell.bench
    assert bench.number == 5
    assert [item.isVisibleTo(bench.route) for item in bench.route.items] == [True] * 6 + [False, True]
