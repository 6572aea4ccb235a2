"""Steps of an attenuator, a generator or a meter: jobs, readings, and coverage on drawn benches."""

import math
from dataclasses import replace

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.planning import points_at
from fenmist.hookup.templates import OF_STEPS, from_template
from fenmist.kit import generic
from fenmist.kit.part import Part, PartKind, Property, SpecKind, SpecTerm
from fenmist.procedures.steps.make import begin
from fenmist.procedures.steps.reduction import reduce
from fenmist.reading.event import Slot
from fenmist.simulation.netlist import draw
from studies.builders import WHEN, enter, on_many
from studies.references import pad, sensor, with_properties
from studies.substitution import generator

LEVEL_W = 5e-3
POSITIONS = (0.0, 10.0, 20.0)


def steps_part(name: str = "steps", known_to: float = 0.1, swr: float = 1.05) -> Part:
    """A step attenuator whose positions are known to so many dB."""
    made = generic.attenuator(name, name, 0.0, known_to, 1.0, positions=POSITIONS)
    return with_properties(made, swr=Property(swr, ""))


def quiet_sensor(name: str = "s", *, zero_w: float = 0.0, linearity: float = 0.0) -> Part:
    """A sensor of no noise, with a zero and a linearity as they are stated."""
    made = with_properties(
        sensor(name), swr=Property(1.05, ""), noise_floor_w=Property(1e-12, "W"),
        zero_w=Property(0.0, "W", SpecTerm(SpecKind.ABSOLUTE, zero_w, "W") if zero_w else None),
    )  # fmt: skip
    if linearity:
        made = with_properties(made, linearity=Property(1.0, "", SpecTerm(SpecKind.OF_READING, linearity)))
    return made


def ladder_job(
    device: Part | None = None, steps: Part | None = None, behind: Part | None = None, rounds: int = 1,
    levels: tuple[float, ...] = (LEVEL_W,), f: tuple[float, ...] = (10e6,),
) -> Job:  # fmt: skip
    """A generator, a step attenuator and a sensor, one of them the device."""
    steps, behind = steps or steps_part(), behind or quiet_sensor()
    device = device or steps
    template = next(item for item in OF_STEPS if item.stated is device.kind)
    kit = [part for part in (generator(), steps, behind) if part.id != device.id]
    if device.kind is PartKind.INLINE_METER:
        source = next(part for part in generic.starter_shelf() if part.kind is PartKind.TRANSMITTER)
        kit = [source, pad("pad", 30.0, 0.3), behind]
    made = begin("job", "steps", from_template(template, kit, "line", device), device.id, WHEN)
    return replace(made, plan=points_at(made, f, levels, rounds))


def typed(job: Job, behind: dict[str, str], front: str = "") -> Job:
    """The job with what the sensor showed at each step, by position or by level in W; the generator as it is set."""
    for point in job.plan:
        name = point.leg or f"{point.target_w:g}"
        if name not in behind:
            continue
        for number in range(1, point.repeats + 1):
            level = front or f"{10 * math.log10(point.target_w / 1e-3):.4f} dBm"
            job = enter(job, Slot(point.id, number, 0), level)
            job = enter(job, Slot(point.id, number, 1), behind[name])
    return job


def drawn(made: Job, plan: tuple[PlanPoint, ...], rng: np.random.Generator) -> tuple[Job, dict[str, float]]:
    """One bench drawn and read at every position; the true departure of each step from what is stated, dB.

    The attenuator's positions are drawn each by itself; generator, sensor and its match are the same at all.
    """
    truths, given, losses = {}, None, {}
    base = draw(made.bench, made.parts, rng, source_swr=1.5)
    names = {item.part: item.id for item in made.bench.elements}
    for leg in made.visits:
        own = draw(made.hookup(leg.hookup), made.parts, rng, source_swr=1.5)
        kept = {item.id: base.truths[item.id] for item in made.bench.elements if item.id != names["steps"]}
        truths[leg.hookup] = replace(own, truths={**own.truths, **kept}, source_ohm=base.source_ohm)
        losses[leg.id] = own.truths[names["steps"]].part.properties["loss_db"].value
    zero = base.truths[names["s"]].part.properties["zero_w"].value
    job, departures = made, {}
    for point in plan:
        solved = truths[point.hookup].solve(point.frequency_hz)
        port = made.part("g").ports[0].id
        emf = solved.waves((names["g"], port))
        into = abs(solved.waves((names["s"], made.part("s").ports[0].id))[0]) ** 2
        # its level is what it would give into 50 Ω
        z = truths[point.hookup].source_ohm
        into_50 = abs(1.0 / (z + 50.0)) ** 2 * 50.0
        given = point.target_w / into_50
        del emf
        stated = float(point.leg.split()[0])
        shown = into * given * 0.97 + zero  # its factor and its gain are one error of all steps
        job = enter(job, Slot(point.id, 1, 0), f"{10 * math.log10(point.target_w / 1e-3):.4f} dBm")
        job = enter(job, Slot(point.id, 1, 1), f"{shown * 1e3:.5g} mW")
        departures[point.id] = losses[point.leg] - stated
    first = departures[plan[0].id]
    return job, {name: value - first for name, value in departures.items()}


def errors(made: Job, trials: int, seed: int, halved: str = "") -> np.ndarray:
    """(stated − true)/u of each step's departure, over so many drawn benches."""
    rng, true = np.random.default_rng(seed), dict[str, float]()

    def read(job: Job, plan: tuple[PlanPoint, ...]) -> Job:
        job, departures = drawn(job, plan, rng)
        true.update(departures)
        return job

    jobs = on_many(made, trials, read)
    points = [point for job in jobs for point in reduce(job, known={halved: 0.5} if halved else {}).points]
    return np.array([
        (item.departure_db - true[item.point.id]) / item.u_db for item in points if not item.is_reference
    ])  # fmt: skip
