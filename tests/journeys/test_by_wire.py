"""Instruments on wires, from the first page of an empty logbook to results, by keyboard alone."""

import json
import select
import subprocess
import sys
import threading
import time
from contextlib import contextmanager

import pytest

from fenmist.reading.event import TYPED, WIRE
from fenmist.records.jobfile import job_to_bytes
from studies.served import free_ports, served_job


def attach(hands, address, part):
    """Type an address, say which part it is, and press Enter."""
    place = hands.shell.places["instruments"]
    place.address.setFocus()
    hands.type(address)
    hands.tab_to("which part of the kit it is")
    hands.pick(place.part, part)
    hands.tab_to("attach the instrument at this address")
    count = len(hands.session.wires.attached)
    hands.press("enter")
    hands.until(lambda: len(hands.session.wires.attached) > count)


@pytest.fixture
def wired(hands):
    """A planned job on the oscilloscope's bench, served, the instruments page in front."""
    hands.type("Heron Quay")
    hands.tab_to("Start a job")
    hands.press("enter")
    hands.choose_bench(planned="4 8 MHz")
    bench = hands.shell.bench
    hands.press("ctrl+5")
    with served_job(bench.job.job) as made:
        made.place = hands.shell.places["instruments"]
        yield made


def headline(hands):
    return hands.shell.places["instruments"].headline.text()


def standing(hands):
    return {slot: event.entry for slot, event in hands.shell.bench.job.view.standing.items()}


def run_ended(hands):
    return hands.session.wires.run is None


def test_from_an_address_to_results_with_a_dial_read_by_eye(hands, wired):
    assert headline(hands) == "No instrument is on a wire. Type an address, or start a simulated bench."
    attach(hands, wired.address("oscilloscope").removeprefix("TCPIP::").replace("::SOCKET", "").replace("::", ":"),
           "generic oscilloscope")  # fmt: skip
    hands.until(lambda: "1 instrument answers, 1 of them on this job's bench" in headline(hands))
    attach(hands, wired.address("transmitter"), "generic transmitter")
    hands.until(lambda: headline(hands).startswith("All 2 instruments answer, 2 of them"))
    assert wired.place.table.texts(0)[:3:2] == ["generic oscilloscope", "oscilloscope, SCPI"]
    hands.until(lambda: "SOUR:POW?" in wired.place.log.toPlainText())

    hands.press("ctrl+1", "alt+5")
    step = hands.shell.bench.step
    assert "R reads" in step.rows[0].beside.text()
    hands.press("r")  # the channel in hand
    hands.until(lambda: len(standing(hands)) == 1 and run_ended(hands))
    assert not wired.live.keyed.on
    (entry,) = standing(hands).values()
    tip = step.rows[0].beside.toolTip()
    assert tip.startswith(f"read over the wire, {entry.address}: {entry.replies[0].strip()}, ")
    assert (entry.origin, len(entry.replies), entry.address) == (WIRE, 5, wired.address("oscilloscope"))

    hands.press("ctrl+r")
    view = hands.shell.bench.job.view
    dials = [slot for slot in view.order if slot.position == 1]
    for slot in dials:
        hands.until(lambda s=slot: "Read generic wattmeter" in step.wire.text() and step.run.slot == s)
        assert wired.live.keyed.on
        hands.read(f"{hands.shell.bench.job.job.point(slot.point).target_w:.0f}")
    hands.until(lambda: run_ended(hands))
    assert not wired.live.keyed.on
    assert step.wire.text() == f"{len(view.order) - 1} readings by the run."
    origins = [entry.origin for entry in standing(hands).values()]
    assert (origins.count(WIRE), origins.count(TYPED)) == (len(dials), len(dials))
    assert len(hands.shell.bench.job.view.result.stated) == len(view.job.plan)

    hands.press("ctrl+z")  # the last entry is taken back, and stays on record
    assert len(standing(hands)) == len(view.order) - 1


