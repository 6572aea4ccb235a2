"""Steps held against each other: ratios by hand, what cancels and what doesn't, floor and ceiling; drawn benches."""

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy import stats

from fenmist.calibration.decision import Verdict
from fenmist.calibration.edit import plan_with_cell
from fenmist.calibration.expected import expected_si
from fenmist.calibration.planning import points_at, with_block
from fenmist.errors import OutOfRangeError, UnknownIdError
from fenmist.hookup.templates import OF_STEPS, from_template
from fenmist.kit import shelf
from fenmist.kit.draft import draft_from_part, part_from_draft
from fenmist.kit.part import PartKind, Property, Range, SpecKind, SpecTerm
from fenmist.procedures.page import Stems
from fenmist.procedures.procedure import Seen
from fenmist.procedures.shelf import ranked
from fenmist.procedures.steps.bench import flaws, trouble
from fenmist.procedures.steps.findings import ladders
from fenmist.procedures.steps.headline import results_headline, short_headline
from fenmist.procedures.steps.make import begin, claimed
from fenmist.procedures.steps.page import COLUMNS
from fenmist.procedures.steps.reduction import predict, reduce
from fenmist.procedures.table import room_of
from fenmist.reading.event import AS_FOUND, Slot
from fenmist.reports.pictures import height_of, picture_svg
from studies.builders import WHEN, enter
from studies.coverage import binomial_limits
from studies.ladders import errors, ladder_job, quiet_sensor, steps_part, typed
from studies.references import with_properties
from studies.substitution import generator

ROOM = room_of("linearity")
RIGHT = {"0 dB": "4.850 mW", "10 dB": "0.4850 mW", "20 dB": "0.04850 mW"}
"""5 mW, factor 0.97."""


def notes(job):
    return {note.code: note for note in ROOM.judge(job, reduce(job), WHEN.date(), AS_FOUND, None)}


def by_step(job):
    return {item.point.leg or f"{item.point.target_w:g}": item for item in reduce(job).points}


def test_a_step_that_takes_a_fifth_of_a_decibel_more():
    """0.4632 mW in place of 0.4850: 10·log10(0.4850/0.4632) = 0.2 dB more than it says."""
    found = by_step(typed(ladder_job(), {**RIGHT, "10 dB": f"{0.485 * 10**-0.02:.6f} mW"}))

    assert found["10 dB"].departure_db == pytest.approx(0.2, abs=1e-3)
    assert found["20 dB"].departure_db == pytest.approx(0.0, abs=1e-3)
    assert found["0 dB"].is_reference and found["0 dB"].departure_db == found["0 dB"].u_db == 0.0
    assert [found[name].nominal_db for name in RIGHT] == pytest.approx([0.0, -10.0, -20.0])
    assert found["10 dB"].stated.unit == found["10 dB"].stated.share_unit == "dB"
    assert found["0 dB"].stated.decision is None


def test_the_sign_is_the_devices_own():
    """More behind than there should be: a sensor shows too much, an attenuator takes too little, a generator gives too
    little at the reference step."""
    more = {**RIGHT, "10 dB": "0.5000 mW"}
    off = 10 * math.log10(0.5 / 0.485)

    assert by_step(typed(ladder_job(), more))["10 dB"].departure_db == pytest.approx(-off, abs=1e-3)
    sensor = quiet_sensor()
    assert by_step(typed(ladder_job(sensor, behind=sensor), more))["10 dB"].departure_db == pytest.approx(off, abs=1e-3)
    made = ladder_job(generator(), levels=(5e-3, 5e-4))
    found = by_step(typed(made, {"0.005": "4.85 mW", "0.0005": "0.5 mW"}))
    assert found["0.0005"].departure_db == pytest.approx(-off, abs=1e-3)  # it gives more than it says


