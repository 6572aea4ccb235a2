"""Instruments over real wires: sockets on loopback, a pseudo-terminal; and everything that goes wrong there."""

import io
import os
import pty
import socket
import subprocess
import sys
import threading
import time
from contextlib import suppress
from dataclasses import replace
from datetime import datetime

import numpy as np
import pytest

from fenmist.errors import UnknownIdError
from fenmist.hookup.line import Element, HookUp, Joint
from fenmist.instruments.address import Address, address
from fenmist.instruments.driver import shipped
from fenmist.instruments.instrument import Instrument, Settled, WireReading, in_digits
from fenmist.instruments.trouble import State, Trouble
from fenmist.instruments.wire import SLICE_S, Speech, Wire, manager
from fenmist.instruments.wirelog import WireLog, shown
from fenmist.kit import generic
from fenmist.kit.part import PartKind
from fenmist.measurand import PlaneRef
from fenmist.session.captures import CaptureSource
from fenmist.simulation.scenarios import job_bench
from fenmist.simulation.serving import Mischief
from studies.served import Bench, served

AT = {"frequency_hz": 8.291e6, "level_w": 50.0, "level_dbm": 46.99}


@pytest.fixture(scope="module")
def live():
    with served() as made:
        yield made


@pytest.fixture
def quick(live):
    """An oscilloscope that is waited for a second, with nothing going wrong but what a test asks for."""
    driver = shipped()["scpi-oscilloscope"]
    driver = replace(driver, wire=replace(driver.wire, timeout_s=1.0))
    made = Instrument(address(live.address("oscilloscope")), driver)
    live.mischief.late_s = 1.3
    yield made
    live.mischief.rate = 0.0
    made.close()


def peer(answer):
    """A peer on loopback that does what `answer` does with each connection; its address."""
    server = socket.create_server(("127.0.0.1", 0))

    def serve():
        while True:
            try:
                connection, _ = server.accept()
            except OSError:
                return
            with connection:
                answer(connection)

    threading.Thread(target=serve, daemon=True).start()
    return server, address(f"127.0.0.1:{server.getsockname()[1]}")


def wire(at, **speech):
    return Wire(at, Speech(**{"timeout_s": 0.4, **speech}), WireLog())


# what goes right


def test_every_instrument_says_who_it_is_and_reads(live):
    at = live.key()
    time.sleep(0.1)
    for name, reads in {
        "oscilloscope": "rms",
        "wattmeter": "forward",
        "supply": "amperes",
        "transmitter": "level",
    }.items():
        made = live.instruments[name]
        assert isinstance(made.identify(), str)
        found = made.read(reads, at)
        assert isinstance(found, WireReading), found
        assert found.raw and found.address == made.at.resource
        assert found.text == f"{in_digits(found.value, found.digit)} {found.unit}"


def test_the_same_numbers_by_visa_itself_and_by_a_bare_socket(live):
    """The stand-in's noise is small: all three agree to a thousandth."""
    at, port = live.key(), live.address("oscilloscope")
    ours = live.instruments["oscilloscope"].read("rms", at).value
    resource = manager().open_resource(port, read_termination="\n", write_termination="\n")
    by_visa = float(resource.query("MEAS:VOLT:AC?"))
    resource.close()
    with socket.create_connection(("127.0.0.1", int(port.split("::")[2]))) as bare:
        bare.sendall(b"MEAS:VOLT:AC?\n")
        by_socket = float(bare.makefile().readline())

    assert (by_visa, by_socket) == (pytest.approx(ours, rel=1e-3), pytest.approx(ours, rel=1e-3))


def test_settling_waits_until_nothing_moves_and_averages(live):
    at = live.key()
    found = live.instruments["wattmeter"].settle("forward", at)

    assert isinstance(found, Settled)
    assert len(found.readings) == 5
    assert found.mean == pytest.approx(live.live.shown("wattmeter", "forward"), abs=0.5)
    assert 0.0028 < found.u < 0.2


def test_a_trace_comes_over_as_a_capture(live):
    live.key()
    scope = live.instruments["oscilloscope"]
    samples = scope.trace()
    _, found = CaptureSource("t.csv", samples.csv("Sedge, 200").encode()).reading("CH1", 8.291e6)

    assert samples.step_s == pytest.approx(1 / (64 * 8.291e6), rel=1e-4)
    assert found.reading.value == pytest.approx(scope.read("rms", AT).value, rel=2e-3)
    with pytest.raises(UnknownIdError):
        live.instruments["supply"].trace()


