"""What the references of a point say together: each as a power, weighed by how well it is known, and how they agree.

Everything is taken in logarithms, as powers are known in per cent. The scatter of the rounds and what a drift leaves
stand beside the references' own influences; where no device is read they are the source's and the readings' own.
"""

import math
from collections.abc import Mapping, Sequence
from functools import partial

import numpy as np
from numpy.typing import NDArray

from fenmist.calibration.job import Job
from fenmist.calibration.references import References
from fenmist.calibration.rounds import ChannelMean, Scatter
from fenmist.frozen import dataclass
from fenmist.kit.same import Latest
from fenmist.measurand import Measurand
from fenmist.uncertainty.agreement import Agreement, agreements
from fenmist.uncertainty.estimate import Estimate
from fenmist.uncertainty.influence import (
    Distribution,
    FloatArray,
    Influence,
    each_point,
    influence,
    standard_u_from_limit,
)
from fenmist.uncertainty.propagation import Model, Stencil, propagate

LOG_CLIP = 60.0
"""Largest log ratio drawn: two rounds have tails without end, and e^60 is beyond any meter."""

MOST_LOG = 600.0
"""Of a power in W, drawn: beyond it floats end."""

SMALLEST_POWER_W = 1e-30
"""Power taken for a sensor whose zero was drawn above what it shows."""

SOURCE_REPEAT = "source.repeat"
"""Name of what the rounds scatter by together, where no device is read."""


def power_of_log(log: FloatArray) -> FloatArray:
    """W, of a logarithm that was drawn."""
    return np.asarray(np.exp(np.clip(log, -MOST_LOG, MOST_LOG)))


Values = Mapping[str, FloatArray]


@dataclass(frozen=True)
class ReferenceResult:
    """What one reference says of the power at one point."""

    channel: str
    power_w: float  # at the stated plane, at the moment of the device or in the middle of the round
    interval_w: tuple[float, float]
    weight: float  # in the consensus
    is_reference: bool


@dataclass(frozen=True, eq=False)
class Weighed:
    """Weights of m references at n points, shape (m, n), where each is one, and how they agree at each point."""

    weights: FloatArray
    trusted: NDArray[np.bool_]
    agreements: tuple[Agreement | None, ...]  # none where one reference is alone
    decides: NDArray[np.bool_]  # (n,): whether a verdict may lean on what they say together
    logs: Mapping[str, Estimate]  # logarithm of the power that each says, by `log_of`


def log_of(mean: ChannelMean) -> str:
    """Name of the logarithm of the power that a reference says."""
    return f"log.{mean.channel}"


def each_output(references: References, stated: Measurand) -> dict[str, tuple[Measurand | str, str]]:
    """Those logarithms as outputs of a propagation."""
    return {log_of(item): (stated, "") for item in references.means}


def repeat_id(references: References, mean: ChannelMean) -> str:
    """Name of what the rounds of a reference scatter by."""
    return "repeat" if len(references.means) == 1 else f"repeat.{mean.channel}"


def _drift_id(references: References, mean: ChannelMean) -> str:
    name = f"{references.source.id}.drift"
    return name if len(references.means) == 1 else f"{name}.{mean.channel}"


def floor_id(channel: str) -> str:
    """Name of what a device scatters by in watts, where it showed nothing at times."""
    return f"repeat.{channel}"


def round_influences(references: References, mean: Scatter) -> tuple[Influence, ...]:
    """Scatter of the rounds, and what a drift of the carrier leaves, of each reference."""
    n, source = references.bench.frequency_hz.size, references.source
    together = "" if mean.device or len(mean.references) < 2 else "rounds"  # the same rounds, each against their mean
    of_what = "repeatability of the ratio" if mean.device else "repeatability of the readings"
    found = []
    for item, indication in zip(mean.references, references.indications, strict=True):
        label = f"{of_what}, {indication.read.part.label}" if together else of_what
        found.append(
            influence(
                repeat_id(references, item), label, 0.0, item.u_repeat, points=n,
                sharing=each_point(n), dof=item.dof_repeat, kind="A", basis="scatter of the rounds", ensemble=together,
            )
        )  # fmt: skip
        found.append(
            influence(
                _drift_id(references, item), "drift of the carrier, left over", 0.0,
                standard_u_from_limit(item.drift_limit, Distribution.RECTANGULAR), points=n, source_id=source.id,
                distribution=Distribution.RECTANGULAR, sharing=each_point(n), basis="after interpolating the reference",
            )
        )  # fmt: skip
    for shown in mean.device:
        if np.any(shown.u_repeat_w > 0):
            found.append(
                influence(
                    floor_id(shown.channel), "device, repeatability near nothing", 0.0, shown.u_repeat_w, points=n,
                    unit="W", sharing=each_point(n), dof=shown.dof_repeat, kind="A", basis="scatter of the rounds",
                )
            )  # fmt: skip
    if not mean.device:
        found.append(
            influence(
                SOURCE_REPEAT, "repeatability of the source", 0.0, mean.u_source, points=n, source_id=source.id,
                sharing=each_point(n), dof=mean.dof_source, kind="A", basis="scatter of the rounds",
            )
        )  # fmt: skip
    return tuple(found)