def test_power_halved_must_move_both_instruments_alike():
    """Handbook 15.7: a meter in line shows 50 and 24 W where the sensor halves: 0.177 dB too little (10·log10 0.96)."""
    meter = shelf.inline_meter("m", "m", (100.0,), None, 0.05)
    made = ladder_job(meter, levels=(50.0, 25.0))
    for point, texts in zip(made.plan, (("25.0", "24 mW"), ("50.0", "50 mW")), strict=True):
        for position, text in enumerate(texts):
            made = enter(made, Slot(point.id, 1, position), text)
    found = by_step(made)

    assert found["25"].departure_db == pytest.approx(10 * math.log10(25 / 24), abs=1e-3)
    assert found["50"].is_reference


def rows(job, name="10 dB"):
    point = next(item for item in job.plan if item.leg == name)
    return {row.influence.id: row for row in reduce(job).budget(point.id)}


def test_what_both_steps_share_is_no_part_of_the_budget():
    found = rows(typed(ladder_job(), RIGHT))

    for name in ("s.gain", "s.cal_factor", "g.gain", "g.reading", "steps.loss@10 dB"):
        assert name not in found or found[name].contribution < 1e-6
    assert found["s.reading"].contribution == pytest.approx(
        10 / math.log(10) * 0.0001e-3 / 0.485e-3 / math.sqrt(12.0), rel=0.02
    )  # the last digit of 0.4850 mW


def test_matches_are_others_where_the_attenuator_was_switched():
    """SWR ≤ 1.5 in front, 1.05 of each position and of the sensor: in the disc ⟨ρ²⟩ is ρ²/2 each, what
    lies behind the steps weakened there and back; u of power √(2·⟨ρ1²⟩⟨ρ2²⟩) (handbook 3)."""
    found = rows(typed(ladder_job(), RIGHT))
    ends = ("", ", the reference step")

    half = (0.05 / 2.05) ** 2 / 2.0
    for pair, weaker in (("generator.out~attenuator.in", (1.0, 1.0)), ("generator.out~meter.in", (0.01, 1.0))):
        for end, behind in zip(ends, weaker, strict=True):  # 10 dB there and 10 dB back, and nothing
            wanted = 10 / math.log(10) * math.sqrt(2.0 * 0.02 * half * behind)
            assert found[f"{pair}.mismatch{end}"].contribution == pytest.approx(wanted, rel=1e-3)


def test_a_certified_attenuator_counts_at_both_steps_where_a_sensor_is_asked_about():
    """±0.1 dB rectangular at each position; the sensor's own linearity is what is judged."""
    sensor = quiet_sensor(linearity=0.02)
    found = rows(typed(ladder_job(sensor, behind=sensor), RIGHT))

    for name in ("steps.loss@10 dB", "steps.loss@0 dB"):
        assert found[name].contribution == pytest.approx(0.1 / math.sqrt(3.0), rel=1e-3)
    assert not any("linearity" in name and row.contribution > 0 for name, row in found.items())


def test_a_sensors_linearity_counts_where_something_else_is_asked_about():
    """±2 % of each level, rectangular: 0.05 dB (10/ln 10 · 0.02/√3), twice."""
    found = rows(typed(ladder_job(behind=quiet_sensor(linearity=0.02)), RIGHT))
    own = [row.contribution for name, row in found.items() if name.startswith("s.linearity")]

    assert own == pytest.approx([10 / math.log(10) * 0.02 / math.sqrt(3.0)] * 2, rel=1e-3)


def test_a_zero_in_watts_counts_at_the_weak_end():
    found = rows(typed(ladder_job(behind=quiet_sensor(zero_w=1e-6)), RIGHT), "20 dB")
    wanted = 10 / math.log(10) * 1e-6 / math.sqrt(3.0) * (1 / 0.0485e-3 - 1 / 4.85e-3)

    assert found["s.zero"].contribution == pytest.approx(wanted, rel=1e-3)


