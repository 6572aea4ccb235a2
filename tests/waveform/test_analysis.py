"""What a capture says, against what was put into it; and every trouble said, with its near miss silent."""

import numpy as np
import pytest

from fenmist.errors import OutOfRangeError
from fenmist.waveform.analysis import analyse
from fenmist.waveform.capture import Channel, channel_of, trace_columns

F = 14.2e6


def _trace(
    samples=2000, step=1e-9, frequency=F, amplitude=50.0, noise=0.002, third=0.003, clip=None, screen=120.0, bits=8,
    second=0.0, other=(17e6, 0.0), depth=0.0, seed=1,
):  # fmt: skip
    t = np.arange(samples) * step
    w = 2 * np.pi * frequency
    wave = np.cos(w * t + 0.3) + third * np.cos(3 * w * t + 1.0) + second * np.cos(2 * w * t)
    wave = amplitude * (1 + depth * t / t[-1]) * wave + amplitude * other[1] * np.cos(2 * np.pi * other[0] * t)
    wave = wave + amplitude * noise * np.random.default_rng(seed).standard_normal(samples)
    if clip:
        wave = np.clip(wave, -clip, clip)
    unit = screen / 2**bits
    return channel_of("CH1", np.round(wave / unit) * unit)


def _codes(channel, step=1e-9, expected=None):
    return [note.code.removeprefix("capture.") for note in analyse(channel, step, expected).notes]


def test_carrier_harmonics_and_noise_are_what_was_put_in():
    made = analyse(_trace(noise=0.01, third=0.02, second=0.01, bits=12), 1e-9)
    levels = {item.order: item for item in made.harmonics}

    assert made.fit.amplitude_v == pytest.approx(50.0, abs=4 * made.u_amplitude_v)
    assert made.fit.frequency_hz == pytest.approx(F, abs=5 * made.fit.u_frequency_hz)
    assert levels[2].ratio == pytest.approx(0.01, abs=4 * levels[2].u_ratio)
    assert levels[3].ratio == pytest.approx(0.02, abs=4 * levels[3].u_ratio)
    assert made.noise_ratio == pytest.approx(0.01, abs=5 * made.u_noise_ratio)
    assert made.usable


def test_true_rms_leaves_out_dc_and_holds_harmonics_and_noise():
    channel = _trace(noise=0.02, third=0.1, bits=14, samples=20_000)
    lifted = channel_of("CH1", channel.volts + 7.0)
    made = analyse(lifted, 1e-9)

    assert made.rms_v == pytest.approx(50 / np.sqrt(2) * np.sqrt(1 + 0.1**2 + 2 * 0.02**2), rel=1e-3)
    assert made.fit.offset_v == pytest.approx(7.0, abs=0.05)


def test_uncertainties_hold_over_many_records():
    """The amplitude's floor from the digitiser makes it exceed what noise alone gives, never fall short."""
    errors = [
        (made.fit.amplitude_v - 50.0) / made.u_amplitude_v
        for made in (analyse(_trace(seed=seed, noise=0.005, amplitude=50.0), 1e-9) for seed in range(60))
    ]

    assert np.mean(np.abs(errors) <= 2) >= 0.95
    assert abs(np.mean(errors)) < 0.5


def test_a_record_in_step_with_its_carrier_repeats_its_samples_and_its_rounding():
    """Five samples a period: the same five values for ever, so the digitiser's step does not average out."""
    rng, unit = np.random.default_rng(5), 120.0 / 256
    errors, stated = [], []
    for _ in range(80):
        amplitude, phase = rng.uniform(48, 52), rng.uniform(0, 2 * np.pi)
        wave = amplitude * np.cos(2 * np.pi * np.arange(500) / 5 + phase)
        made = analyse(Channel("CH1", np.round(wave / unit) * unit, unit), 1e-9)
        errors.append(made.fit.amplitude_v - amplitude)
        stated.append(made.u_amplitude_v)

    assert 0.92 <= np.mean(np.abs(errors) <= 2 * np.array(stated)) <= 0.99
    assert np.std(errors) == pytest.approx(np.mean(stated), rel=0.15)


