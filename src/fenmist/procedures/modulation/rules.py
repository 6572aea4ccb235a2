"""What is remarked of a job about modulation: what the button really is, and what could mislead."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import date

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, Severity
from fenmist.judgement import entry_rules, run_rules
from fenmist.judgement.any_job import before_reading, narrowed, of_the_outcome, of_the_run
from fenmist.judgement.judge import Judge, Rules, all_in_order, but
from fenmist.measurand import Detector
from fenmist.methods.detectors import AS_TRUE
from fenmist.procedures.modulation.findings import best_told, detector_said, odds_said, told_by
from fenmist.procedures.modulation.headline import fraction_said
from fenmist.procedures.modulation.make import CLAIM, USUAL
from fenmist.procedures.modulation.reduction import OF_PEP, Modulation
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import opening, percent

CANCELS = (
    "load.unknown_here", "load.phase_unknown", "load.not_nominal", "reference.history", "load.poor", "lead.stub",
    "probe.ground", "scope.bandwidth", "drift.unseen",
)  # fmt: skip
"""What ratios of two readings of one instrument don't lean on; a carrier sent again shows what moved."""

SLOW_S = 0.4
"""Space between dots from which a hold is told from a true peak (Fenmist's own)."""


@Judge
def judge(job: Job, result: Modulation, as_of: date, phase: str = AS_FOUND, _found: Modulation | None = None) -> Rules:
    """All notes on a job on a day; see `Procedure.judge`."""
    return but(_rules(job, result, as_of, phase), CANCELS)


def _rules(job: Job, result: Modulation, as_of: date, phase: str) -> Rules:
    yield from before_reading(job, as_of)
    yield from _entries(job, phase)
    yield from of_the_run(job, result, phase)
    yield from of_the_outcome(job, result)
    yield from _patterns(job, result)


def judge_entries(job: Job, result: Modulation, phase: str, point_id: str) -> tuple[Note, ...]:
    """Notes on the entries of one point: what must be said as soon as an entry is kept."""
    near = replace(result, readings=(result.readings_at(point_id),), points=())
    return all_in_order(_entries(narrowed(job, near.readings), phase))


def _entries(job: Job, phase: str) -> Rules:
    yield entry_rules.off_scale(job, phase)
    yield entry_rules.open_entries(job, phase)
    yield run_rules.doubted_entries(job, phase)


def _patterns(job: Job, result: Modulation) -> Rules:
    yield what_it_is(job, result)
    yield source_moved(result)
    yield beyond_pep(job, result)


def what_it_is(job: Job, result: Modulation) -> Iterator[Note]:
    """A peak function that is none, or is only a hold; an honest one; what isn't told yet, or fits none."""
    best = best_told(result)
    if best is None:
        return
    some, told = best
    name, worst = opening(job.dut_part.label), min(some, key=lambda item: item.fraction)
    claims_pep = {**USUAL, **job.method.parameters}[CLAIM] == OF_PEP
    evidence: dict[str, float | str] = {"fraction": worst.fraction, "odds": max(told.odds.values())}
    if not told.is_sure:
        slow = max((item.waveform.period_s for item in some), default=0.0) / 2.0
        yield Note(
            "modulation.not_told", Severity.WATCH, "job", f"Which detector {job.dut_part.label} has can't be told yet.",
            f"The odds are {odds_said(told)}.",
            "Send dots of one a second as well." if slow < SLOW_S else "Read each waveform again, the carrier too.",
            evidence,
        )  # fmt: skip
    elif told.likeliest is None:
        yield Note(
            "modulation.none_of_them", Severity.DOUBT, "job",
            f"{name} shows what none of the four kinds of detector would.",
            told_by(some, told), "Was the PEP the same each time? Read its crest beside it, with an oscilloscope.",
            evidence,
        )  # fmt: skip
    elif told.likeliest is Detector.PEAK:
        yield Note(
            "modulation.honest_peak", Severity.GOOD_TO_KNOW, "job", f"{name} shows the true peak.",
            f"{told_by(some, told)} The odds are {odds_said(told)}.",
            "Read PEP with it on speech; a single crest is enough.", evidence,
        )  # fmt: skip
    elif told.likeliest is Detector.HOLD:
        only = claims_pep and worst.fraction < AS_TRUE
        yield Note(
            "modulation.only_a_hold", Severity.DOUBT if only else Severity.WATCH, "job",
            f"{name} {detector_said(told)}: {'it claims PEP, and ' if claims_pep else ''}it reads low in the gaps.",
            told_by(some, told), "On speech read the highest swing, and take it as less than PEP.", evidence,
        )  # fmt: skip
    else:
        yield Note(
            "modulation.averages", Severity.DOUBT if claims_pep else Severity.GOOD_TO_KNOW, "job",
            f"{name} {detector_said(told)}{': its peak button is none' if claims_pep else ''}.", told_by(some, told),
            "To read a power use a steady carrier at the same setting.", evidence,
        )  # fmt: skip


def source_moved(result: Modulation) -> Iterator[Note]:
    """The carrier, sent again, isn't what it was."""
    moved = [
        item for item in result.points
        if item.waveform.period_s == 0.0 and abs(item.fraction - 1.0) > item.expanded_u
    ]  # fmt: skip
    if moved:
        worst = max(moved, key=lambda item: abs(item.fraction - 1.0))
        yield Note(
            "modulation.carrier_moved", Severity.DOUBT, worst.point.id,
            f"The carrier isn't what it was: sent again it shows {fraction_said(worst)}.",
            "The source warmed up, drooped, or its setting moved: the other waveforms then had another PEP, too.",
            "Let it settle, then read all waveforms again.", {"fraction": worst.fraction},
        )  # fmt: skip


def beyond_pep(job: Job, result: Modulation) -> Iterator[Note]:
    """A crest above that of the carrier: level control that overshoots, or holds the carrier back."""
    over = [item for item in result.points if item.waveform.period_s and item.fraction - 1.0 > item.expanded_u]
    if over:
        worst = max(over, key=lambda item: item.fraction)
        yield Note(
            "modulation.beyond_pep", Severity.DOUBT, worst.point.id,
            f"{opening(job.dut_part.label)} shows more on {worst.waveform.name} than on the carrier: "
            f"{percent(worst.fraction)}.",
            "Modulation can't add to a PEP: level control overshoots, or holds the steady carrier lower.",
            "Lower the drive until level control rests, or read the crest with an oscilloscope.",
            {"fraction": worst.fraction},
        )  # fmt: skip
