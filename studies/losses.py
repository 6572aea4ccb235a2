"""Coverage of a loss: a part between two couplers, two meters, or a generator and a sensor, with it and without it."""

import math
from dataclasses import replace

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.planning import points_at
from fenmist.hookup.line import Element, HookUp, Joint
from fenmist.hookup.templates import OF_LOSS, from_template
from fenmist.kit import generic, shelf
from fenmist.kit.part import Component, Part, PartKind, Property, SpecKind, SpecTerm
from fenmist.measurand import PlaneRef
from fenmist.procedures.loss.make import begin
from fenmist.procedures.loss.reduction import reduce
from fenmist.rf.circuit import BranchKind
from fenmist.simulation.netlist import TrueHookUp, draw
from studies.builders import WHEN, on_many
from studies.matches import end
from studies.references import QUIET, load, pad, sensor, with_properties
from studies.substitution import generator
from studies.visits import benches, gains_of, read_visits

LEVEL_W = 100.0
LABELS = (
    "two couplers", "two meters in line", "a meter in line and a sensor", "a sensor on a generator",
    "two couplers in both orders", "two meters in both orders", "one meter, in front of it and behind it",
    "one sensor, with it and without it",
)  # fmt: skip


def device(db: float = 1.0, swr: float = 1.3) -> Part:
    return with_properties(pad("dev", db, 0.3), swr=Property(swr, ""))


def meter(name: str, directivity_db: float = 30.0) -> Part:
    made = shelf.inline_meter(name, name, (200.0,), None, 0.05)
    return with_properties(made, swr=Property(1.1, ""), directivity_db=Property(directivity_db, "dB"))


def loss_job(label: str, part: Part | None = None, *more: Part, level_w: float = LEVEL_W) -> Job:
    """A part between two instruments, planned at one point."""
    part = part or device()
    template = next(item for item in OF_LOSS if item.label == label and item.stated is part.kind)
    couplers = [generic.coupler(name, name, 40.0, 25.0, 0.1, 200.0) for name in ("c1", "c2")]
    own = [QUIET, generator(), *couplers, meter("m1"), meter("m2"), pad("big", 30.0), pad("small", 6.0), load()]
    quiet = Property(0.0, "W", SpecTerm(SpecKind.ABSOLUTE, 1e-9, "W"))
    sensors = [with_properties(sensor(name), zero_w=quiet) for name in ("a", "b")]
    own = [item for item in own if item.kind is not PartKind.ATTENUATOR] if label.startswith("one meter") else own
    bench = from_template(template, [*more, *own, *sensors], "line", part)
    made = begin("job", "a loss", bench, part.id, WHEN)
    return replace(made, plan=points_at(made, [7e6], [level_w]))


def matched_loss_db(true: TrueHookUp, element: str, part: Part, rng: np.random.Generator) -> float:
    """What a part truly loses between 50 Ω and 50 Ω, solved by nodes."""
    source, end = shelf.transmitter("tx", "tx", 1.0), shelf.dummy_load("l", "l", 1.0)
    joints = (Joint(("tx", "out"), ("dev", part.ends[0])), Joint(("dev", part.ends[1]), ("l", end.ports[0].id)))
    elements = (Element("tx", "tx"), Element("dev", part.id), Element("l", "l"))
    line = HookUp("y", "alone", elements, joints, PlaneRef("y", "tx", "out"))
    drawn = draw(line, {"tx": source, part.id: part, "l": end}, rng)
    exact = replace(drawn.truths["l"], part=replace(end, properties={"nominal_ohm": Property(50.0, "Ω")}))
    alone = replace(drawn, truths={**drawn.truths, "dev": true.truths[element], "l": exact}, source_ohm=50.0 + 0j)
    solved = alone.solve(7e6)
    into, out = solved.waves(("dev", part.ends[0]))[0], solved.waves(("dev", part.ends[1]))[1]
    assert abs(solved.waves(("l", end.ports[0].id))[1]) < 1e-9  # it ends in 50 Ω
    return -20.0 * math.log10(abs(out / into))


