"""Edits of a job, as typed."""

import pytest

from fenmist.calibration.edit import (
    LoadRow,
    load_rows,
    plan_with_cell,
    plan_without,
    with_load_rows,
)
from fenmist.errors import FenmistError, UnknownIdError
from fenmist.kit import shelf
from fenmist.kit.part import PartKind
from fenmist.procedures.benchwork import with_exchanged
from fenmist.procedures.comparison.asked import job_draft, job_from_draft
from fenmist.procedures.comparison.reduction import reduce
from studies.builders import arc, bench_kit, job


@pytest.mark.parametrize(("column", "text"), [(0, "fast"), (0, "5 Hz"), (1, "-5 W"), (1, "1,250"), (2, "77"), (3, "0")])
def test_a_cell_that_makes_no_sense_is_refused_with_what_to_do(column, text):
    with pytest.raises(FenmistError) as caught:
        plan_with_cell(job(), 0, column, text)

    assert caught.value.hint


def test_a_level_above_the_range_takes_the_next_one():
    low = plan_with_cell(job(), 0, 2, "20")

    assert plan_with_cell(low, 0, 1, "80 W").plan[0].range_id == "200"


def test_a_point_that_was_read_stays_in_the_plan():
    with pytest.raises(FenmistError, match="stays"):
        plan_without(job([[("102", "25.6")]]), 0)


def test_an_unread_point_can_be_taken_out():
    assert plan_without(job(), 0).plan == ()


def test_what_is_asked_survives_its_own_form():
    made = job()

    assert job_from_draft(made, job_draft(made)).plan == made.plan


@pytest.mark.parametrize("text", ["", "none", "0 %", "250 %", "-5 %"])
def test_a_tolerance_that_can_not_be_is_said_at_its_field(text):
    problems = job_from_draft(job(), {**job_draft(job()), "tolerance": text})

    assert [problem.field for problem in problems] == ["tolerance"]


def test_another_meter_on_the_line_becomes_the_device_under_test():
    other = shelf.inline_meter("teal", "Teal", (5.0, 50.0), arc(), 0.1)
    made = with_exchanged(job(level_w=25.0), job().hookups[0], "meter", other)

    assert made.dut == "teal"
    assert made.plan[0].range_id == "50"
    assert made.tolerance.value == 0.1
    assert "meter" not in made.parts


def test_choosing_the_same_load_again_keeps_what_was_typed_of_it():
    bare = next(part for part in bench_kit(load=None) if part.id == "load")

    assert with_exchanged(job(), job().hookups[0], "load", bare).part("load") == job().part("load")


def test_unknown_parts_and_points_are_named():
    with pytest.raises(UnknownIdError, match="p9"):
        job().point("p9")
    with pytest.raises(UnknownIdError, match="sensor"):
        job().part("sensor")
    assert {part.kind for part in bench_kit()} >= {PartKind.LOAD, PartKind.TEE}


def test_a_load_measured_hot_as_well_is_somewhere_between_unless_said():
    """57.7 Ω cold and 59.7 Ω hot: half-way with ± 1 Ω, or the one that is said."""
    rows = [LoadRow(7.125e6, "57.7", "59.7")]
    made = with_load_rows(job([[("102", "25.6")]], load=None), rows, 0.001, "2026-11-24")
    results = {
        heat: reduce(job_from_draft(made, {**job_draft(made), "heat": heat})) for heat in ("in between", "cold", "hot")
    }
    net = {heat: item.points[0].net_w for heat, item in results.items()}

    assert net["cold"] / net["hot"] == pytest.approx(59.7 / 57.7, rel=1e-6)
    assert net["in between"] == pytest.approx(net["cold"] * 57.7 / 58.7, rel=1e-6)
    rows = {row.influence.id: row for row in results["in between"].net.budget()}
    assert rows["load.heat"].contribution / net["hot"] == pytest.approx(1 / 58.7 / 3**0.5, rel=0.03)
    assert load_rows(made) == [(7.125e6, "57.7", "59.7")]


def test_the_interval_of_drawn_points_can_be_the_shortest():
    made = job([[("102", "25.6")]], load="|57.7|", lead_m=0.3, frequencies_hz=(28e6,))
    shortest = job_from_draft(made, {**job_draft(made), "interval": "shortest"})
    widths = [reduce(item).points[0].expanded_u_w for item in (made, shortest)]

    assert shortest.shortest_interval
    assert widths[1] < widths[0]
