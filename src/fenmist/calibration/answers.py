"""Outcomes with an answer a point, each made of a unit that the engine takes alone or with others."""

from abc import abstractmethod
from functools import cached_property
from typing import Any, Generic, Protocol, TypeVar

from fenmist.calibration.again import Unit, Worked, whole_of
from fenmist.calibration.beside import once
from fenmist.calibration.job import PlanPoint
from fenmist.calibration.outcome import Outcome, Stated
from fenmist.frozen import dataclass


class Answer(Protocol):
    """What came of a point."""

    @property
    def point(self) -> PlanPoint:
        """Where it was read."""

    @property
    def stated(self) -> Stated:
        """What is stated there."""


P = TypeVar("P", bound=Answer)
W = TypeVar("W", bound=Worked[Any])


@dataclass(frozen=True, eq=False)
class Answers(Outcome, Generic[P, W]):
    """All points of a job that could be worked out; estimates over all of them are made when first asked for."""

    points: tuple[P, ...]  # in the plan's order

    @abstractmethod
    def work(self, units: tuple[Unit, ...]) -> W:
        """What the engine makes of some units together, to first order."""

    @cached_property
    def stated(self) -> tuple[Stated, ...]:
        """What is stated at each point."""
        return tuple(item.stated for item in self.points)

    @property
    def says_nothing(self) -> bool:
        """Whether nothing is stated at any point yet."""
        return not self.points

    @property
    def worked(self) -> W | None:
        """All points together, or none where nothing was read."""
        return whole_of(self, self.work)

    def worked_at(self, point_id: str) -> W | None:
        """One point alone, or none where it wasn't read."""
        here = tuple(unit for unit in self.units if unit[0].point.id == point_id)
        return once(self, f"worked at {point_id}", lambda: self.work(here)) if here else None

    def stated_at(self, point_id: str) -> Stated | None:
        """What is stated at a point, or nothing yet."""
        found = self.of(point_id)
        return found.stated if found is not None else None

    def of(self, point_id: str) -> P | None:
        """What came of a point, or none yet."""
        return self.job.among(self.points, point_id)
