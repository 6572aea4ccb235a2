"""Jobs of the demonstration on other benches: references that disagree, a divider below 1 MHz, a milliwatt, a loss,
an SWR meter that flatters, two meters with a tuner between them, a home-built meter.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import datetime

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.planning import BY_FREQUENCY, points_at, with_points
from fenmist.hookup.editing import free_side_port, inserted
from fenmist.hookup.templates import OF_HOME_BUILT, OF_LOSS, OF_MATCH, OF_SOURCES, TEMPLATES, Bench, from_template
from fenmist.kit import generic, shelf
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import Component, Indicator, Part, PartKind, Property, Range, SpecKind, SpecTerm
from fenmist.measurand import Kind
from fenmist.methods.constants import LAWS
from fenmist.procedures.comparison import make as comparison
from fenmist.procedures.constants import make as constants
from fenmist.procedures.constants.asked import IN_USE, LAW
from fenmist.procedures.loss import make as loss
from fenmist.procedures.output import make as output
from fenmist.procedures.reflection import make as reflection
from fenmist.rf.circuit import GROUND, BranchKind
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.simulation.instruments import shown
from fenmist.simulation.matchmeter import TrueMatchMeter
from fenmist.simulation.netlist import Solved, TrueHookUp, Truth, draw
from fenmist.simulation.reader import read_needle, read_screen

Errors = Mapping[str, Callable[[float], float]]
"""Factor on what an instrument shows, by its part's id, over frequency in Hz."""

METERS: Mapping[str, TrueMatchMeter] = {
    "phalarope": TrueMatchMeter(leak=-0.088 + 0.012j, forward_leak=0.03j),
    "knot": TrueMatchMeter(leak=0.02 - 0.01j, forward_leak=0.01 + 0j),
}
"""What the meters of match truly are, by their part's id."""


NOISE = 0.001
"""By which a sensor's readings scatter, relative."""


def _share(value: float) -> tuple[SpecTerm, ...]:
    return (SpecTerm(SpecKind.OF_READING, value, basis="data sheet"),)


def more_kit() -> tuple[Part, ...]:
    """What those benches need beside the workshop's other equipment."""
    whimbrel = shelf.inline_meter(
        "whimbrel", "Whimbrel 200", (200.0,), None, _share(0.05), serial="W-77", span_hz=(1.8e6, 60e6)
    )
    redshank = shelf.inline_meter(
        "redshank", "Redshank 100", (100.0,), None, _share(0.05), serial="RS-4", span_hz=(None, None)
    )
    pochard = generic.ammeter("pochard", "Pochard 3 A", 3.0)
    pochard = replace(pochard, indicators=(replace(pochard.indicators[0], ranges=(), spec=_share(0.015)),))
    volts = next(part for part in generic.generics() if part.kind is PartKind.VOLTMETER)
    range_ = Range("10", 10.0, "V", spec=_share(0.015))
    volts = replace(
        volts, id="wigeon", label="Wigeon voltmeter",
        indicators=(replace(volts.indicators[0], ranges=(range_,)),),
        properties={**volts.properties, "resistance_ohm": Property(1e6, "Ω")},
    )  # fmt: skip
    divider = generic.divider("garganey", "Garganey divider", 22e3, 2.7e3, 6e-12)
    measured = {"R1": (22.07e3, 30.0), "R2": (2.66e3, 4.0)}
    divider = replace(divider, components=tuple(
        replace(item, measured=measured[item.id][0], u_measured=measured[item.id][1]) if item.id in measured else item
        for item in divider.components
    ))  # fmt: skip
    level = Indicator("level", "its level", Kind.INCIDENT, "dBm", spec=(SpecTerm(SpecKind.DB, 0.5, "dB"),))
    shelf_generator = next(part for part in generic.generics() if part.kind is PartKind.GENERATOR)
    osier = shelf.dummy_load("osier", "Osier 100", 100.0, minutes=10.0, cooling_minutes=15.0, serial="O-3")
    table = table_from_rows([(1e5, "50.3"), (1e6, "50.4+j0.2"), (1e7, "51.2+j1.1")], 0.005, "workshop analyser")
    couplers = [
        replace(part, properties={**part.properties, "swr": Property(1.06, "")})
        for part in (
            generic.coupler("lapwing-a", "Lapwing coupler A", 40.0, 32.0, 0.04, 300.0),
            generic.coupler("lapwing-b", "Lapwing coupler B", 40.0, 32.0, 0.04, 300.0),
        )
    ]
    sensors = [
        generic.power_meter(name, label, damage_w=0.1, top_w=0.02, noise_w=1e-9, accuracy=_share(0.02))
        for name, label in (("ruff", "Ruff sensor"), ("reeve", "Reeve sensor"))
    ]
    shoveler = shelf.jumper("shoveler", "Shoveler jumper", 0.02, 0.015)
    shoveler = replace(shoveler, properties={**shoveler.properties, "swr": Property(1.06, "")})
    sanderling = replace(
        next(part for part in generic.generics() if part.kind is PartKind.HOME_BUILT), id="sanderling",
        label="Sanderling, home-built", serial="one of one",
    )  # fmt: skip
    return (
        sanderling, *_of_match(), *couplers, *sensors, shoveler, whimbrel, redshank,
        replace(osier, characterisations=(table,)),
        pochard, volts, divider,
        replace(shelf_generator, id="dotterel", label="Dotterel generator", serial="DG-9", indicators=(level,)),
    )  # fmt: skip


