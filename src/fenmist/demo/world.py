"""The demonstration: the radio workshop of a pilot-boat and ferry service on an invented estuary.

All of it is invented. The readings come from simulated instruments whose truth is stated here, and are entered by the
commands that users run.
"""

import shutil
import time
from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import datetime, timedelta, timezone
from pathlib import Path
from tempfile import TemporaryDirectory
from types import MappingProxyType

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.receipt import FINE, LOOK_OVER, NOT_FINE, NOT_THERE, Look, Receipt
from fenmist.demo.benches import add_benches, more_kit
from fenmist.demo.buttons import add_buttons, gadwall
from fenmist.demo.designs import MOORHEN_FILE, MOORHEN_NAME, add_design
from fenmist.demo.hand import SECONDS_A_READING, capture_text, read_phase, take_capture, write_captures
from fenmist.demo.suspects import add_triage
from fenmist.demo.wired import add_wired
from fenmist.hookup.templates import TEMPLATES, from_template
from fenmist.kit import generic, shelf
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import CalibrationRecord, Part
from fenmist.kit.scale import Scale
from fenmist.kit.touchstone import characterisations_from, touchstone_from_bytes
from fenmist.procedures.benchwork import with_new_hookup
from fenmist.procedures.comparison.make import METER, SCOPE, cross_check, plan_points
from fenmist.reading.event import Slot
from fenmist.rf.circuit import Branch, BranchKind, solve_circuit
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
    """The workshop's equipment, some of it due and some overdue."""
    arc = Scale("outer", (0.0, 20.0, 40.0, 60.0, 100.0, 140.0, 200.0), (4, 8, 4, 8, 4, 6), 0.5)
    bittern = shelf.inline_meter("bittern", "Bittern 200", (20.0, 200.0), arc, 0.05, serial="B2-0417", span_hz=HF_HZ)
    teal = shelf.inline_meter(
        "teal",
        "Teal 20",
        (5.0, 20.0),
        Scale("arc", (0.0, 5.0, 10.0, 15.0, 20.0), (5, 5, 5, 5), 0.5),
        0.1,
        serial="T-88",
    )
    dunlin = shelf.inline_meter("dunlin", "Dunlin 60", (15.0, 60.0), _dunlin_arc(), 0.05, serial="D-2209")
    godwit = shelf.inline_meter("godwit", "Godwit 200", (20.0, 200.0), arc, 0.05, serial="G-031", span_hz=HF_HZ)
    scope = shelf.oscilloscope("sedge", "Sedge 200", 200e6, accuracy=0.02, serial="S200-31")
    old = shelf.oscilloscope("avocet", "Avocet 60", 60e6, accuracy=0.03, serial="A60-7")
    load = shelf.dummy_load("reedmace", "Reedmace 150", 150.0, minutes=10.0, cooling_minutes=12.0, serial="R150-2")
    small = shelf.dummy_load("rush", "Rush 30", 30.0, serial="R30-11")
    table = table_from_rows(list(LOAD_TABLE), 0.01, "workshop analyser", "2026-11-20")
    return (
        shelf.transmitter("plover", "Plover 150", 150.0, "P-1207"),
        replace(bittern, history=_compared("2024-11-12", "2026-11-12", "workshop", "24-017")),
        teal,
        replace(dunlin, history=_compared("2025-12-02", "2026-12-02", "workshop", "25-041")),
        godwit,
        shelf.jumper("jumper", "jumper 0.5 m", 0.02, 0.02),
        shelf.tee("tee", "tee"),
        shelf.lead("lead", "lead 0.3 m", 0.3),
        replace(scope, history=(
            *_compared("2024-03-04", "2025-03-04", "Estuary Standards Room", "ESR 24-092"),
            *_compared("2026-03-12", "2027-03-12", "Estuary Standards Room", "ESR 26-118"),
        )),
        replace(old, history=_compared("2025-06-30", "2026-06-30", "Estuary Standards Room", "ESR 25-201")),
        replace(load, characterisations=(table,), history=_compared("2026-01-09", "2027-01-09", "workshop", "")),
        small,
        *tap_bench(),
        *more_kit(),
        gadwall(),
    )  # fmt: skip


