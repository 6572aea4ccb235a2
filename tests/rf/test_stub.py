"""The lead as a stub: the table, its limits, and a solution by chain matrices."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenmist.rf.reflection import reflection_from_impedance, swr_from_reflection
from fenmist.rf.stub import Stub
from fenmist.simulation.bench import TrueLine
from fenmist.simulation.nodes import Equations
from support.published import published


@pytest.mark.parametrize(("mhz", "row"), list(published("scope_errors")["stub_percent"].items()))
@pytest.mark.parametrize(("column", "length"), list(enumerate((0.1, 0.3, 1.0))))
def test_power_added_by_the_lead_is_the_derived_table(mhz, row, column, length):
    added = 100 * (abs(Stub(length, 0.66, 16e-12).transfer(float(mhz) * 1e6)) ** 2 - 1)

    assert float(added) == pytest.approx(row[column], abs=0.05 if row[column] < 10 else 0.5 if row[column] < 100 else 5)


def test_an_open_line_without_capacitance_is_one_over_cosine():
    theta = 2 * np.pi * 14e6 * 1.0 / (0.66 * 299_792_458.0)

    assert complex(Stub(1.0, 0.66, 0.0).transfer(14e6)) == pytest.approx(1 / np.cos(theta))


def test_one_metre_at_seven_megahertz_makes_an_swr_of_1_30():
    """Derived from the formulas; recomputed here by chain matrices."""
    total = 1 / 50 + complex(Stub(1.0, 0.66, 16e-12).admittance_s(7e6))

    assert float(swr_from_reflection(abs(reflection_from_impedance(1 / total)))) == pytest.approx(1.30, abs=0.01)


@given(st.floats(1e6, 40e6), st.floats(0.0, 0.8), st.floats(0.0, 40e-12), st.floats(0.0, 1.0), st.floats(45.0, 93.0))
def test_the_closed_form_equals_nodes(f, length, capacitance, loss_db, line_ohm):
    circuit = Equations(f)
    TrueLine(line_ohm, length, 0.66, loss_db).between(circuit, ("v", "i"), ("end v", "end i"))
    circuit.row({"end i": 1.0, "end v": 2j * np.pi * f * capacitance + 1e-6})
    circuit.row({"v": 1.0}, 1.0)
    by_nodes = circuit.solved()
    stub = Stub(length, 0.66, capacitance, line_ohm, loss_db, 1e6)

    assert complex(stub.transfer(f)) == pytest.approx(by_nodes["end v"], rel=1e-9)
    assert complex(stub.admittance_s(f)) == pytest.approx(by_nodes["i"], rel=1e-8, abs=1e-12)


def test_a_ladder_of_thousands_of_sections_agrees():
    """A line is the limit of short sections of series L and shunt C (any textbook)."""
    f, sections, z, v = 14e6, 4000, 50.0, 0.66 * 299_792_458.0
    inductance, capacitance = z / v * 0.5 / sections, 1 / (z * v) * 0.5 / sections
    w = 2j * np.pi * f
    one = np.array([[1.0, w * inductance], [0.0, 1.0]]) @ np.array([[1.0, 0.0], [w * capacitance, 1.0]])
    (a, b), _ = np.linalg.matrix_power(one, sections)

    assert complex(Stub(0.5, 0.66, 16e-12).transfer(f)) == pytest.approx(complex(1 / (a + b * w * 16e-12)), rel=1e-3)


def test_no_lead_changes_nothing():
    assert complex(Stub(0.0, 0.66, 0.0).transfer(30e6)) == 1.0


def test_a_lossy_lead_draws_power_and_a_lossless_one_none():
    assert float(np.real(Stub(0.3, 0.66, 16e-12).admittance_s(14e6))) == pytest.approx(0.0, abs=1e-15)
    assert float(np.real(Stub(0.3, 0.66, 16e-12, 50.0, 0.1).admittance_s(14e6))) > 1e-6
