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
    step, headline = adjust.shell.bench.step.turn, adjust.shell.bench.step.headline
    assert "(least squares): 11 of 12 inside the tolerance, 9 as found." in headline.text()
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
    step = adjust.shell.bench.step.turn
    step.table.setFocus()
    adjust.press("home")
    for row, setting in ((1, step.found.answer.exact), (2, step.found.answer.minimax), (0, step.found.answer.as_found)):
        adjust.click(step.table.viewport(), step.table.visualRect(step.table.model().index(row, 0)).center())
        assert step.view.setting is setting
        assert step.slider.value() == round(500 * math.log(setting.gain) / 0.25)
    assert step.marks.accessibleDescription() == "exact at the working level; least squares; least worst case"


def test_ranges_measures_and_places_are_chosen_and_notes_follow(adjust):
    step = adjust.shell.bench.step.turn
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


def texts(grid):
    return [[text.replace("\u202f", " ") for text in grid.texts(row)] for row in range(grid.rowCount())]


def test_bands_that_each_have_a_control_are_turned_alone(adjust):
    step = adjust.shell.bench.step.turn
    band = step.form.inputs["band"]
    band.setFocus()
    adjust.press("down")
    assert {item.point.frequency_hz for item in step.found.turnable.places} == {2.182e6}
    assert len(step.found.turnable.places) == 2
    assert all("at 2.182 MHz" in row[4] for row in texts(step.table))


def test_why_it_errs_and_the_reading_that_proves_it(adjust):
    """F5 brings it to the front; Tab to the button and Enter plans the reading, last in the plan."""
    adjust.press("f5")
    step, job = adjust.shell.bench.step, adjust.shell.bench.job
    said = step.headline.text().replace("\u202f", " ")
    assert said.startswith("Its error goes as the square of the frequency: −")
    assert adjust.focus is step.why.shapes
    rows = texts(step.why.shapes)
    assert [row[0] for row in rows[:2]] == ["square of the frequency", "square root of the frequency"]
    assert step.why.plot.accessibleDescription().startswith("12 points; largest error -23.7")
    assert "50 W at 25 MHz would show" in step.why.offer.text().replace("\u202f", " ")
    before = len(job.job.plan)
    adjust.press("tab", "enter")
    assert len(job.job.plan) == before + 1
    assert (job.job.plan[-1].frequency_hz, job.job.plan[-1].target_w) == (25e6, 50.0)
    assert not step.why.one_more.isVisible()
    assert step.why.offer.text().startswith("A planned reading proves it: 50\u202fW at 25\u202fMHz would show")
    adjust.press("ctrl+z")
    assert len(job.job.plan) == before


def test_factors_and_both_ways_of_looking_one_up(adjust):
    adjust.press("f5", "f5")
    step = adjust.shell.bench.step
    assert step.headline.text().startswith("Multiply what it shows by ")
    rows = texts(step.factors.table)
    assert rows[0][0] == "2.182 MHz"
    assert len(rows[0]) == 3
    assert adjust.focus is step.factors.shown
    adjust.type("50 W at 16.42 MHz")
    stands = step.factors.stands_for.text().replace("\u202f", " ")
    adjust.press("tab")
    adjust.type(f"{stands.split(' ±')[0]} W at 16.42 MHz")
    shows = step.factors.would_show.text().replace("\u202f", " ")
    assert float(shows.split(" ±")[0]) == pytest.approx(50.0, abs=0.3)  # back to what was shown
    assert "can be taken apart: 5 corner points agree" in step.factors.statements.text()
    adjust.press("f5")
    assert adjust.focus is step.turn.slider
