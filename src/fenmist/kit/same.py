"""A value as the key of what was worked out of it: the object itself counts, not what it says."""

from typing import Generic, TypeVar

from fenmist.frozen import dataclass

T = TypeVar("T")


@dataclass(frozen=True, eq=False)
class Same(Generic[T]):
    """Equal to another of the very same object."""

    value: T

    def __hash__(self) -> int:
        return id(self.value)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and other.value is self.value
