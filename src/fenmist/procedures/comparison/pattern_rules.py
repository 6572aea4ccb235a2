"""Rules over all points after the run: whether ranges meet, what all points lean on, whether as left is better."""

import math
import statistics
from collections.abc import Iterator

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.rounds import Taken
from fenmist.findings.note import Note, Severity
from fenmist.hookup.seen import seen_match
from fenmist.judgement.entry_rules import at_point
from fenmist.measurand import Kind, PlaneRef
from fenmist.methods.indication import USUAL_DIRECTIVITY_DB
from fenmist.procedures.comparison.overlap import overlaps
from fenmist.procedures.comparison.reduction import Result
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.display import percent, plain, swr

REFLECTS_MORE = 0.03
"""ρ by which what comes back must pass what is known before it is spoken of (Fenmist's own, no source)."""

ONE_SUPPORT = 0.7
"""Part of the variance from one source from which all points are said to lean on it (Fenmist's own, no source)."""


def ranges_meet(result: Result) -> Iterator[Note]:
    """The same power read on two ranges: they should meet."""
    apart = [item for item in overlaps(result) if item.normalized > 1.0]
    if not apart:
        return
    worst = max(apart, key=lambda item: item.normalized)
    yield Note(
        "ranges.differ", Severity.WATCH, "dut",
        f"The ranges {worst.one.point.range_id} and {worst.other.point.range_id} don't meet "
        f"{at_point(worst.one.point)}.",
        f"Their errors differ by {percent(math.expm1(worst.difference), plus=True)} with U = "
        f"{percent(worst.expanded_u)}; what both share with the reference drops out.",
        "Each range has its own trimmer: give a factor for each, or adjust them to meet.",
        {"difference": worst.difference, "u": worst.expanded_u},
    )  # fmt: skip


def reflects_more(job: Job, result: Result) -> Iterator[Note]:
    """What comes back, as the device shows it beside, against what the line behind it should send back.

    The device's own gain drops out of the ratio of its two readings; what its arms leak into each other doesn't.
    """
    quiet = job.dut_part.properties.get("directivity_db")
    decibels = quiet.value if quiet else USUAL_DIRECTIVITY_DB
    leak = 10.0 ** (-decibels / 20.0)
    found = []
    for item in result.readings:
        back = [one for each in item.rounds for one in each.others if _is_reflected(job, one)]
        ahead = [one for each in item.rounds for one in each.duts]
        if not back or not ahead:
            continue
        forward, reflected = (statistics.fmean(one.reading.value for one in some) for some in (ahead, back))
        if forward <= 0.0:
            continue
        shown, noted = math.sqrt(max(reflected, 0.0) / forward), _most_reflected(job, item.point)
        seen = math.sqrt(back[0].reading.digit / forward)  # a display's last digit, where next to nothing comes back
        if shown - noted > leak + seen + REFLECTS_MORE:
            found.append((shown - noted, shown, noted, item.point))
    if not found:
        return
    _, shown, noted, point = max(found, key=lambda item: item[0])
    more = f", and at {len(found) - 1} more" if len(found) > 1 else ""
    known = "stated" if quiet else "as is usual"
    yield Note(
        "line.reflects_more", Severity.DOUBT, "job",
        f"More comes back than the line behind {job.dut_part.label} should send {at_point(point)}{more}.",
        f"It shows an SWR of {_swr(shown)}; what is noted of the line makes {_swr(noted)} at most, and a directivity "
        f"of {decibels:g} dB ({known}) adds at most {leak:.2f} to ρ.",
        "Look what really stands there: a tuner left in, a loose or wet connector, another load, ports exchanged.",
        {"shown": shown, "noted": noted, "points": float(len(found))},
    )  # fmt: skip


def _most_reflected(job: Job, point: PlanPoint) -> float:
    """ρ that the line behind the device makes at most: as noted, and twice what all that is uncertain there adds."""
    hookup = next(item for item in job.hookups if item.id == point.hookup)
    device = job.device_channel.element
    plane = PlaneRef(hookup.id, device, hookup.ends(device, job.dut_part)[-1])
    seen = seen_match(hookup, job.parts, np.array([point.frequency_hz]), plane)
    known = seen.estimates
    middle = seen.gamma(known)
    moves = [np.abs(seen.gamma({**known, one.id: one.estimate + one.standard_u}) - middle) for one in seen.influences]
    return float(np.abs(middle)[0] + 2.0 * math.sqrt(sum(float(one[0]) ** 2 for one in moves)))


def _is_reflected(job: Job, taken: Taken) -> bool:
    channel = job.channel(taken.entry.channel)
    return channel.beside and channel.measurand.kind is Kind.REFLECTED


def _swr(rho: float) -> str:
    return swr((1.0 + rho) / (1.0 - rho)) if rho < 1.0 else "more than can be said"


def one_support(job: Job, result: Result) -> Iterator[Note]:
    """All points lean on one part: their agreement says nothing about it."""
    if len(result.points) < 2 or result.log_ratio is None:
        return
    shares, shared = result.log_ratio.shares(), result.log_ratio.shared_by_all()
    by_source: dict[str, FloatArray] = {}
    for row, name in enumerate(result.log_ratio.sensitivities):
        if shared[row]:
            source = result.log_ratio.inputs.by_id[name].source_id
            by_source[source] = by_source.get(source, 0.0) + shares[row]
    if not by_source:
        return
    name, found = max(by_source.items(), key=lambda item: float(item[1].min()))
    least = float(found.min())
    if least < ONE_SUPPORT:
        return
    label = job.parts[name].label if name in job.parts else f"the {name}"
    yield Note(
        "result.one_support", Severity.GOOD_TO_KNOW, "job",
        f"All points lean on {label}: at least {percent(least)} of the variance is from there.",
        "Its error is the same at all of them, so that they agree with each other says nothing about it.",
        "A second reference of another kind, with no part in common, would tell.",
        {"source": name, "share": least},
    )  # fmt: skip


def worse_as_left(found: Result, left: Result) -> Iterator[Note]:
    """After the adjustment the largest error against its tolerance is larger than before."""
    pairs = [(before, after) for after in left.points if (before := found.of(after.point.id)) is not None]
    if not pairs:
        return
    former = max(item.stated.tolerance_used for item, _ in pairs)
    worst = max((item for _, item in pairs), key=lambda item: item.stated.tolerance_used)
    after = worst.stated.tolerance_used
    if after <= 1.05 * former or worst.stated.tolerance_used <= 0.05:
        return
    yield Note(
        "adjust.worse", Severity.DOUBT, "job",
        f"As left is worse than as found: {percent(after)} of the tolerance instead of {percent(former)}.",
        f"The worst is now {plain(worst.error_w, 'W', 2, plus=True)} {at_point(worst.point)}.",
        "Turn the trimmer back, or choose where it is to be right: full scale, the working level, or least worst case.",
        {"before": former, "after": after},
    )  # fmt: skip