def test_another_range_is_another_error():
    sensor = quiet_sensor()
    (shows,) = sensor.indicators
    spec = (SpecTerm(SpecKind.OF_READING, 0.03),)
    both = tuple(Range(name, full, "W", spec=spec) for name, full in (("1 mW", 1e-3), ("10 mW", 1e-2)))
    sensor = replace(sensor, indicators=(replace(shows, ranges=both),))
    job = typed(ladder_job(behind=sensor), {**RIGHT, "20 dB": "0.06 mW"})
    found = rows(job)

    assert found["s.gain"].contribution == pytest.approx(10 / math.log(10) * 0.03 / math.sqrt(3.0), rel=1e-2)
    assert "steps.ranges" not in notes(job)
    far = typed(ladder_job(behind=sensor), {**RIGHT, "10 dB": "0.70 mW", "20 dB": "0.070 mW"})
    assert notes(far)["steps.ranges"].evidence["range"] == "1 mW"


@pytest.mark.parametrize(("step", "reference"), [("the strongest", "0 dB"), ("the middle one", "10 dB"),
                                                  ("the weakest", "20 dB")])  # fmt: skip
def test_the_reference_step_is_chosen(step, reference):
    job = ladder_job()
    made = ROOM.from_draft(job, {**ROOM.draft(job), "reference_step": step})
    found = by_step(typed(made, {**RIGHT, "10 dB": "0.4632 mW"}))

    assert [name for name, item in found.items() if item.is_reference] == [reference]
    assert found[reference].departure_db == 0.0
    assert ROOM.draft(made)["reference_step"] == step


def test_nothing_is_said_before_the_reference_step_was_read():
    job = typed(ladder_job(), {"10 dB": "0.485 mW"})

    assert reduce(job).points == ()
    assert "0 dB is still missing" in ROOM.readings_headline(job, reduce(job), job.plan[1])
    assert ROOM.figures(reduce(job), job.plan[1].id).value == "—"


def test_a_step_alone_and_cumulated():
    result = reduce(typed(ladder_job(), {**RIGHT, "10 dB": "0.4740 mW", "20 dB": "0.04632 mW"}))
    _, ten, twenty = result.ladder(10e6)

    assert (ten.departure_db, twenty.departure_db) == pytest.approx((0.0996, 0.1998), abs=1e-3)
    assert result.single_step_db(ten) == pytest.approx(0.0996, abs=1e-3)
    assert result.single_step_db(twenty) == pytest.approx(0.1002, abs=1e-3)
    assert result.single_step_db(result.ladder(10e6)[0]) is None


@pytest.mark.parametrize(("most", "verdict"), [("0.5 dB", Verdict.ACCEPT), ("0.25 dB", Verdict.REJECT)])
def test_what_it_may_depart_by_decides(most, verdict):
    job = ladder_job()
    made = ROOM.from_draft(job, {**ROOM.draft(job), "tolerance": most})
    item = by_step(typed(made, {**RIGHT, "10 dB": "0.4520 mW"}))["10 dB"]

    assert item.decision.verdict is verdict
    t, e, u = item.tolerance_db, item.departure_db, item.u_db
    p = stats.norm.cdf((t - e) / u) - stats.norm.cdf((-t - e) / u)
    assert item.decision.conformance_probability == pytest.approx(p, abs=1e-9)


def test_only_one_number_in_db_is_a_tolerance():
    job = ladder_job()
    (problem,) = ROOM.from_draft(job, {**ROOM.draft(job), "tolerance": "5 % of reading"})
    assert problem.field == "tolerance"


