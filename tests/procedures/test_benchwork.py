"""Plugging on a bench that is read: the answer stays where it was, channels follow what is read, refusals in words."""

from dataclasses import replace

import pytest

from fenmist.calibration.edit import UNCLAIMED
from fenmist.calibration.job import Job
from fenmist.calibration.planning import BY_FREQUENCY, Grid, points_from_grid, with_points
from fenmist.errors import OutOfRangeError
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import PartKind
from fenmist.measurand import Kind
from fenmist.procedures import benchwork
from fenmist.procedures.benches import candidates
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.shelf import devices
from fenmist.procedures.steps.reduction import reduce as reduce_steps
from fenmist.procedures.table import ROOMS, room_of
from fenmist.reading.event import Slot
from fenmist.records.jobfile import job_from_bytes, job_to_bytes
from studies.builders import WHEN, enter

KIT = {part.id: part for part in starter_shelf()}


def begun(question: str, device: str, label: str) -> Job:
    room = room_of(question)
    benches = (bench for group in candidates(room.templates, list(KIT.values()), KIT[device]) for bench in group)
    bench = next(item for item in benches if item.hookup.label == label)
    return room.begin("job", "a job", bench, device, WHEN)


def planned(job: Job, level_w: float = 100.0) -> Job:
    return with_points(job, points_from_grid(job, Grid("7", f"{level_w:g}", rounds="1")), BY_FREQUENCY)


@pytest.mark.parametrize(
    ("question", "device", "label"),
    [
        ("linearity", "generic-sensor", "an attenuator's steps, generator to sensor"),
        ("reflection", "generic-crossing", "known ends of the line in turn"),
        ("comparison", "generic-sensor", "in the reference's place, on a generator"),
    ],
)
def test_a_part_put_into_another_of_the_lines_that_are_read_leaves_the_answer_where_it_was(question, device, label):
    job = begun(question, device, label)
    other = next(item for item in job.hookups if item.id != job.bench.id)
    source = other.stated.element if question == "comparison" else other.elements[0].id
    made = benchwork.with_inserted(job, other, source, KIT["generic-adapter"])

    assert made.stated == job.stated
    assert [item.measurand for item in made.channels] == [item.measurand for item in job.channels]
    assert len(made.hookup(other.id).elements) == len(other.elements) + 1


def test_power_stated_elsewhere_on_another_line_moves_what_the_device_shows_there_alone():
    job = begun("linearity", "generic-sensor", "an attenuator's steps, generator to sensor")
    other = job.hookups[1]
    made = benchwork.with_stated(job, other, other.elements[0].id)

    assert made.stated == job.stated
    moved = [item.hookup for item, was in zip(made.channels, job.channels, strict=True) if item != was]
    assert set(moved) <= {other.id}


def test_an_instrument_that_shows_volts_in_the_place_of_one_for_watts_is_read_as_such():
    """2460 Ω over 50 Ω: of 100 W a sensor has +9.965 dBm, an oscilloscope of 1 MΩ 1.395 V rms (3.946 Vpp)."""
    job = planned(begun("comparison", "generic-wattmeter", "tap and sensor"))
    job = benchwork.with_exchanged(job, job.bench, "tap", KIT["generic-tap"])
    made = benchwork.with_exchanged(job, job.bench, "meter", KIT["generic-scope"])
    channel = made.channel("meter")

    assert (channel.indicator, channel.measurand.kind, channel.measurand.plane.port) == ("trace", Kind.VOLTAGE, "in")
    for position, text in enumerate(("3.946 Vpp", "100")):
        made = enter(made, Slot(made.plan[0].id, 1, position), text)
    assert reduce(made).points[0].reference_w == pytest.approx(100.0, rel=0.05)


def test_what_was_read_in_watts_is_not_taken_for_volts():
    job = planned(begun("comparison", "generic-wattmeter", "tap and sensor"))
    job = enter(job, Slot(job.plan[0].id, 1, 0), "10 dBm")
    with pytest.raises(OutOfRangeError, match="shows voltage, and incident power was read there already") as problem:
        benchwork.with_exchanged(job, job.bench, "meter", KIT["generic-scope"])
    assert problem.value.hint.startswith("Strike those readings first")
    again = benchwork.with_exchanged(job, job.bench, "meter", KIT["generic-relative"])
    assert again.channel("meter").indicator == "reading"


