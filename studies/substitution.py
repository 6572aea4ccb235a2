"""Coverage of a sensor in the place of another: one hidden truth for both hook-ups, solved by nodes, read and reduced.

The device truly shows what its calibration factor makes of what comes in; the power differs from visit to visit.
"""

import math
from dataclasses import replace

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.planning import points_at
from fenmist.hookup.templates import OF_SENSORS, Template, from_template
from fenmist.kit import generic
from fenmist.kit.part import Part, PartKind, Property, SpecKind, SpecTerm
from fenmist.procedures.comparison.make import begin
from fenmist.procedures.comparison.reduction import Result, reduce
from studies.builders import WHEN, on_many
from studies.references import pad, sensor, share, with_properties
from studies.visits import benches, gains_of, read_visits

AT_COUPLER, ON_GENERATOR = OF_SENSORS[0], OF_SENSORS[2]
LEVEL_W = 10e-3


def generator(swr: float = 1.5) -> Part:
    made = next(part for part in generic.generics() if part.kind is PartKind.GENERATOR)
    shows = replace(made.indicators[0], spec=(share(0.1),))
    return with_properties(replace(made, id="g", indicators=(shows,)), swr=Property(swr, ""))


def sensor_job(template: Template, **more: Part) -> Job:
    """A sensor against another, planned at one point."""
    coupler = generic.coupler("c", "coupler", 20.0, 25.0, 0.1, 200.0)
    parts = {
        "g": generator(),
        "c": coupler,
        "pad": pad("pad", 6.0),
        "ref": sensor("ref", swr=1.3),
        "mon": with_properties(sensor("mon"), zero_w=Property(0.0, "W", SpecTerm(SpecKind.ABSOLUTE, 2e-6, "W"))),
    }
    if template is AT_COUPLER:
        parts.pop("pad")
    parts |= more
    bench = from_template(template, list(parts.values()), "line", sensor("dev", swr=1.4))
    made = begin("job", "sensors", bench, "dev", WHEN)
    return replace(made, plan=points_at(made, [7e6], [LEVEL_W]))


def read(made: Job, plan: tuple[PlanPoint, ...], rng: np.random.Generator) -> tuple[Job, float]:
    """All legs read once on one hidden bench, and the ratio of what the device shows to what comes in."""
    true, gains = benches(made, rng), gains_of(made, rng)
    own = true["line"].truths[made.stated.plane.element].part.properties["cal_factor"].value
    return read_visits(made, plan, true, gains, rng, LEVEL_W), own * gains["dev"].times


def result_of(made: Job, rng: np.random.Generator) -> Result:
    """One bench drawn, read and reduced."""
    return reduce(read(made, made.plan, rng)[0])


def errors(template: Template, trials: int, seed: int = 3, halved: str = "") -> np.ndarray:
    """(stated − true)/u of ln(indicated/incident), over so many drawn benches."""
    rng, true = np.random.default_rng(seed), []

    def read_next(job: Job, plan: tuple[PlanPoint, ...]) -> Job:
        job, ratio = read(job, plan, rng)
        true.append(math.log(ratio))
        return job

    known = {halved: 0.5} if halved else {}
    logs = [reduce(job, known=known).log_ratio for job in on_many(sensor_job(template), trials, read_next)]
    value, u = (np.concatenate([getattr(log, name) for log in logs]) for name in ("value", "u"))
    return np.asarray((value - true) / u)
