"""Tools beside power from volts, by keyboard."""

import pytest

from fenmist.procedures.page import Gaps, Rings
from fenmist.session.aids import LOSS, SWR


def rows(tool):
    grid = tool.rows
    texts = [grid.itemAtPosition(n, column).widget().text() for n in range(grid.rowCount())
             for column in (0, 1) if grid.itemAtPosition(n, column)]  # fmt: skip
    return dict(zip(texts[::2], (text.replace("\u202f", " ") for text in texts[1::2]), strict=True))


@pytest.fixture
def tools(demo):
    demo.press("ctrl+2")
    demo.tools = demo.shell.tools
    return demo


def typed(hands, tool, **texts):
    for name, text in texts.items():
        field = tool.form.inputs[name]
        field.setFocus()
        field.selectAll()
        hands.press("backspace")
        hands.type(text)
    hands.settle(0.1)  # worked out soon after the last key


def test_tools_are_gone_through_by_key_and_each_shows_its_own_keys(tools):
    place = tools.tools
    titles = [place.tool.title]
    for key in ("ctrl+tab", "ctrl+tab", "ctrl+tab", "ctrl+shift+tab"):
        tools.press(key)
        titles.append(place.tool.title)

    assert titles == ["Power from volts", "SWR", "Insertion loss", "Power from volts", "Insertion loss"]
    assert [made.isChecked() for made in place.names] == [False, False, True]
    assert place.where == "tools, insertion loss"


def test_a_reading_is_held_against_a_load(tools):
    tools.press("ctrl+tab")
    tool = tools.tools.tool
    typed(tools, tool, swr="1.2", load="75", directivity="25 dB")

    assert tool.headline.text() == "A meter that shows SWR 1.2 says that it lies between 1.07 and 1.35."
    assert rows(tool)["That load"] == "1.5, may show 1.34 to 1.69"
    assert rows(tool)["Return loss"] == "20.8 dB"
    picture = tool.picture.picture
    assert isinstance(picture, Rings) and not picture.agrees
    assert picture.spots[0].x == pytest.approx(0.2)
    assert (picture.low, picture.high) == (pytest.approx(0.2 / 2.2 - 10**-1.25), pytest.approx(0.2 / 2.2 + 10**-1.25))
    assert "should show 1.34 to 1.69, not 1.2" in tool.margin.views[0].note.what


def test_nonsense_is_said_and_shows_no_answer_of_before(tools):
    tools.press("ctrl+tab")
    tool = tools.tools.tool
    typed(tools, tool, swr="0.4")

    assert "makes no sense" in tool.said.text()
    assert rows(tool) == {} and tool.picture.picture is None
    assert tool.headline.text() == "The answer appears once the fields can be read."


def test_pairs_of_watts_give_a_loss(tools):
    tools.press("ctrl+shift+tab")
    tool = tools.tools.tool
    texts = {"direct": "100.0 W 100.0 W", "through": "100.0 W 50.0 W", "direct-2": "", "through-2": "100.0 W 50.2 W"}
    typed(tools, tool, **texts)

    assert rows(tool)["Loss"].startswith("3.00")
    picture = tool.picture.picture
    assert isinstance(picture, Gaps)
    assert [row.second for row in picture.rows] == pytest.approx([-3.0103, -2.9930], abs=1e-4)
    assert picture.unseen == pytest.approx((picture.high - picture.low) / 2)


def test_a_loss_too_small_to_be_seen_and_both_exchanged(tools):
    tools.press("ctrl+shift+tab")
    tool = tools.tools.tool
    typed(tools, tool, direct="100 W 100 W", through="100 W 100 W", **{"direct-2": "", "through-2": ""})
    assert "it can't be seen" in tool.headline.text()
    assert rows(tool)["Loss"].startswith("less than")

    typed(tools, tool, swapped_direct="100 W 100 W")
    assert "exchanged, too" in tool.said.text()
    typed(tools, tool, swapped_through="100 W 100 W")
    assert [row.name for row in tool.picture.picture.rows] == ["pair 1", "pair 2, exchanged"]


@pytest.mark.parametrize(("key", "question"), [("ctrl+tab", "SWR"), ("ctrl+shift+tab", "lose")])
def test_a_job_about_the_same_begins_from_the_tool(tools, key, question):
    tools.press(key)
    tools.tools.tool.begin.setFocus()
    tools.press("return")

    assert tools.shell.here == "begin"
    assert question in tools.shell.places["begin"].question.currentText()


def test_the_drawing_is_saved(tools, tmp_path):
    tools.press("ctrl+tab")
    saving = tools.tools.tool.saving
    saving.take(tmp_path / "ring.svg")
    assert "SWR" in (tmp_path / "ring.svg").read_text()


@pytest.mark.parametrize(("texts", "said"), [
    ({"swr": "1", "directivity": "0"}, "it lies anywhere."),
    ({"swr": "1000000", "directivity": "25"}, "it lies above 34.6."),
    ({"swr": "1.05", "directivity": "25"}, "it lies below 1.18."),
])  # fmt: skip
def test_a_window_without_an_end_is_said_as_people_say_it(texts, said):
    blank = {item.id: "" for item in SWR.fields} | {"at": "load"}
    assert SWR.answer(blank | texts).headline.endswith(said)


def test_a_gain_is_no_loss_too_small_to_be_seen():
    blank = {item.id: "" for item in LOSS.fields}
    said = LOSS.answer(blank | {"direct": "100 100", "through": "50 100"}).headline
    assert said.replace("−", "-").startswith("More comes out than goes in: -3.0")
