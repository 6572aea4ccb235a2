"""What stands of a record: worked out of its events once, then moved on with each further one.

Everything is kept by point: one more entry makes the tables of its own point anew and copies the list of points, so
that the ten-thousandth costs hardly more than the tenth. Ledgers are never changed; drafts move on from one and are
forgotten.
"""

from collections.abc import ItemsView, Iterable, Iterator, Mapping
from dataclasses import field, replace

from fenmist.findings.note import Answer
from fenmist.frozen import dataclass
from fenmist.reading.event import Event, EventKind, Slot


@dataclass(frozen=True, eq=False)
class PointLedger:
    """The entries made at one point."""

    entered: Mapping[Slot, tuple[Event, ...]] = field(default_factory=dict)  # all that were, in order
    struck: frozenset[str] = frozenset()  # ids of those that are struck out
    standing: Mapping[Slot, Event] = field(default_factory=dict)  # the latest in each slot that isn't

    def with_entry(self, event: Event, slot: Slot) -> "PointLedger":
        """One more entry; it stands."""
        before = self.entered.get(slot, ())
        return PointLedger({**self.entered, slot: (*before, event)}, self.struck, {**self.standing, slot: event})

    def with_struck(self, event_id: str, struck: bool) -> "PointLedger":
        """An entry struck out, or restored."""
        gone = self.struck | {event_id} if struck else self.struck - {event_id}
        made = {slot: left[-1] for slot, events in self.entered.items() if (left := _left(events, gone))}
        return replace(self, struck=gone, standing=made)


def _left(events: tuple[Event, ...], gone: frozenset[str]) -> tuple[Event, ...]:
    return tuple(event for event in events if event.id not in gone)


class Standing(Mapping[Slot, Event]):
    """The entry that stands in each slot, over all points."""

    def __init__(self, points: Mapping[str, PointLedger]) -> None:
        self._points = points

    def __getitem__(self, slot: Slot) -> Event:
        return self._points[slot.point].standing[slot]

    def __contains__(self, slot: object) -> bool:
        return isinstance(slot, Slot) and slot.point in self._points and slot in self._points[slot.point].standing

    def __iter__(self) -> Iterator[Slot]:
        return (slot for point in self._points.values() for slot in point.standing)

    def __len__(self) -> int:
        return sum(len(point.standing) for point in self._points.values())

    def items(self) -> ItemsView[Slot, Event]:
        """Slots and what stands in them."""
        return _Items(self, self._points)


class _Items(ItemsView[Slot, Event]):
    def __init__(self, mapping: Standing, points: Mapping[str, PointLedger]) -> None:
        super().__init__(mapping)
        self._points = points

    def __iter__(self) -> Iterator[tuple[Slot, Event]]:
        return (pair for point in self._points.values() for pair in point.standing.items())


_NOTHING = PointLedger()


@dataclass(frozen=True, eq=False)
class Ledger:
    """What stands, what is left out, what is doubted."""

    points: Mapping[str, PointLedger] = field(default_factory=dict)
    skips: Mapping[str, Event] = field(default_factory=dict)  # rounds left out, by event id
    doubts: Mapping[str, Event] = field(default_factory=dict)  # the latest doubt about an entry, by its id
    made: int = 0  # entries that were made, struck ones too
    answers: Mapping[str, Answer] = field(default_factory=dict)  # the latest to each note that has one, by note key

    @property
    def standing(self) -> Standing:
        """The entry that stands in each slot."""
        return Standing(self.points)

    def at(self, point_id: str) -> Mapping[Slot, Event]:
        """What stands at one point."""
        return self.points.get(point_id, _NOTHING).standing

    @property
    def skipped(self) -> dict[tuple[str, int, str], Event]:
        """Rounds that won't be read, by point, round and phase."""
        found = ((event.slot, event) for event in self.skips.values())
        return {(slot.point, slot.round, slot.phase): event for slot, event in found if slot is not None}

    def doubt_of(self, event_id: str) -> str:
        """Why an entry is doubted, or nothing."""
        event = self.doubts.get(event_id)
        return event.reason if event is not None else ""

    def point_of(self, event_id: str) -> str:
        """The point of an entry or a skip, or nothing: looked for, since older records don't say it with a strike."""
        if event_id in self.skips:
            slot = self.skips[event_id].slot
            return slot.point if slot else ""
        for name, point in self.points.items():
            if any(event.id == event_id for events in point.entered.values() for event in events):
                return name
        return ""

    def after(self, events: Iterable[Event]) -> "Ledger":
        """The ledger with more events."""
        points, skips, doubts, answers = dict(self.points), dict(self.skips), dict(self.doubts), dict(self.answers)
        where: dict[str, str] = {}  # of what is entered and struck in one go
        made = self.made
        for event in events:
            if event.kind is EventKind.ENTER and event.entry is not None:
                slot, made = event.entry.slot, made + 1
                where[event.id] = slot.point
                points[slot.point] = points.get(slot.point, _NOTHING).with_entry(event, slot)
            elif event.kind is EventKind.SKIP:
                skips[event.id] = event
            elif event.kind in (EventKind.STRIKE, EventKind.RESTORE):
                if event.kind is EventKind.RESTORE:
                    skips.pop(event.target, None)
                point = event.slot.point if event.slot else where.get(event.target) or self.point_of(event.target)
                if point in points:
                    points[point] = points[point].with_struck(event.target, event.kind is EventKind.STRIKE)
            elif event.kind is EventKind.DOUBT:
                doubts[event.target] = event
            elif event.kind is EventKind.ANSWER and event.answer is not None:
                answers[event.answer.note_key] = event.answer
                if not event.answer.text:  # it is taken back
                    del answers[event.answer.note_key]
        return Ledger(points, skips, doubts, made, answers)


def ledger_of(events: Iterable[Event]) -> Ledger:
    """The ledger of a whole record."""
    return Ledger().after(events)
