"""Curves between the points read, and ranges that should meet, against SciPy and the simulated arithmetic."""

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy.interpolate import pchip_interpolate

from fenmist.calibration.edit import plan_with_cell, with_as_left
from fenmist.calibration.gather import end_part
from fenmist.errors import OutOfRangeError
from fenmist.kit.impedance import IMPEDANCE
from fenmist.kit.part import PartKind
from fenmist.methods.power_from_volts import PowerRequest
from fenmist.procedures.comparison.asked import job_draft, job_from_draft
from fenmist.procedures.comparison.curve import curves_over_frequency
from fenmist.procedures.comparison.factors import _apart
from fenmist.procedures.comparison.handover import with_parts_of
from fenmist.procedures.comparison.make import plan_points
from fenmist.procedures.comparison.overlap import overlaps
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.surface import not_worth_using, stands_for, surfaces, would_show
from fenmist.reading.event import AS_LEFT, Slot
from studies.builders import enter, job

FREQUENCIES = (2e6, 8e6, 16e6)


def read(errors, frequencies=FREQUENCIES, levels=(50.0,), range_id="200"):
    """A meter with one ratio a point in 50 Ω."""
    made = replace(job([], load="50"), plan=plan_points(frequencies, levels, range_id))
    for point, error in zip(made.plan, errors, strict=True):
        made = enter(made, Slot(point.id, 1, 0), f"{math.sqrt(8 * 50 * point.target_w):.6g}")
        made = enter(made, Slot(point.id, 1, 1), f"{point.target_w * error:.6g}")
    return made


def test_a_curve_goes_through_its_points_and_is_scipys_between_them():
    """The oscilloscope's 1 MΩ takes 0.005 % of the power."""
    curve = curves_over_frequency(reduce(read((1.0, 0.97, 0.9))))[0]

    assert curve.at(8e6).ratio == pytest.approx(0.97, rel=1e-4)
    assert curve.at(8e6).measured
    wanted = math.exp(pchip_interpolate(np.array(FREQUENCIES), np.log([1.0, 0.97, 0.9]), 12e6))
    assert curve.at(12e6).ratio == pytest.approx(float(wanted), rel=1e-4)
    assert curve.at(12e6).factor == pytest.approx(1 / float(wanted), rel=1e-4)


def test_between_points_it_is_less_certain_than_at_them():
    curve = curves_over_frequency(reduce(read((1.0, 0.97, 0.9))))[0]
    widths = [curve.at(f).ratio_interval[1] / curve.at(f).ratio_interval[0] for f in (8e6, 10e6, 12e6)]

    assert widths[0] < widths[1] < widths[2]


def test_a_curve_never_swings_past_its_points():
    curve = curves_over_frequency(reduce(read((1.0, 1.0, 0.9))))[0]
    ratios = [curve.at(f).ratio for f in np.linspace(2e6, 16e6, 101)]

    assert max(ratios) <= 1.0 + 1e-9
    assert min(ratios) >= 0.9 - 1e-4


def test_the_drawn_curve_passes_all_points_and_lies_between_neighbours():
    curve = curves_over_frequency(reduce(read((1.0, 0.97, 0.9))))[0]
    drawn = curve.drawn(10)

    assert len(drawn) == len(dict(drawn)) == 21
    assert np.diff([x for x, _ in drawn]) == pytest.approx([0.6e6] * 10 + [0.8e6] * 10)
    assert dict(drawn)[8e6] == pytest.approx(curve.at(8e6).ratio)
    assert [ratio for _, ratio in drawn] == sorted((ratio for _, ratio in drawn), reverse=True)


@pytest.mark.parametrize("f", [1.99e6, 16.1e6, 0.0])
def test_outside_of_what_was_read_nothing_is_said(f):
    with pytest.raises(OutOfRangeError, match="Nothing was read"):
        curves_over_frequency(reduce(read((1.0, 0.97, 0.9))))[0].at(f)


