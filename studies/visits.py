"""Several hook-ups in turn on one hidden bench: solved by nodes, read as a person would, leg by leg."""

import math
from dataclasses import dataclass, replace

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.kit.part import PartKind, SpecKind
from fenmist.reading.event import Slot
from fenmist.simulation.netlist import TrueHookUp, Truth, draw
from studies.builders import enter


@dataclass(frozen=True)
class Gain:
    """What an instrument multiplies by, and adds, W, within its stated accuracy."""

    times: float
    plus: float
    leak: complex = 0j  # of what comes back, in its forward arm

    def of(self, watts: float, gamma: complex = 0j) -> float:
        return watts * self.times * abs(1.0 + self.leak * gamma) ** 2 + self.plus


def gains_of(made: Job, rng: np.random.Generator) -> dict[str, Gain]:
    """Of each instrument: shares of its full scale are added, others multiply."""
    found = {}
    for part in made.kit:
        for shows in part.indicators[:1]:
            times, plus = 1.0, 0.0
            for term in shows.stated:
                off = rng.uniform(-1.0, 1.0) * term.value
                if term.kind is SpecKind.OF_RANGE:
                    plus += off * shows.ranges[0].full_scale
                else:
                    times += off
            quiet = part.properties.get("directivity_db")
            turn = np.exp(2j * np.pi * rng.uniform()) if quiet else 0.0
            leak = 10 ** (-quiet.value / 20) * math.sqrt(rng.uniform()) * turn if quiet else 0j
            found[part.id] = Gain(times, plus, leak)
    return found


def benches(made: Job, rng: np.random.Generator) -> dict[str, TrueHookUp]:
    """The truth of each hook-up: what stands on several is the same there."""
    found: dict[str, TrueHookUp] = {}
    known: dict[str, Truth] = {}
    source = None
    for hookup in made.hookups:
        one = draw(hookup, made.parts, rng)
        if source is None:
            source = one.source_ohm
        truths = {}
        for element in hookup.elements:
            known.setdefault(element.part, one.truths[element.id])
            truths[element.id] = known[element.part]
        found[hookup.id] = replace(one, truths=truths, source_ohm=source)
    return found


def read_visits(
    made: Job, plan: tuple[PlanPoint, ...], true: dict[str, TrueHookUp], gains: dict[str, Gain],
    rng: np.random.Generator, level_w: float,
) -> Job:  # fmt: skip
    """Each of some points read once; the power differs from visit to visit unless it has to be steady.

    It has where the source's own level tells it, and where one instrument is all that is read.
    """
    steady = any(made.part_read(name).kind is PartKind.GENERATOR for name in made.order)
    steady = steady or all(len(point.sequence) == 1 for point in plan)
    full = math.sqrt(4.0 * 50.0 * level_w)
    for point in plan:
        bench, solved = true[point.hookup], true[point.hookup].solve(point.frequency_hz)
        amplitude = full if steady else full * rng.uniform(0.8, 1.2)
        for position, name in enumerate(point.sequence):
            channel, part = made.channel(name), made.part_read(name)
            if part.kind is PartKind.GENERATOR:
                made = enter(made, Slot(point.id, 1, position), f"{10.0 * math.log10(1e3 * level_w):.4f} dBm")
                continue
            port = part.ends[0] if len(part.ends) == 2 else part.ports[0].id
            on, back = solved.waves((channel.element, port))
            incident = (abs(on) * amplitude) ** 2
            known = bench.truths[channel.element].part.properties
            factor, zero = (known[key].value if key in known else other for key, other in (("cal_factor", 1.0),
                                                                                          ("zero_w", 0.0)))  # fmt: skip
            watts = gains[part.id].of(incident * factor, back / on) + zero
            made = enter(made, Slot(point.id, 1, position), f"{1e3 * watts:.6g} mW")
    return made