def test_an_analysers_sweep_comes_over_as_touchstone():
    """100 Ω at the end of the line behind the meter: |Γ| 1/3 all over."""
    import skrf  # imported on first use: it is slow

    source = next(part for part in generic.generics() if part.kind is PartKind.ANALYSER)
    end = next(part for part in generic.generics() if part.id == "generic-mismatch")
    hookup = HookUp(
        "h", "bare", (Element("a", source.id), Element("end", end.id)), (Joint(("a", "1"), ("end", "in")),),
        PlaneRef("h", "a", "1"),
    )  # fmt: skip
    made = Bench(job_bench(hookup, {source.id: source, end.id: end}, 1), Mischief(), counts=False)
    try:
        swept = made.instruments["a"].sweep(1e6, 30e6, 30)
    finally:
        made.close()
    ohm = end.properties["nominal_ohm"].value
    wanted = abs((ohm - 50.0) / (ohm + 50.0))
    network = skrf.Network()
    file = io.StringIO(swept.touchstone("analyser"))
    file.name = "swept.s1p"
    network.read_touchstone(file)

    assert np.abs(network.s[:, 0, 0]) == pytest.approx(wanted, abs=0.03)
    assert (network.f[0], network.f[-1], network.f.size) == (1e6, 30e6, 30)


def test_counts_become_volts_by_the_driver():
    with served("home-built") as made:
        at = made.key()
        time.sleep(0.5)
        found = made.instruments["meter"].read("forward", at)
        counts = int(found.raw.split()[0].removeprefix("F="))

        assert found.value == pytest.approx(counts * 5.0 / 4095, rel=1e-6)
        assert found.unit == "V"


def test_a_power_meter_is_told_the_frequency_once_and_asked_for_its_unit():
    with served("pad") as made:
        at = made.key()
        meter = made.instruments["meter"]
        first, second = meter.read("power", at), meter.read("power", at)
        told = [line.text for line in meter.log.lines if line.text.startswith("SENS:FREQ")]
        assert (first.unit, told) == ("dBm", ["SENS:FREQ 8291000 HZ"])
        assert second.value == pytest.approx(first.value, abs=0.05)
        meter.read("power", {**at, "frequency_hz": 4e6})
        assert sum(line.text.startswith("SENS:FREQ") for line in meter.log.lines) == 2
        assert meter.set("zero", at).state is State.REFUSED  # with the carrier on
        with pytest.raises(UnknownIdError, match="“level”"):
            meter.set("level", at)
        with pytest.raises(UnknownIdError, match="reads no"):
            meter.read("volts", at)


# a serial line


def test_a_serial_port_is_read_line_by_line():
    """By a pseudo-terminal: what a meter sends comes whole, with CR and LF, and the newest of it counts."""
    master, slave = pty.openpty()
    at = Address(f"ASRL{os.ttyname(slave)}::INSTR", "a serial port", 115200)
    meter = Instrument(at, shipped()["line-meter"])
    try:
        opened = threading.Timer(
            0.3, lambda: os.write(master, b"F=1.00 W R=0.00 W SWR=1.00\r\nF=2.50 W R=0.00 W SWR=1.10\r\n")
        )
        opened.start()
        found = meter.read("forward", {})
        assert isinstance(found, WireReading), found
        assert found.value in (1.0, 2.5)
        os.write(master, b"F=3.50 W R=0.00 W SWR=1.10\r\n")
        time.sleep(0.2)
        assert meter.read("forward", {}).value == 3.5
    finally:
        meter.close()
        os.close(master)
        os.close(slave)


def test_what_is_heard_from_the_middle_of_a_line_on_is_no_reading():
    """A meter that sends nothing but numbers: 8.2 of 48.2 would look like one."""

    def talk(connection):
        connection.sendall(b"8.2\r\n")
        with suppress(OSError):  # the other side has had enough
            while True:
                time.sleep(0.03)
                connection.sendall(b"48.2\r\n")

    server, at = peer(talk)
    made = wire(at)
    assert made.newest_line() == b"48.2"
    assert made.newest_line() == b"48.2"
    made.close()
    server.close()


