"""The plan and what is asked, edited: each edit changes what it names and nothing else."""

import math
import re
from dataclasses import replace

import pytest

from fenmist.calibration.asked import WHOSE
from fenmist.calibration.edit import (
    LoadRow,
    load_rows,
    load_u,
    load_with_rows,
    plan_rows,
    plan_with_cell,
    plan_with_rows,
    plan_without,
    with_as_left,
    with_load_rows,
    with_next_range,
    with_rounds,
    without_headings,
)
from fenmist.calibration.job import Job, free_point_number
from fenmist.calibration.planning import (
    BY_FREQUENCY,
    BY_LEVEL,
    Grid,
    cannot_serve,
    points_from_grid,
    range_for,
    with_points,
)
from fenmist.calibration.schedule import BAND_S, HOOKUP_S, READING_S, schedule
from fenmist.errors import FenmistError, OutOfRangeError, UnreadableError
from fenmist.hookup.templates import TEMPLATES, from_template
from fenmist.kit import generic
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import PartKind, SpecKind
from fenmist.procedures import benchwork
from fenmist.procedures.comparison.asked import FOR_THE_LINE, FOR_THE_PLAN, job_draft, job_from_draft
from fenmist.procedures.comparison.make import plan_points
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import Slot
from studies.builders import enter, job
from support.texts import spaced

COLUMN = {"frequency": 0, "level": 1, "range": 2, "rounds": 3, "waveform": 4, "hook-up": 5, "left out because": 6}


def two_benches() -> Job:
    return benchwork.with_new_hookup(job(frequencies_hz=(7e6, 14e6)), from_template(TEMPLATES[0], starter_shelf(), "x"))


def test_the_plan_as_texts():
    made = job(frequencies_hz=(7.125e6,), level_w=25.0, repeats=3)
    made = replace(made, plan=(replace(made.plan[0], blocked="no relay"),))

    assert [[spaced(cell) for cell in row] for row in plan_rows(made)] == [
        ["7.125 MHz", "25 W", "200", "3", "carrier", "oscilloscope across the load", "no relay"]
    ]


@pytest.mark.parametrize(("column", "text", "changes"), [
    ("frequency", "14.2", {"frequency_hz": 14.2e6}), ("frequency", "475 kHz", {"frequency_hz": 475e3}),
    ("frequency", "1 kHz", {"frequency_hz": 1e3}), ("frequency", "100 GHz", {"frequency_hz": 1e11}),
    ("level", "50", {"target_w": 50.0}), ("level", "1 nW", {"target_w": 1e-9}),
    ("range", "20 W", {"range_id": "20"}), ("rounds", "5", {"repeats": 5}), ("rounds", "100", {"repeats": 100}),
    ("waveform", "two-tone ± 5 %", {"waveform": "two-tone ± 5 %"}), ("waveform", "unknown", {"waveform": "unknown"}),
    ("waveform", "carrier", {"waveform": ""}), ("hook-up", "2", {"hookup": "line 2"}),
    ("left out because", "relay", {"blocked": "relay"}),
])  # fmt: skip
def test_a_cell_changes_its_own_field_of_its_own_point(column, text, changes):
    made = two_benches()
    changed = plan_with_cell(made, 1, COLUMN[column], text)

    assert changed.plan == (made.plan[0], replace(made.plan[1], **changes))


@pytest.mark.parametrize(("column", "text", "error"), [
    ("frequency", "0.9 kHz", OutOfRangeError), ("frequency", "101 GHz", OutOfRangeError),
    ("level", "0.9 nW", OutOfRangeError), ("level", "101 kW", OutOfRangeError), ("range", "30", UnreadableError),
    ("rounds", "0", OutOfRangeError), ("rounds", "101", OutOfRangeError), ("hook-up", "nothing", UnreadableError),
    ("waveform", "3-tone", UnreadableError),
    ("level", "5 V", UnreadableError),
])  # fmt: skip
def test_a_cell_that_makes_no_sense_says_what_it_takes(column, text, error):
    with pytest.raises(error) as caught:
        plan_with_cell(two_benches(), 0, COLUMN[column], text)
    assert caught.value.hint


