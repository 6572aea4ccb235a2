"""The stand-ins' language against the rules of IEEE 488.2-1992 and SCPI-1999 (from memory); what they understand."""

import asyncio
import math
import re
from dataclasses import replace

import numpy as np
import pytest

from fenmist.hookup.line import Joint
from fenmist.kit import generic
from fenmist.kit.part import PartKind
from fenmist.measurand import PlaneRef
from fenmist.simulation.live import LiveBench
from fenmist.simulation.scenarios import job_bench, live_bench, scenario
from fenmist.simulation.scpi import Interpreter, block, nr3
from fenmist.simulation.serving import Serving
from fenmist.simulation.standins import stand_ins

SET = {}


def interpreter():
    SET.clear()

    def keep(name, *rules):
        return lambda given: SET.__setitem__(name, given.number(*rules))

    return Interpreter(
        "A,B,C,D",
        {
            "MEASure:VOLTage[:AC]?": lambda _: "ac", "MEASure:VOLTage:DC?": lambda _: "dc",
            "MEASure:CURRent?": lambda _: "i", "CHANnel#:SCALe": lambda given: SET.__setitem__("scale", given.suffixes),
            "CHANnel#:SCALe?": lambda given: str(given.suffixes[0]),
            "SOURce:FREQuency": keep("f", "HZ", 10.0, 1e9, 5e6),
            "OUTPut": lambda given: SET.__setitem__("on", given.switch()),
            "DISPlay:TEXT": lambda given: SET.__setitem__("text", given.text()),
            "UNIT": lambda given: SET.__setitem__("unit", given.choice("VOLTage", "DBM")),
            "ABORt": lambda given: given.nothing(), "DATA?": lambda _: block(b"\n;\x00\xff"),
        },
        lambda: SET.__setitem__("reset", True),
    )  # fmt: skip


@pytest.mark.parametrize(
    ("message", "response"),
    [
        ("*IDN?", b"A,B,C,D\n"),  # 10.14
        ("*idn?", b"A,B,C,D\n"),  # 7.6.1.2: headers in either case
        ("MEASURE:VOLTAGE:AC?", b"ac\n"), ("MEAS:VOLT:AC?", b"ac\n"), ("meas:volt?", b"ac\n"),  # short, long, default
        ("MEASU:VOLT?", b""), ("MEAS:VOLTA?", b""),  # nothing between short and long
        ("MEAS:VOLT:AC?;DC?", b"ac;dc\n"),  # a path goes on from the node above the last
        ("MEAS:VOLT:AC?;:MEAS:CURR?", b"ac;i\n"),  # a colon goes back to the root
        ("MEAS:VOLT:DC?;*IDN?;AC?", b"dc;A,B,C,D;ac\n"),  # common commands leave the path alone
        ("MEAS:VOLT:AC?;MEAS:CURR?", b"ac\n"),  # not found from there: an error, what came before is answered
        ("CHAN:SCAL?;:CHAN3:SCAL?", b"1;3\n"), ("MEAS2:VOLT?", b""),  # suffixes, 1 where none is given
        (" ; MEAS:CURR? ; ", b"i\n"), ("", b""), ("*OPC?;*TST?", b"1;0\n"),
        ("DATA?", b"#14\n;\x00\xff\n"),  # 8.7.9: the count tells where a block ends
        ("SYST:VERS?", b"1999.0\n"),
    ],
)  # fmt: skip
def test_messages_and_their_responses(message, response):
    assert interpreter().receive(message) == response


@pytest.mark.parametrize(
    ("message", "kept"),
    [
        ("SOUR:FREQ 7.1 MHZ", {"f": 7.1e6}), ("SOUR:FREQ 7100KHZ", {"f": 7.1e6}), ("SOUR:FREQ 7.1E6", {"f": 7.1e6}),
        ("SOUR:FREQ .5e3 Hz", {"f": 500.0}), ("SOUR:FREQ 0.5 GHZ", {"f": 5e8}),
        ("SOUR:FREQ MIN", {"f": 10.0}), ("SOUR:FREQ DEF", {"f": 5e6}),
        ("OUTP ON", {"on": True}), ("OUTP 0", {"on": False}), ("OUTP 0.4", {"on": False}), ("outp 2", {"on": True}),
        ("DISP:TEXT 'a;b, it''s'", {"text": "a;b, it's"}), ('DISP:TEXT "x"', {"text": "x"}),
        ("UNIT VOLT", {"unit": "VOLTage"}), ("UNIT voltage", {"unit": "VOLTage"}), ("CHAN2:SCAL 1", {"scale": (2,)}),
        ("*RST", {"reset": True}),
    ],
)  # fmt: skip
def test_parameters(message, kept):
    made = interpreter()
    made.receive(message)

    assert (kept, made.receive("SYST:ERR?")) == (SET, b'0,"No error"\n')


