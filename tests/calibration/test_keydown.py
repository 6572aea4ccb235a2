"""The carrier as inferred from the record."""

from dataclasses import replace
from datetime import datetime

from fenmist.calibration.keydown import carrier, clock_set_back, in_hand, inferred
from fenmist.reading.event import Event, EventKind, Slot
from fenmist.units.moment import moment_from_text
from studies.builders import WHEN, enter, job

BASE = WHEN.timestamp()


def at(second: int) -> datetime:
    return moment_from_text(f"2026-11-24T10:{second // 60:02d}:{second % 60:02d}+01:00")


def timed(made, slot, text, begun, done):
    after = enter(made, slot, text)
    event = after.events[-1]
    entry = replace(event.entry, observed_at=at(done), begun_at=at(begun) if begun is not None else None)
    return replace(made, events=(*made.events, replace(event, at=at(done), entry=entry)))


def two_points():
    return job(frequencies_hz=(7e6, 14e6))


def test_on_from_the_first_digit_to_the_last_entry_of_the_point():
    made = timed(two_points(), Slot("p1", 1, 0), "102", 10, 20)
    made = timed(made, Slot("p1", 1, 1), "25.6", 25, 40)

    found = carrier(made)

    assert not found.is_on
    assert [(k.start_s - BASE, k.end_s - BASE, k.power_w) for k in found.keyings] == [(10.0, 40.0, 25.0)]


def test_a_point_left_half_read_keeps_the_carrier_on():
    found = carrier(timed(two_points(), Slot("p1", 1, 0), "102", 10, 20))

    assert found.is_on
    assert found.on_since_s - BASE == 10.0
    assert found.until(BASE + 90)[-1].end_s - BASE == 90.0
    again = found.switched(False, BASE + 15, 0.0).switched(True, BASE + 30, 25.0)
    assert [k.end_s - BASE for k in again.until(BASE + 90)] == [15.0, 90.0]


def test_nobody_reads_on_after_a_quarter_of_an_hour_of_silence():
    """Left half read at 20 s: on until 15 min later at most; what is read the next day begins anew."""
    half = timed(two_points(), Slot("p1", 1, 0), "102", 10, 20)
    found = carrier(half)

    assert (found.at(BASE + 920).is_on, found.at(BASE + 921).is_on) == (True, False)
    assert found.until(BASE + 86_400) == found.at(BASE + 86_400).keyings
    assert [k.end_s - BASE for k in found.until(BASE + 86_400)] == [920.0]
    later = timed(half, Slot("p1", 1, 1), "25.6", 2000, 2010)
    assert [(k.start_s - BASE, k.end_s - BASE) for k in carrier(later).keyings] == [(10.0, 920.0), (2000.0, 2010.0)]


def test_each_entry_tells_of_it_anew_and_what_is_said_holds():
    made = job([], frequencies_hz=(7e6,), repeats=3)
    for number, second in enumerate((20, 800, 1500)):
        made = timed(made, Slot("p1", 1 + number // 2, number % 2), "102", second - 10, second)
    assert carrier(made).keyings == ()
    assert carrier(made).at(BASE + 2400).on_since_s == BASE + 10

    said = made.with_event(Event("c", EventKind.CARRIER, at(1600), reason="on"))
    assert carrier(said).at(BASE + 86_400).on_since_s == BASE + 10
    off = two_points().with_event(Event("c", EventKind.CARRIER, at(30), reason="on", slot=Slot("p1", 1, 0)))
    assert (carrier(off).at(BASE + 86_400).on_since_s, carrier(off).power_w) == (BASE + 30, 25.0)


def test_one_key_says_otherwise():
    made = timed(two_points(), Slot("p1", 1, 0), "102", 10, 20)
    made = made.with_event(Event("c", EventKind.CARRIER, at(30), reason="off"))

    found = carrier(made)

    assert not found.is_on
    assert found.keyings[-1].end_s - BASE == 30.0


def test_a_draft_in_hand_counts_from_its_first_digit():
    found = in_hand(carrier(two_points()), two_points(), BASE + 5, "p2")

    assert found.is_on
    assert found.on_since_s == BASE + 5


def test_readings_without_a_time_heat_nothing():
    assert carrier(job([[("102", "25.6")]])).keyings == ()


def test_a_clock_set_back_is_seen_and_equal_times_are_not():
    made = timed(two_points(), Slot("p1", 1, 0), "102", None, 50)
    same = timed(made, Slot("p1", 1, 1), "25.6", None, 50)
    back = timed(made, Slot("p1", 1, 1), "25.6", None, 20)

    assert list(clock_set_back(same)) == []
    assert len(list(clock_set_back(back))) == 1


def test_going_on_from_an_earlier_state_gives_what_scratch_gives():
    first = timed(two_points(), Slot("p1", 1, 0), "102", 10, 20)
    state = inferred(first)
    made = first.with_event(Event("c", EventKind.CARRIER, at(30), reason="off"))
    for second, (slot, text) in enumerate(((Slot("p1", 1, 1), "25"), (Slot("p2", 1, 0), "101"))):
        made = timed(made, slot, text, 40 + 10 * second, 45 + 10 * second)
        state = inferred(made, state)

        assert state.carrier == carrier(made)