def test_floor_and_ceiling_are_located():
    """A sensor that shows 0.01 mW too much, and a hundredth too little at the top."""
    sensor = quiet_sensor()
    steps = steps_part(known_to=0.01, swr=1.0)
    low = typed(ladder_job(sensor, steps, sensor), {**RIGHT, "10 dB": "0.4950 mW", "20 dB": "0.0585 mW"})
    (ladder,) = ladders(reduce(low))
    note = notes(low)["steps.floor"]
    assert ladder.floor_db == pytest.approx(-10.0) and ladder.ceiling_db is None
    assert note.evidence["departure_db"] == pytest.approx(10 * math.log10(0.0585 / 0.0485), abs=1e-2)

    job = ladder_job(sensor, steps, sensor)
    middle = ROOM.from_draft(job, {**ROOM.draft(job), "reference_step": "the weakest"})
    high = typed(middle, {"0 dB": "4.60 mW", "10 dB": "0.4850 mW", "20 dB": "0.04850 mW"})
    assert notes(high)["steps.ceiling"].evidence["from_db"] == pytest.approx(20.0)
    assert not {"steps.floor", "steps.ceiling"} & set(notes(typed(job, RIGHT)))


def test_a_reference_near_its_own_floor_is_said():
    behind = with_properties(quiet_sensor(), noise_floor_w=Property(1e-5, "W"))
    assert notes(typed(ladder_job(behind=behind), RIGHT))["steps.near_floor"].evidence["floor_w"] == 1e-5
    quiet = with_properties(quiet_sensor(), noise_floor_w=Property(1e-6, "W"))
    assert "steps.near_floor" not in notes(typed(ladder_job(behind=quiet), RIGHT))


def test_what_it_can_not_see_is_said_once():
    found = notes(typed(ladder_job(), RIGHT))
    assert "wrong alike" in found["steps.blind"].what
    assert not {"reference.history", "load.poor"} & set(found)
    assert "steps.blind" not in notes(ladder_job())


def test_every_position_is_visited_beside_the_others_at_its_frequency():
    job = ladder_job(f=(7e6, 10e6))

    assert [leg.id for leg in job.visits] == ["0 dB", "10 dB", "20 dB"]
    assert [job.hookup(leg.hookup).element("attenuator").settings["step"] for leg in job.visits] == [
        "0 dB", "10 dB", "20 dB",
    ]  # fmt: skip
    assert len({point.group for point in job.plan}) == 2
    assert job.answers_wanted == 6
    point = job.plan[1]
    assert [expected_si(job, point, name) for name in point.sequence] == pytest.approx([5e-3, 0.97 * 5e-4])


def test_a_point_is_moved_and_left_out_alone():
    job = ladder_job(f=(7e6,))
    row = next(number for number, point in enumerate(job.plan) if point.leg == "10 dB")
    moved = plan_with_cell(job, row, 0, "8 MHz")
    assert [point.frequency_hz for point in moved.plan].count(8e6) == 1
    assert len({point.group for point in moved.plan}) == 2
    blocked = with_block(job, job.plan[row].id, "no time")
    assert sum(bool(point.blocked) for point in blocked.plan) == 1
    with pytest.raises(OutOfRangeError, match="each hook-up in turn"):
        plan_with_cell(job, row, 5, "another")


def test_what_devices_claim():
    assert claimed(steps_part(known_to=0.2)).value == pytest.approx(0.2)
    assert claimed(generator()).value == pytest.approx(10 / math.log(10) * 0.1)
    assert claimed(quiet_sensor(linearity=0.05)).value >= 10 / math.log(10) * 0.05
    bare = replace(steps_part(), switches=(), properties={})
    assert (claimed(bare).value, claimed(bare).basis) == (0.5, "common practice")


