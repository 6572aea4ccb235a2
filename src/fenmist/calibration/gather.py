"""From a job's hook-up and kit to what its method works on."""

import math

from fenmist.calibration.job import Job
from fenmist.hookup.line import first_of_kind
from fenmist.kit.characterisation import LoadState, load_state
from fenmist.kit.feed import cable_of
from fenmist.kit.impedance import HOT_IMPEDANCE, IMPEDANCE
from fenmist.kit.part import FEEDS, Part, PartKind, Property, SpecKind, SpecTerm
from fenmist.methods.scope_across_load import ScopeReadings
from fenmist.methods.scope_chain import Lead, Probe, Scope, Tee
from fenmist.uncertainty.influence import FloatArray, standard_u_from_limit
from fenmist.waveform.harmonics import ASSUMED_DBC, Harmonics, harmonics_from_dbc
from fenmist.waveform.response import BandwidthModel


def load_at(job: Job, frequency_hz: FloatArray) -> tuple[Part, LoadState]:
    """The job's load and its impedance at frequencies of shape (n,)."""
    part = part_of_kind(job, PartKind.LOAD)
    nominal = part.properties["nominal_ohm"].value
    heat = job.methods[0].parameters.get(HEAT)
    tables = part.characterisation(IMPEDANCE), part.characterisation(HOT_IMPEDANCE)
    return part, load_state(tables[0], frequency_hz, nominal, tables[1], heat)


HEAT = "load_heat"
"""Method parameter: how hot the load is, 0 to 1; left out, somewhere between its cold and its hot table."""


def part_of_kind(job: Job, kind: PartKind) -> Part:
    """The part of a kind in the method's hook-up; raises UnknownIdError."""
    hookup = job.hookup(job.methods[0].measurand.plane.hookup)
    element_id = first_of_kind(hookup, job.parts, kind)
    return job.part(hookup.element(element_id).part if element_id else str(kind))


def scope_readings(
    job: Job,
    frequency_hz: FloatArray,
    volts_rms: FloatArray,
    u_reading_v: FloatArray,
    forms: tuple[str, ...] = (),
) -> ScopeReadings:
    """The method's inputs from the job's hook-up and kit, at n points."""
    scope = part_of_kind(job, PartKind.OSCILLOSCOPE)
    hookup = job.hookup(job.methods[0].measurand.plane.hookup)
    load, state = load_at(job, frequency_hz)
    jumper, meter = Property(0.0, "dB"), Property(0.0, "dB")
    if first_of_kind(hookup, job.parts, PartKind.JUMPER):
        jumper = part_of_kind(job, PartKind.JUMPER).properties["loss_db"]
    if hookup.stated.port == "in":  # stated at the meter's input: its own loss lies between
        meter = job.dut_part.properties.get("loss_db", meter)
    return ScopeReadings(
        frequency_hz, volts_rms, u_reading_v, state, _scope(scope), _feed(job, scope),
        _tee(part_of_kind(job, PartKind.TEE)), jumper.value, _u(jumper), meter.value, _u(meter), hookup.z0_ohm,
        load.id, forms, _harmonics(part_of_kind(job, PartKind.TRANSMITTER)),
    )  # fmt: skip


def _scope(part: Part) -> Scope:
    terms = part.indicators[0].spec
    gain = next((term.value for term in terms if term.kind is SpecKind.OF_READING), 0.0)
    bandwidth, noise = part.properties.get("bandwidth_hz"), part.properties.get("noise")
    model = BandwidthModel(part.settings.get("response", BandwidthModel.UNKNOWN))
    return Scope(gain, bandwidth.value if bandwidth else math.inf, model, part.id, noise.value if noise else 0.0)


def feed_part(job: Job) -> Part:
    """The lead or probe between tee and scope."""
    hookup = job.hookup(job.methods[0].measurand.plane.hookup)
    kind = next((kind for kind in FEEDS if first_of_kind(hookup, job.parts, kind)), PartKind.LEAD)
    return part_of_kind(job, kind)


def _feed(job: Job, scope: Part) -> Lead | Probe:
    part = feed_part(job)
    stated = part.properties
    if part.kind is PartKind.PROBE:
        ratio, tip, ground = (stated[name] for name in ("ratio", "capacitance_f", "ground_m"))
        return Probe(
            ratio.value, _u(ratio), tip.value, _u(tip), ground.value, _u(ground), stated["bandwidth_hz"].value,
            stated["setting"].value, part.id,
        )  # fmt: skip
    length, factor, line = (stated[name] for name in ("length_m", "velocity_factor", "line_ohm"))
    end = scope.properties["capacitance_f"]
    return Lead(
        length.value, _u(length), factor.value, _u(factor), line.value, _u(line), end.value, _u(end), cable_of(part)
    )


def _tee(part: Part) -> Tee | None:
    arm, body = part.properties.get("arm_m"), part.properties.get("capacitance_f")
    return Tee(arm.value, _u(arm), body.value, _u(body)) if arm and body else None


def _harmonics(source: Part) -> Harmonics:
    """As stated; of what isn't stated a ceiling is assumed."""
    stated = {order: source.properties.get(f"harmonic_{order}_dbc") for order in (2, 3)}
    measured = all(item is not None and item.measured for item in stated.values())
    return harmonics_from_dbc({order: item.value if item else ASSUMED_DBC for order, item in stated.items()}, measured)


def _u(stated: Property) -> float:
    """Standard uncertainty of a property from its stated limit."""
    return 0.0 if stated.spec is None else _u_of_term(stated.spec, stated.value)


def _u_of_term(term: SpecTerm, value: float) -> float:
    limit = term.value if term.kind is SpecKind.ABSOLUTE else term.value * abs(value)
    return float(standard_u_from_limit(limit, term.distribution))
