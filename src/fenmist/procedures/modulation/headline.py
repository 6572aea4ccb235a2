"""The sentences of a job about modulation: what the meter shows, and which detector it has."""

from fenmist.calibration.decision import Verdict
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.judgement.headline import nothing_in_hand, remaining
from fenmist.procedures.modulation.findings import best_told, detector_said
from fenmist.procedures.modulation.reduction import Fraction, Modulation
from fenmist.procedures.modulation.waves import waveform_of
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import THIN, count_of, opening, percent, plain


def fraction_said(item: Fraction) -> str:
    """ "41 ± 2 % of the carrier"."""
    return f"{100.0 * item.fraction:.1f} ± {100.0 * item.expanded_u:.1f}{THIN}%"


def readings_headline(job: Job, result: Modulation, point: PlanPoint | None) -> str:
    """The running answer at the present point."""
    if point is None or not job.to_read:
        return nothing_in_hand(job, result, point is not None)
    sent = waveform_of(point.leg).name
    found = result.of(point.id)
    if found is not None:
        return f"On {sent} it shows {fraction_said(found)} of what it shows on the carrier."
    if point.leg == job.visits[0].id and result.readings_at(point.id).rounds:
        return f"The carrier stands: now the other waveforms with the same PEP, {plain(point.target_w, 'W')}."
    names = " and ".join(job.part_read(name).label for name in dict.fromkeys(point.sequence))
    return f"Send {sent}, PEP {plain(point.target_w, 'W')}, then read {names}."


def what_if_sentence(_job: Job, before: Stated, after: Stated) -> str:
    """What another uncertainty would make of U."""
    old, new = (f"{item.expanded_u:.2g}{THIN}%" for item in (before, after))
    return f"What if: U would be {new} instead of {old}. None of this is kept."


def results_headline(job: Job, result: Modulation, phase: str = AS_FOUND) -> str:
    """The answer of the job."""
    name = opening(job.dut_part.label) if phase == AS_FOUND else f"As left, {job.dut_part.label}"
    best = best_told(result)
    if best is None:
        if not result.readings:
            return "Points must be planned before a detector can be told."
        missing = count_of(result.missing_readings, "reading is", "readings are").capitalize()
        return f"{missing} missing before a detector can be told."
    ending = "" if result.complete else f" {remaining(result)}"
    said = detector_said(best[1])
    begin = f"{name} {said}" if best[1].is_sure else f"{name}: {said}"
    return f"{begin}{_judged(job, result)}.{ending}"


def _judged(job: Job, result: Modulation) -> str:
    claimed = [item for item in result.points if item.decision is not None]
    if not claimed:
        return ""
    worst = max(claimed, key=lambda item: abs(item.off))
    most = f"{percent(job.tolerance.value)}"
    verdict = worst.decision.verdict if worst.decision else None
    if verdict is Verdict.CANNOT_DECIDE:
        return f"; whether it is honest within {most} this can't decide"
    honest = abs(worst.off) <= worst.tolerance
    return f"; {'honest' if honest else 'not honest'} within {most}: {percent(worst.off, plus=True)} at most"


def short_headline(result: Modulation) -> str:
    """The answer in a few words, for lists."""
    best = best_told(result)
    return "nothing read yet" if best is None else detector_said(best[1])
