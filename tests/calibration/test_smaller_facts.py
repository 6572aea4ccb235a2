"""Smaller facts of the job's core, each with the case beside it that is otherwise."""

import math
from dataclasses import replace
from datetime import timedelta
from itertools import pairwise

import numpy as np
import pytest

from fenmist.calibration.asked import TOLERANCE, tolerance_from_draft, with_device_draft
from fenmist.calibration.edit import LoadRow, plan_with_cell, plan_with_rows, with_load_rows
from fenmist.calibration.history import Past, drifts
from fenmist.calibration.job import Job, Rule
from fenmist.calibration.keydown import carrier
from fenmist.calibration.levels import planned_levels
from fenmist.calibration.planning import why_not
from fenmist.calibration.schedule import BAND_S, schedule
from fenmist.calibration.sent import carrier_said, part_shown, sent_statements
from fenmist.calibration.series import series_at
from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.hookup.templates import TEMPLATES, from_template
from fenmist.kit import generic, shelf
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.generic import starter_shelf
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import Property, SpecKind, SpecTerm
from fenmist.measurand import Detector, PlaneRef
from fenmist.methods.modulated import UNKNOWN
from fenmist.procedures.benchwork import (
    read_hookup,
    with_exchanged,
    with_inserted,
    with_line,
    with_new_hookup,
    with_switched,
)
from fenmist.procedures.comparison.asked import job_draft, job_from_draft
from fenmist.procedures.comparison.bench import trouble
from fenmist.procedures.comparison.make import plan_points
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.surface import stands_for
from fenmist.procedures.table import room_of
from fenmist.reading.event import Event, EventKind, Slot
from studies.builders import WHEN, enter, job

READ = [[("102", "25.6")]]


def two_benches() -> Job:
    return with_new_hookup(job(), from_template(TEMPLATES[2], starter_shelf(), "x"))


# hook-ups


def test_a_new_hookup_is_named_and_its_plane_with_it():
    made = two_benches()
    again = with_new_hookup(made, from_template(TEMPLATES[2], starter_shelf(), "x"))

    assert [item.id for item in again.hookups] == ["line", "line 2", "line 3"]
    assert [item.stated.hookup for item in again.hookups] == ["line", "line 2", "line 3"]
    assert again.hookups[2].label == f"{made.hookups[1].label} (2)"


def test_a_hookup_is_found_by_name_beginning_and_number():
    made = two_benches()
    made = replace(made, hookups=(replace(made.hookups[0], label="Bench"), replace(made.hookups[1], label="Bench 2")))
    made = made.with_hookup(replace(made.hookups[1], label="Bench two"))

    for text, found in (("bench", "line"), ("BENCH TWO", "line 2"), ("bench t", "line 2"), ("2", "line 2")):
        assert plan_with_cell(made, 0, 5, text).plan[0].hookup == found, text
    with pytest.raises(UnreadableError, match="no hook-up “3”") as problem:
        plan_with_cell(made, 0, 5, "3")
    assert problem.value.hint == "It has 1 Bench; 2 Bench two."


def test_a_switch_goes_one_position_on_and_comes_round():
    pad = generic.attenuator("pad", "pad", 0.0, 0.1, 150.0, positions=(0.0, 10.0, 20.0))
    made = two_benches()
    made = with_exchanged(made, made.hookups[1], "attenuator", pad)
    seen = []
    for _ in range(3):
        made = with_switched(made, made.hookups[1], "attenuator")
        seen.append(made.hookups[1].element("attenuator").settings["step"])
    assert seen == ["10 dB", "20 dB", "0 dB"]
    assert with_switched(made, made.hookups[1], "attenuator", -1).hookups[1].element("attenuator").settings[
        "step"
    ] == "20 dB"  # fmt: skip


