"""The events of a record in their order: a sequence to which another can be added without copying those before it."""

from collections.abc import Iterable, Iterator, Sequence
from typing import overload

from fenmist.reading.event import Event

LONGEST_TAIL = 512
"""Events after which the end is joined to the rest: copies stay short, and joining rare."""


class Events(Sequence[Event]):
    """An immutable sequence of events; equal to any other sequence of the same ones."""

    __slots__ = ("_begin", "_tail")

    def __init__(self, events: Iterable[Event] = (), _tail: tuple[Event, ...] = ()) -> None:
        self._begin = tuple(events)
        self._tail = _tail

    def plus(self, events: Sequence[Event]) -> "Events":
        """The sequence with more at its end."""
        tail = (*self._tail, *events)
        if len(tail) > LONGEST_TAIL:
            return Events((*self._begin, *tail))
        made = Events.__new__(Events)
        made._begin, made._tail = self._begin, tail
        return made

    def __len__(self) -> int:
        return len(self._begin) + len(self._tail)

    def __iter__(self) -> Iterator[Event]:
        yield from self._begin
        yield from self._tail

    def __reversed__(self) -> Iterator[Event]:
        yield from reversed(self._tail)
        yield from reversed(self._begin)

    @overload
    def __getitem__(self, place: int) -> Event: ...
    @overload
    def __getitem__(self, place: slice) -> tuple[Event, ...]: ...
    def __getitem__(self, place: int | slice) -> Event | tuple[Event, ...]:
        split = len(self._begin)
        if isinstance(place, slice):
            begin, end, step = place.indices(len(self))
            if step == 1 and begin >= split:
                return self._tail[begin - split : end - split]
            return tuple(self)[place]
        at = place + len(self) if place < 0 else place
        if not 0 <= at < len(self):
            raise IndexError(place)
        return self._begin[at] if at < split else self._tail[at - split]

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Sequence) or len(self) != len(other):
            return False
        return all(mine is its or mine == its for mine, its in zip(self, other, strict=True))

    __hash__ = None  # type: ignore[assignment]

    def __repr__(self) -> str:
        return f"Events of {len(self)}"
