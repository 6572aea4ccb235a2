"""A job: what is to be found out, with what, how, and everything that happened.

The kit is embedded as a snapshot, so that later edits of the equipment list never change a finished result. Whatever
influences a result stands here, never in a setting. Results are a cache: recomputed from this at will.
"""

import re
from bisect import bisect_left
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import field, replace
from datetime import datetime
from enum import StrEnum
from functools import cached_property
from types import MappingProxyType
from typing import NamedTuple, Protocol, TypeVar, cast

import numpy as np

from fenmist.calibration.beside import keep, made_so_far, once
from fenmist.calibration.receipt import Receipt
from fenmist.errors import UnknownIdError
from fenmist.findings.note import Answer
from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp
from fenmist.kit.part import Indicator, Part, Range, SpecTerm
from fenmist.kit.stated import Shown, half_width
from fenmist.measurand import OF_MATCH, SUPPLY, Measurand, PlaneRef
from fenmist.reading.dial import QUARTER_DIVISION
from fenmist.reading.event import AS_FOUND, AS_LEFT, Event, Slot
from fenmist.reading.events import Events
from fenmist.reading.ledger import Ledger, Standing, ledger_of
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.moment import Day, Moment

T = TypeVar("T")

SCHEMA = 1
"""Version of the job's record."""


HEAT = "load_heat"
"""Method parameter: how hot the load is, 0 to 1; left out, somewhere between its cold and its hot table."""


class Rule(StrEnum):
    """How an error is judged against the tolerance (JCGM 106:2012; agreed before the readings)."""

    SIMPLE = "simple acceptance"  # |e| <= T
    GUARDED = "guarded acceptance"  # |e| <= T - U


@dataclass(frozen=True)
class Method:
    """How the reference power is worked out: the code's kind and version, and what this job fixed."""

    id: str
    kind: str
    version: int
    parameters: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Channel:
    """Something that is read on a bench: an indicator there, and what it is taken to be a value of."""

    id: str
    element: str
    indicator: str
    measurand: Measurand
    beside: bool = False  # of the device, and no answer: it tells why the device errs

    @property
    def hookup(self) -> str:
        """Id of the hook-up on which it is read."""
        return self.measurand.plane.hookup


class _Role(NamedTuple):
    """What a channel is to its job; asked for every reading."""

    is_device: bool = False
    is_beside: bool = False
    is_reference: bool = False
    is_supply: bool = False
    is_of_match: bool = False


_NO_ROLE = _Role()


@dataclass(frozen=True)
class PlanPoint:
    """One frequency and level to be read so many times."""

    id: str
    hookup: str
    frequency_hz: float
    target_w: float
    range_id: str
    sequence: tuple[str, ...]  # ids of the channels that a round reads, in order
    repeats: int = 1
    blocked: str = ""  # why it isn't read, where it isn't
    group: str = ""  # points of one name are worked out together; nothing: this one alone
    leg: str = ""  # which of its group it is: "direct", "through", "carrier"
    waveform: str = ""  # what is sent, with the level as its PEP; nothing: a steady carrier


@dataclass(frozen=True)
class Leg:
    """A visit to one hook-up: where a question needs several, each of a group's points is read on one of them."""

    id: str  # "direct", "through", or what ends the line
    hookup: str
    by_itself: bool = False  # whether its points have answers of their own
    beside: bool = False  # of such: whether they are worked out beside all others at their frequency
    is_waveform: bool = False  # whether its name is what is sent there


_WHOLE = "whole"
"""Name under which the whole job is kept beside some of its points."""

_POINT_ID = re.compile(r"p([0-9]{1,9})")


def free_point_number(plan: Iterable[PlanPoint]) -> int:
    """The number from which on no point of a plan is named "p" and a number."""
    return 1 + max((int(match[1]) for point in plan if (match := _POINT_ID.fullmatch(point.id))), default=0)


@dataclass(frozen=True)
class Phase:
    """As found, or after an adjustment."""

    id: str
    kind: str = AS_FOUND


class _AtPoint(Protocol):
    @property
    def point(self) -> PlanPoint: ...


Of = TypeVar("Of", bound=_AtPoint)