def test_one_curve_for_each_level():
    curves = curves_over_frequency(reduce(read((1.0, 0.99, 0.97, 0.96), FREQUENCIES[:2], (50.0, 100.0))))

    assert [curve.fixed for curve in curves] == [50.0, 100.0]
    assert curves[1].x == pytest.approx([2e6, 8e6])
    assert [curve.at(8e6).ratio for curve in curves] == pytest.approx([0.97, 0.96], rel=1e-4)


def test_what_is_no_reference_makes_no_curve():
    made = read((1.0, 0.97, 0.9))
    scope = made.part("scope")
    bandwidth = replace(scope.properties["bandwidth_hz"], value=30e6)
    slow = replace(scope, properties={**scope.properties, "bandwidth_hz": bandwidth})

    assert curves_over_frequency(reduce(made.with_part(slow)))[0].x == pytest.approx([2e6, 8e6])


def test_two_ranges_share_their_reference():
    """The difference's u is what two dials can be read to; the reference's 3.5 % drops out."""
    made = read((1.0,), (7e6,), (18.0,), "20")
    other = replace(made.plan[0], id="p2", range_id="200")
    made = replace(made, plan=(*made.plan, other))
    made = enter(made, Slot("p2", 1, 0), f"{math.sqrt(8 * 50 * 18):.6g}")
    made = enter(made, Slot("p2", 1, 1), "18.4")
    found = overlaps(reduce(made))

    assert len(found) == 1
    assert found[0].difference == pytest.approx(math.log(18 / 18.4), rel=1e-3)
    # quarter of a division: 2.5/4·0.1… on the 20 W range at 18 (printed 180, 10 a division), 5 W on the 200 W one
    u = math.hypot(0.25 / math.sqrt(3) / 18, 1.25 / math.sqrt(3) / 18.4)
    assert found[0].expanded_u == pytest.approx(2 * u, rel=0.02)


def test_levels_far_apart_are_not_compared():
    made = read((1.0, 1.0), (7e6,), (18.0, 100.0), "200")

    assert overlaps(reduce(made)) == ()


@pytest.mark.parametrize(("watts", "f", "truth"), [(50.0, 8e6, 50 / 0.97), (40.0, 8e6, 40 / 0.97), (99.0, 2e6, 99.0)])
def test_a_reading_is_looked_up(watts, f, truth):
    found = stands_for(reduce(read((1.0, 0.97, 0.9))), watts, f)

    assert found.value_w == pytest.approx(truth, rel=1e-4)
    assert found.interval_w[0] < truth < found.interval_w[1]
    assert found.found.at.measured


@pytest.mark.parametrize(("watts", "f"), [(10.0, 8e6), (101.0, 8e6), (50.0, 30e6)])
def test_what_was_not_read_is_not_looked_up(watts, f):
    with pytest.raises(OutOfRangeError, match="Nothing was read"):
        stands_for(reduce(read((1.0, 0.97, 0.9))), watts, f)


# level and frequency at once


def test_between_two_levels_the_logarithms_go_straight():
    """±0 at 20 W, 6 % low at 80 W: at 40 W, half-way in its logarithm, √0.94; what is left open is full there."""
    made = reduce(read((1.0, 0.94, 1.0, 0.94), (4e6, 16e6), (20.0, 80.0)))
    shown = would_show(made, 40.0, 8e6)

    assert shown.value_w / 40.0 == pytest.approx(math.sqrt(0.94), rel=1e-4)
    assert stands_for(made, shown.value_w, 8e6).value_w == pytest.approx(40.0, rel=1e-4)
    ends = would_show(made, 20.0, 8e6), would_show(made, 80.0, 8e6)
    low, high, here = (math.log(item.interval_w[1] / item.interval_w[0]) / 2 for item in (*ends, shown))
    bend = abs(math.log(0.94)) / math.sqrt(3.0)  # half of the change as a limit, k = 2
    assert here == pytest.approx(math.hypot((low + high) / 2, bend), rel=0.02)


