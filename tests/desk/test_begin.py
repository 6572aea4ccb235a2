"""Beginning a job: the question, what came in, what the shelf can decide; one key takes a bench."""

from dataclasses import replace

import pytest

from fenmist.calibration.prediction import Predicted
from fenmist.desk.widgets.bench_strip import ROLE
from fenmist.reading.event import Slot
from support.texts import spaced


@pytest.fixture
def page(hands):
    hands.press("ctrl+n")
    made = hands.shell.places["begin"]
    hands.until(lambda: not made.is_looking)
    return made


def names(page):
    return [page.table.texts(row)[0] for row in range(page.table.rowCount())]


def test_a_cross_check_is_begun_by_a_handful_of_keys(hands, page):
    """Ctrl+N, Enter: a job with hook-up, channels and plan; then the readings."""
    assert hands.shell.here == "begin"
    assert spaced(page.headline.text()).startswith("With generic digital wattmeter (another meter in the line) generic")
    assert "decides ±10 % everywhere" in spaced(page.headline.text())
    hands.press("enter", "alt+5")
    hands.read("97", "95")
    job = hands.shell.bench.job.job
    assert (len(job.plan), job.plan[0].repeats) == (6, 3)
    assert {point.target_w for point in job.plan} == {100.0}
    assert hands.shell.bench.job.view.result.of(job.plan[0].id) is None or len(job.events) == 2
    assert Slot(job.plan[0].id, 1, 0) in job.standing


def test_every_instrument_has_its_row_the_best_first_and_the_blocked_last(page):
    found = names(page)
    assert "oscilloscope across the load: generic oscilloscope" in found
    last = page.table.texts(len(found) - 1)
    assert last[2] == "—"
    level = page.table.texts(found.index("generator's own level: generic signal generator"))
    assert "gives 20 mW" in spaced(level[3])
    points = page.table.item(0, 1).data(ROLE)
    assert all(isinstance(point, Predicted) and point.decides for point in points)
    assert page.table.texts(0)[1] == "decides at 6 of 6"


def test_what_is_typed_is_looked_at_again(hands, page):
    page.frequencies.setFocus()
    hands.press("ctrl+a")
    hands.type("7.1 50 MHz")
    hands.until(lambda: not page.is_looking)
    assert page.table.texts(0)[1] == "decides at 1 of 2"
    page.table.setFocus()
    hands.press("down", "up")
    assert "outside the span of generic wattmeter" in page.said.text()
    page.level.setFocus()
    hands.press("ctrl+a")
    hands.type("much")
    hands.until(lambda: not page.is_looking)
    assert "much" in page.headline.text()
    assert not page.begin.isEnabled()


def test_another_question_has_other_devices_and_says_what_it_would_know(hands, page):
    hands.pick(page.question, "How much does this source give?")
    hands.until(lambda: not page.is_looking)
    assert [page.device.itemText(n) for n in range(page.device.count())] == [
        "generic transmitter", "generic signal generator",
    ]  # fmt: skip
    assert "generic transmitter would be known to ±" in spaced(page.headline.text())
    hands.pick(page.device, "generic signal generator")
    hands.until(lambda: not page.is_looking)
    assert page.level.text() == "20 mW"
    page.table.setFocus()
    hands.press("enter")
    job = hands.shell.bench.job.job
    assert (job.question, job.dut) == ("output", "generic-generator")
    hands.press("alt+5")
    hands.read("13 dBm", "19.5 mW")
    assert "generic signal generator gives 19" in spaced(hands.shell.bench.step.headline.text())


def test_what_the_kit_lacks_is_named(hands):
    session = hands.session
    for part in session.kit:
        if "voltmeter" in part.label:
            session.logbook.save_parts([replace(part, retired=True)], session.now())
    hands.press("ctrl+n")
    page = hands.shell.places["begin"]
    hands.until(lambda: not page.is_looking)
    assert "voltmeter behind a divider (the kit has no RF voltmeter)" in page.lacking.text()


def test_nothing_is_begun_by_esc(hands, page):
    hands.press("esc")
    assert hands.shell.here != "begin"
    assert not hands.session.has_jobs


