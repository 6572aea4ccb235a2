"""What a part loses: a ratio of ratios by hand, what cancels, what faces, bounds; coverage on drawn benches."""

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy import stats

from fenmist.calibration.decision import Verdict
from fenmist.calibration.planning import Grid, points_from_grid, with_points
from fenmist.errors import OutOfRangeError
from fenmist.hookup.templates import OF_LOSS, from_template
from fenmist.kit import generic
from fenmist.kit.part import Property
from fenmist.procedures.benchwork import with_exchanged
from fenmist.procedures.loss.bench import flaws, trouble
from fenmist.procedures.loss.figures import rounds
from fenmist.procedures.loss.headline import leave_in, results_headline
from fenmist.procedures.loss.make import claimed
from fenmist.procedures.loss.page import COLUMNS
from fenmist.procedures.loss.reduction import reduce
from fenmist.procedures.procedure import Seen
from fenmist.procedures.shelf import on_bench, ranked
from fenmist.procedures.table import room_of
from fenmist.reading.event import AS_FOUND, Slot
from fenmist.reports.certificate import certificate
from studies.builders import WHEN, enter
from studies.coverage import binomial_limits, observed
from studies.losses import LABELS, device, errors, loss_job, meter, tuner_errors, tuner_job
from studies.references import QUIET, load, pad, sensor, with_properties

ROOM = room_of("loss")


def matched(db: float):
    """A pad of no reflection."""
    return with_properties(pad("dev", db, 0.3), swr=Property(1.0, ""))


def typed(job, direct, through, again=None):
    """The job with what both sensors showed in mW, a pair for each round of each visit."""
    by_leg = {"direct": direct, "through": through, "direct again": again or direct}
    for point in job.plan:
        for number, pair in enumerate(by_leg[point.leg], start=1):
            for position, value in enumerate(pair):
                job = enter(job, Slot(point.id, number, position), f"{value} mW")
    return job


def read(job):
    return typed(job, [("10.000", "9.800")], [("10.000", "4.900")])


def test_half_of_it_is_three_decibels():
    """(4.9/10)/(9.8/10) = 1/2: 3.0103 dB, whatever the sensors make of a watt (definition of the decibel)."""
    result = reduce(read(loss_job("two couplers", matched(3.0))))
    (point,) = result.points

    assert point.loss_db == pytest.approx(10 * math.log10(2.0), abs=2e-3)  # less zeros, of 1 nW
    assert point.efficiency == pytest.approx(0.5, rel=1e-3)
    assert point.heat_w == pytest.approx(50.0, rel=1e-3)
    assert point.ratio == pytest.approx(0.98 * 10**0.01, rel=0.01)  # the couplers' own loss taken out
    assert point.is_seen
    assert result.stated[0].unit == result.stated[0].share_unit == "dB"
    assert point.stated.interval == (point.loss_db - point.expanded_u_db, point.loss_db + point.expanded_u_db)


def test_powers_that_differ_between_the_visits_cancel():
    """514 W through against 104 W direct, both couplers one part in a hundred apart: 0.6 W at 104 are 3 W at 514."""
    made = loss_job("two couplers", matched(0.0))
    result = reduce(typed(made, [("10.400", "10.460")], [("51.400", "51.700")]))

    assert result.points[0].loss_db == pytest.approx(10 * math.log10(10.46 / 10.4 * 51.4 / 51.7), abs=1e-3)


def test_what_both_visits_share_is_no_part_of_the_budget():
    result = reduce(read(loss_job("two couplers")))
    rows = {row.influence.id: row for row in result.budget("p1")}

    for name in ("c1.coupling", "c2.coupling", "a.gain", "b.gain", "a.cal_factor", "b.cal_factor", "dev.loss"):
        assert name not in rows or rows[name].contribution < 1e-5
    assert max(row.share for row in rows.values() if "load" not in row.influence.id) > 0.2