def _crossed(corner, top_w=90.0, more=()):
    """A row at 50 W over 2 to 16 MHz, a column at 2 MHz over 10 W to the top, and so many corner points."""
    row = {(f, 50.0): over for f, over in zip((2e6, 4e6, 8e6, 16e6), (1.0, 0.99, 0.97, 0.9), strict=True)}
    column = {(2e6, 10.0): 0.92, (2e6, top_w): 1.02}
    corners = {(4e6, 10.0): 0.99 * 0.92, (8e6, 10.0): 0.97 * 0.92, (4e6, top_w): 0.99 * 1.02 * corner}
    made = {**row, **column, **corners, **dict.fromkeys(more, 1.0)}
    plan = [replace(plan_points((f,), (w,), "200")[0], id=f"p{n}") for n, (f, w) in enumerate(made)]
    job_of = replace(job([], load="50"), plan=tuple(plan), part_of_division=0.01)
    for point, ratio in zip(plan, made.values(), strict=True):
        job_of = enter(job_of, Slot(point.id, 1, 0), f"{math.sqrt(8 * 50 * point.target_w):.6g}")
        job_of = enter(job_of, Slot(point.id, 1, 1), f"{point.target_w * ratio:.6g}")
    return reduce(job_of)


def test_level_and_frequency_are_taken_apart_where_three_corners_agree():
    """At 16 MHz only 50 W was read: 10 W there is 0.9 times 0.92, by what 10 W did at 2 MHz."""
    made = _crossed(1.0)
    (surface,) = surfaces(made)
    assert len(surface.corners) == 3
    assert surface.is_separable
    assert surface.span(16e6) == (10.0, 100.0)  # 50 W by a factor of two, 10 to 90 W by the column
    assert surface.span(2e6) == (5.0, 180.0)
    assert surfaces(_crossed(1.0, 140.0))[0].span(16e6) == pytest.approx((10.0, 140.0))
    beyond = surfaces(_crossed(1.0, more=((8e6, 190.0), (16e6, 190.0))))[0]
    assert beyond.is_separable
    assert beyond.span(16e6) == pytest.approx((25.0, 380.0))  # the column says nothing of 190 W

    shown = would_show(made, 10.0, 16e6)
    assert shown.value_w == pytest.approx(10.0 * 0.9 * 0.92, rel=1e-3)
    assert shown.found.way == "level and frequency taken apart"
    assert stands_for(made, shown.value_w, 16e6).value_w == pytest.approx(10.0, rel=1e-3)
    known = would_show(made, 50.0, 16e6), would_show(made, 10.0, 2e6)
    for side in (0, 1):  # each as well as it is known, as roots of squares in the logarithm
        one, other, both = (abs(math.log(item.interval_w[side] / item.value_w)) for item in (*known, shown))
        assert both == pytest.approx(math.hypot(one, other), rel=1e-3)


def test_level_and_frequency_are_not_taken_apart_where_a_corner_is_off():
    """One of three corners 5 % off, with what all share taken out: nothing is said of 10 W at 16 MHz."""
    made = _crossed(1.05)
    (surface,) = surfaces(made)

    assert not surface.is_separable
    assert [item.agrees for item in surface.corners].count(False) == 1
    assert next(item.off for item in surface.corners if not item.agrees) == pytest.approx(math.log(1.05), abs=1e-3)
    with pytest.raises(OutOfRangeError, match="Nothing was read near 10"):
        would_show(made, 10.0, 16e6)


def test_two_corners_are_not_enough():
    made = reduce(read((1.0, 0.99, 0.92, 0.92 * 0.99), (2e6, 4e6), (10.0, 50.0)))

    assert not surfaces(made)[0].is_separable


