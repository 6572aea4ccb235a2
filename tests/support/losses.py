"""Coverage of a loss: a part between two couplers, two meters, or a generator and a sensor, with it and without it."""

import math
from dataclasses import replace

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.planning import points_at
from fenmist.hookup.line import Element, HookUp, Joint
from fenmist.hookup.templates import OF_LOSS, from_template
from fenmist.kit import generic, shelf
from fenmist.kit.part import Part, PartKind, Property, SpecKind, SpecTerm
from fenmist.measurand import PlaneRef
from fenmist.procedures.loss.make import begin
from fenmist.procedures.loss.reduction import Losses, reduce
from fenmist.simulation.netlist import TrueHookUp, draw
from support.builders import WHEN
from support.references import QUIET, load, pad, sensor, with_properties
from support.substitution import generator
from support.visits import benches, gains_of, read_visits

LEVEL_W = 100.0
LABELS = ("two couplers", "two meters in line", "a meter in line and a sensor", "a sensor on a generator")


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


def result_of(made: Job, rng: np.random.Generator, halved: str = "") -> tuple[Losses, float]:
    """One bench drawn, read and reduced, with the true loss."""
    true, gains = benches(made, rng), gains_of(made, rng)
    level = 10e-3 if made.part_read(made.order[0]).kind is PartKind.GENERATOR else LEVEL_W
    job = read_visits(made, true, gains, rng, level)
    loss = matched_loss_db(true["line"], made.stated.plane.element, made.dut_part, rng)
    return reduce(job, known={halved: 0.5} if halved else {}), loss


def errors(label: str, trials: int, seed: int = 3, halved: str = "", more: tuple[Part, ...] = ()) -> np.ndarray:
    """(stated − true)/u of the loss, over so many drawn benches."""
    made, rng = (
        loss_job(label, None, *more, level_w=10e-3 if "generator" in label else LEVEL_W),
        np.random.default_rng(seed),
    )
    found = []
    for _ in range(trials):
        result, true = result_of(made, rng, halved)
        (point,) = result.points
        found.append((point.loss_db - true) / point.u_db)
    return np.array(found)
