"""Plans from a grid, blocked points, and what can't be measured."""

from dataclasses import replace

import pytest

from fenmist.calibration.planning import (
    BY_LEVEL,
    Grid,
    cannot_serve,
    points_from_grid,
    with_block,
    with_points,
)
from fenmist.errors import OutOfRangeError
from fenmist.findings.note import Problem
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import Event, EventKind, Slot
from studies.builders import WHEN, job


def test_per_cent_are_shares_of_each_range():
    made = points_from_grid(job(), Grid("7.1", "50 100 %", rounds="1"))

    found = sorted((p.range_id, p.target_w) for p in made)
    assert found == [("20", 10.0), ("20", 20.0), ("200", 100.0), ("200", 200.0)]


def test_points_that_stand_already_are_not_planned_twice():
    before = job()
    grid = Grid("7.125", "25", "200", "1")

    assert points_from_grid(before, grid) == ()


@pytest.mark.parametrize(
    ("grid", "field"),
    [
        (Grid("", "10 W"), "frequencies"), (Grid("7 x", "10 W"), "frequencies"), (Grid("7", ""), "levels"),
        (Grid("7", "10", "300"), "ranges"), (Grid("7", "10", rounds="many"), "rounds"),
        (Grid("7", "10", rounds="0"), "levels"), (Grid("7", "-5"), "levels"),
        (Grid(" ".join(str(n) for n in range(1, 1200)), "10"), "frequencies"),
    ],
)  # fmt: skip
def test_what_a_grid_lacks_is_said_by_field(grid, field):
    made = points_from_grid(job(), grid)

    assert isinstance(made[0], Problem)
    assert made[0].field == field


def test_order_by_level_begins_with_the_lowest_power_everywhere():
    made = job()
    made = with_points(made, points_from_grid(made, Grid("28 1.8", "100 10 W", rounds="1")), BY_LEVEL)

    assert [p.target_w for p in made.plan] == sorted(p.target_w for p in made.plan)


def test_a_blocked_point_is_not_missing_and_a_read_one_can_not_be_blocked():
    made = job([[("102", "25.6")]], frequencies_hz=(7e6, 14e6))

    blocked = with_block(made, "p2", "no licence there")

    assert reduce(made).missing == 1
    assert reduce(blocked).missing == 0
    assert not blocked.is_wanted(Slot("p2", 1, 0))
    with pytest.raises(OutOfRangeError):
        with_block(made, "p1", "why not")


def test_a_skipped_round_is_not_missing_until_it_is_restored():
    made = job(frequencies_hz=(7e6,))
    skip = made.with_event(Event("s", EventKind.SKIP, WHEN, reason="load too hot", slot=Slot("p1", 1, 0)))
    back = skip.with_event(Event("r", EventKind.RESTORE, WHEN, target="s"))

    assert (reduce(made).missing, reduce(skip).missing, reduce(back).missing) == (1, 0, 1)


def test_what_the_hook_up_can_not_serve_is_said_with_the_number():
    made = job(frequencies_hz=(7e6,), level_w=100.0)
    plan = (*made.plan, replace(made.plan[0], id="p2", target_w=230.0), replace(made.plan[0], id="p3", range_id="20"))

    found = cannot_serve(replace(made, plan=plan))

    assert "p1" not in found
    assert "beyond range" in found["p2"]
    assert "beyond range 20" in found["p3"]


def test_frequencies_outside_the_meters_span_can_not_be_served():
    from fenmist.kit import shelf
    from studies.builders import arc

    made = job(frequencies_hz=(0.47e6, 7e6), level_w=20.0)
    narrow = shelf.inline_meter("meter", "Bittern", (20.0, 200.0), arc(), 0.05, span_hz=(1.8e6, 30e6))
    open_ended = tuple(replace(port, frequency_max_hz=None) for port in narrow.ports)
    assert cannot_serve(made.with_part(replace(narrow, ports=open_ended))) == {}

    assert list(cannot_serve(made.with_part(narrow))) == ["p1"]