@pytest.mark.parametrize(
    ("question", "device", "label", "element", "part", "said"),
    [
        ("comparison", "generic-wattmeter", "tap and sensor", "meter", "generic-load", "shows nothing that a power"),
        ("reflection", "generic-digital", "known ends of the line in turn", "wattmeter", "generic-wattmeter",
         "doesn't show reflected power"),
    ],
)  # fmt: skip
def test_a_part_that_shows_nothing_of_the_kind_is_refused(question, device, label, element, part, said):
    job = begun(question, device, label)
    with pytest.raises(OutOfRangeError, match=said):
        benchwork.with_exchanged(job, job.bench, element, KIT[part])


def test_a_line_on_which_nothing_arrives_is_said():
    """A tap by a transformer sees the current alone: none flows into an open end."""
    job = planned(begun("comparison", "generic-wattmeter", "tap and sensor"))
    assert job.bench.element("tap").part == "generic-transformer"
    for position, text in enumerate(("10 dBm", "100")):
        job = enter(job, Slot(job.plan[0].id, 1, position), text)
    assert reduce(job).points
    with pytest.raises(OutOfRangeError, match="would show nothing on “tap and sensor”"):
        reduce(benchwork.with_removed(job, job.bench, "load"))


def test_steps_between_lines_that_differ_by_a_part_are_worked_out():
    """A pad of 30 dB in one of the lines is in its step: the departure is what it takes, and its match counts."""
    job = planned(begun("linearity", "generic-sensor", "an attenuator's steps, generator to sensor"), 1e-3)
    other = next(item for item in job.hookups if item.id != job.bench.id)
    made = benchwork.with_inserted(job, other, other.elements[0].id, KIT["generic-pad-30"])
    for point in made.plan:
        for position in range(len(point.sequence)):
            made = enter(made, Slot(point.id, 1, position), "-20 dBm")
    found = reduce_steps(made)

    assert [item.point.id for item in found.points] == [item.id for item in made.plan]
    with_pad = next(item for item in found.points if item.point.hookup == other.id)
    faces = [row.influence.id for row in found.budget(with_pad.point.id) if "~" in row.influence.id]
    assert faces


def test_a_reference_that_shares_nothing_with_the_device_is_said():
    job = begun("comparison", "generic-relative", "in the reference's place, on a generator")
    with pytest.raises(OutOfRangeError, match="read beside the device is read beside the reference too"):
        benchwork.with_exchanged(job, job.bench, "generator", replace(KIT["generic-generator"], id="another"))


@pytest.mark.parametrize("question", list(ROOMS))
def test_a_job_on_any_bench_of_its_room_can_be_handed_over(question):
    """Whatever a room begins is taken in from its own file, as it was."""
    room, kit = room_of(question), list(KIT.values())
    seen: set[tuple[str, PartKind]] = set()
    for device in devices(room, kit):
        for bench, *_ in candidates(room.templates, kit, device):
            if (bench.hookup.label, device.kind) in seen:
                continue
            try:
                job = planned(room.begin("job", "a job", bench, device.id, WHEN), 1.0)
            except OutOfRangeError:
                continue  # this device doesn't show what is read on that bench
            seen.add((bench.hookup.label, device.kind))
            assert job_from_bytes(job_to_bytes(job, lambda _: b""), "a job")[0] == job
    assert len({label for label, _ in seen}) >= len({item.label for item in room.templates}) / 2


def test_what_a_waveform_may_move_a_reading_by_stays_when_the_meter_is_exchanged():
    job = begun("modulation", "generic-digital", "waveforms in turn into a load")
    element = job.device_channel.element
    made = benchwork.with_exchanged(job, job.bench, element, KIT["generic-wattmeter"])

    assert made.dut == "generic-wattmeter"
    assert made.tolerances == job.tolerances
    comparison = planned(begun("comparison", "generic-digital", "tap and sensor"))
    other = benchwork.with_exchanged(comparison, comparison.bench, "wattmeter", KIT["generic-wattmeter"])
    assert other.tolerances == other.device_shows.stated != comparison.tolerances
    shows = comparison.device_shows
    bare = replace(shows, ranges=tuple(replace(item, spec=()) for item in shows.ranges), spec=())
    silent = comparison.with_part(replace(comparison.dut_part, indicators=(bare, *comparison.dut_part.indicators[1:])))
    silent = replace(silent, tolerance=UNCLAIMED[0], tolerance_more=())
    claims = benchwork.with_exchanged(silent, silent.bench, "wattmeter", KIT["generic-wattmeter"])
    assert silent.device_shows.stated == () and claims.tolerances == other.tolerances
    agreed = replace(comparison, tolerance=replace(comparison.tolerance, value=0.02), tolerance_more=())
    kept = benchwork.with_exchanged(agreed, agreed.bench, "wattmeter", KIT["generic-wattmeter"])
    assert kept.tolerances == agreed.tolerances
