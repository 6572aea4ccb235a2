"""The technician of the demonstration: reads simulated instruments slot by slot and enters what users would type."""

import math
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.reading.event import Slot
from fenmist.session.captures import CaptureSource
from fenmist.session.openjob import OpenJob
from fenmist.simulation.bench import TrueBench, observe, sample
from fenmist.simulation.reader import read_needle, read_screen

SECONDS_A_READING = 20.0
"""Between one entry and the next."""

WARMING = 0.012
"""Part of its power that a cold carrier loses while it warms up, with a minute's time constant."""


def read_phase(
    job: OpenJob,
    bench: TrueBench,
    random: np.random.Generator,
    rest: Callable[[], None],
    slip_at: int = -1,
    points: int = 10_000,
) -> None:
    """Read the plan in the phase in hand, at most so many points, the load resting after each round.

    One slip on the way is noticed and struck.
    """
    read = {point.id for point in job.job.plan[:points]}
    before = None
    for number, (slot, text) in enumerate(simulated_texts(job, bench, random)):
        if slot.point not in read:
            return
        if before not in (None, (slot.point, slot.round)):
            rest()
        before = slot.point, slot.round
        job.begin_entry(slot)
        if number == slip_at:
            job.enter(slot, text.replace(".", "") + "0")
            job.strike(slot, "misread")
        job.enter(slot, text)


def simulated_texts(job: OpenJob, bench: TrueBench, random: np.random.Generator) -> Iterator[tuple[Slot, str]]:
    """What a technician would type for each slot of the plan, in reading order."""
    for point in job.job.plan:
        level = point.target_w
        for slot in job.view.slots(point):
            if slot.position == 0:
                level = point.target_w * (1.0 + 0.006 * random.standard_normal())
            shown = observe(bench, point.frequency_hz, level * _warming(point, slot.position))
            yield (
                slot,
                _text(job.job, point, point.sequence[slot.position], shown.volts_peak_to_peak, shown.meter_w, random),
            )


def _warming(point: PlanPoint, position: int) -> float:
    """Only rounds that can show it are read on a carrier that still warms up."""
    if len(point.sequence) < 3:
        return 1.0
    return 1.0 - WARMING * (1.0 - math.exp(-position * SECONDS_A_READING / 60.0))


def _text(
    job: Job, point: PlanPoint, channel: str, volts_pp: float, meter_w: float, random: np.random.Generator
) -> str:
    if not job.is_device(channel):
        return read_screen(volts_pp, 4, 0.001, random)
    used = job.range_of(point, channel)
    if used is None or used.scale is None:
        return read_screen(meter_w, 3, 0.0, random)
    division = used.scale.division_at(meter_w / used.factor) * used.factor
    return f"{read_needle(meter_w, division, job.part_of_division, random):g}"


def capture_text(bench: TrueBench, frequency_hz: float, incident_w: float, random: np.random.Generator) -> str:
    """A capture as the workshop's oscilloscope saves it: 8 bits over 320 V, some fifty samples a period."""
    step = float(f"{1.0 / (50.0 * frequency_hz):.1g}")
    volts = sample(bench, frequency_hz, incident_w, step, 2000, 320.0 / 256, random)
    rows = (f"{n * step:.5g},{value:.5g}" for n, value in enumerate(volts))
    return f"Sample interval,{step:g}\ntime,CH1\ns,V\n" + "\n".join(rows) + "\n"


def take_capture(job: OpenJob, slot: Slot, name: str, text: str) -> None:
    """Enter a capture as the oscilloscope's reading of a slot."""
    job.enter_trace(slot, CaptureSource(name, text.encode()), "CH1")


def write_captures(folder: Path, captures: dict[str, Callable[[], str]]) -> None:
    """Files to try, beside the logbook; a folder that can't be written is no reason not to start."""
    try:
        folder.mkdir(exist_ok=True)
        for name, text in captures.items():
            (folder / name).write_text(text(), "utf-8")
    except OSError:
        return
