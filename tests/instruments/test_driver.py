"""Addresses, replies, patterns and drivers: what is understood, and what is said of what isn't."""

import math
from contextlib import nullcontext
from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenmist.errors import FileFormatError, UnknownIdError, UnreadableError
from fenmist.instruments.address import address
from fenmist.instruments.driver import KINDS, driver_from_bytes, drivers_in, filled, shipped
from fenmist.instruments.instrument import Reflection, Samples, Settled, WireReading, in_digits, settled_by
from fenmist.instruments.reply import block_length, digit_of, number_from, samples_from, text_from
from fenmist.instruments.template import Template
from fenmist.instruments.trouble import State, Trouble
from fenmist.measurand import Kind
from fenmist.simulation.scpi import block


@pytest.mark.parametrize(
    ("text", "resource", "short"),
    [
        ("127.0.0.1:5025", "TCPIP::127.0.0.1::5025::SOCKET", "127.0.0.1:5025"),
        (" sensor.local:80 ", "TCPIP::sensor.local::80::SOCKET", "sensor.local:80"),
        ("TCPIP0::10.0.0.2::5025::SOCKET", "TCPIP0::10.0.0.2::5025::SOCKET", "10.0.0.2:5025"),
        ("TCPIP::10.0.0.2::INSTR", "TCPIP::10.0.0.2::INSTR", "TCPIP::10.0.0.2::INSTR"),
        ("/dev/ttyUSB0@9600", "ASRL/dev/ttyUSB0::INSTR", "ASRL/dev/ttyUSB0::INSTR"),
        ("USB0::0x1AB1::0x0588::S1::INSTR", "USB0::0x1AB1::0x0588::S1::INSTR", "USB0::0x1AB1::0x0588::S1::INSTR"),
    ],
)
def test_addresses(text, resource, short):
    found = address(text)

    assert (found.resource, found.short) == (resource, short)
    assert found.baud == (9600 if "@" in text else None)
    assert found.is_serial == ("tty" in text)


@pytest.mark.parametrize("text", ["", "here", "1.2.3.4", "1.2.3.4:0", "1.2.3.4:70000", "TCPIP::a::x::SOCKET", "a b:1"])
def test_what_is_no_address(text):
    with pytest.raises(UnreadableError, match="no address"):
        address(text)


@pytest.mark.parametrize(
    ("text", "value"),
    [("+1.5E+01", 15.0), ("-.5", -0.5), ("48.20", 48.2), (" 3\t", 3.0), ("0", 0.0), ("1e-9", 1e-9)],
)
def test_numbers_as_instruments_write_them(text, value):
    assert number_from(text) == value


@pytest.mark.parametrize(
    ("text", "state"),
    [
        ("9.9E+37", State.OVERRANGE), ("-9.90000E+37", State.OVERRANGE), ("9.91E37", State.GARBLED),
        ("+9.9100001E+37", State.GARBLED),
        ("----", State.OVERRANGE), ("OVLD", State.OVERRANGE), ("O.L", State.OVERRANGE), ("1E999", State.OVERRANGE),
        ("", State.GARBLED), ("48,2", State.GARBLED), ("48.2 W", State.GARBLED), ("nan", State.GARBLED),
        ("inf", State.GARBLED), ("0x1F", State.GARBLED), ("1_000", State.GARBLED), ("１", State.GARBLED),
    ],
)  # fmt: skip
def test_what_is_no_number_is_never_one(text, state):
    found = number_from(text)

    assert isinstance(found, Trouble)
    assert (found.state, found.raw) == (state, text)


@pytest.mark.parametrize(
    ("text", "digit"), [("48.20", 0.01), ("148", 1.0), ("+1.48844E+02", 1e-3), ("5E-3", 1e-3), ("x", 0.0)]
)
def test_the_last_digit_of_a_number(text, digit):
    assert digit_of(text) == pytest.approx(digit)


