"""Meters on modulated carriers: a bench, readings typed or of simulated circuits, jobs of many drawn meters."""

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.planning import points_at
from fenmist.hookup.templates import OF_MODULATION, from_template
from fenmist.kit import generic
from fenmist.kit.part import PartKind
from fenmist.procedures.modulation.make import begin, visits
from fenmist.reading.event import Slot
from fenmist.simulation.movements import CAPACITOR_F, KINDS, Circuits, shown
from studies.builders import WHEN, enter

PEP_W = 100.0

Envelope = Callable[[float], float]
"""A waveform's over its peak, against seconds."""

WAVES = ("carrier", "two-tone 200 Hz", "dots 20 Hz", "dots 1 Hz")


def modulated_job(
    waveforms: tuple[str, ...] = WAVES, rounds: int = 1, seen: bool = False, f: tuple[float, ...] = (14.2e6,),
    levels: tuple[float, ...] = (PEP_W,), **parameters: float,
) -> Job:  # fmt: skip
    """A transmitter, a meter and a load; with an oscilloscope across it where its crest is seen."""
    shelf = generic.starter_shelf()
    device = next(part for part in shelf if part.kind is PartKind.INLINE_METER)
    wanted = "crest" if seen else "into a load"
    template = next(item for item in OF_MODULATION if wanted in item.label and item.stated is device.kind)
    made = begin("job", "modulation", from_template(template, shelf, "line", device), device.id, WHEN)
    made = replace(made, legs=visits(made.bench.id, waveforms))
    made = replace(made, method=replace(made.method, parameters={**made.method.parameters, **parameters}))
    return replace(made, plan=points_at(made, f, levels, rounds))


def typed(job: Job, shown_w: dict[str, float | str], crest_vpp: dict[str, float] | None = None) -> Job:
    """The job with what the meter showed at each waveform, and the oscilloscope's volts where it is read."""
    for point in job.plan:
        for number in range(1, point.repeats + 1):
            if point.leg in shown_w:
                for place, name in enumerate(point.sequence):
                    value = shown_w[point.leg] if job.is_device(name) else f"{(crest_vpp or {})[point.leg]:.2f} Vpp"
                    text = value if isinstance(value, str) else f"{value:.2f}"
                    job = enter(job, Slot(point.id, number, place), text)
    return job


def drawn_circuits(count: int, rng: np.random.Generator) -> Circuits:
    """Meters of random kind and constants; each shows its steady carrier rightly."""
    kind = rng.choice(KINDS, count)
    charge_s = np.where(kind == "hold", np.exp(rng.uniform(np.log(2e-3), np.log(0.05), count)),
                        np.exp(rng.uniform(np.log(5e-3), np.log(0.2), count)))  # fmt: skip
    leak_s = np.exp(rng.uniform(np.log(0.2), np.log(2.5), count))
    reads = np.where(kind == "hold", 1.0 + charge_s / leak_s, 1.0)
    return Circuits(
        kind, charge_s / CAPACITOR_F, leak_s / CAPACITOR_F, rng.uniform(0.3, 0.8, count), rng.uniform(0.5, 1.0, count),
        reads,
    )  # fmt: skip


def two_tone(spacing_hz: float, ratio: float = 1.0) -> Envelope:
    """Its envelope, of two phasors."""
    return lambda t: (
        abs(1.0 + ratio * complex(math.cos(2 * math.pi * spacing_hz * t), math.sin(2 * math.pi * spacing_hz * t)))
        / (1.0 + ratio)
    )


def dots(rate_hz: float, duty: float = 0.5) -> Envelope:
    """On, then off."""
    return lambda t: 1.0 if (t * rate_hz) % 1.0 < duty else 0.0


DRIVES = {"two-tone 200 Hz": two_tone(200.0), "dots 20 Hz": dots(20.0), "dots 1 Hz": dots(1.0)}


def fractions_of(circuits: Circuits) -> dict[str, np.ndarray]:
    """What they show at each waveform over their carrier: stepped through time until settled."""
    times = {"two-tone 200 Hz": (8.0, 7.0), "dots 20 Hz": (8.0, 7.0), "dots 1 Hz": (12.0, 9.0)}
    return {name: shown(circuits, drive, times[name][0], 2e-4, times[name][1]) for name, drive in DRIVES.items()}
