"""Reflection against handbook tables, and by brute force."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenmist.errors import OutOfRangeError
from fenmist.rf.reflection import (
    incident_from_net,
    reflection_from_impedance,
    reflection_from_swr,
    resistance_from_magnitude,
    return_loss_db,
    swr_from_reflection,
)
from support.published import published


def test_swr_return_loss_and_reflected_power_are_the_handbooks_table():
    table = published("swr_table")
    rho = reflection_from_swr(table["swr"])

    assert return_loss_db(rho) == pytest.approx(table["return_loss_db"], abs=0.05)
    assert 100 * rho**2 == pytest.approx(table["reflected_percent"], abs=0.05)
    assert swr_from_reflection(rho) == pytest.approx(table["swr"])


@given(st.floats(1.0, 500.0), st.floats(-300.0, 300.0))
def test_resistance_follows_from_magnitude_and_swr(r, x):
    z = complex(r, x)
    swr = swr_from_reflection(abs(reflection_from_impedance(z)))

    assert float(resistance_from_magnitude(abs(z), swr)) == pytest.approx(r, rel=1e-6, abs=1e-6)


def test_magnitude_and_swr_that_contradict_are_refused():
    with pytest.raises(OutOfRangeError, match=r"magnitude is 1\.25\."):  # (100² + 50²)/(2 · 50)/100
        resistance_from_magnitude(100.0, 1.0)
    with pytest.raises(OutOfRangeError, match="resistance to magnitude"):
        resistance_from_magnitude(100.0, 1.05)


@pytest.mark.parametrize(("swr", "db"), [(1.154, 0.022), (1.5, 0.18), (2.0, 0.51)])
def test_incident_over_net_is_what_the_reflection_says(swr, db):
    """Derived: P_inc = P_net/(1 − ρ²)."""
    ratio = incident_from_net(1.0, reflection_from_swr(swr) ** 2)

    assert 10 * np.log10(ratio) == pytest.approx(db, abs=0.005)


@pytest.mark.parametrize("bad", [-0.1, 1.1, float("nan")])
def test_a_reflection_outside_the_unit_circle_is_refused_with_its_place(bad):
    with pytest.raises(OutOfRangeError, match="place 2"):
        swr_from_reflection([0.5, bad])


def test_total_reflection_has_an_infinite_swr():
    assert np.isinf(swr_from_reflection(1.0))


def test_an_swr_below_one_is_refused():
    with pytest.raises(OutOfRangeError, match="SWR"):
        reflection_from_swr(0.99)
