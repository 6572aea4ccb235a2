"""Tools beside power from volts, by keyboard."""

import pytest
from pypdf import PdfReader
from PySide6.QtWidgets import QPushButton

from fenmist.kit.draft import draft_from_part, part_from_draft
from fenmist.kit.part import PartKind
from fenmist.procedures.page import Bend, Gaps, Rings
from fenmist.reports.pictures import picture_svg
from fenmist.session.aids import LOSS, SWR
from fenmist.session.modulation import meters_rows
from fenmist.waveform.shapes import Dots
from support.journeys import to_tool


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
    for key in (*["ctrl+tab"] * 11, "ctrl+shift+tab"):
        tools.press(key)
        titles.append(place.tool.title)

    assert titles == [
        "Power from volts", "SWR", "Insertion loss", "Gain plateau", "Power against time", "DC in, RF out",
        "Leakage", "Triage", "Radiated power", "Designer", "Meters on speech", "Power from volts", "Meters on speech",
    ]  # fmt: skip
    assert [made.isChecked() for made in place.names] == [False] * 10 + [True]
    assert place.where == "tools, meters on speech"


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
    tools.press("ctrl+tab", "ctrl+tab")
    tool = tools.tools.tool
    texts = {"direct": "100.0 W 100.0 W", "through": "100.0 W 50.0 W", "direct-2": "", "through-2": "100.0 W 50.2 W"}
    typed(tools, tool, **texts)

    assert rows(tool)["Loss"].startswith("3.00")
    picture = tool.picture.picture
    assert isinstance(picture, Gaps)
    assert [row.second for row in picture.rows] == pytest.approx([-3.0103, -2.9930], abs=1e-4)
    assert picture.unseen == pytest.approx((picture.high - picture.low) / 2)


def test_a_loss_too_small_to_be_seen_and_both_exchanged(tools):
    tools.press("ctrl+tab", "ctrl+tab")
    tool = tools.tools.tool
    typed(tools, tool, direct="100 W 100 W", through="100 W 100 W", **{"direct-2": "", "through-2": ""})
    assert "it can't be seen" in tool.headline.text()
    assert rows(tool)["Loss"].startswith("less than")

    typed(tools, tool, swapped_direct="100 W 100 W")
    assert "exchanged, too" in tool.said.text()
    typed(tools, tool, swapped_through="100 W 100 W")
    assert [row.name for row in tool.picture.picture.rows] == ["pair 1", "pair 2, exchanged"]


@pytest.mark.parametrize(("key", "question"), [
    ("ctrl+tab", "SWR"), ("ctrl+tab ctrl+tab", "lose"), ("ctrl+shift+tab", "peak button"),
])  # fmt: skip
def test_a_job_about_the_same_begins_from_the_tool(tools, key, question):
    tools.press(*key.split())
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


def test_the_gain_of_a_plateau_is_drawn_and_said(tools):
    tools.press("ctrl+tab", "ctrl+tab", "ctrl+tab")
    tool = tools.tools.tool
    typed(tools, tool, gain="1 2 3 4 5 6 7", power="10 20 30 40 45 45 45 W")

    assert tool.headline.text().replace("\u202f", " ") == (
        "The power stands at 45 W from gain 4.50 ± 0.10: set it to 4, a touch below."
    )
    picture = tool.picture.picture
    assert isinstance(picture, Bend)
    assert (picture.knee, picture.setting, picture.plateau) == (pytest.approx(4.5), 4.0, pytest.approx(45.0))
    assert len(picture.points) == 7 and picture.lines[0] == pytest.approx((1.0, 10.0), abs=0.1)
    drawn = picture_svg(picture)
    assert "set 4" in drawn and "knee" in drawn and drawn.count("<circle") == 7
    typed(tools, tool, power="10 20 30 40 50 60 70 W")
    assert "no plateau" in tool.headline.text()
    assert "set" not in picture_svg(tool.picture.picture)


@pytest.fixture
def speech(tools):
    tools.press("ctrl+shift+tab")
    tools.tool = tools.tools.tool
    tools.until(lambda: tools.tool.answer is not None)
    return tools


def test_meters_move_on_speech_by_themselves_and_stop_when_told(speech):
    tool = speech.tool
    running = tool.view.running
    speech.until(lambda: running.now_s > 0.3)
    shown = running.shown
    assert shown["averaging"] > 0.0

    tool.pause.setFocus()
    speech.press("return")
    stopped = running.now_s
    speech.settle(0.2)
    assert running.now_s == stopped and tool.pause.text() == "run"
    tool.step.setFocus()
    speech.press("return")
    assert running.now_s == pytest.approx(stopped + 0.05)
    tool.slow.setFocus()
    speech.press("return")
    assert tool.speed == 0.1
    tool.pause.setFocus()
    speech.press("return")
    speech.until(lambda: running.now_s > stopped + 0.06)
    speech.press("ctrl+tab")  # another tool in front: nothing runs behind it
    at = running.now_s
    speech.settle(0.2)
    assert running.now_s == at