def test_no_byte_of_a_serial_line_is_lost_wherever_it_falls_in_time():
    """Bytes that trickle: each at another moment of the slices in which is waited; a digit lost is a wrong reading."""
    master, slave = pty.openpty()
    meter = Wire(Address(f"ASRL{os.ttyname(slave)}::INSTR", "a serial port", 9600), Speech(timeout_s=2.0), WireLog())
    meter.tell("")

    def trickle():
        for number in range(12):
            for byte in f"{number:06d}\n".encode():
                time.sleep(SLICE_S * (0.97 + 0.01 * (number % 7)))
                os.write(master, bytes([byte]))

    thread = threading.Thread(target=trickle)
    thread.start()
    found = [meter._gathered(meter._line_in) for _ in range(12)]
    thread.join()
    meter.close()
    os.close(master)
    os.close(slave)

    assert found == [f"{number:06d}".encode() for number in range(12)]


def test_a_block_that_comes_in_pieces_is_read_whole():
    """Its head says five bytes: the first three of them are not all (IEEE 488.2, 8.7.9, from memory)."""
    master, slave = pty.openpty()
    meter = Wire(Address(f"ASRL{os.ttyname(slave)}::INSTR", "a serial port", 9600), Speech(timeout_s=20.0), WireLog())
    meter.tell("")  # it is open now
    threading.Timer(0.1, lambda: os.write(master, b"#15123")).start()
    threading.Timer(0.4, lambda: os.write(master, b"45\n")).start()
    found = meter.ask_block("?")
    meter.close()
    os.close(master)
    os.close(slave)

    assert found.startswith(b"#1512345")


@pytest.mark.parametrize(("frequencies", "parts", "fits"), [
    ("1e6,2e6,3e6", "0.1,0,0.2,0,0.3,0.1", True), ("1e6,3e6,2e6", "0.1,0,0.2,0,0.3,0.1", False),
    ("1e6,2e6,3e6", "0.1,0,0.2,0,0.3", False),
])  # fmt: skip
def test_a_sweep_rises_and_has_two_numbers_a_frequency(frequencies, parts, fits):
    driver = next(item for item in shipped().values() if item.sweep)
    replies = {driver.sweep.frequencies: frequencies, driver.sweep.ask: parts}

    def answer(connection):
        with connection.makefile("rw", newline="\n") as lines:
            for line in lines:
                if line.strip() in replies or "ERR" in line or "?" in line:
                    lines.write(replies.get(line.strip(), '0,"no error"') + "\n")
                    lines.flush()

    server, at = peer(answer)
    made = Instrument(at, driver)
    found = made.sweep(1e6, 3e6, 3)
    made.close()
    server.close()

    if fits:
        assert found.gamma.tolist() == [0.1, 0.2, 0.3 + 0.1j]
    else:
        assert found.state is State.GARBLED


def test_it_is_who_it_says_if_any_of_its_drivers_words_are_in_that(live):
    driver = shipped()["scpi-oscilloscope"]
    for words, fits in ((("nothing", *driver.identify.holds), True), (("nothing",), False)):
        made = Instrument(
            address(live.address("oscilloscope")), replace(driver, identify=replace(driver.identify, holds=words))
        )
        assert isinstance(made.identify(), str) is fits
        made.close()


def test_a_serial_port_that_is_pulled_out_is_a_state():
    master, slave = pty.openpty()
    meter = Wire(Address(f"ASRL{os.ttyname(slave)}::INSTR", "a serial port", 9600), Speech(timeout_s=2.0), WireLog())
    meter.tell("")  # it is open now
    threading.Timer(0.1, lambda: os.write(master, b"here\n")).start()
    assert meter.ask("?") == b"here"
    os.close(slave)
    os.close(master)

    assert [meter.ask("?").state in (State.NOT_THERE, State.HUNG_UP, State.SILENT) for _ in range(2)] == [True, True]


# what goes wrong


