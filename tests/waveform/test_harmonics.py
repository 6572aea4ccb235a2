"""Harmonics by how a reading responds: derived figures, and the whole waveform as the referee."""

import numpy as np
import pytest

from fenmist.waveform.harmonics import (
    Responds,
    harmonics_from_dbc,
    power_effects,
    rms_excess,
    volts_weight,
)
from support.referees import volts_indicated

PHASES = np.linspace(0, 2 * np.pi, 49)


def _extremes(order, ratio, responds):
    shown = [volts_indicated({order: ratio}, {order: phase}, responds) - 1.0 for phase in PHASES]
    return min(shown), max(shown)


@pytest.mark.parametrize(("dbc", "percent"), [(-40.0, 2.0), (-30.0, 6.3)], ids=["-40 dBc", "-30 dBc"])
def test_a_peak_diode_moves_by_twice_the_harmonic_in_power(dbc, percent):
    """±2h of power; derived."""
    ratio = harmonics_from_dbc({2: dbc}, True).ratios[2]

    assert 100 * 2 * ratio * volts_weight(2, Responds.PEAK) == pytest.approx(percent, abs=0.05)


@pytest.mark.parametrize("order", [2, 3, 4, 5])
@pytest.mark.parametrize("responds", [Responds.PEAK, Responds.PEAK_TO_PEAK, Responds.AVERAGE, Responds.FUNDAMENTAL])
@pytest.mark.parametrize("ratio", [0.003, 0.01])
def test_the_first_order_weight_is_what_the_whole_waveform_does(order, responds, ratio):
    low, high = _extremes(order, ratio, responds)
    in_phase = volts_indicated({order: ratio}, {order: 0.0}, responds) - 1.0

    assert high == pytest.approx(abs(volts_weight(order, responds)) * ratio, abs=order**2 * ratio**2)
    assert low == pytest.approx(-abs(volts_weight(order, responds)) * ratio, abs=order**2 * ratio**2)
    assert in_phase == pytest.approx(volts_weight(order, responds) * ratio, abs=order**2 * ratio**2)


def test_an_average_detector_takes_a_third_of_a_third_harmonic():
    """±2h/3 of power for the third, derived; down where it lifts the crest."""
    assert 2 * volts_weight(3, Responds.AVERAGE) == pytest.approx(-2 / 3)


def test_rms_rises_by_the_squares_whatever_the_phase():
    shown = [volts_indicated({2: 0.1, 3: 0.05}, {2: p, 3: 2 * p}, Responds.RMS) for p in PHASES]

    assert np.ptp(shown) < 1e-12
    assert shown[0] - 1 == pytest.approx(float(rms_excess({2: 0.1, 3: 0.05})))


def test_a_square_wave_of_many_harmonics_is_known_by_heart():
    """Fourier series: fundamental 4/π of the square's height, so peak over fundamental is π/4 and rms π/(2√2)·√… ."""
    ratios = {n: 1 / n for n in range(3, 400, 2)}
    phases = {n: (np.pi if n % 4 == 3 else 0.0) for n in ratios}

    assert volts_indicated(ratios, phases, Responds.RMS) == pytest.approx(np.pi / 4 * np.sqrt(2), rel=2e-3)


@pytest.mark.parametrize("way", list(Responds))
def test_effects_on_power_bound_what_the_whole_waveform_does_in_any_phase(way):
    """−40 dBc each of second and third; the extremes are met, not only kept."""
    ratios = {2: 0.01, 3: 0.01}
    low, high = power_effects(ratios)[way]
    shown = [volts_indicated(ratios, {2: a, 3: b}, way) ** 2 - 1.0 for a in PHASES[::4] for b in PHASES[::4]]

    assert min(shown) == pytest.approx(low, abs=1.2e-3)
    assert max(shown) == pytest.approx(high, abs=1.2e-3)