def _of_match() -> tuple[Part, ...]:
    """Meters of match, known ends, a tuner."""
    kit = {part.id: part for part in generic.generics()}
    phalarope = replace(kit["generic-swr-meter"], id="phalarope", label="Phalarope SWR meter", serial="PH-12")
    knot = replace(kit["generic-digital"], id="knot", label="Knot 200, SWR and watts", serial="K2-05")
    forward, *others = knot.indicators
    shows = (forward, *(replace(item, spec=()) if item.quantity is Kind.SWR else item for item in others))
    knot = replace(knot, indicators=shows, properties={**knot.properties, "directivity_db": Property(28.0, "dB")})
    ends = [
        replace(
            kit["generic-mismatch"], id=f"stint-{ohm}", label=f"Stint {ohm} Ω",
            properties={**kit["generic-mismatch"].properties,
                        "nominal_ohm": Property(float(ohm), "Ω", SpecTerm(SpecKind.OF_READING, 0.01))},
        )
        for ohm in (50, 25, 100, 150)
    ]  # fmt: skip
    tuner = replace(kit["generic-tuner"], id="merganser", label="Merganser tuner")
    return phalarope, knot, *ends, tuner


def add_benches(
    session: Session, kit: Mapping[str, Part], stamp: Callable[[], datetime], job_of: Callable[[Job], Job]
) -> None:
    """Add the jobs, read; `job_of` sets what every job of the workshop carries."""
    random = np.random.default_rng(7)
    for make in (_tuner, _flatters, _loss, _milliwatt, _beacon, _divider, _three, _home_built):
        made, errors = make(kit, stamp())
        session.logbook.add_job(job_of(made))
        read_bench(session.open(made.id), errors, random)


# the jobs


def _three(kit: Mapping[str, Part], at: datetime) -> tuple[Job, Errors]:
    """A scope, an ammeter and a sensor on one line; the sensor's steps stand 10 dB further than was noted."""
    parts = [kit[name] for name in ("plover", "whimbrel", "tee", "reedmace", "lead", "sedge")]
    made = from_template(TEMPLATES[0], parts, comparison.LINE)
    hookup, known = made.hookup, {part.id: part for part in parts}
    for name in ("pochard", "curlew"):
        known[name] = kit[name]
        element = "load" if name == "pochard" else "ammeter"
        before = hookup.mate(element, known[next(i.part for i in hookup.elements if i.id == element)].ports[0].id)
        hookup = inserted(hookup, *(before or ("tee", "b")), kit[name])
    for name, on in (("sallow", "tap"), ("snipe", "attenuator")):
        known[name] = kit[name]
        port = free_side_port(hookup, known, on) if on == "tap" else known["sallow"].ends[-1]
        hookup = inserted(hookup, on, port, kit[name])
    bench = Bench(hookup, tuple(known.values()), ("oscilloscope", "ammeter", "meter"))
    job = comparison.begin("demo-whimbrel", "Whimbrel 200 against three references", bench, "whimbrel", at)
    job = replace(job, plan=points_at(job, (3.65e6, 8.291e6, 14.2e6), (50.0, 100.0)), purpose="which one is wrong?")
    return job, {"whimbrel": lambda f: 0.985 - 0.0006 * f / 1e6, "snipe": lambda _: 0.1}