def test_each_pair_that_faces_across_the_part_is_counted():
    """The part, SWR ≤ 1.3 (ρ = 0.13), faces the first coupler's Γ_GE and the second coupler's match with the load
    behind it: u² = 2·⟨ρ1²⟩⟨ρ2²⟩ of power, half of ρ² for what is only a ceiling (handbook 3).
    """
    job = read(loss_job("two couplers"))
    rows = {row.influence.id: row.influence for row in reduce(job).budget("p1")}
    swr = job.part("c1").properties["swr"].value
    coupler, part = (swr - 1) / (swr + 1), 0.3 / 2.3
    source = coupler**2 / 2 + 10**-2.5 / 2

    assert rows["coupler.out~attenuator.in.mismatch"].standard_u[0] == pytest.approx(
        math.sqrt(2 * source * part**2 / 2), rel=1e-6
    )
    gamma = abs((54 + 6j - 50) / (54 + 6j + 50)) * 10 ** (-0.1 / 10)  # through the coupler's 0.1 dB
    assert rows["attenuator.out~coupler 2.in.mismatch"].standard_u[0] == pytest.approx(
        math.sqrt(2 * part**2 / 2 * coupler**2 / 2), rel=1e-6
    )
    assert rows["attenuator.out~load.in.mismatch"].standard_u[0] == pytest.approx(
        math.sqrt(2 * part**2 / 2 * gamma**2), rel=2e-3
    )
    across = "coupler.out~coupler 2.in.mismatch"
    assert rows[f"{across}, direct"].standard_u[0] == pytest.approx(math.sqrt(2 * source * coupler**2 / 2), rel=1e-6)
    weaker = rows[across].standard_u[0] / rows[f"{across}, direct"].standard_u[0]
    assert weaker == pytest.approx(10**-0.1, rel=1e-3)  # 1 dB there and 1 dB back


def test_what_leaks_into_a_forward_arm_counts_in_front_and_cancels_behind():
    """30 dB and a load of 54 + 6j: (1 ± 0.0316·0.0692)² is ± 0.438 % of power (handbook 15.4), in a phase that nobody
    knows, at most: half of it as u. Behind the part the same comes back on both visits; in front it doesn't.
    """
    job = typed(loss_job("two meters in line"), [("100000", "98000")], [("100000", "78000")])
    rows = {row.influence.id: row for row in reduce(job).budget("p1")}
    back = abs((54 + 6j - 50) / (54 + 6j + 50))

    behind = rows["m2.directivity"]
    assert behind.influence.standard_u[0] == pytest.approx(2 * 10 ** (-30 / 20) * back / 2, rel=1e-6)
    assert behind.contribution < 1e-9
    for name in ("m1.directivity", "m1.directivity, direct"):
        assert rows[name].contribution == pytest.approx(
            10 / math.log(10) * rows[name].influence.standard_u[0], rel=2e-3
        )
    # SWR ≤ 1.3 of the part, and through its 1 dB SWR ≤ 1.1 of the second meter and the load: each with its square
    weaker = 10**-0.2
    back_of_all = math.sqrt((0.3 / 2.3) ** 2 / 2 + weaker * ((0.1 / 2.1) ** 2 / 2 + back**2))
    assert rows["m1.directivity"].influence.standard_u[0] == pytest.approx(10 ** (-30 / 20) * back_of_all, rel=2e-2)


def test_a_loss_that_can_not_be_seen_is_a_bound():
    """0.004 dB came out; smaller than that + 1.645·u, the 95 % point of a normal distribution."""
    job = typed(loss_job("two couplers", device(0.0)), [("10.000", "9.800")], [("10.000", "9.791")])
    result = reduce(job)
    (point,) = result.points

    assert not point.is_seen
    assert point.loss_db == pytest.approx(10 * math.log10(9.8 / 9.791), abs=1e-3)
    assert point.bound_db == pytest.approx(point.loss_db + stats.norm.ppf(0.95) * point.u_db, rel=1e-6)
    assert "less than" in results_headline(job, result)
    notes = {note.code for note in ROOM.judge(job, result, WHEN.date(), AS_FOUND, None)}
    assert {"loss.unseen"} <= notes
    assert not {"loss.gain", "load.unknown_here", "reference.history"} & notes


@pytest.mark.parametrize(("behind", "bound"), [("9.900", True), ("12.000", False)])
def test_below_nothing_the_bound_is_not_below_and_a_gain_is_doubted(behind, bound):
    job = typed(loss_job("two couplers", matched(0.0)), [("10.000", "9.800")], [("10.000", behind)])
    result = reduce(job)
    notes = {note.code for note in ROOM.judge(job, result, WHEN.date(), AS_FOUND, None)}

    assert result.points[0].bound_db >= 0.0
    assert result.points[0].loss_db < 0.0
    assert ("loss.gain" in notes) is not bound


