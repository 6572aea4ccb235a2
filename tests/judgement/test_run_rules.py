"""Rules about the run: just inside, just outside, a near-miss that stays silent."""

from dataclasses import replace

import pytest

from fenmist.calibration.receipt import FINE, NOT_FINE, Look
from fenmist.judgement.run_rules import clock_went_back, doubted_entries, heat_planned, heat_reached, received_faults
from fenmist.kit import shelf
from fenmist.reading.event import AS_FOUND, AS_LEFT, Event, EventKind, Slot
from fenmist.units.moment import moment_from_text
from studies.builders import WHEN, enter, job


def with_load(made, power_w, minutes=5.0):
    load = shelf.dummy_load("load", "Reedmace", power_w, minutes=minutes, cooling_minutes=10.0)
    return made.with_part(load)


@pytest.mark.parametrize(("rounds", "said"), [(7, False), (8, True)])
def test_a_key_down_longer_than_the_load_bears_is_said(rounds, said):
    """100 W on a load rated 100 W for 5 minutes: 7 rounds of 40 s fit, 8 don't."""
    made = with_load(job(level_w=100.0), 100.0)
    made = replace(made, plan=tuple(replace(point, repeats=rounds) for point in made.plan))

    assert [note.code for note in heat_planned(made)] == ["load.key_down"] * said


def test_a_blocked_point_heats_nothing():
    made = with_load(job(level_w=100.0), 100.0, 0.5)
    made = replace(made, plan=tuple(replace(point, blocked="no") for point in made.plan))

    assert list(heat_planned(made)) == []


def keyed(seconds):
    made = with_load(job(level_w=100.0), 100.0)
    for position, (text, at) in enumerate((("200", 0), ("99", seconds))):
        after = enter(made, Slot("p1", 1, position), text)
        event = after.events[-1]
        stamp = moment_from_text(f"2026-11-24T10:{at // 60:02d}:{at % 60:02d}+01:00")
        entry = replace(event.entry, observed_at=stamp, begun_at=stamp)
        made = replace(after, events=(*after.events[:-1], replace(event, at=stamp, entry=entry)))
    return made


@pytest.mark.parametrize(("seconds", "said"), [(295, False), (305, True)])
def test_a_load_that_was_keyed_beyond_its_rating_is_said(seconds, said):
    assert [note.code for note in heat_reached(keyed(seconds), AS_FOUND)] == ["load.hot"] * said
    assert list(heat_reached(keyed(seconds), AS_LEFT)) == []  # nothing was read as left


def test_a_clock_set_back_is_a_doubt_and_a_second_is_not():
    made = keyed(30)
    back = made.with_event(Event("x", EventKind.CARRIER, moment_from_text("2026-11-24T09:59:00+01:00"), reason="off"))
    jitter = made.with_event(
        Event("x", EventKind.CARRIER, moment_from_text("2026-11-24T10:00:29.5+01:00"), reason="off")
    )

    assert [note.code for note in clock_went_back(back)] == ["clock.set_back"]
    assert list(clock_went_back(jitter)) == []


def test_a_doubted_entry_is_said_until_it_is_taken_back():
    made = job([[("102", "25.6")]])
    target = made.events[1].id
    doubt = made.with_event(Event("d", EventKind.DOUBT, WHEN, target=target, reason="needle stuck"))
    back = doubt.with_event(Event("b", EventKind.DOUBT, WHEN, target=target))

    assert [(note.code, note.about) for note in doubted_entries(doubt, AS_FOUND)] == [("entry.doubted", "p1/1/1")]
    assert list(doubted_entries(back, AS_FOUND)) == []
    assert list(doubted_entries(made, AS_FOUND)) == []


def test_faults_received_stand_once_at_the_device():
    made = job()
    fine = replace(made, receipt=made.receipt.with_look("case", Look(FINE)))
    bad = replace(made, receipt=fine.receipt.with_look("zero", Look(NOT_FINE, "sticks at 2")))

    assert list(received_faults(fine)) == []
    note = next(received_faults(bad))
    assert note.evidence["faults"] == "mechanical zero set: sticks at 2"