@pytest.mark.parametrize(
    ("kind", "state"),
    [
        ("silent", State.SILENT), ("late", State.SILENT), ("hang up", State.HUNG_UP), ("garbage", State.GARBLED),
        ("half", State.BROKEN_OFF), ("not ascii", State.GARBLED), ("overrange", State.OVERRANGE),
        ("empty", State.GARBLED),
    ],
)  # fmt: skip
def test_each_trouble_is_a_state_and_never_a_reading_and_the_next_one_is_right(live, quick, kind, state):
    at = live.key()
    right = quick.read("rms", at).value
    live.mischief.kinds, live.mischief.rate = (kind,), 1.0
    found = quick.read("rms", at)
    live.mischief.rate = 0.0
    if kind == "late":
        time.sleep(0.5)  # the late reply comes now; nobody must take it for an answer
    later = [quick.read("rms", at), quick.identify(), quick.read("peak-to-peak", at)]

    assert isinstance(found, Trouble)
    assert found.state is state, found
    assert found.what.endswith(".") and found.remedy
    assert later[0].value == pytest.approx(right, rel=1e-2)
    assert "OSCILLOSCOPE" in later[1]
    assert later[2].value == pytest.approx(right * 8**0.5, rel=2e-2)


@pytest.mark.parametrize("kind", ["silent", "hang up", "garbage", "half", "not ascii", "overrange", "empty"])
def test_a_block_that_goes_wrong_is_a_state_too(live, quick, kind):
    live.mischief.kinds, live.mischief.rate = (kind,), 1.0
    found = quick.trace()
    live.mischief.rate = 0.0

    assert isinstance(found, Trouble), kind
    assert quick.trace().volts.size == 1024


def test_nobody_there_is_said_at_once():
    """A port that nobody listens on opens all the same in the backend (house-style, traps)."""
    for at in (address("127.0.0.1:1"), address("/dev/ttyNONE@9600"), address("no-such-host.invalid:5025")):
        begun = time.monotonic()
        found = wire(at, timeout_s=30.0).ask("*IDN?")
        assert (found.state, time.monotonic() - begun < 15.0) == (State.NOT_THERE, True)


AT_ONCE = """
import sys, threading
from fenmist.instruments.address import address
from fenmist.instruments.wire import Speech, Wire
from fenmist.instruments.wirelog import WireLog
found = []
def ask():
    found.append(Wire(address(sys.argv[1]), Speech(), WireLog()).ask("*IDN?"))
threads = [threading.Thread(target=ask) for _ in range(8)]
for one in threads: one.start()
for one in threads: one.join()
print(sum(isinstance(one, bytes) for one in found))
"""


def test_many_wires_opened_at_once_all_open(live):
    """In a fresh process: the backend is imported by one for all."""
    at = live.address("oscilloscope")
    done = subprocess.run([sys.executable, "-c", AT_ONCE, at], capture_output=True, text=True, check=True)

    assert done.stdout == "8\n"


def test_a_peer_that_hangs_up_costs_no_core_and_no_time():
    server, at = peer(lambda connection: connection.recv(100))
    begun, used = time.monotonic(), time.process_time()
    found = wire(at, timeout_s=30.0).ask("*IDN?")
    server.close()

    assert found.state is State.HUNG_UP
    assert (time.monotonic() - begun < 15.0, time.process_time() - used < 0.5) == (True, True)


def test_a_reply_without_end_is_given_up():
    def flood(connection):
        connection.recv(100)
        try:
            while True:
                connection.sendall(b"9" * 65_536)
        except OSError:
            return

    server, at = peer(flood)
    found = wire(at, timeout_s=20.0).ask("*IDN?")
    server.close()

    assert found.state is State.GARBLED


def test_waiting_can_be_stopped_from_another_thread():
    server, at = peer(lambda connection: time.sleep(3.0))
    made = wire(at, timeout_s=30.0)
    threading.Timer(0.2, made.stop).start()
    begun = time.monotonic()
    found = made.ask("*IDN?")
    server.close()

    assert (found.state, time.monotonic() - begun < 15.0) == (State.STOPPED, True)


@pytest.mark.parametrize(("end", "ends"), [(b"\r\n", b"\n"), (b"\n", b"\n"), (b"\r", b"\r")])
def test_line_endings(end, ends):
    def answer(connection):
        while connection.recv(100):
            connection.sendall(b"42" + end)

    server, at = peer(answer)
    made = wire(at, end=ends)
    assert [made.ask("X?"), made.ask("X?")] == [b"42", b"42"]
    made.close()
    server.close()


