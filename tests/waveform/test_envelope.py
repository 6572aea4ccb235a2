"""Waveforms of the textbook: moments in closed form against the integral, and against the envelope at even steps."""

import math

import numpy as np
import pytest
from scipy import integrate, special, stats

from fenmist.errors import OutOfRangeError
from fenmist.waveform.envelope import Envelope, envelope_of, share_above
from fenmist.waveform.shapes import Am, Dots, Droop, Repeating, Steady, TuneCycle, TwoTone
from fenmist.waveform.speech import LevelControl, Overshooting, Speech


@pytest.mark.parametrize(("waveform", "mean", "volts"), [
    (Steady(), 1.0, 1.0), (TwoTone(), 0.5, 2 / math.pi), (Am(1.0), 1.5 / 4.0, 0.5), (Am(0.5), 1.125 / 2.25, 1 / 1.5),
    (Am(0.0), 1.0, 1.0), (Dots(), 0.5, 0.5), (Dots(0.3, 20.0), 0.3, 0.3), (Dots(1.0), 1.0, 1.0),
    (TwoTone(0.0), 1.0, 1.0),
])  # fmt: skip
def test_powers_of_the_textbook(waveform, mean, volts):
    """Two tones: half of PEP; AM: Pc(1 + m²/2) of Pc(1 + m)² (any handbook of radio; ITU-R SM.326, from memory)."""
    assert waveform.exact.mean == pytest.approx(mean)
    assert waveform.exact.mean_volts == pytest.approx(volts)


def by_integral(envelope_at):
    """Means over a cycle, and the part of it within 1 dB of the crest, by quadrature and by counting."""
    theta = (np.arange(400_000) + 0.5) / 400_000 * 2 * math.pi
    volts = integrate.quad(envelope_at, 0, 2 * math.pi, limit=400)[0] / (2 * math.pi)
    power = integrate.quad(lambda t: envelope_at(t) ** 2, 0, 2 * math.pi, limit=400)[0] / (2 * math.pi)
    near = np.mean(envelope_at(theta) ** 2 >= 10**-0.1)
    return power, volts, float(near)


@pytest.mark.parametrize("ratio", [1.0, 0.8, 0.5, 0.1, 0.03])
def test_two_tones_of_any_ratio(ratio):
    made = TwoTone(ratio).exact
    power, volts, near = by_integral(lambda t: np.abs(1 + ratio * np.exp(1j * t)) / (1 + ratio))

    assert (made.mean, made.mean_volts) == pytest.approx((power, volts), rel=1e-8)
    assert made.crest_share == pytest.approx(near, abs=1e-5)


@pytest.mark.parametrize("depth", [1.0, 0.7, 0.3, 0.05])
def test_am_of_any_depth(depth):
    made = Am(depth).exact
    power, volts, near = by_integral(lambda t: (1 + depth * np.cos(t)) / (1 + depth))

    assert (made.mean, made.mean_volts) == pytest.approx((power, volts), rel=1e-8)
    assert made.crest_share == pytest.approx(near, abs=1e-5)


@pytest.mark.parametrize("waveform", [
    TwoTone(0.7, 1000.0), Am(0.6, 500.0), Dots(0.5, 10.0, 0.005), Dots(0.25, 20.0, 0.004), Dots(0.7, 5.0),
    Dots(0.5, 10.0),
])  # fmt: skip
def test_the_envelope_at_even_steps_is_that_of_the_closed_form(waveform):
    found, exact = waveform.envelope(40 * waveform.period_s, waveform.period_s / 2000).moments, waveform.exact

    assert found.mean == pytest.approx(exact.mean, rel=2e-3)
    assert found.mean_volts == pytest.approx(exact.mean_volts, rel=2e-3)
    assert found.crest_share == pytest.approx(exact.crest_share, abs=3e-3)
    assert found.papr_db == pytest.approx(-10 * math.log10(exact.mean), abs=0.02)


def test_an_edge_of_raised_cosine_averages_to_a_half_and_three_eighths():
    """Of power: ∫cos⁴ = 3/8 (derived); duty counts between half-way points."""
    made = Dots(0.5, 10.0, 0.02)
    assert made.exact.mean == pytest.approx(0.5 - 2 * 0.02 * 10.0 * (0.5 - 3 / 8))
    edge = made.envelope(0.1, 1e-5).amplitude
    assert edge[2490:2510].mean() == pytest.approx(0.5, abs=0.01)  # a quarter of 0.1 s on from the dot's middle
    assert np.all(np.diff(edge[1500:3500]) <= 1e-12)


def test_a_droop_goes_to_what_it_sags_to_with_its_constant():
    power = Droop(0.2, 2.0).envelope(20.0, 0.01).amplitude ** 2
    assert power[0] == pytest.approx(1.0, abs=2e-3)
    assert power[200] == pytest.approx(1 - 0.2 * (1 - math.exp(-1)), abs=2e-3)
    assert power[-1] == pytest.approx(0.8, abs=1e-4)


def test_a_tuner_hunts_between_its_lowest_and_full_power_and_stands_when_it_has_found():
    power = TuneCycle(0.1, 3.0, 0.05, seed=4).envelope(5.0, 0.01).amplitude ** 2
    assert power[:300].min() >= 0.1 - 1e-9 and power.max() <= 1.0
    assert np.unique(power[:300]).size == 60  # steps of 50 ms
    assert np.all(power[300:] == 1.0)


