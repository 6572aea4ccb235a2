"""Rules about tuners: how much power they are tuned with, and how long it was enough on each band."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.calibration.levels import PlannedLevels
from fenmist.calibration.outcome import Outcome
from fenmist.calibration.rounds import PointReadings
from fenmist.calibration.series import series_at
from fenmist.findings.note import Note, Severity
from fenmist.hookup.line import HookUp
from fenmist.judgement.entry_rules import at_point
from fenmist.kit.part import Part, PartKind
from fenmist.kit.tuner import bears_w, wants_w
from fenmist.units.display import opening, plain, swr
from fenmist.waveform.series import Series

TUNING_W = 20.0
"""Power above which tuning into a bad match is warned of; people tune at 10 to 20 W (common practice, no source)."""

TUNING_SWR = 2.0
"""SWR that is a bad match for that (common practice, no source)."""

FEWEST = 3
"""Readings at one point from which they are a course in time."""


def _tuners(job: Job, hookup: HookUp) -> Iterator[tuple[str, Part]]:
    for item in hookup.elements:
        part = job.part(item.part)
        if part.kind is PartKind.TUNER:
            yield item.id, part


def tuning(job: Job, hookup: HookUp, levels: PlannedLevels) -> Iterator[Note]:
    """A tuner in front of a bad match, at power; one that is sent less than it wants."""
    plan = levels.highest
    for element, part in _tuners(job, hookup):
        behind = plan.at(element, part.ports[1].id)
        seen, most, least = behind.swr if behind else None, bears_w(part), wants_w(part)
        if seen is not None and seen >= TUNING_SWR and plan.power_w > (most or TUNING_W):
            yield Note(
                "tuner.high_power", Severity.STOP, element,
                f"{opening(part.label)} would be tuned at {plain(plan.power_w, 'W')} into an SWR of {swr(seen)}.",
                "Switching under power into a bad match burns contacts, and the amplifier sees every step of it.",
                f"Tune with {plain(most or TUNING_W, 'W')} or less, then raise the power.",
                {"swr": seen, "power_w": plan.power_w},
            )  # fmt: skip
        if least is not None and plan.power_w < least:
            yield Note(
                "tuner.too_little", Severity.WATCH, element,
                f"{opening(part.label)} wants {plain(least, 'W')} to tune: {plain(plan.power_w, 'W')} are planned.",
                "With less than it wants it gives up, or stops on a match that isn't one.",
                f"Tune it with {plain(least, 'W')} first, then read at the planned power.",
                {"power_w": plan.power_w, "least_w": least},
            )  # fmt: skip


def tune_cycles(job: Job, outcome: Outcome) -> Iterator[Note]:
    """What was read against time with a tuner in the line: too little for it on a band, or more than it bears."""
    for found in outcome.read:
        for _, part in _tuners(job, job.hookup(found.point.hookup)):
            power = outcome.power_at(found.point.id)
            courses = series_at(found, power[1] if power is not None else None)
            course = max(courses, key=lambda one: len(one.seconds), default=None)
            if course is not None and len(course.seconds) >= FEWEST and course.span_s > 0.0:
                yield from _of_course(found, part, course)


def _of_course(found: PointReadings, part: Part, course: Series) -> Iterator[Note]:
    least, most, at, whole = wants_w(part), bears_w(part), at_point(found.point), plain(course.span_s, "s", 2)
    span = f"It goes from {plain(course.lowest_w, 'W', 2)} to {plain(course.highest_w, 'W', 2)}."
    if least is not None and course.lowest_w < least:
        short = course.span_s - course.seconds_above(least)
        yield Note(
            "tuner.starved", Severity.WATCH, found.point.id,
            f"{opening(part.label)} had less than its {plain(least, 'W')} for {plain(short, 's', 2)} of {whole} {at}.",
            f"{span} With less than it wants it gives up, or stops on a match that isn't one.",
            "Raise the power while it hunts, or let it hunt again.", {"below_s": short, "least_w": least},
        )  # fmt: skip
    if most is not None and course.highest_w > most:
        over = course.seconds_above(most)
        yield Note(
            "tuner.overdriven", Severity.STOP, found.point.id,
            f"{opening(part.label)} had more than the {plain(most, 'W')} it bears for {plain(over, 's', 2)} of {whole} "
            f"{at}.",
            f"{span} Its relays switch under load, and into any match.",
            "Tune with less, then raise the power.", {"above_s": over, "most_w": most},
        )  # fmt: skip
