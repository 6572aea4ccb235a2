"""Units against the SI brochure (BIPM, 9th edition, tables 1, 4 and 7: prefixes and derived units; from memory)."""

import math

import pytest

from fenmist.errors import UnreadableError
from fenmist.units.display import percent, plain, rounded, swr, uncertainty, with_unit
from fenmist.units.impedance import impedance_from_text
from fenmist.units.level import db_from_ratio, ratio_from_db, watts_from_dbm
from fenmist.units.typed import number_from_text, parse
from fenmist.units.unit import UNITS, Quantity, find_unit
from support.texts import spaced

PREFIX = {"p": -12, "n": -9, "µ": -6, "m": -3, "c": -2, "": 0, "k": 3, "M": 6, "G": 9}
FAMILIES = {
    "W": "nµmk", "Hz": "kMG", "s": "pnµm", "m": "mc", "F": "pnµ", "A": "µm", "H": "nµm", "Vpp": "µmk", "Vpk": "µmk",
    "Vrms": "µmk", "V": "µmk",
}  # fmt: skip


@pytest.mark.parametrize("base", FAMILIES)
def test_a_prefix_is_its_power_of_ten_exactly(base):
    for prefix in ["", *FAMILIES[base]]:
        unit = UNITS[prefix + base]
        assert unit.si_from(8.3) == float(f"8.3e{PREFIX[prefix]}")
        assert unit.from_si(unit.si_from(8.3)) == pytest.approx(8.3, rel=1e-12)
        assert unit.step_si(8.3, 0.1) == pytest.approx(0.1 * 10.0 ** PREFIX[prefix], rel=1e-12)
        assert (unit.base, unit.decibel) == (base, False)


def test_nothing_else_is_a_unit_here():
    prefixed = {prefix + base for base, prefixes in FAMILIES.items() for prefix in ["", *prefixes]}

    assert set(UNITS) == prefixed | {"dBm", "dBW", "dB", "%", "Ω", "kΩ", "MΩ", ""}


@pytest.mark.parametrize(
    ("symbol", "value", "si", "base"),
    [
        ("dBm", 30.0, 1.0, "W"), ("dBm", -30.0, 1e-6, "W"), ("dBW", 20.0, 100.0, "W"), ("dB", 3.0, 3.0, "dB"),
        ("%", 5.0, 0.05, ""), ("Ω", 50.0, 50.0, "Ω"), ("kΩ", 2.2, 2200.0, "Ω"),
        ("MΩ", 1.5, 1.5e6, "Ω"), ("", 7.0, 7.0, ""),
    ],
)  # fmt: skip
def test_levels_shares_and_ohms(symbol, value, si, base):
    unit = UNITS[symbol]

    assert unit.si_from(value) == pytest.approx(si, rel=1e-12)
    assert unit.from_si(si) == pytest.approx(value, rel=1e-12)
    assert unit.base == base
    assert unit.decibel is (symbol in ("dBm", "dBW"))


def test_a_level_of_nothing_is_minus_infinity_and_its_step_a_share():
    assert UNITS["dBm"].from_si(0.0) == -math.inf
    assert UNITS["dBm"].from_si(-1.0) == -math.inf
    # 0.1 dB at 1 W is 2.3026 % of it
    assert UNITS["dBm"].step_si(30.0, 0.1) == pytest.approx(0.023026, rel=1e-4)


@pytest.mark.parametrize(
    ("text", "quantity", "symbol"),
    [
        ("ohm", Quantity.RESISTANCE, "Ω"), ("\u2126", Quantity.RESISTANCE, "Ω"), ("kohm", Quantity.RESISTANCE, "kΩ"),
        ("Mohm", Quantity.RESISTANCE, "MΩ"),
        ("dBc", Quantity.LOSS, "dB"), ("per cent", Quantity.FRACTION, "%"), ("MC", Quantity.FREQUENCY, "MHz"),
        ("meg", Quantity.FREQUENCY, "MHz"), ("Vp-p", Quantity.VOLTAGE, "Vpp"), ("Vp", Quantity.VOLTAGE, "Vpk"),
        ("veff", Quantity.VOLTAGE, "Vrms"), ("watts", Quantity.POWER, "W"), ("uW", Quantity.POWER, "µW"),
        ("\u03bcs", Quantity.TIME, "µs"), ("M", Quantity.FREQUENCY, "MHz"), ("k", Quantity.FREQUENCY, "kHz"),
        ("G", Quantity.FREQUENCY, "GHz"), ("mhz", Quantity.FREQUENCY, "MHz"), ("hz", Quantity.FREQUENCY, "Hz"),
        ("PF", Quantity.CAPACITANCE, "pF"), ("volts", Quantity.VOLTAGE, "V"), ("metres", Quantity.LENGTH, "m"),
    ],
)  # fmt: skip
def test_a_unit_is_found_as_people_write_it(text, quantity, symbol):
    assert find_unit(text, quantity).symbol == symbol