def tap_bench() -> tuple[Part, ...]:
    """What a tap with its sensor needs: the tap as the workshop built and measured it, steps, sensor, pad, cable."""
    tap = generic.resistive_tap(
        "curlew",
        "Curlew tap 40 dB",
        2460.0,
        50.0,
        power_w=200.0,
        pieces=("3 × 820 Ω in series", "2 × 100 Ω in parallel"),
    )
    measured = tuple(
        replace(item, measured=value, u_measured=0.001 * value)
        for item, value in zip(tap.components, (2471.0, 49.9), strict=True)
    )
    tables = characterisations_from(touchstone_from_bytes(TAP_FILE, TAP_NAME), TAP_NAME, "2026-10-14", 0.005)
    return (
        replace(tap, serial="home-built", components=measured, characterisations=tables),
        generic.attenuator("sallow", "Sallow steps", 10.0, 0.2, 1.0, positions=(10.0, 0.0, 20.0, 30.0)),
        replace(
            generic.power_meter("snipe", "Snipe +10 dBm", damage_w=0.01, noise_w=1e-9, top_w=0.01),
            serial="SN-310", history=_compared("2026-05-05", "2027-05-05", "Estuary Standards Room", "ESR 26-177"),
        ),
        generic.attenuator("bulrush", "Bulrush 30 dB", 30.0, 0.3, 100.0, far_power_w=5.0, span_hz=(10e3, 500e6)),
        generic.cable("cable", "cable 2 m", "50 Ω, 5 mm, solid polyethylene", 2.0),
    )  # fmt: skip


TAP_NAME = "curlew-tap.s3p"


def _tap_file() -> bytes:
    """The tap as a network analyser saw it: its resistors with the strays of the stack, ports in, out, side."""
    pieces = (
        Branch("R1", BranchKind.RESISTOR, ("in", "x"), 2468.0), Branch("L1", BranchKind.INDUCTOR, ("x", "side"), 12e-9),
        Branch("C1", BranchKind.CAPACITOR, ("in", "side"), 0.08e-12),
        Branch("C2", BranchKind.CAPACITOR, ("side", "0"), 1.4e-12),
        Branch("R2", BranchKind.RESISTOR, ("side", "0"), 49.95),
    )  # fmt: skip
    frequencies = np.array([1.0, 2.0, 5.0, 10.0, 20.0, 30.0, 50.0, 100.0, 150.0, 200.0]) * 1e6
    s = solve_circuit(pieces, ("in", "in", "side"), frequencies).scattering
    lines = ["! Curlew tap 40 dB, invented, measured 2026-10-14", "# MHz S RI R 50"]
    for f, matrix in zip(frequencies, s, strict=True):
        for row in range(3):
            values = "  ".join(f"{matrix[row, column].real:.6f} {matrix[row, column].imag:.6f}" for column in range(3))
            lines.append(f"{f / 1e6:g}  {values}" if row == 0 else f"      {values}")
    return ("\n".join(lines) + "\n").encode()


TAP_FILE = _tap_file()
"""A characterisation to open, as the analyser wrote it."""


def _compared(on: str, due: str, by: str, number: str) -> tuple[CalibrationRecord, ...]:
    return (CalibrationRecord(on, by, due, number),)


HF_HZ = (1.8e6, 30e6)


def _dunlin_arc() -> Scale:
    return Scale("arc", (0.0, 10.0, 20.0, 30.0, 40.0, 50.0, 60.0), (5, 5, 5, 5, 5, 5), 0.5)


REST_S = 240.0
"""How long the demonstration's load rests after each round."""


class _BenchClock:
    """Time in the demonstration: one entry follows the other."""

    def __init__(self) -> None:
        self.begin(2026, 11, 23)

    def begin(self, year: int, month: int, day: int) -> None:
        """Another day's work begins."""
        self._time = datetime(year, month, day, 9, 4, tzinfo=timezone(timedelta(hours=1)))

    def rest(self) -> None:
        """The load cools."""
        self._time += timedelta(seconds=REST_S)

    def __call__(self) -> datetime:
        self._time += timedelta(seconds=SECONDS_A_READING)
        return self._time


