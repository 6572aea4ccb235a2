"""One sensor in the place of another: what is read beside both carries the power over from the reference to the device.

Each group of points has legs: the reference's and the device's. What is read on both, a sensor at a coupler or the
source's own level, is the monitor: P = P_ref·(M_dev/M_ref), each M as the power at the place of the two that its bench
makes of it. Whatever both legs share cancels there by itself: the coupler's ratio, the monitor's gain. The match of
reference and device doesn't: with a coupler it is its equivalent source match Γ_GE = S22 − S21·S32/S31 that they
face, with a source's level its own (handbook 15.3, 15.9). Page: docs/method/substitution.md.
"""

from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np

from fenmist.calibration.again import Unit, singly
from fenmist.calibration.consensus import each_reference, log_of, repeat_id, round_influences
from fenmist.calibration.job import Job
from fenmist.calibration.legs import BETWEEN, Legs, between_visits, group_units, half_moved, joined_legs, together
from fenmist.calibration.references import References, references_at
from fenmist.calibration.rounds import PointReadings, Scatter, scatter
from fenmist.frozen import dataclass
from fenmist.uncertainty.influence import FloatArray, Influence
from fenmist.uncertainty.propagation import Model


def units(job: Job, found: Sequence[PointReadings]) -> tuple[Unit, ...]:
    """What can be worked out: points by themselves, and groups of which both legs were read; the device's leg first."""
    return group_units(found, lambda item: reads_device(job, item)) if job.has_groups else singly(found)


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

    @property
    def influences(self) -> tuple[Influence, ...]:
        """Everything uncertain in both legs, what they share once."""
        return (*self._legs.influences, *between_visits(self.moved, "ratio of reference and monitor"))

    @cached_property
    def _legs(self) -> Legs:
        own = (*self.device.influences, *round_influences(self.device, self.device_mean))
        other = (*self.reference.influences, *round_influences(self.reference, self.reference_mean))
        return joined_legs((("device", own), ("reference", other)), self._is_own)

    def _is_own(self, name: str) -> bool:
        """What one leg scatters by, and what the part in that place faces."""
        place, source = self.device.bench.hookup.stated.element, self.reference.source.id
        return name.startswith(("repeat", f"{source}.drift", f"{place}.")) or f"~{place}." in name

    def log_power(self) -> Model:
        """ln of the power at the device's place, "log", with what stands of it: "scatter" of the device's ratio."""
        of_device, of_reference = each_reference(self.device), each_reference(self.reference)
        own, other, legs = self.device.means, self.reference.means, self._legs

        def model(x: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
            first, second = of_device(legs.of(0, x)), of_reference(legs.of(1, x))
            standard = second[log_of(other[self.standard])]
            logs = [first[log_of(own[here])] - second[log_of(other[there])] + standard for here, there in self.pairs]
            scatter = [x[repeat_id(self.device, own[here])] for here, _ in self.pairs]
            log = sum(logs, np.zeros(1)) / len(logs) + x.get(BETWEEN, 0.0)
            return {"log": log, "scatter": sum(scatter, np.zeros(1)) / len(scatter), "net share": first["net share"]}

        return model


def substitution(job: Job, groups: Sequence[Unit]) -> Substitution:
    """Groups that read the same channels on the same hook-ups."""
    first = [group[0] for group in groups]
    others = [together(group[1:]) for group in groups]
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


def _moved(legs: Unit, reference: References, standard: int, monitors: set[int]) -> float:
    """Half of what ln(reference/monitor) moved by from the first visit to the last."""
    name, others = reference.means[standard].channel, [reference.means[place].channel for place in monitors]

    def ratio(leg: PointReadings) -> float:
        logs = [one.log_of(name) - sum(one.log_of(other) for other in others) / len(others) for one in leg.rounds]
        return sum(logs) / len(logs)

    return half_moved(legs, ratio)