def test_benches_that_do_not_do():
    job = ladder_job()
    assert trouble(job, job.bench) == "" and list(flaws(job)) == []
    without = replace(job.bench, joints=job.bench.joints[:1])
    assert "isn't on the line any more" in trouble(job, without)
    elsewhere = replace(job, dut="s2")
    assert "isn't on the line" in trouble(elsewhere, job.bench)
    assert any("one number" in item for item in flaws(replace(job, tolerance=SpecTerm(SpecKind.OF_READING, 0.1))))
    assert any("beside" in item for item in flaws(replace(job, plan=(replace(job.plan[0], group=""),))))
    assert any("both instruments" in item for item in flaws(replace(job, plan=(replace(job.plan[0], sequence=()),))))
    assert any("aren't two" in item for item in flaws(replace(job, channels=job.channels[:1], plan=())))
    fixed = replace(steps_part(), switches=())
    template = next(item for item in OF_STEPS if item.stated is PartKind.ATTENUATOR)
    with pytest.raises(UnknownIdError, match="no positions"):
        from_template(template, [generator(), quiet_sensor()], "line", fixed)
    bench = from_template(template, [generator(), quiet_sensor()], "line", steps_part())
    with pytest.raises(UnknownIdError, match="held against"):
        begin("j", "t", replace(bench, read=bench.read[:1]), "steps", WHEN)


def test_the_shelf_says_what_steps_can_be_told():
    fixed = replace(steps_part("a"), switches=())
    kit = [generator(), fixed, steps_part(), quiet_sensor()]
    (best,) = ranked(ROOM, kit, quiet_sensor("t"), [10e6], 5e-3, WHEN.date(), WHEN)

    assert best.points[0].expanded_u > 0.1 and best.points[0].unit == "dB"
    assert predict(ladder_job()) == ()


def seen(job):
    return Seen(job, AS_FOUND, reduce(job))


def test_page_table_cards_and_sentences_say_the_same():
    job = typed(ladder_job(), {**RIGHT, "10 dB": "0.4632 mW"})
    page, table = ROOM.page(seen(job)), ROOM.table(seen(job))
    item = by_step(job)["10 dB"]

    assert [row[1] for row in page.rows] == ["0 dB", "10 dB", "20 dB"]
    assert page.rows[1][2:4] == ("−10.00\u202fdB", f"+0.20 ± {item.expanded_u_db:.2f}\u202fdB")
    assert page.rows[0][3] == "reference step" and page.rows[0][6] == "—"
    cells = dict(zip(COLUMNS, table[2], strict=True))
    assert cells == {
        "phase": AS_FOUND, "frequency / Hz": 10e6, "step": "10 dB", "level / W": 5e-3, "reference step": "0 dB",
        "rounds": 1, "should be / dB": item.nominal_db, "departure / dB": item.departure_db,
        "U(departure) / dB": item.expanded_u_db, "k": item.k, "this step alone / dB": item.departure_db,
        "read behind / W": pytest.approx(0.4632e-3), "range": "1", "may depart / dB": pytest.approx(0.1),
        "zone": str(item.decision.zone), "verdict": str(item.decision.verdict),
        "probability that the verdict is wrong": "" if item.decision.risk is None else item.decision.risk,
        "is usable": "yes",
    }  # fmt: skip
    lid, _ = ROOM.cards(seen(job), "3")
    assert lid.columns == ("at", "0 dB", "10 dB", "20 dB")
    assert lid.rows[0][1:3] == ("0", "+0.20\u202fdB")
    result = reduce(job)
    assert "departs most at 10 dB at 10\u202fMHz, by +0.20" in results_headline(job, result)
    assert "steps as it should" in results_headline(typed(ladder_job(), RIGHT), reduce(typed(ladder_job(), RIGHT)))
    assert short_headline(result).startswith("+0.20")
    assert short_headline(reduce(ladder_job())) == "nothing read yet"
    assert "missing before" in results_headline(ladder_job(), reduce(ladder_job()))
    assert "+0.20" in ROOM.readings_headline(job, result, job.plan[1])
    figures = ROOM.figures(result, job.plan[1].id)
    assert (figures.value, figures.second) == ("+0.20\u202fdB", "this step alone +0.20\u202fdB")
    assert [line.label for line in ROOM.chart(job, result, None, "frequency", False).series] == list(RIGHT)
    levels = typed(ladder_job(generator(), levels=(5e-3, 5e-4)), {"0.005": "4.85 mW", "0.0005": "0.485 mW"})
    assert [line.label for line in ROOM.chart(levels, reduce(levels), None, "frequency", False).series] == [
        "500\u202fµW", "5\u202fmW",
    ]  # fmt: skip