def test_a_meter_joined_by_its_other_pair_of_ports_is_read_there():
    """Reference or device: whatever was read at “HF out” is read at “VHF out”, and something comes of it at 145 MHz."""
    room, kit = room_of("comparison"), starter_shelf()
    device = next(part for part in kit if part.id == "generic-wattmeter")
    two_bands = next(part for part in kit if part.id == "generic-two-band")
    template = next(item for item in room.templates if item.label == "another meter in the line")
    made = room.begin("j", "t", from_template(template, kit, "line", device), device.id, WHEN)
    made = replace(made, plan=plan_points([145e6], [20.0], "", sequence=made.order))
    reference = next(item for item in made.channels if not made.is_device(item.id))
    for element, part in ((reference.element, two_bands), (made.device_channel.element, replace(two_bands, id="d"))):
        made = with_exchanged(made, made.hookups[0], element, part)
        made = with_switched(made, made.hookups[0], element)

    assert {item.measurand.plane.port for item in made.channels} == {"VHF out"}
    assert made.stated.plane == made.device_channel.measurand.plane
    for position in range(len(made.order)):
        made = enter(made, Slot(made.plan[0].id, 1, position), "20 W")
    (found,) = reduce(made).points
    assert found.reference_w == pytest.approx(20.0, rel=0.1)


def test_a_job_reads_the_hookup_its_method_names():
    assert read_hookup(two_benches()) == "line"


def test_another_part_on_the_bench_that_is_read_makes_former_results_no_use():
    made = job(READ)
    result = reduce(made)
    load = made.part("load")
    better = made.with_part(replace(load, label="Reedmace II"))

    assert result.holds_for(made, result.phase, result.known)
    assert result.holds_for(replace(made, title="other"), result.phase, result.known)
    assert not result.holds_for(better, result.phase, result.known)
    spare = replace(made, kit=(*made.kit, shelf.jumper("j", "spare", 0.1, 0.1)))
    assert result.holds_for(spare, result.phase, result.known)
    lighter = made.with_part(replace(load, characterisations=()))
    assert reduce(lighter, former=result).points[0].reference_w != result.points[0].reference_w


def test_a_hookup_without_points_of_its_own_is_looked_at_as_the_whole_plan():
    made = replace(two_benches(), plan=plan_points([7e6, 14e6], [10.0, 50.0], "200"))
    levels = planned_levels(made)

    assert {name: item.highest.power_w for name, item in levels.items()} == {"line": 50.0, "line 2": 50.0}
    own = replace(made, plan=(*made.plan, replace(made.plan[0], id="q", hookup="line 2", target_w=1.0)))
    assert planned_levels(own)["line 2"].highest.power_w == 1.0
    assert planned_levels(replace(made, plan=())) == {}


# plan and questions


def test_pasted_rows_go_on_from_the_cell_they_are_pasted_in():
    made = plan_with_rows(job(), 0, 1, [["20 W", "20", "2"], ["40 W", "200"]])

    assert [(item.target_w, item.range_id, item.repeats) for item in made.plan] == [(20.0, "20", 2), (40.0, "200", 2)]
    assert [item.frequency_hz for item in made.plan] == [7.125e6, 7.125e6]
    wide = plan_with_rows(job(), 0, 5, [["line", "", "beyond the table"]])
    assert wide.plan[0].hookup == "line"


@pytest.mark.parametrize(("of", "text", "fits"), [
    ("full scale", "100 %", True), ("full scale", "110 %", False), ("reading", "100 %", True),
    ("reading", "110 %", False), ("dB", "10", True), ("dB", "11", False), ("full scale", "0", False),
])  # fmt: skip
def test_a_tolerance_lies_below_the_whole_of_it(of, text, fits):
    draft = job_draft(job())
    made = job_from_draft(job(), {**draft, "of": of, "tolerance": text})

    assert isinstance(made, Job) is fits


# curves, series, years