def test_a_job_moves_to_another_bench_until_something_was_read(hands):
    hands.start_job(planned="7.1 MHz")
    hands.press("alt+2")
    hands.click(hands.shell.bench.step.benches)
    page = hands.shell.places["begin"]
    hands.until(lambda: not page.is_looking)
    assert not page.device.isEnabled()
    assert page.frequencies.text() == "7.1 MHz"
    hands.choose_bench("another meter in the line: generic digital", "7.1 MHz")
    job = hands.shell.bench.job
    assert job.job.bench.label == "another meter in the line"
    assert job.job.order == ("wattmeter 2", "wattmeter")
    assert job.job.plan[0].sequence == job.job.order
    hands.press("ctrl+z")
    assert job.job.bench.label == "oscilloscope across the load"
    hands.press("alt+5")
    hands.read("141")
    hands.press("ctrl+b")
    hands.choose_bench("another meter in the line: generic digital", "7.1 MHz")
    assert "Readings were taken on the present bench" in page.said.text()
    assert job.job.bench.label == "oscilloscope across the load"


def test_the_strip_is_drawn_in_both_looks(hands, page):
    before = page.table.viewport().grab().toImage()
    hands.press("ctrl+t")
    hands.settle(0.1)
    assert page.table.viewport().grab().toImage() != before


def test_the_hook_up_that_was_begun_shows_its_name_at_once(hands):
    hands.start_job(planned="7.1 MHz")
    hands.press("alt+2")
    assert hands.shell.bench.step.name.text() == "oscilloscope across the load"


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("frequencies", "abc", "doesn't begin with a number"), ("frequencies", "7.1 -3 MHz", "lie above 0"),
        ("level", "", "Nothing was typed"), ("level", "0 W", "lie above 0"),
    ],
)  # fmt: skip
def test_what_makes_no_sense_is_said_and_begins_nothing(hands, page, name, text, says):
    field = getattr(page, name)
    field.setFocus()
    hands.press("ctrl+a", "del")
    hands.type(text)
    hands.until(lambda: not page.is_looking)
    assert says in page.headline.text()
    assert page.table.rowCount() == 0
    page.table.setFocus()
    hands.press("enter")
    assert hands.shell.here == "begin"
    assert not hands.session.has_jobs


@pytest.mark.parametrize(("rounds", "says"), [("x", "Rounds: "), ("0", "rounds from 1 to 100")])
def test_rounds_that_make_no_sense_make_no_job_without_a_plan(hands, page, rounds, says):
    page.rounds.setFocus()
    hands.press("ctrl+a")
    hands.type(rounds)
    hands.until(lambda: not page.is_looking)
    page.table.setFocus()
    hands.press("enter")
    assert hands.shell.here == "begin"
    assert says in page.said.text()
    assert not hands.session.has_jobs


def test_nothing_is_looked_for_while_the_page_is_away(hands):
    """Another page is worked on, or the window is out of sight: the rest is found once the page is back."""
    hands.press("ctrl+n")
    page = hands.shell.places["begin"]
    hands.until(lambda: page.table.rowCount() > 0)
    hands.press("ctrl+1")
    found = page.table.rowCount()
    hands.settle(0.5)
    assert page.is_looking and page.table.rowCount() == found
    hands.press("ctrl+n")
    page.frequencies.setFocus()
    hands.press("ctrl+a")
    hands.type("7.1 MHz")
    for seen in (0, 1):  # before the first bench is looked at, and after it
        hands.until(lambda seen=seen: page.table.rowCount() >= seen)
        hands.shell.hide()
        found = page.table.rowCount()
        hands.settle(0.5)
        assert page.is_looking and page.table.rowCount() == found
        hands.shell.show()
    hands.until(lambda: not page.is_looking)
    assert page.table.rowCount() > found and page.table.horizontalHeaderItem(1).text().endswith("at 7.1 MHz")


def test_typing_while_benches_are_looked_at_starts_anew(hands):
    """Each key stops what was looked at before; no half-typed frequency ends in a fault."""
    hands.press("ctrl+n")
    page = hands.shell.places["begin"]
    hands.until(lambda: page.table.rowCount() > 0)
    assert page.headline.text().startswith("So far: nothing here decides")  # better ones are still to come
    page.frequencies.setFocus()
    hands.press("ctrl+a")
    hands.type("x 7.1 MHz")
    hands.until(lambda: not page.is_looking)
    assert "doesn't begin with a number" in page.headline.text()
    page.frequencies.setText("")
    hands.type("7.1 14.2 MHz")
    hands.until(lambda: not page.is_looking)
    assert page.table.texts(0)[1] == "decides at 2 of 2"
