"""A meter of match with known ends behind it: jobs, readings, and coverage on drawn benches."""

import math
from dataclasses import replace

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.planning import points_at
from fenmist.hookup.templates import OF_MATCH, from_template
from fenmist.kit import generic, shelf
from fenmist.kit.part import Indicator, Part, PartKind, Port, Property, SpecKind, SpecTerm
from fenmist.measurand import Kind
from fenmist.procedures.reflection.make import begin
from fenmist.procedures.reflection.reduction import Matches, reduce
from fenmist.reading.event import Slot
from fenmist.simulation.matchmeter import TrueMatchMeter, drawn_meter
from fenmist.simulation.netlist import draw
from studies.builders import WHEN, enter, on_many
from studies.references import QUIET, with_properties

LEVEL_W = 10.0


def end(name: str, ohm: float, known_to: float = 0.01) -> Part:
    """A known end of the line: its resistance within ± a share."""
    return Part(
        name, PartKind.MISMATCH, name, ports=(Port("in", power_limit_w=50.0),),
        properties={
            "nominal_ohm": Property(ohm, "Ω", SpecTerm(SpecKind.OF_READING, known_to)),
            "rated_time_s": Property(300.0, "s"),
        },
    )  # fmt: skip


ENDS = (end("null", 50.0), end("r25", 25.0), end("r100", 100.0), end("r150", 150.0))


def swr_meter(directivity_db: float = 25.0, *, has_set: bool = False, **properties: float) -> Part:
    """A digital SWR meter; or one whose needle is set first."""
    like = next(part for part in generic.generics() if part.kind is PartKind.SWR_METER)
    shows = Indicator("swr", "SWR", Kind.SWR, "")
    stated = {"directivity_db": Property(directivity_db, "dB"), "loss_db": like.properties["loss_db"]}
    more = {name: Property(value, "W") for name, value in properties.items()}
    if has_set:
        more["set_power_w"] = Property(1.0, "W")
    return replace(like, id="meter", label="meter", indicators=(shows,), properties={**stated, **more})


def watt_meter(full_scales: tuple[float, ...] = (20.0, 200.0), with_swr: bool = False, *, share: float = 0.05) -> Part:
    """A wattmeter that shows forward and reflected power on its ranges, and SWR where it computes it."""
    made = shelf.inline_meter("meter", "meter", full_scales, None, share)
    (forward,) = made.indicators
    shows = [forward, replace(forward, id="reflected", label="reflected", quantity=Kind.REFLECTED)]
    shows += [Indicator("swr", "SWR", Kind.SWR, "")] if with_swr else []
    return with_properties(replace(made, indicators=tuple(shows)), directivity_db=Property(25.0, "dB"))


def match_job(
    meter: Part | None = None, ends: tuple[Part, ...] = ENDS, f: tuple[float, ...] = (14e6,),
    levels: tuple[float, ...] = (LEVEL_W,), rounds: int = 1, label: str = "known mismatches in turn", *more: Part,
) -> Job:  # fmt: skip
    """A meter with ends behind it in turn, planned."""
    meter = meter or swr_meter()
    template = next(item for item in OF_MATCH if item.label == label and item.stated is meter.kind)
    made = begin("job", "a match", from_template(template, [*more, QUIET, *ends], "line", meter), meter.id, WHEN)
    return replace(made, plan=points_at(made, f, levels, rounds))


def typed(job: Job, shown: dict[str, str | tuple[str, ...]]) -> Job:
    """The job with what the meter showed at each end, all rounds alike; several channels as a tuple."""
    for point in job.plan:
        if point.leg not in shown:
            continue
        texts = shown[point.leg]
        for number in range(1, point.repeats + 1):
            for position, text in enumerate((texts,) if isinstance(texts, str) else texts):
                job = enter(job, Slot(point.id, number, position), text)
    return job


def drawn(
    made: Job, rng: np.random.Generator, meter: TrueMatchMeter | None = None, plan: tuple[PlanPoint, ...] | None = None
) -> tuple[Job, dict[str, complex], dict[str, float]]:
    """One bench drawn, its meter read at some points or all; with the true Γ and what it truly shows, ρ, by point."""
    meter = meter or drawn_meter(made.tolerance.value, rng)
    truths = {leg.hookup: draw(made.hookup(leg.hookup), made.parts, rng) for leg in made.visits}
    job, gammas, shown = made, {}, {}
    for point in plan or made.plan:
        stated = made.hookup(point.hookup).stated
        solved = truths[point.hookup].solve(point.frequency_hz)
        into, out = solved.waves((stated.element, stated.port))
        root = math.sqrt(point.target_w) / abs(out)
        forward, back = out * root, into * root
        gammas[point.id] = back / forward
        shown[point.id] = meter.reflection(forward, back)
        texts = {
            Kind.SWR: f"{meter.swr(forward, back):.2f}",
            Kind.INCIDENT: f"{meter.watts(forward, back)[0]:.2f}",
            Kind.REFLECTED: f"{meter.watts(forward, back)[1]:.3f}",
        }
        for position, channel in enumerate(point.sequence):
            job = enter(job, Slot(point.id, 1, position), texts[made.channel(channel).measurand.kind])
    return job, gammas, shown


def study(made: Job, trials: int, seed: int, halved: str = "", better_db: float = 0.0) -> "Study":
    """(stated − true)/u of the meter's error, whether windows and rings hold, over so many drawn benches."""
    rng = np.random.default_rng(seed)
    errors, rings, windows, intervals = [], [], [], []
    gammas, shown = dict[str, complex](), dict[str, float]()

    def read(job: Job, plan: tuple[PlanPoint, ...]) -> Job:
        meter = drawn_meter(made.tolerance.value - better_db, rng)
        job, some, seen = drawn(job, rng, meter, plan)
        gammas.update(some)
        shown.update(seen)
        return job

    for job in on_many(made, trials, read):
        result: Matches = reduce(job, known={halved: 0.5} if halved else {})
        for item in result.points:
            size = abs(gammas[item.point.id])
            true = shown[item.point.id] - size
            errors.append((item.error - true) / item.u)
            intervals.append(item.interval[0] <= true <= item.interval[1])
            rings.append(item.ring[0] <= size <= item.ring[1])
            low, high = item.window
            windows.append(low - item.expected + size <= shown[item.point.id] + 1e-12 <= high - item.expected + size)
    return Study(np.array(errors), float(np.mean(rings)), float(np.mean(windows)), float(np.mean(intervals)))


class Study:
    """What a study found."""

    def __init__(self, errors: np.ndarray, rings: float, windows: float, intervals: float) -> None:
        self.errors, self.rings, self.windows, self.intervals = errors, rings, windows, intervals