def _home_built(kit: Mapping[str, Part], at: datetime) -> tuple[Job, Errors]:
    """Two detectors whose windings aren't alike, against an oscilloscope; the firmware has a neighbour's constants."""
    label = "oscilloscope across the load, then the meter turned round"
    template = next(item for item in OF_HOME_BUILT if item.label == label)
    parts = [kit[name] for name in ("plover", "jumper", "tee", "reedmace", "lead", "sedge")]
    bench = from_template(template, parts, comparison.LINE, kit["sanderling"])
    job = constants.begin("demo-sanderling", "Sanderling: constants for its firmware", bench, "sanderling", at)
    levels = [share * constants.MOST_W for share in constants.SHARES]
    job = with_points(job, points_at(job, (3.65e6, 14.2e6), levels), BY_FREQUENCY)
    parameters = {**job.method.parameters, LAW: float(list(LAWS).index("detector"))}
    parameters |= {f"{IN_USE}{n}": value for n, value in enumerate((4.0, 0.05))}
    return replace(job, method=replace(job.method, parameters=parameters)), {}


def _detected(watts: float, arm: str, frequency_hz: float) -> float:
    """What a detector of that meter gives: a coupled peak, a diode's own law, a little less at the top."""
    coupled = 0.05 * math.sqrt(100.0 * watts) * (0.97 if arm == "reflected" else 1.0) * (1.0 - 2e-9 * frequency_hz)
    return 0.045 * math.log(float(np.i0(coupled / 0.045)))


def _divider(kit: Mapping[str, Part], at: datetime) -> tuple[Job, Errors]:
    """Below 1 MHz the ordinary meter reads a third; a divider of measured pieces and a voltmeter tell."""
    template = next(item for item in TEMPLATES if item.label == "voltmeter behind a divider")
    parts = [kit[name] for name in ("plover", "redshank", "tee", "osier", "garganey", "wigeon")]
    bench = from_template(template, parts, comparison.LINE)
    job = comparison.begin("demo-redshank", "Redshank 100 below 1 MHz", bench, "redshank", at)
    job = replace(job, plan=points_at(job, (137e3, 475e3, 950e3, 1.85e6), (80.0,), 2))
    return job, {"redshank": lambda f: 1.0 / (1.0 + 2.0 * (137e3 / f) ** 2)}


def _milliwatt(kit: Mapping[str, Part], at: datetime) -> tuple[Job, Errors]:
    """A generator into a sensor, against the level it says it gives."""
    fitting = (item for item in OF_SOURCES if item.label == "sensor on the output")
    template = next(item for item in fitting if item.stated is PartKind.GENERATOR)
    bench = from_template(template, [kit["dotterel"], kit["snipe"]], comparison.LINE)
    job = output.begin("demo-dotterel", "Dotterel generator: is a milliwatt one?", bench, "dotterel", at)
    job = replace(job, plan=points_at(job, (2.182e6, 8.291e6, 27.5e6), (1e-4, 1e-3), 2))
    return job, {"dotterel": lambda f: 10.0 ** (-(0.15 + 0.012 * f / 1e6) / 10.0)}


def _beacon(kit: Mapping[str, Part], at: datetime) -> tuple[Job, Errors]:
    """A low-frequency beacon by the ammeter before its load: it gives a fifth less than its own meter shows."""
    own = Indicator("own_meter", "its own meter", Kind.INCIDENT, "W", spec=(SpecTerm(SpecKind.OF_READING, 0.1),))
    beacon = replace(shelf.transmitter("grebe", "Grebe beacon", 100.0, "GB-474"), indicators=(own,))
    template = next(
        item for item in OF_SOURCES
        if item.label == "ammeter before the load" and item.stated is PartKind.TRANSMITTER
    )  # fmt: skip
    bench = from_template(template, [beacon, kit["pochard"], kit["osier"]], comparison.LINE)
    job = output.begin("demo-grebe", "Grebe beacon at 474 kHz: what does it give?", bench, "grebe", at)
    return replace(job, plan=points_at(job, (474e3,), (20.0, 50.0, 80.0), 2)), {"grebe": lambda _: 0.8}


