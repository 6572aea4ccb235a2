"""Two crossing needles in the run, both entered or dragged; each end of the line measured in the step “parts”."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint

from fenmist.calibration.planning import points_at
from fenmist.errors import OutOfRangeError
from fenmist.hookup.templates import OF_SOURCES, K, from_template
from fenmist.kit.dialsheet import needle_scale
from fenmist.kit.draft import draft_from_part, part_from_draft
from fenmist.kit.generic import generics
from fenmist.kit.matchsheet import CROSSING, NEEDLES, crosses
from fenmist.kit.scale import Scale, db_scale
from fenmist.procedures.output.make import begin as output_begin
from studies.builders import WHEN, arc
from studies.matches import end, match_job, watt_meter
from studies.substitution import generator


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
    assert step.headline.text().startswith("1 of 2 ends is measured")
    hands.pick(step.ends, "null")
    assert step.table.texts(0)[1] == ""


# a needle that shows dB


def level_meter():
    return next(part for part in generics() if part.id == "generic-relative")


def at_a_level(hands, level_w):
    """A generator into that meter, planned at one point, at its readings."""
    template = next(item for item in OF_SOURCES if "sensor on the output" in item.label and K.GENERATOR is item.stated)
    made = output_begin("job", "level", from_template(template, [level_meter()], "line", generator()), "g", WHEN)
    hands.shell.session.logbook.add_job(replace(made, plan=points_at(made, (7e6,), (level_w,))))
    hands.shell.open_job("job")
    hands.press("alt+5")


def test_a_needle_in_db_goes_with_the_volts():
    """Half the volts of full scale are -6.02 dB of it (definition of the decibel)."""
    scale = db_scale((-10.0, -6.0206, -3.0, 0.0))
    assert scale.deflection(-6.0206) == pytest.approx(0.5)
    assert scale.deflection(0.0) == 1.0
    assert scale.value_at(scale.deflection(-3.0)) == pytest.approx(-3.0)
    assert scale.deflection(1.0) > 1.0  # past the end
    with pytest.raises(OutOfRangeError):
        db_scale((0.0, -3.0))
    with pytest.raises(OutOfRangeError):
        Scale("watts", (-1.0, 1.0), (2,))


def test_marks_in_db_are_typed_in_the_kit():
    part = level_meter()
    typed_in = part_from_draft(part, {**draft_from_part(part), "db_marks": "−6 −3 0 3"})
    assert needle_scale(typed_in).marks == (-6.0, -3.0, 0.0, 3.0)
    assert needle_scale(part_from_draft(part, {**draft_from_part(part), "db_marks": ""})) is None
    (problem,) = part_from_draft(part, {**draft_from_part(part), "db_marks": "3 0"})
    assert problem.field == "db_marks"


def test_a_relative_needle_is_drawn_on_its_range_and_dragged(hands):
    """-3 dB on +5 is +2 dBm; the needle stands on -3, whatever the range."""
    at_a_level(hands, 2e-3)
    step = hands.shell.bench.step
    position = next(n for n, row in step.rows.items() if "level meter" in row.name.text())
    hands.read("3 dBm")
    hands.type("-3 dB on +5")

    assert step.echo.dial.isVisible()
    assert step.echo.dial.value == pytest.approx(-3.0, abs=1e-6)
    at = step.echo.dial._place(needle_scale(level_meter()).deflection(-1.0), 60.0)
    hands.click(step.echo.dial, QPoint(round(at.x()), round(at.y())))
    typed_now = step.rows[position].field.text()
    assert typed_now.endswith("dB on +5")
    assert float(typed_now.split()[0]) == pytest.approx(-1.0, abs=0.3)
    assert step.echo.dial.value == pytest.approx(float(typed_now.split()[0]), abs=1e-3)


def test_a_level_below_a_milliwatt_begins_with_its_sign(hands):
    at_a_level(hands, 1e-5)
    hands.press("-", "2", "0", "enter", "-", "2", "1", "enter")

    job = hands.shell.bench.job
    assert [event.entry.raw_text for event in job.view.standing.values()] == ["-20", "-21"]
    assert [event.entry.reading.value for event in job.view.standing.values()] == pytest.approx([1e-5, 10**-5.1])
