"""What a room has to offer: functions for one question, from the beginning of a job to its paper.

Everything outside a room sees these alone, through `procedures.table`, and what they return: outcomes and pages.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import field
from datetime import datetime
from typing import TYPE_CHECKING, Any, Generic, TypeVar

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Outcome, Stated
from fenmist.findings.note import Note, Problem
from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp
from fenmist.hookup.templates import Bench, Template
from fenmist.judgement.judge import Judge
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.part import Part, PartKind
from fenmist.kit.sheet import Field
from fenmist.procedures.page import (
    FREQUENCY,
    Card,
    Cell,
    Chart,
    Explained,
    Factors,
    Figures,
    Picture,
    ResultPage,
    Turnable,
)
from fenmist.reading.event import Entry
from fenmist.waveform.series import Series

if TYPE_CHECKING:
    from fenmist.calibration.answers import Answers
    from fenmist.methods.power_from_volts import PowerAnswer, PowerRequest

Found = TypeVar("Found", bound=Outcome)


@dataclass(frozen=True, eq=False)
class Seen(Generic[Found]):
    """A job with what came of it, as its pages are made."""

    job: Job
    phase: str  # whose readings are in hand
    found: Found
    left: Found | None = None  # none where nothing was adjusted

    @property
    def final(self) -> Found:
        """What the job ends with: as left where something was read then, else as found."""
        return self.left if self.left is not None and self.left.stated else self.found

    @property
    def in_hand(self) -> Found:
        """The outcome of the phase in hand."""
        return self.left if self.left is not None and self.phase == self.left.phase else self.found


@dataclass(frozen=True)
class Procedure(Generic[Found]):
    """A measurement procedure (VIM 2.6): one question that a technician asks, and how it is answered."""

    id: str  # stands in the job
    question: str  # in a technician's words
    title: str  # of the certificate
    quantity: str  # that is stated
    kind: str  # of its method, stands in the job with a version
    version: int

    devices: tuple[PartKind, ...]
    """Kinds of parts that it is asked of."""
    templates: tuple[Template, ...]
    """Usual hook-ups that answer it."""
    begin: Callable[[str, str, Bench, str, datetime], Job]
    """A job of an id and a title, on a bench, about a device, made at a moment."""
    line_fields: tuple[Field, ...]
    """What is asked about the hook-up."""
    plan_fields: tuple[Field, ...]
    """What is asked before anything is read."""
    draft: Callable[[Job], dict[str, str]]
    """Everything that is asked of a job, as texts."""
    from_draft: Callable[[Job, Mapping[str, str]], Job | tuple[Problem, ...]]
    """The job with those texts, or what is wrong with them."""
    trouble: Callable[[Job, HookUp], str]
    """Why a hook-up that is read could not be read any more, or nothing."""
    flaws: Callable[[Job], Iterator[str]]
    """What a job from elsewhere lacks to be one of this question."""
    method: Callable[[Job], str]
    """The method in words, for paper."""

    reduce: Callable[[Job, str, Mapping[str, float], Found | None], Found]
    """What comes of a job's phase, with other uncertainties, from what came of it before."""
    judge: Judge[Found]
    """All notes, on a day, of a phase; as left is held against as found."""
    judge_entries: Callable[[Job, Found, str, str], tuple[Note, ...]]
    """Notes on the entries of a point and its neighbours, at once."""

    readings_headline: Callable[[Job, Found, PlanPoint | None], str]
    what_if: Callable[[Job, Stated, Stated], str]
    """What another uncertainty would make of what is stated."""
    short: Callable[[Found], str]
    """The answer in a few words, for lists."""
    figures: Callable[[Found, str], Figures]
    """What runs along at a point."""
    entry_text: Callable[[Found, Entry], str]
    """What an entry of a reference comes to."""
    series: Callable[[Found, str], tuple[Series, ...]]
    """What was read at a point against time."""
    chart: Callable[[Job, Found, Found | None, str, bool], Chart]
    """As found (or what is in hand), as left, over what; with what lies between the points."""
    page: Callable[[Seen[Found]], ResultPage]
    cards: Callable[[Seen[Found], str], tuple[Card, ...]]
    """Cards with a certificate's number; raises OutOfRangeError where nothing was read."""
    table: Callable[[Seen[Found]], list[list[Cell]]]
    """Headings and rows for other programs."""
    outcome: "type[Answers[Any, Any]] | None" = None
    """What `reduce` makes, where that is answers to points: they can be kept."""
    in_steps: Callable[[Job, str, Mapping[str, float], Found | None, int | None], Found] | None = None
    """As `reduce`, with so many points drawn at most: none of them while one types; none where nothing ever is."""
    with_power_parts: "Callable[[Job, PowerRequest, PowerAnswer], Job] | None" = None
    """The job with the parts that the tool “power from volts” describes; none where it reads no volts."""
    picture: Callable[[Found, str], Picture | None] | None = None
    """What is drawn of a point beside the chart: how its references agree, its rounds; none where there is nothing."""
    picture_first: bool = False
    """Whether that is what one wants to see first, before the chart."""
    correction: Callable[[Found, str, str], Characterisation | None] | None = None
    """The device's correction over frequency, with who found it and when; none where a room finds none."""
    predict: Callable[[Job], tuple[Stated, ...]] | None = None
    """What a job whose points were all read as expected states, to first order; none where a bench tells it alone."""
    asks: Callable[[Part], bool] | None = None
    """Whether a part of those kinds shows what the question is about; none where all of them do."""
    most_w: Callable[[Job], float] | None = None
    """What a job is usually read at, at most; none where the device's ranges say it."""
    shares: tuple[float, ...] = (1.0,)
    """Levels with which a job is begun, as parts of the one that is asked for."""
    chart_over: str = FREQUENCY
    """What its chart is over at first."""
    exports: Mapping[str, Callable[[Seen[Found]], bytes]] = field(default_factory=dict)
    """Further files of the results, by the ending of their names."""
    turnables: Callable[[Found], tuple[Turnable, ...]] | None = None
    """What can be turned, range by range; none where there is nothing to adjust."""
    explain: Callable[[Found], Explained | None] | None = None
    """Why the device errs; none where nothing is said of that."""
    next_point: Callable[[Found], PlanPoint | None] | None = None
    """A point that would tell most and isn't planned, of a question that is asked further and further."""
    offer: Callable[[Found], str] | None = None
    """What is to be done there, in words."""
    order: Callable[[Found, str], tuple[str, ...]] | None = None
    """What is done one after the other at a point; none where reading its channels is all."""
    aside: Callable[[Found], tuple[str, ...]] | None = None
    """What stands beside the chart in place of a budget, of an answer that no budget is asked of."""
    factors: Callable[[Found], Factors | None] | None = None
    """What readings are to be multiplied by; none where that says nothing."""
    look_up: Callable[[Found, str], str] | None = None
    """The answer to a reading as typed, "40 W at 14 MHz"; none where there is nothing to look up."""
    would_show: Callable[[Found, str], str] | None = None
    """What the device shows of a power as typed, "50 W at 21 MHz"; none where there is nothing to look up."""