def said(tool) -> str:
    return tool.headline.text().replace("\u202f", " ")


def test_the_three_questions_are_answered_in_the_headline(speech):
    tool = speech.tool
    for waveform, shown, says in (
        ("two-tone", "41", "50 W on average; an averaging needle shows 40.5 W, a hold 89.7 W. 41 W is about what an"),
        ("two-tone", "49", "49 W is about what a thermal meter shows."),
        ("compressed", "40", "40 W is about what a thermal meter shows, and within the swing of an averaging"),
        ("carrier", "40", "all four show 100 W: that is what to calibrate on."),
        ("dots 2 Hz", "70", "70 W lies within the swing of"),
        ("am 0.5", "70", "70 W is what none of the four shows here."),
    ):  # fmt: skip
        tool.answer = None
        typed(speech, tool, waveform=waveform, shown=shown)
        speech.until(lambda text=says: tool.answer is not None and text in said(tool))
    assert "Averaging needle 44.4" in tool.view.accessibleDescription().replace("\u202f", " ")
    assert tool.margin.views[0].note.code == "meters.hold_is_low"


def test_a_meter_of_the_kit_stands_with_its_own_times_for_the_one_of_the_four_that_it_is(speech):
    """A needle of 5 s hardly swings where the usual one of half a second does."""
    tool, session = speech.tool, speech.shell.session
    part = next(item for item in session.kit if item.kind is PartKind.INLINE_METER)
    made = part_from_draft(part, {**draft_from_part(part), "detector": "averages volts", "times": "needle 5 s"})
    session.save_part(made)
    speech.press("ctrl+tab", "ctrl+shift+tab")  # away and back: the choices are those of the kit
    typed(speech, tool, waveform="dots 2 Hz")
    usual = tool.answer.shows["averaging"]
    tool.form.inputs["meter"].setFocus()
    speech.press("down")
    speech.until(lambda: tool.answer is not None and tool.answer.meter == ("averaging", part.label))

    found = tool.answer.shows["averaging"]
    assert found.reading == pytest.approx(25.0, abs=0.5)
    assert found.high - found.low < 0.2 * (usual.high - usual.low)
    assert f"{part.label} 25" in tool.view.accessibleDescription()
    assert tool.view.running.meters["averaging"].movement.display.period_s == 5.0
    assert (part.label, "Hold") == tuple(name for name, _ in meters_rows(tool.answer)[5:7])


def test_a_waveform_is_taken_by_a_key_or_from_a_file_and_nonsense_is_said(speech, tmp_path):
    tool = speech.tool
    link = next(item for item in tool.findChildren(QPushButton) if item.text() == "two-tone")
    link.setFocus()
    speech.press("return")
    speech.until(lambda: "50" in tool.headline.text())
    path = tmp_path / "envelope.csv"
    values = Dots(0.5, 5.0).envelope(10.0, 0.01).amplitude
    path.write_text("\n".join(["time (s),detector (V)", *(f"{0.01 * n:.2f},{v:.3f}" for n, v in enumerate(values))]))
    tool.opening.take(path)
    speech.until(lambda: "envelope.csv" in tool.answer.waveform.name)
    assert tool.answer.mean_w == pytest.approx(50.0, abs=1.0)
    typed(speech, tool, waveform="whistle")
    speech.until(lambda: "no waveform" in tool.said.text())
    assert tool.view.running is None and not tool.margin.views
    tool.saving.take(tmp_path / "meters.png")
    assert (tmp_path / "meters.png").stat().st_size > 1000


def test_no_tool_is_wider_than_the_window(tools):
    """1280 pixels, with a job on the bench: the widest of all sets what the place needs."""
    tools.shell.open_job("demo-sandpiper")
    tools.press("ctrl+2", *["ctrl+tab"] * len(tools.tools.names))
    assert tools.tools.stack.count() == len(tools.tools.names)
    assert tools.tools.minimumSizeHint().width() <= 1280


def test_radiated_power_is_held_against_a_limit(tools):
    """What is typed is answered at once; each way stands in the drawing, and the limit."""
    tool = to_tool(tools, "Radiated power")
    assert tool.headline.text().replace("\u202f", " ") == (
        "EIRP 2.7 W (1.7 to 4.3 W), from the antenna's current; 5 W EIRP is reached at 94 W (58 to 150 W)."
    )
    assert rows(tool)["Radiation resistance"] == "0.222 Ω"
    typed(tools, tool, gain="-8 dBi ± 1 dB", limit="1 W ERP")
    assert "from the transmitter's power; 1.64 W EIRP is reached at 10 W" in tool.headline.text().replace("\u202f", " ")
    picture = tool.picture.picture
    assert [(span.name, span.is_stated) for span in picture.spans] == [("by current", False), ("by power", True)]
    assert (picture.limit, picture.limit_name) == (pytest.approx(1.641), "limit 1.64\u202fW")
    assert "stand at the base of that wire" in " ".join(view.note.what for view in tool.margin.views)
    typed(tools, tool, power="x")
    assert "x" in tool.said.text()


