"""The demonstration: the radio workshop of a pilot-boat and ferry service on an invented estuary.

All of it is invented. The readings come from simulated instruments whose truth is stated here, and are entered by the
commands that users run.
"""

from dataclasses import replace
from datetime import datetime, timedelta, timezone
from pathlib import Path

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.make import cross_check, plan_points
from fenmist.demo.hand import SECONDS_A_READING, capture_text, read_phase, take_capture, write_captures
from fenmist.kit import shelf
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import CalibrationRecord, Part
from fenmist.kit.scale import Scale
from fenmist.reading.event import Role, Slot
from fenmist.session.session import Session
from fenmist.simulation.bench import TrueBench, TrueLine

WORKSHOP = "Sallow Reach workshop"
FREQUENCIES_HZ = (2.182e6, 4.125e6, 6.215e6, 8.291e6, 12.29e6, 16.42e6)
LEVELS_W = (50.0, 100.0)
SEED = 20

LOAD_TABLE = (
    (2.0e6, "49.6+j1.2"), (4.125e6, "50.1+j2.1"), (6.215e6, "51.0+j2.9"),
    (8.291e6, "52.2+j3.2"), (12.29e6, "54.9+j2.4"), (16.5e6, "57.4-j1.9"),
)  # fmt: skip
"""As the workshop's analyser showed the load."""


def true_load_ohm(frequency_hz: float) -> complex:
    """What the load really is."""
    f = frequency_hz / 1e6
    return complex(49.4 + 0.03 * f**2, 0.55 * f - 0.041 * f**2) * (1.0 + 0.004)


def true_bittern_error_db(frequency_hz: float) -> float:
    """What the Bittern 200 really does: right in the middle of its span, low at the top."""
    f = frequency_hz / 1e6
    return 0.08 - 0.0047 * f**2


BENCH = TrueBench(
    load_ohm=true_load_ohm,
    meter_error_db=true_bittern_error_db,
    lead=TrueLine(50.0, 0.302, 0.66),
    capacitance_f=16.8e-12,
    scope_gain=0.9935,
    scope_bandwidth_hz=205e6,
    jumper=TrueLine(50.0, 0.5, 0.66, 0.022),
)
"""The truth of the demonstration's bench."""


def demo_kit() -> tuple[Part, ...]:
    """The workshop's equipment."""
    arc = Scale("outer", (0.0, 20.0, 40.0, 60.0, 100.0, 140.0, 200.0), (4, 8, 4, 8, 4, 6), 0.5)
    bittern = shelf.inline_meter("bittern", "Bittern 200", (20.0, 200.0), arc, 0.05, serial="B2-0417")
    teal = shelf.inline_meter(
        "teal",
        "Teal 20",
        (5.0, 20.0),
        Scale("arc", (0.0, 5.0, 10.0, 15.0, 20.0), (5, 5, 5, 5), 0.5),
        0.1,
        serial="T-88",
    )
    dunlin = shelf.inline_meter("dunlin", "Dunlin 60", (15.0, 60.0), _dunlin_arc(), 0.05, serial="D-2209")
    scope = shelf.oscilloscope("sedge", "Sedge 200", 200e6, accuracy=0.02, serial="S200-31")
    compared = CalibrationRecord("2026-03-12", "Estuary Standards Room", "2027-03-12", "ESR 26-118")
    load = shelf.dummy_load("reedmace", "Reedmace 150", 150.0, serial="R150-2")
    table = table_from_rows(list(LOAD_TABLE), 0.01, "workshop analyser", "2026-11-20")
    return (
        shelf.transmitter("plover", "Plover 150", 150.0, "P-1207"),
        bittern,
        teal,
        dunlin,
        shelf.jumper("jumper", "jumper 0.5 m", 0.02, 0.02),
        shelf.tee("tee", "tee"),
        shelf.lead("lead", "lead 0.3 m", 0.3),
        replace(scope, history=(compared,)),
        replace(load, characterisations=(table,)),
    )


def _dunlin_arc() -> Scale:
    return Scale("arc", (0.0, 10.0, 20.0, 30.0, 40.0, 50.0, 60.0), (5, 5, 5, 5, 5, 5), 0.5)