def test_a_level_beyond_its_range_takes_the_next_one_that_shows_it():
    made = job(range_id="20", level_w=10.0)

    assert plan_with_cell(made, 0, 1, "20").plan[0].range_id == "20"
    assert plan_with_cell(made, 0, 1, "21").plan[0].range_id == "200"
    assert [range_for(made.device_ranges, w) for w in (1.0, 20.0, 20.1, 200.0, 900.0)] == [
        "20",
        "20",
        "200",
        "200",
        "200",
    ]


def test_the_empty_row_adds_a_point_like_the_last_one():
    made = job(frequencies_hz=(7e6,), level_w=10.0, range_id="20", repeats=3)
    added = plan_with_cell(made, 1, 0, "14")

    assert added.plan[0] is made.plan[0]
    assert added.plan[1] == replace(made.plan[0], id="p2", frequency_hz=14e6, range_id="20")
    assert plan_with_cell(made, 1, 1, "50").plan[1].range_id == "200"
    assert plan_with_cell(made, 1, 6, "why") is made
    first = plan_with_cell(replace(made, plan=()), 0, 0, "7").plan[0]
    assert (first.id, first.target_w, first.range_id, first.repeats) == ("p1", 100.0, "200", 1)
    assert free_point_number(plan_points([1e6, 2e6, 3e6], [1.0], "20")) == 4
    assert free_point_number(()) == 1


def test_pasted_rows_fill_cells_from_one_on_and_skip_headings():
    made = plan_with_rows(job(), 0, 0, [("frequency", "level"), ("7 MHz", "20 W"), ("14 MHz", "")])

    assert [(point.frequency_hz, point.target_w) for point in made.plan] == [(7e6, 20.0), (14e6, 20.0)]
    assert plan_with_rows(job(), 0, 3, [("4",)]).plan[0].repeats == 4
    with pytest.raises(UnreadableError, match="Row 2 of what was pasted"):
        plan_with_rows(job(), 0, 0, [("7 MHz",), ("x",)])
    with pytest.raises(OutOfRangeError, match="1001 rows"):
        plan_with_rows(job(), 0, 0, [("7",)] * 1001)
    assert without_headings([("f", "P"), ("7", "x")]) == [("7", "x")]
    assert without_headings([("7", "x")]) == [("7", "x")]
    assert without_headings([]) == []


def test_a_point_that_was_read_stays():
    made = job([[("102", "")]], frequencies_hz=(7e6, 14e6))

    with pytest.raises(OutOfRangeError, match="the point stays"):
        plan_without(made, 0)
    assert [point.id for point in plan_without(made, 1).plan] == ["p1"]


def test_the_next_range_goes_round_until_the_meter_was_read():
    made = job([[("102", "")]], range_id="20", level_w=10.0, frequencies_hz=(7e6, 14e6))
    once = with_next_range(made, "p1")

    assert [point.range_id for point in once.plan] == ["200", "20"]
    assert with_next_range(once, "p1").plan[0].range_id == "20"
    with pytest.raises(OutOfRangeError, match="was read on range 20"):
        with_next_range(enter(made, Slot("p1", 1, 1), "10"), "p1")
    assert [point.repeats for point in with_rounds(made, "p2", 7).plan] == [1, 7]


def test_readings_as_left_begin_once():
    made = job()
    left = with_as_left(made)

    assert (made.is_adjusted, left.is_adjusted) == (False, True)
    assert with_as_left(left) is left
    assert [phase.kind for phase in left.phases] == ["as found", "as left"]


# a load's table


def test_a_loads_rows_are_what_is_measured_and_what_the_plan_needs():
    made = job(frequencies_hz=(7e6, 30e6), load=[(7e6, "45+j12"), (14e6, "50")])

    assert load_rows(made) == [LoadRow(7e6, "45+j12"), LoadRow(14e6, "50"), LoadRow(30e6, "")]
    changed = with_load_rows(made, [LoadRow(7e6, "46", "48"), LoadRow(9e6, " ", " ")], 0.02, "2026-11-20")
    table = changed.part("load").characterisation("impedance_ohm")
    assert (table.frequency_hz, table.raw, table.u_relative) == ((7e6,), ("46",), 0.02)
    assert (table.source, table.measured_on) == ("analyser", "2026-11-20")
    assert load_rows(changed)[0] == LoadRow(7e6, "46", "48")
    assert load_u(changed) == 0.02
    assert load_u(job(load=None)) == 0.01


