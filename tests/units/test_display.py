"""Numbers shown rounded by their uncertainty (JCGM 100:2008, 7.2.6)."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenmist.units.display import by_uncertainty, decimals_for, frequency, plain, rounded, with_uncertainty

T = "\u202f"
M = "\u2212"


@pytest.mark.parametrize(("value", "u", "unit", "shown"), [
    (22.5412, 0.7834, "W", f"22.54 ± 0.78{T}W"), (100.0, 12.3, "W", f"100 ± 12{T}W"),
    (1234.0, 123.0, "W", f"1.23 ± 0.12{T}kW"), (-0.00361, 0.00012, "W", f"{M}3.61 ± 0.12{T}mW"),
    (0.0, 0.5, "W", f"0 ± 500{T}mW"), (10.0, 0.0996, "W", f"10.00 ± 0.10{T}W"),
])  # fmt: skip
def test_value_and_uncertainty_share_the_last_place(value, u, unit, shown):
    assert with_uncertainty(value, u, unit) == shown


@pytest.mark.parametrize(("u", "places"), [(0.0224, 3), (0.0996, 2), (1.0, 1), (9.96, 0), (123.0, -1)])
def test_two_digits_of_the_uncertainty_are_kept(u, places):
    assert decimals_for(u) == places


@pytest.mark.parametrize(
    ("value", "shown"),
    [(7.125e6, "7.125 MHz"), (475e3, "475 kHz"), (1.2966e9, "1.2966 GHz"), (50.0, "50 Hz"), (14.1e6, "14.1 MHz")],
)
def test_frequencies_read_as_people_say_them(value, shown):
    assert frequency(value) == shown.replace(" ", T)


def test_a_minus_is_a_true_minus_and_zero_has_none():
    assert rounded(-0.04, 2) == f"{M}0.04"
    assert rounded(-0.0004, 2) == "0.00"
    assert rounded(0.3, 1, plus=True) == "+0.3"


def test_by_uncertainty_keeps_only_what_is_supported():
    assert by_uncertainty(25.6789, 0.62, "W") == f"25.68{T}W"


@given(st.floats(-1e5, 1e5), st.floats(1e-6, 1e4))
def test_what_is_shown_lies_within_half_the_last_place(value, u):
    shown = rounded(value, decimals_for(u)).replace(M, "-")

    assert abs(float(shown) - value) <= 0.5000001 * 10.0 ** -decimals_for(u)


def test_plain_values_drop_trailing_zeros():
    assert plain(100.0, "W") == f"100{T}W"
    assert plain(0.3, "m") == f"30{T}cm"
