"""From readings to errors."""

import math
import statistics
from dataclasses import replace

import numpy as np
import pytest

from fenmist.calibration.again import FOR_NOW, TO_DRAW
from fenmist.calibration.expected import expected_si
from fenmist.calibration.gather import stated_at_input
from fenmist.calibration.job import Job
from fenmist.hookup.editing import inserted
from fenmist.kit import shelf
from fenmist.kit.generic import generics
from fenmist.kit.part import PartKind, SpecKind, SpecTerm
from fenmist.procedures.benchwork import with_line
from fenmist.procedures.comparison.asked import job_draft, job_from_draft
from fenmist.procedures.comparison.card import card
from fenmist.procedures.comparison.correction import correction_table
from fenmist.procedures.comparison.headline import error_shown
from fenmist.procedures.comparison.make import cross_check, plan_points
from fenmist.procedures.comparison.reduction import RUN_TRIALS, predict, reduce
from fenmist.procedures.comparison.room import COMPARISON
from fenmist.procedures.comparison.tables import result_table
from fenmist.procedures.comparison.why import why_of
from fenmist.procedures.procedure import Seen
from fenmist.procedures.table import procedure_of
from fenmist.reading.event import AS_FOUND, Event, EventKind, Slot
from fenmist.units.unit import UNITS
from studies.builders import WHEN, bench_kit, enter, job
from studies.references import behind_a_pad, three_at_once

ROUNDS = [("102 Vpp", "25.6"), ("103 Vpp", "26.2"), ("101 Vpp", "25.0")]


def test_rounds_are_averaged_as_log_ratios_so_that_a_drifting_carrier_drops_out():
    steady = reduce(job([[("100 Vpp", "25"), ("100 Vpp", "25")]])).points[0]
    drifting = reduce(job([[("100 Vpp", "25"), ("80 Vpp", "16")]])).points[0]

    assert drifting.ratio == pytest.approx(steady.ratio)


def test_the_meters_own_accuracy_is_what_is_sought_not_a_line_of_the_budget():
    ids = {row.influence.id for row in reduce(job([ROUNDS])).budget("p1")}

    assert "meter.reading" in ids
    assert not any("accuracy" in name for name in ids)


def test_every_part_between_meter_and_tee_has_a_line_of_its_own():
    """0.3 dB ± 0.1 dB and 0.2 dB ± 0.06 dB, and the second once more: rectangular, each by its own name."""
    made, parts = job([ROUNDS]), (shelf.jumper("long", "Long", 0.3, 0.1), shelf.jumper("short", "Short", 0.2, 0.06))
    without = reduce(made).points[0].reference_w
    for part in (parts[0], parts[1], parts[1]):
        made = with_line(made, inserted(made.hookups[0], "meter", "out", part), [part])
    point = reduce(made).points[0]
    rows = {row.influence.id: row for row in reduce(made).budget("p1") if row.influence.id.endswith(".loss")}

    assert 10 * math.log10(point.reference_w / without) == pytest.approx(0.7)
    assert sorted((row.influence.label, row.influence.source_id) for row in rows.values()) == [
        ("Long, loss", "long"), ("Short (jumper 3), loss", "short@jumper 3"), ("Short, loss", "short"),
    ]  # fmt: skip
    for name, limit_db in (("long.loss", 0.1), ("short.loss", 0.06)):
        u = limit_db / math.sqrt(3) * math.log(10) / 10 * point.reference_w
        assert rows[name].contribution == pytest.approx(u, rel=1e-3)


def test_a_struck_entry_changes_the_result_and_restoring_brings_it_back():
    made = job([ROUNDS])
    before = reduce(made).points[0]
    slip = made.events[-1]

    struck = made.with_event(Event("s", EventKind.STRIKE, WHEN, target=slip.id, reason="misread"))
    restored = struck.with_event(Event("r", EventKind.RESTORE, WHEN, target=slip.id))

    assert reduce(struck).points[0].rounds == 2
    assert reduce(restored).points[0] == before


