"""Constants of home-built meters: certified regressions, both axes against SciPy, planted laws within their U."""

import json
import math

import numpy as np
import pytest
from scipy.optimize import least_squares
from scipy.special import i0

from fenmist.__main__ import main
from fenmist.errors import FenmistError
from fenmist.methods.constants import LAWS, ConstantsRequest, Law, fitted, moved_by_gain
from fenmist.session.constants import as_c, as_json, as_table, constants_headline, rounded_constants

# Statistical reference datasets of a national laboratory with certified values, from memory: a wrong figure would miss
# the certified digits. Linear (Norris), quadratic (Pontius), exponential (Misra1a).
NORRIS_Y = """0.1 338.8 118.1 888.0 9.2 228.1 668.5 998.5 449.1 778.9 559.2 0.3 0.1 778.1 668.8 339.3 448.9 10.8 557.7
228.3 998.0 888.8 119.6 0.3 0.6 557.6 339.3 888.0 998.5 778.9 10.2 117.6 228.9 668.4 449.2 0.2"""
NORRIS_X = """0.2 337.4 118.2 884.6 10.1 226.5 666.3 996.3 448.6 777.0 558.2 0.4 0.6 775.5 666.9 338.0 447.5 11.6 556.0
228.1 995.8 887.6 120.2 0.3 0.3 556.8 339.1 887.2 999.0 779.0 11.1 118.3 229.2 669.1 448.9 0.5"""
PONTIUS_Y = """.11019 .21956 .32949 .43899 .54803 .65694 .76562 .87487 .98292 1.09146 1.20001 1.30822 1.41599
1.52399 1.63194 1.73947 1.84646 1.95392 2.06128 2.16844 .11052 .22018 .32939 .43886 .54798 .65739 .76596 .87474 .98300
1.09150 1.20004 1.30818 1.41613 1.52408 1.63159 1.73965 1.84696 1.95445 2.06177 2.16829"""
MISRA_Y = "10.07 14.73 17.94 23.93 29.61 35.18 40.02 44.82 50.76 55.05 61.01 66.40 75.47 81.78"
MISRA_X = "77.6 114.9 141.1 190.8 239.9 289.0 332.8 378.4 434.8 477.3 536.8 593.1 689.1 760.0"


def numbers(text):
    return np.array(text.split(), float)


LINE = Law("line", ("b0", "b1"), lambda x, b: b[0] + b[1] * x, lambda x, y: np.array([0.5, 0.9]),
           lambda x, y: np.array([1.0, 1.0]))  # fmt: skip
GROWTH = Law("growth", ("b1", "b2"), lambda x, b: b[0] * -np.expm1(-b[1] * x), lambda x, y: np.array([500.0, 1e-4]),
             lambda x, y: np.array([100.0, 1e-4]))  # fmt: skip


@pytest.mark.parametrize(("law", "x", "y", "certified", "digits"), [
    (LINE, numbers(NORRIS_X), numbers(NORRIS_Y), (-0.262323073774029, 1.00211681802045), 7),
    (LAWS["quadratic"], np.tile(np.arange(1.5e5, 3.01e6, 1.5e5), 2), numbers(PONTIUS_Y),
     (-0.316081871345029e-14, 0.732059160401003e-6, 0.673565789473684e-3), 7),
    (GROWTH, numbers(MISRA_X), numbers(MISRA_Y), (2.3894212918e2, 5.5015643181e-4), 7),
])  # fmt: skip
def test_certified_regressions(law, x, y, certified, digits):
    made = fitted(x, y, law, np.ones(x.size))
    assert made.coefficients == pytest.approx(certified, rel=10.0**-digits)


def test_certified_standard_deviations():
    """Norris: residual s 0.884796396144373, u 0.232818234301152 and 0.429796848199937e-3; here with u = s."""
    x, y, s = numbers(NORRIS_X), numbers(NORRIS_Y), 0.884796396144373
    made = fitted(x, y, LINE, np.full(x.size, s))
    assert made.standard_u == pytest.approx((0.232818234301152, 0.429796848199937e-3), rel=1e-6)


DETECTOR = (5.0, 0.06)


def detector_volts(watts, k=DETECTOR[0], v=DETECTOR[1]):
    """ln I₀(A/v)·v of an amplitude A = √(P/k): a diode with a capacitor behind it."""
    return v * np.log(i0(np.sqrt(watts / k) / v))


LEVELS = np.geomspace(0.2, 40.0, 9)
PLANTED = {
    "quadratic": ((1.1, 0.3, 0.05), lambda w: (-0.3 + np.sqrt(0.09 - 4.4 * (0.05 - w))) / 2.2),
    "log": ((0.025, 0.4), lambda w: 0.025 * 10.0 * np.log10(1e3 * w) + 0.4),
    "detector": (DETECTOR, detector_volts),
}


