"""What was worked out of frozen values: kept beside them in this one place, and gone when they go.

What holds on to the value it was worked out of would never go: of such the latest are kept by a key (`kit.same`).
"""

import weakref
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")

_KEPT: dict[int, dict[str, object]] = {}
"""By the identity of the value it was worked out of."""


def once(value: object, key: str, make: Callable[[], T]) -> T:
    """What follows from a value: made when first asked for."""
    kept = _KEPT.get(id(value))
    if kept is None:
        kept = _beside(value)
    if key not in kept:
        kept[key] = make()
    return kept[key]  # type: ignore[return-value]


def keep(value: object, key: str, made: T) -> T:
    """Keep what was worked out otherwise; returns it."""
    _beside(value)[key] = made
    return made


def made_so_far(value: object, key: str) -> object | None:
    """What was worked out already, or none."""
    return _beside(value).get(key)


def forget(value: object, key: str) -> None:
    """It isn't needed any more."""
    _beside(value).pop(key, None)


def hand_on(value: object, to: object, *keys: str) -> None:
    """What holds for another value as well goes with it, as far as it was made."""
    kept = _beside(value)
    _beside(to).update({key: kept[key] for key in keys if key in kept})


def _beside(value: object) -> dict[str, object]:
    kept = _KEPT.get(id(value))
    if kept is None:
        kept = _KEPT[id(value)] = {}
        weakref.finalize(value, _KEPT.pop, id(value), None).atexit = False
    return kept