@pytest.mark.parametrize(
    ("shown", "way"),
    [(31.0, "between the levels read"), (10.0, "by the curve at 20\u202fW"),
     (89.0, "by the curve at 50\u202fW")],
)  # fmt: skip
def test_a_reading_is_looked_up_between_levels_or_along_the_nearest(shown, way):
    """Read 10 % low at 20 and 50 W: 31 W lies between them, 10 W stands for 11.1 W, within a factor of two of 20 W."""
    made = replace(job([], load="50"), plan=plan_points([2e6, 8e6, 16e6], [20.0, 50.0], "200"))
    for point in made.plan:
        made = enter(made, Slot(point.id, 1, 0), f"{math.sqrt(400 * point.target_w):.5g}")
        made = enter(made, Slot(point.id, 1, 1), f"{point.target_w * 0.9:.4g}")
    found = stands_for(reduce(made), shown, 8e6)

    assert found.found.way == way
    assert found.value_w == pytest.approx(shown / 0.9, rel=1e-3)


@pytest.mark.parametrize("shown", [9.9, 101.0])
def test_a_reading_far_from_every_level_is_not_looked_up(shown):
    made = replace(job([], load="50"), plan=plan_points([2e6, 8e6], [20.0, 50.0], "200"))
    for point in made.plan:
        made = enter(made, Slot(point.id, 1, 0), f"{math.sqrt(400 * point.target_w):.5g}")
        made = enter(made, Slot(point.id, 1, 1), f"{point.target_w:.4g}")
    with pytest.raises(OutOfRangeError, match="Nothing was read near"):
        stands_for(reduce(made), shown, 4e6)


def test_volts_are_a_power_against_time_only_where_the_point_has_a_result():
    made = job(READ, load="50")
    events = tuple(replace(event, entry=replace(event.entry, observed_at=event.at)) for event in made.events)
    result = reduce(replace(made, events=events))
    (found,) = result.readings

    assert [item.channel for item in series_at(found, None)] == ["meter"]
    reference, device = series_at(found, result.of("p1").reference_w)
    assert reference.powers_w == pytest.approx((result.points[0].reference_w,))
    assert device.powers_w == (25.6,)


def _past(on, error):
    return Past.of_rows(on, False, f"job {on}", [(7e6, 100.0, error, 0.02, 0.05)])


@pytest.mark.parametrize(("slope", "crosses"), [(0.051 / 19, True), (0.051 / 22, False)])
def test_a_crossing_further_off_than_twenty_years_is_none(slope, crosses):
    """From 0 to 0.05 at so much a year, one year gone."""
    line = drifts([_past("2020-01-01", 0.0), _past("2021-01-01", slope)])[0]

    assert bool(line.crosses_on) is crosses


def test_a_meter_beyond_its_tolerance_has_crossed():
    line = drifts([_past("2020-01-01", 0.0), _past("2021-01-01", 0.05)])[0]
    assert line.crosses_on == "2021-01-01"


# time


def test_a_run_lasts_carrier_rests_and_changes_together():
    made = job(level_w=140.0, repeats=12)
    plan = schedule(made)

    assert plan.rest_s > 0
    assert plan.total_s == pytest.approx(plan.carrier_s + plan.rest_s + plan.change_s)
    assert plan.carrier_s == sum(item.key_down_s for item in plan.of_point("p1"))


def test_a_carrier_switched_by_hand_stays_at_the_power_of_the_point_in_hand():
    made = job(level_w=140.0)
    on = Event("c1", EventKind.CARRIER, WHEN, None, "", "on", None, Slot("p1", 1, 0))
    again = replace(on, id="c2", at=WHEN + timedelta(seconds=30))
    off = replace(on, id="c3", at=WHEN + timedelta(seconds=60), reason="off")

    keyed = carrier(replace(made, events=(on, again, off))).keyings
    assert [(item.power_w, round(item.end_s - item.start_s)) for item in keyed][-1][0] == 140.0


# the device, the load and what the method needs