def test_an_open_entry_and_a_bound_stay_out_of_the_result():
    made = job([[("102 Vpp", "25.6"), ("102 Vpp", "1,250"), ("102 Vpp", "off scale")]])
    result = reduce(made)

    assert result.points[0].rounds == 1
    assert (result.readings[0].open_entries, result.readings[0].bounded) == (1, 1)
    assert result.missing == 2


def test_a_point_without_a_pair_has_no_result_yet():
    result = reduce(job([[("102 Vpp", "")]]))

    assert result.points == ()
    assert not result.complete


@pytest.mark.parametrize(("term", "expected"), [
    (SpecTerm(SpecKind.OF_RANGE, 0.05), 10.0), (SpecTerm(SpecKind.OF_READING, 0.05), 0.05 * 22.65),
    (SpecTerm(SpecKind.ABSOLUTE, 2.0, "W"), 2.0), (SpecTerm(SpecKind.DB, 0.5), 22.65 * (10**0.05 - 1)),
], ids=lambda term: str(getattr(term, "kind", "")))  # fmt: skip
def test_the_tolerance_is_what_its_kind_says(term, expected):
    made = replace(job([[("102 Vpp", "25.6")]]), tolerance=term)

    assert reduce(made).points[0].tolerance_w == pytest.approx(expected, rel=1e-3)


def test_limits_of_the_method_stand_in_the_record():
    made = job([[("102 Vpp", "25.6")]], bandwidth_hz=20e6)
    method = replace(made.method, parameters={**made.method.parameters, "reference_limit": 0.5})

    assert reduce(replace(made, method=method)).points[0].is_reference


def test_three_hundred_points_are_reduced_at_once():
    texts = [[("102 Vpp", "25.6")]] * 300
    result = reduce(job(texts, frequencies_hz=np.linspace(2e6, 30e6, 300)))

    assert len(result.points) == 300
    assert result.error.covariance().shape == (300, 300)


def _sign_unknown():
    """Of |Z| and SWR alone the sign of the reactance, and so the match with the lead, stays open."""
    return job([[("102", "25.6")]], load="|57.7| swr 1.9", lead_m=0.3, frequencies_hz=(28e6,))


def test_where_the_linear_picture_fails_the_interval_is_drawn():
    point = reduce(_sign_unknown()).points[0]
    low, high = point.error_interval_w

    inside = RUN_TRIALS * point.decision.conformance_probability  # counted, not taken from a normal distribution

    assert point.engine == "Monte Carlo"
    assert low < point.error_w < high
    assert inside == pytest.approx(round(inside), abs=1e-6)
    assert 0 < inside < RUN_TRIALS
    assert point.expanded_u_w == pytest.approx((high - low) / 2)


def test_a_few_rounds_leave_a_drawn_point_a_sensible_coverage_factor():
    """A t with two degrees of freedom has no standard deviation: u follows from the interval."""
    rounds = [("102", "25.6"), ("102", "26"), ("102", "25.2")]
    point = reduce(job([rounds], load="|57.7|", lead_m=0.3, frequencies_hz=(14e6,))).points[0]

    assert point.engine == "Monte Carlo"
    assert 2.0 <= point.k < 2.6


def test_a_drawn_interval_is_symmetric_in_probability_or_the_shortest_and_u_is_half_of_it_over_k():
    """All is known to infinitely many degrees of freedom: k is 2."""
    even, short = (reduce(replace(_sign_unknown(), shortest_interval=it)).points[0] for it in (False, True))

    assert short.expanded_u_w < even.expanded_u_w
    assert even.u_error_w == pytest.approx(even.expanded_u_w / 2.0, rel=1e-4)
    assert even.k == pytest.approx(2.0, rel=1e-4)


