"""Heat of a load: against a general-purpose solver of differential equations, and limits that must hold."""

import math
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from fenmist.hookup.heat import HeatModel, Keying, heat_model
from fenmist.kit import shelf

LOAD = HeatModel(150.0, 300.0, 700.0)

KEYED = (Keying(0.0, 60.0, 150.0), Keying(100.0, 130.0, 80.0), Keying(400.0, 520.0, 150.0))


def test_rating_is_reached_after_its_time_from_cold():
    assert LOAD.after(0.0, 150.0, 300.0) == pytest.approx(1.0)
    assert LOAD.seconds_left(0.0, 150.0) == pytest.approx(300.0)


def test_rise_after_three_key_downs_is_what_a_general_solver_finds():
    """Referee: scipy.integrate.solve_ivp on the differential equation, stepped over the switching moments."""

    def power(t: float) -> float:
        return next((k.power_w for k in KEYED if k.start_s <= t < k.end_s), 0.0)

    theta, edges = 0.0, sorted({0.0, 900.0, *(k.start_s for k in KEYED), *(k.end_s for k in KEYED)})
    for a, b in pairwise(edges):
        q = LOAD.drive(power((a + b) / 2.0))
        theta = solve_ivp(lambda _t, y, q=q: (q - y) / LOAD.cooling_s, (a, b), [theta], rtol=1e-10, atol=1e-12).y[0, -1]

    assert LOAD.rise_at(KEYED, 900.0) == pytest.approx(theta, rel=1e-6)


@given(st.floats(0.0, 0.99), st.floats(1.0, 2000.0))
def test_time_left_leads_exactly_to_the_rating(rise, power_w):
    left = LOAD.seconds_left(rise, power_w)

    if math.isinf(left):
        assert LOAD.drive(power_w) <= 1.0
    else:
        assert LOAD.after(rise, power_w, left) == pytest.approx(1.0, abs=1e-6)


@given(st.floats(0.0, 1.5), st.floats(1.0, 400.0), st.floats(1.0, 100.0))
def test_after_the_rest_the_key_down_just_fits(rise, power_w, seconds):
    rest = LOAD.rest_before(rise, power_w, seconds)

    if math.isinf(rest):
        assert LOAD.after(0.0, power_w, seconds) >= 1.0 - 1e-9
    else:
        end = LOAD.after(LOAD.after(rise, 0.0, rest), power_w, seconds)
        assert end == pytest.approx(1.0, abs=1e-6) if rest > 0 else end <= 1.0 + 1e-9


def test_a_forgotten_carrier_is_held_at_far_too_hot():
    assert LOAD.rise_at([Keying(0.0, 1e7, 1e5)], 1e7) == pytest.approx(4.0)


def test_unstated_cooling_is_slow_and_no_rating_gives_no_model():
    load = shelf.dummy_load("l", "load", 100.0, minutes=5.0)

    assert heat_model(load).cooling_s == pytest.approx(900.0)
    assert heat_model(shelf.dummy_load("l", "load", 100.0, cooling_minutes=4.0)).cooling_s == pytest.approx(240.0)
    assert heat_model(shelf.tee("t", "tee")) is None


def test_key_downs_that_touch_or_overlap_count_once():
    one = LOAD.rise_at([Keying(0.0, 100.0, 150.0)], 100.0)

    assert LOAD.rise_at([Keying(0.0, 60.0, 150.0), Keying(60.0, 100.0, 150.0)], 100.0) == pytest.approx(one)
    assert LOAD.rise_at([Keying(0.0, 60.0, 150.0), Keying(50.0, 100.0, 150.0)], 100.0) == pytest.approx(one)


def test_what_was_followed_before_changes_nothing():
    """One model all along, as in a run: key-downs come, the last grows, some are taken back, the clock goes back."""
    keyed = [Keying(10.0 * n, 10.0 * n + 3.0 + n % 4, 40.0 + 7.0 * (n % 5)) for n in range(40)]

    def fresh(keyings, now_s):
        theta, at = 0.0, keyings[0].start_s
        for item in sorted(keyings, key=lambda one: one.start_s):
            if item.start_s < now_s:
                theta = LOAD.after(theta, 0.0, item.start_s - at)
                at = min(item.end_s, now_s)
                theta = LOAD.after(theta, item.power_w, at - item.start_s)
        return LOAD.after(theta, 0.0, now_s - at)

    for count in (1, 2, 30, 31, 32, 12, 40, 39):
        now_s = keyed[count - 1].start_s + 2.0  # the last is under way
        assert LOAD.rise_at(keyed[:count], now_s) == pytest.approx(fresh(keyed[:count], now_s), rel=1e-12)
        assert LOAD.rise_at(keyed[:count], now_s + 500.0) == pytest.approx(
            fresh(keyed[:count], now_s + 500.0), rel=1e-12
        )
    other = [*keyed[:20], Keying(205.0, 209.0, 150.0), *keyed[21:]]
    assert LOAD.rise_at(other, 395.0) == pytest.approx(fresh(other, 395.0), rel=1e-12)
    late = [*keyed[5:], *keyed[:5]]
    assert LOAD.rise_at(late, 400.0) == pytest.approx(fresh(keyed, 400.0), rel=1e-12)
    assert LOAD.rise_at(keyed, 155.0) == pytest.approx(fresh(keyed, 155.0), rel=1e-12)
    assert LOAD.highest_rise(keyed) == pytest.approx(max(fresh(keyed, item.end_s) for item in keyed), rel=1e-12)
    assert LOAD.highest_rise([]) == 0.0 == LOAD.rise_at([], 5.0)
    stronger = HeatModel(300.0, 300.0, 700.0)
    assert stronger.highest_rise(keyed) == pytest.approx(LOAD.highest_rise(keyed) / 2.0)


def test_the_highest_rise_may_lie_long_ago_and_the_last_key_down_may_end_first():
    hot, cool = Keying(0.0, 200.0, 150.0), Keying(2000.0, 2001.0, 1.0)
    peak = LOAD.after(0.0, 150.0, 200.0)

    assert LOAD.highest_rise([hot, cool]) == pytest.approx(peak) == LOAD.highest_rise([hot])
    assert LOAD.highest_rise([hot, cool, Keying(3000.0, 3001.0, 1.0)]) == pytest.approx(peak)
    assert LOAD.rise_at([hot, Keying(20.0, 30.0, 150.0)], 200.0) == pytest.approx(peak)
