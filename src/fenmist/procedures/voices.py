"""How the references of a point agree, as a picture; and what is budgeted of each."""

from collections import Counter
from collections.abc import Iterator, Mapping
from typing import Any, Protocol, TypeVar

import numpy as np

from fenmist.calibration.again import Worked
from fenmist.calibration.answers import Answer, Answers
from fenmist.calibration.job import Job
from fenmist.judgement.agreement_rules import Compared, between, references_agree
from fenmist.judgement.entry_rules import at_point
from fenmist.procedures.page import Tie, Voice, Voices
from fenmist.uncertainty.agreement import Agreement
from fenmist.uncertainty.estimate import BudgetRow, Estimate
from fenmist.units.display import percent, plain

TIED = 0.05
"""Correlation from which what two references share is drawn (Fenmist's own, no source)."""

NAMED = 2
"""Shared parts that a tie names."""


def voices(
    job: Job, point: Compared, consensus: tuple[float, float, float], logs: Mapping[str, Estimate], column: int
) -> Voices:
    """The picture of a point with several references.

    Parameters
    ----------
    consensus : tuple
        Its low end, value and high end in W.
    logs, column
        Logarithm of the power that each says, by channel, and the point's place in them.
    """
    found = point.agreement
    used = between(point)
    odd = used[found.odd] if found is not None and found.odd is not None else ""
    said = tuple(
        Voice(
            job.part_read(item.channel).label, item.power_w, *item.interval_w, item.weight, item.channel == odd,
            item.is_reference,
        )
        for item in point.references
    )  # fmt: skip
    low, value, high = consensus
    notes = list(references_agree(job, [point]))
    sentence = f"{notes[0].what} {notes[0].why}" if notes else _agree(found)
    ties = tuple(_ties(job, [item.channel for item in point.references], logs, column))
    return Voices(at_point(point.point), "W", said, low, value, high, ties, sentence)


class Said(Worked[Any], Protocol):
    """What the engine made of points that references say."""

    @property
    def logs(self) -> Mapping[str, Estimate]:
        """ln(power/W) of each reference; empty over points that read differently."""


class Heard(Answer, Compared, Protocol):
    """What came of a point that references say."""


P = TypeVar("P", bound=Heard)
W = TypeVar("W", bound=Said)


class Referred(Answers[P, W]):
    """An outcome whose powers references say."""

    def voices(self, point_id: str) -> Voices | None:
        """How the references of a point agree; none where one is alone, or nothing was read."""
        item, power = self.of(point_id), self.power_at(point_id)
        if item is None or power is None or len(item.references) < 2:
            return None
        return voices(self.job, item, power, *self._logs_at(point_id))

    def _logs_at(self, point_id: str) -> tuple[Mapping[str, Estimate], int]:
        """Logarithms of the power that each reference of a point says, and the point's place in them."""
        whole = self.worked
        if whole is not None and whole.logs:
            return whole.logs, next(n for n, unit in enumerate(self.units) if unit[0].point.id == point_id)
        here = self.worked_at(point_id)
        return (here.logs, 0) if here is not None else ({}, 0)


def _agree(found: Agreement | None) -> str:
    if found is None or len(found.weights) < 2:
        return "Only one of them is a reference here."
    return f"They agree: χ² is {plain(found.chi_squared, '', 2)}, probability {percent(found.probability)}."


def _ties(job: Job, channels: list[str], logs: Mapping[str, Estimate], column: int) -> Iterator[Tie]:
    for a in range(len(channels)):
        for b in range(a + 1, len(channels)):
            one, other = logs[channels[a]], logs[channels[b]]
            shared = _shared(one, other, column)
            u = float(one.u[column] * other.u[column])
            correlation = sum(shared.values()) / u if u > 0 else 0.0
            if correlation >= TIED:
                names = [
                    job.parts[part].label if part in job.parts else "rounds" for part, _ in shared.most_common(NAMED)
                ]
                yield Tie(a, b, correlation, " and ".join(names))


def _shared(one: Estimate, other: Estimate, column: int) -> Counter[str]:
    """Covariance of two estimates at a point by the part that it comes from."""
    found: Counter[str] = Counter()
    known = one.inputs.by_id
    for name, slope in one.sensitivities.items():
        product = float(slope[column] * other.sensitivities[name][column] * known[name].standard_u[column] ** 2)
        if product:
            found[known[name].source_id] += product  # type: ignore[assignment]
    return Counter({part: value for part, value in found.items() if np.isfinite(value)})


def budgets_of(
    job: Job, stated: Mapping[str, Estimate], logs: Mapping[str, Estimate]
) -> dict[str, tuple[BudgetRow, ...]]:
    """Budgets at one point by name: what is stated, then each of several references."""
    found = {name: estimate.budget(0) for name, estimate in stated.items()}
    if len(logs) > 1:
        found |= {job.part_read(channel).label: log.budget(0) for channel, log in logs.items()}
    return found
