"""The demonstration: the radio workshop of a pilot-boat and ferry service on an invented estuary.

All of it is invented. The readings come from simulated instruments whose truth is stated here, and are entered by the
commands that users run.
"""

from collections.abc import Iterator
from dataclasses import replace
from datetime import datetime, timedelta, timezone
from pathlib import Path

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.make import LINE, cross_check, plan_points
from fenmist.kit import shelf
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import CalibrationRecord, Part
from fenmist.kit.scale import Scale
from fenmist.reading.event import Role, Slot
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.simulation.bench import TrueBench, TrueLine, observe
from fenmist.simulation.reader import read_needle, read_screen

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
    scope = shelf.oscilloscope("sedge", "Sedge 200", 200e6, accuracy=0.02, serial="S200-31")
    compared = CalibrationRecord("2026-03-12", "Estuary Standards Room", "2027-03-12", "ESR 26-118")
    load = shelf.dummy_load("reedmace", "Reedmace 150", 150.0, serial="R150-2")
    table = table_from_rows(list(LOAD_TABLE), 0.01, "workshop analyser", "2026-11-20")
    return (
        shelf.transmitter("plover", "Plover 150", 150.0, "P-1207"),
        bittern,
        teal,
        shelf.jumper("jumper", "jumper 0.5 m", 0.02, 0.02),
        shelf.tee("tee", "tee"),
        shelf.lead("lead", "lead 0.3 m", 0.3),
        replace(scope, history=(compared,)),
        replace(load, characterisations=(table,)),
    )


class _BenchClock:
    """Time in the demonstration: 20 s between one entry and the next."""

    def __init__(self) -> None:
        self._time = datetime(2026, 11, 23, 9, 4, tzinfo=timezone(timedelta(hours=1)))

    def __call__(self) -> datetime:
        self._time += timedelta(seconds=20)
        return self._time


def make_demo(path: Path) -> None:
    """Write the demonstration's logbook to a new file."""
    clock = _BenchClock()
    kit = {part.id: part for part in demo_kit()}
    session = Session(path, clock, tuple(kit.values()))
    try:
        session.logbook.set_setting("demo", "yes")
        session.logbook.set_setting("workshop", WORKSHOP)
        session.logbook.add_job(_to_try(kit, clock))
        job = _bittern_job(kit, clock)
        session.logbook.add_job(job)
        read_job(session.open(job.id), BENCH, np.random.default_rng(SEED))
    finally:
        session.close()


def _bittern_job(kit: dict[str, Part], clock: _BenchClock) -> Job:
    chosen = [kit[name] for name in ("plover", "bittern", "jumper", "tee", "lead", "sedge", "reedmace")]
    plan = plan_points(FREQUENCIES_HZ, LEVELS_W, "200", repeats=3)
    job = cross_check("demo-bittern", "Bittern 200 of the pilot boat", chosen, plan, created_at=_stamp(clock))
    return replace(
        job, demo=True, customer="Pilot boat Curlew", place=WORKSHOP, technician="workshop",
        conditions="21 °C, warmed up for 30 minutes",
    )  # fmt: skip


def _to_try(kit: dict[str, Part], clock: _BenchClock) -> Job:
    chosen = [kit[name] for name in ("plover", "teal", "tee", "lead", "sedge", "reedmace")]
    plan = plan_points((2.182e6, 8.291e6), (10.0, 20.0), "20", repeats=2)
    job = cross_check("demo-teal", "Teal 20, to try", chosen, plan, created_at=_stamp(clock))
    return replace(job, demo=True, place=WORKSHOP, technician="workshop")


def _stamp(clock: _BenchClock) -> str:
    return clock().isoformat(timespec="seconds")


def read_job(job: OpenJob, bench: TrueBench, random: np.random.Generator) -> None:
    """Read a whole plan on a simulated bench, with one slip on the way that is noticed and struck."""
    for number, (slot, role, text) in enumerate(simulated_texts(job.job, bench, random)):
        if number == 9:
            job.enter(slot, role, text.replace(".", "") + "0")
            job.strike(slot, "misread")
        job.enter(slot, role, text)


def simulated_texts(job: Job, bench: TrueBench, random: np.random.Generator) -> Iterator[tuple[Slot, Role, str]]:
    """What a technician would type for each slot of the plan, in reading order."""
    for point in job.plan:
        if point.hookup != LINE:
            continue
        for number in range(1, point.repeats + 1):
            level = point.target_w * (1.0 + 0.006 * random.standard_normal())
            shown = observe(bench, point.frequency_hz, level)
            for position, role in enumerate(point.sequence):
                slot = Slot(point.id, number, position)
                yield slot, role, _text(job, point.id, role, shown.volts_peak_to_peak, shown.meter_w, random)


def _text(job: Job, point_id: str, role: Role, volts_pp: float, meter_w: float, random: np.random.Generator) -> str:
    if role is Role.REFERENCE:
        return read_screen(volts_pp, 4, 0.001, random)
    used = job.range_of(job.point(point_id), Role.DUT)
    if used is None or used.scale is None:
        return read_screen(meter_w, 3, 0.0, random)
    division = used.scale.division_at(meter_w / used.factor) * used.factor
    return f"{read_needle(meter_w, division, job.part_of_division, random):g}"
