"""A bench that can be switched on: the hook-up as it was noted, as it truly is, and what is true of its instruments."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import field, replace

import numpy as np

from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp
from fenmist.kit.part import Indicator, Part, PartKind, Property, SpecKind, SpecTerm
from fenmist.measurand import Detector, Kind
from fenmist.simulation.heater import TrueHeater
from fenmist.simulation.needle import AVERAGING, HOLD, PEAK, THERMAL, TrueMovement
from fenmist.simulation.netlist import TrueHookUp, begin_of, draw
from fenmist.simulation.screens import TrueAmmeter, TrueAnalyser, TrueScope, TrueSensor, TrueVoltmeter
from fenmist.simulation.transmitter import TrueTransmitter
from fenmist.simulation.wattmeter import TrueWattmeter, disc

RISE_OFF = 0.5
"""Part of its skin effect by which a heater may be off from what its wire says."""

TrueInstrument = TrueWattmeter | TrueScope | TrueVoltmeter | TrueAmmeter | TrueSensor | TrueAnalyser


@dataclass(frozen=True)
class Setup:
    """Everything that is true of a bench before it is switched on."""

    hookup: HookUp  # as it was noted
    parts: Mapping[str, Part]  # as they are stated
    true: TrueHookUp
    transmitter: TrueTransmitter
    instruments: Mapping[str, TrueInstrument]  # by element
    warms: Mapping[str, complex] = field(default_factory=dict)  # by load: part of its Ω gained once at its rating
    warms_db: Mapping[str, float] = field(default_factory=dict)  # by part: loss gained once the carrier has warmed it
    loose: Mapping[tuple[str, str], float] = field(default_factory=dict)  # by connector: Ω of its contact on average

    def part(self, element: str) -> Part:
        """The part in a place, as it is stated."""
        return self.parts[self.part_in(element)]

    def part_in(self, element: str) -> str:
        """The id of the part in a place."""
        return self.hookup.element(element).part

    def element_of(self, part: str) -> str | None:
        """The place of a part; none where it isn't plugged in."""
        return next((item.id for item in self.hookup.elements if item.part == part), None)

    @property
    def source(self) -> str:
        """The element that the line begins with."""
        return begin_of(self.hookup, self.parts)


def set_up(hookup: HookUp, parts: Mapping[str, Part], rng: np.random.Generator, before: Sequence[Setup] = ()) -> Setup:
    """A bench with hidden truths within what is stated of every part and instrument; the generator's seed decides.

    What stood on one of those `before`, the same bench plugged together otherwise, is what it was there.
    """
    true = draw(hookup, parts, rng, before=[one.true for one in before])
    made = Setup(hookup, parts, true, TrueTransmitter(), {})
    sender = next((one.transmitter for one in before if _source(one) == _source(made)), None)
    known = {one.part_in(at): it for one in before for at, it in one.instruments.items()}
    found = {
        item.id: known.get(item.part) or _instrument(parts, true, item.id, rng) for item in hookup.elements
    }  # fmt: skip
    return replace(
        made, transmitter=sender or _sender(made.part(made.source), rng),
        instruments={element: one for element, one in found.items() if one is not None},
    )  # fmt: skip


def _source(setup: Setup) -> str:
    return setup.part_in(setup.source)


def _sender(part: Part, rng: np.random.Generator) -> TrueTransmitter:
    """A transmitter in order: a fraction of a decibel off, drooping a little; a generator holds its level."""
    if part.kind is PartKind.GENERATOR:
        off = _part(part.indicators[0], rng) if part.indicators else 0.0
        return TrueTransmitter(
            error_db=10.0 * math.log10(1.0 + off), step_db=0.01, wander_db=0.001,
            harmonics={2: _at(-50.0, rng), 3: _at(-60.0, rng)},
        )  # fmt: skip
    rated = part.properties.get("power_w")
    return TrueTransmitter(
        error_db=rng.uniform(-0.3, 0.3), step_db=0.05, droop_db=rng.uniform(0.02, 0.1), wander_db=0.005,
        top_w=1.1 * rated.value if rated else math.inf, harmonics={2: _at(-55.0, rng), 3: _at(-50.0, rng)},
        idle_a=0.6, efficiency=rng.uniform(0.45, 0.6),
    )  # fmt: skip


def _at(decibels: float, rng: np.random.Generator) -> complex:
    return complex(10.0 ** (decibels / 20.0) * np.exp(2j * math.pi * rng.uniform()))


def _told_ratio(hookup: HookUp, parts: Mapping[str, Part], element: str) -> float:
    """What a screen multiplies by: the ratio of the probe before it, as it is stated."""
    mate = hookup.mate(element, parts[hookup.element(element).part].ports[0].id)
    before = parts[hookup.element(mate[0]).part].properties.get("ratio") if mate else None
    return before.value if before else 1.0


