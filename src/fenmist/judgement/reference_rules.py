"""What bandwidths, leads, probes and the load will do at the planned points: known before anything is read."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from fenmist.calibration.gather import load_at, load_of
from fenmist.calibration.job import Job
from fenmist.calibration.references import References, references_planned, shown_per_watt
from fenmist.findings.note import Note, Severity
from fenmist.hookup.line import Stop
from fenmist.kit.part import Part, PartKind
from fenmist.methods.physics_rules import Hanging, bandwidth_note, feed_note, load_notes
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.display import frequency, opening, percent

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
            f = np.array(sorted(frequencies))
            yield from _of_references(job, references_planned(job, hookup, f, channels))
            yield from _of_ratios(job, hookup, channels, f)
    yield from _of_load(job)


def _of_references(job: Job, found: References) -> Iterator[Note]:
    f, limits = found.bench.frequency_hz, job.method.parameters
    for indication, mean, stops in zip(found.indications, found.means, found.feeds, strict=True):
        element, label = job.channel(mean.channel).element, indication.read.part.label
        correction = indication.corrections().get("bandwidth", np.ones_like(f))
        note = bandwidth_note(element, label, f, indication.bandwidth_hz, correction, limits)
        if note is not None:
            yield note
        yield from _of_heater(indication.read.part, element, f, indication.corrections().get("skin"))
        for stop in stops:
            yield from _of_feed(job, found, stop)


SKIN_WATCH, SKIN_DOUBT = 0.01, 0.05
"""Correction of the power for skin effect from which it is said, and from which it is doubted (Fenmist's own)."""

UNKNOWN_HZ = 10e6
"""Carrier from which an ammeter that says nothing of frequency is watched (common practice, no source)."""


def _of_heater(part: Part, about: str, f: FloatArray, correction: FloatArray | None) -> Iterator[Note]:
    """Skin effect in a thermocouple ammeter's heater."""
    if part.kind is not PartKind.AMMETER:
        return
    if correction is not None and float(np.max(1.0 - correction)) > SKIN_WATCH:
        most = float(np.max(1.0 / correction - 1.0))
        yield Note(
            "ammeter.skin", Severity.DOUBT if most > SKIN_DOUBT else Severity.WATCH, about,
            f"Skin effect in its heater makes {part.label} show {percent(most)} too much power at {frequency(f[-1])}.",
            "The current keeps to the wire's skin; the heater heats as if more flowed. It is corrected from its wire, "
            "and half of that is in the budget.",
            "An ammeter with a thinner heater, or volts across the load, at the upper end.", {"share": most},
        )  # fmt: skip
    known = "wire_m" in part.properties or any(port.frequency_max_hz for port in part.ports)
    if not known and f[-1] > UNKNOWN_HZ:
        yield Note(
            "ammeter.frequency", Severity.WATCH, about,
            f"Nobody says how {part.label} reads at {frequency(f[-1])}.",
            "A thermocouple ammeter reads high where its heater is thick: the current keeps to the wire's skin.",
            "Say its heater's wire or its span on its sheet; hold it against volts across the load.",
            {"frequency_hz": float(f[-1])},
        )  # fmt: skip


RATIO_COUNTS = 0.005
"""Relative difference of powers from which two ways of knowing a ratio are told apart (Fenmist's own, no source)."""


def _of_ratios(job: Job, hookup: str, channels: tuple[str, ...], f: FloatArray) -> Iterator[Note]:
    """Which ratio of a tap or a divider is used, and what the others that are known would give."""
    bench = job.hookup(hookup)
    used = shown_per_watt(job, bench, f, channels)
    for element in bench.elements:
        part = job.part(element.part)
        if part.kind not in (PartKind.TAP, PartKind.DIVIDER) or not part.components:
            continue
        taken, others = _ways(part)
        said = []
        for name, other in others:
            would = shown_per_watt(job.with_part(other), bench, f, channels)
            off = np.array([before / after for before, after in zip(used, would, strict=True)]) - 1.0
            worst = float(off.flat[int(np.argmax(np.abs(off)))])
            if abs(worst) >= RATIO_COUNTS:
                said.append((name, worst))
        if said:
            given = "; ".join(f"by {name} the power would come out {percent(worst, plus=True)}" for name, worst in said)
            yield Note(
                "divider.ratio", Severity.GOOD_TO_KNOW, element.id,
                f"{opening(part.label)} is taken by {taken}.",
                f"Its ratio is known in more than one way: {given}.",
                "Nothing has to be done where that is the better known; what was measured at a level holds for that "
                "termination.",
                {"used": taken, **dict(said)},
            )  # fmt: skip


def _ways(part: Part) -> tuple[str, tuple[tuple[str, Part], ...]]:
    """How a part's ratio is known, best first: what is used, and the part as it would be by each other way."""
    bare = replace(part, characterisations=())
    nominal = replace(bare, components=tuple(replace(item, measured=None) for item in part.components))
    measured = any(item.measured is not None for item in part.components)
    ways = [("the nominal values of its pieces", nominal)]
    if measured:
        ways.insert(0, ("its pieces as measured", bare))
    if part.characterisations:
        ways.insert(0, ("its measured response", part))
    return ways[0][0], tuple(ways[1:])


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