@pytest.mark.parametrize(("text", "quantity"), [("MW", Quantity.POWER), ("Mm", Quantity.LENGTH), ("x", Quantity.POWER)])
def test_what_is_no_unit_is_none(text, quantity):
    assert find_unit(text, quantity) is None


def test_decibels_of_ratios():
    assert list(ratio_from_db([0.0, 3.0103, 10.0, -20.0])) == pytest.approx([1.0, 2.0, 10.0, 0.01], rel=1e-5)
    assert list(db_from_ratio([1.0, 2.0, 0.01])) == pytest.approx([0.0, 3.0103, -20.0], abs=1e-4)
    assert db_from_ratio(0.0) == -math.inf
    assert list(watts_from_dbm([0.0, 50.0, -10.0])) == pytest.approx([1e-3, 100.0, 1e-4])


# numbers as they are typed


@pytest.mark.parametrize(
    ("text", "value", "digit"),
    [("1e30", 1e30, 1e30), ("1E-30", 1e-30, 1e-30), ("2.5e3", 2500.0, 100.0), ("1e+05", 1e5, 1e5), (".5", 0.5, 0.1),
     ("-3", -3.0, 1.0), ("0", 0.0, 1.0), ("0.000", 0.0, 0.001), ("1e00003", 1000.0, 1000.0)],
)  # fmt: skip
def test_a_number_and_its_last_digit(text, value, digit):
    assert number_from_text(text) == (value, pytest.approx(digit))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("1e31", "too large"), ("1e-31", "too small"), ("1e999", "too large"), ("1e-999", "too small"),
        ("9" * 400, "beyond what a number here can be"), ("0." + "0" * 400 + "1", "beyond what a number here can be"),
        ("1.2.3", "2 decimal points"), ("1,250", "two ways"), ("1,000,000", "two ways"), ("1,2.5", "two ways"),
        ("1.", None), ("abc", "not a number"),
    ],
)  # fmt: skip
def test_what_is_no_number_says_why(text, says):
    if says is None:
        assert number_from_text(text) == (1.0, 1.0)
        return
    with pytest.raises(UnreadableError, match=says) as caught:
        number_from_text(text)
    assert caught.value.hint


def test_a_long_text_is_quoted_short():
    with pytest.raises(UnreadableError) as caught:
        number_from_text("9" * 400)
    assert f"“{'9' * 37}…”" in str(caught.value)
    with pytest.raises(UnreadableError) as caught:
        number_from_text("1.2." + "3" * 36)
    assert "…" not in str(caught.value)  # forty letters stand whole


@pytest.mark.parametrize(
    ("text", "open"),
    [("1e15", False), ("1.01e15", True), ("1e-24", False), ("9.9e-25", True), ("0", False), ("-1e15", False),
     ("-1.01e15", True)],
)  # fmt: skip
def test_a_bench_shows_from_a_yoctowatt_to_a_petawatt(text, open):
    found = parse(text, UNITS["W"])

    assert hasattr(found, "why") is open


@pytest.mark.parametrize(
    ("text", "implied", "why", "meant"),
    [
        ("5 Mm", "m", "“mm” was probably meant", "mm"), ("5 MW", "W", "“mW” was probably meant", "mW"),
        ("5 MHz", "W", "is a unit of frequency; this field reads power in W", None),
        ("5 Mx", "W", "is no unit this field knows: it reads W", None), ("5 x", "", "it reads a plain number", None),
    ],
)  # fmt: skip
def test_a_wrong_unit_is_named_with_what_was_meant(text, implied, why, meant):
    found = parse(text, UNITS[implied])

    assert why in found.why
    if meant:
        assert found.likeliest.unit.symbol == meant


