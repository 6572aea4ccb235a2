"""Power against time: by hand and by SciPy's trapezoids; captured envelopes; fold-back."""

import numpy as np
import pytest
from scipy import integrate

from fenmist.errors import FenmistError
from fenmist.methods.against_time import AgainstTimeRequest
from fenmist.session.aids import SERIES
from fenmist.waveform.shapes import TuneCycle

TIMES, POWERS = "0 0.5 1 2 4 s", "12 4 9 30 30 W"


def test_mean_extremes_and_time_above_a_level():
    """12 → 4 W passes 10 W after 0.125 s; 9 → 30 W in 1 s passes it after 1/21 s."""
    answer = AgainstTimeRequest(TIMES, POWERS)()
    t, p = np.array([0, 0.5, 1, 2, 4]), np.array([12.0, 4, 9, 30, 30])

    assert (answer.series.lowest_w, answer.series.highest_w) == (4.0, 30.0)
    assert answer.series.mean_w == pytest.approx(integrate.trapezoid(p, t) / 4.0)
    assert answer.above_s == pytest.approx(0.125 + 1.0 - 1 / 21 + 2.0)
    (note,) = answer.notes
    assert note.code == "series.below" and note.evidence["below_s"] == pytest.approx(4.0 - answer.above_s)
    assert AgainstTimeRequest(TIMES, POWERS, "3 W")().notes == ()


@pytest.mark.parametrize(("swr", "folds"), [("3 6 4 1.2 1.1", True), ("1.1 1.2 1.1 3 6", False), ("2 2 2 2 2", False)])
def test_power_that_falls_as_the_match_gets_worse_folds_back(swr, folds):
    codes = [note.code for note in AgainstTimeRequest(TIMES, POWERS, "3 W", swr)().notes]
    assert codes == (["series.folds_back"] if folds else [])


def test_a_tune_cycle_from_a_captured_envelope(tmp_path):
    path = tmp_path / "tune.npy"
    cycle = TuneCycle(0.1, 3.0, 0.05, seed=2)
    np.save(path, cycle.envelope(5.0, 1e-4).amplitude)
    answer = AgainstTimeRequest(str(path), "100 W", "50 W", step="0.1 ms")()
    power = 100.0 * cycle.envelope(5.0, 1e-4).amplitude ** 2

    assert answer.series.highest_w == pytest.approx(100.0)
    assert answer.series.lowest_w == pytest.approx(power.min(), rel=1e-6)
    assert answer.series.span_s == pytest.approx(5.0, rel=2e-3)
    assert answer.above_s == pytest.approx(np.mean(power > 50.0) * 5.0, abs=0.1)
    assert answer.series.mean_w == pytest.approx(power.mean(), rel=0.01)


def test_the_tool_says_for_how_long_it_is_enough():
    """12, 4, 9, 30, 30 W at 0, 0.5, 1, 2, 4 s: trapezoids of 86.75 J over 4 s; above 10 W 1/8 + 20/21 + 2 s."""
    said = SERIES.answer({**SERIES.example, "swr": ""})
    assert said.headline.replace("\u202f", " ").startswith("Above 10 W for 3.1 of 4 s")
    rows = {name.replace("\u202f", " "): value.replace("\u202f", " ") for name, value in said.rows}
    assert rows == {
        "Lowest": "4 W", "Highest": "30 W", "Mean over time": "21.69 W", "Above 10 W": "3.08 s of 4 s",
        "Above 20 W": "2.48 s of 4 s",
    }  # fmt: skip
    assert said.picture.limit == 10.0 and len(said.picture.above) == 2


@pytest.mark.parametrize("fields", [
    {"times": "0 1", "powers": "1 2 3 W"}, {"times": "0 1 1", "powers": "1 2 3 W"}, {"times": "0", "powers": "1 W"},
    {"times": "0 1", "powers": "1 -2 W"}, {"times": "0 1", "powers": "1 2 W", "limit": "0 W"},
    {"times": "0 1", "powers": "1 2 W", "swr": "1.1"}, {"times": "none.csv", "powers": "1 W"},
    {"times": "x", "powers": "1"},
])  # fmt: skip
def test_what_is_no_series_is_said(fields):
    with pytest.raises(FenmistError):
        AgainstTimeRequest(**fields)()


@pytest.mark.parametrize(("most", "count"), [("29.9 W", 1), ("30 W", 0), ("", 0)])
def test_more_than_a_tuner_bears_while_it_hunts_is_said(most, count):
    """12 to 30 W: from 9 W at 1 s to 30 W at 2 s it passes 20 W after 11/21 s."""
    found = AgainstTimeRequest(TIMES, POWERS, "3 W", most=most)().notes
    assert [note.code for note in found] == ["series.too_much"] * count
    (note,) = AgainstTimeRequest(TIMES, POWERS, "3 W", most="20 W")().notes
    assert note.severity == "stop"
    assert note.what == "Up to 30\u202fW while it hunts: it bears 20\u202fW."
    assert note.why.startswith("For 2.5\u202fs of 4\u202fs there is more")  # 10/21 and 2 s


def test_a_tuner_bears_more_than_it_wants():
    with pytest.raises(FenmistError, match="More is asked for"):
        AgainstTimeRequest(TIMES, POWERS, "10 W", most="10 W")()


# several bands

BANDS = {"band": "1.8 MHz", "second": "3.6 MHz: 0 1 2 s; 14 16 30 W", "third": "7.1 MHz: 0 2 4 s; 6 8 12 W"}


def test_a_tuner_hunts_anew_on_each_band():
    """7.1 MHz: 8 to 12 W in 2 s passes 10 W in its middle: 1 s of 4; 3.6 MHz has enough all the time."""
    said = SERIES.answer({**SERIES.example, **BANDS, "swr": "", "most": "29 W"})
    answer = AgainstTimeRequest(TIMES, POWERS, band="1.8 MHz", more=(BANDS["second"], BANDS["third"]), most="29 W")()

    assert answer.worst.name == "7.1 MHz"
    assert answer.above_s == pytest.approx(1.0)
    assert [(note.code, note.about) for note in answer.notes] == [
        ("series.too_much", "1.8 MHz"), ("series.too_much", "3.6 MHz"), ("series.below", "1.8 MHz"),
        ("series.below", "7.1 MHz"),
    ]  # fmt: skip
    assert said.headline.replace("\u202f", " ") == (
        "Enough all the time on 1 of 3 bands; at 7.1 MHz above 10 W for 1 of 4 s."
    )
    assert [row[0] for row in said.rows] == ["1.8 MHz", "3.6 MHz", "7.1 MHz"]
    assert said.rows[1][1].replace("\u202f", " ") == "14 to 30 W, mean 19 W; above 10 W for 2 s of 2 s"
    assert (said.picture.label, [name for name, _ in said.picture.others]) == ("7.1 MHz", ["1.8 MHz", "3.6 MHz"])


@pytest.mark.parametrize("line", ["3.6 MHz", "3.6 MHz: 0 1 2 s", ": 0 1 s; 3 4 W", "3.6 MHz: 0 1 s; 3 W"])
def test_what_is_no_band_is_said(line):
    with pytest.raises(FenmistError):
        AgainstTimeRequest(TIMES, POWERS, more=(line,))()