def test_a_record_goes_on_as_it_is():
    made = Repeating("trace", Envelope(np.array([1.0, 4.0, 2.0]), 0.5))
    assert made.period_s == 1.5 and made.fine_s == 0.5
    assert made.envelope(4.0, 0.5).amplitude.tolist() == [0.25, 1.0, 0.5, 0.25, 1.0, 0.5, 0.25, 1.0]
    assert made.exact.mean == pytest.approx((1 + 16 + 4) / 48)


def test_noise_is_distributed_as_rayleigh_has_it():
    """Its power is exponential: P(more than x times the mean) = e^-x; volts' mean √(π/4) of the rms."""
    random = np.random.default_rng(5)
    noise = np.abs(random.standard_normal(200_000) + 1j * random.standard_normal(200_000))
    envelope = Envelope(noise, 1e-4)
    levels = np.array([-10.0, -3.0, 0.0, 3.0, 6.0])

    assert share_above(envelope, levels) == pytest.approx(np.exp(-(10 ** (levels / 10))), abs=4e-3)
    moments = envelope.moments
    assert moments.mean_volts / moments.mean**0.5 == pytest.approx(math.sqrt(math.pi / 4), rel=3e-3)
    assert stats.kstest(noise, stats.rayleigh.cdf).pvalue > 0.01


@pytest.mark.parametrize("seed", [1, 2, 3])
@pytest.mark.parametrize("share", [0.2, 0.4])
def test_speech_has_the_mean_that_is_asked_for_pauses_and_syllables(seed, share):
    """About 20 % of PEP without compression, 40 % with (common practice, no source)."""
    made = Speech(share, seed).envelope(30.0, 1e-4)
    moments = made.moments

    assert moments.mean == pytest.approx(share, abs=1e-3)
    assert made.crest == 1.0
    spoken = np.abs(np.diff((made.amplitude.reshape(-1, 200).max(axis=1) > 0.02).astype(int))).sum() / 2
    assert 0.5 <= spoken / 30.0 <= 4.0  # gaps a second
    assert 0.02 < np.mean(made.amplitude.reshape(-1, 200).max(axis=1) <= 0.02) < 0.4
    # the voice moves within its band: the envelope's power above 2.4 kHz is gone but for the limiter's
    spectrum = np.abs(np.fft.rfft(made.amplitude**2 - np.mean(made.amplitude**2))) ** 2
    inside = spectrum[np.fft.rfftfreq(made.amplitude.size, 1e-4) < 2400.0].sum()
    assert inside / spectrum.sum() > 0.95


def test_speech_is_its_seeds_and_nothing_elses():
    one, again, other = (Speech(0.2, seed).envelope(5.0, 1e-4).amplitude for seed in (1, 1, 2))
    assert np.array_equal(one, again)
    assert not np.array_equal(one, other)


def test_a_slow_level_control_overshoots_at_the_beginning_and_then_holds():
    """A step twice what it holds: through at first, e-fold in its attack, then at the level."""
    step = Envelope(np.concatenate([np.zeros(1000), np.ones(4000)]) + 1e-9, 1e-4)
    out = LevelControl(2.0, 0.003, 0.4)(step).amplitude[1000:]

    assert out[0] == pytest.approx(2.0, abs=0.01)
    loud = Envelope(3.0 * step.amplitude, step.step_s)  # driven so far over what it holds, whatever came in
    assert LevelControl(2.0, 0.003, 0.4)(loud).amplitude[1000:] == pytest.approx(out)
    assert out[-1] == pytest.approx(1.0, abs=1e-6)
    held = 2.0 / out  # gain's inverse: charges towards 2 and is passed on above 1
    charged = 2.0 * (1 - np.exp(-np.arange(1, 4001) * 1e-4 * (1 / 0.003 + 1 / 0.4)))
    assert held == pytest.approx(np.maximum(charged, 1.0), rel=1e-6)
    assert Overshooting(Speech()).envelope(10.0, 1e-4).crest > 1.05


@pytest.mark.parametrize("wrong", [
    lambda: TwoTone(1.2), lambda: TwoTone(-0.1), lambda: TwoTone(spacing_hz=0.0), lambda: Am(1.2),
    lambda: Am(0.5, -1.0),
    lambda: Dots(0.0), lambda: Dots(1.1), lambda: Dots(0.5, 0.0), lambda: Dots(0.5, 10.0, 0.06),
    lambda: Dots(0.9, 10.0, 0.02),
    lambda: Droop(1.5), lambda: Droop(0.1, 0.0), lambda: TuneCycle(-0.1), lambda: TuneCycle(0.1, 0.0),
    lambda: TuneCycle(step_time_s=0.0), lambda: Speech(0.05), lambda: Speech(0.7),
    lambda: envelope_of(np.array([1.0, -0.1]), 1e-3), lambda: envelope_of(np.array([1.0, math.nan]), 1e-3),
    lambda: envelope_of(np.zeros(4), 1e-3), lambda: envelope_of(np.ones(4), 0.0),
    lambda: envelope_of(np.array([]), 1e-3),
])  # fmt: skip
def test_what_makes_no_sense_is_said(wrong):
    with pytest.raises(OutOfRangeError) as caught:
        wrong()
    assert caught.value.hint


def test_the_elliptic_integral_at_equal_tones():
    """E(1) = 1 (any table): 2/π of the crest's volts."""
    assert special.ellipe(1.0) == 1.0
    assert TwoTone().exact.crest_share == pytest.approx(2 * math.acos(10**-0.05) / math.pi)
