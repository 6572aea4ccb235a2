"""A tuner that hunts on each band: less than it wants, or more than it bears, for how long."""

from dataclasses import replace
from datetime import timedelta

import pytest

from fenmist.calibration.job import PlanPoint
from fenmist.findings.note import Severity
from fenmist.hookup.templates import OF_SOURCES, from_template
from fenmist.judgement.tuner_rules import tune_cycles
from fenmist.kit import generic, shelf
from fenmist.kit.part import PartKind, Property
from fenmist.procedures.benchwork import with_inserted
from fenmist.procedures.output.reduction import reduce
from fenmist.procedures.table import room_of
from studies.builders import WHEN, read
from studies.references import pad, sensor

TEMPLATE = next(
    item for item in OF_SOURCES if item.label == "sensor behind a pad" and item.stated is PartKind.TRANSMITTER
)
DBM = ("16", "20", "23", "23")
"""Behind 30 dB: 40, 100, 200, 200 W at the sensor, ten seconds apart, over its calibration factor of 0.97."""


def job(least, most, texts=DBM, timed=True):
    tuner = next(part for part in generic.generics() if part.kind is PartKind.TUNER)
    limits = {"loss_db": Property(0.0, "dB", 0.0)}
    limits |= {name: Property(value, "W") for name, value in (("tune_least_w", least), ("tune_most_w", most)) if value}
    bench = from_template(
        TEMPLATE, [shelf.transmitter("tx", "Plover 250", 250.0), pad("pad", 30.0), sensor("s")], "line"
    )
    begun = room_of("output").begin("job", "a source", bench, "tx", WHEN)
    made = replace(begun, plan=(PlanPoint("p1", "line", 7.1e6, 100.0, "", begun.order, len(texts)),))
    made = with_inserted(made, made.bench, made.bench.elements[0].id, replace(tuner, properties=limits))
    made = read(made, *([f"{text} dBm"] for text in texts))
    if not timed:
        return made
    events = tuple(
        replace(event, entry=replace(event.entry, observed_at=WHEN + timedelta(seconds=10 * n)))
        for n, event in enumerate(made.events)
    )
    return replace(made, events=events)


@pytest.mark.parametrize(
    ("least", "most", "codes"),
    # 41 to 206 W at the output
    [(30.0, 250.0, []), (60.0, 250.0, ["tuner.starved"]), (30.0, 150.0, ["tuner.overdriven"]),
     (60.0, 150.0, ["tuner.starved", "tuner.overdriven"]), (None, None, [])],
)  # fmt: skip
def test_a_course_outside_of_what_it_wants_and_bears_is_told_with_its_band(least, most, codes):
    made = job(least, most)
    found = list(tune_cycles(made, reduce(made)))

    assert [note.code for note in found] == codes
    assert all("7.1\u202fMHz" in note.what for note in found)


def test_for_how_long_follows_straight_between_the_readings():
    """A rise in 10 s from p to q passes x after 10 s·(x − p)/(q − p); the rounds' mean is that of their dBm, 20.5."""
    made = job(60.0, 150.0)
    result = reduce(made)
    starved, over = tune_cycles(made, result)
    first, second, last = (result.power_at("p1")[1] * 10.0 ** ((dbm - 20.5) / 10.0) for dbm in (16.0, 20.0, 23.0))

    assert first == pytest.approx(41.0, rel=0.02)  # 39.8 mW behind 30 dB over 0.97
    assert starved.evidence["below_s"] == pytest.approx(10.0 * (60.0 - first) / (second - first))
    assert over.evidence["above_s"] == pytest.approx(10.0 + 10.0 * (last - 150.0) / (last - second))
    assert (starved.severity, over.severity) == (Severity.WATCH, Severity.STOP)


def test_two_readings_or_none_with_times_are_no_course():
    few, untimed = job(60.0, 150.0, DBM[:2]), job(60.0, 150.0, timed=False)
    at_once = replace(
        untimed, events=tuple(replace(one, entry=replace(one.entry, observed_at=WHEN)) for one in untimed.events)
    )

    assert list(tune_cycles(few, reduce(few))) == []
    assert list(tune_cycles(at_once, reduce(at_once))) == []
    assert list(tune_cycles(untimed, reduce(untimed))) == []