def test_a_billionth_of_the_reference_is_nothing_shown():
    """It can't be told from the stop: of some 25 W below 25 nW."""
    point = reduce(job([[("102", "25.6")]])).points[0]
    parts = (0.9e-9, 1.1e-9, 1e-3)

    said = [replace(point, indicated_w=part * point.reference_w).shows_nothing for part in parts]
    assert said == [True, False, False]


def test_drawn_results_are_the_same_each_time():
    assert reduce(_sign_unknown()).points == reduce(_sign_unknown()).points


def test_a_wide_scatter_is_asymmetric_in_per_cent_and_never_below_nothing():
    """Products are propagated as logarithms: the interval of the ratio is a factor either way."""
    point = reduce(job([[("102", "25.6"), ("102", "70"), ("102", "40")]])).points[0]
    low, high = point.ratio_interval

    assert point.engine == "linear"
    assert 0 < low < point.ratio < high
    assert high / point.ratio == pytest.approx(point.ratio / low)


def test_only_the_points_that_bend_are_drawn():
    table = [(3e6, "50+j1"), (28e6, "|57.7| swr 1.9")]
    made = job([[("102", "25.6")], [("102", "25.6")]], load=table, lead_m=0.3, frequencies_hz=(3e6, 28e6))

    assert [point.engine for point in reduce(made).points] == ["linear", "Monte Carlo"]


def test_a_needle_near_its_stop_is_drawn_and_its_ratio_is_never_below_nothing():
    point = reduce(job([[("20", "1")]], level_w=1.0)).points[0]

    assert point.engine == "Monte Carlo"
    assert point.ratio_interval[0] > 0


def test_reduce_after_one_entry_equals_reduce_from_scratch():
    """Points whose readings didn't change are taken over; every number is what working it all out again gives."""
    frequencies = (2e6, 7e6, 14e6, 28e6)
    before = job([[("102", "25.6")]] * 4, frequencies_hz=frequencies, lead_m=0.3)
    former = reduce(before)
    after = enter(enter(before, Slot("p2", 2, 0), "101"), Slot("p2", 2, 1), "25.2")

    found, scratch = reduce(after, former=former), reduce(after)

    assert [item.point.id for item in found.points] == [item.point.id for item in scratch.points]
    assert found.points[0] is former.points[0]
    for one, other in zip(found.points, scratch.points, strict=True):
        assert one.error_w == pytest.approx(other.error_w, rel=1e-10)
        assert one.expanded_u_w == pytest.approx(other.expanded_u_w, rel=1e-10)
    assert found.log_ratio.u == pytest.approx(scratch.log_ratio.u, rel=1e-10)
    back = reduce(before, former=found)  # what was read meanwhile isn't part of it
    assert [item.error_w for item in back.points] == [item.error_w for item in former.points]


def test_all_points_together_are_joined_of_what_was_made_entry_by_entry():
    """Two levels at one frequency and a point at another, with three references: as if worked out all at once.

    What faces each other in an open phase has one error at a frequency; a scatter is each point's own.
    """
    made = three_at_once()
    places = (("p1", 7e6, 80.0), ("p2", 7e6, 40.0), ("p3", 14e6, 80.0))
    first = made.plan[0]
    made = replace(made, plan=tuple(replace(first, id=n, frequency_hz=f, target_w=w) for n, f, w in places))
    shown = {"o": "63", "e": "600 mW", "s": "60 mW", "m": "78"}
    found = reduce(made)
    for number, point in enumerate(made.plan):
        for position, name in enumerate(point.sequence):
            made = enter(made, Slot(point.id, 1, position), shown[name])
            found = reduce(made, former=found, most=None if number % 2 else 0)
        assert found.quantities
    made = enter(made, Slot("p1", 1, 3), "77")
    found, scratch = reduce(made, former=found), reduce(made)

    for name, whole in scratch.quantities.items():
        joined = found.quantities[name]
        assert joined.value == pytest.approx(whole.value, rel=1e-10)
        assert joined.dof == pytest.approx(whole.dof, rel=1e-8)
        assert joined.covariance() == pytest.approx(whole.covariance(), rel=1e-8)
    assert why_of(found).fits[0].seen.reads_volts  # one of the three does
    known = found.log_ratio.inputs.by_id
    mismatch = next(item for item in known.values() if item.id.endswith("mismatch"))
    assert mismatch.sharing[0] == mismatch.sharing[1] != mismatch.sharing[2]


