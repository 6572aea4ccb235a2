"""dBm: any table of levels, from memory."""

import numpy as np
import pytest

from fenmist.units.level import db_from_ratio, dbm_from_watts, ratio_from_db, watts_from_dbm


def test_decades_from_a_milliwatt_to_a_hundred_watts():
    assert dbm_from_watts([1e-3, 1e-2, 0.1, 1, 10, 100]) == pytest.approx([0, 10, 20, 30, 40, 50])


def test_doubling_adds_three_decibels():
    assert float(db_from_ratio(2.0)) == pytest.approx(3.01, abs=0.001)


def test_there_and_back():
    levels = np.linspace(-60, 60, 25)

    assert dbm_from_watts(watts_from_dbm(levels)) == pytest.approx(levels)
    assert float(ratio_from_db(10.0)) == pytest.approx(10.0)


def test_nothing_is_minus_infinity():
    assert float(dbm_from_watts(0.0)) == -np.inf
