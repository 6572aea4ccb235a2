"""Rules over all points after the run: the shape of the error says where it may come from.

A shape is only named where it explains the points far better than a constant does, by more than the points can be
read to; what all points share (the scope's gain) makes no shape.
"""

import math
import statistics
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, Severity
from fenmist.judgement.entry_rules import at_point
from fenmist.procedures.comparison.overlap import overlaps
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.display import frequency, percent, plain

CONSTANT = 0.05
"""Relative error from which one that is the same at all points is spoken of (Fenmist's own, no source)."""

SHAPE_SPAN = 0.02
"""Relative change over the points below which no shape is named (Fenmist's own, no source)."""

BETTER = 0.15
"""Part of the constant's squared residual that a named shape may leave (Fenmist's own, no source)."""

ONE_SUPPORT = 0.7
"""Part of the variance from one source from which all points are said to lean on it (Fenmist's own, no source)."""

LOW_THIRD = 1.0 / 3.0
"""Part of full scale below which a reading counts as the scale's low end."""

_CANDIDATES = (
    (2.0, "rms volts taken for peak"), (0.5, "peak volts taken for rms"), (4.0, "peak taken for peak-to-peak"),
    (0.25, "peak-to-peak taken for peak"), (8.0, "rms taken for peak-to-peak"), (0.125, "peak-to-peak taken for rms"),
)  # fmt: skip
"""What the meter reads over the reference when the reference's volts were taken in the wrong form."""


def _logs(points: Sequence[PointResult]) -> FloatArray:
    return np.asarray(np.log([max(item.ratio, 1e-9) for item in points]))


def _own_u(result: Result) -> FloatArray:
    """Standard uncertainty of each log ratio that it shares with no other point, shape (n,)."""
    if result.log_ratio is None:
        return np.zeros(len(result.points))
    own = ~result.log_ratio.shared_by_all() if len(result.points) > 1 else np.ones(1, dtype=bool)
    return np.asarray(np.sqrt(np.sum(np.where(own[:, None], result.log_ratio.signed**2, 0.0), axis=0)))


def constant_factor(result: Result) -> Iterator[Note]:
    """One factor at four or more points: gain, wrong scale, wrong load value, wrong form of volts."""
    if len(result.points) < 4:
        return
    logs = _logs(result.points)
    mean, spread = float(logs.mean()), float(logs.std(ddof=1))
    widest = max(item.expanded_u_ratio / item.ratio for item in result.points)
    if abs(mean) < max(CONSTANT, widest) or spread > abs(mean) / 5.0:
        return
    factor = math.exp(mean)
    near = [name for value, name in _CANDIDATES if abs(math.log(value / factor)) < 0.1]
    maybe = f" It is near {near[0]}." if near else ""
    yield Note(
        "errors.constant", Severity.WATCH, "job",
        f"The meter reads {factor:.3g} times the reference at all {len(result.points)} points.",
        f"The factor scatters by only {percent(spread)}: one gain, not a frequency response.{maybe}",
        "Check scale and range, the oscilloscope's volts per division and probe setting, and the load's value; then "
        "the meter's trimmer.",
        {"factor": factor, "spread": spread},
    )  # fmt: skip


@dataclass(frozen=True)
class _Shape:
    """A way an error may go with frequency, as a function of f over its highest value."""

    code: str
    what: str
    why: str
    remedy: str
    of: Callable[[FloatArray], FloatArray]


_SHAPES = (
    _Shape(
        "errors.square", "The error grows as the square of the frequency",
        "A lead longer than stated, stray capacitance, or the meter's own detector goes as f²; cable loss goes as √f.",
        "Measure the lead, or put a probe at the tee; what is left is the meter's.", lambda x: x**2,
    ),
    _Shape(
        "errors.root", "The error grows as the square root of the frequency",
        "That is how a cable's loss goes: a jumper between the meter and the tee that is longer than stated.",
        "Measure the jumper's loss at the highest frequency and state it.", np.sqrt,
    ),
)  # fmt: skip


