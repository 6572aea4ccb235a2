"""Evidence to notes: what a good colleague would remark, most severe first, one note per rule."""

import numpy as np

from fenmist.calibration.gather import load_at, part_of_kind, scope_readings
from fenmist.calibration.job import Job
from fenmist.calibration.reduction import Result
from fenmist.findings.note import Note, in_order
from fenmist.judgement import entry_rules, job_rules
from fenmist.judgement.physics_rules import bandwidth_note, feed_note, load_notes
from fenmist.kit.part import PartKind
from fenmist.methods.scope_across_load import ScopeReadings, power_corrections


def judge(job: Job, result: Result, as_of: str) -> tuple[Note, ...]:
    """All notes on a job.

    Parameters
    ----------
    job, result
        The job and what `reduce` made of it.
    as_of : str
        The day it is looked at, ISO 8601: nothing else here knows today.
    """
    notes: list[Note] = [*job_rules.overload_notes(job), *job_rules.voltage_caution(job)]
    notes += job_rules.reference_history(job, as_of)
    if job.plan:
        notes += reference_notes(job)
    notes += entry_rules.decimal_slips(job)
    notes += entry_rules.bottom_of_scale(job)
    notes += entry_rules.off_scale(job)
    notes += entry_rules.open_entries(job)
    notes += job_rules.tur_note(result)
    notes += job_rules.engine_note(result)
    return in_order(tuple(notes))


def reference_notes(job: Job) -> tuple[Note, ...]:
    """What bandwidth, lead and load will do at the planned points: known before anything is read."""
    frequencies = np.array(sorted({point.frequency_hz for point in job.plan}))
    ones = np.ones_like(frequencies)
    inputs = scope_readings(job, frequencies, ones, 0.0 * ones)
    nominal = part_of_kind(job, PartKind.LOAD).properties["nominal_ohm"].value
    _, state = load_at(job, frequencies)
    limits = dict(job.methods[0].parameters)
    return (*physics_notes(inputs, limits, "scope", "lead"), *load_notes("load", frequencies, state, nominal))


def physics_notes(
    inputs: ScopeReadings, limits: dict[str, float], about_scope: str, about_lead: str
) -> tuple[Note, ...]:
    """Bandwidth and lead, for a job's points or for one power from volts."""
    frequencies = inputs.frequency_hz
    found = [
        bandwidth_note(
            about_scope,
            frequencies,
            inputs.chain.bandwidth_hz,
            power_corrections(inputs)["bandwidth"],
            limits,
        )
    ]
    found.append(feed_note(about_lead, inputs.chain))
    return tuple(note for note in found if note is not None)
