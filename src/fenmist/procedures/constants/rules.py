"""What is remarked of a job about constants: the rules of any bench, of the fits, and of arms that aren't alike."""

import math
from collections.abc import Iterator
from dataclasses import replace
from datetime import date

import numpy as np

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, Severity
from fenmist.judgement import agreement_rules, entry_rules, run_rules
from fenmist.judgement.any_job import before_reading, narrowed, of_the_outcome, of_the_run
from fenmist.judgement.judge import Judge, Rules, all_in_order
from fenmist.procedures.constants.reduction import Constants, Fitted
from fenmist.procedures.output.rules import off_the_others
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import percent, plain

IMBALANCE = 0.05
"""Relative difference of the powers that the arms show of one output, from which it is spoken of (Fenmist's own)."""

IN_USE_OFF = 0.05
"""Error of constants in use from which they are spoken of (Fenmist's own)."""


@Judge
def judge(job: Job, result: Constants, as_of: date, phase: str = AS_FOUND, _found: Constants | None = None) -> Rules:
    """All notes on a job on a day; see `Procedure.judge`."""
    yield from before_reading(job, as_of)
    yield from _entries(job, result, phase)
    yield from of_the_run(job, result, phase)
    yield from of_the_outcome(job, result)
    yield agreement_rules.references_agree(job, result.power.points)
    for fit in result.fits:
        yield (replace(note, about=f"{note.about}, {fit.name}") for note in fit.answer.notes)
        yield in_use_off(fit)
    yield arms_differ(result)


def judge_entries(job: Job, result: Constants, phase: str, point_id: str) -> tuple[Note, ...]:
    """Notes on the entries of one point: what must be said as soon as an entry is kept."""
    near = replace(result, readings=(result.readings_at(point_id),))
    return all_in_order(_entries(narrowed(job, near.readings), near, phase))


def _entries(job: Job, result: Constants, phase: str) -> Rules:
    yield entry_rules.decimal_slips(job, phase)
    yield off_the_others(job, replace(result.power, readings=result.readings))
    yield entry_rules.off_scale(job, phase)
    yield entry_rules.open_entries(job, phase)
    yield run_rules.doubted_entries(job, phase)


def in_use_off(fit: Fitted) -> Iterator[Note]:
    """Constants that the firmware has now, held against the readings."""
    checked = fit.answer.checked
    if checked is None or float(np.max(np.abs(checked))) < IN_USE_OFF:
        return
    worst = int(np.argmax(np.abs(checked)))
    yield Note(
        "constants.in_use", Severity.WATCH, f"constants, {fit.name}",
        f"The constants in use are off by {percent(float(checked[worst]), plus=True)} at "
        f"{plain(float(fit.answer.watts[worst]), 'W', 3)} ({fit.name}).",
        f"Fitted anew they would be off by {percent(float(np.max(np.abs(fit.answer.residuals))))} at most.",
        "Put the new ones into the firmware, and read as left.", {"off": float(checked[worst])},
    )  # fmt: skip


def imbalance(one: Fitted, other: Fitted) -> float:
    """Ratio of the powers that both arms' laws make of one output, less one: median over what both were read at."""
    low = max(float(fit.answer.volts.min()) for fit in (one, other))
    high = min(float(fit.answer.volts.max()) for fit in (one, other))
    if low >= high:
        return math.nan
    volts = np.linspace(low, high, 21)
    return float(np.median(other.answer.power(volts) / one.answer.power(volts))) - 1.0


def arms_differ(result: Constants) -> Iterator[Note]:
    """Forward and reflected arm make different powers of the same output: one set of constants won't do for both."""
    arms: dict[str, list[Fitted]] = {}
    for fit in result.fits:
        arms.setdefault(fit.band, []).append(fit)
    for band, found in arms.items():
        if len(found) < 2:
            continue
        off = imbalance(*found[:2])
        if math.isnan(off) or abs(off) < IMBALANCE:
            continue
        yield Note(
            "constants.arms", Severity.WATCH, f"constants, {band}",
            f"The {found[1].arm} arm stands for {percent(off, plus=True)} against the {found[0].arm} arm ({band}).",
            "Of the same output: windings, diodes or resistors of the two arms aren't alike.",
            "Use the constants of each arm, or match the windings.", {"off": off},
        )  # fmt: skip