def shape_over_frequency(result: Result) -> Iterator[Note]:
    """The error goes as f² or as √f over four frequencies or more."""
    if len({item.point.frequency_hz for item in result.points}) < 4:
        return
    f = np.array([item.point.frequency_hz for item in result.points])
    logs, u = _logs(result.points), _own_u(result)
    x = f / f.max()
    span = float(np.ptp(logs))
    if span < max(SHAPE_SPAN, 4.0 * float(np.median(u))):
        return
    flat = float(np.sum((logs - logs.mean()) ** 2))
    fits = []
    for shape in _SHAPES:
        design = np.array([np.ones_like(x), shape.of(x)]).T
        solution = np.linalg.lstsq(design, logs, rcond=None)[0]
        left = float(np.sum((logs - design @ solution) ** 2))
        fits.append((left, shape, float(solution[1])))
    left, shape, slope = min(fits, key=lambda fit: fit[0])
    if left > BETTER * flat:
        return
    top = f.max()
    yield Note(
        shape.code, Severity.WATCH, "job",
        f"{shape.what}, to {percent(math.expm1(slope), plus=True)} at {frequency(float(top))}.", shape.why,
        shape.remedy, {"slope": slope, "left": left / flat if flat else 0.0, "frequency_hz": float(top)},
    )  # fmt: skip


def low_corner(result: Result) -> Iterator[Note]:
    """The meter falls off towards low frequencies as a coupler's transformer does, 1/(1 + (fL/f)²)."""
    frequencies = np.array(sorted({item.point.frequency_hz for item in result.points}))
    if frequencies.size < 3:
        return
    by_frequency: dict[float, list[float]] = {}
    for item in result.points:
        by_frequency.setdefault(item.point.frequency_hz, []).append(math.log(max(item.ratio, 1e-9)))
    logs = np.array([statistics.fmean(by_frequency[float(f)]) for f in frequencies])
    level = float(np.median(logs[frequencies.size // 2 :]))
    drop = level - float(logs[0])
    u = float(np.median(_own_u(result)))
    if drop < max(0.05, 4.0 * u) or np.any(np.diff(logs[: max(frequencies.size // 2, 2)]) < -2.0 * u - 0.01):
        return
    corner = float(frequencies[0]) * math.sqrt(math.expm1(drop))
    model = level - np.log1p((corner / frequencies) ** 2)
    flat = float(np.sum((logs - logs.mean()) ** 2))
    if float(np.sum((logs - model) ** 2)) > BETTER * flat:
        return
    yield Note(
        "errors.low_corner", Severity.WATCH, "job",
        f"The meter reads {percent(math.expm1(-drop), plus=True)} at {frequency(float(frequencies[0]))}, falling off "
        "to the low end.",
        f"A coupler's transformer does that below its corner, about {frequency(round(corner, -3))} here: it reads a "
        "half at the corner.",
        "State a lowest frequency, or a factor for each frequency.",
        {"corner_hz": corner, "drop": drop},
    )  # fmt: skip


def low_end_of_scale(result: Result) -> Iterator[Note]:
    """Right up the scale, wrong at its low end: diode or zero."""
    groups: dict[float, list[PointResult]] = {}
    for item in result.points:
        groups.setdefault(item.point.frequency_hz, []).append(item)
    for f, found in groups.items():
        low, high = _by_deflection(found)
        if not low or len(high) < 2:
            continue
        above = statistics.fmean(item.error_fraction for item in high)
        worst = max(low, key=lambda item: abs(item.error_fraction - above))
        off = worst.error_fraction - above
        spread = max(abs(item.error_fraction - above) for item in high)
        if abs(off) > max(0.03, 5.0 * spread, worst.expanded_u_ratio):
            yield Note(
                "errors.low_scale", Severity.WATCH, "job",
                f"At the low end of the scale the meter is {percent(off, plus=True)} off what it is above "
                f"{at_point(worst.point)}.",
                f"Further up its error is {percent(above, plus=True)} at {frequency(f)}: a diode's threshold reads low "
                "at little power, a zero that is off shifts the low end.",
                "Check the mechanical zero; use the lower range there, or a curve instead of one factor.",
                {"off": off, "above": above, "frequency_hz": f},
            )  # fmt: skip
            return


def _by_deflection(found: list[PointResult]) -> tuple[list[PointResult], list[PointResult]]:
    top = max(item.indicated_w for item in found)
    low = [item for item in found if item.indicated_w < LOW_THIRD * top]
    return low, [item for item in found if item.indicated_w >= LOW_THIRD * top]


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