def test_another_unit_is_no_reading():
    replies = {b"UNIT:POW?": b"DBUV", b"MEAS?": b"1.0", b"SYST:ERR?": b'0,"No error"'}

    def answer(connection):
        for line in connection.makefile("rb"):
            if b"?" in line:
                connection.sendall(replies[line.strip()] + b"\n")

    server, at = peer(answer)
    meter = Instrument(at, shipped()["scpi-power-meter"])
    found = meter.read("power", AT)
    replies[b"UNIT:POW?"] = b"dbm"
    assert (found.state, meter.read("power", AT).text) == (State.WRONG_UNIT, "1.0 dBm")
    replies[b"SYST:ERR?"] = b'-222,"Data out of range"'
    assert meter.read("power", {**AT, "frequency_hz": 1e3}).state is State.REFUSED
    meter.close()
    server.close()


def test_two_clients_at_once_each_get_their_own(live):
    at = live.key()
    second = Instrument(address(live.address("oscilloscope")), shipped()["scpi-oscilloscope"])
    found = []
    for _ in range(20):
        found += [live.instruments["oscilloscope"].read("rms", at).unit, second.read("peak-to-peak", at).unit]
    second.close()

    assert found == ["Vrms", "Vpp"] * 20


def test_who_is_another_kind_is_told(live):
    wrong = Instrument(address(live.address("supply")), shipped()["scpi-oscilloscope"])
    found = wrong.identify()
    wrong.close()

    assert found.state is State.GARBLED
    assert "no oscilloscope" in found.what


def test_the_log_tells_what_was_said_and_shows_what_cant_be_printed(live):
    live.instruments["supply"].identify()
    ways = [line.way for line in live.instruments["supply"].log.lines]

    assert {"→", "←", "·"} <= set(ways)
    assert "*IDN?" in str([str(line) for line in live.instruments["supply"].log.lines])
    assert shown(b"a\x00\xff\r\n") == "a<00><FF><0D><0A>"
    assert shown(b"x" * 300).endswith("… 300 bytes")


def test_a_connection_that_is_closed_is_forgotten_by_the_backend():
    """It keeps every session that ever was: two hours of trouble grew by 8 MB an hour (measured)."""
    with served() as made:
        scope, at = made.instruments["oscilloscope"], made.key()
        library = manager().visalib
        known = len(library.sessions), len(library._last_status_in_session)
        for _ in range(20):
            scope.close()
            assert scope.read("rms", at).value > 1.0

        assert len(library.sessions) <= known[0] + 1
        assert len(library._last_status_in_session) <= known[1] + 1


# sizes and times


class Recorder:
    """A backend that notes how it is asked, and opens nothing."""

    def __init__(self, made=None):
        self.asked, self.made = {}, made

    def open_resource(self, resource, **asked):
        self.asked = {"resource": resource, **asked}
        if self.made is None:
            raise OSError("nothing there")
        return self.made


def test_a_connection_is_waited_for_as_long_as_a_reply(monkeypatch):
    """VISA counts in milliseconds (VPP-4.3, from memory)."""
    backend = Recorder()
    monkeypatch.setattr("fenmist.instruments.wire.manager", lambda: backend)

    assert wire(address("/dev/ttyX1"), timeout_s=1.7).ask("?").state is State.NOT_THERE
    assert backend.asked == {"resource": "ASRL/dev/ttyX1::INSTR", "open_timeout": 1700}
    assert Speech().timeout_s == 2.0


def test_a_socket_waits_for_a_whole_reply_a_serial_port_for_a_slice_at_the_drivers_rate_or_its_own():
    server, at = peer(lambda connection: time.sleep(0.5))
    by_socket = wire(at, timeout_s=1.7)
    by_socket.tell("?")
    inner = by_socket._resource
    assert inner.timeout == 1700
    link = inner.visalib.sessions[inner.session].interface
    assert link.getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY) == 1
    by_socket.close()
    server.close()
    master, slave = pty.openpty()
    for own, rate in ((None, 19200), (38400, 38400)):
        serial = wire(Address(f"ASRL{os.ttyname(slave)}::INSTR", "a serial port", own), baud=19200)
        serial.tell("?")
        assert (serial._resource.timeout, serial._resource.baud_rate) == (50, rate)
        serial.close()
    os.close(master)
    os.close(slave)


def test_silence_is_told_after_its_time_and_with_it():
    server, at = peer(lambda connection: time.sleep(3.0))
    begun = time.monotonic()
    found = wire(at, timeout_s=0.7).ask("?")
    took = time.monotonic() - begun
    server.close()

    assert (found.state, found.what) == (State.SILENT, "No reply within 0.7 s.")
    assert took >= 0.7