@pytest.mark.parametrize("name", list(PLANTED))
def test_planted_constants_come_back(name):
    planted, volts = PLANTED[name]
    made = fitted(volts(LEVELS), LEVELS, LAWS[name], 0.01 * LEVELS)
    assert made.coefficients == pytest.approx(planted, rel=1e-5)
    assert made.power(volts(np.array([3.0]))) == pytest.approx([3.0], rel=1e-5)
    assert made.leverage.sum() == pytest.approx(len(planted), rel=1e-3)
    assert np.abs(made.residuals).max() < 1e-5 and made.enough_points


@pytest.mark.parametrize("name", list(PLANTED))
def test_limits_of_the_detectors_law_and_slopes(name):
    """Far below its knee volts go with power, far above with its root less a drop."""
    low, high = (detector_volts(np.array([w, 4.0 * w])) for w in (1e-6, 100.0))
    assert low[1] / low[0] == pytest.approx(4.0, rel=1e-3)
    assert high[1] / high[0] == pytest.approx(2.0, rel=0.05)
    law, (k, v) = LAWS["detector"], (3.0, 0.2)
    for y in (1e-12, 9e-9, 1.1e-8, 1e-3):  # x²/4 − x⁴/64 of x
        x = 2.0 * np.sqrt(y) * (1.0 + y / 8.0)
        assert law.power(np.array([v * y]), np.log([k, v]))[0] == pytest.approx(k * (v * x) ** 2, rel=1e-6)
    made = fitted(PLANTED[name][1](LEVELS), LEVELS, LAWS[name], 0.01 * LEVELS)
    assert np.all(np.diff(made.power(np.linspace(*PLANTED[name][1](LEVELS[[0, -1]]), 50))) > 0.0)


def test_both_axes_against_scipy_over_constants_and_true_volts_together():
    random = np.random.default_rng(3)
    true_v = np.linspace(0.5, 5.0, 10)
    u_v, u_w = np.full(10, 0.05), 0.02 * (true_v**2 + 0.2)
    volts, watts = true_v + u_v * random.standard_normal(10), true_v**2 + 0.2 + u_w * random.standard_normal(10)
    made = fitted(volts, watts, LAWS["quadratic"], u_w, u_v)

    def left(p):
        fit = (p[0] * p[3:] + p[1]) * p[3:] + p[2]
        return np.concatenate([(fit - watts) / u_w, (p[3:] - volts) / u_v])

    best = least_squares(left, [1.0, 0.0, 0.2, *volts], xtol=1e-14, ftol=1e-14)
    assert made.coefficients == pytest.approx(best.x[:3], rel=1e-4, abs=1e-5)
    covariance = np.linalg.inv(best.jac.T @ best.jac)[:3, :3] * max(1.0, 2 * best.cost / 7)
    assert made.covariance == pytest.approx(covariance, rel=0.02)
    plain = fitted(volts, watts, LAWS["quadratic"], u_w)
    assert plain.coefficients != pytest.approx(made.coefficients, rel=1e-3)


@pytest.mark.parametrize("benches", [60, pytest.param(2000, marks=pytest.mark.long)])
@pytest.mark.parametrize("name", list(PLANTED))
def test_constants_are_covered_by_their_u_and_a_control_isnt(name, benches):
    planted, of = PLANTED[name]
    random, exact = np.random.default_rng(5), of(LEVELS)
    u_w, u_v = 0.015 * LEVELS, np.full(LEVELS.size, 2e-4)
    pulls = []
    for _ in range(benches):
        watts = LEVELS * (1.0 + 0.015 * random.standard_normal(LEVELS.size))
        made = fitted(exact + u_v * random.standard_normal(exact.size), watts, LAWS[name], u_w, u_v)
        pulls.append((made.coefficients - planted) / made.standard_u)
    spread = np.std(np.array(pulls), axis=0)
    # where readings scatter more than they are known to the u is widened: never too small, hardly too large
    assert np.all(spread > 0.75) and np.all(spread < 1.12)
    assert np.all(2.0 * spread > 1.4)  # with half the u


def test_without_a_stated_u_the_scatter_says_what_is_known():
    random = np.random.default_rng(8)
    volts = np.linspace(0.5, 5.0, 40)
    watts = volts**2 * (1.0 + 0.03 * random.standard_normal(40))
    made = fitted(volts, watts, LAWS["quadratic"])
    assert np.median(made.u_watts / watts) == pytest.approx(0.03, rel=0.3)
    assert abs(made.coefficients[0] - 1.0) < 4.0 * made.standard_u[0]


