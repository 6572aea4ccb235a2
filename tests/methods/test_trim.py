"""A gain control set three ways: against SciPy's own minima and by hand, and whether turning is worth it."""

import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize, minimize_scalar

from fenmist.__main__ import main
from fenmist.errors import FenmistError
from fenmist.methods.trim import Control, Measure, TrimRequest, trimmed

POWERS = st.lists(st.tuples(st.floats(1.0, 200.0), st.floats(0.6, 1.6)), min_size=3, max_size=9)


def errors(gain, a, b, measure, full, zero=0.0):
    shown = gain * a + zero
    if measure is Measure.DB:
        return 10.0 * np.log10(shown / b)
    return (shown - b) / (full if measure is Measure.FULL_SCALE else b)


@settings(max_examples=60)
@given(POWERS, st.sampled_from(list(Measure)))
def test_no_gain_is_better_than_the_least_worst_and_none_leaves_a_smaller_sum_of_squares(pairs, measure):
    b = np.array([power for power, _ in pairs])
    a = b * [ratio for _, ratio in pairs]
    made = trimmed(b, a, measure, full_scale_w=200.0)
    worst = minimize_scalar(lambda g: np.max(np.abs(errors(g, a, b, measure, 200.0))), bounds=(0.4, 2.0),
                            method="bounded", options={"xatol": 1e-10})  # fmt: skip
    squares = minimize_scalar(lambda g: np.sum(errors(g, a, b, measure, 200.0) ** 2), bounds=(0.4, 2.0),
                              method="bounded", options={"xatol": 1e-10})  # fmt: skip

    assert made.minimax.worst <= worst.fun + 1e-6
    assert made.minimax.worst == pytest.approx(np.max(np.abs(errors(made.minimax.gain, a, b, measure, 200.0))))
    assert np.sum(made.least_squares.errors**2) == pytest.approx(squares.fun, rel=1e-4, abs=1e-9)
    assert made.exact.gain * made.working[1] == pytest.approx(made.working[0])


@pytest.mark.parametrize("measure", [Measure.PER_CENT, Measure.FULL_SCALE])
def test_gain_and_zero_against_a_search_over_both(measure):
    b = np.array([10.0, 20.0, 50.0, 100.0])
    a = 0.9 * b + 1.5 + np.array([0.2, -0.3, 0.4, -0.5])
    made = trimmed(b, a, measure, control=Control.GAIN_AND_ZERO, full_scale_w=100.0)

    def worst(p):
        return np.max(np.abs(errors(p[0], a, b, measure, 100.0, p[1])))

    found = min((minimize(worst, start, method="Nelder-Mead", options={"xatol": 1e-9, "fatol": 1e-12, "maxiter": 4000})
                 for start in ([1.1, -1.5], [1.0, 0.0])), key=lambda item: item.fun)  # fmt: skip
    assert made.minimax.worst == pytest.approx(found.fun, rel=1e-3)
    weights = 1.0 / b if measure is Measure.PER_CENT else np.full(4, 0.01)
    wanted = np.linalg.lstsq(np.stack([weights * a, weights], axis=1), weights * b, rcond=None)[0]
    assert (made.least_squares.gain, made.least_squares.zero_w) == pytest.approx(tuple(wanted))
    # planted without scatter both come back
    plain = trimmed(b, 0.9 * b + 1.5, measure, control=Control.GAIN_AND_ZERO, full_scale_w=100.0)
    assert (plain.minimax.gain, plain.minimax.zero_w) == pytest.approx((1 / 0.9, -1.5 / 0.9))
    assert plain.minimax.worst == pytest.approx(0.0, abs=1e-9)


def test_two_readings_by_hand():
    """Ratios 0.942 and 0.93: g = 2/(0.942 + 0.93), worst (0.942 − 0.93)/(0.942 + 0.93); exact at 50 W: 1/0.942."""
    made = TrimRequest(("100 W: 93 W", "50 W: 47.1 W"), working="50 W")()
    assert made.minimax.gain == pytest.approx(2 / 1.872)
    assert made.minimax.worst == pytest.approx(0.012 / 1.872)
    assert made.exact.gain == pytest.approx(50 / 47.1)
    assert made.reads(made.exact) == pytest.approx(50.0)
    assert made.as_found.worst == pytest.approx(0.07)
    assert made.reference_w[made.as_found.worst_at] == 100.0
    assert TrimRequest(("100 W: 93 W", "50 W: 47.1 W"))().working == pytest.approx((100.0, 93.0))
    between = TrimRequest(("100 W: 90 W", "25 W: 25 W"), working="50 W")().working[1]
    assert between == pytest.approx(50.0 * math.sqrt(0.9))  # half way in the logarithm


