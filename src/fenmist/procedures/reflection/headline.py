"""The sentences of a job about a match: whether the meter shows within its window what the ends are."""

import math

from fenmist.calibration.decision import Verdict, Zone
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.judgement.headline import nothing_in_hand, remaining, to_plug
from fenmist.procedures.reflection.findings import by_level, end_of
from fenmist.procedures.reflection.reduction import SET_POWER, Matches, MatchPoint
from fenmist.reading.event import AS_FOUND
from fenmist.units.display import THIN, count_of, frequency, opening, rounded, swr

MOST_SWR = 99.0
"""SWR above which a number says no more than “high”."""


def swr_of(rho: float) -> str:
    """ "1.35", or "above 99".

    >>> swr_of(1.0 / 3.0)
    '2.00'
    """
    if rho >= (MOST_SWR - 1.0) / (MOST_SWR + 1.0):
        return f"above {MOST_SWR:g}"
    return swr((1.0 + max(rho, 0.0)) / (1.0 - max(rho, 0.0)))


def window_said(window: tuple[float, float]) -> str:
    """ "1.07 to 1.35", or "up to 1.12" where the lower end is a match."""
    low, high = window
    return f"up to {swr_of(high)}" if low <= 0.0 else f"{swr_of(low)} to {swr_of(high)}"


def expected_said(item: MatchPoint) -> str:
    """SWR of the end as the meter's plane sees it, with its U; a bound where it can't be told from a match."""
    if item.tuned:
        return "as the tuner makes it"
    low, high = item.expected_interval
    if low <= 0.0 or item.engine != "linear":
        return f"at most {swr_of(high)}"
    if high >= (MOST_SWR - 1.0) / (MOST_SWR + 1.0):
        return f"above {swr_of(low).removeprefix('above ')}"
    half = ((1.0 + high) / (1.0 - high) - (1.0 + low) / (1.0 - low)) / 2.0
    decimals = max(min(2 - math.floor(math.log10(half)) - 1, 3), 0) if half > 0 else 2
    value = (1.0 + item.expected) / (1.0 - item.expected)
    return f"{rounded(value, decimals)} ± {rounded(half, decimals)}"


def shown_said(item: MatchPoint) -> str:
    """What the meter shows, as SWR."""
    return swr_of(item.shown)


def readings_headline(job: Job, result: Matches, point: PlanPoint | None) -> str:
    """The running answer at the present point."""
    if point is None or not job.to_read:
        return nothing_in_hand(job, result, point is not None)
    plug, found = to_plug(job, point), result.of(point.id)
    if plug:
        return plug
    if found is None:
        names = " and ".join(job.indicator(name).label for name in dict.fromkeys(point.sequence))
        end = point.leg or job.hookup(point.hookup).label
        if SET_POWER in job.dut_part.properties:
            return f"Set {job.dut_part.label} to full scale on forward, then read {names} with {end} behind it."
        return f"Read {names} of {job.dut_part.label} with {end} behind it."
    if found.tuned:
        return f"At {frequency(point.frequency_hz)} it shows SWR {shown_said(found)}, which a tuner behind it makes."
    inside = "inside" if found.is_inside else "outside"
    return (
        f"At {frequency(point.frequency_hz)} it shows SWR {shown_said(found)} with {end_of(job, found)} behind it: "
        f"{inside} its window, {window_said(found.window)}."
    )


def what_if_sentence(_job: Job, before: Stated, after: Stated) -> str:
    """What another uncertainty would make of U."""
    return f"What if: U of ρ would be {after.expanded_u:.2g} instead of {before.expanded_u:.2g}. None of this is kept."


def results_headline(job: Job, result: Matches, phase: str = AS_FOUND) -> str:
    """The answer of the job."""
    name = opening(job.dut_part.label) if phase == AS_FOUND else f"As left, {job.dut_part.label}"
    if not result.points:
        if not result.readings:
            return "Points must be planned before a match can be judged."
        missing = count_of(result.missing_readings, "reading is", "readings are").capitalize()
        return f"{missing} missing before a match can be judged."
    ending = "" if result.complete else f" {remaining(result)}"
    if all(item.tuned for item in result.points):
        return f"{_tuned(name, result)}{ending}"
    worst = max((one for one in result.points if not one.tuned), key=lambda item: item.stated.tolerance_used)
    where = f"at {frequency(worst.point.frequency_hz)}"
    shows = f"{name} shows SWR {shown_said(worst)} where {end_of(job, worst)} is {expected_said(worst)} ({where})"
    return f"{shows}: {_judged(worst)}{_directivity(result)}.{ending}"


def _tuned(name: str, result: Matches) -> str:
    """What can be said where a tuner works behind the meter: what another one behind that shows."""
    item = max(result.points, key=lambda one: abs(one.shown - (one.others[0].shown if one.others else one.shown)))
    said = f"{name} shows SWR {shown_said(item)}, the match that a tuner makes"
    if not item.others:
        return f"{said}: nothing here says whether it is right."
    other = item.others[0]
    inside = "inside" if other.is_inside else "outside"
    return f"{said}; the meter behind it shows {swr_of(other.shown)}, {inside} its window: both can be right."


def _judged(item: MatchPoint) -> str:
    window = f"the window of its claims, {window_said(item.window)}"
    if item.decision.verdict is Verdict.CANNOT_DECIDE:
        return f"the end is not known well enough to judge that by {window}"
    side = "inside" if item.is_inside else "outside"
    hedged = item.decision.zone in (Zone.INSIDE_WITHIN, Zone.OUTSIDE_WITHIN)
    return f"{side} {window}{', but by less than the uncertainty' if hedged else ''}"


def _directivity(result: Matches) -> str:
    """What directivity the ends leave it, where three of them tell."""
    fits = [item for item in by_level(result) if item.fitted is not None]
    if not fits:
        return ""
    worst = min(fits, key=lambda item: item.directivity_db[0])
    return f"; its directivity is {directivity_said(worst.directivity_db)}"


def directivity_said(db: tuple[float, float]) -> str:
    """ "18.1 to 22.4 dB", "at least 27 dB", "at most 19 dB"."""
    low, high = db
    if math.isinf(high):
        return f"at least {low:.0f}{THIN}dB"
    return f"{low:.0f} to {high:.0f}{THIN}dB"


def short_headline(result: Matches) -> str:
    """The answer in a few words, for lists."""
    if not result.points:
        return "nothing read yet"
    worst = max(result.points, key=lambda item: item.stated.tolerance_used)
    if worst.tuned:
        return f"SWR {shown_said(worst)}, as a tuner makes it"
    verdicts = [str(item.decision.verdict) for item in result.points if not item.tuned]
    counts = ", ".join(f"{verdict} {verdicts.count(verdict)}" for verdict in dict.fromkeys(verdicts))
    at = frequency(worst.point.frequency_hz)
    return f"SWR {shown_said(worst)} for {expected_said(worst)} at {at}; {counts}"