def test_at_once_nothing_is_drawn_and_what_was_left_is_drawn_later():
    table = [(3e6, "50+j1"), (28e6, "|57.7| swr 1.9")]
    made = job([[("102", "25.6")], [("102", "25.6")]], load=table, lead_m=0.3, frequencies_hz=(3e6, 28e6))
    at_once = COMPARISON.in_steps(made, AS_FOUND, {}, None, 0)
    later = reduce(made, former=at_once)

    assert {point.engine for point in at_once.points} == {FOR_NOW}
    assert [point.engine for point in later.points] == ["linear", "Monte Carlo"]
    assert [point.error_interval_w for point in later.points] == [
        point.error_interval_w for point in reduce(made).points
    ]
    assert reduce(made, former=later, most=0).points[1] is later.points[1]


@pytest.mark.parametrize("count", [1, 2, 3])
def test_what_is_foretold_of_readings_is_what_they_say_to_first_order_and_nothing_is_drawn(count):
    table = [(3e6, "50+j1"), (14e6, "|57.7| swr 1.9"), (28e6, "|57.7| swr 1.9")]
    made = job([[("102", "25.6")]] * count, load=table, lead_m=0.3, frequencies_hz=(14e6, 21e6, 28e6)[:count])

    assert predict(made) == tuple(point.stated for point in reduce(made, most=0).points)
    assert [row.engine for row in predict(made)] == [FOR_NOW] * count


def test_one_after_the_other_is_drawn_and_all_of_them_are_what_they_are_at_once():
    """Three of four bend; together none is drawn. What doesn't bend is never looked at again, nor what waits."""
    table = [(3e6, "50+j1"), (14e6, "|57.7| swr 1.9"), (28e6, "|57.7| swr 1.9")]
    made = job([[("102", "25.6")]] * 4, load=table, lead_m=0.3, frequencies_hz=(3e6, 14e6, 21e6, 28e6))
    steps = [reduce(made, most=1)]
    while any(point.engine == TO_DRAW for point in steps[-1].points):
        steps.append(reduce(made, former=steps[-1], most=1))
    whole = reduce(made)

    assert [[point.engine for point in step.points] for step in steps] == [
        ["linear", *["Monte Carlo"] * drawn, *[TO_DRAW] * (3 - drawn)] for drawn in (0, 1, 2, 3)
    ]  # fmt: skip
    assert [one is other for one, other in zip(steps[1].points, steps[2].points, strict=True)] == [
        True, True, False, True
    ]  # fmt: skip
    assert [point.stated for point in steps[3].points] == [point.stated for point in whole.points]
    assert steps[3].log_ratio.u == pytest.approx(whole.log_ratio.u, rel=1e-10)
    assert [point.engine for point in reduce(made, former=steps[1]).points] == [point.engine for point in whole.points]


def test_reduce_after_another_tolerance_takes_nothing_over():
    before = job([[("102", "25.6")]])
    former = reduce(before)

    found = reduce(replace(before, part_of_division=0.5), former=former)

    assert found.points[0] is not former.points[0]
    assert found.points[0].expanded_u_w != former.points[0].expanded_u_w