def test_a_device_described_anew_keeps_the_ranges_that_are_left():
    made = replace(job(ranges=(20.0, 200.0)), plan=plan_points([7e6], [10.0, 50.0], "200"))
    made = replace(made, plan=(replace(made.plan[0], range_id="20"), made.plan[1]))

    same = with_device_draft(made, {"label": "Bittern II"})
    assert [point.range_id for point in same.plan] == ["20", "200"] and same.dut_part.label == "Bittern II"
    other = with_device_draft(made, {"ranges": "20 W; 100 W"})
    assert [point.range_id for point in other.plan] == ["20", "100"]


def test_other_tables_of_a_load_stay_when_its_impedance_is_typed():
    made = job(load="50")
    load = made.part("load")
    loss = Characterisation("x", "s11", (1e6, 2e6), (0.0, 0.1), (0.0, 0.0), unit="")
    made = made.with_part(replace(load, characterisations=(*load.characterisations, loss)))
    typed = with_load_rows(made, [LoadRow(7e6, "51", "52"), LoadRow(8e6, "", "")], 0.01, "2026-11-24")

    assert typed.part("load").characterisations[0].quantity == "s11"
    assert len(typed.part("load").characterisations) == 3
    assert typed.part("load").characterisations[1].frequency_hz == (7e6,)


def test_what_the_method_needs_is_said_where_it_is_missing():
    made = job()
    line = made.bench
    assert trouble(made, line) == ""
    elsewhere = replace(line, stated=PlaneRef("line", "load", "in"))
    assert trouble(made, elsewhere) == "power is stated at the device under test, on the line"
    gone = replace(line, elements=tuple(item for item in line.elements if item.id != "scope"))
    with pytest.raises(OutOfRangeError, match="“scope” is read, and isn't there"):
        with_line(made, gone)


def test_only_what_lies_behind_the_stated_meter_can_mismatch():
    """A pad with an SWR in front of the meter costs nothing there; behind it, it does."""
    plain = job(READ)
    pad = generic.attenuator("pad", "pad", 3.0, 0.01, 150.0)
    pad = replace(pad, properties={**pad.properties, "swr": Property(1.5, "", measured=True)})
    names = {}
    for after in ("tx", "meter"):
        element = next(item.id for item in plain.hookups[0].elements if item.part == after)
        made = with_inserted(plain, plain.hookups[0], element, pad)
        names[after] = {row.influence.id for row in reduce(made).budget("p1") if row.contribution > 0}

    assert not [name for name in names["tx"] if name.endswith(".mismatch")]
    assert [name for name in names["meter"] if name.endswith(".mismatch")] == ["attenuator.out~tee.a.mismatch"]
    assert "pad.loss" not in names["tx"] and "pad.loss" in names["meter"]


def test_changes_between_points_take_what_each_takes():
    """Nothing before the first, another band, another hook-up."""
    made = replace(job(), plan=plan_points([7e6, 14e6], [10.0, 20.0], "200"))
    plan = schedule(made)
    bands = sum(a.frequency_hz != b.frequency_hz for a, b in pairwise(made.plan))
    assert plan.change_s == bands * BAND_S
    assert schedule(replace(made, plan=made.plan[:1])).change_s == 0.0


@pytest.mark.parametrize(("text", "of", "taken"), [
    ("5 %", "reading", 0.05), ("5", "full scale", 0.05), ("0.3 dB", "dB", 0.3), ("0.3", "dB", 0.3),
    ("5 %", "dB", None), ("0.3 dB", "reading", None),
])  # fmt: skip
def test_a_share_is_no_decibel(text, of, taken):
    draft = {"tolerance": text, "of": of}
    if taken is None:
        with pytest.raises(UnreadableError, match="isn't"):
            tolerance_from_draft(draft)
    else:
        assert tolerance_from_draft(draft)[0].value == pytest.approx(taken)