@pytest.mark.parametrize("reply", [b"1,5 \xb5", b"a\x00b", b"1" * 600, b"\x1b[0m1"])
def test_replies_that_are_no_text(reply):
    assert text_from(reply).state is State.GARBLED


@given(st.lists(st.floats(-1e3, 1e3, width=32), min_size=1, max_size=50))
def test_blocks_come_back_as_they_were_sent(values):
    data = block(np.array(values, ">f4").tobytes())

    assert block_length(data[:16]) == len(data)
    assert samples_from(data + b"\n", "real32") == pytest.approx(np.array(values))
    assert samples_from(",".join(map(repr, values)).encode(), "ascii") == pytest.approx(np.array(values))


@pytest.mark.parametrize(
    ("reply", "form", "state"),
    [
        (b"#41", "real32", State.GARBLED), (b"#0abc", "real32", State.GARBLED), (b"1,2", "real32", State.GARBLED),
        (block(b"abcdef"), "real32", State.BROKEN_OFF), (block(b"abcdefgh")[:-2], "real32", State.BROKEN_OFF),
        (b"1,two", "ascii", State.GARBLED), (b"1,9.9E37", "ascii", State.OVERRANGE),
        (b"1,nan", "ascii", State.OVERRANGE),
    ],
)  # fmt: skip
def test_blocks_that_arent_whole(reply, form, state):
    assert samples_from(reply, form).state is state


# patterns

LINE = "F=48.20 W R=0.12 W SWR=1.10"


@pytest.mark.parametrize(
    ("pattern", "reply", "value"),
    [
        ("{value}", " +4.2E1 ", "+4.2E1"), ("F={value} W{*}", LINE, "48.20"), ("{*}R={value} W{*}", LINE, "0.12"),
        ("{*}SWR={value}", LINE, "1.10"), ("F={value}{*}", "F=1228 R=89", "1228"), ("P {value}W", "P  3.5W", "3.5"),
        ("F={value} W{*}", "F=---- W R=0.1 W", "----"),
    ],
)  # fmt: skip
def test_a_pattern_takes_the_whole_number(pattern, reply, value):
    assert Template(pattern).picked(reply)["value"] == value


@pytest.mark.parametrize(
    ("pattern", "reply"),
    [("F={value} W", LINE), ("F={value}2 W", "F=1232 W"), ("{value}", "1 2"), ("F={value}", "f=1"), ("{value}", "")],
)
def test_a_reply_that_looks_otherwise_gives_nothing(pattern, reply):
    assert Template(pattern).picked(reply) is None


def test_units_are_picked_beside_the_number():
    assert Template("{value} {unit}").picked("-3.2 DBM") == {"value": "-3.2", "unit": "DBM"}


@pytest.mark.parametrize("pattern", ["", "F=", "{value}{value}", "{watts}", "{value", "{*}{*}{*}{*}{value}", "x" * 200])
def test_patterns_that_are_none(pattern):
    with pytest.raises(UnreadableError):
        Template(pattern)


# drivers


def test_the_shipped_drivers_are_sound_and_of_every_kind():
    found = shipped()

    assert {item.kind for item in found.values()} == set(KINDS)
    assert found["scpi-oscilloscope"].read_of(Kind.VOLTAGE) == "rms"
    assert found["line-counts"].read_of(Kind.DETECTED, "reflected") == "reflected"
    assert found["line-meter"].read_of(Kind.CURRENT) == ""


SOUND = """fenmist-driver = 1
kind = "power meter"
title = "mine"

[wire]
end = "CR"
timeout_s = 1.5

[read.power]
quantity = "incident power"
unit = "dBm"
ask = "P?"
reply = "{value}"

[set]
level = ["L {level_dbm}"]
"""