def _loss(kit: Mapping[str, Part], at: datetime) -> tuple[Job, Errors]:
    """A jumper between two couplers: at the low end it takes less than can be seen."""
    template = next(item for item in OF_LOSS if item.label == "two couplers" and item.stated is PartKind.JUMPER)
    parts = [kit[name] for name in ("plover", "lapwing-a", "lapwing-b", "reedmace", "ruff", "reeve")]
    bench = from_template(template, parts, comparison.LINE, kit["shoveler"])
    job = loss.begin("demo-shoveler", "Shoveler jumper: what does it take?", bench, "shoveler", at)
    job = with_points(job, points_at(job, (2.182e6, 8.291e6, 16.4e6), (80.0,), 2), BY_FREQUENCY)
    return job, {}


def _match_bench(kit: Mapping[str, Part], label: str, device: str, *names: str) -> Bench:
    template = next(item for item in OF_MATCH if item.label == label and item.stated is kit[device].kind)
    return from_template(template, [kit[name] for name in names], comparison.LINE, kit[device])


def _flatters(kit: Mapping[str, Part], at: datetime) -> tuple[Job, Errors]:
    """An SWR meter whose directivity is poorer than it claims: it makes a poor load look good."""
    ends = ("stint-50", "stint-25", "stint-100", "stint-150")
    bench = _match_bench(kit, "known mismatches in turn", "phalarope", "plover", *ends)
    job = reflection.begin("demo-phalarope", "Phalarope SWR meter: does it flatter?", bench, "phalarope", at)
    return replace(job, plan=points_at(job, (3.65e6, 14.2e6), (10.0,), 2)), {}


def _tuner(kit: Mapping[str, Part], at: datetime) -> tuple[Job, Errors]:
    """Two meters that disagree and are both right: a tuner works between them."""
    template = next(
        item for item in OF_MATCH if item.label == "another meter behind a tuner" and
        (item.stated, item.read) == (PartKind.SWR_METER, (PartKind.INLINE_METER,))
    )  # fmt: skip
    parts = [kit[name] for name in ("plover", "merganser", "knot", "stint-150")]
    bench = from_template(template, parts, comparison.LINE, kit["phalarope"])
    job = reflection.begin("demo-merganser", "Two SWR meters and a tuner: which one lies?", bench, "phalarope", at)
    hookup = replace(
        job.bench, elements=tuple(
            replace(item, settings={"tuner": "in line"}) if item.part == "merganser" else item
            for item in job.bench.elements
        ),
    )  # fmt: skip
    job = job.with_hookup(hookup)
    return replace(job, plan=points_at(job, (7.1e6,), (10.0,), 2)), {}


def _as_set(part: Part, frequency_hz: float) -> Part:
    """The tuner as somebody set it: an L of coil and capacitor that makes 150 Ω look like 47 Ω."""
    low, high = 47.0, 150.0
    q = math.sqrt(high / low - 1.0)
    omega = 2.0 * math.pi * frequency_hz
    coil = Component("L", BranchKind.INDUCTOR, ("in", "out"), low * q / omega)
    shunt = Component("C", BranchKind.CAPACITOR, ("out", GROUND), q / (omega * high))
    return replace(part, components=(coil, shunt))


# reading them


def read_bench(job: OpenJob, errors: Errors, random: np.random.Generator) -> None:
    """Read a job's plan on its true benches, and enter what was read."""
    true = _true_benches(job.job, random)
    solved: dict[tuple[str, float], Solved] = {}
    gains = {part.id: 1.0 + 0.006 * random.uniform(-1.0, 1.0) for part in map(job.job.part_read, _read_in(job.job))}
    for point in job.job.plan:
        bench, key = true[point.hookup], (point.hookup, point.frequency_hz)
        here = solved.setdefault(key, bench.solve(point.frequency_hz))
        set_to = (
            1.0 + 0.01 * random.uniform(-1.0, 1.0) if job.job.legs else 1.0
        )  # anew after each change of the hook-up
        for slot in job.view.slots(point):
            channel = point.sequence[slot.position]
            gain = gains[job.job.part_read(channel).id] * (1.0 + NOISE * random.normal() if job.job.legs else 1.0)
            job.begin_entry(slot)
            job.enter(slot, _text(job.job, point, channel, bench, here, gain * set_to, errors, random))