def test_few_rounds_make_a_wider_bound():
    """Scatter of two visits has one degree of freedom; Student's t counts, not the normal distribution."""
    made = loss_job("two couplers", matched(1.0))
    (point,) = reduce(typed(made, [("10.0", "9.8")], [("10.0", "7.8")], [("10.0", "9.6")])).points

    assert point.dof < 6  # both scatter alike, being the same rounds: one degree of freedom, not two
    assert (point.bound_db - point.loss_db) / point.u_db == pytest.approx(stats.t.ppf(0.95, point.dof), rel=1e-6)


def test_what_moved_between_the_visits_counts_once():
    made = loss_job("two couplers", matched(1.0))
    twice = [("10.0", "9.8"), ("10.0", "9.8")]
    result = reduce(typed(made, twice, [("10.0", "7.8")] * 2, [("10.0", "9.6")] * 2))
    row = next(row for row in result.budget("p1") if row.influence.id == "between the visits")

    moved = math.log(9.8 / 9.6)
    assert row.influence.standard_u[0] == pytest.approx(moved / 2 / math.sqrt(3.0), rel=1e-6)
    assert result.points[0].moved_db == pytest.approx(10 * math.log10(9.8 / 9.6) / 2, rel=1e-6)


@pytest.mark.parametrize(("most", "verdict"), [(3.2, Verdict.ACCEPT), (2.5, Verdict.REJECT)])
def test_what_it_may_lose_decides(most, verdict):
    job = loss_job("two couplers", matched(3.0))
    made = ROOM.from_draft(job, {**ROOM.draft(job), "tolerance": f"{most} dB"})
    point = reduce(read(made)).points[0]

    assert point.tolerance_db == most
    assert point.decision.verdict is verdict
    risk = stats.norm.cdf((most - point.loss_db) / point.u_db)
    assert point.decision.conformance_probability == pytest.approx(risk, abs=1e-9)


def test_a_share_is_no_statement_of_a_loss():
    job = loss_job("two couplers")
    (problem,) = ROOM.from_draft(job, {**ROOM.draft(job), "tolerance": "5 % of reading"})
    assert problem.field == "tolerance"


def test_what_a_sheet_says_is_the_most_it_may_lose():
    assert claimed(pad("x", 1.0, 0.3))[0].value == pytest.approx(1.3)
    assert claimed(replace(pad("x", 1.0), properties={}))[0].value == 0.5


def test_whether_it_may_stay_in_line_is_said_in_watts():
    small = typed(loss_job("two couplers", matched(0.0)), [("10.000", "9.800")], [("10.000", "9.760")])
    large = read(loss_job("two couplers", matched(3.0)))

    assert "nothing worth having" in leave_in(reduce(small).points[0])
    said = leave_in(reduce(large).points[0])
    assert "take it out" in said and "W of 100" in said.replace("\u202f", " ")


def test_a_match_that_nobody_states_is_spoken_of():
    bare = generic.attenuator("dev", "dev", 1.0, 0.3, 150.0)
    bare = replace(bare, properties={name: item for name, item in bare.properties.items() if name != "swr"})
    job = read(loss_job("two couplers", bare))
    notes = {note.code for note in ROOM.judge(job, reduce(job), WHEN.date(), AS_FOUND, None)}
    assert "loss.match" in notes


def test_instruments_that_lie_far_apart_without_the_part():
    job = typed(loss_job("two couplers", matched(3.0)), [("10.0", "5.0")], [("10.0", "2.5")])
    notes = {note.code for note in ROOM.judge(job, reduce(job), WHEN.date(), AS_FOUND, None)}
    assert "loss.ratio" in notes


def test_a_row_for_each_round_with_both_visits_beside_it():
    made = loss_job("two couplers", matched(1.0))
    result = reduce(typed(made, [("10.0", "9.8"), ("10.0", "9.7")], [("10.0", "7.8"), ("10.0", "7.7")]))
    picture, (point,) = rounds(result, "p1"), result.points

    assert [row.name for row in picture.rows] == ["round 1", "round 2"]
    for row, pair in zip(picture.rows, (9.8 / 7.8, 9.7 / 7.7), strict=True):
        assert row.first - row.second == pytest.approx(10 * math.log10(pair), abs=2e-3)
    assert (picture.value, picture.unseen, picture.bound) == (point.loss_db, point.expanded_u_db, point.bound_db)
    assert (picture.low, picture.high) == point.stated.interval
    assert rounds(reduce(made), "p1") is None


