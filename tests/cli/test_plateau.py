"""`fenmist plateau`, as a shell sees it: also where distortion begins."""

import json
import re

import pytest

from fenmist.__main__ import main

ASKED = ["plateau", "--gain", "10 20 30 40 50 60", "--power", "8 22 41 58 60 60 W"]


@pytest.mark.parametrize(
    ("decibels", "begins"),
    [("-42 -40 -36 -31 -25 -20 dB", 40.0 + 10.0 / 6.0), ("-42 -41 -40 -39 -38 -37 dB", None), ("", None)],
)
def test_distortion_reaches_its_limit_on_a_line_between_two_readings(decibels, begins, capsys):
    """−31 dB at 40 and −25 dB at 50: −30 dB a sixth of the way."""
    asked = [*ASKED, *([f"--distortion={decibels}"] if decibels else [])]
    assert main([*asked, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)["distorts_from"]
    assert found == (begins if begins is None else pytest.approx(begins))
    assert main(asked) == 0
    said = re.findall(r"^Distorts\s+(.*)$", capsys.readouterr().out, re.M)
    assert said == ([] if not decibels else ["from 41.7" if begins else "nowhere in these readings"])