def test_a_driver_is_what_its_file_says():
    found = driver_from_bytes(SOUND.encode(), "mine.toml")

    assert (found.speech.end, found.speech.timeout_s) == (b"\r", 1.5)
    assert found.read["power"].quantity is Kind.INCIDENT
    assert filled(found.set["level"][0], {"level_dbm": 43.01}) == "L 43.010"
    with pytest.raises(UnknownIdError, match="level_dbm"):
        filled(found.set["level"][0], {})


@pytest.mark.parametrize(
    ("old", "new", "line", "why"),
    [
        ('kind = "power meter"', 'kind = "toaster"', 2, "no kind"), ("driver = 1", "driver = 2", 1, "format 1"),
        ('title = "mine"', 'title = " "', 3, "empty"), ('title = "mine"', "title = 3", 3, "str"),
        ('end = "CR"', 'end = "NUL"', 6, "LF, CR or CRLF"), ("timeout_s = 1.5", "timeout_s = 900", 7, "0.05 and 60"),
        ("timeout_s = 1.5", "baud = 3", 7, "rate"), ('quantity = "incident power"', 'quantity = "power"', 10, "power"),
        ('unit = "dBm"', 'unit = "horse"', 11, "no unit"), ('ask = "P?"', 'ask = "P?\\n*RST"', 12, "one line"),
        ('ask = "P?"', 'ask = "P {os.system}"', 12, "os.system"), ('ask = "P?"', 'ask = "Pµ?"', 12, "ASCII"),
        ('reply = "{value}"', 'reply = "P"', 13, "{value} once"), ('ask = "P?"', "asked = 1", 12, "asked"),
        ('ask = "P?"', 'unit_ask = "U?"', 9, "units"), ('ask = "P?"', "times = 0", 12, "can't be 0"),
        ("level = [", "volume = [", 16, "nothing sets"), ("[wire]", "[wires]", 0, "wires"),
        ('ask = "P?"', f'ask = "{"P" * 200}"', 12, "characters"), ("timeout_s = 1.5", "timeout_s = ", 7, "line 7"),
        ('unit = "dBm"', "settle_s = -1", 11, "600 s"),
    ],
)  # fmt: skip
def test_a_driver_that_is_wrong_is_refused_with_line_and_reason(old, new, line, why):
    assert old in SOUND
    with pytest.raises(FileFormatError) as caught:
        driver_from_bytes(SOUND.replace(old, new).encode(), "mine.toml")

    said = str(caught.value)
    assert why in said
    assert "mine.toml" in said
    assert line == 0 or f"line {line}" in said


def test_a_folders_own_drivers_go_before_and_bad_ones_are_told(tmp_path):
    (tmp_path / "mine.toml").write_text(SOUND)
    (tmp_path / "line-meter.toml").write_text(SOUND.replace("mine", "ours"))
    (tmp_path / "bad.toml").write_bytes(b"title = \xff")
    found = drivers_in(tmp_path)

    assert found.drivers["line-meter"].title == "ours"
    assert set(found.drivers) == {*shipped(), "mine"}
    assert ["bad.toml, line 1" in str(item) for item in found.wrong] == [True]
    assert drivers_in(tmp_path / "none").drivers == shipped()


def test_a_number_over_range_is_no_infinity():
    assert not isinstance(number_from("1e37"), Trouble)
    assert math.isfinite(number_from("1e37"))


# settling


def readings(values, digit=0.01):
    at = datetime(2026, 11, 28, tzinfo=UTC)
    return [WireReading(value, "W", digit, f"{value}", "", "", at, 0.1) for value in values]