def test_points_of_a_grid_are_read_visit_by_visit():
    job = loss_job("two couplers")
    bare = replace(job, plan=())
    points = points_from_grid(bare, Grid("7 14 MHz", "50 100 W", rounds="2"))
    planned = with_points(bare, points, "band by band, rising level")

    assert [point.leg for point in planned.plan] == ["direct"] * 4 + ["through"] * 4 + ["direct again"] * 4
    assert len({point.group for point in planned.plan}) == 4
    assert planned.answers_wanted == 4
    assert {point.hookup for point in planned.plan} == {"line", "line direct"}


def test_a_change_works_out_its_group_alone():
    job = loss_job("two couplers")
    bare = replace(job, plan=())
    job = with_points(bare, points_from_grid(bare, Grid("7 14 MHz", "100 W", rounds="1")), "band by band, rising level")
    job = read(job)
    before = reduce(job)
    again = enter(job, Slot("p1", 2, 0), "10.1 mW")
    again = enter(again, Slot("p1", 2, 1), "9.7 mW")
    after = reduce(again, former=before)

    changed = {point.point.group for point, old in zip(after.points, before.points, strict=True) if point is not old}
    assert changed == {"p1"}
    assert [point.loss_db for point in after.points] == [point.loss_db for point in reduce(again).points]
    assert after.quantities["loss"].value == pytest.approx([point.loss_db for point in after.points])


def test_benches_that_could_not_be_read_any_more():
    job = loss_job("two couplers")
    through, direct = job.hookups
    assert trouble(job, through) == trouble(job, direct) == ""
    moved = replace(through, stated=replace(through.stated, element="load"))
    assert "comes into the part" in trouble(job, moved)
    assert "isn't missing" in trouble(job, replace(through, id="line direct"))
    assert list(flaws(job)) == []
    assert "with its part and without it" in next(iter(flaws(replace(job, legs=()))))
    assert "one instrument on each" in next(iter(flaws(replace(job, channels=job.channels[1:]))))
    short = replace(job, plan=tuple(replace(point, sequence=point.sequence[:1]) for point in job.plan))
    assert "doesn't read every" in next(iter(flaws(short)))


def test_the_page_the_table_and_the_paper():
    job = read(loss_job("two couplers", matched(3.0)))
    result = reduce(job)
    seen, (point,) = Seen(job, AS_FOUND, result), result.points
    page, (headings, row) = ROOM.page(seen), ROOM.table(seen)
    named = dict(zip(headings, row, strict=True))
    paper = certificate(ROOM, seen, (), "0")

    assert headings == list(COLUMNS)
    assert named["loss / dB"] == point.loss_db
    assert named["U(loss) / dB"] == point.expanded_u_db
    assert named["less than / dB"] == point.bound_db
    assert named["through / %"] == pytest.approx(100 * point.efficiency)
    assert (named["heat / W"], named["ratio without it"]) == (point.heat_w, point.ratio)
    assert (named["may lose / dB"], named["verdict"]) == (point.tolerance_db, "accept")
    # the load, 54 + 6j, through the coupler's 0.1 dB there and back, and the coupler's own SWR ≤ 1.1 with its square
    coupler = job.part("c1").properties["swr"].value
    rho = math.hypot(abs((4 + 6j) / (104 + 6j)) * 10**-0.01, (coupler - 1) / (coupler + 1) / math.sqrt(2))
    assert named["SWR behind it"] == pytest.approx((1 + rho) / (1 - rho), rel=1e-3)
    assert page.rows[0][2] == f"SWR {(1 + rho) / (1 - rho):.2f}"
    assert (named["end"], named["difference when exchanged / dB"]) == ("", "")
    assert page.rows[0][3].replace("\u202f", " ").startswith("3.01")
    assert page.rows[0][-1] == "accept"
    assert paper.picture is not None and paper.picture.name == "rounds"
    assert any("matched surroundings" in text for text in page.statements)
    rules = [text.replace("\u202f", " ") for name, text in paper.facts if name == "decision rule"]
    assert rules == ["at most 3.3 dB, simple acceptance: accepted where the loss is no more, whatever U is"]
    chart = ROOM.chart(job, result, None, "frequency", False)
    assert (chart.unit, chart.quantity) == ("dB", "loss")
    assert chart.series[0].points[0].value == point.loss_db
    assert ROOM.cards(seen, "1")[0].rows[0][1].startswith("3.01")
    assert ROOM.short(result).replace("\u202f", " ").startswith("3.01")
    figures = ROOM.figures(result, "p1")
    assert figures.value.replace("\u202f", " ") == f"{point.loss_db:.3f} dB"


