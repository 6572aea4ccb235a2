"""Two crossing needles in the run, both entered or dragged; each end of the line measured in the step “parts”."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint

from fenmist.kit.draft import draft_from_part, part_from_draft
from fenmist.kit.matchsheet import CROSSING, NEEDLES, crosses
from support.builders import arc
from support.matches import end, match_job, watt_meter


def crossing_meter(is_crossing=True):
    made = watt_meter((200.0,))
    shows = tuple(replace(item, ranges=(replace(item.ranges[0], scale=arc()),)) for item in made.indicators)
    return replace(made, indicators=shows, settings={NEEDLES: CROSSING} if is_crossing else {})


@pytest.fixture
def at_the_run(hands):
    job = match_job(crossing_meter(), (end("r25", 25.0), end("null", 50.0)), levels=(40.0,))
    hands.shell.session.logbook.add_job(job)
    hands.shell.open_job(job.id)
    hands.press("alt+5")
    return hands


def test_both_needles_stand_over_one_dial_and_cross_on_the_swr(at_the_run):
    step = at_the_run.shell.bench.step
    assert step.echo.crossed.isVisible() and not step.echo.dial.isVisible()
    assert "where they cross" in step.echo.caption.text()

    at_the_run.read("40")
    at_the_run.type("10")
    assert step.echo.caption.text().startswith("they cross at SWR 3.00 (")  # a quarter comes back
    at_the_run.press("backspace", "backspace")
    at_the_run.type("0.4")
    assert step.echo.caption.text().startswith("they cross where lines bunch up: SWR below ")


def test_a_needle_is_dragged_and_the_other_stays(at_the_run):
    step = at_the_run.shell.bench.step
    dial = step.echo.crossed
    for place, (watts, field) in enumerate(((60.0, 0), (20.0, 1))):
        at = dial._at(place, arc().deflection(watts), 1.5)
        at_the_run.click(dial, QPoint(round(at.x()), round(at.y())))
        assert float(step.rows[field].field.text()) == pytest.approx(watts, abs=2.5)
        at_the_run.press("enter")

    standing = [event.entry.reading.value for event in at_the_run.shell.bench.job.view.standing.values()]
    assert standing == pytest.approx([60.0, 20.0], abs=2.5)


def test_a_meter_whose_needles_stand_one_after_the_other_has_the_dial_of_the_entry_in_hand(hands):
    job = match_job(crossing_meter(is_crossing=False), (end("r25", 25.0), end("null", 50.0)), levels=(40.0,))
    hands.shell.session.logbook.add_job(job)
    hands.shell.open_job(job.id)
    hands.press("alt+5")
    step = hands.shell.bench.step

    assert step.echo.dial.isVisible() and not step.echo.crossed.isVisible()


def test_it_is_typed_in_the_kit():
    part = crossing_meter(is_crossing=False)
    typed = part_from_draft(part, {**draft_from_part(part), "needles": CROSSING})
    assert crosses(typed) and not crosses(part)
    assert not crosses(replace(typed, indicators=typed.indicators[:1]))  # forward alone crosses nothing


def test_each_end_of_the_line_is_measured_in_the_step_parts(at_the_run):
    """50 and 25 Ω, the second measured as 26+j1: the table follows what is chosen, and the spot moves."""
    hands = at_the_run
    hands.press("alt+3")
    step = hands.shell.bench.step
    assert step.ends.isVisible() and [step.ends.itemText(n) for n in range(2)] == ["r25", "null"]
    assert step.headline.text() == "None of the 2 ends of the line is measured: what is stated of them counts."

    hands.pick(step.ends, "r25")
    step.table.setFocus()
    step.table.setCurrentCell(0, 1)
    hands.type("26+j1")
    hands.press("enter")
    job = hands.shell.bench.job.job
    assert job.part("r25").characterisations[0].raw == ("26+j1",)
    assert job.part("null").characterisations == ()
    assert step.headline.text().startswith("1 of 2 ends are measured")
    hands.pick(step.ends, "null")
    assert step.table.texts(0)[1] == ""