@pytest.mark.parametrize("meter", [p for p in generics() if p.kind is PartKind.INLINE_METER], ids=lambda part: part.id)
def test_a_meter_of_any_make_can_be_the_device(meter):
    """A display without an arc, two needles, a pair of ports per band: read against the scope all the same."""
    kit = [meter, *(part for part in bench_kit() if part.kind is not PartKind.INLINE_METER)]
    made = cross_check(
        "job", "a job", kit, plan_points([7e6], [20.0], meter.indicators[0].ranges[-1].id), created_at=WHEN
    )
    for place, text in enumerate(("102 Vpp", "22.0")):
        made = enter(made, Slot("p1", 1, place), text)

    (point,) = reduce(made).points
    assert point.error_fraction == pytest.approx(22.0 / 22.65 - 1.0, abs=0.002)
    assert made.tolerance == meter.indicators[0].stated[0]
    agreed = SpecTerm(SpecKind.OF_READING, 0.02)
    other = cross_check("job", "a job", kit, (), agreed, created_at=WHEN)
    assert (other.tolerance, other.tolerance_more) == (agreed, ())
    moved = job_from_draft(made, {**job_draft(made), "stated": "the meter's input"})
    assert isinstance(moved, Job) and stated_at_input(moved)
    assert moved.hookups[0].stated.port == meter.ends[0]
    assert moved.device_channel.measurand.plane == moved.stated.plane


def test_a_meter_that_shows_nothing_is_off_by_all_of_it():
    """22.65 W and a display at 0.0, 0.3 and 0.0 W: 0.1 W in the mean, u = 0.173/√3 = 0.1 W from its scatter."""
    result = reduce(job([[("102 Vpp", "0.0"), ("102 Vpp", "0.3"), ("102 Vpp", "0.0")]]))
    (point,) = result.points
    rows = {row.influence.id: row for row in result.budget("p1")}

    assert point.rounds == 3
    assert point.indicated_w == pytest.approx(0.1)
    assert point.error_w == pytest.approx(0.1 - point.reference_w)
    assert rows["repeat.meter"].contribution == pytest.approx(0.1, rel=1e-6)
    assert rows["repeat.meter"].influence.dof[0] == 2
    assert "repeat" not in rows  # the reference showed the same each time


def test_of_a_meter_at_nothing_the_scatter_of_its_reference_counts_as_well():
    """102, 104 and 106 Vpp beside 0 W: ln P scatters by 2·ln(106/102)/2, a third of it less over three rounds."""
    result = reduce(job([[("102 Vpp", "0"), ("104 Vpp", "0"), ("106 Vpp", "0")]]))
    rows = {row.influence.id: row for row in result.budget("p1")}
    logs = [2.0 * math.log(volts) for volts in (102, 104, 106)]

    u = statistics.stdev(logs) / math.sqrt(3.0)
    assert rows["repeat"].contribution == pytest.approx(u * result.points[0].reference_w, rel=1e-3)


def test_of_a_meter_at_nothing_neither_factor_nor_decibels_are_given():
    made = job([[("102 Vpp", "0")]])
    result = reduce(made)
    (point,) = result.points

    assert (point.indicated_w, point.error_db, point.factor) == (0.0, -math.inf, math.inf)
    assert error_shown(point) == "nothing"
    assert correction_table(result, "x", "2026-01-01") is None
    assert card(made, result, "lid").rows[0][1] == "shows nothing"
    headings, row = result_table(result)
    named = dict(zip(headings, row, strict=True))
    assert (named["error / dB"], named["correction factor"]) == ("", "")
    assert named["error / %"] == pytest.approx(-100.0)


@pytest.mark.parametrize("watts", ["0", "80"])
@pytest.mark.parametrize("milliwatts", [("0", "0", "0"), ("4", "-5", "3"), ("-1", "-2", "800"), ("800", "0", "800")])
def test_whatever_shows_nothing_is_worked_out_and_judged(watts, milliwatts):
    made = behind_a_pad()
    made = replace(made, plan=tuple(replace(point, repeats=3) for point in made.plan))
    for number, text in enumerate(milliwatts, start=1):
        made = enter(enter(made, Slot("p1", number, 0), f"{text} mW"), Slot("p1", number, 1), watts)
    room = procedure_of(made)
    result = room.reduce(made, AS_FOUND, {}, None)
    notes = {note.code for note in room.judge(made, result, WHEN.date(), AS_FOUND, None)}
    seen = Seen(made, AS_FOUND, result)

    assert ("reference.shows_nothing" in notes) == (sum(map(float, milliwatts)) <= 0)
    assert len(result.points) == (0 if "reference.shows_nothing" in notes else 1)
    assert room.page(seen) and room.table(seen)
    assert math.isclose(sum(row.share for row in result.budget("p1")), len(result.points), abs_tol=1e-9)
    assert room.judge_entries(made, result, AS_FOUND, "p1") is not None
    assert room.figures(result, "p1") and room.short(result)


