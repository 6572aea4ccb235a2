"""What a bench will say, before anything is read: the uncertainty it would reach, and what stands in the way.

Everything is prediction from stated performance: each instrument shows what the bench leads to expect at the planned
power, read to three figures or to a part of its division; one round, nothing scatters, nothing drifts.
Page: docs/method/shelf.md.
"""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from fenmist.calibration.consensus import each_output, each_reference, log_of, round_influences, weighed
from fenmist.calibration.expected import digit_of
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.levels import planned_levels
from fenmist.calibration.planning import cannot_serve
from fenmist.calibration.references import References, references_of, shown_per_watt
from fenmist.calibration.rounds import ChannelMean, Scatter
from fenmist.calibration.sent import part_shown, shares_at, waveform_said
from fenmist.frozen import dataclass
from fenmist.hookup.line import main_way
from fenmist.kit.part import Indicator, Range
from fenmist.measurand import Kind
from fenmist.reading.dial import reading_u
from fenmist.reading.event import Reading
from fenmist.reading.interpret import shown_on
from fenmist.uncertainty.agreement import K
from fenmist.uncertainty.influence import FloatArray, Inputs
from fenmist.uncertainty.propagation import Stencil, propagate, remembering
from fenmist.units.display import THIN, frequency, percent, plain

SMALLEST = 1e-30
"""What an instrument is taken to show where the bench leads to nothing."""


@dataclass(frozen=True)
class Predicted:
    """What a bench will say at one point."""

    point: PlanPoint
    expanded_u: float  # relative, k = 2, of what is stated; infinite where nothing can be said
    tolerance: float  # relative half-width; 0 where nothing is claimed
    blocked: str  # why it can't be read or decides nothing, or nothing
    unit: str = "%"  # in which U and tolerance are said; else they are in that unit themselves

    @property
    def decides(self) -> bool:
        """Whether a claim could be judged there: U is no larger than its tolerance."""
        return not self.blocked and 0.0 < self.expanded_u <= self.tolerance


def reached(value: float, unit: str) -> str:
    """A predicted U, or a tolerance, as it is said."""
    return percent(value) if unit == "%" else f"{value:.2g}{THIN}{unit}"


def predicted(job: Job) -> tuple[Predicted, ...]:
    """What the bench of a job will say at each point of its plan, in the plan's order; of a blocked one only why."""
    unserved = cannot_serve(job)
    alike: dict[tuple[str, tuple[str, ...]], list[PlanPoint]] = {}
    found: dict[str, Predicted] = {}
    for point in job.plan:
        why = unserved.get(point.id, "") or _too_little(job, point)
        if why:
            found[point.id] = Predicted(point, math.inf, 0.0, why)
        else:
            alike.setdefault((point.hookup, job.references_of(point)), []).append(point)
    for (hookup, channels), points in alike.items():
        found.update({item.point.id: item for item in _alike(job, hookup, channels, points)})
    return tuple(found[point.id] for point in job.plan)


def _too_little(job: Job, point: PlanPoint) -> str:
    """What a source gives where that is less than a point needs, or nothing."""
    levels = planned_levels(job).get(point.hookup)
    if levels is None:
        return ""
    hookup, highest = job.hookup(point.hookup), levels.highest
    source = job.part(hookup.element(main_way(hookup, job.parts)[0].element).part)
    limit, needed = source.ports[0].power_limit_w, highest.source_w * point.target_w / highest.power_w
    if limit is None or needed <= limit * 1.02:
        return ""
    return f"{source.label} gives {plain(limit, 'W')}, {plain(needed, 'W', 3)} are needed"


def _alike(job: Job, hookup: str, channels: tuple[str, ...], points: Sequence[PlanPoint]) -> list[Predicted]:
    if not channels:
        return [Predicted(point, math.inf, 0.0, "nothing is read there") for point in points]
    f = np.array([point.frequency_hz for point in points])
    watts = np.array([point.target_w for point in points])
    shown = shown_per_watt(job, job.hookup(hookup), f, channels)
    references, inputs = _read_once(
        job, hookup, points,
        tuple(_expected(job, name, points, per_watt * watts) for name, per_watt in zip(channels, shown, strict=True)),
    )  # fmt: skip
    means, nothing = references.means, np.zeros(f.size)
    stencil, each = Stencil(inputs), remembering(each_reference(references))
    found = weighed(job, references, each, stencil)
    logs = found.logs
    signed = sum(weight * logs[log_of(mean)].signed for weight, mean in zip(found.weights, means, strict=True))
    correlation = inputs.correlation(list(logs[log_of(means[0])].sensitivities))
    u = np.sqrt(np.maximum(np.einsum("in,ij,jn->n", signed, correlation, signed), 0.0))
    device = np.array([_device_u(job, point) for point in points])
    expanded = K * np.hypot(u, device)
    claims = job.device_shows is not None
    claimed = watts * [_claimed_part(job, point) for point in points]
    tolerance = job.tolerance_w(points, claimed, nothing) / claimed if claims else nothing
    return [
        Predicted(point, float(expanded[n]), float(tolerance[n]), _why(job, references, found.trusted[:, n], n))
        for n, point in enumerate(points)
    ]


