"""The lead as an open stub: the table, its limits, and a solution by chain matrices."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenmist.rf.reflection import reflection_from_impedance, swr_from_reflection
from fenmist.rf.stub import stub_susceptance_s, stub_voltage_ratio
from fenmist.simulation.bench import TrueLine
from support.published import published


@pytest.mark.parametrize(("mhz", "row"), list(published("scope_errors")["stub_percent"].items()))
@pytest.mark.parametrize(("column", "length"), list(enumerate((0.1, 0.3, 1.0))))
def test_power_added_by_the_lead_is_the_derived_table(mhz, row, column, length):
    added = 100 * (stub_voltage_ratio(float(mhz) * 1e6, length, 0.66, 16e-12) ** 2 - 1)

    assert float(added) == pytest.approx(row[column], abs=0.05 if row[column] < 10 else 0.5 if row[column] < 100 else 5)


def test_an_open_line_without_capacitance_is_one_over_cosine():
    theta = 2 * np.pi * 14e6 * 1.0 / (0.66 * 299_792_458.0)

    assert float(stub_voltage_ratio(14e6, 1.0, 0.66, 0.0)) == pytest.approx(1 / np.cos(theta))


def test_one_metre_at_seven_megahertz_makes_an_swr_of_1_30():
    """Derived in the trade handbook."""
    total = 1 / 50 + 1j * stub_susceptance_s(7e6, 1.0, 0.66, 16e-12)

    assert float(swr_from_reflection(abs(reflection_from_impedance(1 / total)))) == pytest.approx(1.30, abs=0.01)


@given(st.floats(1e6, 40e6), st.floats(0.0, 0.8), st.floats(0.0, 40e-12))
def test_the_closed_form_equals_chain_matrices(f, length, capacitance):
    (a, b), (c, d) = TrueLine(50.0, length, 0.66).chain(f)
    end = 2j * np.pi * f * capacitance

    assert stub_voltage_ratio(f, length, 0.66, capacitance) == pytest.approx((1 / (a + b * end)).real, rel=1e-9)
    admittance = (c + d * end) / (a + b * end)
    assert stub_susceptance_s(f, length, 0.66, capacitance) == pytest.approx(admittance.imag, rel=1e-8, abs=1e-12)


def test_no_lead_changes_nothing():
    assert float(stub_voltage_ratio(30e6, 0.0, 0.66, 0.0)) == 1.0
