"""Skin effect in a round wire against series, limits and a solution by shells that shares no formula."""

import math

import numpy as np
import pytest

from fenmist.errors import OutOfRangeError
from fenmist.rf.skin import HEATER_OHM_M, resistance_rise, skin_depth_m
from fenmist.simulation.heater import TrueHeater

COPPER = 1.72e-8


@pytest.mark.parametrize(("hertz", "millimetres"), [(50.0, 9.3), (1e6, 0.066), (100e6, 0.0066)])
def test_depth_in_copper_as_every_handbook_has_it(hertz, millimetres):
    """9.3 mm at 50 Hz, 66 µm at 1 MHz (any radio handbook, from memory)."""
    assert skin_depth_m(np.array([hertz]), COPPER)[0] * 1e3 == pytest.approx(millimetres, rel=0.01)


def test_at_low_frequency_it_rises_with_the_fourth_power_of_radius_over_depth():
    """1 + (a/δ)⁴/48 (series of the Bessel functions)."""
    f = np.array([3e3, 1e4])
    x = 0.5e-3 / skin_depth_m(f, COPPER)

    assert resistance_rise(1e-3, f, COPPER) - 1.0 == pytest.approx(x**4 / 48.0, rel=0.03)


def test_at_high_frequency_it_is_a_ring_as_deep_as_the_skin():
    """a/(2δ) + 1/4 + 3δ/(32a) (asymptotic series)."""
    f = np.array([1e8, 1e9])
    x = 0.5e-3 / skin_depth_m(f, COPPER)

    assert resistance_rise(1e-3, f, COPPER) == pytest.approx(x / 2.0 + 0.25 + 3.0 / (32.0 * x), rel=1e-5)


@pytest.mark.parametrize("wire", [1e-4, 3e-4, 1e-3])
@pytest.mark.parametrize("hertz", [1e6, 7e6, 30e6])
def test_by_shells_it_is_the_same(wire, hertz):
    exact = float(resistance_rise(wire, np.array([hertz]), HEATER_OHM_M)[0])

    assert TrueHeater(wire).rise(hertz) == pytest.approx(exact, rel=6e-3)


def test_no_wire_is_said_and_nothing_overflows():
    with pytest.raises(OutOfRangeError):
        resistance_rise(0.0, np.array([1e6]))
    assert math.isfinite(float(resistance_rise(1e-2, np.array([1e10]), COPPER)[0]))