@pytest.mark.parametrize(
    ("sent", "said"),
    [(("", ""), "steady carrier"), (("", "two-tone"), "steady carrier; of a waveform where one is named"),
     (("two-tone", "speech"), "of the waveforms named")],
)  # fmt: skip
def test_what_is_sent_is_said_of_all_points_together(sent, said):
    first = plan_points((7e6,), (50.0,), "200")[0]

    assert carrier_said([replace(first, id=f"p{n}", waveform=name) for n, name in enumerate(sent)]) == said


def test_a_tolerance_in_decibels_is_of_power():
    """±0.5 dB of 50 W: 10^0.05, 6.1 W."""
    made = replace(job([], load="50"), tolerance=SpecTerm(SpecKind.DB, 0.5, "dB"), tolerance_more=())

    assert made.tolerance_w(made.plan, np.array([50.0]), np.array([0.1]))[0] == pytest.approx(50 * (10**0.05 - 1))


def test_every_rule_can_be_chosen():
    choices = {item.id: item.choices for item in TOLERANCE}

    assert choices["rule"] == tuple(str(rule) for rule in Rule)
    assert len(choices["of"]) > 1


def test_a_meter_serves_what_any_of_its_pairs_of_ports_is_made_for():
    """1.8 to 60 and 140 to 525 MHz."""
    kit = starter_shelf()
    two_bands = next(part for part in kit if part.id == "generic-two-band")
    made = with_exchanged(job([]), job([]).hookups[0], "meter", two_bands)
    (point,) = made.plan
    said = {f: why_not(made, replace(point, frequency_hz=f)) for f in (7e6, 100e6, 145e6)}

    assert said[7e6] == said[145e6] == ""
    assert said[100e6].endswith("is outside the span of generic two-band wattmeter")


def test_what_is_stated_of_full_scale_costs_where_a_point_names_no_range():
    made = job([], level_w=50.0)
    (point,) = made.plan
    without = replace(point, range_id="")
    limits = made.tolerance_w((point, without), np.array([50.0, 50.0]), np.zeros(2))
    alone = made.tolerance_w((without,), np.array([50.0]), np.zeros(1))

    assert limits[1] == pytest.approx(alone[0])


def test_of_an_unknown_waveform_nothing_is_said_even_of_a_meter_that_holds_peaks():
    made = job([], level_w=50.0)
    held = replace(made.dut_part.indicators[0], detector=Detector.HOLD)
    made = made.with_part(replace(made.dut_part, indicators=(held,)))
    unknown, tones = (replace(made.plan[0], waveform=name) for name in (UNKNOWN, "two-tone"))

    assert [text.endswith("use a steady carrier.") for text in sent_statements(made, (unknown, tones))] == [True, False]
    assert part_shown(made, unknown, made.device_channel.id) == 1.0


def test_what_a_point_overloads_is_asked_at_its_own_frequency():
    """50 W are 70.7 V peak in 50 Ω; in the 200 Ω that the load has at 30 MHz 1.6 times that: it bears 90 V."""
    made = job([], frequencies_hz=(2e6, 30e6), level_w=50.0)
    load = made.part("load")
    table = table_from_rows([(1e6, "50"), (2e6, "50"), (29e6, "200"), (31e6, "200")], 0.01)
    bears = tuple(replace(port, volts_limit_vpk=90.0) for port in load.ports)
    made = made.with_part(replace(load, ports=bears, characterisations=(table,)))
    levels = planned_levels(made)["line"]

    assert [levels.overload_of(point) is not None for point in made.plan] == [False, True]


def test_a_former_result_of_another_record_is_no_beginning():
    """Read in another order of events: nothing of it holds, whatever its length."""
    first, second = reduce(job([[("102", "25.6")]])), job([[("104", "26.0")]])

    assert reduce(second, former=first).points[0].error_w == reduce(second).points[0].error_w
    assert second.events_since(first.job) is None
