"""Rules over all points after the run: whether ranges meet, what all points lean on, whether as left is better."""

import math
from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, Severity
from fenmist.judgement.entry_rules import at_point
from fenmist.procedures.comparison.overlap import overlaps
from fenmist.procedures.comparison.reduction import Result
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.display import percent, plain

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