def _instrument(
    parts: Mapping[str, Part], true: TrueHookUp, element: str, rng: np.random.Generator
) -> TrueInstrument | None:
    """What is true of what a part shows; none where it shows nothing of its own."""
    part = parts[true.hookup.element(element).part]
    if not part.indicators:
        return None
    shows = part.indicators[0]
    ranges = tuple(item.full_scale for item in shows.ranges)
    known, gain = part.properties, 1.0 + _part(shows, rng)
    if part.kind is PartKind.OSCILLOSCOPE:
        wide = known["bandwidth_hz"].value * rng.uniform(1.0, 1.2)
        told = _told_ratio(true.hookup, parts, element)
        return TrueScope(
            gain, told * rng.uniform(-1e-3, 1e-3), wide, told * 1e-3, int(rng.choice((8, 10, 12))), sets_itself=True,
            multiplied_by=told,
        )  # fmt: skip
    if part.kind is PartKind.VOLTMETER:
        wide = known["bandwidth_hz"].value * rng.uniform(1.0, 1.2) if "bandwidth_hz" in known else math.inf
        return TrueVoltmeter(gain, wide, _share_of_full(shows, rng), ranges)
    if part.kind is PartKind.AMMETER:
        return TrueAmmeter(gain, _heater(known, rng), _share_of_full(shows, rng), ranges)
    if part.kind is PartKind.POWER_METER:
        drawn = true.truths[element].part.properties
        factor = drawn["cal_factor"].value if "cal_factor" in drawn else 1.0
        noise = known["noise_floor_w"].value / 3.0 if "noise_floor_w" in known else 0.0
        zero = drawn["zero_w"].value if "zero_w" in drawn else 0.0
        top = max((item.full_scale for item in shows.ranges), default=math.inf)
        return TrueSensor(factor, gain, zero, noise, noise, 1.2 * top)
    if part.kind is PartKind.ANALYSER:
        return TrueAnalyser(disc(40.0, rng), 1.0 + disc(45.0, rng), 3e-4)
    if part.kind in (PartKind.TRANSMITTER, PartKind.GENERATOR):
        return None
    return _meter(part, shows, rng)


def _heater(known: Mapping[str, Property], rng: np.random.Generator) -> TrueHeater:
    wire = known.get("wire_m")
    return TrueHeater(wire.value, 1.0 + RISE_OFF * rng.uniform(-1.0, 1.0)) if wire is not None else TrueHeater()


def _meter(part: Part, shows: Indicator, rng: np.random.Generator) -> TrueWattmeter:
    """An in-line meter within what is stated of it, its movement by its detector and times."""
    quiet = part.properties.get("directivity_db")
    directivity = quiet.value if quiet else 30.0
    times = shows.times
    movement = TrueMovement(
        {Detector.HOLD: HOLD, Detector.PEAK: PEAK, Detector.THERMAL: THERMAL}.get(shows.detector, AVERAGING),
        times.detector_s or 0.02, times.decay_s or 1.0, period_s=times.needle_s or 0.5, damping=times.damping or 0.8,
        friction=times.friction or 0.0,
    )  # fmt: skip
    full, knee = max((item.full_scale for item in shows.ranges), default=200.0), rng.uniform(0.1, 0.3)
    return TrueWattmeter(
        error_db=10.0 * math.log10(1.0 + _part(shows, rng)), leak=disc(directivity, rng),
        forward_leak=disc(directivity, rng), full_w=full, off_full=_share_of_full(shows, rng), knee_v=knee,
        scale_knee_v=knee, bits=0 if any(item.scale for item in shows.ranges) else 14,
        reflected_db=rng.uniform(-0.1, 0.1), set_to=rng.uniform(0.98, 1.02) if part.kind is PartKind.SWR_METER else 1.0,
        ranges_w=tuple(item.full_scale for item in shows.ranges), movement=movement,
    )  # fmt: skip


def _part(shows: Indicator, rng: np.random.Generator) -> float:
    """Relative error within what is stated as a part of the reading, or in dB; of watts or volts, as it shows them."""
    per_decade = 20.0 if shows.quantity in (Kind.VOLTAGE, Kind.CURRENT) else 10.0
    return sum(_drawn(term, rng, per_decade) for term in shows.stated)


def _drawn(term: SpecTerm, rng: np.random.Generator, per_decade_db: float) -> float:
    if term.kind is SpecKind.OF_READING:
        return term.value * rng.uniform(-1.0, 1.0)
    if term.kind is SpecKind.DB:
        return float(10.0 ** (term.value * rng.uniform(-1.0, 1.0) / per_decade_db) - 1.0)
    return 0.0


def _share_of_full(shows: Indicator, rng: np.random.Generator) -> float:
    """Part of full scale that it stands off, within what is stated so."""
    terms = (term for term in shows.stated if term.kind is SpecKind.OF_RANGE)
    return sum(term.value * rng.uniform(-1.0, 1.0) for term in terms)