def test_what_is_known_better_counts_more():
    b, a = np.array([10.0, 100.0]), np.array([11.0, 95.0])
    even = trimmed(b, a, Measure.DB).least_squares.gain
    made = trimmed(b, a, Measure.DB, expanded_u=np.array([0.01, 0.1])).least_squares.gain
    assert made == pytest.approx(math.exp(-(100 * math.log(1.1) + math.log(0.95)) / 101))
    assert even == pytest.approx((1.1 * 0.95) ** -0.5)
    share = trimmed(b, a, expanded_u=np.array([0.01, 0.1])).least_squares.gain
    assert share == pytest.approx((100 * 1.1 + 0.95) / (100 * 1.1**2 + 0.95**2))


@pytest.mark.parametrize(("readings", "more", "codes"), [
    (("50 W: 49 W", "100 W: 98.5 W"), {"u": "3 %"}, ["trim.inside_u"]),
    (("50 W: 49 W", "100 W: 90 W"), {"u": "3 %"}, []),
    (("10 W: 11 W", "100 W: 90 W"), {}, ["trim.little"]),
    (("10 W: 9.2 W", "50 W: 45 W", "100 W: 86 W"), {"working": "10 W"}, []),
    (("10 W: 9.9 W", "50 W: 45 W", "100 W: 86 W"), {"working": "10 W"}, ["trim.little"]),
    (("10 W: 8 W", "50 W: 44 W", "100 W: 86 W"), {"working": "10 W"}, []),
    (("10 W: 9.5 W", "50 W: 46 W", "100 W: 91 W"), {"working": "10 W"}, []),
    (("10 W: 7 W", "50 W: 44 W", "60 W: 53 W", "100 W: 86 W"), {"working": "10 W"}, ["trim.working_costs"]),
])  # fmt: skip
def test_what_is_remarked(readings, more, codes):
    answer = TrimRequest(readings, **more)()
    wanted = set(codes)
    if answer.exact.worst > 2.0 * answer.minimax.worst:
        wanted.add("trim.working_costs")
    assert {note.code for note in answer.notes} == wanted
    assert answer.is_inside_u is ("trim.inside_u" in codes)
    assert ("trim.little" in codes) is (not answer.is_inside_u and answer.minimax.worst > 0.5 * answer.as_found.worst)


@pytest.mark.parametrize(("readings", "more"), [
    ((), {}), (("50 W 47 W",), {}), (("50 W: 0 W",), {}), (("-5 W: 5 W",), {}),
    (("50 W: 47 W",), {"control": Control.GAIN_AND_ZERO}),
    (("50 W: 47 W", "10 W: 9 W"), {"control": Control.GAIN_AND_ZERO, "measure": Measure.DB}),
    (("50 W: 47 W",), {"measure": Measure.FULL_SCALE}), (("50 W: 47 W",), {"working": "0 W"}),
])  # fmt: skip
def test_what_makes_no_sense_is_said(readings, more):
    with pytest.raises(FenmistError) as caught:
        TrimRequest(readings, **more)()
    assert caught.value.hint


def test_the_command(capsys):
    given = ["trim", "--reading", "10 W: 11 W", "--reading", "50 W: 47.1 W", "--reading", "100 W: 93 W"]
    assert main([*given, "--working", "50 W", "--full-scale", "200 W", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)

    assert found["gain_working"]["gain"] == pytest.approx(50 / 47.1)
    assert found["gain_working"]["worst_percent"] == pytest.approx(100 * (11 * 50 / 47.1 - 10) / 200)
    assert found["gain_minimax"]["worst_percent"] < found["gain_working"]["worst_percent"]
    assert found["as_found"]["worst_percent"] == pytest.approx(3.5)
    assert found["advice"].startswith("Multiply what it shows by")
    assert main([*given, "--measure", "db", "--json"]) == 0
    decibels = json.loads(capsys.readouterr().out)["gain_minimax"]
    assert decibels["gain"] == pytest.approx((1.1 * 0.93) ** -0.5)
    assert decibels["worst_percent"] == pytest.approx(100 * (math.sqrt(1.1 / 0.93) - 1), rel=1e-6)
    assert main([*given, "--zero"]) == 0
    said = capsys.readouterr().out.replace("\u202f", " ")
    assert "least worst case" in said and "worst" in said and "× 1.1017 − 2.08 W" in said
    assert main(["trim", "--reading", "50 W: 49 W", "--u", "3 %"]) == 0
    assert "Leave it: every error lies inside its uncertainty." in capsys.readouterr().out


@pytest.mark.parametrize(("reference", "shown"), [((0.0, 50.0), (1.0, 50.0)), ((1.0, 50.0), (0.0, 50.0))])
def test_one_power_that_is_nothing_is_enough_to_be_refused(reference, shown):
    with pytest.raises(FenmistError, match="Powers are above 0"):
        trimmed(np.array(reference), np.array(shown), Measure.PER_CENT)