def make_demo(path: Path) -> None:
    """Write the demonstration's logbook to a new file, and captures to try beside it.

    It is made in a folder of its own and takes its name when it is whole: killed on the way, it is made anew.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    for left in path.parent.glob(f"{_MAKING}*"):
        if time.time() - left.stat().st_mtime > _LEFT_OVER_S:
            shutil.rmtree(left, ignore_errors=True)
    with TemporaryDirectory(prefix=_MAKING, dir=path.parent) as folder:
        made = Path(folder) / path.name
        _fill(made)
        made.replace(path)
    tried = replace(BENCH, meter_error_db=lambda _: 0.2)
    random = np.random.default_rng(SEED)
    write_captures(
        path.parent / "captures to try",
        {
            TAP_NAME: TAP_FILE.decode,
            MOORHEN_NAME: MOORHEN_FILE.decode,
            "teal-2182kHz-10W.csv": lambda: capture_text(tried, 2.182e6, 10.0, random),
            "teal-2182kHz-10W-clipped.csv": lambda: clipped(capture_text(tried, 2.182e6, 10.0, random)),
        },
    )


_MAKING, _LEFT_OVER_S = ".fenmist-demo-", 600.0
"""Beginning of the folder in which it is made, and the age from which one is left over from a kill."""


def _fill(path: Path) -> None:
    """All jobs of the demonstration."""
    clock = _BenchClock()
    kit = {part.id: part for part in demo_kit()}
    session = Session(path, clock, tuple(kit.values()), path.parent)
    random = np.random.default_rng(SEED)
    try:
        session.logbook.set_setting("demo", "yes")
        session.set_setting("workshop", WORKSHOP)
        session.set_setting("technician", "workshop")
        for year, drift in ((2022, 0.4), (2024, 0.7)):
            _earlier_bittern(session, kit, clock, year, drift)
        clock.begin(2026, 10, 20)
        add_design(session, kit, _of_workshop)
        clock.begin(2026, 11, 20)
        _dunlin(session, kit, clock, random)
        _sandpiper(session, kit, clock, random)
        clock.begin(2026, 11, 23)
        session.logbook.add_job(_to_try(kit, clock))
        add_wired(session, kit, _of_workshop)
        _godwit(session, kit, clock, random)
        add_benches(session, kit, lambda: _stamp(clock), _of_workshop)
        add_buttons(session, kit, lambda: _stamp(clock), _of_workshop)
        add_triage(session, kit, _of_workshop)
        _bittern(session, kit, clock)
        session.open_job = None
        session.summaries()
    finally:
        session.close()


def _looked_over(received_on: str, condition: str, faults: Mapping[str, str] = MappingProxyType({})) -> Receipt:
    """A receipt with everything looked at; `faults` are what wasn't fine, by item."""
    looks = {item: Look(NOT_FINE, faults[item]) if item in faults else Look(FINE) for item in LOOK_OVER}
    looks["supply"] = Look(NOT_THERE)
    return Receipt(
        received_on=received_on, ports="left faces the transmitter", switches="average, range by hand",
        condition=condition, looks=looks,
    )  # fmt: skip


def _earlier_bittern(
    session: Session, kit: dict[str, Part], clock: _BenchClock, year: int, part_of_drift: float
) -> None:
    """The same meter years ago, when less of its fall at the top had come."""
    clock.begin(year, 11, 12)
    chosen = [kit[name] for name in ("plover", "bittern", "jumper", "tee", "lead", "sedge", "reedmace")]
    plan = plan_points(FREQUENCIES_HZ[::2] + FREQUENCIES_HZ[-1:], LEVELS_W[1:], "200", repeats=2)
    made = cross_check(f"demo-bittern-{year}", "Bittern 200 of the pilot boat", chosen, plan, created_at=_stamp(clock))
    received = _looked_over(f"{year}-11-10", "works")
    session.logbook.add_job(
        replace(made, demo=True, customer="Pilot boat Curlew", place=WORKSHOP, technician="workshop", receipt=received)
    )
    then = replace(BENCH, meter_error_db=lambda f: part_of_drift * true_bittern_error_db(f))
    read_phase(session.open(made.id), then, np.random.default_rng(year), clock.rest)


def _sandpiper(session: Session, kit: dict[str, Part], clock: _BenchClock, random: np.random.Generator) -> None:
    """A trap: rms volts typed as they stand, a slipped point, and figures read on the other range's arc."""
    arc = Scale("two lines", (0.0, 10.0, 20.0, 30.0, 50.0), (5, 5, 5, 4), 0.5)
    meter = shelf.inline_meter("sandpiper", "Sandpiper 100", (50.0, 100.0), arc, 0.1, serial="SP-5")
    chosen = [kit[name] for name in ("plover", "jumper", "tee", "lead", "sedge", "reedmace")]
    plan = plan_points((4.125e6, 6.215e6, 8.291e6, 12.29e6), (40.0,), "50", repeats=2)
    made = cross_check(
        "demo-sandpiper", "Sandpiper 100: can this be?", [*chosen, meter], plan, created_at=_stamp(clock)
    )
    received = _looked_over("2026-11-19", "glass scratched", {"switches": "the range knob slips on its shaft"})
    session.logbook.add_job(
        replace(made, demo=True, customer="Ferry Knot", place=WORKSHOP, technician="workshop", receipt=received)
    )
    job = session.open(made.id)
    read_phase(job, replace(BENCH, meter_error_db=lambda _: 0.1), random, clock.rest)
    slots = job.view.standing

    def again(point: str, position: int, change: Callable[[float], str]) -> None:
        slot = Slot(point, 2, position)
        entry = slots[slot].entry
        if entry is not None:
            job.enter(slot, change(float(entry.raw_text)))

    again("p1", 0, lambda volts: f"{volts / 8.0**0.5:.1f}")
    again("p2", 1, lambda watts: f"{watts / 10.0:.2f}")
    again("p3", 1, lambda watts: f"{2.0 * watts:g}")