@pytest.mark.parametrize(
    ("values", "still"),
    [
        ([10.0, 10.0, 10.0, 10.0, 10.0], True), ([10.0, 10.01, 10.0, 10.01, 10.0], True),
        ([1.0, 2.0, 3.0, 4.0, 5.0], False), ([41.8, 54.7, 53.7, 53.5, 53.5], False),
        ([0.0, 20.0, 30.0, 35.0, 37.5], False),
        ([10.0, 10.3, 9.8, 10.2, 9.9], True), ([54.6, 53.7, 53.51, 53.51, 53.5], False),
        # neighbours differ by 1: noise of 1/0.954, three times that over √4 is 1.57
        ([0.0, 1.0, 0.0, 1.0, 1.5, 2.5, 1.5, 2.5], True), ([0.0, 1.0, 0.0, 1.0, 1.65, 2.65, 1.65, 2.65], False),
    ],
)  # fmt: skip
def test_a_needle_that_still_moves_is_told_from_one_that_trembles(values, still):
    assert settled_by(readings(values)) is still


def test_noise_is_mostly_called_still_and_a_trend_of_its_size_hardly_ever():
    rng = np.random.default_rng(1)
    noise = [settled_by(readings(rng.normal(10.0, 0.3, 5).tolist())) for _ in range(2000)]
    trend = [settled_by(readings((10.0 + 0.5 * np.arange(5) + rng.normal(0.0, 0.1, 5)).tolist())) for _ in range(2000)]

    assert np.mean(noise) > 0.75
    assert np.mean(trend) < 0.1


def test_the_mean_of_several_has_their_scatter_over_root_n():
    found = Settled(tuple(readings([10.0, 10.3, 9.8, 10.2, 9.7])))

    assert found.mean == pytest.approx(10.0)
    assert found.u == pytest.approx(math.hypot(np.std([10.0, 10.3, 9.8, 10.2, 9.7], ddof=1) / 5**0.5, 0.01 / 12**0.5))
    assert found.text == "10.00 W"
    assert Settled(tuple(readings([10.1, 10.2, 10.1, 10.1, 10.2], 0.1))).text == "10.1 W"
    assert Settled(tuple(readings([10.0, 10.4, 10.1, 10.5, 10.2], 0.1))).text == "10.24 W"  # u of 0.1 W and a digit
    assert found.scatters


@pytest.mark.parametrize(
    ("values", "digit", "text"),
    [
        # u of 0.02 W goes to hundredths; of 0.5 W no coarser than its display; 6 digits at most; kept zeros
        ([10.0, 10.1, 10.05, 10.0, 10.1], 0.1, "10.05 W"), ([10.0, 12.0, 11.0, 10.0, 12.0], 0.1, "11.0 W"),
        ([123.4567, 123.4568], 0.0001, "123.457 W"), ([2.5, 2.5], 0.001, "2.500 W"), ([0.0, 0.0], 0.1, "0.0 W"),
        ([1500.0, 1500.0], 10.0, "1500 W"), ([0.00012345678, 0.00012345678], 1e-11, "0.000123457 W"),
    ],
)  # fmt: skip
def test_a_mean_is_written_down_to_what_it_is_known_to(values, digit, text):
    assert Settled(tuple(readings(values, digit))).text == text


def test_two_values_that_alternate_are_a_digits_trembling_and_three_scatter():
    assert not Settled(tuple(readings([1.0, 1.1, 1.0, 1.1]))).scatters
    assert Settled(tuple(readings([1.0, 1.1, 1.2]))).scatters
    assert Settled(tuple(readings([4.0]))).u == pytest.approx(0.01 / math.sqrt(12.0))


@pytest.mark.parametrize(("value", "digit", "text"), [
    (148.84, 0.001, "148.840"), (1500.0, 10.0, "1500"), (1.0, 1.0, "1"), (0.5, 0.0, "0.5"),
    (1 / 3, 0.0, "0.333333333333"),
])  # fmt: skip
def test_a_number_to_the_place_of_its_last_digit(value, digit, text):
    assert in_digits(value, digit) == text


def test_the_digit_now_in_use_says_what_is_still():
    """A display that has changed to a coarser range trembles by its new digit."""
    fine, coarse = readings([10.0, 10.0, 10.0, 10.0], 0.01), readings([10.9], 1.0)

    assert settled_by([*fine, *coarse])
    assert not settled_by([*fine, *readings([10.9], 0.01)])


