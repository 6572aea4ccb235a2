"""What people type: every form is read, every ambiguity asked, nothing refused."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenmist.units.typed import Censoring, Pointer, Typed, Unclear, parse
from fenmist.units.unit import UNITS

WATT, VPP, HERTZ = UNITS["W"], UNITS["Vpp"], UNITS["MHz"]


@pytest.mark.parametrize(("text", "implied", "value", "base"), [
    ("25.6", WATT, 25.6, "W"), ("25,6", WATT, 25.6, "W"), ("25.6 W", WATT, 25.6, "W"), ("25.6w", WATT, 25.6, "W"),
    ("250 mW", WATT, 0.25, "W"), ("1.2 kW", WATT, 1200.0, "W"), ("44.1 dBm", WATT, 25.704, "W"),
    ("-30 dBm", WATT, 1e-6, "W"), ("\u221230 dBm", WATT, 1e-6, "W"), ("0,250", WATT, 0.25, "W"),
    ("-0.002 mW", WATT, -2e-6, "W"), ("1e2", WATT, 100.0, "W"), ("102 Vpp", VPP, 102.0, "Vpp"),
    ("102", VPP, 102.0, "Vpp"), ("102 V", VPP, 102.0, "Vpp"), ("102 Vp-p", VPP, 102.0, "Vpp"),
    ("36.1 Vrms", VPP, 36.1, "Vrms"), ("900 mVrms", VPP, 0.9, "Vrms"), ("51 Vpk", VPP, 51.0, "Vpk"),
    ("7.125", HERTZ, 7.125e6, "Hz"), ("7125 kHz", HERTZ, 7.125e6, "Hz"), ("7.125M", HERTZ, 7.125e6, "Hz"),
    ("475k", HERTZ, 475e3, "Hz"), ("7.1 meg", HERTZ, 7.1e6, "Hz"), ("433 MHZ", HERTZ, 433e6, "Hz"),
    ("1.3GHz", HERTZ, 1.3e9, "Hz"),
])  # fmt: skip
def test_a_clear_text_is_read_in_si(text, implied, value, base):
    typed = parse(text, implied)

    assert isinstance(typed, Typed)
    assert typed.value_si == pytest.approx(value, rel=1e-4)
    assert typed.unit.base == base
    assert typed.raw == text


@pytest.mark.parametrize(("text", "expected", "likeliest"), [
    ("1,250", None, 1.25), ("1,250", 1200.0, 1250.0), ("1,250", 1.2, 1.25), ("1,250.5", None, 1250.5),
    ("1.250,5", None, 1250.5), ("1,250,000", None, 1250000.0), ("5 MW", None, 5.0),
])  # fmt: skip
def test_what_can_be_read_in_two_ways_stays_open_with_the_likeliest(text, expected, likeliest):
    unclear = parse(text, WATT, expected)

    assert isinstance(unclear, Unclear)
    assert unclear.why
    assert unclear.likeliest is not None
    assert unclear.likeliest.value == pytest.approx(likeliest)


def test_a_million_watts_is_taken_for_milliwatts():
    unclear = parse("5 MW", WATT)

    assert isinstance(unclear, Unclear)
    assert unclear.likeliest.unit.symbol == "mW"


@pytest.mark.parametrize("text", ["", "  ", "abc", "W", "25 Vpp", "--5", "1.2.3", "1e999", "7 MHz", "off scale", "20/"])
def test_what_makes_no_sense_stays_open_with_a_reason(text):
    unclear = parse(text, WATT)

    assert isinstance(unclear, Unclear)
    assert unclear.why


@pytest.mark.parametrize(("text", "kind", "value"), [
    ("<0.5", Censoring.BELOW, 0.5), ("below 0.5 W", Censoring.BELOW, 0.5), ("under 0,5", Censoring.BELOW, 0.5),
    ("> 200", Censoring.ABOVE, 200.0), ("over 200 W", Censoring.ABOVE, 200.0),
])  # fmt: skip
def test_a_bound_is_a_bound_not_a_value(text, kind, value):
    typed = parse(text, WATT)

    assert (typed.censoring, typed.value) == (kind, value)


def test_off_scale_is_above_the_full_scale_of_the_field():
    typed = parse("off scale", WATT, full_scale_si=200.0)

    assert (typed.censoring, typed.value_si) == (Censoring.ABOVE, 200.0)


def test_mark_and_divisions_are_a_pointer():
    typed = parse("20/3.5", WATT)

    assert typed.pointer == Pointer(20.0, 3.5)
    assert typed.digit == pytest.approx(0.1)


@pytest.mark.parametrize(("text", "digit"), [("25.6", 0.1), ("100", 1.0), ("250 mW", 1e-3), ("1.20e2", 1.0)])
def test_the_last_digit_typed_is_known(text, digit):
    assert parse(text, WATT).digit_si == pytest.approx(digit)


def test_a_digit_of_a_level_is_a_share_of_the_power():
    assert parse("44.1 dBm", WATT).digit_si == pytest.approx(25.704 * math.log(10) / 10 * 0.1, rel=1e-3)


@given(st.text(max_size=30))
def test_any_text_at_all_is_read_or_stays_open(text):
    result = parse(text, WATT)

    assert result.raw == text
    assert isinstance(result, Typed) or result.why


@given(st.floats(1e-9, 1e9))
def test_a_number_printed_with_a_point_comes_back(value):
    assert parse(f"{value:.17g}", WATT).value == value