@pytest.mark.parametrize(
    ("message", "number"),
    [
        ("NO:SUCH?", -113), ("*FOO?", -113), ("SOUR:FREQ", -109), ("SOUR:FREQ 1,2", -108), ("SOUR:FREQ 1 HZ X", -104),
        ("SOUR:FREQ 1 V", -131), ("SOUR:FREQ 1", -222), ("SOUR:FREQ 1E12", -222), ("OUTP MAYBE", -104),
        ("UNIT W", -141), ("DISP:TEXT 'open", -151), ("ABOR 1", -108), ("ABOR 1,,2", -102), ("MEAS::VOLT?", -102),
        ("ME$S?", -101), ("MEAS:CURR", -113), ("OUTP?", -113),
    ],
)  # fmt: skip
def test_errors_have_the_standards_numbers_and_set_their_bit(message, number):
    """SCPI-1999 volume 2, 21.8: −1xx are command errors, −2xx execution errors; IEEE 488.2, 11.5.1."""
    made = interpreter()
    made.receive("*CLS")
    made.receive(message)

    assert int(made.receive("*ESR?")) == (32 if number > -200 else 16)
    assert made.receive("SYST:ERR:COUN?") == b"1\n"
    assert int(made.receive("SYST:ERR?").split(b",")[0]) == number
    assert made.receive("SYST:ERR:NEXT?") == b'0,"No error"\n'


def test_the_queue_ends_with_an_overflow_and_status_tells_of_it():
    made = interpreter()
    for _ in range(25):
        made.receive("NO?")
    numbers = [int(made.receive("SYST:ERR?").split(b",")[0]) for _ in range(21)]

    assert numbers == [-113] * 19 + [-350, 0]


def test_status_registers_are_read_and_cleared_as_the_standard_says():
    """Power on is bit 7, read once; operation complete is bit 0; a service request needs its mask (11.2, 11.5)."""
    made = interpreter()

    assert made.receive("*ESR?;*ESR?") == b"128;0\n"
    assert made.receive("*OPC;*ESR?") == b"1\n"
    made.receive("*ESE 32;*SRE 255")
    made.receive("NO?")
    assert made.receive("*STB?;*SRE?;*ESE?") == b"100;191;32\n"  # queue 4, events 32, master 64; bit 6 is no mask
    made.receive("*CLS")
    assert made.receive("*STB?") == b"0\n"
    made.receive("*ESE 256")
    assert b"-222" in made.receive("SYST:ERR?")
    assert made.receive("*ESR?") == b"16\n"


@pytest.mark.parametrize(
    ("value", "text"),
    [(1.5, "+1.50000E+00"), (-2e-9, "-2.00000E-09"), (math.inf, "+9.90000E+37"), (-math.inf, "-9.90000E+37"),
     (math.nan, "+9.91000E+37")],
)  # fmt: skip
def test_numbers_beyond_and_without_sense(value, text):
    """SCPI-1999 volume 1, 7.2.1."""
    assert nr3(value) == text


def test_a_block_tells_its_length():
    assert block(b"x" * 1234)[:6] == b"#41234"


def spoken(name="live", seed=1):
    bench = live_bench(scenario(name), seed)
    return bench, {item.id: item for item in stand_ins(bench)}


def test_the_bench_is_worked_through_its_stand_ins():
    bench, by_id = spoken()
    key = by_id["transmitter"].interpreter
    key.receive("POW 40 W;FREQ 4.125 MHZ;:OUTP ON")
    bench.advance(5.0)

    assert (bench.keyed.set_w, bench.keyed.frequency_hz, bench.keyed.on) == (40.0, 4.125e6, True)
    volts = float(by_id["oscilloscope"].interpreter.receive("MEAS:VOLT?"))
    assert volts**2 / 51.4 == pytest.approx(bench.true_w(), rel=0.06)
    assert float(by_id["oscilloscope"].interpreter.receive("MEAS:VOLT:PTP?")) == pytest.approx(
        volts * math.sqrt(8), rel=0.02
    )
    amperes = float(by_id["supply"].interpreter.receive("MEAS:CURR?"))
    assert 40.0 / (13.8 * 0.6) < amperes < 45.0 / (13.8 * 0.45) + 0.6
    line = by_id["wattmeter"].line()
    assert float(line.split(" W")[0].removeprefix("F=")) == pytest.approx(bench.true_w(), rel=0.1)
    assert re.fullmatch(r"F=\d\d\.\d\d W R=\d\.\d\d W SWR=\d\.\d\d", line)
    key.receive('FUNC "two tones"')
    assert b"0," in key.receive("SYST:ERR?")
    key.receive("FUNC 'whistle'")
    assert b"-224" in key.receive("SYST:ERR?")
    key.receive("*RST")
    assert not bench.keyed.on
    assert by_id["oscilloscope"].interpreter.receive("MEAS:FREQ?") == b"+9.91000E+37\n"


