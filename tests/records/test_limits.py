"""Edges of what a stranger's file may hold: the last that is read, the first that is refused."""

from dataclasses import replace
from itertools import count

import pytest

from fenmist.errors import FileFormatError
from fenmist.kit.part import Component, Port, Position, Switch
from fenmist.reading.event import Reading
from fenmist.records import jobfile
from fenmist.records.jobfile import job_from_bytes, job_to_bytes
from fenmist.rf.circuit import BranchKind
from studies.builders import job, read


def refused(made):
    """What is said of a job's file, or nothing where it is read."""
    try:
        job_from_bytes(job_to_bytes(made, lambda _: b""), "x")
    except FileFormatError as error:
        return str(error)
    return ""


def with_points(number):
    made = job([])
    return replace(made, plan=tuple(replace(made.plan[0], id=f"p{n}") for n in range(1, number + 1)))


def with_load(**more):
    made = job([])
    return made.with_part(replace(made.part("load"), **more))


def ports(number):
    load = job([]).part("load")
    return (*load.ports, *(Port(f"x{n}", side=True) for n in range(number - len(load.ports))))


def pieces(number):
    return tuple(Component(f"R{n}", BranchKind.RESISTOR, ("in", "out"), 50.0) for n in range(number))


def switch(number, name="s"):
    return Switch(name, tuple(Position(f"{n} dB", {}) for n in range(number)))


def _with_kit(number):
    made, ids = job([]), count()
    more = tuple(replace(made.part("load"), id=f"extra{next(ids)}") for _ in range(number - len(made.kit)))
    return replace(made, kit=(*made.kit, *more))


LIMITS = {
    "points": (jobfile.MOST_POINTS, with_points),
    "connectors on a part": (8, lambda n: with_load(ports=ports(n))),
    "pieces inside a part": (60, lambda n: with_load(components=pieces(n))),
    "positions of a switch": (60, lambda n: with_load(switches=(switch(n),))),
    "switches on a part": (8, lambda n: with_load(switches=tuple(switch(2, f"s{k}") for k in range(n)))),
    "parts": (jobfile.MOST_PARTS, _with_kit),
}


@pytest.mark.parametrize("what", list(LIMITS))
def test_the_last_that_is_read_and_the_first_that_is_not(what):
    most, make = LIMITS[what]
    assert f"at most {most} are read" not in refused(make(most))
    assert f"it has {most + 1} {what}; at most {most} are read" in refused(make(most + 1))


def test_a_text_may_be_so_long():
    assert refused(replace(job([]), purpose="x" * jobfile.LONGEST_TEXT)) == ""
    assert "letters; at most" in refused(replace(job([]), purpose="x" * (jobfile.LONGEST_TEXT + 1)))


@pytest.mark.parametrize(("more", "is_read"), [
    ({"frequency_hz": 1.0}, True), ({"frequency_hz": 0.0}, False), ({"frequency_hz": 0.9e12}, True),
    ({"frequency_hz": 1e12}, False), ({"target_w": 0.5}, True), ({"target_w": 0.0}, False), ({"target_w": 0.9e7}, True),
    ({"target_w": 1e7}, False), ({"repeats": 1}, True), ({"repeats": 0}, False),
])  # fmt: skip
def test_frequencies_levels_and_rounds_that_make_sense(more, is_read):
    made = job([])
    said = refused(replace(made, plan=(replace(made.plan[0], **more),)))
    assert ("no frequency, level or rounds that make sense" not in said) is is_read


@pytest.mark.parametrize(("more", "is_read"), [
    ({"value": 0.0}, True), ({"value": 1e-25}, False), ({"value": -1e15}, True), ({"value": 2e15}, False),
    ({"digit": 0.0}, True), ({"digit": -0.1}, False), ({"u": 0.5}, True), ({"u": -0.5}, False),
    ({"unit": "stone"}, False), ({"form": "whim"}, False),
])  # fmt: skip
def test_readings_that_could_have_been_typed(more, is_read):
    made = read(job([]), ("102 Vpp", "25.6"))
    event = made.events[-1]
    reading = replace(Reading(25.6, "W", 0.1), **more)
    changed = replace(event, entry=replace(event.entry, reading=reading))
    assert (refused(replace(made, events=(*made.events[:-1], changed))) == "") is is_read


def test_a_waveform_that_is_none_and_times_that_no_meter_has_are_refused():
    made = job([])
    sent = replace(made, plan=(replace(made.plan[0], waveform="two-tone ± 5 %"),))
    assert refused(sent) == ""
    assert "sends no waveform" in refused(replace(sent, plan=(replace(made.plan[0], waveform="three-tone"),)))
    data = job_to_bytes(sent, lambda _: b"").replace(b'"detector_s": null', b'"detector_s": 0')
    with pytest.raises(FileFormatError, match="sense"):
        job_from_bytes(data, "x")


@pytest.mark.parametrize(("rounds", "is_read"), [(jobfile.MOST_ROUNDS, True), (jobfile.MOST_ROUNDS + 1, False)])
def test_a_point_has_so_many_rounds(rounds, is_read):
    made = job([])
    said = refused(replace(made, plan=(replace(made.plan[0], repeats=rounds),)))
    assert (f"at most {jobfile.MOST_ROUNDS} are read" not in said) is is_read


def test_a_line_has_so_many_parts():
    made, most = job([]), jobfile.MOST_ELEMENTS
    assert most == 40
    hookup = made.hookups[0]
    more = tuple(replace(hookup.elements[0], id=f"x{n}") for n in range(most - len(hookup.elements)))
    at_most = made.with_hookup(replace(hookup, elements=(*hookup.elements, *more)))
    assert "parts on one line" not in refused(at_most)
    beyond = made.with_hookup(replace(hookup, elements=(*hookup.elements, *more, replace(more[0], id="one more"))))
    assert f"it has {most + 1} parts on one line" in refused(beyond)