def test_stems():
    job = typed(ladder_job(), {**RIGHT, "10 dB": "0.4632 mW"})
    picture = ROOM.picture(reduce(job), job.plan[1].id)

    assert isinstance(picture, Stems)
    assert [item.at for item in picture.stems] == pytest.approx([0.0, -10.0, -20.0])
    (here,) = (item for item in picture.stems if item.is_here)
    assert (here.name, here.value) == ("10 dB", pytest.approx(0.2, abs=1e-2))
    assert picture.tolerance == pytest.approx(0.1)
    svg = picture_svg(picture)
    assert svg.count("<circle") == 3 and "10 dB" in svg and f"{height_of(picture):g}" in svg
    assert ROOM.picture(reduce(ladder_job()), "p1") is None


@pytest.mark.parametrize("zero_w", [0.0, 2e-6])
def test_stated_departures_hold(zero_w):
    """Attenuators, matches and zeros drawn, solved by nodes."""
    found = errors(ladder_job(behind=quiet_sensor(zero_w=zero_w)), 60, 5)
    low, _ = binomial_limits(0.9545, found.size)

    assert np.mean(np.abs(found) < 2.0) >= low
    assert abs(np.mean(found)) < 0.25
    assert 0.8 < np.std(found) < 1.15


def test_a_wrong_statement_does_not_hold():
    """Control: the sensor's zero is twice as large as is stated."""
    found = errors(ladder_job(behind=quiet_sensor(zero_w=2e-5)), 100, 5, halved="s.zero")
    assert np.std(found) > 1.3


# two outputs of one generator


def outputs_job():
    made = generator()
    made = part_from_draft(made, {**draft_from_part(made), "outputs": "front; rear"})
    template = next(item for item in OF_STEPS if "outputs" in item.label)
    job = begin("job", "outputs", from_template(template, [quiet_sensor()], "line", made), made.id, WHEN)
    return replace(job, plan=points_at(job, (10e6,), (5e-3,)))


def test_two_outputs_of_one_generator_are_held_against_each_other():
    """4.739 mW from the one, 4.850 mW from the other, both set to 5 mW: 0.100 dB less, so it is set 0.1 dB too high."""
    job = typed(
        outputs_job(), {"front": "4.850 mW", "rear": f"{4.85 * 10**-0.01:.4f} mW"}, f"{10 * math.log10(5):.3f} dBm"
    )
    found = by_step(job)

    assert found["front"].is_reference
    assert found["rear"].nominal_db == pytest.approx(0.0)
    assert found["rear"].departure_db == pytest.approx(0.100, abs=2e-3)
    rows = {row.influence.id: row.contribution for row in reduce(job).budget(found["rear"].point.id)}
    facing = [name for name in rows if name.startswith("generator.") and "~" in name]
    assert len(facing) == 2 and min(rows[name] for name in facing) > 0.0  # each output has a match of its own
    own = {name: value for name, value in rows.items() if name.startswith("s.") and ".reading" not in name}
    assert max(own.values()) < 1e-4, own  # the same sensor, at nearly the same level


def test_outputs_are_typed_in_the_kit():
    made = generator()
    typed_in = part_from_draft(made, {**draft_from_part(made), "outputs": "front; rear"})
    assert draft_from_part(typed_in)["outputs"] == "front; rear"
    assert part_from_draft(typed_in, {**draft_from_part(typed_in), "outputs": ""}).switches == ()
    (problem,) = part_from_draft(made, {**draft_from_part(made), "outputs": "front"})
    assert problem.field == "outputs"
    template = next(item for item in OF_STEPS if "outputs" in item.label)
    with pytest.raises(UnknownIdError, match="no positions"):
        from_template(template, [quiet_sensor()], "line", made)
