"""A value as the key of what was worked out of it: the object itself counts, not what it says."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

T = TypeVar("T")


class Same(Generic[T]):
    """Equal to another of the very same object; plain, as keys are made at every question."""

    __slots__ = ("value",)

    def __init__(self, value: T) -> None:
        self.value = value

    def __hash__(self) -> int:
        return id(self.value)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and other.value is self.value


class Latest(Generic[T]):
    """The latest of what was made by a key, so many at most."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._kept: OrderedDict[Hashable, T] = OrderedDict()

    def once(self, key: Hashable, make: Callable[[], T]) -> T:
        """What belongs to a key: made where it isn't kept."""
        if key not in self._kept:
            self._kept[key] = make()
            if len(self._kept) > self._most:
                self._kept.popitem(last=False)
        self._kept.move_to_end(key)
        return self._kept[key]
