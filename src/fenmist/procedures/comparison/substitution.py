"""One sensor in the place of another: what is read beside both carries the power over from the reference to the device.

Each group of points has legs: the reference's and the device's. What is read on both, a sensor at a coupler or the
source's own level, is the monitor: P = P_ref·(M_dev/M_ref), each M as the power at the place of the two that its bench
makes of it. Whatever both legs share cancels there by itself: the coupler's ratio, the monitor's gain. The match of
reference and device doesn't: with a coupler it is its equivalent source match Γ_GE = S22 − S21·S32/S31 that they
face, with a source's level its own (handbook 15.3, 15.9). Page: docs/method/substitution.md.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from fenmist.calibration.again import Unit
from fenmist.calibration.consensus import each_reference, log_of, repeat_id, round_influences
from fenmist.calibration.job import Job
from fenmist.calibration.references import References, references_at
from fenmist.calibration.rounds import PointReadings, Scatter, scatter
from fenmist.uncertainty.influence import (
    Distribution,
    FloatArray,
    Influence,
    each_point,
    influence,
    standard_u_from_limit,
)
from fenmist.uncertainty.propagation import Model

BETWEEN = "between the visits"
"""Name of what the ratio of reference and monitor moved by from visit to visit."""

_OF_ONE_READING = (".reading", ".noise", ".noise_floor", ".repeat", ".drift")
"""Ends of names of what belongs to one leg, whatever the other one shares."""


def units(job: Job, found: Sequence[PointReadings]) -> tuple[Unit, ...]:
    """What can be worked out: points by themselves, and groups of which both legs were read; the device's leg first."""
    legs: dict[str, list[PointReadings]] = {}
    for item in found:
        if item.point.group and item.rounds:
            legs.setdefault(item.point.group, []).append(item)
    made: list[Unit] = []
    for item in found:
        if not item.rounds:
            continue
        if not item.point.group:
            made.append((item,))
        elif reads_device(job, item):
            others = tuple(one for one in legs[item.point.group] if not reads_device(job, one))
            if others:
                made.append((item, *others))
    return tuple(made)


def reads_device(job: Job, item: PointReadings) -> bool:
    """Whether the device is read at a point."""
    return any(job.is_device(name) for name in item.point.sequence)


@dataclass(frozen=True, eq=False)
class Substitution:
    """Groups that are read alike: n of them."""

    device: References  # the leg with the device: the monitors
    device_mean: Scatter
    reference: References  # the others: the reference, and the monitors again
    reference_mean: Scatter
    pairs: tuple[tuple[int, int], ...]  # monitors: their places in both
    standard: int  # the reference's place in the second
    moved: FloatArray  # ± of ln(reference/monitor) from visit to visit, (n,)

    @cached_property
    def influences(self) -> tuple[Influence, ...]:
        """Everything uncertain in both legs, what they share once."""
        own = (*self.device.influences, *round_influences(self.device, self.device_mean))
        other = (
            self._of_reference(item)
            for item in (*self.reference.influences, *round_influences(self.reference, self.reference_mean))
        )
        made = {item.id: item for item in (*other, *own)}
        if np.any(self.moved > 0):
            n = self.moved.size
            made[BETWEEN] = influence(
                BETWEEN, "ratio of reference and monitor, from visit to visit", 0.0,
                standard_u_from_limit(self.moved, Distribution.RECTANGULAR), points=n,
                distribution=Distribution.RECTANGULAR, sharing=each_point(n), basis="half of what it moved by",
            )  # fmt: skip
        return tuple(made.values())

    def _of_reference(self, item: Influence) -> Influence:
        return replace(item, id=self._renamed(item.id))

    def _renamed(self, name: str) -> str:
        place = self.device.bench.hookup.stated.element
        is_own = (
            name.endswith(_OF_ONE_READING)
            or name.startswith(("repeat", f"{self.reference.source.id}.drift", f"{place}."))
            or f"~{place}." in name
        )
        return f"{name}, reference" if is_own else name

    @cached_property
    def _names(self) -> dict[str, str]:
        """Names in the second leg's own model, by name here."""
        return {
            self._renamed(item.id): item.id
            for item in (*self.reference.influences, *round_influences(self.reference, self.reference_mean))
        }

    def log_power(self) -> Model:
        """ln of the power at the device's place, "log", with what stands of it: "scatter" of the device's ratio."""
        of_device, of_reference = each_reference(self.device), each_reference(self.reference)
        own, other = self.device.means, self.reference.means

        def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
            first = of_device(x)
            second = of_reference({name: x[known] for known, name in self._names.items()})
            standard = second[log_of(other[self.standard])]
            logs = [first[log_of(own[here])] - second[log_of(other[there])] + standard for here, there in self.pairs]
            scatter = [x[repeat_id(self.device, own[here])] for here, _ in self.pairs]
            log = sum(logs, np.zeros(1)) / len(logs) + x.get(BETWEEN, 0.0)
            return {"log": log, "scatter": sum(scatter, np.zeros(1)) / len(scatter), "net share": first["net share"]}

        return model


def substitution(job: Job, groups: Sequence[Unit]) -> Substitution:
    """Groups that read the same channels on the same hook-ups."""
    first = [group[0] for group in groups]
    others = [_together(group[1:]) for group in groups]
    device_mean, reference_mean = scatter(job, tuple(first)), scatter(job, tuple(others))
    device, reference = references_at(job, first, device_mean), references_at(job, others, reference_mean)
    indicators = [_indicator(job, mean.channel) for mean in reference.means]
    pairs = tuple(
        (place, indicators.index(shown))
        for place, mean in enumerate(device.means)
        if (shown := _indicator(job, mean.channel)) in indicators
    )
    monitors = {there for _, there in pairs}
    standard = next(place for place in range(len(indicators)) if place not in monitors)
    moved = np.array([_moved(group[1:], reference, standard, monitors) for group in groups])
    return Substitution(device, device_mean, reference, reference_mean, pairs, standard, moved)


def _indicator(job: Job, channel: str) -> tuple[str, str]:
    found = job.channel(channel)
    return job.part_read(channel).id, found.indicator


def _together(legs: Unit) -> PointReadings:
    """The rounds of several visits to one hook-up as those of one point."""
    first = legs[0]
    return replace(first, rounds=tuple(one for leg in legs for one in leg.rounds))


def _moved(legs: Unit, reference: References, standard: int, monitors: set[int]) -> float:
    """Half of what ln(reference/monitor) moved by from the first visit to the last."""
    if len(legs) < 2:
        return 0.0
    name, others = reference.means[standard].channel, [reference.means[place].channel for place in monitors]

    def ratio(leg: PointReadings) -> float:
        logs = [one.log_of(name) - sum(one.log_of(other) for other in others) / len(others) for one in leg.rounds]
        return sum(logs) / len(logs)

    return abs(ratio(legs[-1]) - ratio(legs[0])) / 2.0
