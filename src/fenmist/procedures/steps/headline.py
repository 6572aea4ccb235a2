"""The sentences of a job about steps: whether they step, and where they don't."""

from fenmist.calibration.decision import Verdict, Zone
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.calibration.sent import level_said
from fenmist.judgement.headline import nothing_in_hand, remaining
from fenmist.procedures.steps.reduction import StepPoint, Steps, reference_of
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import THIN, count_of, frequency, opening, rounded


def step_name(point: PlanPoint) -> str:
    """ "20 dB", or the level where that is what steps."""
    return point.leg or level_said(point)


def departure_said(item: StepPoint) -> str:
    """ "+0.12 ± 0.05 dB"; the step that the others are held against says so."""
    if item.is_reference:
        return "reference step"
    return f"{rounded(item.departure_db, 2, plus=True)} ± {rounded(item.expanded_u_db, 2)}{THIN}dB"


def readings_headline(job: Job, result: Steps, point: PlanPoint | None) -> str:
    """The running answer at the present point."""
    if point is None or not job.to_read:
        return nothing_in_hand(job, result, point is not None)
    found, reference = result.of(point.id), reference_of(job, point)
    if found is None:
        turned = f"Set {step_name(point)}, then read" if point.leg else f"At {step_name(point)} read"
        names = " and ".join(job.part_read(name).label for name in dict.fromkeys(point.sequence))
        there = point is reference or result.readings_at(reference.id).rounds
        later = "" if there else f"; {step_name(reference)} is still missing"
        return f"{turned} {names}{later}."
    if found.is_reference:
        return f"At {frequency(point.frequency_hz)} the other steps are held against {step_name(point)}."
    return f"At {frequency(point.frequency_hz)} {step_name(point)} departs by {departure_said(found)}."


def what_if_sentence(_job: Job, before: Stated, after: Stated) -> str:
    """What another uncertainty would make of U."""
    old, new = (f"{item.expanded_u:.2g}{THIN}dB" for item in (before, after))
    return f"What if: U would be {new} instead of {old}. None of this is kept."


def _others(result: Steps) -> list[StepPoint]:
    return [item for item in result.points if not item.is_reference]


def results_headline(job: Job, result: Steps, phase: str = AS_FOUND) -> str:
    """The answer of the job."""
    name = opening(job.dut_part.label) if phase == AS_FOUND else f"As left, {job.dut_part.label}"
    others = _others(result)
    if not others:
        if not result.readings:
            return "Points must be planned before steps can be judged."
        missing = count_of(result.missing_readings, "reading is", "readings are").capitalize()
        return f"{missing} missing before a step can be judged."
    ending = "" if result.complete else f" {remaining(result)}"
    worst = max(others, key=lambda item: abs(item.departure_db))
    where = f"{step_name(worst.point)} at {frequency(worst.point.frequency_hz)}"
    if not any(item.is_seen for item in others):
        low, high = (pick(item.expanded_u_db for item in others) for pick in (min, max))
        known = f"{high:.2g}{THIN}dB" if high < 1.5 * low else f"{low:.2g} to {high:.2g}{THIN}dB"
        return f"{name} steps as it should, as far as can be seen here: U is {known}; {_judged(worst)}.{ending}"
    return f"{name} departs most at {where}, by {departure_said(worst)}: {_judged(worst)}.{ending}"


def _judged(item: StepPoint) -> str:
    most = f"±{item.tolerance_db:g}{THIN}dB"
    if not item.is_usable:
        return "what reads it is no instrument there, so nothing is decided"
    if item.decision.verdict is Verdict.CANNOT_DECIDE:
        return f"this bench can't decide {most}"
    side = "inside" if abs(item.departure_db) <= item.tolerance_db else "outside"
    hedged = item.decision.zone in (Zone.INSIDE_WITHIN, Zone.OUTSIDE_WITHIN)
    return f"{side} {most}{', but by less than the uncertainty' if hedged else ''}"


def short_headline(result: Steps) -> str:
    """The answer in a few words, for lists."""
    others = _others(result)
    if not others:
        return "nothing read yet"
    worst = max(others, key=lambda item: abs(item.departure_db))
    verdicts = [str(item.decision.verdict) for item in others]
    counts = ", ".join(f"{verdict} {verdicts.count(verdict)}" for verdict in dict.fromkeys(verdicts))
    return f"{departure_said(worst)} at {step_name(worst.point)}, {frequency(worst.point.frequency_hz)}; {counts}"
