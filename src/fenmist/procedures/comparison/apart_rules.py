"""Rules about readings that don't keep together: from round to round, and errors from point to point."""

import math
import statistics
from collections.abc import Iterator

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.rounds import PointReadings
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.judgement.entry_rules import at_point
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.procedures.comparison.round_rules import readable_u
from fenmist.procedures.comparison.why import SHAPE_SPAN, usable
from fenmist.units.display import decimals_for, frequency, percent, plain, rounded, with_unit

UNEVEN = 2.0
"""Difference of two points' errors over its U from which errors are uneven: the worst pair of a meter in order
reaches 1.5 (Fenmist's own, no source)."""

MOVES = 0.01
"""Change of the ratio over a point's rounds from which it is spoken of (Fenmist's own, no source)."""

SURELY = 4.0
"""Standard deviations of a change over the rounds that make it no scatter (Fenmist's own, no source)."""


# from point to point


@dataclass(frozen=True)
class Uneven:
    """The two points whose errors differ most, by the difference's own U."""

    low: PointResult
    high: PointResult
    difference: float  # of ln(shown/reference)
    u: float  # of that, standard; what both share drops out


def uneven(result: Result) -> Uneven | None:
    """The two points that are furthest apart in their own U; none of fewer than two."""
    found = usable(result)
    if len(found) < 2 or result.log_ratio is None:
        return None
    columns = [column for column, _ in found]
    logs, known = result.log_ratio.value[columns], result.log_ratio.covariance()[np.ix_(columns, columns)]
    own = np.diag(known)
    u = np.sqrt(np.maximum(own[:, None] + own[None, :] - 2.0 * known, 1e-12))
    apart = logs[None, :] - logs[:, None]
    low, high = np.unravel_index(int(np.argmax(apart / u)), apart.shape)
    return Uneven(found[low][1], found[high][1], float(apart[low, high]), float(u[low, high]))


def errors_uneven(result: Result) -> Iterator[Note]:
    """Errors differ over level or frequency by more than is uncertain, whatever their shape."""
    most = uneven(result)
    if most is None or most.difference < max(SHAPE_SPAN, 2.0 * UNEVEN * most.u):
        return
    low, high = most.low, most.high
    places = [f"{_error(item, most.u)} {at_point(item.point)}" for item in (low, high)]
    one_level = low.point.target_w == high.point.target_w
    remedy = (
        "Look for what changes with frequency: a tuner or filter left in, a lead, the wrong port; then a factor for "
        "each frequency." if one_level
        else "Look for what changes with level and with time: a zero not set, a part that warms, another range; then "
        "a curve over level."
    )  # fmt: skip
    yield Note(
        "errors.uneven", Severity.WATCH, "job",
        f"Its error isn't the same everywhere: {places[0]}, but {places[1]}.",
        f"They differ by {percent(math.expm1(most.difference))} with U = {percent(2.0 * most.u)}; what both share "
        "with the reference drops out.",
        remedy, {"difference": most.difference, "u": most.u},
    )  # fmt: skip


def _error(item: PointResult, u: float) -> str:
    return with_unit(rounded(100.0 * item.error_fraction, min(decimals_for(200.0 * u, 1), 1), plus=True), "%")


# from round to round


def moves_apart(job: Job, result: Result) -> Iterator[Note]:
    """Device and reference read the same carrier: where their ratio goes one way round by round, one of them moves."""
    several = [] if job.legs else [item for item in result.readings if len(item.rounds) >= 3]
    trends = {item.point.id: _trend(item) for item in several if math.isfinite(readable_u(job, item))}
    if not trends:
        return
    scatter = math.sqrt(statistics.median(trend.rest**2 for trend in trends.values()))
    found = []
    for item in several:
        trend = trends.get(item.point.id)
        if trend is None or not trend.one_way:
            continue
        u = max(scatter * trend.per_scatter, math.sqrt(2.0) * readable_u(job, item))
        if abs(trend.change) > max(MOVES, SURELY * u):
            found.append((trend.change, item))
    if not found:
        return
    change, worst = max(found, key=lambda pair: abs(pair[0]))
    more = f", and at {len(found) - 1} more" if len(found) > 1 else ""
    label = job.dut_part.label
    yield Note(
        "rounds.apart", Severity.WATCH, worst.point.id,
        f"{label} and the reference move apart by {percent(math.expm1(change), plus=True)} over "
        f"{len(worst.rounds)} rounds {at_point(worst.point)}{more}.",
        "Both read one carrier at a time, so this isn't the transmitter; rounds scatter by "
        f"{percent(max(scatter, readable_u(job, worst)))} beside it. Something warms: the load, a pad, a meter.",
        f"Let it cool and key shorter, or read at {_less(worst)} as well: if the two agree there, it is heat.",
        {"change": change, "points": float(len(found))},
    )  # fmt: skip


def _less(item: PointReadings) -> str:
    return f"{plain(item.point.target_w / 4.0, 'W', 2)}, {frequency(item.point.frequency_hz)}"


@dataclass(frozen=True)
class _Trend:
    """How ln(shown/reference) goes over the rounds of a point."""

    change: float  # from the first round to the last, along a straight line
    rest: float  # standard deviation from that line
    one_way: bool  # each round further than the one before
    per_scatter: float  # standard deviation of the change for one of a round


def _trend(item: PointReadings) -> _Trend:
    logs = np.array([one.log_ratio for one in item.rounds])
    turns = np.arange(logs.size) - (logs.size - 1) / 2.0
    slope = float(turns @ logs) / float(turns @ turns)
    rest = logs - logs.mean() - slope * turns
    steps = np.diff(logs)
    across = float(np.ptp(turns))
    return _Trend(
        slope * across, math.sqrt(float(rest @ rest) / (logs.size - 2)), bool(np.all(steps > 0) or np.all(steps < 0)),
        across / math.sqrt(float(turns @ turns)),
    )  # fmt: skip