def _godwit(session: Session, kit: dict[str, Part], clock: _BenchClock, random: np.random.Generator) -> None:
    """Half read: two points left out, a round skipped, an entry doubted, and the next one still to come."""
    chosen = [kit[name] for name in ("plover", "godwit", "jumper", "tee", "lead", "sedge", "reedmace")]
    plan = plan_points((2.182e6, 8.291e6, 16.42e6, 27.5e6), (20.0, 100.0), "200", repeats=2)
    away = "no permission to key there today"
    plan = tuple(replace(point, blocked=away) if point.frequency_hz > 20e6 else point for point in plan)
    made = cross_check("demo-godwit", "Godwit 200, begun", chosen, plan, created_at=_stamp(clock))
    received = _looked_over("2026-11-21", "as new")
    session.logbook.add_job(
        replace(made, demo=True, customer="Lock-keeper", place=WORKSHOP, technician="workshop", receipt=received)
    )
    job = session.open(made.id)
    read_phase(job, replace(BENCH, meter_error_db=lambda _: -0.1), random, clock.rest, points=3)
    job.doubt(Slot("p2", 1, 1), "needle was still moving")
    job.skip(Slot("p4", 2, 0), "load too warm")


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
    bench = [kit[name] for name in ("plover", "bittern", "curlew", "sallow", "snipe", "reedmace")]
    made = with_new_hookup(made, from_template(TEMPLATES[1], bench, "new"))
    session.logbook.add_job(
        replace(
            made, demo=True, customer="Pilot boat Curlew", place=WORKSHOP, technician="workshop",
            conditions="21 °C, warmed up for 30 minutes", receipt=_looked_over("2026-11-20", "works, case scratched"),
        )
    )  # fmt: skip
    random = np.random.default_rng(SEED)
    job = session.open(made.id)
    read_phase(job, BENCH, random, clock.rest, slip_at=9)
    text = capture_text(BENCH, FREQUENCIES_HZ[-1], LEVELS_W[-1], random)
    take_capture(job, Slot(plan[-1].id, 3, 0), "bittern-16420kHz.csv", text)


def _dunlin(session: Session, kit: dict[str, Part], clock: _BenchClock, random: np.random.Generator) -> None:
    """A meter that read low, was adjusted, and read again: reference, meter, reference on a warming carrier."""
    chosen = [kit[name] for name in ("plover", "dunlin", "jumper", "tee", "lead", "sedge", "reedmace")]
    plan = plan_points((4.125e6, 8.291e6), (20.0, 50.0), "60")
    order = (SCOPE, METER, SCOPE)
    plan = tuple(replace(point, sequence=order) for point in plan)
    made = cross_check("demo-dunlin", "Dunlin 60 of the ferry, adjusted", chosen, plan, created_at=_stamp(clock))
    session.logbook.add_job(
        replace(
            made,
            demo=True,
            order=order,
            customer="Ferry Knot",
            place=WORKSHOP,
            technician="workshop",
            receipt=_looked_over("2026-11-18", "reads low, says the mate"),
        )
    )
    job = session.open(made.id)
    read_phase(job, replace(BENCH, meter_error_db=lambda _: -0.75), random, clock.rest)
    job.begin_as_left()
    read_phase(job, replace(BENCH, meter_error_db=lambda _: 0.05), random, clock.rest)


def _of_workshop(job: Job) -> Job:
    """A job as every one of the workshop is kept."""
    received = _looked_over("2026-11-22", "works")
    return replace(job, demo=True, customer="workshop", place=WORKSHOP, technician="workshop", receipt=received)


def _to_try(kit: dict[str, Part], clock: _BenchClock) -> Job:
    chosen = [kit[name] for name in ("plover", "teal", "tee", "lead", "sedge", "reedmace")]
    plan = plan_points((2.182e6, 8.291e6), (10.0, 20.0), "20", repeats=2)
    job = cross_check("demo-teal", "Teal 20, to try", chosen, plan, created_at=_stamp(clock))
    return replace(job, demo=True, place=WORKSHOP, technician="workshop")


def _stamp(clock: _BenchClock) -> datetime:
    return clock().replace(microsecond=0)