def errors(label: str, trials: int, seed: int = 3, halved: str = "", more: tuple[Part, ...] = ()) -> np.ndarray:
    """(stated − true)/u of the loss, over so many drawn benches."""
    level = 10e-3 if "generator" in label else LEVEL_W
    made, rng = loss_job(label, None, *more, level_w=level), np.random.default_rng(seed)
    losses = []

    def read(job: Job, plan: tuple[PlanPoint, ...]) -> Job:
        true, gains = benches(made, rng), gains_of(made, rng)
        job = read_visits(job, plan, true, gains, rng, level)
        losses.append(matched_loss_db(true["line"], made.stated.plane.element, made.dut_part, rng))
        return job

    jobs = on_many(made, trials, read)
    points = [point for job in jobs for point in reduce(job, known={halved: 0.5} if halved else {}).points]
    return np.array([(point.loss_db - true) / point.u_db for point, true in zip(points, losses, strict=True)])


def tuner_job() -> Job:
    """A tuner between two meters, into a load and two mismatches in turn."""
    tuner = next(part for part in generic.generics() if part.kind is PartKind.TUNER)
    template = next(item for item in OF_LOSS if item.label == "two meters in line, each end in turn")
    kit = [QUIET, meter("m1"), meter("m2"), load(), end("r25", 25.0), end("r150", 150.0)]
    made = begin("job", "a tuner", from_template(template, kit, "line", tuner), tuner.id, WHEN)
    return replace(made, plan=points_at(made, [7e6], [LEVEL_W]))


def tuned(true: TrueHookUp, coil_ohm: float) -> TrueHookUp:
    """The hook-up with its tuner turned to a match: an L of coil and capacitor, the coil of some resistance.

    What it works into doesn't depend on it, so any other part in its place tells that first.
    """
    omega, before = 2.0 * math.pi * 7e6, true.solve(7e6)
    at = true.hookup.mate("tuner", "out")
    assert at is not None
    z = before.volts[at] / before.amperes[at]
    r, x = z.real, z.imag
    if r < 50.0:  # capacitor at its input, coil on the way to the end
        q = math.sqrt(50.0 / r - 1.0)
        coil, across, where = q * r - x, q / 50.0, "in"
    else:  # coil first, capacitor at the end
        y = 1.0 / z
        q = math.sqrt(1.0 / (50.0 * y.real) - 1.0)
        coil, across, where = 50.0 * q, q * y.real - y.imag, "out"
    pieces = (
        Component("L", BranchKind.INDUCTOR, ("in", "mid"), coil / omega) if coil > 0 else
        Component("L", BranchKind.CAPACITOR, ("in", "mid"), -1.0 / (coil * omega)),
        Component("R", BranchKind.RESISTOR, ("mid", "out"), coil_ohm),
        Component("C", BranchKind.CAPACITOR, (where, "0"), across / omega) if across > 0 else
        Component("C", BranchKind.INDUCTOR, (where, "0"), -1.0 / (across * omega)),
    )  # fmt: skip
    truth = true.truths["tuner"]
    made = replace(truth, part=replace(truth.part, components=pieces))
    return replace(true, truths={**true.truths, "tuner": made})


def tuner_errors(trials: int, seed: int = 5, halved: str = "") -> dict[str, np.ndarray]:
    """(stated − true)/u of what a tuner takes into each end, over so many drawn benches."""
    made, rng = tuner_job(), np.random.default_rng(seed)
    found: dict[str, list[float]] = {}
    arrives: dict[str, float] = {}  # by point: of what is offered to the tuner, what goes into the end

    def read(job: Job, plan: tuple[PlanPoint, ...]) -> Job:
        ohm = rng.uniform(0.5, 3.0)
        true = {name: tuned(one, ohm) if "tuner" in one.truths else one for name, one in benches(made, rng).items()}
        for point in plan:
            if "tuner" in true[point.hookup].truths:
                solved = true[point.hookup].solve(7e6)
                into, back = (abs(one) ** 2 for one in solved.waves(("load", "in")))
                arrives[point.id] = (into - back) / abs(solved.waves(("tuner", "in"))[0]) ** 2
        return read_visits(job, plan, true, gains_of(made, rng), rng, LEVEL_W)

    for job in on_many(made, trials, read):
        for point in reduce(job, known={halved: 0.5} if halved else {}).points:
            error = point.loss_db + 10.0 * math.log10(arrives[point.point.id])
            found.setdefault(point.into, []).append(error / point.u_db)
    return {name: np.array(values) for name, values in found.items()}