def test_a_trace_comes_by_one_key_and_is_kept_as_a_capture(hands, wired):
    attach(hands, wired.address("oscilloscope"), "generic oscilloscope")
    wired.live.set(watts=100.0, frequency_hz=hands.shell.bench.job.job.plan[0].frequency_hz, on=True)
    hands.press("ctrl+1", "alt+5", "t")
    hands.until(lambda: len(standing(hands)) == 1)
    (entry,) = standing(hands).values()
    assert entry.attached_name.startswith("generic oscilloscope")
    assert entry.reading.form == "fit"
    assert entry.reading.value == pytest.approx(wired.live.shown("oscilloscope", "trace"), rel=0.02)
    hands.press("t")  # the meter gives none
    assert "No trace" in hands.shell.trouble.text() or "on a wire" in hands.shell.trouble.text()


@contextmanager
def process(file, first_port):
    """`fenmist bench` of a job's file at ports that are known; the process, and addresses by stand-in."""
    command = [sys.executable, "-m", "fenmist", "bench", "--job", str(file), "--first-port", str(first_port), "--json"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as made:
        try:
            line = made.stdout.readline()
            if not line:  # its error is on the terminal's
                pytest.fail("the bench couldn't start")
            yield made, {item["id"]: item["address"] for item in json.loads(line)["instruments"]}
        finally:
            made.kill()


def test_a_bench_killed_in_mid_point_is_waited_for_and_nothing_kept_is_lost(hands, tmp_path):
    hands.type("Heron Quay")
    hands.tab_to("Start a job")
    hands.press("enter")
    hands.choose_bench(planned="4 8 MHz")
    file = tmp_path / "bench.fenjob.json"
    file.write_bytes(job_to_bytes(hands.shell.bench.job.job, lambda _: b""))
    ports = free_ports()
    wires = hands.session.wires
    with process(file, ports) as (bench, addresses):
        hands.press("ctrl+5")
        attach(hands, addresses["oscilloscope"], "generic oscilloscope")
        attach(hands, addresses["transmitter"], "generic transmitter")
        hands.press("ctrl+1", "alt+5", "r")
        hands.until(lambda: len(standing(hands)) == 1 and run_ended(hands))
        kept = standing(hands)

        def kill_it():
            """With the carrier on: this is told just before the instrument is asked."""
            if wires.said.startswith("reading"):
                bench.kill()
                bench.wait()

        end = wires.changed.listen(kill_it)
        hands.press("pgdn", "ctrl+r")
        step = hands.shell.bench.step
        hands.until(lambda: any(word in step.wire.text() for word in ("hung up", "Nobody answers")))
        end()
        assert "Ctrl+R: stop" in step.wire.text()
        assert kept.items() <= standing(hands).items()
    with process(file, ports):
        hands.until(lambda: "Read generic wattmeter" in step.wire.text(), 40.0)
        hands.press("ctrl+r")  # stop: the carrier first
        hands.until(lambda: run_ended(hands))
        assert step.wire.text() == "Stopped."
        assert len(standing(hands)) == 2
        source = wires.of_part("generic-transmitter")
        hands.until(lambda: "OUTP OFF" in "".join(wires.log(source.id)[-4:]))


def test_the_window_answers_while_wires_are_silent(hands, wired, monkeypatch):
    """Each wire is waited for in its worker, never where keys are answered."""
    waited, really = set(), select.select

    def noted(*given):
        waited.add(threading.current_thread())
        return really(*given)

    monkeypatch.setattr(select, "select", noted)
    wired.mischief.kinds, wired.mischief.rate = ("silent", "hang up", "garbage", "half"), 0.5
    attach_name = wired.address("oscilloscope")
    hands.session.wires.add(attach_name, "scpi-oscilloscope", "generic-scope")
    hands.session.wires.add(wired.address("transmitter"), "scpi-generator", "generic-transmitter")
    end = time.monotonic() + 4.0
    while time.monotonic() < end:
        hands.application.processEvents()
        time.sleep(0.005)
    wired.mischief.rate = 0.0

    assert len(waited) == 2
    assert threading.main_thread() not in waited
    assert any("▲" in wired.place.table.texts(row)[1] or "live" in wired.place.table.texts(row)[1] for row in (0, 1))
