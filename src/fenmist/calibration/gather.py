"""From a job's standing entries to the arrays its method works on."""

import math
import statistics
from dataclasses import dataclass

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.hookup.line import first_of_kind
from fenmist.kit.characterisation import LoadState, load_state
from fenmist.kit.part import Part, PartKind, Property, SpecKind, SpecTerm
from fenmist.methods.scope_across_load import Lead, Scope, ScopeReadings
from fenmist.reading.dial import reading_u
from fenmist.reading.event import AS_FOUND, Reading, Role, Slot
from fenmist.uncertainty.influence import FloatArray, standard_u_from_limit
from fenmist.units.typed import Censoring
from fenmist.waveform.response import BandwidthModel
from fenmist.waveform.sine import RMS_PER_UNIT


@dataclass(frozen=True, eq=False)
class Round:
    """One reference and one DUT reading that belong together."""

    number: int
    reference: Reading
    dut: Reading


@dataclass(frozen=True, eq=False)
class PointReadings:
    """What stands at one plan point."""

    point: PlanPoint
    rounds: tuple[Round, ...]
    open_entries: int
    bounded: int  # readings that are only bounds ("below 0.5")
    entered: int


def readings_by_point(job: Job, phase: str = AS_FOUND) -> tuple[PointReadings, ...]:
    """The standing readings of each plan point, in the plan's order."""
    by_point: dict[str, dict[Slot, Reading | None]] = {point.id: {} for point in job.plan}
    roles: dict[Slot, Role] = {}
    for slot, event in job.standing.items():
        if slot.phase == phase and slot.point in by_point and event.entry is not None:
            by_point[slot.point][slot] = event.entry.reading
            roles[slot] = event.entry.role
    return tuple(_point_readings(point, by_point[point.id], roles) for point in job.plan)


def _point_readings(point: PlanPoint, found: dict[Slot, Reading | None], roles: dict[Slot, Role]) -> PointReadings:
    rounds: dict[int, dict[Role, Reading]] = {}
    bounded = 0
    for slot, reading in found.items():
        if reading is None:
            continue
        if reading.censoring is not Censoring.NONE or reading.value <= 0:
            bounded += 1
            continue
        rounds.setdefault(slot.round, {})[roles[slot]] = reading
    complete = tuple(
        Round(number, pair[Role.REFERENCE], pair[Role.DUT]) for number, pair in sorted(rounds.items()) if len(pair) == 2
    )
    open_entries = sum(1 for reading in found.values() if reading is None)
    return PointReadings(point, complete, open_entries, bounded, len(found))


@dataclass(frozen=True, eq=False)
class Scatter:
    """Mean of the rounds at each of n points and what they scatter by. Arrays have shape (n,)."""

    reference_vrms: FloatArray
    u_reference_vrms: FloatArray  # of reading the screen once
    indicated_w: FloatArray
    u_indicated_w: FloatArray  # of reading the dial once
    u_repeat: FloatArray  # of the mean ratio, relative; 0 for one round
    dof_repeat: FloatArray


def scatter(job: Job, points: tuple[PointReadings, ...]) -> Scatter:
    """Average the rounds as log ratios, so that a drift of the carrier between rounds drops out.

    Notes
    -----
    The mean ratio DUT/reference is the geometric one; the powers shown are geometric means as well. What a dial or a
    screen can be read to counts once per point, not per round: the eye repeats its own habit.
    """
    rows = [_scatter_row(job, point) for point in points]
    return Scatter(*(np.array(column, float) for column in zip(*rows, strict=True)))


def _scatter_row(job: Job, found: PointReadings) -> tuple[float, ...]:
    # a handful of rounds: plain Python is faster here than arrays
    volts = [item.reference.value * RMS_PER_UNIT[item.reference.unit] for item in found.rounds]
    watts = [item.dut.value for item in found.rounds]
    count = len(found.rounds)
    log_ratio = [math.log(w) - 2.0 * math.log(v) for v, w in zip(volts, watts, strict=True)]
    u_repeat = statistics.stdev(log_ratio) / math.sqrt(count) if count > 1 else 0.0
    mean_v, mean_w = statistics.geometric_mean(volts), statistics.geometric_mean(watts)
    last = found.rounds[-1]
    dial = job.range_of(found.point, Role.DUT)
    at_mean = Reading(mean_w, "W", last.dut.digit)
    u_v = max(item.reference.digit * RMS_PER_UNIT[item.reference.unit] for item in found.rounds) / math.sqrt(12.0)
    dof = count - 1 if count > 1 else math.inf
    return mean_v, u_v, mean_w, reading_u(at_mean, dial, job.part_of_division), u_repeat, dof


def load_at(job: Job, frequency_hz: FloatArray) -> tuple[Part, LoadState]:
    """The job's load and its impedance at frequencies of shape (n,)."""
    part = part_of_kind(job, PartKind.LOAD)
    nominal = part.properties["nominal_ohm"].value
    return part, load_state(part.characterisation("impedance_ohm"), frequency_hz, nominal)


def part_of_kind(job: Job, kind: PartKind) -> Part:
    """The part of a kind in the method's hook-up; raises UnknownIdError."""
    hookup = job.hookup(job.methods[0].measurand.plane.hookup)
    element_id = first_of_kind(hookup, job.parts, kind)
    return job.part(hookup.element(element_id).part if element_id else str(kind))


def scope_readings(job: Job, frequency_hz: FloatArray, volts_rms: FloatArray, u_reading_v: FloatArray) -> ScopeReadings:
    """The method's inputs from the job's hook-up and kit, at n points."""
    scope = part_of_kind(job, PartKind.OSCILLOSCOPE)
    hookup = job.hookup(job.methods[0].measurand.plane.hookup)
    load, state = load_at(job, frequency_hz)
    loss, u_loss = 0.0, 0.0
    if first_of_kind(hookup, job.parts, PartKind.JUMPER):
        stated = part_of_kind(job, PartKind.JUMPER).properties["loss_db"]
        loss, u_loss = stated.value, _u(stated)
    return ScopeReadings(
        frequency_hz, volts_rms, u_reading_v, state, _scope(scope), _lead(job, scope), loss, u_loss,
        hookup.z0_ohm, load.id,
    )  # fmt: skip


def _scope(part: Part) -> Scope:
    terms = part.indicators[0].spec
    gain = next((term.value for term in terms if term.kind is SpecKind.OF_READING), 0.0)
    bandwidth = part.properties.get("bandwidth_hz")
    model = BandwidthModel(part.settings.get("response", BandwidthModel.ONE_POLE))
    return Scope(gain, bandwidth.value if bandwidth else math.inf, model, part.id)


def _lead(job: Job, scope: Part) -> Lead:
    lead = part_of_kind(job, PartKind.LEAD).properties
    pairs = [lead[name] for name in ("length_m", "velocity_factor", "line_ohm")]
    pairs.append(scope.properties["capacitance_f"])
    flat = [number for item in pairs for number in (item.value, _u(item))]
    return Lead(*flat)


def _u(stated: Property) -> float:
    """Standard uncertainty of a property from its stated limit."""
    return 0.0 if stated.spec is None else _u_of_term(stated.spec, stated.value)


def _u_of_term(term: SpecTerm, value: float) -> float:
    limit = term.value if term.kind is SpecKind.ABSOLUTE else term.value * abs(value)
    return float(standard_u_from_limit(limit, term.distribution))
