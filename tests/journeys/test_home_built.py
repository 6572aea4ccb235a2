"""Constants of a home-built meter into C: from an empty logbook, by keyboard alone."""

import math
import re

import pytest


def test_constants_of_a_home_built_meter_go_into_its_firmware(hands, tmp_path):
    """Planted: P = 4·V². Seven levels on one band, one round; the C file holds what is planted."""
    hands.press("ctrl+n")
    page = hands.shell.places["begin"]
    hands.until(lambda: not page.is_looking)
    hands.pick(page.question, "What makes watts of this home-built meter's volts?")
    hands.until(lambda: not page.is_looking)
    assert page.device.currentText() == "generic home-built meter"
    page.rounds.setFocus()
    hands.press("ctrl+a")
    hands.type("1")
    hands.choose_bench("oscilloscope across the load: generic oscilloscope", "7.1 MHz")
    bench = hands.shell.bench
    assert [point.target_w for point in bench.job.job.plan] == [1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0]
    hands.press("alt+5")
    for point in bench.job.job.plan:
        hands.read(f"{math.sqrt(400.0 * point.target_w):.5g}", f"{math.sqrt(point.target_w / 4.0):.4f}")
    hands.press("alt+6")
    step = bench.step
    assert "follows a quadratic law to 0." in step.headline.text()
    assert step.below.text().startswith("Forward, 7.1\u202fMHz: a = 3.99 ± ")
    hands.press("ctrl+s")
    hands.choose_file(tmp_path / "constants.c")
    hands.until((tmp_path / "constants.c").exists)
    step.save.wait()
    text = (tmp_path / "constants.c").read_text("utf-8")
    a, b, c = map(float, re.search(r"\{([-\d.e+]+), ([-\d.e+]+), ([-\d.e+]+)\}", text).groups())
    for watts in (1.0, 10.0, 100.0):
        volts = math.sqrt(watts / 4.0)
        assert (a * volts + b) * volts + c == pytest.approx(watts, rel=0.01)
