"""Peak to peak of a noisy sine against drawing it."""

import numpy as np
import pytest

from fenmist.waveform.noise import peak_to_peak_excess


@pytest.mark.parametrize("noise", [0.002, 0.01, 0.05])
@pytest.mark.parametrize("samples", [200, 1000, 10_000])
def test_the_excess_is_what_drawing_shows(noise, samples):
    rng = np.random.default_rng(3)
    wave = np.cos(np.arange(samples) * 2 * np.pi * 7 / samples)
    drawn = wave + noise * rng.standard_normal((2000, samples))
    seen = float(np.mean(np.ptp(drawn, axis=1))) / 2.0 - 1.0

    assert peak_to_peak_excess(noise, samples) == pytest.approx(seen, rel=0.04, abs=3e-4)


def test_no_noise_no_excess():
    assert peak_to_peak_excess(0.0) == 0.0


def test_a_per_cent_of_noise_costs_two_per_cent_of_volts_on_a_screen():
    """Why a display's Vrms and Vpp/2√2 differ by a per cent or two: common practice, no source, for the fact."""
    assert 0.01 < peak_to_peak_excess(0.01) < 0.03