@pytest.mark.parametrize(("volts", "watts", "more", "codes"), [
    ("1 2 3", "1 4 9 W", {}, {"constants.few"}), ("1 2 3 4 5", "1 4 9 16 25 W", {}, set()),
    ("3 3.5 4 4.5 5", "9 12.25 16 20.25 25 W", {}, {"constants.narrow"}),
    ("1 2 3 4 5 6", "1 4 9 25 25 36 W", {"u_watts": "2 %"}, {"constants.law", "constants.residual"}),
    ("1 2 3 4 5 6 7 8", "1 4 9.198 15.648 25.55 35.208 49 64 W", {"u_watts": "2 %"}, set()),  # by turns 2.2 % off
    ("1 2 3 4 5 6 7 8", "1 4 9.216 15.616 25.6 35.136 49 64 W", {"u_watts": "2 %"}, {"constants.law"}),  # 2.4 %
    ("1 2 3 4 5 6", "1 4 9 16 25 36 W", {"step": "50 mV"}, {"constants.step"}),
    ("1 2 3 4 5 6", "1 4 9 16 25 36 W", {"step": "20 mV"}, set()),
])  # fmt: skip
def test_what_is_remarked(volts, watts, more, codes):
    answer = ConstantsRequest(volts, watts, **more)()
    assert {note.code for note in answer.notes} == codes
    assert answer.enough_points is not bool(codes & {"constants.few", "constants.narrow"})
    if "step" in more:  # dP/P = 2·dV/V at 1 V
        assert answer.step_effect == pytest.approx(2.0 * float(more["step"].split()[0]) / 1e3, rel=1e-3)


def test_as_many_figures_as_are_needed_and_no_more():
    rough = ConstantsRequest("1 2 3 4 5 6", "1.234 4.94 11.1 19.7 30.9 44.4 W", u_watts="10 %")()
    fine = ConstantsRequest("1 2 3 4 5 6", "1.234 4.94 11.1 19.7 30.9 44.4 W", u_watts="0.1 %")()
    assert 2 <= rough.digits < fine.digits <= 12
    for answer, share in ((rough, 0.05), (fine, 5e-4)):
        beta = np.array([float(text) for text in rounded_constants(answer)])
        moved = np.abs(answer.law.power(answer.volts, beta) / answer.fitted_w - 1.0)
        assert moved.max() <= max(0.11 * share, 1.1e-4)


@pytest.mark.parametrize("given", [
    ("1 2", "1 4 W"), ("1 2 3", "1 4 W"), ("1 2 3", "0 4 9 W"), ("", "1 W"),
])  # fmt: skip
def test_what_is_no_set_of_readings_is_said(given):
    with pytest.raises(FenmistError) as caught:
        ConstantsRequest(*given)()
    assert caught.value.hint
    for more in ({"law": "cubic"}, {"check": "1 2"}, {"law": "detector", "check": "1 -2"}):
        with pytest.raises(FenmistError):
            ConstantsRequest("1 2 3 4", "1 4 9 16 W", **more)()
    with pytest.raises(FenmistError):
        ConstantsRequest("-1 2 3 4", "1 4 9 16 W", law="detector")()