def test_a_reply_of_four_million_bytes_is_read_and_no_longer_one():
    def answer(length):
        def each(connection):
            connection.recv(100)
            connection.sendall(b"9" * length + b"\n")
            time.sleep(0.3)

        return each

    for length, fits in ((3_900_000, True), (4_200_000, False)):
        server, at = peer(answer(length))
        found = wire(at, timeout_s=20.0).ask("?")
        server.close()
        assert (len(found) == length) if fits else (found.state is State.GARBLED)


def test_more_than_was_asked_for_is_no_answer_and_what_comes_unasked_is_thrown_away():
    """Two lines for one question: neither is taken; a line between questions: asked anew over a fresh connection."""
    seen = []

    def answer(connection):
        seen.append(connection)
        asked = connection.recv(100)
        connection.sendall(b"1\n2\n" if asked == b"BOTH?\n" else b"7\n")
        with suppress(OSError):  # the other side has hung up
            time.sleep(0.1)
            connection.sendall(b"unasked\n")
            connection.recv(100)

    server, at = peer(answer)
    made = wire(at, timeout_s=5.0)
    assert made.ask("BOTH?").what == "More came than was asked for."
    assert made.ask("X?") == b"7"
    for _ in range(200):
        if made._waiting(made._resource):
            break
        time.sleep(0.02)
    assert made.ask("X?") == b"7"
    assert len(seen) == 3
    assert any("unasked" in line.text for line in made.log.lines)
    made.close()
    server.close()


def test_a_log_keeps_its_newest_four_hundred_lines_and_two_hundred_signs_of_each():
    log = WireLog(lambda: datetime(2026, 11, 29, 7, 8, 9, 12_345))
    for number in range(401):
        log.note("→", f"{number}")

    assert (len(log.lines), log.lines[0].text, log.lines[-1].text) == (400, "1", "400")
    assert str(log.lines[0]) == "07:08:09.012 → 1"
    assert shown("x" * 200) == "x" * 200
    assert shown("x" * 201) == "x" * 200 + "… 201 bytes"
    assert shown(b" ~\x7f\x1f") == " ~<7F><1F>"


def scripted(replies, seen=None):
    """A peer that answers each question by a table, and its address; each new connection is noted."""

    def answer(connection):
        if seen is not None:
            seen.append(connection)
        for line in connection.makefile("rb"):
            if b"?" in line:
                connection.sendall(replies.get(line.strip().decode(), '0,"No error"').encode() + b"\n")

    return peer(answer)


@pytest.mark.parametrize(("count", "step", "fits"), [(16, "2E-9", True), (15, "2E-9", False), (16, "0", False)])
def test_a_trace_has_sixteen_samples_and_a_step_at_least(count, step, fits):
    driver = shipped()["scpi-oscilloscope"]
    driver = replace(
        driver, trace=replace(driver.trace, form="ascii", ask="T?", preamble="P?", step="{value}", volts=0.5)
    )
    server, at = scripted({"T?": ",".join((["1", "-1"] * 8)[:count]), "P?": step})
    made = Instrument(at, driver)
    found = made.trace()
    made.close()
    server.close()

    if fits:
        assert (found.volts.tolist(), found.step_s) == ([0.5, -0.5] * 8, 2e-9)
    else:
        assert found.state is State.GARBLED
        assert found.what.startswith(f"It gave {count} samples")


def test_after_a_reply_that_wasnt_understood_it_is_asked_over_a_fresh_connection():
    """What else is on its way belongs to no question; over its range an instrument has answered what it was asked."""
    driver = shipped()["scpi-oscilloscope"]
    ask = driver.read["rms"].ask
    for reply, connections in (("nonsense", 2), ("1 2", 2), ("+9.91E+37", 2), ("+9.9E+37", 1)):
        seen, replies = [], {ask: reply}
        server, at = scripted(replies, seen)
        made = Instrument(at, driver)
        assert made.read("rms", AT).state in (State.GARBLED, State.OVERRANGE)
        replies[ask] = "+1.5E+00"
        assert made.read("rms", AT).value == 1.5
        made.close()
        server.close()
        assert len(seen) == connections, reply
