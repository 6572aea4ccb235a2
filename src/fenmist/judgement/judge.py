"""A room's rules as one: all asked at once, or one after the other where somebody must look at keys in between."""

from collections.abc import Callable, Container, Iterable, Iterator
from datetime import date
from itertools import chain
from typing import Generic, TypeVar

from fenmist.calibration.job import Job
from fenmist.findings.note import Note, in_order
from fenmist.judgement.bench import of_bench
from fenmist.reading.event import AS_FOUND

Found = TypeVar("Found")

Rules = Iterator[Iterable[Note]]
"""What each rule says: a rule is asked when its turn has come, and when its notes are."""


class Judge(Generic[Found]):
    """All notes on a job, from a room's rules; decorates the function that names them.

    They are given the job, what came of a phase's readings, the day it is looked at (nothing else here knows today),
    the phase, and what came of the readings as found, where the phase is as left.
    """

    def __init__(self, rules: "Callable[[Job, Found, date, str, Found | None], Rules]") -> None:
        self._rules = rules

    def __call__(
        self, job: Job, outcome: Found, as_of: date, phase: str = AS_FOUND, found: Found | None = None
    ) -> tuple[Note, ...]:
        """All notes, the most severe first."""
        return self.said(job, self.one_by_one(job, outcome, as_of, phase, found))

    def one_by_one(
        self, job: Job, outcome: Found, as_of: date, phase: str, found: Found | None
    ) -> Iterator[tuple[Note, ...]]:
        """What each rule says; one of them is asked at each step."""
        return map(tuple, self._rules(job, outcome, as_of, phase, found))

    def said(self, job: Job, each: Iterable[Iterable[Note]]) -> tuple[Note, ...]:
        """All of it, in order: without what is about another hook-up than that of the answer."""
        return in_order(of_bench(chain.from_iterable(each), job.stated.plane.hookup))


def all_in_order(rules: Rules) -> tuple[Note, ...]:
    """What some rules say, the most severe first."""
    return in_order(tuple(chain.from_iterable(rules)))


def but(rules: Rules, codes: Container[str]) -> Rules:
    """The rules without what they say under some codes."""
    for rule in rules:
        yield (note for note in rule if note.code not in codes)
