"""Two references on one bench, by keyboard: a tap and a sensor are plugged in and read beside the oscilloscope."""

from support.texts import spaced


def along_to(hands, line, element: str) -> None:
    for _ in range(12):
        if line.selected_element == element:
            return
        hands.press("right")
    raise AssertionError(f"no arrow leads to {element}")


def test_a_sensor_at_a_tap_is_read_beside_the_oscilloscope(hands):
    hands.type("Heron Quay")
    hands.press("tab")
    hands.type("A. Technician")
    hands.tab_to("Start a job")
    hands.press("enter")
    hands.choose_bench()
    hands.press("alt+4")
    hands.type("7.1 MHz")
    hands.press("tab")
    hands.type("50 W")
    hands.tab_to("Add these points")
    hands.press("enter", "alt+2")
    step = hands.shell.bench.step
    step.line.setFocus()
    along_to(hands, step.line, "wattmeter")
    hands.press("i")
    hands.type("resistive tap")
    hands.press("enter")
    along_to(hands, step.line, "tap")
    hands.press("h")
    hands.type("terminating")
    hands.press("enter")
    along_to(hands, step.line, "tap")
    hands.press("m")
    assert "shows nothing that a power follows from" in step.problem.text()
    along_to(hands, step.line, "meter")
    hands.press("m")
    job = hands.shell.bench.job
    assert (step.problem.text(), job.job.order) == ("", ("oscilloscope", "meter", "wattmeter"))

    hands.press("alt+5")
    readings = hands.shell.bench.step
    assert spaced(readings.headline.text()) == (
        "Read generic oscilloscope and generic sensor, +10 dBm, then generic wattmeter: the error appears once all are "
        "entered."
    )
    assert [row.name.text() for row in readings.rows.values()][1] == "generic sensor, +10 dBm"
    for text in ("141", "4.9 mW", "50"):
        hands.type(text)
        hands.press("enter")
    (point,) = job.view.result.points
    assert [item.channel for item in point.references] == ["oscilloscope", "meter"]
    assert point.agreement.agrees
    assert all(abs(item.power_w - 50.0) < 4.0 for item in point.references)
    hands.press("alt+2")
    along_to(hands, hands.shell.bench.step.line, "meter")
    hands.press("d")
    assert job.job.reference == "meter"
    hands.press("d")
    assert job.job.reference == ""
    hands.press("m")
    assert job.job.order == ("oscilloscope", "wattmeter")
    assert job.job.plan[0].sequence == ("oscilloscope", "meter", "wattmeter")  # what was begun goes on as it was
