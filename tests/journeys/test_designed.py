"""A tap from an empty logbook to a result, by keyboard: designed, proved with the shipped file, used."""

from fenmist.demo.designs import JOINT_F, MOORHEN_FILE, MOORHEN_NAME, WIRE_F
from support.journeys import spaced, to_tool


def test_a_tap_of_the_drawer_calibrates_a_meter(hands, tmp_path):
    hands.type("Heron Quay")
    hands.press("tab")
    hands.type("A. Technician")
    tool = to_tool(hands, "Designer")
    assert spaced(tool.headline.text()) == "The resistive tap makes 40.00 dB and holds it within 0.5 dB to 367 MHz."
    for name, text in (("made from", "820 ohm 5 W x 6; 100 ohm 1 W x 6"), ("band", "1.8 440 MHz")):
        hands.tab_to(name)
        hands.press("ctrl+a")
        hands.type(text)
    hands.settle(0.2)
    hands.tab_to("best stacks")
    hands.press("enter")
    hands.until(lambda: len(tool.designer.draft.chosen) == 2)
    hands.tab_to("solve the trim wire")
    hands.press("enter")
    hands.until(lambda: tool.designer.design.strays.trim_f > 0.1e-12)
    assert spaced(tool.headline.text()) == "The resistive tap makes 39.95 dB and holds it within 0.5 dB to 483 MHz."

    hands.press(*["f5"] * 4)
    hands.pick(tool.analyser.inputs["analyser"], "bench")
    path = tmp_path / MOORHEN_NAME
    path.write_bytes(MOORHEN_FILE)
    hands.press("ctrl+o")
    hands.choose_file(path)
    assert spaced(tool.opened.text()) == (
        "The file differs from the design: −1.34 dB at 600 MHz, U 0.12 dB. At “in” it shows SWR 1.07 at most, where "
        "the design has 1.05."
    )
    hands.tab_to("which strays would explain it")
    hands.press("enter")
    assert spaced(tool.explained.text()) == (  # as it truly is
        "C from each joint to the box 0.27 pF, C of the trim wire 0.19 pF would explain it: 0.26 to 0.017 dB."
    )
    assert (JOINT_F, WIRE_F) == (0.27e-12, 0.19e-12)
    hands.tab_to("take these strays")
    hands.press("enter")
    assert spaced(tool.form.inputs["trim"].text()).startswith("0.189")
    assert "What was measured goes to the shelf." in tool.known.text()
    hands.tab_to("its name on the shelf")
    hands.type("Tap 40 dB")
    hands.press("enter")
    assert tool.said.text() == ""

    hands.press("ctrl+n")
    hands.choose_bench("tap and sensor", "7.1 MHz")
    job = hands.shell.bench.job
    tap = next(job.job.part(item.part) for item in job.job.hookups[0].elements if item.id == "tap")
    assert tap.label == "Tap 40 dB"  # of two taps the one that is known better
    hands.press("alt+4")
    hands.type("7.1 MHz")
    hands.press("tab")
    hands.type("50 W")
    hands.tab_to("Add these points")
    hands.press("enter", "alt+5")
    step = hands.shell.bench.step
    assert "generic sensor" in step.headline.text()
    for text in ("5.07 mW", "51"):
        hands.type(text)
        hands.press("enter")
    (point,) = job.view.result.points
    assert abs(point.reference_w / 50.0 - 1.0) < 0.03
    assert any(row.influence.label == "Tap 40 dB, coupling" for row in job.view.result.budget(point.point.id))
    hands.press("alt+8")
    assert hands.shell.bench.step.where == "certificate"