def test_pasted_impedances_replace_those_of_their_frequency():
    rows = [LoadRow(7e6, "45"), LoadRow(14e6, "50", "52")]
    made = load_with_rows(rows, [("MHz", "Ω"), ("14", "51"), ("3.5 MHz", "49", "50")])

    assert made == [LoadRow(3.5e6, "49", "50"), LoadRow(7e6, "45"), LoadRow(14e6, "51", "52")]
    with pytest.raises(UnreadableError, match="Row 2 of what was pasted"):
        load_with_rows(rows, [("7", "45"), ("x1", "45")])


# a grid


def grid_points(made: Job, **fields):
    return points_from_grid(made, Grid(**fields))


def test_a_grid_has_every_frequency_with_every_level_on_the_range_that_shows_it():
    made = replace(job(), plan=())
    found = grid_points(made, frequencies="14 7 MHz", levels="50 10 W", rounds="2")

    assert [(p.id, p.frequency_hz, p.target_w, p.range_id, p.repeats) for p in found] == [
        ("p1", 7e6, 10.0, "20", 2),
        ("p2", 7e6, 50.0, "200", 2),
        ("p3", 14e6, 10.0, "20", 2),
        ("p4", 14e6, 50.0, "200", 2),
    ]
    by_level = grid_points(made, frequencies="14 7 MHz", levels="50 10 W", order=BY_LEVEL)
    assert [(p.target_w, p.frequency_hz) for p in by_level] == [(10.0, 7e6), (10.0, 14e6), (50.0, 7e6), (50.0, 14e6)]
    assert {p.repeats for p in by_level} == {3}
    assert {p.sequence for p in found} == {("scope", "meter")}


def test_per_cent_are_of_each_range():
    found = grid_points(replace(job(), plan=()), frequencies="7", levels="10 50 %")

    assert [(p.target_w, p.range_id) for p in found] == [(2.0, "20"), (10.0, "20"), (20.0, "200"), (100.0, "200")]
    one = grid_points(replace(job(), plan=()), frequencies="7", levels="10 50 %", ranges="200 W")
    assert [p.target_w for p in one] == [20.0, 100.0]
    beyond = grid_points(replace(job(), plan=()), frequencies="7", levels="500 W")
    assert [p.range_id for p in beyond] == ["200"]


def test_points_that_are_planned_already_are_not_made_again():
    made = job(frequencies_hz=(7e6,), level_w=50.0)
    found = grid_points(made, frequencies="7 14", levels="50 50 W")

    assert [(p.id, p.frequency_hz) for p in found] == [("p2", 14e6)]


@pytest.mark.parametrize(("fields", "field"), [
    ({"frequencies": "", "levels": "50"}, "frequencies"), ({"frequencies": "x", "levels": "50"}, "frequencies"),
    ({"frequencies": "7", "levels": ""}, "levels"), ({"frequencies": "7", "levels": "0 W"}, "levels"),
    ({"frequencies": "0.0009", "levels": "5"}, "levels"),
    ({"frequencies": "7", "levels": "5", "rounds": "0"}, "levels"),
    ({"frequencies": "7", "levels": "5", "rounds": "101"}, "levels"),
    ({"frequencies": "7", "levels": "5", "ranges": "30"}, "ranges"),
])  # fmt: skip
def test_what_is_wrong_with_a_grid_is_said_at_its_field(fields, field):
    problems = grid_points(job(), **fields)

    assert [problem.field for problem in problems] == [field]


def test_a_grid_makes_at_most_a_thousand_points():
    wide = " ".join(str(n) for n in range(1, 1002))

    assert len(grid_points(replace(job(), plan=()), frequencies=wide.rsplit(" ", 1)[0], levels="50")) == 1000
    (problem,) = grid_points(replace(job(), plan=()), frequencies=wide, levels="50")
    assert "1001 points" in problem.what


