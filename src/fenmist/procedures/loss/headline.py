"""The sentences of a job about a loss: what a part takes, or that it is smaller than can be seen."""

from fenmist.calibration.decision import Verdict, Zone
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.calibration.sent import level_said
from fenmist.judgement.headline import nothing_in_hand, remaining, to_plug
from fenmist.procedures.loss.reduction import Losses, LossPoint
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import (
    THIN,
    count_of,
    decimals_for,
    frequency,
    opening,
    percent,
    plain,
    rounded,
    with_uncertainty,
)

LEAVE_DB = 0.2
"""Loss below which a meter that stays in line costs nothing worth having (common practice, no source)."""


def said(item: LossPoint) -> str:
    """ "0.43 ± 0.08 dB", or "less than 0.12 dB" where it can't be seen."""
    if item.is_seen:
        return with_uncertainty(item.loss_db, item.expanded_u_db, "dB")
    decimals = max(decimals_for(max(item.u_db, 1e-4)), 0)
    return f"less than {rounded(item.bound_db, decimals)}{THIN}dB"


def into(item: LossPoint) -> str:
    """ " into the load", where several ends take turns."""
    return f" into {item.into}" if item.into else ""


def heat_said(item: LossPoint) -> str:
    """ "9.4 W", or "at most …" where it can't be seen."""
    return f"{'' if item.is_seen else 'at most '}{plain(item.heat_w, 'W', 2)}"


def through_said(item: LossPoint) -> str:
    """What comes out, "90 %", or "at least …" where the loss can't be seen."""
    if item.is_seen:
        return percent(item.efficiency)
    return f"at least {percent(10.0 ** (-item.bound_db / 10.0))}"


def readings_headline(job: Job, result: Losses, point: PlanPoint | None) -> str:
    """The running answer at the present point."""
    if point is None or not job.to_read:
        return nothing_in_hand(job, result, point is not None)
    plug, found = to_plug(job, point), result.of(point.id)
    if plug:
        return plug
    if found is None:
        names = " and ".join(dict.fromkeys(job.part_read(name).label for name in point.sequence))
        return f"Read {names}, {point.leg}: the loss appears once it was read with the part and without it."
    return f"At {frequency(point.frequency_hz)} {job.dut_part.label} loses {said(found)}{into(found)} so far."


def what_if_sentence(_job: Job, before: Stated, after: Stated) -> str:
    """What another uncertainty would make of U."""
    old, new = (f"{item.expanded_u:.2g}{THIN}dB" for item in (before, after))
    return f"What if: U would be {new} instead of {old}. None of this is kept."


def results_headline(job: Job, result: Losses, phase: str = AS_FOUND) -> str:
    """The answer of the job."""
    name = opening(job.dut_part.label) if phase == AS_FOUND else f"As left, {job.dut_part.label}"
    if not result.points:
        if not result.readings:
            return "Points must be planned before there is a loss to state."
        missing = count_of(result.missing_readings, "reading is", "readings are").capitalize()
        return f"{missing} missing before there is a loss to state."
    ending = "" if result.complete else f" {remaining(result)}"
    worst = max(result.points, key=lambda item: item.bound_db)
    at = "" if len(result.points) == 1 else " at worst"
    lost = f"{heat_said(worst)} of {level_said(worst.point)} stay in it"
    answer = f"{name} loses {said(worst)}{at} ({frequency(worst.point.frequency_hz)}{into(worst)}): {lost}"
    return f"{answer}; {_judged(worst)}.{ending}"


def _judged(item: LossPoint) -> str:
    most = f"{item.tolerance_db:g}{THIN}dB"
    if not item.is_usable:
        return "what reads it is no instrument there, so nothing is decided"
    if item.decision.verdict is Verdict.CANNOT_DECIDE:
        return f"these benches can't decide whether that is within {most}"
    than = f"{'within' if item.loss_db <= item.tolerance_db else 'more than'} the {most} it may lose"
    hedged = item.decision.zone in (Zone.INSIDE_WITHIN, Zone.OUTSIDE_WITHIN)
    return f"what came out is {than}, but by less than the uncertainty" if hedged else than


def leave_in(item: LossPoint) -> str:
    """Whether a part that isn't needed may stay in line, in dB and W."""
    most = item.loss_db + item.expanded_u_db if item.is_seen else item.bound_db
    watts = item.point.target_w * (1.0 - 10.0 ** (-most / 10.0))
    cost = f"at most {most:.2g}{THIN}dB, {plain(watts, 'W', 2)} of {level_said(item.point)}"
    if most <= LEAVE_DB:
        return f"Leaving it in line costs {cost}: nothing worth having."
    return f"Leaving it in line costs {cost}: take it out where that counts."


def short_headline(result: Losses) -> str:
    """The answer in a few words, for lists."""
    if not result.points:
        return "nothing read yet"
    worst = max(result.points, key=lambda item: item.bound_db)
    verdicts = [str(item.decision.verdict) for item in result.points]
    counts = ", ".join(f"{verdict} {verdicts.count(verdict)}" for verdict in dict.fromkeys(verdicts))
    return f"{said(worst)} at {frequency(worst.point.frequency_hz)}, {through_said(worst)} through; {counts}"
