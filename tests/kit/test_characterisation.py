"""A load over frequency: measured, between, held, unknown."""

import numpy as np
import pytest

from fenmist.errors import OutOfRangeError
from fenmist.kit.characterisation import HOLD_LIMIT, HOLD_RATIO, NOMINAL_U_OHM, Footing, load_state
from fenmist.kit.impedance import table_from_rows
from fenmist.units.impedance import Known

TABLE = table_from_rows([(8e6, "54+j4"), (4e6, "50+j2")], 0.01)


def _at(f, table=TABLE):
    return load_state(table, np.array([f]), 50.0)


def test_a_measured_point_is_taken_as_it_stands():
    state = _at(4e6)

    assert (state.resistance_ohm[0], state.reactance_ohm[0]) == (50.0, 2.0)
    assert state.u_resistance_ohm[0] == pytest.approx(0.01 * abs(50 + 2j))
    assert state.footing == (Footing.MEASURED,)


def test_between_points_the_value_is_straight_and_costs_half_the_change():
    state = _at(6e6)
    own = 0.01 * (abs(50 + 2j) + abs(54 + 4j)) / 2

    assert state.resistance_ohm[0] == pytest.approx(52.0)
    assert state.u_resistance_ohm[0] == pytest.approx(np.hypot(own, 2.0 / np.sqrt(3)))
    assert state.footing == (Footing.BETWEEN,)


def test_past_the_end_the_value_is_held_and_its_uncertainty_grows():
    near, far = _at(8.8e6), _at(8e6 * HOLD_RATIO)

    assert near.resistance_ohm[0] == far.resistance_ohm[0] == 54.0
    assert near.u_resistance_ohm[0] < far.u_resistance_ohm[0]
    assert far.u_resistance_ohm[0] == pytest.approx(np.hypot(0.01, HOLD_LIMIT / np.sqrt(3)) * abs(54 + 4j))
    assert far.footing == (Footing.HELD,)


@pytest.mark.parametrize("frequency", [8e6 * HOLD_RATIO * 1.01, 4e6 / HOLD_RATIO * 0.99])
def test_far_outside_the_load_is_unknown_and_nominal(frequency):
    state = _at(frequency)

    assert state.footing == (Footing.UNKNOWN,)
    assert (state.resistance_ohm[0], state.u_resistance_ohm[0]) == (50.0, NOMINAL_U_OHM)


def test_an_unmeasured_load_costs_eight_per_cent():
    """Loads of 45 to 58 Ω are met (common practice, no source): second moment of that rectangle about 50 Ω."""
    sample = np.random.default_rng(2).uniform(45, 58, 400_000)

    assert pytest.approx(np.sqrt(np.mean((sample - 50) ** 2)), rel=0.005) == NOMINAL_U_OHM


def test_magnitude_and_swr_give_a_resistance_and_a_reactance_without_sign():
    table = table_from_rows([(7e6, "|57.7| swr 1.2")], 0.01)
    state = _at(7e6, table)

    assert state.known == (Known.MAGNITUDE_SWR,)
    assert abs(complex(state.resistance_ohm[0], state.reactance_ohm[0])) == pytest.approx(57.7)


def test_a_frequency_stands_once():
    with pytest.raises(OutOfRangeError, match="rising"):
        table_from_rows([(7e6, "50"), (7e6, "51")], 0.01)
