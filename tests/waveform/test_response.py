"""An oscilloscope's response near its bandwidth."""

import numpy as np
import pytest

from fenmist.waveform.response import (
    BandwidthModel,
    response_limit_exponent,
    response_loss_exponent,
    system_bandwidth_hz,
)
from fenmist.waveform.sine import RMS_PER_UNIT, rms_from_volts
from support.published import published


@pytest.mark.parametrize(("part", "db"), list(published("scope_errors")["one_pole_db"].items()))
def test_one_pole_loses_what_is_derived(part, db):
    lost = 20 / np.log(10) * response_loss_exponent(1.0, float(part), BandwidthModel.ONE_POLE)

    assert float(lost) == pytest.approx(db, abs=0.005)


@pytest.mark.parametrize("model", [BandwidthModel.ONE_POLE, BandwidthModel.GAUSSIAN])
def test_the_bandwidth_is_where_half_the_power_is_lost(model):
    assert float(np.exp(-2 * response_loss_exponent(1.0, 1.0, model))) == pytest.approx(0.5)


def test_a_gaussian_response_is_the_textbooks():
    """|H| = exp(−0.3466·(f/fB)²), derived."""
    assert float(response_loss_exponent(1.0, 2.0, BandwidthModel.GAUSSIAN)) == pytest.approx(0.3466 / 4, abs=1e-5)


def test_a_flat_response_and_an_unstated_bandwidth_lose_nothing():
    assert float(response_loss_exponent(1.0, 2.0, BandwidthModel.FLAT)) == 0.0
    assert float(response_loss_exponent(1.0, np.inf, BandwidthModel.ONE_POLE)) == 0.0


def test_forms_of_volts_agree_on_a_sampled_sine():
    t = np.arange(10_000) / 10_000
    sine = 3.0 * np.sin(2 * np.pi * 5 * t)
    rms = float(np.sqrt(np.mean(sine**2)))

    assert rms_from_volts(float(sine.max() - sine.min()), "Vpp") == pytest.approx(rms, rel=1e-4)
    assert rms_from_volts(3.0, "Vpk") == pytest.approx(rms)
    assert RMS_PER_UNIT["Vpp"] == pytest.approx(0.35355, abs=5e-6)  # common practice, no source


@pytest.mark.parametrize("share", [1 / 3, 1 / 5, 1 / 10])
def test_an_unknown_response_lies_between_flat_and_one_pole(share):
    one_pole = response_loss_exponent(share, 1.0, BandwidthModel.ONE_POLE)
    middle = response_loss_exponent(share, 1.0, BandwidthModel.UNKNOWN)
    limit = response_limit_exponent(share, 1.0, BandwidthModel.UNKNOWN)

    assert float(middle - limit) == pytest.approx(0.0)
    assert float(middle + limit) == pytest.approx(float(one_pole))
    assert float(one_pole) > float(response_loss_exponent(share, 1.0, BandwidthModel.GAUSSIAN))


@pytest.mark.parametrize("model", list(BandwidthModel))
def test_every_response_costs_something_near_the_bandwidth(model):
    """At least half of its correction; a flat one may still rise or fall."""
    limit = float(response_limit_exponent(0.3, 1.0, model))

    assert limit >= 0.5 * float(response_loss_exponent(0.3, 1.0, model))
    assert limit > 0.0


def test_bandwidths_of_scope_and_probe_add_as_squares_of_rise_times():
    """1/√(1/f1² + 1/f2²), common practice; two equal ones leave 1/√2."""
    assert system_bandwidth_hz(100e6, 100e6) == pytest.approx(100e6 / np.sqrt(2))
    assert system_bandwidth_hz(100e6, np.inf) == pytest.approx(100e6)
    assert system_bandwidth_hz(np.inf) == np.inf


def test_gaussian_stages_in_a_row_have_exactly_the_system_bandwidth():
    both = system_bandwidth_hz(100e6, 60e6)
    lost = sum(response_loss_exponent(20e6, f, BandwidthModel.GAUSSIAN) for f in (100e6, 60e6))

    assert float(response_loss_exponent(20e6, both, BandwidthModel.GAUSSIAN)) == pytest.approx(float(lost))