def test_rounds_stand_at_the_ratio_that_came_out_and_scatter_in_decibels():
    """Three rounds direct, then two: the second visit's last one stands for its third."""
    made = loss_job("two couplers", matched(1.0))
    direct, again = [("10.0", "9.8"), ("10.0", "9.7"), ("10.0", "9.6")], [("10.0", "9.8"), ("10.0", "9.6")]
    job = typed(made, direct, [("10.0", "7.8"), ("10.0", "7.7"), ("10.0", "7.5")], again)
    result = reduce(job)
    (point,) = result.points
    shown = 10 * math.log10(point.ratio)
    mean = 10 * np.log10([0.98, 0.97, 0.96, 0.98, 0.96]).mean()

    assert [one.direct_db for one in point.each] == pytest.approx(
        [shown - mean + 10 * math.log10(one) for one in (0.98, (0.97 * 0.96) ** 0.5, 0.96)], abs=1e-6
    )
    losses = [one.loss_db for one in point.each]
    assert losses == pytest.approx([one.direct_db - one.through_db for one in point.each])
    assert f"{np.std(losses, ddof=1):.2g}" in ROOM.figures(result, "p1").scatter


def test_points_that_are_read_otherwise_keep_their_places():
    """One of two frequencies is read on its own order of instruments: both results stand where their points do."""
    job = loss_job("two couplers", matched(3.0))
    bare = replace(job, plan=())
    points = points_from_grid(bare, Grid("2 7 MHz", "100 W", rounds="1"))
    job = with_points(bare, points, "band by band, rising level")
    short = replace(job, plan=tuple(
        replace(point, sequence=(*point.sequence, point.sequence[0])) if point.frequency_hz > 5e6 else point
        for point in job.plan
    ))  # fmt: skip
    for point in short.plan:
        behind = "4.900" if point.leg == "through" else "9.800"
        behind = "2.450" if point.leg == "through" and point.frequency_hz < 5e6 else behind
        for position, text in enumerate(("10.000", behind, "10.000")[: len(point.sequence)]):
            short = enter(short, Slot(point.id, 1, position), f"{text} mW")
    result = reduce(short)

    assert [point.point.frequency_hz for point in result.points] == [2e6, 7e6]
    assert [point.loss_db for point in result.points] == pytest.approx([6.02, 3.01], abs=5e-3)
    assert result.quantities["loss"].value == pytest.approx([point.loss_db for point in result.points])


def test_beyond_an_instruments_physics_nothing_is_decided():
    """An instrument of 10 MHz at 7 and 2 MHz: above a third of its bandwidth nothing leans on it (handbook 2)."""
    job = loss_job("two couplers", matched(3.0))
    slow = with_properties(job.part("b"), bandwidth_hz=Property(10e6, "Hz"))
    bare = replace(job.with_part(slow), plan=())
    points = points_from_grid(bare, Grid("2 7 MHz", "100 W", rounds="1"))
    result = reduce(read(with_points(bare, points, "band by band, rising level")))

    assert [point.is_usable for point in result.points] == [True, False]
    assert [point.stated.usable for point in result.points] == [True, False]
    assert result.points[1].decision.verdict is Verdict.CANNOT_DECIDE


def test_another_part_takes_the_devices_place_and_nothing_that_loses_nothing():
    job = loss_job("two couplers")
    other = pad("other", 2.0)
    changed = with_exchanged(job, job.bench, "attenuator", other)

    assert (changed.dut, changed.bench.element("attenuator").part) == ("other", "other")
    assert reduce(read(changed)).points[0].loss_db == pytest.approx(3.01, abs=5e-3)
    with pytest.raises(OutOfRangeError, match="isn't asked of"):
        with_exchanged(job, job.bench, "attenuator", generic.divider("d", "d", 1e3, 1e3))


def test_a_job_moves_to_another_bench_with_all_its_visits():
    """Two frequencies on three visits stay two frequencies on three visits; once read it stays."""
    job = loss_job("two couplers")
    bare = replace(job, plan=())
    job = with_points(bare, points_from_grid(bare, Grid("2 7 MHz", "100 W", rounds="2")), "band by band, rising level")
    template = next(item for item in OF_LOSS if item.label == "two meters in line" and item.stated is job.dut_part.kind)
    bench = from_template(template, [QUIET, meter("m1"), meter("m2"), load()], "line", job.dut_part)
    moved = on_bench(job, ROOM, bench)

    assert [(p.leg, p.frequency_hz, p.repeats) for p in moved.plan] == [
        (p.leg, p.frequency_hz, p.repeats) for p in job.plan
    ]  # fmt: skip
    assert {p.hookup for p in moved.plan} == {item.id for item in moved.hookups}
    assert all(moved.channel(name).hookup == p.hookup for p in moved.plan for name in p.sequence)
    assert {moved.part_read(name).id for name in moved.order} == {"m1", "m2"}
    assert list(flaws(moved)) == []
    with pytest.raises(OutOfRangeError, match="present bench"):
        on_bench(enter(job, Slot("p1", 1, 0), "1 mW"), ROOM, bench)


