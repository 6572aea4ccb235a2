"""Caches beside frozen values."""

import gc
from dataclasses import dataclass

from fenmist.calibration import beside
from fenmist.calibration.beside import hand_on, keep, made_so_far, once


@dataclass(frozen=True)
class Value:
    number: int


def test_what_follows_from_a_value_is_made_once_and_goes_with_it():
    one, equal, made = Value(1), Value(1), []

    assert [once(item, "twice", lambda: made.append("x") or 2) for item in (one, one)] == [2, 2]
    assert made == ["x"]
    assert made_so_far(equal, "twice") is None  # the value itself counts, not one that equals it
    gc.collect()
    before = len(beside._KEPT)
    del one
    gc.collect()
    assert len(beside._KEPT) == before - 1


def test_only_what_is_named_and_was_made_is_handed_on():
    one, two = Value(1), Value(2)
    keep(one, "a", 1)
    keep(one, "b", 2)
    hand_on(one, two, "a", "c")

    assert [made_so_far(two, key) for key in "abc"] == [1, None, None]
