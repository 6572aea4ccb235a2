"""From an empty logbook, keyboard only: where the power stops rising with gain, and why 100 W is shown as 40 W."""

import pytest


def said(tool) -> str:
    return tool.headline.text().replace("\u202f", " ")


def to_tool(hands, title: str):
    hands.press("ctrl+2")
    for _ in range(10):
        if hands.shell.tools.tool.title == title:
            return hands.shell.tools.tool
        hands.press("ctrl+tab")
    raise AssertionError(f"no tool {title}")


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
