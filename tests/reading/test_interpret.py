"""From what was typed to what the indicator showed."""

import math

import pytest

from fenmist.kit.generic import generics
from fenmist.kit.part import Indicator, Range
from fenmist.measurand import Kind
from fenmist.reading.dial import reading_limit
from fenmist.reading.event import Answer, Entry, Event, EventKind, Reading, Slot, struck
from fenmist.reading.interpret import interpret
from fenmist.reading.ledger import ledger_of
from fenmist.units.moment import moment_from_text
from fenmist.units.typed import Censoring
from studies.builders import arc

HIGH, LOW = Range("200", 200.0, "W", arc()), Range("20", 20.0, "W", arc())
METER = Indicator("forward", "forward needle", Kind.INCIDENT, "W", (HIGH, LOW))
SENSOR = Indicator("display", "display", Kind.INCIDENT, "W", can_be_negative=True)


@pytest.mark.parametrize(("used", "value", "tenth"), [(HIGH, 37.5, 0.5), (LOW, 3.75, 0.05)])
def test_two_ranges_share_one_arc(used, value, tenth):
    """The printed figures are multiplied by the range; a tenth of a division of 5 W is what was typed to."""
    reading = interpret("20/3.5", METER, used).reading
    assert (reading.value, reading.digit) == (pytest.approx(value), pytest.approx(tenth))


@pytest.mark.parametrize(("used", "watts", "limit"), [(HIGH, 30.0, 1.25), (HIGH, 80.0, 2.5), (LOW, 8.0, 0.25)])
def test_a_needle_is_read_to_a_quarter_of_the_division_it_stands_in(used, watts, limit):
    assert reading_limit(Reading(watts, "W", 0.1), used, 0.25) == pytest.approx(limit)


def test_a_display_is_read_to_half_its_last_digit():
    assert reading_limit(Reading(12.34, "W", 0.01), None, 0.25) == pytest.approx(0.005)


def test_a_needle_below_nothing_stays_open_and_a_drifting_sensor_does_not():
    assert interpret("-2", METER, HIGH).reading is None
    assert interpret("-0.002 mW", SENSOR, None).reading.value == pytest.approx(-2e-6)


@pytest.mark.parametrize(("text", "watts"), [("0", 0.0), ("0.5", 0.5), ("-0.5", None), ("0.001 mW", 1e-6)])
def test_a_needle_goes_down_to_nothing_and_not_below(text, watts):
    found = interpret(text, METER, HIGH)

    assert (found.reading.value if found.reading else None) == (None if watts is None else pytest.approx(watts))
    assert found.likeliest_text == ("0.5 W" if watts is None else "")


def test_a_pointer_needs_a_dial():
    found = interpret("20/3.5", SENSOR, None)

    assert found.reading is None
    assert "dial" in found.why_open


def test_off_scale_is_a_bound_at_full_scale():
    reading = interpret("off scale", METER, LOW).reading

    assert (reading.value, reading.censoring) == (20.0, Censoring.ABOVE)


def test_an_ambiguous_text_offers_the_reading_nearer_to_the_plan():
    assert interpret("1,250", METER, HIGH, 1.3).likeliest_text == "1.25 W"


def _event(name: str, kind: EventKind, **fields: object) -> Event:
    return Event(name, kind, moment_from_text("2026-11-24T10:00:00+01:00"), **fields)


def _entry(name: str, text: str) -> Event:
    entry = Entry(Slot("p1", 1, 0), "meter", "meter", "forward", "200", text, None)
    return _event(name, EventKind.ENTER, entry=entry)


def test_a_struck_entry_stays_on_record_and_out_of_what_stands():
    events = [_entry("a", "25"), _event("b", EventKind.STRIKE, target="a", reason="misread"), _entry("c", "26")]

    assert struck(events) == {"a": "misread"}
    assert [event.id for event in ledger_of(events).standing.values()] == ["c"]


def test_a_restored_entry_stands_again():
    events = [
        _entry("a", "25"), _event("b", EventKind.STRIKE, target="a", reason="undone"),
        _event("c", EventKind.RESTORE, target="a"),
    ]  # fmt: skip

    assert [event.id for event in ledger_of(events).standing.values()] == ["a"]


