"""What a meter of match shows and within which bounds: handbook's derived windows, and the way back."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import optimize

from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.measurand import Kind
from fenmist.methods.match_shown import (
    Fitted,
    Known,
    MeterClaim,
    as_shown,
    fit_meter,
    leak_bounds,
    leak_of,
    reflection_limit,
    reflection_shown,
)


def swr(rho):
    return (1 + rho) / (1 - rho)


def rho(value):
    return (value - 1) / (value + 1)


@pytest.mark.parametrize(("true", "low", "high"), [(1.2, 1.07, 1.35), (2.0, 1.75, 2.32)])
def test_window_of_25_db(true, low, high):
    """Handbook 6, derived: 25 dB, both arms as poor."""
    shown = [float(swr(item)) for item in MeterClaim(Kind.SWR, 25.0, ()).shows(np.array(rho(true)))]

    assert shown == pytest.approx([low, high], abs=5e-3)


@pytest.mark.parametrize(("directivity", "true", "share"), [(25.0, 1.5, 0.022), (20.0, 2.0, 0.068)])
def test_leak_into_forward_power(directivity, true, share):
    """Handbook 15.4, derived: (1 + 10^(−D/20)·ρ)² − 1, 2.2 % (printed ±2.2) and 6.8 %."""
    assert (1 + leak_of(directivity) * rho(true)) ** 2 - 1 == pytest.approx(share, abs=1e-3)


@pytest.mark.parametrize(("value", "share"), [(1.5, 4.0), (2.0, 11.1), (3.0, 25.0), (5.0, 44.4)])
def test_reflected_over_forward(value, share):
    """Expected Pr/Pf, handbook 6 [std: any SWR table]."""
    watts = as_shown(Kind.REFLECTED, reflection_shown(Kind.SWR, np.array(value)), np.array(100.0))
    assert float(watts) == pytest.approx(share, abs=0.05)


@pytest.mark.parametrize(
    ("value", "db"), [(1.1, 26.4), (1.2, 20.8), (1.5, 14.0), (2.0, 9.54), (3.0, 6.02), (5.0, 3.52)]
)
def test_return_loss_of_an_swr(value, db):
    """SWR table, handbook 14 [std]."""
    size = reflection_shown(Kind.RETURN_LOSS, np.array(db))
    assert float(swr(size)) == pytest.approx(value, rel=2e-3)
    assert float(as_shown(Kind.RETURN_LOSS, np.array(rho(value)))) == pytest.approx(db, abs=0.05)


@given(st.floats(0.0, 0.95), st.floats(6.0, 60.0), st.sampled_from([Kind.SWR, Kind.REFLECTION, Kind.REFLECTED]))
def test_the_ring_holds_what_the_window_came_from(size, directivity, kind):
    """Of a meter at either end of its window the truth lies in the ring of what it shows."""
    terms = (SpecTerm(SpecKind.OF_READING, 0.05),)
    claim = MeterClaim(kind, directivity, terms, np.array(50.0), floor_w=0.01)
    for shown in claim.shows(np.array(size)):
        if shown < 0.999:
            low, high = claim.truth(shown)
            assert low - 0.02 <= size <= high + 0.02


def test_each_term_widens_the_window():
    """5 % of a reading of SWR 2 is ±0.1: ρ from (0.9)/(2.9) to (1.1)/(3.1); 0.1 of 10 W reflected a tenth of Pr."""
    tight = 200.0
    of_swr = MeterClaim(Kind.SWR, tight, (SpecTerm(SpecKind.OF_READING, 0.05),)).shows(np.array(1 / 3))
    assert [float(item) for item in of_swr] == pytest.approx([0.9 / 2.9, 1.1 / 3.1], abs=1e-6)
    absolute = MeterClaim(Kind.SWR, tight, (SpecTerm(SpecKind.ABSOLUTE, 0.1),)).shows(np.array(1 / 3))
    assert [float(item) for item in absolute] == pytest.approx([0.9 / 2.9, 1.1 / 3.1], abs=1e-6)
    digits = MeterClaim(Kind.SWR, tight, (SpecTerm(SpecKind.DIGITS, 2.0),), digit=np.array(0.05))
    assert float(digits.shows(np.array(1 / 3))[1]) == pytest.approx(1.1 / 3.1, abs=1e-6)
    of_db = MeterClaim(Kind.RETURN_LOSS, tight, (SpecTerm(SpecKind.ABSOLUTE, 1.0),)).shows(np.array(0.1))
    assert [float(item) for item in of_db] == pytest.approx([10 ** (-21 / 20), 10 ** (-19 / 20)], abs=1e-6)
    watts = MeterClaim(
        Kind.REFLECTED, tight, (SpecTerm(SpecKind.OF_RANGE, 0.05),), np.array(100.0), np.array(100.0), np.array(100.0)
    ).shows(np.array(math.sqrt(0.1)))  # 10 ± 5 W of 100 ± 5 W
    assert [float(item) for item in watts] == pytest.approx([math.sqrt(5 / 105), math.sqrt(15 / 95)], abs=1e-6)


def test_a_diode_that_begins_late_shows_too_little():
    """0.2 W of 10 W come back, ρ² = 0.02; 0.1 W may be missing."""
    low, high = MeterClaim(Kind.SWR, 200.0, (), np.array(10.0), floor_w=0.1).shows(np.array(math.sqrt(0.02)))

    assert float(low) == pytest.approx(0.1, abs=1e-6)
    assert float(high) == pytest.approx(math.sqrt(0.02), abs=1e-6)
    ring = MeterClaim(Kind.SWR, 200.0, (), np.array(10.0), floor_w=0.1).truth(np.array(0.1))
    assert [float(item) for item in ring] == pytest.approx([0.1, math.sqrt(0.02)], abs=1e-6)


def test_watts_that_a_diode_swallows_tell_nothing_where_nobody_knows_what_went_out():
    claims = [MeterClaim(Kind.SWR, 200.0, (), None, floor_w=floor_w) for floor_w in (0.1, 0.0)]
    assert [claim.shows(np.array(0.2))[0] for claim in claims] == pytest.approx([0.2, 0.2])


def test_nothing_shown_has_a_limit_of_its_own():
    """0 ± 0.1 W of 10 W: ρ up to 0.1, not infinitely uncertain."""
    below, above = reflection_limit(Kind.REFLECTED, np.array(0.0), np.array(0.1), np.array(10.0))

    assert (float(below), float(above)) == pytest.approx((0.0, 0.1))
    below, above = reflection_limit(Kind.RETURN_LOSS, np.array(0.1), np.array(1.0))
    assert (float(below), float(above)) == pytest.approx((0.1 - 10 ** (-21 / 20), 10 ** (-19 / 20) - 0.1))


def known(gammas, leak, scale, u=1e-4):
    gamma = np.array(gammas, complex)
    n = gamma.size
    return Known(gamma, np.full(n, u), scale * np.abs(gamma + leak), np.full(n, u))


@pytest.mark.parametrize("leak", [0.05, -0.05, 0.05j, 0.03 + 0.04j, -0.02 - 0.01j])
@pytest.mark.parametrize("ends", [(0.0, 1 / 3, -1 / 3), (0.0, 1 / 3, 0.5), (0.0, 0.5j, 0.3, -0.4)])
def test_leak_and_scale_come_back(ends, leak):
    found = fit_meter(known(ends, leak, 0.93))

    assert found is not None
    assert found.scale == pytest.approx(0.93, abs=2e-3)
    assert found.leak == pytest.approx(abs(leak), abs=2e-3)
    assert found.ends == len(ends)
    low, high = found.directivity_interval_db
    assert low - 0.01 <= -20 * math.log10(abs(leak)) <= high + 0.01
    assert found.directivity_db == pytest.approx(-20 * math.log10(abs(leak)), abs=0.5)


def test_ends_that_tell_nothing_apart():
    assert fit_meter(known((0.0, 1 / 3), 0.05, 1.0)) is None
    assert fit_meter(known((0.0, 0.01, 1 / 3), 0.05, 1.0)) is None


def test_fitted_uncertainty_holds():
    """Ends off by their u, readings by theirs: both results within 2 u in 95 %, and scattered as stated."""
    rng = np.random.default_rng(5)
    gamma = np.array([0.0, -1 / 3, 1 / 3, 0.5])
    leaks, scales = [], []
    for _ in range(400):
        leak = 0.05 * np.exp(2j * np.pi * rng.uniform()) * rng.uniform(0.5, 1.5)
        true = gamma + 0.003 * (rng.normal(size=4) + 1j * rng.normal(size=4))
        shown = 0.97 * np.abs(true + leak) + 0.004 * rng.normal(size=4)
        found = fit_meter(Known(gamma.astype(complex), np.full(4, 0.003), shown, np.full(4, 0.004)))
        leaks.append((found.leak - abs(leak)) / found.u_leak)
        scales.append((found.scale - 0.97) / found.u_scale)
    for some in (leaks, scales):
        assert np.mean(np.abs(some) < 2.0) > 0.90
        assert 0.85 < np.std(some) < 1.2


def test_bounds_of_a_null():
    """A load of ρ 0.01 at which 0.06 shows: the leak is 0.05 to 0.07, less and more what both are known to."""
    least, most = leak_bounds(Known(np.array([0.01 + 0j]), np.array([0.003]), np.array([0.06]), np.array([0.004])))

    assert (least, most) == pytest.approx((0.05 - 0.01, 0.07 + 0.01))
    quiet = leak_bounds(Known(np.array([0.01 + 0j]), np.array([0.003]), np.array([0.01]), np.array([0.004])))
    assert quiet[0] == 0.0


def test_two_phases_of_one_end_bound_the_leak_from_below():
    """Handbook 15.4: the spread over a turned phase is twice the leak at most."""
    both = Known(
        np.array([1 / 3 + 0j, -1 / 3]), np.full(2, 1e-5), np.array([1 / 3 + 0.05, 1 / 3 - 0.05]), np.full(2, 1e-5)
    )

    assert leak_bounds(both, ((0, 1),))[0] == pytest.approx(0.05, abs=1e-4)


@pytest.mark.parametrize("seed", range(4))
def test_the_fit_is_the_least_of_the_sum_written_out(seed):
    """SciPy's minimum of Σ((s - c·|Γ + δ|)/u)² + (|δ|/0.3)², with its covariance from the same sum's curvature."""
    random = np.random.default_rng(seed)
    gamma = np.array([0.02, 0.5 * np.exp(0.4j), 0.33 * np.exp(-2.0j), 0.4j])
    u_gamma, u_shown = np.full(4, 0.03), np.array([0.02, 0.05, 0.04, 0.01])
    shown = 0.9 * np.abs(gamma + 0.08 - 0.05j) + 0.02 * random.standard_normal(4)
    u = np.hypot(u_gamma, u_shown)

    def left(p):
        ends = (shown - p[0] * np.abs(gamma + p[1] + 1j * p[2])) / u
        return np.concatenate([ends, np.array([p[1], p[2]]) / 0.3])

    best = optimize.least_squares(left, [1.0, 0.05, -0.03], xtol=1e-14, ftol=1e-14, gtol=1e-14)
    covariance = np.linalg.inv(best.jac.T @ best.jac)
    way = np.array([0.0, best.x[1], best.x[2]]) / np.hypot(best.x[1], best.x[2])
    found = fit_meter(Known(gamma, u_gamma, shown, u_shown))

    assert (found.scale, found.leak) == pytest.approx((best.x[0], np.hypot(best.x[1], best.x[2])), rel=1e-5)
    assert found.u_scale == pytest.approx(covariance[0, 0] ** 0.5, rel=1e-3)
    assert found.u_leak == pytest.approx((way @ covariance @ way) ** 0.5, rel=1e-3)


def test_an_end_that_reflects_the_tenth_tells_the_scale_and_two_such_are_needed():
    assert fit_meter(known((0.0, 0.101, -0.101), 0.05, 1.0)) is not None
    assert fit_meter(known((0.0, 0.099, -0.101), 0.05, 1.0)) is None


def test_a_leak_known_to_a_third_has_an_end_without_end():
    made = Fitted(0.05, 0.03, 1.0, 0.01, 3)
    assert made.directivity_interval_db == (pytest.approx(-20 * math.log10(0.11)), math.inf)
    assert Fitted(0.05, 0.02, 1.0, 0.01, 3).directivity_interval_db[1] == pytest.approx(40.0)