def _read_in(job: Job) -> list[str]:
    return [item.id for item in job.channels]


def _true_benches(job: Job, random: np.random.Generator) -> dict[str, TrueHookUp]:
    """The truth of each hook-up that is read: a part is the same on all of them."""
    made: dict[str, TrueHookUp] = {}
    truths: dict[str, Truth] = {}
    for leg in dict.fromkeys(leg.hookup for leg in job.visits):
        hookup = job.hookup(leg)
        drawn = draw(hookup, job.parts, random, source_swr=1.1)
        own = {item.id: truths.setdefault(item.part, drawn.truths[item.id]) for item in hookup.elements}
        for item in hookup.elements:
            if job.part(item.part).kind is PartKind.TUNER and item.settings:
                own[item.id] = replace(own[item.id], part=_as_set(own[item.id].part, job.plan[0].frequency_hz))
        source = next(iter(made.values()), drawn).source_ohm
        made[leg] = replace(drawn, truths=own, source_ohm=source)
    return made


def _text(
    job: Job, point: PlanPoint, channel: str, true: TrueHookUp, solved: Solved, gain: float, errors: Errors,
    random: np.random.Generator,
) -> str:  # fmt: skip
    item, part, shows = job.channel(channel), job.part_read(channel), job.indicator(channel)
    error = errors[part.id](point.frequency_hz) if part.id in errors else 1.0
    plane = job.hookup(point.hookup).stated
    source = errors[job.dut](point.frequency_hz) if job.question == output.ID else 1.0
    given = point.target_w * source
    into, out = solved.waves((plane.element, plane.port))
    goes_in = bool(job.legs) and job.question != constants.ID
    amplitude = math.sqrt(given) / abs(into if goes_in else out)
    if item.measurand.kind is Kind.DETECTED:
        watts = abs(solved.waves((item.element, item.measurand.plane.port))[1] * amplitude) ** 2
        return read_screen(_detected(watts, shows.id, point.frequency_hz), 4, 0.001, random)
    if part.id in METERS and item.measurand.kind is not Kind.VOLTAGE:
        root = math.sqrt(given) / abs(out)
        into, out = solved.waves((item.element, item.measurand.plane.port))
        return _match_text(job, channel, METERS[part.id], out * root, into * root, random)
    if job.is_device(channel) and job.question == output.ID:  # as it is set
        return f"{10.0 * math.log10(point.target_w / 1e-3):.2f} dBm"
    if job.is_device(channel):
        return read_screen(point.target_w * error * gain, 3, 0.001, random)
    value = gain * error * shown(true, solved, item.element, part, item.measurand.kind, amplitude)
    if item.measurand.kind is Kind.VOLTAGE:
        factor = math.sqrt(8.0) if shows.unit == "Vpp" else 1.0
        return read_screen(value * factor, 4, 0.001, random)
    if item.measurand.kind is Kind.CURRENT:
        return f"{read_needle(value, 0.1, 0.1, random):g}"
    return f"{10.0 * math.log10(value / 1e-3):.2f} dBm"


def _match_text(
    job: Job, channel: str, meter: TrueMatchMeter, forward: complex, back: complex, random: np.random.Generator
) -> str:
    """What somebody reads off a meter of match."""
    shows, watts = job.indicator(channel), meter.watts(forward, back)
    if shows.quantity in (Kind.INCIDENT, Kind.REFLECTED):
        return f"{watts[shows.quantity is Kind.REFLECTED]:.1f}"
    swr = meter.swr(forward, back)
    scale = shows.ranges[0].scale if shows.ranges else None
    if scale is None:
        return f"{swr:.2f}"
    return f"{max(read_needle(swr, scale.division_at(swr), 0.25, random), 1.0):.3g}"