def test_the_command_and_what_a_firmware_takes(capsys):
    given = ["constants", "--volts", "1 2 3 4 5", "--watts", "1.1 4.2 9.3 16.4 25.5 W"]
    assert main([*given, "--u-watts", "3 %", "--check", "1 0 0", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["coefficients"] == pytest.approx({"a": 1.0, "b": 0.1, "c": 0.0}, abs=1e-6)
    assert set(found["standard_u"]) == {"a", "b", "c"} and len(found["covariance"]) == 3
    assert found["enough_points"] is True and len(found["residual_percent"]) == 5
    assert found["checked_percent"][0] == pytest.approx(100 * (1 / 1.1 - 1))
    answer = ConstantsRequest("1 2 3 4 5", "1.1 4.2 9.3 16.4 25.5 W", u_watts="3 %")()
    for form, made in (("c", as_c), ("json", as_json), ("table", as_table)):
        assert main([*given, "--u-watts", "3 %", "--as", form]) == 0
        assert capsys.readouterr().out == made(answer)
    assert "static const double quadratic_constants[3] = {" in as_c(answer)
    assert json.loads(as_json(answer))["law"] == "quadratic"
    assert as_table(answer).startswith("a\t1")
    assert main([*given, "--law", "log"]) == 0
    said = capsys.readouterr().out
    assert "The log law follows the readings to" in said and "slope" in said and "in use" not in said
    assert constants_headline(answer).startswith("The quadratic law follows")
    assert math.isfinite(answer.in_u.max())


def test_residuals_are_in_u_of_the_power_and_notes_carry_their_numbers():
    answer = ConstantsRequest("3 3.5 4 4.5 5", "9.1 12.25 16 20.25 24.9 W", u_watts="4 %")()
    assert answer.in_u == pytest.approx((answer.fitted_w - answer.watts) / (0.02 * answer.watts))
    (narrow,) = (note for note in answer.notes if note.code == "constants.narrow")
    assert narrow.evidence["span"] == pytest.approx(24.9 / 9.1)
    assert "span 2.7 to 1" in narrow.what
    assert answer.step_effect == 0.0
    off = ConstantsRequest("1 2 3 4 5 6", "1 4 9 25 25 36 W", u_watts="2 %")()
    (law,) = (note for note in off.notes if note.code == "constants.law")
    (worst,) = (note for note in off.notes if note.code == "constants.residual")
    assert law.evidence["ratio"] > 2.0
    assert abs(worst.evidence["residual"]) == pytest.approx(np.abs(off.residuals).max())


def test_ten_to_one_in_power_and_two_spare_readings_are_enough():
    """Exactly at both limits; a little less of either isn't."""
    volts = np.array([1.0, 1.5, 2.0, 2.5, math.sqrt(10.0)])
    assert fitted(volts, volts**2, LAWS["quadratic"]).enough_points
    assert not fitted(volts[:4], volts[:4] ** 2, LAWS["quadratic"]).enough_points
    narrow = volts * np.array([1.0, 1.0, 1.0, 1.0, 0.97])
    assert not fitted(narrow, narrow**2, LAWS["quadratic"]).enough_points


@pytest.mark.parametrize(("law", "volts"), [
    ("quadratic", lambda p: np.sqrt(p / 4.0)), ("log", lambda p: 0.025 * (10.0 * np.log10(p / 1e-3)) + 0.3),
    ("detector", lambda p: np.sqrt(p / 4.0) - 0.05),
])  # fmt: skip
def test_a_gain_that_all_powers_share_moves_the_constants_as_a_fit_to_other_powers_does(law, volts):
    """Fitted again to powers 2 % higher: the difference of the constants is what their covariance grows by."""
    watts = np.array([1.0, 2.0, 5.0, 10.0, 30.0, 100.0])
    shown = volts(watts)
    one, other = (fitted(shown, watts * gain, LAWS[law], 0.01 * watts * gain) for gain in (1.0, 1.02))
    moved = moved_by_gain(one, 0.02)
    grown = np.sqrt(np.maximum(np.diag(moved.covariance - one.covariance), 0.0))

    assert grown == pytest.approx(np.abs(other.coefficients - one.coefficients), rel=0.03, abs=1e-6)
    assert moved_by_gain(one, 0.0).covariance == pytest.approx(one.covariance)


def test_leverage_and_covariance_without_stated_uncertainties_are_those_of_weighed_least_squares():
    """Referee: the hat matrix and s²·(XᵀX)⁻¹ of X = (V², V, 1)/P, all readings alike in per cent."""
    volts = np.array([0.5, 1.0, 1.6, 2.3, 3.1, 4.0])
    watts = 4.0 * volts**2 * (1.0 + 0.01 * np.array([1, -1, 1, 0, -1, 1]))
    answer = fitted(volts, watts, LAWS["quadratic"])
    columns = np.stack([volts**2, volts, np.ones_like(volts)], axis=1) / watts[:, None]
    beta = np.linalg.lstsq(columns, np.ones_like(volts), rcond=None)[0]
    variance = float(np.sum((columns @ beta - 1.0) ** 2)) / 3.0
    inner = np.linalg.inv(columns.T @ columns)

    assert answer.coefficients == pytest.approx(beta, rel=1e-5, abs=1e-6)
    assert answer.leverage == pytest.approx(np.diag(columns @ inner @ columns.T), rel=1e-4)
    assert answer.covariance == pytest.approx(variance * inner, rel=1e-3)


def test_u_of_volts_and_watts_as_typed_are_expanded():
    """k = 2: half of what is typed counts, in both."""
    volts, watts = "0.5 1 1.6 2.3 3.1", "1.02 3.95 10.3 21.1 38.5"
    typed = ConstantsRequest(volts, watts, "4 %", "20 mV")()
    by_hand = fitted(typed.volts, typed.watts, LAWS["quadratic"], 0.02 * typed.watts, np.full(5, 0.01))

    assert typed.coefficients == pytest.approx(by_hand.coefficients, rel=1e-6)
    assert typed.covariance == pytest.approx(by_hand.covariance, rel=1e-6)


def test_leverage_is_the_same_in_millivolts():
    """What volts are known to counts by what the law makes of them, in whatever unit they were typed."""
    volts = detector_volts(LEVELS)
    in_volts, in_kilovolts = (
        fitted(volts * unit, LEVELS, LAWS["detector"], 0.01 * LEVELS, 0.02 * volts * unit) for unit in (1.0, 1e-3)
    )
    without = fitted(volts, LEVELS, LAWS["detector"], 0.01 * LEVELS)

    assert in_kilovolts.leverage == pytest.approx(in_volts.leverage, rel=1e-4)
    assert in_volts.leverage != pytest.approx(without.leverage, rel=1e-2)