def test_a_plan_is_ordered_by_band_or_by_level():
    made = job(frequencies_hz=(14e6,), level_w=20.0)
    more = [
        replace(made.plan[0], id="a", frequency_hz=7e6, target_w=50.0),
        replace(made.plan[0], id="b", target_w=10.0),
    ]

    assert [p.id for p in with_points(made, more, BY_FREQUENCY).plan] == ["a", "b", "p1"]
    assert [p.id for p in with_points(made, more, BY_LEVEL).plan] == ["b", "p1", "a"]


def test_why_a_point_can_not_be_measured():
    made = two_benches()
    base = made.plan[0]
    points = [
        replace(base, id="span", frequency_hz=50e6),
        replace(base, id="range", target_w=200.1),
        replace(base, id="top", target_w=200.0),
        replace(base, id="bench", hookup="line 2"),
        replace(base, id="load", target_w=190.0),
        base,
    ]
    said = {name: spaced(text) for name, text in cannot_serve(replace(made, plan=tuple(points))).items()}

    assert said["span"] == "50 MHz is outside the span of Bittern"
    assert said["range"] == "200.1 W is beyond range 200"
    assert "looked at on paper" in said["bench"]
    assert re.fullmatch(r"Reedmace would see 1\d\d W, its rating is 150 W", said["load"])
    assert base.id not in said


# what is asked


def test_every_field_that_is_asked_comes_back():
    made = job()
    texts = {
        "title": "T",
        "customer": "C",
        "received_on": "2026-11-01",
        "inventory": "A-1",
        "ports": "left",
        "switches": "s",
        "condition": "c",
        "place": "P",
        "technician": "me",
        "conditions": "21",
        "next_due": "2027-11-01",
        "stated": "the meter's input",
        "heat": "hot",
        "tolerance": "3 %",
        "of": "reading",
        "rule": "guarded acceptance",
        "order": "DUT-REF-DUT",
        "beside": "not read",
        "part_of_division": "half a division",
        "interval": "shortest",
    }
    assert set(texts) == {field.id for field in (*WHOSE, *FOR_THE_LINE, *FOR_THE_PLAN)}
    changed = job_from_draft(made, {**job_draft(made), **texts})
    assert isinstance(changed, Job)
    assert {name: text for name, text in job_draft(changed).items() if name in texts} == texts
    assert (changed.tolerance.kind, changed.tolerance.value, changed.part_of_division) == (
        SpecKind.OF_READING,
        0.03,
        0.5,
    )
    assert (changed.shortest_interval, changed.method.parameters["load_heat"]) == (True, 1.0)
    assert {point.sequence for point in changed.plan} == {("meter", "scope", "meter")}
    back = job_from_draft(changed, {**job_draft(changed), **job_draft(made)})
    assert replace(back, tolerance=made.tolerance) == made
    assert (back.tolerance.kind, back.tolerance.value) == (made.tolerance.kind, made.tolerance.value)


@pytest.mark.parametrize("field", ["title"])
def test_a_job_keeps_its_name_where_none_is_typed(field):
    made = job()

    assert job_from_draft(made, {**job_draft(made), field: "  "}).title == made.title


@pytest.mark.parametrize(("field", "text"), [
    ("tolerance", ""), ("tolerance", "x"), ("tolerance", "0 %"), ("tolerance", "101 %"), ("tolerance", "unknown"),
    ("received_on", "soon"), ("next_due", "2026-13-01"),
])  # fmt: skip
def test_what_can_not_be_asked_is_said_at_its_field(field, text):
    made = job()
    problems = job_from_draft(made, {**job_draft(made), field: text})

    assert [problem.field for problem in problems] == [field]
    assert problems[0].what


# benches


def test_edits_of_the_bench_that_is_read_move_the_stated_plane_with_it():
    made = job()
    moved = benchwork.with_stated(made, made.hookups[0], "meter")

    assert moved.hookups[0].stated.port == "in"
    assert moved.stated.plane == moved.hookups[0].stated
    assert made.stated.plane.port == "out"


