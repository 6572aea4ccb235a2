"""What bandwidths, leads, probes and the load will do at the planned points: known before anything is read."""

from collections.abc import Iterator

import numpy as np

from fenmist.calibration.gather import load_at, load_of
from fenmist.calibration.job import Job
from fenmist.calibration.references import References, references_planned
from fenmist.findings.note import Note, Severity
from fenmist.hookup.line import Stop
from fenmist.kit.part import Part, PartKind
from fenmist.methods.physics_rules import Hanging, bandwidth_note, feed_note, load_notes
from fenmist.units.display import percent

SETTING_OFF = 0.05
"""Relative difference of a probe's ratio and the instrument's setting that is no tolerance any more (Fenmist's own)."""


def reference_notes(job: Job) -> tuple[Note, ...]:
    """All of them, of every reference that the plan reads."""
    return job.once("reference notes", lambda: tuple(_made(job)))


def _made(job: Job) -> Iterator[Note]:
    alike: dict[tuple[str, tuple[str, ...]], set[float]] = {}
    for point in job.to_read:
        alike.setdefault((point.hookup, job.references_of(point)), set()).add(point.frequency_hz)
    for (hookup, channels), frequencies in alike.items():
        if channels:
            yield from _of_references(job, references_planned(job, hookup, np.array(sorted(frequencies)), channels))
    yield from _of_load(job)


def _of_references(job: Job, found: References) -> Iterator[Note]:
    f, limits = found.bench.frequency_hz, job.method.parameters
    for indication, mean, stops in zip(found.indications, found.means, found.feeds, strict=True):
        element, label = job.channel(mean.channel).element, indication.read.part.label
        correction = indication.corrections().get("bandwidth", np.ones_like(f))
        note = bandwidth_note(element, label, f, indication.bandwidth_hz, correction, limits)
        if note is not None:
            yield note
        for stop in stops:
            yield from _of_feed(job, found, stop)


def _of_feed(job: Job, found: References, stop: Stop) -> Iterator[Note]:
    part = job.part(found.bench.hookup.element(stop.element).part)
    is_probe = part.kind is PartKind.PROBE
    length = part.properties.get("ground_m" if is_probe else "length_m")
    if length is not None:
        added = np.abs(found.raised(stop)) ** 2 - 1.0
        note = feed_note(stop.element, found.bench.frequency_hz, added, Hanging(length.value, is_probe))
        if note is not None:
            yield note
    if is_probe:
        yield from _probe_setting(part, stop.element)


def _probe_setting(part: Part, about: str) -> Iterator[Note]:
    """The instrument multiplies by another number than the probe divides by."""
    ratio, setting = part.properties["ratio"].value, part.properties["setting"].value
    if abs(ratio / setting - 1.0) <= SETTING_OFF:
        return
    power = (ratio / setting) ** 2
    yield Note(
        "probe.setting", Severity.DOUBT, about,
        f"The probe divides by {ratio:g}, the oscilloscope multiplies by {setting:g}.",
        f"Read as it stands the power would be {'low' if power > 1 else 'high'} by a factor of "
        f"{max(power, 1 / power):.3g}; it is corrected ({percent(power - 1.0, plus=True)}).",
        "Set the oscilloscope to the probe, or check the switch on the probe.", {"ratio": ratio, "setting": setting},
    )  # fmt: skip


def _of_load(job: Job) -> tuple[Note, ...]:
    load = load_of(job)
    if load is None or not job.to_read:
        return ()
    frequencies = np.array(sorted({point.frequency_hz for point in job.to_read}))
    _, state = load_at(job, frequencies)
    return load_notes("load", frequencies, state, load.properties["nominal_ohm"].value)
