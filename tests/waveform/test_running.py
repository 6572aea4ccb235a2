"""A waveform that runs: meters on it stand where they should, and the time at each level is the record's."""

import numpy as np
import pytest

from fenmist.waveform.movement import USUAL, shown
from fenmist.waveform.running import LEVELS, LOOKED_BACK_S, Running
from fenmist.waveform.shapes import Am, Dots, Steady, TwoTone
from fenmist.waveform.speech import Overshooting, Speech


@pytest.mark.parametrize("waveform", [Steady(), TwoTone(), Am(0.5), Dots(0.5, 20.0)])
def test_it_comes_to_what_is_said_of_it(waveform):
    running = Running(waveform)
    for _ in range(300):
        running.advance(0.033)

    assert running.now_s == pytest.approx(9.9, rel=0.01)
    for name, movement in USUAL.items():
        assert running.shown[name] == pytest.approx(shown(movement, waveform).reading, rel=0.08), name


def test_the_past_is_the_latest_of_the_record():
    running = Running(Dots(0.5, 1.0))
    low, high = running.past(100)
    assert not high.any()  # nothing has run
    running.advance(LOOKED_BACK_S)
    low, high = running.past(100)
    # from the middle of a dot: on for a quarter, off for a half
    assert high.tolist() == pytest.approx([1.0] * 13 + [0.0] * 24 + [1.0] * 26 + [0.0] * 24 + [1.0] * 13, abs=1.0)
    assert high[5] == high[50] == high[95] == 1.0 and high[25] == high[75] == 0.0
    assert np.all(low <= high)
    assert low[5] == low[95] == 1.0 and low[25] == 0.0  # each piece its own
    running.advance(0.5)
    assert running.past(100)[1][-1] == 0.0


def test_time_at_levels_sums_to_all_of_it():
    levels = Running(TwoTone()).time_at_levels()
    assert levels.size == LEVELS and levels.sum() == pytest.approx(1.0)
    # |cos| lies above cos(π/4) for half of its time
    assert levels[round(LEVELS * 2**-0.5) :].sum() == pytest.approx(0.5, abs=0.03)


def test_what_overshoots_runs_at_its_own_crest():
    running = Running(Overshooting(Speech()))
    running.advance(20.0)
    assert running.past(200)[1].max() <= 1.0
    assert running.step_s <= 1e-3
