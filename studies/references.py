"""The coverage study of any reference: truths drawn by nodes, what each instrument shows typed, reduced by the core.

Each bench has a device that truly shows 0.3 dB too little. Instruments err within what is stated of them; phases, the
source's match and what leaks are anything they may be.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.hookup.editing import inserted
from fenmist.kit import generic, shelf
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import Part, PartKind, Property, SpecKind, SpecTerm
from fenmist.measurand import Kind
from fenmist.procedures.comparison.reduction import Result, reduce
from fenmist.procedures.output import reduction as output
from fenmist.procedures.output.reduction import Output
from fenmist.reading.event import Slot
from fenmist.simulation.netlist import Solved, TrueHookUp, draw
from studies.benches import bench, read_on
from studies.builders import arc, enter, on_many

DEVICE_DB = -0.3
QUARTER_W = 2.5
"""A quarter of the division at 75 W on the 200 W range."""

WATTS, VOLTS, AMPERES = Kind.INCIDENT, Kind.VOLTAGE, Kind.CURRENT
QUIET = shelf.transmitter("source", "Plover", 250.0, harmonics_dbc={2: -120.0, 3: -120.0})
DEVICE = shelf.inline_meter("device", "Teal", (20.0, 200.0), arc(), 0.05)
LEVEL = 80.0


def share(value: float) -> SpecTerm:
    return SpecTerm(SpecKind.OF_READING, value)


def with_properties(part: Part, **more: Property) -> Part:
    return replace(part, properties={**part.properties, **more})


def load() -> Part:
    part = shelf.dummy_load("end", "Reedmace", 150.0)
    return replace(part, characterisations=(table_from_rows([(1e5, "54+j6"), (1e8, "54+j6")], 0.01),))


def sensor(name: str, swr: float = 1.2, accuracy: float = 0.03) -> Part:
    made = generic.power_meter(name, f"sensor {name}", accuracy=(share(accuracy),), noise_w=0.0, top_w=1.0)
    return with_properties(
        made, swr=Property(swr, ""), cal_factor=Property(0.97, "", share(0.02)),
        zero_w=Property(0.0, "W", SpecTerm(SpecKind.ABSOLUTE, 2e-5, "W")),
    )  # fmt: skip


def pad(name: str, db: float, limit_db: float = 0.15) -> Part:
    made = generic.attenuator(name, name, db, limit_db, 150.0)
    return with_properties(made, swr=Property(1.2, ""))


def hung(made: Job, root: str, part: Part) -> Job:
    """The job with one more part behind the last of what hangs on another."""
    hookup = made.hookups[-1]
    at = next(item.id for item in hookup.elements if item.part == root)
    end = made.part(root).ends[-1] if len(made.part(root).ends) == 2 and not made.part(root).side_ports else None
    port = end or next(item.id for item in made.part(root).side_ports if hookup.mate(at, item.id) is None)
    return replace(made, kit=(*made.kit, part)).with_hookup(inserted(hookup, at, port, part))


def behind_a_pad() -> Job:
    made = bench(DEVICE, pad("pad", 20.0), sensor("s"), source=QUIET, level_w=LEVEL)
    return read_on(made, {"s": ("s", WATTS), "m": ("device", WATTS)})


def behind_a_tap() -> Job:
    tap = generic.resistive_tap("tap", "tap", 2460.0, 50.0)
    made = bench(DEVICE, tap, load(), hang=(tap, sensor("s")), source=QUIET, level_w=LEVEL)
    return read_on(made, {"s": ("s", WATTS), "m": ("device", WATTS)})


def behind_a_coupler() -> Job:
    coupler = generic.coupler("c", "coupler", 30.0, 25.0, 0.1, 200.0)
    made = bench(DEVICE, coupler, load(), hang=(coupler, sensor("s")), source=QUIET, level_w=LEVEL)
    return read_on(made, {"s": ("s", WATTS), "m": ("device", WATTS)})


def behind_a_divider() -> Job:
    tee, divider = shelf.tee("t", "tee"), generic.divider("d", "divider", 22e3, 2.66e3)
    meter = next(part for part in generic.generics() if part.kind is PartKind.VOLTMETER)
    indicator = replace(meter.indicators[0], ranges=(), spec=(share(0.03),))
    meter = replace(meter, id="v", indicators=(indicator,))
    meter = with_properties(meter, bandwidth_hz=Property(1e12, "Hz"))
    made = hung(bench(DEVICE, tee, load(), hang=(tee, divider), source=QUIET, level_w=LEVEL), "d", meter)
    made = read_on(made, {"v": ("v", VOLTS), "m": ("device", WATTS)})
    return replace(made, plan=tuple(replace(point, frequency_hz=4.7e5) for point in made.plan))


def in_the_line() -> Job:
    meter = generic.ammeter("a", "ammeter", 3.0)
    meter = replace(meter, indicators=(replace(meter.indicators[0], spec=(share(0.02),)),))
    made = bench(DEVICE, meter, load(), source=QUIET, level_w=LEVEL)
    return read_on(made, {"a": ("a", AMPERES), "m": ("device", WATTS)})


def a_better_meter() -> Job:
    curve = Characterisation("c", "correction", (1e5, 1e8), (1.04, 1.04), unit="", u=(0.01, 0.01))
    better = replace(shelf.inline_meter("b", "Heron", (200.0,), None, 0.05), characterisations=(curve,))
    made = bench(DEVICE, pad("pad", 1.0), better, load(), source=QUIET, level_w=LEVEL)
    return read_on(made, {"b": ("b", WATTS), "m": ("device", WATTS)})


def by_its_level() -> Job:
    """A generator whose level is good to 5 %, of a match that faces a cable, the device and a poor load."""
    source = next(part for part in generic.generics() if part.kind is PartKind.GENERATOR)
    shows = replace(source.indicators[0], spec=(share(0.05),))
    source = with_properties(replace(source, id="g", indicators=(shows,)), swr=Property(1.5, ""))
    made = bench(pad("pad", 1.0), DEVICE, load(), source=source, level_w=LEVEL)
    return read_on(made, {"g": ("g", WATTS), "m": ("device", WATTS)})


def three_at_once() -> Job:
    """Two sensors share a pad of 1 dB and a coupler; a scope stands before both."""
    tee, lead = shelf.tee("t", "tee"), shelf.lead("wire", "wire", 0.3)
    scope = shelf.oscilloscope("o", "Sedge", 1e12, accuracy=0.03)
    coupler = generic.coupler("c", "coupler", 30.0, 30.0, 0.1, 200.0)
    made = bench(
        DEVICE, tee, pad("shared", 1.0), coupler, pad("big", 20.0), sensor("end"), hang=(tee, lead), source=QUIET,
        level_w=LEVEL,
    )  # fmt: skip
    made = hung(hung(made, "wire", scope), "c", sensor("side"))
    return read_on(made, {"o": ("o", VOLTS), "e": ("end", WATTS), "s": ("side", WATTS), "m": ("device", WATTS)})


BENCHES: dict[str, Callable[[], Job]] = {
    "sensor behind a pad": behind_a_pad, "sensor behind a tap": behind_a_tap,
    "sensor behind a coupler": behind_a_coupler, "voltmeter behind a divider": behind_a_divider,
    "ammeter in the line": in_the_line, "better meter in line": a_better_meter,
    "generator's own level": by_its_level, "three at once": three_at_once,
}  # fmt: skip


@dataclass(frozen=True)
class Drawn:
    """One bench with its hidden truths."""

    true: TrueHookUp
    solved: Solved
    amplitude: float  # for the level at the stated plane


def drawn(made: Job, rng: np.random.Generator) -> Drawn:
    """Hidden truths of the bench that is read."""
    hookup = made.hookups[-1]
    true = draw(hookup, made.parts, rng)
    solved = true.solve(made.plan[0].frequency_hz)
    _, out = solved.waves((hookup.stated.element, hookup.stated.port))
    return Drawn(true, solved, math.sqrt(LEVEL) / abs(out))


def shown(made: Job, bench: Drawn, channel: str, rng: np.random.Generator) -> str:
    """What an instrument shows, as a person would type it."""
    item, part = made.channel(channel), made.part_read(channel)
    if made.is_device(channel):
        return f"{LEVEL * 10.0 ** (DEVICE_DB / 10.0) + rng.uniform(-QUARTER_W, QUARTER_W):.6g}"
    at = (item.element, part.ports[0].id)
    accuracy = part.indicators[0].spec
    gain = 1.0 + sum(term.value * rng.uniform(-1.0, 1.0) for term in accuracy)
    if item.measurand.kind is VOLTS:
        volts = gain * abs(bench.solved.volts[at]) * bench.amplitude
        return f"{volts * math.sqrt(8.0):.4g} Vpp" if part.kind is PartKind.OSCILLOSCOPE else f"{volts:.4g} V"
    if item.measurand.kind is AMPERES:
        return f"{gain * abs(bench.solved.amperes[at]) * bench.amplitude:.4g} A"
    if part.kind is PartKind.GENERATOR:  # what it would give into 50 Ω
        back, out = bench.solved.waves(at)
        z, z0 = bench.true.source_ohm, made.hookups[-1].z0_ohm
        given = (abs(out - back * (z - z0) / (z + z0)) * bench.amplitude) ** 2
        return f"{10.0 * math.log10(1e3 * given * gain):.6g} dBm"
    known = bench.true.truths[item.element].part.properties
    if part.kind is PartKind.POWER_METER:
        incident = (abs(bench.solved.waves(at)[0]) * bench.amplitude) ** 2
        watts = incident * known["cal_factor"].value * gain + known["zero_w"].value
        return f"{1e3 * watts:.5g} mW"
    at = (item.element, part.ends[0])
    incident = (abs(bench.solved.waves(at)[0]) * bench.amplitude) ** 2
    return f"{incident / (1.04 + 0.01 * rng.normal()):.5g}"


def typed(made: Job, plan: tuple[PlanPoint, ...], rng: np.random.Generator) -> Job:
    """The job with what one more drawn bench shows entered at a point."""
    bench, (point,) = drawn(made, rng), plan
    for position, channel in enumerate(point.sequence):
        made = enter(made, Slot(point.id, 1, position), shown(made, bench, channel, rng))
    return made


def result_of(made: Job, rng: np.random.Generator) -> Result:
    """One bench drawn, typed and reduced."""
    return reduce(typed(made, made.plan, rng))


def errors(name: str, trials: int, seed: int = 11, halved: str = "") -> np.ndarray:
    """ln(stated/true) over its u, over so many drawn benches; with one input's u halved for a control."""
    rng, known = np.random.default_rng(seed), {halved: 0.5} if halved else {}
    found = []
    for job in on_many(BENCHES[name](), trials, lambda job, plan: typed(job, plan, rng)):
        reference = reduce(job, known=known).reference
        assert reference is not None
        found.append(np.log(reference.value / LEVEL) * reference.value / reference.u)
    return np.concatenate(found)