def test_a_shelf_ranks_benches_of_a_loss_in_decibels():
    kit = [QUIET, meter("m1"), meter("m2"), load(), pad("big", 30.0), sensor("a")]
    part = device()
    best, *_ = ranked(ROOM, kit, part, [7e6], 100.0, WHEN.date(), WHEN)
    (point,) = best.points

    assert best.name.startswith("a meter in line and a sensor: m")
    assert (point.unit, point.blocked) == ("dB", "")
    assert 0.01 < point.expanded_u < 0.5
    assert point.tolerance == pytest.approx(1.3)
    assert best.reaches(best.worst).replace("\u202f", " ").endswith(" dB")


# orders of reading, and other arrangements


@pytest.mark.parametrize(("order", "expected"), [
    ("A-B", [("a", "b")] * 3), ("A-B-A", [("a", "b", "a")] * 3), ("B-A-B", [("b", "a", "b")] * 3),
])  # fmt: skip
def test_one_display_is_switched_between_both(order, expected):
    job = loss_job("two couplers")
    made = ROOM.from_draft(job, {**ROOM.draft(job), "order": order})

    assert [tuple(made.part_read(name).id for name in point.sequence) for point in made.plan] == expected
    assert ROOM.draft(made)["order"] == order


def test_read_a_b_a_what_the_carrier_drifts_drops_out():
    """A falls from 10.0 to 9.0 mW while B is read once in between: B stands beside the middle of them, in ln."""
    job = loss_job("two couplers", matched(3.0))
    made = ROOM.from_draft(job, {**ROOM.draft(job), "order": "A-B-A"})
    for point in made.plan:
        behind = "4.900" if point.leg == "through" else "9.800"
        shown = ("10.000", behind, "9.000") if point.leg == "through" else ("10.000", behind, "10.000")
        for position, text in enumerate(shown):
            made = enter(made, Slot(point.id, 1, position), f"{text} mW")

    expected = 10 * math.log10(9.8 / 10 * math.sqrt(10 * 9) / 4.9)
    assert reduce(made).points[0].loss_db == pytest.approx(expected, abs=2e-3)


def exchanged_job(first: float, second: float):
    """A matched part between two couplers, read in both orders: what sensors show behind, mW, for 10 in front."""
    made = loss_job("two couplers in both orders", matched(1.0))
    shown = {"direct": 9.8, "through": first, "exchanged direct": 10.2, "exchanged through": second}
    for point in made.plan:
        for position, value in enumerate((10.0, shown[point.leg])):
            made = enter(made, Slot(point.id, 1, position), f"{value:.4f} mW")
    return made


def test_both_orders_are_averaged_in_decibels():
    """0.90 dB one way, 1.10 dB the other: 1.00 dB; they differ by 0.20 dB."""
    job = exchanged_job(9.8 * 10**-0.090, 10.2 * 10**-0.110)
    (point,) = reduce(job).points

    assert point.loss_db == pytest.approx(1.00, abs=1e-3)
    assert point.apart[0] == pytest.approx(-0.20, abs=1e-3)
    assert [round(one.loss_db, 2) for one in point.each] == [0.9, 1.1]
    assert [one.is_exchanged for one in point.each] == [False, True]
    assert [row.name for row in rounds(reduce(job), "p1").rows] == ["round 1", "round 1, exchanged"]
    said = " ".join(ROOM.page(Seen(job, AS_FOUND, reduce(job))).statements).replace("\u202f", " ")
    assert "With both instruments exchanged it came out −0.200 ±" in said.replace("-0.200", "−0.200")


