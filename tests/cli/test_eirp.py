"""`fenmist eirp`, as a shell sees it."""

import json

import pytest

from fenmist.__main__ import main


def test_a_low_frequency_antenna_against_its_licence(capsys):
    given = ["eirp", "--current", "2 A", "--height", "15 m", "--frequency", "474 kHz", "--limit", "5 W"]
    assert main([*given, "--power", "50 W", "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["radiation_resistance_ohm"] == pytest.approx(0.222, abs=5e-4)
    assert said["eirp_w"] == pytest.approx(2.66, abs=5e-3)
    assert said["erp_w"] == pytest.approx(2.66 / 1.641, rel=2e-3)
    assert said["emrp_w"] == pytest.approx(0.888, abs=2e-3)
    assert said["power_at_limit_w"] == pytest.approx(94.0, abs=0.5)
    assert said["current_at_limit_a"] == pytest.approx(2.74, abs=0.01)
    assert said["interval_w"] == pytest.approx([1.66, 4.27], abs=0.02)
    assert (said["way"], said["largest"], said["limit_eirp_w"]) == ("current", "effective height", 5.0)
    assert said["ways"]["current"]["eirp_w"] == said["eirp_w"]
    assert said["base_resistance_ohm"] == pytest.approx(12.5)
    assert {note["code"] for note in said["notes"]} == {"radiated.volts", "radiated.largest", "radiated.law"}

    assert main(given) == 0
    text = capsys.readouterr().out.replace("\u202f", " ")
    assert text.startswith(
        "EIRP 2.7 W (1.7 to 4.3 W), from the antenna's current; 5 W EIRP is reached at 2.7 A (2.2 to"
    )
    assert "e.m.r.p.             888 mW, over a short vertical" in text
    assert "the licence decides" in text


def test_power_line_and_gain(capsys):
    assert main(["eirp", "--power", "50 W", "--line-loss", "1", "--gain=-8 dBi", "--limit", "5 W"]) == 0
    text = capsys.readouterr().out.replace("\u202f", " ")

    assert text.startswith(
        "EIRP 6.3 W (3.7 to 11 W), from the transmitter's power; 5 W EIRP is reached at 40 W (23 to 68"
    )


@pytest.mark.parametrize("given", [[], ["--power", "x"], ["--current", "2 A"], ["--field", "1", "--distance", "2"]])
def test_nonsense_is_one_line_and_exit_two(given, capsys):
    assert main(["eirp", *given]) == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert said.err.count("\n") == 1
    assert said.err.startswith("fenmist eirp: ")
