"""Our frozen dataclasses against the standard library's."""

import copy
import dataclasses
import pickle
from dataclasses import FrozenInstanceError, field, replace
from pathlib import Path

import msgspec
import pytest

from fenmist import frozen


def family(dataclass):
    """Classes that use all that is used of dataclasses, made by a decorator."""

    @dataclass(frozen=True)
    class Reading:
        """Three fields, with a value and with a maker of values to begin with."""

        value: float
        unit: str = "W"
        notes: list[str] = field(default_factory=list)

    @dataclass(frozen=True)
    class Later(Reading):
        round: int = 1
        seen: float = field(default=0.0, compare=False, repr=False)

        def __post_init__(self):
            if self.round < 1:
                raise ValueError("a round is 1 or more")

    @dataclass(frozen=True, eq=False)
    class Apart:
        value: float

    @dataclass(frozen=True)
    class Own:  # noqa: PLW1641  what becomes of its hash is looked at
        value: float

        def __repr__(self):
            return "own"

        def __eq__(self, other):
            return abs(self.value - other.value) < 1.0

    @dataclass(frozen=True)
    class Hashed:
        values: list[float]

        def __hash__(self):
            return 7

    @dataclass(frozen=True)
    class Empty:
        pass

    return Reading, Later, Apart, Own, Hashed, Empty


def facts(dataclass):
    """What is seen of them from outside."""
    reading, later, apart, own, hashed, empty = family(dataclass)
    first, second = later(1.0), later(1.0, seen=5.0)
    nan = float("nan")
    said = [repr(item) for item in (first, reading(2.0, "V"), apart(1.0), own(1.0), empty())]
    equal = [
        first == second, first == reading(1.0), reading(1.0) == reading(1.0), reading(1.0) == reading(1.0, "V"),
        reading(nan) == reading(nan), apart(nan) == apart(nan), own(1.0) == own(1.5), empty() == empty(),
        first.__eq__(1.0) is NotImplemented, first.notes is second.notes,
    ]  # fmt: skip
    hashes = [hash(own(1.0)) == hash((1.0,)), hash(hashed([1.0])), hash(empty()) == hash(()), hash(apart(1.0)) == 0]
    changed = replace(first, round=3, unit="V")
    asked = [
        dataclasses.asdict(changed),
        dataclasses.astuple(changed),
        [item.name for item in dataclasses.fields(later)],
    ]
    refused = []
    for attempt in (
        later, lambda: later(1.0, 2.0, 3.0, 4, 5.0, 6.0), lambda: later(1.0, watts=3.0), lambda: hash(first),
        lambda: later(1.0, round=0), lambda: setattr(first, "value", 2.0), lambda: setattr(first, "other", 2.0),
        lambda: delattr(first, "value"), lambda: replace(first, watts=1.0),
    ):  # fmt: skip
        with pytest.raises((TypeError, ValueError, FrozenInstanceError)) as caught:
            attempt()
        refused.append((caught.type, str(caught.value)))
    match changed:
        case later(value, unit, notes, number):
            asked.append((value, unit, notes, number))
    made = [copy.deepcopy(changed) == changed, msgspec.convert({"value": 4.0}, later), first.value, second.seen]
    documented = [later.__init__.__qualname__, later.__init__.__annotations__, reading.__doc__]
    return said, equal, hashes, asked, refused, made[0], repr(made[1]), made[2:], documented


def test_they_do_what_those_of_the_standard_library_do():
    theirs, ours = facts(dataclasses.dataclass), facts(frozen.dataclass)
    theirs[-1][1].pop("return")  # of no use to anybody here

    assert ours == theirs


@frozen.dataclass(frozen=True)
class Kept:
    """Where a pickle finds it."""

    values: tuple[float, ...] = (1.0, 2.0)


def test_they_are_pickled_and_made_without_brackets_too():
    @frozen.dataclass
    class Loose:
        value: float = 1.0

    loose = Loose()
    loose.value = 2.0

    assert pickle.loads(pickle.dumps(Kept((3.0,)))) == Kept((3.0,)) != Kept()
    assert loose == Loose(2.0)


def test_no_class_of_ours_is_made_the_slow_way():
    sources = [path for path in Path(frozen.__file__).parent.rglob("*.py") if path.name != "frozen.py"]
    slow = "dataclass, ", "import dataclass\n", "dataclasses.dataclass"
    lines = [line for path in sources for line in path.read_text().splitlines(keepends=True) if "dataclasses" in line]

    assert not [line for line in lines if any(word in line for word in slow)]