def each_reference(references: References, stencil: Stencil | None = None) -> Model:
    """Logarithm of the power that each reference says, from all influences at once; and the share that the end takes.

    With a device it is the power at the moment in which that was read. What is known of them is taken over where it is
    asked for on the stencil.
    """

    def model(x: Values) -> dict[str, FloatArray]:
        powers, net = references.powers(x, stencil)
        logs = {
            log_of(mean): np.log(np.maximum(power, SMALLEST_POWER_W))
            + np.clip(x[_drift_id(references, mean)], -LOG_CLIP, LOG_CLIP)
            - np.clip(x[repeat_id(references, mean)], -LOG_CLIP, LOG_CLIP)
            for mean, power in zip(references.means, powers, strict=True)
        }
        return {**logs, "net share": net}

    return model


def weighed(job: Job, references: References, each: Model, stencil: Stencil) -> Weighed:
    """How much each reference counts, by least squares, or all on the one that is named; and how they agree.

    What is no reference at a point has no weight there, unless none is. Nor has one that stands apart from others that
    agree: it would draw the consensus away and make it look better known than it is. Where they disagree and no single
    one explains it, nothing is decided by them (docs/decisions/0020).

    Parameters
    ----------
    each : callable
        As `each_reference` makes it of them.
    """
    trusted = references.trusted(job.method.parameters)
    names = [item.channel for item in references.means]
    n = references.bench.frequency_hz.size
    made = propagate(each, stencil, each_output(references, job.stated))
    if len(names) == 1:
        return Weighed(np.ones((1, n)), trusted, (None,) * n, trusted[0], made)
    logs = np.array([item.value for item in made.values()])
    correlation = stencil.inputs.correlation(list(next(iter(made.values())).sensitivities))
    signed = np.array([item.signed for item in made.values()]).transpose(2, 0, 1)
    covariance = signed @ correlation @ signed.transpose(0, 2, 1)
    used = [tuple(np.flatnonzero(column).tolist()) or tuple(range(len(names))) for column in trusted.T]
    found = _agree(used, logs, covariance)
    kept = [
        tuple(place for number, place in enumerate(here) if number != one.odd)
        for here, one in zip(used, found, strict=True)
    ]
    rest = _agree(kept, logs, covariance)
    weights, decides = np.zeros((len(names), n)), np.any(trusted, axis=0)
    for column, (here, left, one) in enumerate(zip(used, kept, rest, strict=True)):
        named = [place for place in here if names[place] == job.reference]
        if named:
            weights[named, column] = 1.0
        else:
            weights[list(left), column] = one.weights
            decides[column] &= one.agrees
    return Weighed(weights, trusted, tuple(found), decides, made)


def _agree(places: Sequence[tuple[int, ...]], logs: FloatArray, covariance: FloatArray) -> list[Agreement]:
    """How some of the references agree at each point: those at these places; at once where they are the same ones.

    Logarithms have shape (m, n), covariances (n, m, m).
    """
    columns: dict[tuple[int, ...], list[int]] = {}
    for column, some in enumerate(places):
        columns.setdefault(some, []).append(column)
    made: dict[int, Agreement] = {}
    for some, here in columns.items():
        values, between = logs[np.ix_(some, here)].T, covariance[np.ix_(here, some, some)]
        key = values.tobytes(), between.tobytes(), len(some)
        made |= zip(here, _AGREEMENTS.once(key, partial(agreements, values, between)), strict=True)
    return [made[column] for column in range(len(places))]


_AGREEMENTS: Latest[tuple[Agreement, ...]] = Latest(4)
"""Remembered while others are typed beside them."""


def reference_results(references: References, found: Weighed, column: int) -> tuple[ReferenceResult, ...]:
    """What each reference says at a point."""
    results = []
    for place, mean in enumerate(references.means):
        log = found.logs[log_of(mean)]
        power, u = math.exp(float(log.value[column])), float(log.expanded_u[column])
        results.append(
            ReferenceResult(
                mean.channel, power, (power * math.exp(-u), power * math.exp(min(u, LOG_CLIP))),
                float(found.weights[place, column]), bool(found.trusted[place, column]),
            )
        )  # fmt: skip
    return tuple(results)