def test_what_each_coupler_faces_is_averaged_too():
    """Four pairs across the part instead of two, each with half the weight: u falls by the root of two where they
    are all there is.
    """
    once = reduce(typed(loss_job("two couplers", device()), [("10.0000", "9.8000")], [("10.0000", "7.8000")]))
    job = loss_job("two couplers in both orders", device())
    for point in job.plan:
        behind = "7.8000" if point.leg.endswith("through") else "9.8000"
        for position, text in enumerate(("10.0000", behind)):
            job = enter(job, Slot(point.id, 1, position), f"{text} mW")
    twice = reduce(job)

    assert twice.points[0].u_db / once.points[0].u_db == pytest.approx(math.sqrt(0.5), abs=0.02)
    names = {row.influence.id for row in twice.budget("p1")}
    assert sum(name.startswith("coupler.out~attenuator.in.mismatch") for name in names) == 2


@pytest.mark.parametrize(("second", "said"), [(10.2 * 10**-0.100, False), (10.2 * 10**-0.180, True)])
def test_orders_that_differ_by_more_than_chance_are_doubted(second, said):
    job = exchanged_job(9.8 * 10**-0.100, second)
    notes = {note.code for note in ROOM.judge(job, reduce(job), WHEN.date(), AS_FOUND, None)}
    assert ("loss.exchanged" in notes) is said


def test_with_one_order_half_read_the_other_stands_alone():
    job = exchanged_job(9.8 * 10**-0.100, 10.2 * 10**-0.120)
    lacking = replace(job, events=job.events[:-2])  # the last visit isn't read yet
    (point,) = reduce(lacking).points
    assert point.loss_db == pytest.approx(1.0, abs=1e-3)
    assert point.apart is None


def one_alone(label, *shown):
    job = loss_job(label, matched(3.0))
    for point, watts in zip(job.plan, shown, strict=False):
        job = enter(job, Slot(point.id, 1, 0), watts)
    return job


@pytest.mark.parametrize("label", ["one meter, in front of it and behind it", "one sensor, with it and without it"])
def test_one_instrument_and_a_steady_source(label):
    """50 of 100: 3.0103 dB; a source that fell from 100 to 98 counts with ± half of that."""
    unit = "W" if label.startswith("one meter") else "mW"
    job = one_alone(label, f"100.00 {unit}", f"50.00 {unit}", f"100.00 {unit}")
    (point,) = reduce(job).points
    assert point.loss_db == pytest.approx(10 * math.log10(2), abs=2e-3)
    assert point.ratio is None
    said = " ".join(ROOM.page(Seen(job, AS_FOUND, reduce(job))).statements)
    assert "One instrument is all that was read" in said

    fell = one_alone(label, f"100.00 {unit}", f"50.00 {unit}", f"96.04 {unit}")
    (point,) = reduce(fell).points
    assert point.loss_db == pytest.approx(10 * math.log10(98.0 / 50.0), abs=2e-3)
    rows = {row.influence.id: row for row in reduce(fell).budget(point.point.id)}
    assert rows["source.repeat, direct"].contribution == pytest.approx(  # two readings, ln apart by 0.0404
        10 / math.log(10) * math.log(100 / 96.04) / 2, rel=1e-2
    )


def test_the_sources_own_match_is_part_of_what_one_instrument_says():
    """What the source faces with the part and without it: behind 30 dB of pad nothing, behind 6 dB its SWR counts."""
    job = one_alone("one meter, in front of it and behind it", "100.00 W", "50.00 W", "100.00 W")
    names = {row.influence.id for row in reduce(job).budget(job.plan[1].id) if row.contribution > 1e-4}
    assert any(name.startswith("transmitter.out~") for name in names)


def test_a_source_whose_match_nobody_stated_is_spoken_of_unless_a_pad_hides_it():
    bare = one_alone("one meter, in front of it and behind it", "100.00 W", "50.00 W", "100.00 W")
    hidden = one_alone("one sensor, with it and without it", "10 mW", "5 mW", "10 mW")  # behind 30 dB
    stated = bare.with_part(with_properties(bare.part("source"), swr=Property(1.5, "")))
    found = [
        {note.code for note in ROOM.judge(job, reduce(job), WHEN.date(), AS_FOUND, None)}
        for job in (bare, hidden, stated)
    ]
    assert ["loss.source_match" in some for some in found] == [True, False, False]


def test_nobody_watched_the_source():
    label = "one sensor, with it and without it"
    once, again = one_alone(label, "10 mW", "5 mW"), one_alone(label, "10 mW", "5 mW", "10 mW")
    found = [{note.code for note in ROOM.judge(job, reduce(job), WHEN.date(), AS_FOUND, None)} for job in (once, again)]
    assert ["loss.source_unwatched" in some for some in found] == [True, False]