def _read_once(
    job: Job, hookup: str, points: Sequence[PlanPoint], means: tuple[ChannelMean, ...]
) -> tuple[References, Inputs]:
    """References that show what is given, in one round each: nothing scatters, nothing drifts."""
    f = np.array([point.frequency_hz for point in points])
    references, nothing = references_of(job, hookup, f, means), np.zeros(f.size)
    scatter = Scatter(means, (), np.zeros(f.size, bool), nothing, np.full(f.size, np.inf))
    return references, Inputs((*references.influences, *round_influences(references, scatter)))


def stands_for(
    job: Job, channel: str, points: Sequence[PlanPoint], values: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """The power that a reading of one channel stands for, and how well it would be known from that reading alone.

    Parameters
    ----------
    job : Job
        Its bench as it is described.
    channel : str
        A reference of the points.
    points : sequence of n plan points
        Of the channel's hook-up.
    values : array, shape (n,)
        What is shown: V or A rms, or W.

    Returns
    -------
    tuple of arrays, shape (n,)
        W at the stated plane, and U (k = 2) as a part of it.
    """
    mean = _as_read(job, channel, points, values, _form(job, channel))
    references, inputs = _read_once(job, points[0].hookup, points, (mean,))
    made = propagate(each_reference(references), inputs, each_output(references, job.stated))[log_of(mean)]
    return np.exp(made.value), K * made.u


def _claimed_part(job: Job, point: PlanPoint) -> float:
    """The part of PEP that the device claims to show at a point."""
    return part_shown(job, point, job.device_channel.id) if job.device_shows is not None else 1.0


def _expected(job: Job, channel: str, points: Sequence[PlanPoint], of_pep: FloatArray) -> ChannelMean:
    """A channel as it will be read where a carrier of the same PEP shows so many V², A² or W."""
    form, kind = _form(job, channel), job.channel(channel).measurand.kind
    shares = shares_at(job, points, channel, [form] * len(points))
    shown = of_pep * [share.value if share else 1.0 for share in shares.each]
    values = np.maximum(np.sqrt(shown) if kind in (Kind.VOLTAGE, Kind.CURRENT) else shown, SMALLEST)
    return _as_read(job, channel, points, values, form)


def _form(job: Job, channel: str) -> str:
    return "Vpp" if job.indicator(channel).unit == "Vpp" else ""


def _as_read(job: Job, channel: str, points: Sequence[PlanPoint], values: FloatArray, form: str) -> ChannelMean:
    """A channel that shows so many V or A rms, or W, read once at each point."""
    indicator, kind = job.indicator(channel), job.channel(channel).measurand.kind
    shares = shares_at(job, points, channel, [form] * len(points))
    used = [shown_on(indicator, float(value)) for value in values]
    digits = np.array([digit_of(float(value)) for value in values])
    unit = {Kind.VOLTAGE: "V", Kind.CURRENT: "A"}.get(kind, "W")
    u = [
        reading_u(Reading(float(value), unit, float(digit)), item, job.part_of_division)
        for value, digit, item in zip(values, digits, used, strict=True)
    ]
    n = values.size
    full = np.array([item.full_scale if item else math.inf for item in used])
    names = tuple(item.id if item else "" for item in used)
    none, never = np.zeros(n), np.full(n, np.inf)
    return ChannelMean(channel, values, np.array(u), digits, (form,) * n, names, full, none, never, none, shares)


def _device_u(job: Job, point: PlanPoint) -> float:
    """Relative standard uncertainty of reading the device once; 0 where nothing is read on it."""
    if job.device_shows is None:
        return 0.0
    watts = point.target_w * _claimed_part(job, point)
    shown = Reading(watts, "W", digit_of(watts))
    return reading_u(shown, job.device_range(point), job.part_of_division) / watts


def _why(job: Job, references: References, trusted: NDArray[np.bool_], place: int) -> str:
    """Why nothing can be said at a point, or nothing."""
    for mean in references.means:
        off = _off_scale(job.indicator(mean.channel), float(mean.value[place]))
        if off is not None:
            unit = {Kind.VOLTAGE: "V", Kind.CURRENT: "A"}.get(job.channel(mean.channel).measurand.kind, "W")
            shown, full = plain(float(mean.value[place]), unit, 3), plain(off.full_scale, unit, 3)
            return f"{job.part_read(mean.channel).label} would be off its scale: {shown} on {full}"
    if not np.any(trusted):
        unknown = next((mean for mean in references.means if not mean.shares.known[place]), None)
        if unknown is not None:
            label, sent = job.part_read(unknown.channel).label, waveform_said(unknown.shares.waveforms[place])
            return f"nobody knows what {label} shows of {sent}: send a steady carrier"
        at = frequency(float(references.bench.frequency_hz[place]))
        return f"{job.part_read(references.means[0].channel).label} is no reference at {at}"
    return ""


def _off_scale(indicator: Indicator, value: float) -> Range | None:
    """The highest range, where a value is beyond it."""
    top = max(indicator.ranges, key=lambda item: item.full_scale, default=None)
    return top if top is not None and value > top.full_scale * (1.0 + 1e-9) else None
