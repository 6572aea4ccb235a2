"""What stands of a record, however it is reached: at once, event by event, or in pieces."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenmist.reading.event import AS_FOUND, Entry, Event, EventKind, Reading, Slot
from fenmist.reading.events import LONGEST_TAIL, Events
from fenmist.reading.ledger import Ledger, ledger_of
from fenmist.units.moment import moment_from_text

WHEN = moment_from_text("2026-11-25T09:00:00+01:00")
SLOTS = [Slot(point, number, position) for point in ("p1", "p2") for number in (1, 2) for position in (0, 1)]


def enter(name, slot):
    entry = Entry(slot, "meter", "meter", "power", "200", "25.6", Reading(25.6, "W", 0.1))
    return Event(name, EventKind.ENTER, WHEN, entry)


def said(name, kind, target="", slot=None, reason="why"):
    return Event(name, kind, WHEN, None, target, reason, None, slot)


def by_definition(events):
    """The latest entry in each slot that isn't struck, in plain loops: the referee."""
    struck = set()
    for event in events:
        if event.kind is EventKind.STRIKE:
            struck.add(event.target)
        elif event.kind is EventKind.RESTORE:
            struck.discard(event.target)
    return {e.entry.slot: e for e in events if e.kind is EventKind.ENTER and e.id not in struck}


@st.composite
def records(draw):
    """Events of all kinds; strikes and restores mostly aim at something that was there, said with its slot or not."""
    made, known = [], []
    for number in range(draw(st.integers(0, 25))):
        kind = draw(st.sampled_from(["enter", "enter", "strike", "restore", "skip", "doubt"]))
        slot = draw(st.sampled_from(SLOTS))
        if kind == "enter":
            event = enter(f"e{number}", slot)
            known.append(event)
        elif kind == "skip":
            event = said(f"e{number}", EventKind.SKIP, slot=slot)
            known.append(event)
        else:
            aim = draw(st.sampled_from(known)) if known and draw(st.booleans()) else None
            place = aim.entry.slot if aim is not None and aim.entry is not None and draw(st.booleans()) else None
            event = said(f"e{number}", EventKind(kind), aim.id if aim is not None else "nothing", place)
        made.append(event)
    return made


@given(records(), st.integers(0, 25))
def test_what_stands_is_what_the_definition_says_whatever_the_pieces(events, cut):
    whole = ledger_of(events)
    pieces = ledger_of(events[:cut]).after(events[cut:])
    one_by_one = Ledger()
    for event in events:
        one_by_one = one_by_one.after([event])

    for ledger in (whole, pieces, one_by_one):
        standing = ledger.standing
        assert dict(standing.items()) == by_definition(events)
        assert {slot: standing[slot] for slot in standing} == by_definition(events)
        assert len(standing) == len(by_definition(events))
        assert all((slot in standing) is (slot in by_definition(events)) for slot in SLOTS)
        assert {**ledger.at("p1"), **ledger.at("p2")} == by_definition(events)


def test_moving_on_changes_nothing_behind():
    first = ledger_of([enter("a", SLOTS[0])])
    later = first.after([enter("b", SLOTS[1]), said("c", EventKind.STRIKE, "a", SLOTS[0])])

    assert set(first.standing) == {SLOTS[0]}
    assert set(later.standing) == {SLOTS[1]}


def test_a_skip_stands_until_it_is_restored():
    skip = said("s", EventKind.SKIP, slot=SLOTS[2])
    skipped = ledger_of([skip])

    assert skipped.skipped == {("p1", 2, AS_FOUND): skip}
    assert skipped.point_of("s") == "p1"
    assert skipped.after([said("r", EventKind.RESTORE, "s", SLOTS[2])]).skipped == {}


def test_the_latest_doubt_counts_and_an_empty_reason_takes_it_back():
    made = ledger_of([enter("a", SLOTS[0]), said("d", EventKind.DOUBT, "a", reason="needle moved")])

    assert made.doubt_of("a") == "needle moved"
    assert made.doubt_of("b") == ""
    assert made.after([said("e", EventKind.DOUBT, "a", reason="")]).doubt_of("a") == ""


def test_what_was_never_entered_stands_nowhere():
    assert ledger_of([enter("a", SLOTS[0])]).point_of("nothing") == ""
    assert "p1" not in ledger_of([]).standing  # not even a slot
    with pytest.raises(KeyError):
        ledger_of([]).standing[SLOTS[0]]


# the sequence of events


def many(count):
    first = enter("0", SLOTS[0])
    return [replace(first, id=str(number)) for number in range(count)]


@pytest.mark.parametrize("count", [0, 1, 5, LONGEST_TAIL + 3, 2 * LONGEST_TAIL + 3])
def test_events_are_a_sequence_like_any_other(count):
    listed = many(count)
    grown = Events()
    for event in listed:
        grown = grown.plus([event])

    assert grown == listed == list(grown)
    assert len(grown) == count
    assert list(reversed(grown)) == listed[::-1]
    for place in (0, 1, count // 2, count - 1, -1):
        if -count <= place < count:
            assert grown[place] == listed[place]
    for part in (slice(count - 2, None), slice(0, 3), slice(None, None, 2), slice(-1, None), slice(3, 1)):
        assert list(grown[part]) == listed[part]
    with pytest.raises(IndexError):
        grown[count]
    with pytest.raises(IndexError):
        grown[-count - 1]


def test_two_ways_on_from_one_sequence_don_t_meet():
    begun = Events(many(3)).plus(many(2))
    one, other = begun.plus(many(1)), begun.plus(many(4)[3:])

    assert (len(begun), len(one), len(other)) == (5, 6, 6)
    assert one != other
    assert one[5].id == "0"
    assert other[5].id == "3"
    assert begun != 5