def test_what_would_spoil_the_readings_is_refused_with_its_reason():
    made = job()
    with pytest.raises(OutOfRangeError, match="“scope” is read, and isn't there any more"):
        benchwork.with_removed(made, made.hookups[0], "tee")
    with pytest.raises(FenmistError):
        benchwork.without_hookup(made, "line")
    with pytest.raises(OutOfRangeError, match="power is stated at the device under test"):
        benchwork.with_stated(made, made.hookups[0], "load")


def test_anything_may_stand_between_tee_and_load():
    """A pad of 3 dB behind the tee: the tee sees it, and half of the power goes into the load."""
    made = job([[("102 Vpp", "25.6")]], load="50")
    pad = generic.attenuator("pad", "pad", 3.0103, 0.01, 150.0)
    behind = benchwork.with_inserted(made, made.hookups[0], "tee", pad)
    before, after = (reduce(item).points[0] for item in (made, behind))

    assert after.reference_w == pytest.approx(before.reference_w, rel=1e-4)
    assert after.net_w == pytest.approx(before.net_w / 2.0, rel=1e-4)


def test_a_bench_of_its_own_is_named_and_goes_with_its_points():
    made = two_benches()
    other = replace(made, plan=(made.plan[0], replace(made.plan[1], hookup="line 2")))
    gone = benchwork.without_hookup(other, "line 2")

    assert [hookup.id for hookup in gone.hookups] == ["line"]
    assert [point.id for point in gone.plan] == ["p1"]
    assert {part.id for part in gone.kit} == {part.id for part in job().kit}
    assert benchwork.with_hookup_label(made, "line 2", " mine ").hookup("line 2").label == "mine"
    assert benchwork.with_hookup_label(made, "line 2", " ").hookup("line 2").label == made.hookup("line 2").label


def test_a_part_is_put_behind_another_or_before_the_last():
    made = job()
    jumper = next(part for part in starter_shelf() if part.kind is PartKind.JUMPER)

    assert benchwork.place_behind(made, made.hookups[0], "meter") == ("meter", "out")
    assert benchwork.place_behind(made, made.hookups[0], "load") == ("tee", "b")
    assert benchwork.place_behind(made, made.hookups[0], "lead") == ("lead", "b")
    assert benchwork.place_behind(made, made.hookups[0], "scope") == ("lead", "b")
    assert benchwork.fits_behind(made.hookups[0], ("meter", "out"), jumper)
    assert not benchwork.fits_behind(made.hookups[0], ("meter", "out"), made.part("tx"))
    assert not benchwork.fits_behind(made.hookups[0], ("meter", "out"), made.part("load"))


# the run in time


def test_a_run_takes_its_readings_its_bands_and_its_benches():
    made = two_benches()
    base = made.plan[0]
    plan = (
        base,
        replace(base, id="a", target_w=50.0),
        replace(base, id="b", frequency_hz=14e6, repeats=2),
        replace(base, id="c", hookup="line 2"),
        replace(base, id="d", blocked="why"),
    )
    laid_out = schedule(replace(made, plan=plan))

    assert laid_out.change_s == BAND_S + HOOKUP_S  # none for another level, none for the first
    assert laid_out.carrier_s == 5 * 2 * READING_S
    assert [item.point.id for item in laid_out.stints] == ["p1", "a", "b", "b", "c"]
    assert [item.round for item in laid_out.of_point("b")] == [1, 2]
    assert (BAND_S, HOOKUP_S, READING_S) == (30.0, 300.0, 20.0)
    assert laid_out.too_much is None
    assert laid_out.total_s == laid_out.carrier_s + laid_out.rest_s + laid_out.change_s


def test_a_load_that_can_not_bear_a_round_rests_for_ever_and_warms_no_further():
    laid_out = schedule(job(frequencies_hz=(7e6,), level_w=20_000.0, repeats=2))

    assert [item.rest_s for item in laid_out.stints] == [math.inf, math.inf]
    assert laid_out.stints[0].rise_after == 0.0
    assert laid_out.too_much is laid_out.stints[0]