@pytest.mark.parametrize(("clip", "said"), [(40.0, True), (48.0, True), (51.0, False), (None, False)])
def test_a_clipped_trace_is_said(clip, said):
    assert ("clipped" in _codes(_trace(clip=clip))) is said


@pytest.mark.parametrize(("low", "high", "side"), [(-40.0, None, "bottom"), (None, 40.0, "top")])
def test_a_trace_that_is_clipped_on_one_side_says_on_which(low, high, side):
    whole = _trace()
    notes = analyse(Channel("CH1", np.clip(whole.volts, low, high), whole.step_v), 1e-9).notes
    (note,) = (note for note in notes if note.code == "capture.clipped")
    assert side in note.what + note.why


@pytest.mark.parametrize("bits", [6, 8, 10, 12])
@pytest.mark.parametrize("noise", [0.0, 0.001, 0.01])
@pytest.mark.parametrize("frequency", [1e6, 7e6, 25e6, 100e6])
@pytest.mark.parametrize("screen", [105.0, 150.0, 400.0])
def test_no_good_trace_is_doubted(bits, noise, frequency, screen):
    """Coarse codes dwell at a crest as clipping does; they must be told apart."""
    assert analyse(_trace(5000, frequency=frequency, bits=bits, noise=noise, screen=screen), 1e-9).usable


@pytest.mark.parametrize(("step", "expected", "code"), [
    (50e-9, F, "aliased"), (30e-9, None, "aliased"), (50e-9, 5.8e6, None), (1e-9, F, None), (1e-9, 1.01 * F, None),
    (1e-9, 7.1e6, "other_frequency"), (50e-9, 14.1e6, "aliased"), (50e-9, 13.8e6, "other_frequency"),
])  # fmt: skip
def test_an_aliased_record_is_said(step, expected, code):
    """14.2 MHz at 20 MSa/s shows 5.8 MHz; nothing in the record itself can tell."""
    assert _codes(_trace(step=step, bits=12), step, expected) == ([code] if code else [])


@pytest.mark.parametrize(("ratio", "said"), [(0.1, True), (0.035, True), (0.02, False), (0.0, False)])
def test_a_second_carrier_is_said(ratio, said):
    assert ("two_carriers" in _codes(_trace(5000, other=(17e6, ratio)))) is said


@pytest.mark.parametrize(("depth", "said"), [(0.08, True), (0.03, True), (0.01, False), (0.0, False)])
def test_a_carrier_that_is_not_steady_is_said(depth, said):
    assert ("unsteady" in _codes(_trace(5000, depth=depth))) is said


def test_noise_alone_is_no_carrier():
    volts = np.random.default_rng(3).standard_normal(4000)

    assert _codes(channel_of("CH1", volts)) == ["no_carrier"]


@pytest.mark.parametrize(("samples", "codes"), [(200, ["short"]), (400, [])])
def test_few_periods_are_watched(samples, codes):
    """2.8 and 5.7 periods."""
    assert _codes(_trace(samples, bits=12, noise=0.0005)) == codes


def test_a_record_of_one_period_is_refused():
    with pytest.raises(OutOfRangeError, match="too short"):
        analyse(_trace(90, bits=12), 1e-9)


@pytest.mark.parametrize(("noise", "said"), [(0.01, True), (0.001, False)])
def test_peaks_that_noise_lifts_are_told(noise, said):
    """Vpp/2√2 against the fit: differences of a per cent mean noise or distortion (common practice, no source)."""
    made = analyse(_trace(noise=noise, bits=12), 1e-9)

    assert ("capture.peaks_differ" in [note.code for note in made.notes]) is said
    assert made.peak_excess == pytest.approx(0.02 if said else 0.0, abs=0.012)
    assert made.usable


def test_drawing_takes_the_extremes_of_each_column():
    volts = np.sin(np.arange(10_007) / 50.0)
    low, high = trace_columns(volts, 200)

    assert low.shape == high.shape == (197,)  # of 51 samples each
    assert (low.min(), high.max()) == (volts.min(), volts.max())