# impedances


@pytest.mark.parametrize("text", ["50 OHM", "50 ohms", "50\u2126", "50 Ω"])
def test_ohms_may_be_written_in_any_way(text):
    assert impedance_from_text(text).ohm == 50


@pytest.mark.parametrize(
    ("text", "fine"),
    [
        ("1e-3", True), ("0.9e-3", False), ("1e7", True), ("1.1e7", False), ("0", False), ("-5", False),
        ("50 @ 90", False), ("50 @ -91", False), ("0.001+j5000", False), ("0.01+j5000", True),
        ("|50| swr 1", True), ("|50| swr 0.9", False), ("|50| swr 1e4", True), ("|50| swr 1.1e4", False),
    ],
)  # fmt: skip
def test_a_load_takes_power(text, fine):
    if fine:
        assert impedance_from_text(text)
        return
    with pytest.raises(UnreadableError) as caught:
        impedance_from_text(text)
    assert caught.value.hint


# numbers as they are shown


@pytest.mark.parametrize(
    ("value", "unit", "shown"),
    [
        (1500.0, "W", "1.5 kW"), (0.5, "W", "500 mW"), (2e-5, "W", "20 µW"), (3e-9, "W", "3 nW"),
        (5e-10, "W", "0.5 nW"),
        (1.5e9, "Hz", "1.5 GHz"), (475e3, "Hz", "475 kHz"), (50.0, "Hz", "50 Hz"), (2e-3, "s", "2 ms"),
        (4e-6, "s", "4 µs"), (7e-9, "s", "7 ns"), (0.3, "m", "30 cm"), (0.005, "m", "5 mm"), (1e-6, "F", "1 µF"),
        (22e-9, "F", "22 nF"), (16e-12, "F", "16 pF"), (0.0, "W", "0 W"), (12.0, "Ω", "12 Ω"), (3.0, "", "3"),
        (0.99995e3, "W", "1 kW"), (0.9999e3, "W", "999.9 W"), (1234567.0, "Ω", "1235000 Ω"),
    ],
)  # fmt: skip
def test_a_value_stands_in_the_prefix_that_reads_best(value, unit, shown):
    assert spaced(plain(value, unit)) == shown


def test_signs_are_asked_for_and_zero_has_none():
    assert (rounded(1.25, 1, plus=True), rounded(-0.04, 1, plus=True), rounded(0.04, 1, plus=True)) == (
        "+1.2", "0.0", "0.0",
    )  # fmt: skip
    assert rounded(-1.25, 1) == "\u22121.2"
    assert (rounded(math.inf, 1), rounded(-math.inf, 1), rounded(math.nan, 1)) == ("∞", "\u2212∞", "—")
    assert (rounded(1234.0, -2), rounded(1250.0, -2)) == ("1200", "1200")
    assert spaced(plain(5.0, "W", plus=True)) == "+5 W"


def test_per_cent_have_two_digits_and_whole_ones_no_zeros():
    shown = [spaced(percent(value)) for value in (0.0, 0.00123, 0.0123, 0.123, 1.23, -0.05)]

    assert shown == ["0 %", "0.12 %", "1.2 %", "12 %", "123 %", "\u22125.0 %"]
    assert spaced(percent(0.05, plus=True)) == "+5.0 %"
    assert spaced(percent(0.12345, 3)) == "12.3 %"


def test_uncertainties_alone_and_a_unit_that_is_none():
    assert [spaced(uncertainty(u, "W")) for u in (0.0, 0.0123, 2.96, 150.0)] == ["0 W", "12 mW", "3.0 W", "150 W"]
    assert with_unit("5", "") == "5"


@pytest.mark.parametrize(
    ("value", "shown"), [(1.0, "1.00"), (9.994, "9.99"), (10.0, "10"), (999.0, "999"), (1000.0, "∞")]
)
def test_a_standing_wave_ratio(value, shown):
    assert swr(value) == shown


@pytest.mark.parametrize("text", ["yes", "1e", "2e+", "7e x", "e"])
def test_an_exponent_without_digits_is_no_number(text):
    with pytest.raises(UnreadableError, match="is not a number"):
        number_from_text(text)
