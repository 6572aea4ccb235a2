"""An oscilloscope's response near its bandwidth."""

import numpy as np
import pytest

from fenmist.waveform.response import BandwidthModel, response_loss_exponent
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