def test_a_power_meter_answers_in_its_unit_and_is_zeroed_only_in_silence():
    bench, by_id = spoken("pad")
    meter = by_id["meter"].interpreter
    bench.set(on=True)
    bench.advance(1.0)
    dbm, watts = float(meter.receive("READ?")), float(meter.receive("UNIT:POW W;:READ?"))

    assert 10 * math.log10(watts * 1e3) == pytest.approx(dbm, abs=1e-3)
    assert meter.receive("UNIT:POW?") == b"W\n"
    meter.receive("CAL:ZERO:AUTO ONCE")
    assert b"-221" in meter.receive("SYST:ERR?")
    bench.setup = replace(bench.setup, transmitter=replace(bench.setup.transmitter, top_w=math.inf))
    bench.set(watts=2000.0)
    bench.advance(1.0)
    assert meter.receive("READ?") == b"+9.90000E+37\n"


def test_what_has_a_needle_has_no_wire_and_counts_are_counts():
    _, dial = spoken("dial")
    bench, built = spoken("home-built")
    bench.set(on=True)
    bench.advance(3.0)

    assert dial["wattmeter"].speaks == "dial"
    forward, reflected = (int(word.split("=")[1]) for word in built["meter"].line().split())
    assert 5.0 / 4095 * forward == pytest.approx(bench.shown("meter", "forward"), abs=5.0 / 4095)
    assert 0 < reflected < forward < 4096


def test_a_senders_level_is_set_in_watts_or_decibels_and_read_in_decibels():
    """10 W are 40 dBm, 0 dBm a milliwatt (any table)."""
    bench, by_id = spoken()
    key = by_id["transmitter"].interpreter
    for asked, watts in (("POW 10 W", 10.0), ("POW 0 DBM", 1e-3), ("POW -30", 1e-6), ("POW 250 MW", 0.25)):
        key.receive(asked)
        assert bench.keyed.set_w == pytest.approx(watts), asked
        assert float(key.receive("POW?")) == pytest.approx(10.0 * math.log10(watts * 1e3), abs=1e-4)
    for asked in ("POW 2001 W", "POW -1 W", "POW 63.1", "POW -60.1", "FREQ 9 KHZ", "FREQ 1.1 GHZ"):
        key.receive(asked)
        assert b"-222" in key.receive("SYST:ERR?"), asked
    assert key.receive("OUTP?;:FREQ 1.8 MHZ;FREQ?") == b"0;+1.80000E+06\n"
    assert key.receive("OUTP ON;OUTP?") == b"1\n"
    assert key.receive("FUNC:CAT?").count(b'"') == 10
    assert float(by_id["supply"].interpreter.receive("MEAS:VOLT?")) == 13.8


def test_a_scopes_samples_come_as_text_or_as_a_block_with_their_step():
    """Big-endian floats of four bytes; some sixty samples a period (IEEE 488.2, 8.7.9; the rest is its own)."""
    bench, by_id = spoken()
    bench.set(watts=50.0, frequency_hz=4e6, on=True)
    bench.advance(2.0)
    scope = by_id["oscilloscope"].interpreter
    size, step = scope.receive("TRAC:PRE?").decode().split(",")
    text = np.array([float(one) for one in scope.receive("TRAC?").decode().split(",")])
    block_of = scope.receive("FORM REAL;:TRAC1:DATA?")
    binary = np.frombuffer(block_of[2 + int(block_of[1:2]) : -1], ">f4")

    assert (int(size), float(step)) == (text.size, pytest.approx(1.0 / (64 * 4e6), rel=1e-5))
    assert text.size == binary.size == 1024
    assert np.std(text) == pytest.approx(np.std(binary), rel=0.01)
    assert np.std(text) ** 2 / 51.4 == pytest.approx(bench.true_w(), rel=0.06)
    assert scope.receive("FORM?;:FORM ASC;FORM?") == b"REAL;ASC\n"
    assert float(scope.receive("MEAS:FREQ?")) == 4e6


