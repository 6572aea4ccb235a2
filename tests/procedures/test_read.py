"""What is read on a bench: an instrument more or less, by one edit."""

import math
from dataclasses import replace

import pytest

from fenmist.errors import OutOfRangeError
from fenmist.hookup.templates import TEMPLATES, from_template
from fenmist.kit import generic
from fenmist.kit.part import Property
from fenmist.measurand import Kind
from fenmist.procedures.benchwork import with_hung, with_inserted, with_new_hookup, with_read
from fenmist.procedures.comparison.headline import readings_headline
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import Slot
from studies.builders import enter, job
from support.paper import page_of


def with_sensor(made=None):
    """The usual bench with a tap behind the meter and a sensor on it; neither is read yet."""
    made = made or job(load="50", level_w=25.0)
    made = with_inserted(made, made.hookups[0], "meter", generic.resistive_tap("tap", "Heather", 2460.0, 50.0))
    sensor = generic.power_meter("sensor", "Sallow", damage_w=1.0, top_w=0.01)
    return with_hung(made, made.hookups[0], "tap", sensor)


def sensor_of(made):
    return next(item.id for item in made.hookups[0].elements if item.part == "sensor")


def test_an_instrument_is_read_with_the_others_and_not_any_more():
    made = with_sensor()
    read = with_read(made, made.hookups[0], sensor_of(made))
    channel = read.channel(sensor_of(made))

    assert read.order == ("scope", sensor_of(made), "meter") == read.plan[0].sequence
    assert (channel.measurand.kind, channel.measurand.plane.port) == (Kind.INCIDENT, "in")
    assert with_read(read, read.hookups[0], sensor_of(made)).order == ("scope", "meter")
    alone = with_read(read, read.hookups[0], "scope")
    assert alone.order == (sensor_of(made), "meter")
    with pytest.raises(OutOfRangeError, match="only reference"):
        with_read(alone, alone.hookups[0], sensor_of(made))


def test_what_stands_around_the_device_stays_around_it():
    made = with_sensor(replace(job(load="50"), order=("scope", "meter", "scope")))
    read = with_read(made, made.hookups[0], sensor_of(made))

    assert read.order == ("scope", sensor_of(made), "meter", "scope", sensor_of(made))


def test_points_that_were_begun_keep_what_they_read():
    made = with_sensor(job([[("100", "25")]], frequencies_hz=(7e6, 14e6), load="50", level_w=25.0))
    read = with_read(made, made.hookups[0], sensor_of(made))

    assert [point.sequence for point in read.plan] == [("scope", "meter"), ("scope", sensor_of(made), "meter")]
    assert len(reduce(read).points) == 1


def test_what_can_not_be_read_is_said():
    made = with_sensor()
    line = made.hookups[0]
    for element, says in (("meter", "it is always read"), ("load", "shows nothing"), ("tap", "shows nothing")):
        with pytest.raises(OutOfRangeError, match=says):
            with_read(made, line, element)
    other = with_new_hookup(made, from_template(TEMPLATES[2], generic.starter_shelf(), "x"))
    with pytest.raises(OutOfRangeError, match="another hook-up"):
        with_read(other, other.hookups[1], "meter")


def test_a_source_says_what_it_gives_and_costs_its_own_match():
    """A generator's level is what goes into a match: its own SWR against all that is behind it."""
    made = job(load="75", level_w=25.0)
    source = next(part for part in generic.generics() if part.id == "generic-generator")
    source = replace(source, id="tx", properties={**source.properties, "swr": Property(1.5, "", measured=True)})
    made = with_read(made.with_part(source), made.hookups[0], "source")
    for position, text in enumerate(("100 Vpp", "25 W", "25")):
        made = enter(made, Slot("p1", 1, position), text)
    result = reduce(made)
    names = {row.influence.id for row in result.budget("p1")}

    assert [item.channel for item in result.points[0].references] == ["scope", "source"]
    assert "source.out~meter.in.mismatch" in names or "source.out~tee.a.mismatch" in names


def test_of_two_tones_every_reference_is_stated_as_pep_on_the_certificate():
    """10.3 ± 0.69 W is what the meter should show, (2/π)² of PEP: 25.4 ± 1.7 W. The sensor shows half of PEP."""
    made = with_read(with_sensor(), with_sensor().hookups[0], sensor_of(with_sensor()))
    made = replace(made, plan=tuple(replace(point, waveform="two-tone") for point in made.plan))
    for position, text in enumerate(("100 Vpp", "1.24 mW", "10.13")):
        made = enter(made, Slot("p1", 1, position), text)
    result = reduce(made)
    (said,) = [text.replace("\u202f", " ") for text in page_of(made, result).statements if "weight" in text]
    pep, u = (value * (math.pi / 2) ** 2 for value in (result.points[0].reference_w, result.points[0].reference_u_w))

    assert said.endswith(f"reference {pep:.1f} ± {u:.1f} W.")


def test_headline_and_certificate_name_every_reference():
    made = with_read(with_sensor(), with_sensor().hookups[0], sensor_of(with_sensor()))
    assert readings_headline(made, reduce(made), made.plan[0]).startswith("Read Sedge and Sallow, then Bittern: ")
    for position, text in enumerate(("100 Vpp", "2.48 mW", "25")):
        made = enter(made, Slot("p1", 1, position), text)
    result = reduce(made)
    page = page_of(made, result)
    facts = dict(page.facts)
    point = result.points[0]

    assert facts["method"].startswith(
        "oscilloscope across the load: Sedge, Sallow as references, their consensus decides, version "
    )
    (said,) = [text for text in page.statements if "weight" in text]
    assert said.startswith("At 7.125") and "Sedge 25" in said and "reference " in said
    assert {"Sedge", "Sallow", "Reedmace"} <= {row[0] for row in page.references}
    assert point.references[0].weight + point.references[1].weight == pytest.approx(1.0)
    assert dict(page_of(replace(made, reference="scope"), result).facts)["method"].startswith(
        "oscilloscope across the load: Sedge, Sallow as references, Sedge decides"
    )
