"""What a trace gives as a reading, and what an event is filed under."""

import math

import numpy as np
import pytest

from fenmist.reading.captured import reading_from_trace, text_of_trace
from fenmist.reading.event import AS_LEFT, Answer, Event, EventKind, Slot, struck
from fenmist.reading.events import Events
from fenmist.reading.ledger import ledger_of
from fenmist.units.moment import moment_from_text
from fenmist.waveform.analysis import analyse
from fenmist.waveform.capture import Channel

WHEN = moment_from_text("2026-11-25T09:00:00+01:00")


def trace(volts: np.ndarray, step_v: float = 0.4):
    channel = Channel("CH1", np.round(volts / step_v) * step_v, step_v)
    return analyse(channel, 2e-9), channel


def carrier(amplitude=51.0, noise=0.0):
    t = np.arange(3000) * 2e-9
    return amplitude * np.cos(2 * np.pi * 7.125e6 * t + 0.4) + np.random.default_rng(4).normal(0, noise, t.size)


def test_a_steady_trace_is_rms_by_a_fit_with_the_other_forms_beside_it():
    """51 V peak are 36.06 Vrms and 102 Vpp; the fit's u is that of its amplitude over √2."""
    made, channel = trace(carrier(noise=0.1))
    found = reading_from_trace(made, channel).reading

    assert (found.unit, found.form, found.digit) == ("Vrms", "fit", 0.4)
    assert found.value == pytest.approx(51 / math.sqrt(2), rel=1e-3)
    assert found.u == pytest.approx(made.u_amplitude_v / math.sqrt(2))
    peak, rms = found.also
    assert (peak.unit, peak.digit, peak.u) == ("Vpp", 0.4, None)
    assert peak.value == pytest.approx(102.0, abs=0.8)
    assert (rms.unit, rms.digit) == ("Vrms", 0.4)
    assert rms.value == pytest.approx(51 / math.sqrt(2), rel=2e-3)
    assert rms.u == made.u_rms_v > 0
    assert text_of_trace(made) == f"{found.value:.4g} Vrms fit"


def test_a_trace_that_cannot_be_trusted_stays_open_and_says_why():
    made, channel = trace(np.clip(carrier(), -40.0, 40.0))
    found = reading_from_trace(made, channel)

    assert found.reading is None
    assert found.why_open == f"{made.notes[0].what} {made.notes[0].why}"
    assert "clip" in found.why_open


def event(name, kind, target="", reason="", answer=None):
    return Event(name, kind, WHEN, None, target, reason, answer)


def test_what_is_struck_is_what_was_not_restored():
    record = [
        event("a", EventKind.STRIKE, "e1", "misread"), event("b", EventKind.STRIKE, "e2", "wrong arc"),
        event("c", EventKind.DOUBT, "e3", "unsure"), event("d", EventKind.RESTORE, "e1"),
        event("e", EventKind.RESTORE, "e4"),
    ]  # fmt: skip
    assert struck(record) == {"e2": "wrong arc"}


def test_only_answers_answer():
    said = Answer("load.poor|x", "f1", "an antenna, meant so", "me", WHEN)
    record = [event("a", EventKind.ANSWER, answer=said), event("b", EventKind.ANSWER), event("c", EventKind.STRIKE)]

    assert ledger_of(record).answers == {"load.poor|x": said}
    back = event("d", EventKind.ANSWER, answer=Answer("load.poor|x", "f1", "", "me", WHEN))
    assert ledger_of([*record, back]).answers == {}


@pytest.mark.parametrize(("slot", "place"), [
    (Slot("p1", 2, 1), "p1/2/1"), (Slot("p1", 2, 1, AS_LEFT), f"p1/2/1/{AS_LEFT}"),
])  # fmt: skip
def test_a_place_names_its_phase_where_it_is_not_as_found(slot, place):
    assert slot.place == place


def test_entries_made_are_counted_with_those_struck_and_nothing_else():
    from studies.builders import job

    made = job([[("102", "25.6")]])
    gone = Event("s", EventKind.STRIKE, WHEN, None, made.events[0].id, "misread")
    broken = Event("x", EventKind.ENTER, WHEN)

    assert ledger_of([*made.events, gone, broken]).made == 2
    assert ledger_of([*made.events, gone]).point_of(made.events[0].id) == "p1"


@pytest.mark.parametrize("begin", [0, 5, 600, 605, 607])
@pytest.mark.parametrize("end", [3, 603, 606, 608])
def test_any_piece_of_a_record_is_that_piece(begin, end):
    every = [event(f"e{n}", EventKind.DOUBT) for n in range(608)]
    made = Events(every[:600]).plus(every[600:604]).plus(every[604:])

    assert [item.id for item in made[begin:end]] == [item.id for item in every[begin:end]]
    assert made[-1] is every[-1] and made[begin] is every[begin]