def test_the_latest_answer_counts_and_an_empty_one_takes_it_back():
    def said(name: str, text: str) -> Event:
        return _event(name, EventKind.ANSWER, answer=Answer("k", "f", text, "me", "2026"))

    assert ledger_of([said("a", "first"), said("b", "second")]).answers["k"].text == "second"
    assert ledger_of([said("a", "first"), said("b", "")]).answers == {}


@pytest.mark.parametrize(
    ("text", "dbm"), [("-3 dB", 2.0), ("−3 dB", 2.0), ("+0.5dB", 5.5), ("2 dBm", 2.0), ("1.5 mW", 1.76)]
)
def test_a_relative_scale_is_range_and_needle(text, dbm):
    """+5 dBm range with the needle on −3 dB is +2 dBm (handbook 8, common practice)."""
    meter = next(part for part in generics() if part.id == "generic-relative")
    used = meter.indicators[0].range("+5")

    found = interpret(text, meter.indicators[0], used)

    assert 10 * math.log10(found.reading.value / 1e-3) == pytest.approx(dbm, abs=0.01)


def test_a_needle_in_db_without_a_relative_scale_stays_open():
    assert interpret("-3 dB", part_with_watts(), None).reading is None


def part_with_watts():
    return next(part for part in generics() if part.id == "generic-digital").indicators[0]


RELATIVE = Indicator(
    "level", "level", Kind.INCIDENT, "dBm",
    (Range("+5", 3.162e-3, "W", pointer_offset_db=5.0), Range("+10", 1e-2, "W", pointer_offset_db=10.0)),
)  # fmt: skip


@pytest.mark.parametrize(("text", "indicator", "used", "watts", "on"), [
    ("12.3 on 20", METER, None, 12.3, "20"), ("12.3 W on 200 W", METER, None, 12.3, "200"),
    ("12.3", METER, None, 12.3, "20"), ("31", METER, None, 31.0, "200"), ("250", METER, None, 250.0, "200"),
    ("12.3", METER, HIGH, 12.3, "200"), ("12.3 on 200", METER, HIGH, 12.3, "200"),
    ("-3 dB on +5", RELATIVE, None, 1e-3 * 10**0.2, "+5"), ("-3 dB on +10", RELATIVE, None, 1e-3 * 10**0.7, "+10"),
    ("62 %", METER, HIGH, 124.0, "200"), ("62 % on 20", METER, None, 12.4, "20"),
    ("-3 dB", METER, LOW, 20.0 * 10**-0.3, "20"), ("0 dB on 200", METER, None, 200.0, "200"),
])  # fmt: skip
def test_a_reading_may_say_its_range_and_be_relative_to_it(text, indicator, used, watts, on):
    found = interpret(text, indicator, used)

    assert found.reading.value == pytest.approx(watts)
    assert found.range_id == on


def test_the_last_digit_of_a_relative_reading_is_one_of_the_range():
    assert interpret("62 % on 20", METER, None).reading.digit == pytest.approx(0.2)
    # 1 dB of 1.585 mW: 23 % of it
    assert interpret("-3 dB on +5", RELATIVE, None).reading.digit == pytest.approx(1.585e-3 * 0.2303, rel=1e-3)


@pytest.mark.parametrize(("text", "used", "says", "likeliest"), [
    ("12 on 50", None, "200, 20", "12"), ("12 on 20", HIGH, "the range 200", "12"),
    ("-3 dB", None, "relative to a range", "-3 dB on 200"), ("5 %", None, "relative to a range", "5 % on 200"),
])  # fmt: skip
def test_a_range_that_is_not_there_leaves_it_open(text, used, says, likeliest):
    found = interpret(text, METER, used)

    assert found.reading is None
    assert says in found.why_open
    assert found.likeliest_text == likeliest


def test_on_is_no_range_where_there_is_none():
    assert interpret("-3 dB", SENSOR, None).why_open == "It is relative, and nothing says to what."