class _BenchClock:
    """Time in the demonstration: one entry follows the other."""

    def __init__(self) -> None:
        self._time = datetime(2026, 11, 23, 9, 4, tzinfo=timezone(timedelta(hours=1)))

    def __call__(self) -> datetime:
        self._time += timedelta(seconds=SECONDS_A_READING)
        return self._time


def make_demo(path: Path) -> None:
    """Write the demonstration's logbook to a new file, and captures to try beside it."""
    clock = _BenchClock()
    kit = {part.id: part for part in demo_kit()}
    session = Session(path, clock, tuple(kit.values()))
    random = np.random.default_rng(SEED)
    try:
        session.logbook.set_setting("demo", "yes")
        session.logbook.set_setting("workshop", WORKSHOP)
        _dunlin(session, kit, clock, random)
        session.logbook.add_job(_to_try(kit, clock))
        _bittern(session, kit, clock)
    finally:
        session.close()
    tried = replace(BENCH, meter_error_db=lambda _: 0.2)
    write_captures(
        path.parent / "captures to try",
        {
            "teal-2182kHz-10W.csv": lambda: capture_text(tried, 2.182e6, 10.0, random),
            "teal-2182kHz-10W-clipped.csv": lambda: clipped(capture_text(tried, 2.182e6, 10.0, random)),
        },
    )


def clipped(text: str) -> str:
    """A capture whose screen was too small: all beyond 24 V is cut off."""
    lines = [line.split(",") for line in text.splitlines()]
    rows = (f"{t},{min(max(float(v), -24.0), 24.0):g}" for t, v in lines[3:])
    return "\n".join([*(",".join(line) for line in lines[:3]), *rows]) + "\n"


def _bittern(session: Session, kit: dict[str, Part], clock: _BenchClock) -> None:
    """Read as found, with a slip that was struck, and a capture as the last reading."""
    chosen = [kit[name] for name in ("plover", "bittern", "jumper", "tee", "lead", "sedge", "reedmace")]
    plan = plan_points(FREQUENCIES_HZ, LEVELS_W, "200", repeats=3)
    made = cross_check("demo-bittern", "Bittern 200 of the pilot boat", chosen, plan, created_at=_stamp(clock))
    session.logbook.add_job(
        replace(
            made, demo=True, customer="Pilot boat Curlew", place=WORKSHOP, technician="workshop",
            conditions="21 °C, warmed up for 30 minutes",
        )
    )  # fmt: skip
    random = np.random.default_rng(SEED)
    job = session.open(made.id)
    read_phase(job, BENCH, random, slip_at=9)
    text = capture_text(BENCH, FREQUENCIES_HZ[-1], LEVELS_W[-1], random)
    take_capture(job, Slot(plan[-1].id, 3, 0), "bittern-16420kHz.csv", text)


def _dunlin(session: Session, kit: dict[str, Part], clock: _BenchClock, random: np.random.Generator) -> None:
    """A meter that read low, was adjusted, and read again: reference, meter, reference on a warming carrier."""
    chosen = [kit[name] for name in ("plover", "dunlin", "jumper", "tee", "lead", "sedge", "reedmace")]
    plan = plan_points((4.125e6, 8.291e6), (20.0, 50.0), "60")
    order = (Role.REFERENCE, Role.DUT, Role.REFERENCE)
    plan = tuple(replace(point, sequence=order) for point in plan)
    made = cross_check("demo-dunlin", "Dunlin 60 of the ferry, adjusted", chosen, plan, created_at=_stamp(clock))
    session.logbook.add_job(
        replace(made, demo=True, order=order, customer="Ferry Knot", place=WORKSHOP, technician="workshop")
    )
    job = session.open(made.id)
    read_phase(job, replace(BENCH, meter_error_db=lambda _: -0.75), random)
    job.begin_as_left()
    read_phase(job, replace(BENCH, meter_error_db=lambda _: 0.05), random)


def _to_try(kit: dict[str, Part], clock: _BenchClock) -> Job:
    chosen = [kit[name] for name in ("plover", "teal", "tee", "lead", "sedge", "reedmace")]
    plan = plan_points((2.182e6, 8.291e6), (10.0, 20.0), "20", repeats=2)
    job = cross_check("demo-teal", "Teal 20, to try", chosen, plan, created_at=_stamp(clock))
    return replace(job, demo=True, place=WORKSHOP, technician="workshop")


def _stamp(clock: _BenchClock) -> str:
    return clock().isoformat(timespec="seconds")