def test_a_tuner_into_a_load_and_into_mismatches():
    """Of 100 W that come in, 98 W arrive without it; into 25 Ω (ρ = 1/3) 108 W incident are 96 W net, of which the
    second meter's own 0.02 dB or so are part.
    """
    job = tuner_job()
    shown = {"direct": ("100.00", "98.00"), "Reedmace": ("100.00", "93.00"), "r25": ("100.00", "99.00"),
             "r150": ("100.00", "99.00"), "direct again": ("100.00", "98.00")}  # fmt: skip
    for point in job.plan:
        for position, watts in enumerate(shown[point.leg]):
            job = enter(job, Slot(point.id, 1, position), f"{watts} W")
    result = reduce(job)
    by_end = {point.into: point for point in result.points}
    kept = 10 ** (-job.part("m2").properties["loss_db"].value / 10) if "loss_db" in job.part("m2").properties else 1.0

    assert list(by_end) == ["Reedmace", "r25", "r150"]
    assert job.answers_wanted == 3
    for name, rho in (("r25", 1 / 3), ("r150", 1 / 2)):
        net = 0.99 * kept * (1 - rho**2) / 0.98
        assert by_end[name].loss_db == pytest.approx(-10 * math.log10(net), abs=0.02)
    assert by_end["r150"].match_swr == pytest.approx(3.0, rel=0.03)
    rows = {row.influence.id for row in result.budget(by_end["r150"].point.id)}
    assert {"m2.directivity", "m2.directivity, direct"} <= rows  # another end, another wave that leaks
    assert not any("wattmeter.out~load" in name and "direct" not in name for name in rows)  # across a tuner at work
    assert result.of("p1") is not None
    assert "into r150" in results_headline(job, result)
    page = ROOM.page(Seen(job, AS_FOUND, result))
    assert [row[2].split(",")[0] for row in page.rows] == ["Reedmace", "r25", "r150"]
    assert "tuned to it" in page.statements[0]
    chart = ROOM.chart(job, result, None, "frequency", False)
    assert [series.label for series in chart.series] == ["Reedmace", "r25", "r150"]
    assert ROOM.cards(Seen(job, AS_FOUND, result), "1")[0].columns == ("at", "Reedmace", "r25", "r150")


# coverage: truths drawn by nodes


def test_what_is_stated_of_a_tuner_covers_what_goes_into_each_end():
    """An L of coil and capacitor that is turned to a match, solved by nodes."""
    for found in tuner_errors(40).values():
        assert observed(found) >= binomial_limits(0.955, found.size)[0]
        assert 0.75 < found.std() < 1.15
        assert abs(found.mean()) < 0.3


@pytest.mark.long
def test_a_tuner_over_two_thousand_benches_and_a_control():
    for name, found in tuner_errors(2000).items():
        assert 0.8 < found.std() < 1.05, name  # into a good load its ceilings are seldom reached
        assert np.mean(np.abs(found) < 2.0) > 0.94
    as_stated, halved = (tuner_errors(500, halved=name)["Reedmace"].std() for name in ("", "m2.gain"))
    assert halved > 1.1 * as_stated


@pytest.mark.parametrize("label", LABELS)
def test_what_is_stated_of_a_loss_covers_the_truth(label):
    found = errors(label, 50)

    assert observed(found) >= binomial_limits(0.955, found.size)[0]
    bound = np.mean(found > -stats.norm.ppf(0.95))  # lies above the truth
    assert bound >= binomial_limits(0.95, found.size)[0]
    assert 0.8 < found.std() < 1.15
    assert abs(found.mean()) < 3.0 / math.sqrt(found.size)


@pytest.mark.long
@pytest.mark.parametrize("label", LABELS)
def test_over_five_thousand_benches(label):
    """One reflection that is only a ceiling acts in several pairs at once: tails a little heavier than a normal
    distribution's, 94 % within U.
    """
    found = errors(label, 5000)
    assert 0.88 < found.std() < 1.05
    assert abs(found.mean()) < 0.06
    assert np.mean(np.abs(found) < 2.0) > 0.935
    assert np.mean(found > -stats.norm.ppf(0.95)) > 0.935


def test_the_control_with_half_of_a_meters_share_of_full_scale_fails():
    quiet = (meter("m1", 60.0), meter("m2", 60.0))  # so that nothing else is as large
    as_stated, halved = (errors("two meters in line", 120, halved=name, more=quiet).std() for name in ("", "m2.gain"))
    assert halved > 1.2 * as_stated
    assert halved > 1.1