@dataclass(frozen=True)
class Job:
    """The whole of it; frozen, changed by `replace`."""

    id: str
    title: str
    dut: str  # part id
    kit: tuple[Part, ...]
    hookups: tuple[HookUp, ...]
    stated: Measurand  # what the answer is about, and at which plane
    channels: tuple[Channel, ...]
    order: tuple[str, ...]  # channels of a round, of points that are added
    method: Method
    plan: tuple[PlanPoint, ...]
    tolerance: SpecTerm
    created_at: Moment
    question: str = "comparison"  # the room under `procedures` that answers it
    rule: Rule = Rule.SIMPLE
    purpose: str = "cross-check"
    phases: tuple[Phase, ...] = (Phase(AS_FOUND),)
    customer: str = ""
    place: str = ""
    conditions: str = ""
    technician: str = ""
    part_of_division: float = QUARTER_DIVISION  # to which a needle is read
    shortest_interval: bool = False  # where drawn: the shortest one instead of the probabilistically symmetric one
    demo: bool = False
    receipt: Receipt = field(default_factory=Receipt)
    reference: str = ""  # channel that decides where several are read; their consensus where none is named
    next_due: Day = ""  # stands on paper only where the customer asked for it
    schema: int = SCHEMA
    legs: tuple[Leg, ...] = ()  # visits in their order; none where the one hook-up of the answer is all that is read
    tolerance_more: tuple[SpecTerm, ...] = ()  # further terms of the tolerance: "3 % of reading + 1 digit" has two
    events: Sequence[Event] = ()

    def with_event(self, event: Event) -> "Job":
        """The job with one more event at the end of its record."""
        return self.with_events((event,))

    def with_events(self, events: Sequence[Event]) -> "Job":
        """The job with more events at the end of its record; what was worked out of the others is taken along."""
        mine = self.events if isinstance(self.events, Events) else Events(self.events)
        made = replace(self, events=mine.plus(events))
        keep(made, "bare", self._bare)
        keep(made, "ledger", self.ledger.after(events))
        return made

    @property
    def _bare(self) -> "Job":
        """The same without its record."""
        return once(self, "bare", lambda: replace(self, events=()))

    def once(self, key: str, make: Callable[[], T]) -> T:
        """What follows from the definition alone: made when first asked for, and taken along from event to event."""
        return once(self._bare, key, make)

    def narrowed(self, plan: Sequence[PlanPoint], events: Sequence[Event]) -> "Job":
        """Some points of the plan, with some of what stands there, alone."""
        made = replace(self, plan=tuple(plan), events=tuple(events))
        keep(made._bare, _WHOLE, self._whole)
        return made

    def once_of_all(self, key: str, make: "Callable[[Job], T]") -> T:
        """As `once`, made of the job with its whole plan where this is some points of it."""
        return once(self._whole, key, lambda: make(self._whole))

    @property
    def _whole(self) -> "Job":
        return cast("Job | None", made_so_far(self._bare, _WHOLE)) or self._bare

    def events_since(self, earlier: "Job") -> tuple[Event, ...] | None:
        """What was added to the record since an earlier state of this job; none where it isn't one."""
        count = len(earlier.events)
        if count > len(self.events) or (count and self.events[count - 1] is not earlier.events[-1]):
            return None
        return tuple(self.events[count:])

    def group_of(self, point_id: str) -> tuple[PlanPoint, ...]:
        """The points that are worked out together with one, in the plan's order; raises UnknownIdError."""
        name = self.point(point_id).group
        return self._groups[name] if name else (self.point(point_id),)

    def answers_alone(self, point: PlanPoint) -> bool:
        """Whether a point has an answer of its own, rather than its group one together."""
        return not point.group or any(
            leg.by_itself and (leg.hookup, leg.id) == (point.hookup, point.leg) for leg in self.legs
        )

    def planned_with(self, point_id: str) -> tuple[PlanPoint, ...]:
        """The points that are planned, moved and left out as one: a group with one answer, else the point alone."""
        point = self.point(point_id)
        return (point,) if self.answers_alone(point) else self.group_of(point_id)

    @property
    def has_groups(self) -> bool:
        """Whether any points are worked out together."""
        return len(self._groups.keys() - {""}) > 0

    @property
    def _groups(self) -> dict[str, tuple[PlanPoint, ...]]:
        return self.once("groups", self._found_groups)

    def _found_groups(self) -> dict[str, tuple[PlanPoint, ...]]:
        found: dict[str, tuple[PlanPoint, ...]] = {}
        for point in self.plan:
            found[point.group] = (*found.get(point.group, ()), point) if point.group else ()
        return found

    def points_of(self, events: Iterable[Event]) -> set[str]:
        """Points whose results events may change: those of their groups as well."""
        named = self._named_in(events)
        return named | {
            other.id
            for name in named
            if self.has_point(name) and self.point(name).group
            for other in self.group_of(name)
        }

    def _named_in(self, events: Iterable[Event]) -> set[str]:
        found: set[str] = set()
        for event in events:
            if event.entry is not None:
                found.add(event.entry.slot.point)
            elif event.slot is not None:
                found.add(event.slot.point)
            elif event.target:
                found |= {point for point in (self.ledger.point_of(event.target),) if point}
        return found

    @cached_property
    def parts(self) -> Mapping[str, Part]:
        """The kit snapshot by part id."""
        return MappingProxyType({part.id: part for part in self.kit})

    @property
    def dut_part(self) -> Part:
        """The device under test; raises UnknownIdError."""
        return self.part(self.dut)

    def part(self, part_id: str) -> Part:
        """A part of the snapshot; raises UnknownIdError."""
        for item in self.kit:
            if item.id == part_id:
                return item
        raise UnknownIdError(f"The job's kit has no part “{part_id}”.", "Choose the part again in the hook-up.")

    @property
    def last_at(self) -> datetime:
        """When something was last put on record."""
        return self.events[-1].at if self.events else self.created_at

    @property
    def is_adjusted(self) -> bool:
        """True where readings as left have begun."""
        return any(phase.kind == AS_LEFT for phase in self.phases)

    def with_part(self, part: Part) -> "Job":
        """The job with a part of its snapshot replaced, or added."""
        kept = tuple(part if item.id == part.id else item for item in self.kit)
        return replace(self, kit=kept if any(item.id == part.id for item in self.kit) else (*self.kit, part))

    def with_hookup(self, hookup: HookUp) -> "Job":
        """The job with one of its hook-ups replaced."""
        return replace(self, hookups=tuple(hookup if item.id == hookup.id else item for item in self.hookups))

    @property
    def visits(self) -> tuple[Leg, ...]:
        """The hook-ups that are read, in the order of the run."""
        return self.legs or (Leg("", self.stated.plane.hookup),)

    def is_read(self, hookup_id: str) -> bool:
        """Whether readings are taken on a hook-up."""
        return any(leg.hookup == hookup_id for leg in self.visits)

    def order_on(self, hookup_id: str, order: Sequence[str] | None = None) -> tuple[str, ...]:
        """The channels of a round on one hook-up, of points that are added; of another order where one is given."""
        return tuple(
            name for name in (self.order if order is None else order) if self.channel(name).hookup == hookup_id
        )

    @property
    def bench(self) -> HookUp:
        """The hook-up on which the answer is stated."""
        return self.hookup(self.stated.plane.hookup)

    def hookup(self, hookup_id: str) -> HookUp:
        """A hook-up by id; raises UnknownIdError."""
        for item in self.hookups:
            if item.id == hookup_id:
                return item
        raise UnknownIdError(f"The job has no hook-up “{hookup_id}”.", "Look at the plan.")

    def point(self, point_id: str) -> PlanPoint:
        """A plan point by id; raises UnknownIdError."""
        found = self._points.get(point_id)
        if found is None:
            raise UnknownIdError(f"The plan has no point “{point_id}”.", "It may have been taken out.")
        return found

    def has_point(self, point_id: str) -> bool:
        """Whether the plan has a point of that id."""
        return point_id in self._points

    def place_of(self, point_id: str) -> int:
        """Which point of the plan it is, from 0; raises UnknownIdError."""
        self.point(point_id)
        return self._places[point_id]

    def among(self, items: Sequence[Of], point_id: str) -> Of | None:
        """The one that is of a point among some in the plan's order, or nothing; without looking at all of them."""
        place = self._places.get(point_id)
        if place is None:
            return None
        at = bisect_left(items, place, key=lambda item: self._places[item.point.id])
        return items[at] if at < len(items) and items[at].point.id == point_id else None

    @property
    def _points(self) -> dict[str, PlanPoint]:
        return self.once("points", lambda: {point.id: point for point in self.plan})

    @property
    def _places(self) -> dict[str, int]:
        return self.once("places", lambda: {point.id: place for place, point in enumerate(self.plan)})

    def channel(self, channel_id: str) -> Channel:
        """A channel by id; raises UnknownIdError."""
        return self._read_in(channel_id)[0]

    def part_read(self, channel_id: str) -> Part:
        """The part that a channel is read on; raises UnknownIdError."""
        return self._read_in(channel_id)[1]

    def indicator(self, channel_id: str) -> Indicator:
        """The indicator that is read in a channel; raises UnknownIdError."""
        channel, part = self._read_in(channel_id)
        return part.indicator(channel.indicator)

    def is_device(self, channel_id: str) -> bool:
        """Whether a channel is what the device under test shows of power; the others are references, or a supply's."""
        return self._roles.get(channel_id, _NO_ROLE).is_device

    def is_beside(self, channel_id: str) -> bool:
        """Whether a channel is what the device shows beside: it tells why the device errs, and decides nothing."""
        return self._roles.get(channel_id, _NO_ROLE).is_beside

    def is_reference(self, channel_id: str) -> bool:
        """Whether a channel is the power by another instrument."""
        return self._roles.get(channel_id, _NO_ROLE).is_reference

    def is_supply(self, channel_id: str) -> bool:
        """Whether a channel is the DC that goes into a source."""
        return self._roles.get(channel_id, _NO_ROLE).is_supply

    def is_of_match(self, channel_id: str) -> bool:
        """Whether a channel tells of a match: reflected power, SWR, ρ or return loss."""
        return self._roles.get(channel_id, _NO_ROLE).is_of_match

    def _read_in(self, channel_id: str) -> tuple[Channel, Part]:
        found = self._read.get(channel_id)
        if found is None:
            raise UnknownIdError(f"The job reads no “{channel_id}”.", "Look at what its points are read with.")
        return found

    @cached_property
    def _read(self) -> dict[str, tuple[Channel, Part]]:
        return self.once("read", self._found_read)

    def _found_read(self) -> dict[str, tuple[Channel, Part]]:
        return {
            item.id: (item, self.part(self.hookup(item.hookup).element(item.element).part)) for item in self.channels
        }

    @cached_property
    def _roles(self) -> dict[str, _Role]:
        return self.once("roles", self._found_roles)

    def _found_roles(self) -> dict[str, _Role]:
        return {name: self._role(channel, part) for name, (channel, part) in self._read.items()}

    def _role(self, channel: Channel, part: Part) -> _Role:
        is_supply = channel.measurand.kind in SUPPLY
        of_device = part.id == self.dut and not is_supply
        return _Role(
            of_device and not channel.beside, channel.beside, not (of_device or is_supply or channel.beside), is_supply,
            channel.measurand.kind in OF_MATCH,
        )  # fmt: skip

    def references_of(self, point: PlanPoint) -> tuple[str, ...]:
        """Channels of a point that are the power by another instrument, each once, in the order read."""
        found = self._references_in.get(point.sequence)
        if found is None:
            found = tuple(dict.fromkeys(item for item in point.sequence if self.is_reference(item)))
            self._references_in[point.sequence] = found
        return found

    @cached_property
    def _references_in(self) -> dict[tuple[str, ...], tuple[str, ...]]:
        """By sequence, as far as it was asked for."""
        return self.once("references in", dict)

    @property
    def device_channel(self) -> Channel:
        """What is read on the device under test; raises UnknownIdError."""
        found = self._device_channel
        if found is None:
            raise UnknownIdError("Nothing is read on the device under test.", "Look at the hook-up.")
        return found

    @property
    def device_shows(self) -> Indicator | None:
        """The indicator that is read on the device under test; none where nothing is."""
        found = self._device_channel
        return self.indicator(found.id) if found else None

    @property
    def _device_channel(self) -> Channel | None:
        return self.once("device", lambda: next((item for item in self.channels if self.is_device(item.id)), None))

    @property
    def device_ranges(self) -> tuple[Range, ...]:
        """The ranges of power on that indicator; none where it has none."""
        shows = self.device_shows
        return shows.ranges if shows and shows.quantity not in OF_MATCH else ()

    def stated_at(self, plane: PlaneRef) -> "Job":
        """The job with its answer, and what the device shows on that hook-up, taken at another plane."""

        def moved(item: Channel) -> Channel:
            here = item.hookup == plane.hookup and self.is_device(item.id)
            return replace(item, measurand=replace(item.measurand, plane=plane)) if here else item

        return replace(
            self, stated=replace(self.stated, plane=plane), channels=tuple(moved(item) for item in self.channels)
        )

    def range_of(self, point: PlanPoint, channel_id: str) -> Range | None:
        """The range on which a channel is read at a point; none where it has none, or nobody said on which.

        Reflected power is read on the range of forward power where nothing else is said; SWR on the only one.
        """
        if not self.is_device(channel_id) and not self.is_beside(channel_id):
            return None
        shows = self.indicator(channel_id)
        only = shows.ranges[0] if len(shows.ranges) == 1 and self.is_of_match(channel_id) else None
        return shows.range(point.range_id) or only

    def device_range(self, point: PlanPoint) -> Range | None:
        """The range on which the device is read at a point; none where it has none."""
        shows = self.device_shows
        return shows.range(point.range_id) if shows else None

    @property
    def ledger(self) -> Ledger:
        """What stands of the record."""
        return once(self, "ledger", lambda: ledger_of(self.events))

    @property
    def standing(self) -> Standing:
        """The entering event that stands in each slot."""
        return self.ledger.standing

    @property
    def skipped(self) -> dict[tuple[str, int, str], Event]:
        """Rounds that won't be read, by point, round and phase."""
        return self.ledger.skipped

    def is_wanted(self, slot: Slot) -> bool:
        """Whether a slot is to be read: neither its point is blocked nor its round skipped."""
        key = (slot.point, slot.round, slot.phase)
        return slot.point not in self._blocked and key not in self.skipped

    @property
    def to_read(self) -> tuple[PlanPoint, ...]:
        """The points of the plan that aren't blocked, on hook-ups that are read."""
        return self.once("to read", self._to_read)

    @property
    def answers_wanted(self) -> int:
        """How many of them will have an answer of their own: of a group one, or one for each that stands by itself."""
        return self.once("answers wanted", self._answers_wanted)

    def _answers_wanted(self) -> int:
        each = any(leg.by_itself for leg in self.legs)  # others only lie beside those
        return len({self.answer_of(point) for point in self.to_read if self.answers_alone(point) or not each})

    def answer_of(self, point: PlanPoint) -> str:
        """Name of the answer that a point belongs to: its own, or its group's."""
        return point.id if self.answers_alone(point) else point.group

    def _to_read(self) -> tuple[PlanPoint, ...]:
        read = {leg.hookup for leg in self.visits}
        return tuple(point for point in self.plan if not point.blocked and point.hookup in read)

    @property
    def _blocked(self) -> frozenset[str]:
        return self.once("blocked", lambda: frozenset(self._points) - {point.id for point in self.to_read})

    @property
    def answers(self) -> Mapping[str, Answer]:
        """The latest answer to each note, by note key."""
        return self.ledger.answers

    @property
    def tolerances(self) -> tuple[SpecTerm, ...]:
        """All terms of the tolerance."""
        return (self.tolerance, *self.tolerance_more)

    def tolerance_w(self, points: Sequence[PlanPoint], reference_w: FloatArray, digit_w: FloatArray) -> FloatArray:
        """Half-width of the tolerance in W at points, shape (n,): its terms together.

        Parameters
        ----------
        reference_w : FloatArray
            What the meter should have shown; shares of reading are taken of it.
        digit_w : FloatArray
            Last digit of what it showed.
        """
        used = [self.device_range(point) for point in points]
        known = all(item is not None for item in used)
        full = np.array([item.full_scale for item in used if item is not None]) if known else None
        return half_width(self.tolerances, Shown(reference_w, digit_w, full, per_decade_db=10.0))
