"""Times of a meter as they are typed, and back."""

from dataclasses import replace

import pytest

from fenmist.errors import FenmistError
from fenmist.kit import shelf
from fenmist.kit.part import Times
from fenmist.kit.timesheet import follows, times_from_text
from fenmist.measurand import Detector


def meter(detector: Detector):
    part = shelf.inline_meter("m", "Bittern", (20.0, 200.0), None, 0.05)
    return replace(part, indicators=tuple(replace(item, detector=detector) for item in part.indicators))


@pytest.mark.parametrize(
    ("detector", "text", "times"),
    [
        (Detector.HOLD, "charges 10 ms; decays 1.5 s", Times(0.01, 1.5)),
        (Detector.PEAK, "window 500 ms; digits 300 ms", Times(0.5, digits_s=0.3)),
        (Detector.AVERAGE, "averages 20 ms; needle 800 ms; damping 0.7; friction 2 %",
         Times(0.02, None, 0.8, 0.7, 0.02)),
        (Detector.THERMAL, "", Times()),
    ],
)  # fmt: skip
def test_times_are_read_and_shown_again(detector, text, times):
    fact = follows()
    made = fact.taken(meter(detector), text)

    assert times_from_text(text) == times
    assert {item.times for item in made.indicators} == {times}
    assert fact.shown(made).replace("\u202f", " ") == text
    assert fact.taken(meter(detector), fact.shown(made)) == made


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("charges", "charges"), ("swings 1 s", "no time of a meter"), ("decays 0 s", "makes no sense"),
        ("needle 101 s", "makes no sense"), ("damping 11", "makes no sense"), ("friction 60 %", "makes no sense"),
        ("decays 3 W", "decays"),
    ],
)  # fmt: skip
def test_nonsense_is_refused_by_name(text, said):
    with pytest.raises(FenmistError, match=said):
        times_from_text(text)
    assert times_from_text("friction 0 %; damping 10; needle 100 s") == Times(None, None, 100.0, 10.0, 0.0)
