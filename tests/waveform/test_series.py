"""Powers against time, straight between readings; and moments of what has no closed form."""

import pytest

from fenmist.waveform.series import Series
from fenmist.waveform.shapes import TwoTone, moments_of
from fenmist.waveform.speech import Speech


def test_it_is_above_a_level_from_where_it_crosses_it_until_it_crosses_it_again():
    """From 0 to 10 W in 10 s, to 0 in 5: above 4 W from 4 s to 13 s; its mean is 5 W."""
    made = Series("c", False, (0.0, 10.0, 15.0), (0.0, 10.0, 0.0))

    assert (made.times_above(4.0), made.seconds_above(4.0)) == ((pytest.approx((4.0, 13.0)),), pytest.approx(9.0))
    assert (made.mean_w, made.lowest_w, made.highest_w) == (5.0, 0.0, 10.0)
    assert made.times_above(10.0) == ()


def test_moments_are_exact_where_they_are_known_and_else_those_of_half_a_minute():
    """Of two equal tones the mean power is half of PEP."""
    assert moments_of(TwoTone()).mean == pytest.approx(0.5)
    assert Speech().exact is None
    assert 0.0 < moments_of(Speech()).mean < 0.5