def test_a_meter_that_reads_a_third_is_looked_up_by_what_it_shows():
    """50 W read as 17 W: 17 W shown stands for 50 W, though 17 W is far from any level."""
    made = reduce(read((0.34, 0.9, 1.0)))

    assert stands_for(made, 17.0, 2e6).value_w == pytest.approx(50.0, rel=1e-3)
    (said,) = not_worth_using(made)
    assert said.startswith("At 2\u202fMHz it reads about a third (multiply by 2.94 ± 0.")


def test_neighbouring_frequencies_where_it_is_far_off_are_one_span():
    made = reduce(read((0.34, 0.45, 1.0, 2.2), (2e6, 4e6, 8e6, 16e6)))
    first, second = not_worth_using(made)

    assert first.startswith("Between 2\u202fMHz and 4\u202fMHz it reads from about a third (multiply by 2.94")
    assert "to 45\u202f% (multiply by 2.2" in first
    assert second.startswith("At 16\u202fMHz it reads 2.2 times too much (multiply by 0.45")


# the order of a round, the stated plane, the phase


def test_the_order_of_a_round_is_chosen_for_points_not_yet_begun():
    made = read((1.0,), (7e6,))
    made = replace(made, plan=(*made.plan, replace(made.plan[0], id="p2")))
    draft = {**job_draft(made), "order": "REF-DUT-REF"}
    changed = job_from_draft(made, draft)

    assert [len(point.sequence) for point in changed.plan] == [2, 3]
    assert changed.plan[1].sequence == ("scope", "meter", "scope")
    assert job_draft(changed)["order"] == "REF-DUT-REF"


def test_the_order_chosen_before_anything_is_planned_holds_for_what_is_planned():
    made = job_from_draft(replace(job(), plan=()), {**job_draft(job()), "order": "DUT-REF-DUT"})

    assert plan_with_cell(made, 0, 0, "7 MHz").plan[0].sequence == ("meter", "scope", "meter")


def test_power_stated_at_the_meters_input_is_larger_by_its_own_loss():
    made = read((1.0,), (7e6,))
    meter = made.part("meter")
    loss = replace(meter.properties["loss_db"], value=0.2)
    made = made.with_part(replace(meter, properties={**meter.properties, "loss_db": loss}))
    at_output = reduce(made).points[0]
    changed = job_from_draft(made, {**job_draft(made), "stated": "the meter's input"})
    at_input = reduce(changed).points[0]

    assert at_input.reference_w / at_output.reference_w == pytest.approx(10**0.02, rel=1e-9)
    assert changed.stated.plane == changed.hookups[0].stated
    assert "meter.loss" in [row.influence.id for row in reduce(changed).budget("p1") if row.share > 0]
    back = job_from_draft(changed, {**job_draft(changed), "stated": "the meter's output"})
    assert (back.hookups, back.channels) == (made.hookups, made.channels)


def test_readings_as_left_are_reduced_apart():
    made = with_as_left(read((0.9,), (7e6,)))
    made = enter(enter(made, Slot("p1", 1, 0, AS_LEFT), "141.42"), Slot("p1", 1, 1, AS_LEFT), "50")

    assert reduce(made).points[0].ratio == pytest.approx(0.9, rel=1e-4)
    assert reduce(made, AS_LEFT).points[0].ratio == pytest.approx(1.0, rel=1e-4)
    assert with_as_left(made) is made


def test_what_if_moves_u_as_the_share_predicts():
    """Halving an input's u takes three quarters of its share out of the variance."""
    made = read((1.0,), (7e6,))
    plain = reduce(made).points[0]
    row = reduce(made).budget("p1")[0]
    halved = reduce(made, known={row.influence.id: 0.5}).points[0]

    assert halved.u_error_w / plain.u_error_w == pytest.approx(math.sqrt(1 - 0.75 * row.share), rel=1e-6)
    assert halved.error_w == pytest.approx(plain.error_w, rel=1e-9)


