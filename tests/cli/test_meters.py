"""`fenmist meters`, as a shell sees it."""

import re

import pytest

from fenmist.__main__ import main
from support.texts import spaced


@pytest.mark.parametrize(("waveform", "mean", "needle"), [
    ("carrier", "100 W, which is its PEP", "100 W, 100 %"),
    ("dots", "50 W, 3.01 dB below PEP", "25 W, 25 %; swings between 24 W and 26 W"),
])  # fmt: skip
def test_mean_power_and_what_a_needle_makes_of_it(waveform, mean, needle, capsys):
    """Dots of a half lie 3.01 dB below their crest; half of the volts on average are a quarter of power (derived)."""
    assert main(["meters", "--waveform", waveform, "--pep", "100 W"]) == 0
    said = spaced(capsys.readouterr().out)
    rows = dict(re.findall(r"^(Mean|Averaging needle) +(.*)$", said, re.M))
    assert rows == {"Mean": mean, "Averaging needle": needle}
