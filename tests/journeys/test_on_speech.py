"""From an empty logbook, keyboard only: where the power stops rising with gain, and why 100 W is shown as 40 W."""

import pytest
from PySide6.QtWidgets import QLabel

from support.journeys import to_tool


def said(tool) -> str:
    return tool.headline.text().replace("\u202f", " ")


def written(hands, text: str) -> None:
    """In place of what the field in front holds, and on to the next."""
    hands.press("ctrl+a")
    hands.type(text)
    hands.press("tab")


def test_a_radio_of_100_w_that_shows_40_w_is_explained(hands):
    """Two equal tones: an averaging needle shows (2/π)² of PEP, 40.5 %; a thermal meter a half."""
    tool = to_tool(hands, "Meters on speech")
    written(hands, "two-tone")
    written(hands, "100 W")
    written(hands, "40.5 W")
    hands.until(lambda: tool.answer is not None and "40.5 W is about what an averaging" in said(tool))
    hands.press("shift+tab")
    written(hands, "50 W")
    hands.until(lambda: "50 W is about what a thermal meter shows" in said(tool))


def test_the_gain_is_set_a_touch_below_where_the_power_stands(hands):
    """Lines of 10 W a step and of 60 W meet at gain 6; the highest setting read below it is 5."""
    tool = to_tool(hands, "Gain plateau")
    written(hands, "1 2 3 4 5 7 8 9")
    written(hands, "10 20 30 40 50 60 60 60 W")
    hands.until(lambda: said(tool).startswith("The power stands at 60 W from gain 6"))
    assert "set it to 5, a touch below" in said(tool)
    assert tool.picture.picture.knee == pytest.approx(6.0, abs=0.01)
    # a fall behind the plateau: no plateau
    hands.press("shift+tab")
    written(hands, "10 20 30 40 50 60 40 20 W")
    hands.until(lambda: "The power stands at 60 W" not in said(tool))


def test_a_meter_that_averages_is_held_against_a_scope_on_two_tones(hands):
    """100 W PEP are 200 Vpp; a perfect averaging meter shows (2/π)² of the 100 W at its output."""
    hands.start_job()
    hands.press("alt+4")
    for _ in range(20):
        if hands.focus.accessibleName() == "frequencies":
            break
        hands.press("tab")
    for text in ("7.1 MHz", "100 W", "", "1", "two-tone"):
        written(hands, text) if text else hands.press("tab")
    hands.press("shift+tab", "enter")
    step = hands.shell.bench.step
    assert [step.plan.texts(0)[n].replace("\u202f", " ") for n in (0, 1, 4)] == ["7.1 MHz", "100 W", "two-tone"]
    assert "averages volts: it shows 41 % of the PEP of two equal tones" in notes(hands)
    hands.press("alt+5")
    assert "PEP of two-tone" in hands.shell.bench.step.point.text()
    hands.read("200 Vpp", "40.5")
    headline = hands.shell.bench.step.headline.text()
    assert "reads 0.0" in headline or "inside" in headline
    # a modulation that nobody knows: nothing is decided, and the remedy is said
    hands.press("alt+4")
    plan = hands.shell.bench.step.plan
    plan.setCurrentCell(0, 4)
    plan.setFocus()
    hands.type("unknown")
    hands.press("enter", "alt+6")
    assert "Nothing can be decided at 7.1 MHz, 100 W PEP, unknown." in notes(hands)
    assert "cannot decide" in " ".join(hands.shell.bench.step.table.texts(0))


def notes(hands) -> str:
    hands.settle(0.2)
    return " ".join(item.text() for item in hands.shell.bench.margin.findChildren(QLabel)).replace("\u202f", " ")