def test_triage_narrows_the_suspects_and_says_what_to_try(tools):
    """First on the antenna, then on a load: what is left are line and antenna, and a load at the far end decides."""
    tool = to_tool(tools, "Triage")
    assert tool.headline.text().startswith("Most likely the transmitter (")
    typed(tools, tool, set="100 W", own="60", external="55", swr="4")
    tools.pick(tool.form.inputs["into"], "antenna")
    tools.settle(0.3)
    assert tool.headline.text().endswith("Next: a dummy load right behind the external meter, and read again.")
    assert {view.note.code for view in tool.margin.views} == {"triage.swr", "triage.load_first", "triage.on_air"}
    typed(tools, tool, second="set 100, own 101, external 98, swr 1.05, into load")
    tools.until(lambda: "the far end of the line" in tool.headline.text())
    picture = tool.picture.picture
    assert [item.parts for item in picture.sightings] == [(1.0, 0.6, 0.55), (1.0, 1.01, 0.98)]
    assert [item.name for item in picture.sightings] == ["100\u202fW, antenna, SWR 4.00", "100\u202fW, load, SWR 1.05"]
    assert {what for what, _ in picture.odds[:2]} == {"the antenna", "the line"}
    typed(tools, tool, third="set 100, own 99, external 97, swr 1.1, into far load, exchanged jumper")
    tools.until(lambda: "It is the antenna" in tool.headline.text())
    assert tool.picture.picture.sightings[2].name == "100\u202fW, far load, new jumper, SWR 1.10"
    typed(tools, tool, third="hello")
    assert "says nothing of a sighting" in tool.said.text()


# a tool's answer as a page


def page_text(path):
    return " ".join(" ".join(page.extract_text() for page in PdfReader(path).pages).replace("\u202f", " ").split())


def test_an_answer_is_kept_as_a_page_with_what_was_typed_and_what_to_mind(tools, tmp_path):
    tool = to_tool(tools, "Radiated power")
    typed(tools, tool, current="3.5 A ± 2 %", above="2.6 A")
    saving = tool.saving
    saving.take(tmp_path / "beacon.pdf")
    text = page_text(tmp_path / "beacon.pdf")

    assert saving.endings == (".pdf", ".svg", ".png")
    for said in (
        tool.headline.text().replace("\u202f", " "), "DEMO", "Radiation resistance", "Current above its coil", "2.6 A",
        "3.5 A ± 2 %", "of the current doesn't come out of the coil", "the licence decides",
        "claims accreditation for nobody",
    ):  # fmt: skip
        assert said in text, said
    assert "Field strength" not in text  # nothing was typed there
    tool.form.inputs["current"].setFocus()
    tools.press("ctrl+a")
    tools.type("3 A")
    tool.saving.take(tmp_path / "soon.pdf")  # a moment after the last key
    assert tool.answered.headline.replace("\u202f", " ") in page_text(tmp_path / "soon.pdf")
    assert tool.answered.headline == tool.aid.answer(tool.form.draft()).headline
    assert tool.printing.pages(30.0)[0].startswith(b"\x89PNG")
    saving.take(tmp_path / "beacon.svg")
    assert b"EIRP" in (tmp_path / "beacon.svg").read_bytes()


def test_what_can_t_be_read_makes_no_page(tools):
    tool = to_tool(tools, "Leakage")  # it has no drawing
    assert tool.saving.endings == (".pdf",)
    typed(tools, tool, working="x")
    assert tool.saving is None and tool.printing is None


def test_dc_in_rf_out_by_keyboard(tools):
    tool = to_tool(tools, "DC in, RF out")
    assert tool.headline.text().replace("\u202f", " ").startswith("36 % of what goes in comes out (33 to 39 %)")
    assert rows(tool)["Usual"] == "30 % to 50 % at full power, less below"
    tools.pick(tool.form.inputs["feeds"], "its output stage")
    tools.pick(tool.form.inputs["of_class"], "A")
    typed(tools, tool, power="190 W ± 2 %", drive="5 W", heat="60 W")
    tools.until(lambda: "above" in " ".join(view.note.code for view in tool.margin.views))
    assert rows(tool)["Goes in"] == "276 W of DC and 5 W of drive"
    assert [span.name for span in tool.picture.picture.spans] == ["comes out", "usual"]
    assert tool.picture.picture.limit == pytest.approx(281.0)
    typed(tools, tool, power="2 kW")
    tools.until(lambda: "that can't be" in tool.headline.text())


def test_bands_of_a_tune_cycle_are_told_apart(tools):
    tool = to_tool(tools, "Power against time")
    typed(tools, tool, swr="", band="1.8 MHz", second="3.6 MHz: 0 1 2 s; 14 16 30 W")
    tools.until(lambda: tool.headline.text().startswith("Enough all the time on 1 of 2 bands"))
    assert list(rows(tool)) == ["1.8 MHz", "3.6 MHz"]
    typed(tools, tool, second="3.6 MHz")
    tools.until(lambda: "is no other band" in tool.said.text())