# asked what a source gives


def without_device(name: str) -> Job:
    """A bench of the study, asked what its source gives."""
    job = BENCHES[name]()
    source, hookup = job.part("source"), job.hookups[-1]
    channels = tuple(item for item in job.channels if not job.is_device(item.id))
    plane = replace(hookup.stated, element=next(i.id for i in hookup.elements if i.part == source.id), port="out")
    job = job.with_hookup(replace(hookup, stated=plane))
    order = tuple(item.id for item in channels)
    stated = replace(job.stated, plane=plane)
    plan = tuple(replace(point, sequence=order) for point in job.plan)
    return replace(job, dut=source.id, channels=channels, order=order, stated=stated, plan=plan, question="output")


def output_of(made: Job, rng: np.random.Generator) -> Output:
    """One bench drawn, typed and reduced."""
    return output.reduce(typed(made, made.plan, rng))


def misses(name: str, trials: int, halved: str = "", seed: int = 5) -> np.ndarray:
    """ln(stated/true) over its u of the power that a source gives, over so many drawn benches; as above."""
    rng, known = np.random.default_rng(seed), {halved: 0.5} if halved else {}
    jobs = on_many(without_device(name), trials, lambda job, plan: typed(job, plan, rng))
    points = [point for job in jobs for point in output.reduce(job, known=known).points]
    return np.array([math.log(point.power_w / LEVEL) * point.power_w / point.u_w for point in points])


SOURCES = tuple(name for name in BENCHES if "generator" not in name)
"""Benches whose source has a power of its own to be found."""
