"""Sine fits of IEEE Std 1057 against SciPy's least squares and NumPy's, and against drawing."""

import numpy as np
import pytest
from scipy.optimize import least_squares

from fenmist.errors import OutOfRangeError
from fenmist.waveform.blocks import BLOCK, Blocks
from fenmist.waveform.sinefit import SPECTRUM, fit_sine, fit_sine_at, largest_line_hz

STEP = 2e-9


def _record(samples=1500, frequency=14.2e6, amplitude=3.0, noise=0.02, seed=1):
    t = np.arange(samples) * STEP
    wave = 0.1 + amplitude * np.cos(2 * np.pi * frequency * t + 0.7)
    return t, wave + noise * np.random.default_rng(seed).standard_normal(samples)


@pytest.mark.parametrize("samples", [BLOCK - 1, BLOCK, BLOCK + 1, 3 * BLOCK + 17, 40])
def test_block_sums_are_the_plain_sums(samples):
    _, volts = _record(samples)
    t = np.arange(samples) - (samples - 1) / 2.0
    w, w2 = 0.13, 0.41
    cos, sin = np.cos(w * t), np.sin(w * t)
    plain = np.array([cos, sin, np.cos(w2 * t), np.sin(w2 * t), t * cos, t * sin, np.ones(samples)]).T
    made = Blocks(volts).normal((w, w2), timed=True)

    assert np.allclose(made.gram, plain.T @ plain, rtol=1e-10, atol=1e-7)
    assert np.allclose(made.rhs, plain.T @ volts, rtol=1e-10, atol=1e-7)


@pytest.mark.parametrize("samples", [100, 1500, 5000])
def test_three_parameters_are_numpys_least_squares(samples):
    t, volts = _record(samples)
    design = np.array([np.cos(2 * np.pi * 14.2e6 * t), np.sin(2 * np.pi * 14.2e6 * t), np.ones(samples)]).T
    (a, b, c), left, _, _ = np.linalg.lstsq(design, volts, rcond=None)
    made = fit_sine_at(volts, STEP, 14.2e6)

    assert made.amplitude_v == pytest.approx(float(np.hypot(a, b)), rel=1e-12)
    assert made.offset_v == pytest.approx(float(c), rel=1e-9)
    assert made.residual_rms_v == pytest.approx(float(np.sqrt(left[0] / (samples - 3))), rel=1e-9)


@pytest.mark.parametrize("frequency", [1.8e6, 14.2e6, 100e6, 190e6])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_four_parameters_are_scipys_least_squares(frequency, seed):
    t, volts = _record(frequency=frequency, seed=seed)

    def left(p):
        return p[0] * np.cos(2 * np.pi * p[3] * 1e6 * t) + p[1] * np.sin(2 * np.pi * p[3] * 1e6 * t) + p[2] - volts

    found = least_squares(left, [1.0, -1.0, 0.0, frequency / 1e6], xtol=1e-15, ftol=1e-15, gtol=1e-15, x_scale="jac")
    covariance = np.linalg.inv(found.jac.T @ found.jac) * 2 * found.cost / (volts.size - 4)
    made = fit_sine(volts, STEP)

    assert made.amplitude_v == pytest.approx(float(np.hypot(*found.x[:2])), rel=1e-8)
    assert made.frequency_hz == pytest.approx(1e6 * found.x[3], rel=1e-9)
    assert made.u_frequency_hz == pytest.approx(1e6 * float(np.sqrt(covariance[3, 3])), rel=1e-3)


def test_stated_uncertainties_are_what_repeating_shows():
    fits = [fit_sine(_record(seed=seed)[1], STEP) for seed in range(400)]
    for name in ("amplitude_v", "frequency_hz"):
        values = np.array([getattr(fit, name) for fit in fits])
        stated = np.mean([getattr(fit, f"u_{name}") for fit in fits])

        assert values.std(ddof=1) == pytest.approx(stated, rel=0.12)
    assert np.mean([fit.amplitude_v for fit in fits]) == pytest.approx(3.0, abs=5e-4)


def test_a_start_a_fifth_off_ends_in_a_wrong_amplitude_so_the_spectrum_starts_it():
    """The trap: what the four-parameter fit does from a bad guess, and what it does from the spectrum."""
    _, volts = _record()
    try:
        wrong = fit_sine(volts, STEP, 1.2 * 14.2e6).amplitude_v
    except OutOfRangeError:
        wrong = 0.0

    assert wrong < 0.5
    assert fit_sine(volts, STEP).amplitude_v == pytest.approx(3.0, rel=2e-3)


@pytest.mark.parametrize("place", [10.0, 10.3, 10.5, 57.77])
def test_the_start_lies_within_a_tenth_of_a_bin(place):
    t = np.arange(1000) * STEP
    bin_hz = 1 / (1000 * STEP)

    assert largest_line_hz(np.cos(2 * np.pi * place * bin_hz * t), STEP) == pytest.approx(
        place * bin_hz, abs=bin_hz / 10
    )


def test_a_long_record_is_begun_from_its_first_part():
    _, volts = _record(4 * SPECTRUM + 33)
    made = fit_sine(volts, STEP)

    assert made.frequency_hz == pytest.approx(14.2e6, abs=5 * made.u_frequency_hz)
    assert made.samples == volts.size


def test_a_clean_sine_is_found_exactly():
    made = fit_sine(_record(noise=0.0)[1], STEP)

    assert made.amplitude_v == pytest.approx(3.0, rel=1e-9)
    assert made.residual_rms_v < 1e-9


@pytest.mark.parametrize(("volts", "step", "words"), [
    (np.ones(15), STEP, "too short"), (np.ones(100), STEP, "the same"),
    (np.r_[np.zeros(50), np.nan, np.ones(50)], STEP, "Sample 51"), (_record(100)[1], 0.0, "time step"),
])  # fmt: skip
def test_what_cannot_be_fitted_is_said(volts, step, words):
    with pytest.raises(OutOfRangeError, match=words):
        fit_sine(volts, step)


def test_a_frequency_the_samples_cannot_show_is_refused():
    with pytest.raises(OutOfRangeError, match="can't show"):
        fit_sine_at(_record(100)[1], STEP, 260e6)


@pytest.mark.parametrize("phase", [0.7, -2.0])
def test_the_phase_is_that_of_a_cosine_at_the_middle_of_the_record(phase):
    count, step, f = 1501, 1e-9, 14.2e6
    t = (np.arange(count) - (count - 1) / 2) * step
    found = fit_sine(3.0 * np.cos(2 * np.pi * f * t + phase), step)
    assert found.phase_rad == pytest.approx(phase, abs=1e-3)