@pytest.mark.parametrize(("u", "text"), [(0.02, "1.05"), (0.002, "1.053"), (0.00002, "1.053")])
def test_a_card_gives_a_factor_to_the_place_that_u_allows_and_to_three_at_most(u, text):
    """A meter that shows 0.95 of the truth: 1/0.95 is 1.0526."""
    found = reduce(job([[("100 Vpp", "23.75")]], load="50"))
    (item,) = found.points
    known = replace(item, ratio=0.95, ratio_interval=(0.95 - u, 0.95 + u))
    made = card(found.job, replace(found, points=(known,)), "lid")

    assert made.rows[0][-1] == text


def test_what_is_followed_through_the_years_is_error_and_tolerance_as_parts_of_the_reference():
    (item,) = reduce(job([ROUNDS])).points

    assert item.tolerance_w > 0.0
    assert item.stated.share_tolerance == pytest.approx(item.tolerance_w / item.reference_w)
    assert item.stated.share == pytest.approx(item.indicated_w / item.reference_w - 1.0)
    assert item.stated.share_interval == pytest.approx([end - 1.0 for end in item.ratio_interval])


def test_of_one_reference_a_budget_of_its_own_and_of_several_one_of_the_consensus():
    alone = reduce(job([ROUNDS])).budgets("p1")
    assert list(alone) == ["error", "reference"]
    made = three_at_once()
    (point,) = made.plan
    read = [name for name in point.sequence if made.is_reference(name)]
    for count in (2, 3):
        kept = (*read[:count], *(name for name in point.sequence if made.is_device(name)))
        some = replace(made, plan=(replace(point, sequence=kept),))
        for position, name in enumerate(kept):
            shown = expected_si(some, some.plan[0], name)
            some = enter(some, Slot(point.id, 1, position), f"{shown:.4g} {UNITS[made.indicator(name).unit].base}")
        found = list(reduce(some).budgets(point.id))
        assert found[:2] == ["error", "consensus"]
        assert len(found) == 2 + count


def test_the_scatter_of_the_rounds_is_of_their_ratios_over_root_n():
    """Standard deviation of ln(shown/volts²) over √3, of what the meter shows (GUM 4.2.3)."""
    result = reduce(job([ROUNDS]))
    ratios = [math.log(float(watts) / float(volts.split()[0]) ** 2) for volts, watts in ROUNDS]
    row = next(row for row in result.budget("p1") if row.influence.id == "repeat")

    assert row.contribution == pytest.approx(
        statistics.stdev(ratios) / math.sqrt(3.0) * result.points[0].indicated_w, rel=1e-3
    )


def test_an_error_goes_with_what_is_shown_and_against_what_the_reference_is():
    """Of error = shown − V²/R: a watt more shown is a watt, V is −2P/V, R is +P/R, near enough (derived)."""
    result = reduce(job([[("102 Vpp", "0"), ("104 Vpp", "0.4"), ("106 Vpp", "0")]]))
    slopes = {row.influence.id: row.sensitivity for row in result.budget("p1")}
    watts, volts = result.points[0].reference_w, 104 / math.sqrt(8)

    assert (slopes["meter.reading"], slopes["repeat.meter"]) == pytest.approx((1.0, 1.0))
    assert slopes["load.resistance"] == pytest.approx(watts / 57.7, rel=0.1)
    assert slopes["scope.reading"] == pytest.approx(-2.0 * watts / volts, rel=0.1)
