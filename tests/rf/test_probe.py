"""A probe at the tee: the derived figures, a circuit solved as a circuit, and the falling rating."""

import numpy as np
import pytest

from fenmist.rf.probe import ProbeTip, derated_volts


@pytest.mark.parametrize(("f", "percent"), [(7e6, 0.5), (28e6, 7.9)])
def test_a_hundred_nanohenry_with_twelve_picofarad(f, percent):
    """Derived: +0.5 % of power at 7 MHz and +7.9 % at 28 MHz."""
    assert float(100 * (ProbeTip(12e-12, 100e-9).transfer(f) ** 2 - 1)) == pytest.approx(percent, abs=0.05)


def test_it_is_the_voltage_divider_of_inductance_and_capacitance():
    w = 2j * np.pi * 30e6
    coil, tip = w * 150e-9, 1 / (w * 10e-12)

    made = ProbeTip(10e-12, 150e-9)

    assert complex(made.transfer(30e6)) == pytest.approx(tip / (coil + tip))
    assert 1j * float(made.admittance_s(30e6)) == pytest.approx(1 / (coil + tip))


def test_without_a_ground_lead_only_the_tip_loads_the_line():
    made = ProbeTip(12e-12)

    assert float(made.transfer(100e6)) == 1.0
    assert float(made.admittance_s(10e6)) == pytest.approx(2 * np.pi * 10e6 * 12e-12)


@pytest.mark.parametrize(("f", "volts"), [(0.0, 600), (1e6, 600), (2e6, 600), (4e6, 300), (30e6, 40)])
def test_the_rating_falls_from_the_knee(f, volts):
    assert float(derated_volts(600.0, f)) == pytest.approx(volts)