def test_samples_and_sweeps_are_files_that_others_read():
    """Time in steps, volts beside them; a file of one port in hertz and real and imaginary parts (Touchstone 1.1)."""
    at = datetime(2026, 11, 29, 7, 8, 9, tzinfo=UTC)
    lines = Samples(np.array([0.5, -0.25, 0.125]), 2e-9, at).csv("Sedge, 200").splitlines()
    swept = (
        Reflection(np.array([1e6, 2e6]), np.array([0.25 - 0.5j, 1.0j]), at).touchstone("analyser", 75.0).splitlines()
    )

    assert lines == [
        "Sample interval,2e-09", "Instrument,Sedge  200", "Taken,2026-11-29T07:08:09+00:00", "time,CH1", "s,V",
        "0,0.5", "2e-09,-0.25", "4e-09,0.125",
    ]  # fmt: skip
    assert swept == [
        "! analyser, 2026-11-29T07:08:09+00:00", "# HZ S RI R 75", "1000000 0.25000000 -0.50000000",
        "2000000 0.00000000 1.00000000",
    ]  # fmt: skip


@pytest.mark.parametrize(("old", "new", "fits"), [
    ("timeout_s = 1.5", "timeout_s = 0.05", True), ("timeout_s = 1.5", "timeout_s = 60.0", True),
    ("timeout_s = 1.5", "timeout_s = 0.04", False), ("timeout_s = 1.5", "timeout_s = 60.1", False),
    ("timeout_s = 1.5", "baud = 50", True), ("timeout_s = 1.5", "baud = 4000000", True),
    ("timeout_s = 1.5", "baud = 49", False), ("timeout_s = 1.5", "baud = 4000001", False),
    ('ask = "P?"', f'ask = "{"P" * 160}"', True), ('ask = "P?"', f'ask = "{"P" * 161}"', False),
    ('unit = "dBm"', 'unit = "dBm"\nsettle_s = 600', True), ('unit = "dBm"', 'unit = "dBm"\nsettle_s = 601', False),
    ('unit = "dBm"', 'unit = "dBm"\nsettle_s = 0', True),
])  # fmt: skip
def test_a_drivers_numbers_may_lie_at_their_limits_and_not_beyond(old, new, fits):
    with nullcontext() if fits else pytest.raises(FileFormatError):
        driver_from_bytes(SOUND.replace(old, new).encode(), "mine.toml")


def test_patterns_and_replies_have_a_length_and_three_gaps():
    filler = "x" * (120 - len("{value}"))
    assert Template("{value}" + filler).picked("7" + filler)["value"] == "7"
    with pytest.raises(UnreadableError):
        Template("{value}x" + filler)
    assert Template("{*}a{*}b{*}{value}").picked("1a2b3")["value"] == "3"
    assert text_from(b"1" * 512) == "1" * 512
    assert text_from(b"1" * 513).what == "The reply is 513 bytes long."
    assert (text_from(b"a\tb"), number_from("9.900001E37").state) == ("a\tb", State.OVERRANGE)


@pytest.mark.parametrize(
    ("typed", "by", "baud"),
    [
        ("127.0.0.1:65535", "a socket", None), ("TCPIP::a.b::5025::socket", "a socket", None),
        ("TCPIP0::h::inst0::INSTR", "the network", None), ("COM3", "a serial port", None),
        ("asrl/dev/ttyS0::instr", "a serial port", None), ("USB::0x1::0x2::S::0::INSTR", "USB", None),
        ("/dev/ttyUSB0@115200", "a serial port", 115200),
    ],
)  # fmt: skip
def test_what_an_address_leads_over(typed, by, baud):
    found = address(typed)

    assert (found.by, found.baud, found.is_serial) == (by, baud, by == "a serial port")
    with pytest.raises(UnreadableError):
        address("h:65536")
