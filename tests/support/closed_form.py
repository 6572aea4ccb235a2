"""The referee: a job's bench as the former closed form of an oscilloscope at a tee on the load takes it."""

import math

import numpy as np

from fenmist.calibration.gather import load_at, stated_at_input
from fenmist.calibration.job import Job
from fenmist.hookup.line import first_of_kind, main_way
from fenmist.hookup.mismatch import mismatch_before
from fenmist.hookup.network import line_network
from fenmist.kit.feed import cable_of
from fenmist.kit.network import part_network
from fenmist.kit.part import FEEDS, Part, PartKind
from fenmist.methods.scope_across_load import PartLoss, ScopeReadings
from fenmist.methods.scope_chain import Lead, Probe, Scope, Tee
from fenmist.uncertainty.influence import FloatArray
from fenmist.waveform.harmonics import ASSUMED_DBC, Harmonics, harmonics_from_dbc
from fenmist.waveform.response import BandwidthModel


def scope_readings(
    job: Job,
    frequency_hz: FloatArray,
    volts_rms: FloatArray,
    u_reading_v: FloatArray,
    forms: tuple[str, ...] = (),
    digit_rms: FloatArray | None = None,
) -> ScopeReadings:
    """The method's inputs from the job's hook-up and kit, at n points.

    Parameters
    ----------
    job : Job
        Its method reads an oscilloscope across the load.
    frequency_hz, volts_rms, u_reading_v : array, shape (n,)
        In Hz, and in V rms with the standard uncertainty of reading.
    forms : tuple of str
        How the volts were taken at each point; rms where nothing is said.
    digit_rms : array, shape (n,), optional
        Last digit read, V rms.
    """
    scope = part_of_kind(job, PartKind.OSCILLOSCOPE)
    hookup = job.hookup(job.stated.plane.hookup)
    load, state = load_at(job, frequency_hz)
    source = part_of_kind(job, PartKind.TRANSMITTER)
    return ScopeReadings(
        frequency_hz, volts_rms, u_reading_v, state, _scope(scope), _feed(job, scope),
        _tee(part_of_kind(job, PartKind.TEE)), losses_to_tee(job, frequency_hz), hookup.z0_ohm, load.id, source.id,
        forms, _harmonics(source), _mismatch_to_tee(job, frequency_hz), digit_rms,
    )  # fmt: skip


def losses_to_tee(job: Job, frequency_hz: FloatArray) -> tuple[PartLoss, ...]:
    """What every part between the stated plane and the tee takes at frequencies of shape (n,), in the line's order.

    Each is named by its part; where a part is put in twice (a generic one stands for any), the second by its place.

    Parameters
    ----------
    job : Job
        With its hook-up.
    frequency_hz : array, shape (n,)
        In Hz.

    Returns
    -------
    tuple of PartLoss
        Losses in dB with their standard uncertainty, shape (n,).
    """
    hookup = job.hookup(job.stated.plane.hookup)
    found: dict[str, PartLoss] = {}
    meter = job.dut_part.properties.get("loss_db")
    if meter and stated_at_input(job):  # its own loss lies between
        ones = np.ones(frequency_hz.size)
        found[job.dut] = PartLoss(job.dut, job.dut_part.label, meter.value * ones, meter.u * ones)
    behind = False
    for stop in main_way(hookup, job.parts):
        part, settings = job.part(hookup.element(stop.element).part), hookup.element(stop.element).settings
        if part.kind is PartKind.TEE:
            break
        if behind and stop.exit:
            made = part_network(part, settings, frequency_hz, hookup.z0_ohm)
            through = np.abs(made.scattering[:, made.ports.index(stop.exit), made.ports.index(stop.entry)])
            name, label = part.id, part.label
            if name in found:
                name, label = f"{part.id}@{stop.element}", f"{part.label} ({stop.element})"
            loss = -20.0 * np.log10(np.maximum(through, 1e-12))
            found[name] = PartLoss(name, label, loss, made.u_loss_db)
        behind = behind or stop.element == hookup.stated.element
    return tuple(found.values())


def _mismatch_to_tee(job: Job, frequency_hz: FloatArray) -> FloatArray:
    """What open phases between the meter and the tee cost, relative, shape (n,); nothing where no SWR is stated."""
    hookup = job.hookup(job.stated.plane.hookup)
    tee = first_of_kind(hookup, job.parts, PartKind.TEE)
    between = [stop.element for stop in main_way(hookup, job.parts)]
    between = between[between.index(hookup.stated.element) + 1 : between.index(tee)] if tee in between else []
    if tee is None or not any("swr" in job.part(hookup.element(name).part).properties for name in between):
        return np.zeros(frequency_hz.size)
    return mismatch_before(hookup, job.parts, line_network(hookup, job.parts, frequency_hz), tee)


def part_of_kind(job: Job, kind: PartKind) -> Part:
    """The part of a kind in the method's hook-up; raises UnknownIdError."""
    hookup = job.bench
    element_id = first_of_kind(hookup, job.parts, kind)
    return job.part(hookup.element(element_id).part if element_id else str(kind))


def _scope(part: Part) -> Scope:
    bandwidth, noise = part.properties.get("bandwidth_hz"), part.properties.get("noise")
    model = BandwidthModel(part.settings.get("response", BandwidthModel.UNKNOWN))
    return Scope(
        part.indicators[0].spec,
        bandwidth.value if bandwidth else math.inf,
        model,
        part.id,
        noise.value if noise else 0.0,
    )


def feed_part(job: Job) -> Part:
    """The lead or probe between tee and scope."""
    hookup = job.hookup(job.stated.plane.hookup)
    kind = next((kind for kind in FEEDS if first_of_kind(hookup, job.parts, kind)), PartKind.LEAD)
    return part_of_kind(job, kind)


def _feed(job: Job, scope: Part) -> Lead | Probe:
    part = feed_part(job)
    stated = part.properties
    if part.kind is PartKind.PROBE:
        ratio, tip, ground = (stated[name] for name in ("ratio", "capacitance_f", "ground_m"))
        return Probe(
            ratio.value, ratio.u, tip.value, tip.u, ground.value, ground.u, stated["bandwidth_hz"].value,
            stated["setting"].value, part.id,
        )  # fmt: skip
    length, factor, line = (stated[name] for name in ("length_m", "velocity_factor", "line_ohm"))
    end = scope.properties["capacitance_f"]
    return Lead(
        length.value, length.u, factor.value, factor.u, line.value, line.u, end.value, end.u, cable_of(part), part.id
    )


def _tee(part: Part) -> Tee | None:
    arm, body = part.properties.get("arm_m"), part.properties.get("capacitance_f")
    return Tee(arm.value, arm.u, body.value, body.u, part.id) if arm and body else None


def _harmonics(source: Part) -> Harmonics:
    """As stated; of what isn't stated a ceiling is assumed."""
    stated = {order: source.properties.get(f"harmonic_{order}_dbc") for order in (2, 3)}
    measured = all(item is not None and item.measured for item in stated.values())
    return harmonics_from_dbc({order: item.value if item else ASSUMED_DBC for order, item in stated.items()}, measured)
