"""Envelopes of captured carriers: what was put on comes back, ends and all."""

import numpy as np
import pytest

from fenmist.errors import OutOfRangeError
from fenmist.waveform.capture import channel_of
from fenmist.waveform.demodulate import demodulated, is_envelope
from fenmist.waveform.shapes import Am, TwoTone
from fenmist.waveform.speech import Speech

CARRIER_HZ, STEP = 100e3, 1.7e-6


def carrier(envelope, phase=0.4, offset=0.0, noise=0.0):
    time = np.arange(envelope.size) * STEP
    made = envelope * np.cos(2 * np.pi * CARRIER_HZ * time + phase) + offset
    return channel_of("A", made + noise * np.random.default_rng(1).standard_normal(envelope.size))


@pytest.mark.parametrize("waveform", [Am(0.8, 300.0), TwoTone(0.5, 500.0), Speech(0.3)])
def test_what_was_put_on_comes_back_to_the_last_piece(waveform):
    given = 5.0 * waveform.envelope(0.2, STEP).amplitude
    found = demodulated(carrier(given, offset=0.3), STEP)
    middles = (np.arange(found.amplitude.size) + 0.5) * found.step_s
    expected = given[np.minimum((middles / STEP).astype(int), given.size - 1)]

    assert found.amplitude == pytest.approx(expected, abs=0.4)
    assert np.sqrt(np.mean((found.amplitude - expected) ** 2)) < 0.05
    assert found.seconds == pytest.approx(0.2, rel=1e-3)
    edge = np.abs(found.amplitude - expected)
    assert max(edge[:3].max(), edge[-3:].max()) < 0.04  # nothing rings at the ends


def test_the_moments_of_a_capture_are_those_of_its_modulation():
    found = demodulated(carrier(TwoTone(1.0, 500.0).envelope(0.4, STEP).amplitude, noise=0.002), STEP).moments
    assert found.mean == pytest.approx(0.5, rel=5e-3)
    assert found.mean_volts == pytest.approx(2 / np.pi, rel=5e-3)


def test_two_tones_on_a_suppressed_carrier():
    """cos·cos at RF: the envelope's sign turns with the carrier's phase and is not seen."""
    time = np.arange(400_000) * STEP
    made = np.cos(2 * np.pi * 500.0 * time) * np.cos(2 * np.pi * CARRIER_HZ * time)
    moments = demodulated(channel_of("A", made), STEP).moments
    assert (moments.mean, moments.mean_volts) == pytest.approx((0.5, 2 / np.pi), rel=6e-3)


def test_a_detectors_output_is_an_envelope_already():
    given = Am(1.0, 10.0).envelope(1.0, 1e-3).amplitude
    channel = channel_of("det", given - 0.02)
    assert is_envelope(channel)
    assert demodulated(channel, 1e-3).amplitude == pytest.approx(np.maximum(given - 0.02, 0.0))
    assert not is_envelope(carrier(np.ones(1000)))
    assert not is_envelope(channel_of("x", np.array([-1.0, -2.0])))


def test_a_long_record_is_looked_at_where_it_is_loud():
    """A carrier that is keyed late in a million samples."""
    envelope = np.zeros(1_000_000)
    envelope[700_000:900_000] = 2.0
    found = demodulated(carrier(envelope, noise=1e-3), STEP)
    assert found.moments.mean == pytest.approx(0.2, rel=5e-3)


@pytest.mark.parametrize("volts", [np.zeros(100), np.full(100, -1.0), np.linspace(-1, 1, 8)])
def test_no_carrier_is_said(volts):
    with pytest.raises(OutOfRangeError, match="no carrier"):
        demodulated(channel_of("A", volts), STEP)