def test_a_power_meter_keeps_its_frequency_and_shows_nothing_of_less_than_nothing():
    bench, by_id = spoken("pad")
    meter = by_id["meter"].interpreter
    assert meter.receive("SENS:FREQ?;FREQ 7.1 MHZ;FREQ?") == b"+5.00000E+07;+7.10000E+06\n"
    meter.receive("SENS:FREQ 999 HZ")
    assert b"-222" in meter.receive("SYST:ERR?")
    dark = replace(bench.setup.instruments["meter"], zero_w=-1e-6)
    bench = LiveBench(replace(bench.setup, instruments={"meter": dark}), 1)
    meter = next(item for item in stand_ins(bench) if item.id == "meter").interpreter
    assert meter.receive("READ?") == b"+9.91000E+37\n"
    assert float(meter.receive("UNIT:POW W;:FETC?")) == pytest.approx(-1e-6, rel=0.01)


def with_analyser():
    """An analyser in place of the sender of a line that ends in 100 Ω."""
    bench, _ = spoken("mismatch")
    hookup, parts = bench.setup.hookup, dict(bench.setup.parts)
    part = next(one for one in generic.generics() if one.kind is PartKind.ANALYSER)
    head, end = hookup.elements[0], next(item for item in hookup.elements if item.part == "stint")
    line = replace(
        hookup, elements=(replace(head, part=part.id), end),
        joints=(Joint((head.id, part.ports[0].id), (end.id, parts["stint"].ports[0].id)),),
        stated=PlaneRef(hookup.id, head.id, part.ports[0].id),
    )  # fmt: skip
    made = job_bench(line, {**parts, part.id: part}, 1)
    return made, next(item for item in stand_ins(made) if item.kind == "analyser").interpreter


def test_an_analyser_sweeps_and_its_marker_shows_a_known_end():
    """100 Ω on a line of 50: Γ 1/3, SWR 2 (any table), within what its bridge leaks."""
    _, made = with_analyser()
    made.receive("SENS:FREQ:STAR 2 MHZ;STOP 6 MHZ;:SENS:SWE:POIN 5")
    swept = np.array([float(one) for one in made.receive("SENS:FREQ:DATA?").decode().split(",")])
    shown = np.array([float(one) for one in made.receive("CALC:DATA?").decode().split(",")])
    gamma = shown[::2] + 1j * shown[1::2]

    assert np.allclose(swept, [2e6, 3e6, 4e6, 5e6, 6e6])
    assert np.allclose(np.abs(gamma), 1 / 3, atol=0.02)
    made.receive("CALC:MARK:X 3.5 MHZ")
    real, imag = (float(one) for one in made.receive("CALC:MARK:Y?").decode().split(","))
    assert abs(complex(real, imag)) == pytest.approx(1 / 3, abs=0.02)
    assert float(made.receive("CALC:FORM SWR;MARK:Y?")) == pytest.approx(2.0, abs=0.1)
    assert made.receive("CALC:FORM?;MARK:X?") == b"SWR;+3.50000E+06\n"
    assert made.receive("SENS:FREQ:STAR?;STOP?;:SENS:SWE:POIN?") == b"+2.00000E+06;+6.00000E+06;+5.00000E+00\n"
    for asked in ("SENS:SWE:POIN 1", "SENS:SWE:POIN 2002", "SENS:FREQ:STAR 9 KHZ", "CALC:MARK:X 1.1 GHZ"):
        made.receive(asked)
        assert b"-222" in made.receive("SYST:ERR?"), asked


def test_lines_of_a_meter_name_what_it_shows_with_their_digits():
    bench, by_id = spoken()
    bench.set(watts=120.0, on=True)
    bench.advance(5.0)

    assert re.fullmatch(r"F=1\d\d\.\d W R=\d\.\d\d W SWR=\d\.\d\d", by_id["wattmeter"].line())
    bench.set(watts=1900.0)
    bench.setup = replace(bench.setup, transmitter=replace(bench.setup.transmitter, top_w=math.inf))
    bench.advance(5.0)
    assert by_id["wattmeter"].line().startswith("F=---- W ")


def test_a_hurried_bench_sends_its_lines_as_often_in_its_own_time():
    """A line each fifth of a second of the bench: at fifty times the speed two dozen come within a tenth of one."""

    async def heard(hurry):
        serving = Serving(live_bench(scenario("live"), 1), hurry=hurry)
        found = next(item for item in await serving.start() if item.stand_in.speaks == "lines")
        reader, writer = await asyncio.open_connection("127.0.0.1", found.port)
        lines = [await asyncio.wait_for(reader.readline(), 5.0) for _ in range(24)]
        writer.close()
        await serving.stop()
        return lines

    lines = asyncio.run(heard(50.0))
    assert all(line.startswith(b"F=") and line.endswith(b"\r\n") for line in lines)