def test_a_level_that_was_read_stands_as_it_was_read_though_others_were_too():
    made = read((1.0, 0.96, 0.98, 0.9, 0.86, 0.88), FREQUENCIES[:2], (20.0, 50.0, 100.0))
    (surface,) = surfaces(reduce(made))

    assert surface.at(2e6, 50.0).at.ratio == pytest.approx(0.96, rel=1e-3)
    assert len({surface.at(2e6, level).way for level in (20.0, 50.0, 100.0)}) == 1
    assert surface.at(2e6, 70.0).way == "between the levels read"


@pytest.mark.parametrize(("usual", "levels", "used"), [
    ((50.0, 100.0), (15.0, 20.0), "200"), ((50.0, 100.0), (0.05, 15.0), "200"), ((100.0, 150.0), (2.0, 18.0), "20"),
], ids=["nearer", "far below and just below", "within a factor of two alone"])  # fmt: skip
def test_the_range_on_which_a_power_is_usual_is_asked_first_where_it_reaches_there(usual, levels, used):
    """30 W belongs on the 200 W range, read from 50 to 100 W: within a factor of two; from 100 W on it isn't."""
    made = read((0.9, 0.9), (7e6,), usual)
    low = tuple(replace(item, id=f"q{n}") for n, item in enumerate(plan_points((7e6,), levels, "20")))
    made = replace(made, plan=(*made.plan, *low))
    for point in low:
        made = enter(made, Slot(point.id, 1, 0), f"{math.sqrt(8 * 50 * point.target_w):.6g}")
        made = enter(made, Slot(point.id, 1, 1), f"{point.target_w:.6g}")

    assert would_show(reduce(made), 30.0, 7e6).range_id == used


def test_a_reading_at_the_very_end_of_what_is_known_is_looked_up():
    made = reduce(read((1.0, 0.97, 0.9)))
    (surface,) = surfaces(made)
    low, high = surface.span(8e6)

    assert (low, high) == (25.0, 100.0)
    assert stands_for(made, 100.0 * surface.at(8e6, 100.0).at.ratio, 8e6).value_w == pytest.approx(100.0, rel=1e-5)
    assert stands_for(made, 25.0 * surface.at(8e6, 25.0).at.ratio, 8e6).value_w == pytest.approx(25.0, rel=1e-5)


def test_what_is_planned_is_read_once_unless_said():
    assert [point.repeats for point in plan_points((7e6, 8e6), (50.0,), "200")] == [1, 1]


def test_a_level_that_is_nearly_one_that_was_read_is_as_it_was_read():
    """9.95 W beside 10 W that was read; 7 W is taken by the curve of 10 W."""
    made = reduce(read((1.0, 0.99, 0.97), (2e6, 4e6, 8e6), (10.0,)))

    assert would_show(made, 10.0, 2e6).found.way == would_show(made, 9.95, 2e6).found.way
    assert would_show(made, 7.0, 2e6).found.way.startswith("by the curve at 10")


def test_of_several_ranges_each_is_named_where_level_and_frequency_hang_together():
    (surface,) = surfaces(_crossed(1.05))

    assert ["of range 200" in said for said in _apart((surface, surface))] == [True, True]
    assert ["of range" in said for said in _apart((surface,))] == [False]


def test_what_the_tool_describes_takes_the_place_of_the_jobs_own_parts():
    """A load of 45 + j12 Ω at 7 MHz: a table of its own beside what else is known of that load."""
    request = PowerRequest("100 Vpp", "45+j12", "7 MHz", lead="0.3 m", bandwidth="50 MHz")
    made = with_parts_of(job(), request, request())
    tables = [item for item in end_part(made).characterisations if item.quantity == IMPEDANCE]

    assert [(item.frequency_hz, item.real, item.imag) for item in tables] == [((7e6,), (45.0,), (12.0,))]
    feed = next(part for part in made.kit if part.kind is PartKind.LEAD)
    scope = next(part for part in made.kit if part.kind is PartKind.OSCILLOSCOPE)
    assert feed.properties["length_m"].value == 0.3
    assert scope.properties["bandwidth_hz"].value == 50e6
