"""A job of the demonstration: a meter whose peak button is only a hold, proven with one PEP as several waveforms."""

import math
from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import datetime

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.planning import BY_FREQUENCY, points_at, with_points
from fenmist.hookup.templates import OF_MODULATION, from_template
from fenmist.kit import shelf
from fenmist.kit.part import Part, SpecKind, SpecTerm, Times
from fenmist.measurand import Detector
from fenmist.procedures.comparison.make import LINE
from fenmist.procedures.modulation.make import begin, visits
from fenmist.session.session import Session
from fenmist.simulation.movements import CAPACITOR_F, Circuits, Drive, shown
from fenmist.simulation.reader import read_screen

PEP_W = 100.0
DECAY_S, CHARGING_S = 0.9, 0.012
"""What the button's circuit truly is."""

SENT: Mapping[str, Drive] = {
    "carrier": lambda _: 1.0,
    "two-tone 100 Hz": lambda t: abs(math.cos(math.pi * 100.0 * t)),
    "dots 20 Hz": lambda t: float((20.0 * t) % 1.0 < 0.5),
    "dots 1 Hz": lambda t: float(t % 1.0 < 0.5),
    "carrier again": lambda _: 1.0,
}
"""Envelopes over time, by their names in the job."""

HELD, STEP_S, SECONDS, SETTLED_S = 0.01, 5e-4, 8.0, 6.0
"""By how much the source's PEP truly moves, relative; how the circuit is stepped, how long, and from when on."""


def gadwall() -> Part:
    """The meter with its button pressed, its sheet as the workshop found it."""
    accuracy = (SpecTerm(SpecKind.OF_READING, 0.05, basis="data sheet"),)
    made = shelf.inline_meter("gadwall", "Gadwall 200, PEP", (200.0,), None, accuracy, serial="GW-58")
    times = Times(detector_s=CHARGING_S, decay_s=DECAY_S)
    shows = (replace(item, detector=Detector.HOLD, times=times) for item in made.indicators)
    return replace(made, indicators=tuple(shows))


def add_buttons(
    session: Session, kit: Mapping[str, Part], stamp: Callable[[], datetime], job_of: Callable[[Job], Job]
) -> None:
    """Add the job, read; `job_of` sets what every job of the workshop carries."""
    template = next(item for item in OF_MODULATION if "crest" in item.label)
    parts = [kit[name] for name in ("plover", "jumper", "tee", "reedmace", "lead", "sedge")]
    bench = from_template(template, parts, LINE, kit["gadwall"])
    made = begin("demo-gadwall", "Gadwall 200: is its peak button one?", bench, "gadwall", stamp())
    made = replace(made, legs=visits(made.bench.id, tuple(SENT)))
    made = with_points(made, points_at(made, (8.291e6,), (PEP_W,), 2), BY_FREQUENCY)
    session.logbook.add_job(job_of(made))
    _read(session, made)


def _read(session: Session, made: Job) -> None:
    job, random = session.open(made.id), np.random.default_rng(58)
    one = np.ones(1)
    circuit = Circuits(
        np.array(["hold"]), CHARGING_S / CAPACITOR_F * one, DECAY_S / CAPACITOR_F * one, 0.45 * one, 0.7 * one,
        (1.0 + CHARGING_S / DECAY_S) * one,
    )  # fmt: skip
    shows = {name: float(shown(circuit, drive, SECONDS, STEP_S, SETTLED_S)[0]) for name, drive in SENT.items()}
    pep = PEP_W
    for point in job.job.plan:
        for slot in job.view.slots(point):
            if slot.position == 0:  # the source is set anew
                pep = PEP_W * (1.0 + HELD * random.uniform(-1.0, 1.0))
            job.begin_entry(slot)
            if job.job.is_device(point.sequence[slot.position]):
                job.enter(slot, read_screen(pep * shows[point.leg], 3, 0.004, random))
            else:
                job.enter(slot, f"{read_screen(math.sqrt(8.0 * 50.0 * pep), 4, 0.001, random)} Vpp")
