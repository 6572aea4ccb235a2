"""What a source gives: consensus of what is read, its own claims, scatter of the rounds; coverage on drawn benches."""

import math
from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest

from fenmist.calibration.decision import Verdict
from fenmist.calibration.job import PlanPoint
from fenmist.calibration.rounds import readings_by_point
from fenmist.hookup.templates import OF_SOURCES, from_template
from fenmist.kit import generic, shelf
from fenmist.kit.draft import draft_from_part, part_from_draft
from fenmist.kit.part import Indicator, PartKind, Property, SpecKind, SpecTerm
from fenmist.measurand import Kind
from fenmist.procedures.output.bench import flaws, trouble
from fenmist.procedures.output.headline import results_headline
from fenmist.procedures.output.make import begin
from fenmist.procedures.output.reduction import reduce
from fenmist.procedures.output.rules import judge
from fenmist.procedures.procedure import Seen
from fenmist.procedures.table import room_of
from fenmist.reading.event import AS_FOUND, Slot
from fenmist.reports.certificate import certificate
from studies.builders import enter, read
from studies.references import BENCHES, SOURCES, drawn, load, misses, pad, sensor, shown, without_device

WHEN = datetime(2026, 11, 27, 9, 0, tzinfo=UTC)
SHARE = SpecTerm(SpecKind.OF_READING, 0.05)
GENERATOR = next(part for part in generic.generics() if part.kind is PartKind.GENERATOR)


def own(name: str, label: str) -> Indicator:
    return Indicator(name, label, Kind.INCIDENT, "W", spec=(SHARE,))


def transmitter(*claims: Indicator):
    return replace(shelf.transmitter("tx", "Plover 150", 150.0), indicators=claims)


def template(label: str, kind: PartKind):
    return next(item for item in OF_SOURCES if item.label == label and item.stated is kind)


def made(label: str, source, *parts, frequency_hz=7.1e6, target_w=10.0, repeats=1):
    bench = from_template(template(label, source.kind), [source, *parts], "line")
    job = begin("job", "a source", bench, source.id, WHEN)
    point = PlanPoint("p1", "line", frequency_hz, target_w, "", job.order, repeats)
    return replace(job, plan=(point,))


def exact_pad(db: float):
    return replace(pad("pad", db), properties={"loss_db": Property(db, "dB"), "swr": Property(1.0, "")})


def exact_sensor():
    made = sensor("s", swr=1.0, accuracy=0.01)
    return replace(made, properties={"swr": Property(1.0, ""), "cal_factor": Property(1.0, "")})


# what it gives


def test_ten_dbm_behind_thirty_decibels_are_ten_watts():
    """10 dBm + 30 dB = 40 dBm: the definition of the decibel."""
    job = read(made("sensor behind a pad", transmitter(), exact_pad(30.0), exact_sensor()), ["10 dBm"])
    (point,) = reduce(job).points

    assert point.power_w == pytest.approx(10.0, rel=2e-4)  # less what harmonics of −40 dBc add to it
    assert (point.claims, point.stated.decision, point.stated.tolerance) == ((), None, 0.0)
    assert point.stated.value == point.power_w
    assert point.stated.share == pytest.approx(0.0, abs=2e-4)
    assert results_headline(job, reduce(job)).replace("\u202f", " ").startswith("Plover 150 gives 10.")


def test_a_divider_of_measured_pieces_gives_a_hundred_and_ten_watts_not_the_nominal_ones():
    """(22 + 2.66)/2.66 · 8.00 V = 74.17 V across 50 Ω: 110.0 W; a nominal 10 to 1 would make it 128 W."""
    tee, divider = shelf.tee("t", "tee", 0.0, 0.0), generic.divider("d", "divider", 22e3, 2.66e3, 1e-15)
    meter = next(part for part in generic.generics() if part.kind is PartKind.VOLTMETER)
    meter = replace(meter, properties={"resistance_ohm": Property(1e12, "Ω"), "bandwidth_hz": Property(1e12, "Hz")})
    end = replace(load(), characterisations=())
    job = made("voltmeter behind a divider", transmitter(), tee, end, divider, meter, frequency_hz=1e5, target_w=110.0)
    (point,) = reduce(read(job, ["8.00 V"])).points

    assert point.power_w == pytest.approx(110.0, rel=3e-3)  # 24.66 kΩ stand beside the load
    assert abs(point.power_w - 128.0) > 15.0


def test_a_milliwatt_source_in_dbm_against_what_it_says_of_itself():
    """−10.2 dBm where −10 dBm are set: 0.2 dB too much is said, 4.7 %."""
    job = made("sensor on the output", GENERATOR, exact_sensor(), target_w=1e-4)
    assert job.order == ("generator", "meter")
    result = reduce(read(job, ["-10 dBm", "-10.2 dBm"]))
    (point,) = result.points
    (claim,) = point.claims

    assert point.power_w == pytest.approx(1e-4 * 10.0**-0.02, rel=2e-3)
    assert claim.error_w / point.power_w == pytest.approx(10.0**0.02 - 1.0, rel=0.02)
    assert claim.decision.verdict is Verdict.ACCEPT  # 1 dB is stated
    assert set(result.quantities) == {"power", "error of generator"}
    page = room_of("output").page(Seen(job, AS_FOUND, result))
    assert "dBm" in page.rows[0][3]
    assert page.rows[0][-1] == "accept"


def test_a_claims_error_is_known_by_the_power_and_by_reading_it():
    job = made("sensor behind a pad", transmitter(own("own", "own meter")), exact_pad(30.0), exact_sensor())
    (point,) = reduce(read(job, ["11", "10 dBm"])).points
    (claim,) = point.claims

    assert claim.error_w == pytest.approx(1.0, rel=2e-3)
    assert claim.u_w == pytest.approx(math.hypot(point.u_w, 1.0 / math.sqrt(12.0)), rel=1e-3)  # read to 1 W
    assert claim.tolerance_w == pytest.approx(0.05 * 10.0, rel=2e-4)


def test_a_setting_and_its_own_meter_are_both_held_against_it():
    claims = own("setting", "setting"), own("meter", "own meter")
    job = made("sensor behind a pad", transmitter(*claims), exact_pad(30.0), exact_sensor())
    result = reduce(read(job, ["10.0", "11.5", "10 dBm"]))
    (point,) = result.points

    assert [round(item.error_w, 2) for item in point.claims] == [0.0, 1.5]
    assert point.stated.value == point.claims[0].error_w
    page = room_of("output").page(Seen(job, AS_FOUND, result))
    assert any("own meter says 11.5" in text.replace("\u202f", " ") for text in page.statements)
    assert len(room_of("output").table(Seen(job, AS_FOUND, result))) == 3  # headings, and a line for each claim


def test_what_the_rounds_scatter_by_is_the_sources_and_has_two_degrees_of_freedom():
    """Standard deviation of the mean of three: s/√3, in logarithms."""
    job = made("sensor behind a pad", transmitter(), exact_pad(30.0), exact_sensor(), repeats=3)
    result = reduce(read(job, ["10.0 mW"], ["10.4 mW"], ["9.7 mW"]))
    logs = np.log([10.0, 10.4, 9.7])
    row = next(item for item in result.budget("p1") if item.influence.id == "source.repeat")

    assert float(row.influence.standard_u[0]) == pytest.approx(np.std(logs, ddof=1) / math.sqrt(3.0))
    assert float(np.ravel(row.influence.dof)[0]) == 2.0
    assert result.points[0].power_w == pytest.approx(10.0 * math.exp(float(np.mean(logs - logs[0]))), rel=2e-4)


def test_two_references_scatter_apart_and_together():
    """What both show alike is the source's; what they show apart is theirs, as if each stood alone: |d1 − d2|/√2."""
    job = BENCHES["three at once"]()
    source = "source"
    plain = replace(job, dut=source, channels=tuple(item for item in job.channels if item.id in ("o", "e")))
    point = replace(plain.plan[0], sequence=("o", "e"), repeats=2)
    plain = replace(plain, plan=(point,), order=("o", "e"))
    for number, (volts, watts) in enumerate((("180 Vpp", "500 mW"), ("182 Vpp", "500 mW")), start=1):
        plain = enter(enter(plain, Slot("p1", number, 0), volts), Slot("p1", number, 1), watts)
    (found,) = readings_by_point(plain)
    step = 2.0 * math.log(182.0 / 180.0)

    assert np.std([one.log_reference for one in found.rounds], ddof=1) == pytest.approx(step / 2.0 / math.sqrt(2.0))
    assert np.std([one.log_scatter("e") for one in found.rounds], ddof=1) == pytest.approx(step / 2.0)


def test_a_transmitters_setting_and_own_meter_are_typed_in_the_kit():
    """What is typed of them makes the channels of a job; what is taken away again is no claim."""
    plain = transmitter()
    draft = {**draft_from_part(plain), "own_meter": "10 %", "setting": "0.5 dB", "own_swr": "unknown"}
    typed = part_from_draft(plain, draft)
    job = made("sensor behind a pad", typed, exact_pad(30.0), exact_sensor())

    assert [item.label for item in typed.indicators] == ["its power setting", "its own meter", "SWR"]
    assert [job.indicator(name).id for name in job.order] == ["setting", "own_meter", "reading"]
    assert job.tolerance.kind is SpecKind.DB
    again = part_from_draft(typed, {**draft_from_part(typed), "setting": "", "own_swr": ""})
    assert [item.id for item in again.indicators] == ["own_meter"]
    assert draft_from_part(again)["own_meter"] == "10 % of reading"


def two_points(job):
    return replace(job, plan=(job.plan[0], replace(job.plan[0], id="p2", frequency_hz=14e6, target_w=20.0)))


def test_what_is_stated_of_a_point_is_its_power_with_its_interval_or_its_first_claims_error():
    job = read(made("sensor behind a pad", transmitter(), exact_pad(30.0), exact_sensor(), target_w=8.0), ["10 dBm"])
    (point,) = reduce(job).points
    low, high = point.interval_w
    assert point.expanded_u_w == pytest.approx(point.k * point.u_w) == pytest.approx((high - low) / 2.0)
    assert point.stated.share == pytest.approx(point.power_w / 8.0 - 1.0)
    assert point.stated.share_interval == pytest.approx((low / 8.0 - 1.0, high / 8.0 - 1.0))

    job = made("sensor behind a pad", transmitter(own("own", "own meter")), exact_pad(30.0), exact_sensor())
    (point,) = reduce(read(job, ["11", "10 dBm"])).points
    (claim,) = point.claims
    assert point.stated.share == pytest.approx(claim.error_w / point.power_w) == pytest.approx(0.1, rel=2e-3)
    ends = tuple(end / point.power_w for end in claim.interval_w)
    assert point.stated.share_interval == pytest.approx(ends)
    assert ends[1] - ends[0] == pytest.approx(2.0 * claim.expanded_u_w / point.power_w)
    assert point.stated.k == pytest.approx(claim.expanded_u_w / claim.u_w) == pytest.approx(2.0, abs=0.01)


def test_of_a_load_that_is_not_50_ohm_part_comes_back():
    """Γ of 54 + j6 Ω is 0.0689: 0.47 % of what goes there; the tee and the lead are as good as not there."""
    tee, lead = shelf.tee("t", "tee", 0.0, 0.0), shelf.lead("w", "lead", 0.001)
    scope = shelf.oscilloscope("o", "Sedge", 1e12)
    job = made("oscilloscope across the load", transmitter(), tee, load(), lead, scope, frequency_hz=1.2e5)
    (point,) = reduce(read(job, ["63 Vpp"])).points
    gamma = abs((54 + 6j - 50) / (54 + 6j + 50))
    assert point.net_w / point.power_w == pytest.approx(1.0 - gamma**2, rel=1e-4)


def test_what_was_worked_out_before_is_built_on_and_comes_out_the_same():
    job = two_points(made("sensor behind a pad", transmitter(own("own", "own meter")), exact_pad(30.0), exact_sensor()))
    first = read(job, ["11", "10 dBm"])
    before = reduce(first)
    more = enter(enter(first, Slot("p2", 1, 0), "21"), Slot("p2", 1, 1), "13 dBm")
    after, fresh = reduce(more, former=before), reduce(more)

    assert [item.power_w for item in after.points] == [item.power_w for item in fresh.points]
    assert len(after.points) == 2
    louder = replace(more, plan=(replace(more.plan[0], target_w=9.0), more.plan[1]))
    assert reduce(louder, former=after).points[0].point.target_w == 9.0
    other = reduce(more, phase="as left", former=after)
    assert (other.points, other.quantities, other.budget("p1"), other.voices("p1")) == ((), {}, (), None)


def test_each_point_has_budgets_of_its_own():
    job = two_points(made("sensor behind a pad", transmitter(own("own", "own meter")), exact_pad(30.0), exact_sensor()))
    job = enter(enter(read(job, ["11", "10 dBm"]), Slot("p2", 1, 0), "21"), Slot("p2", 1, 1), "13 dBm")
    result = reduce(job)
    for n, name in enumerate(("p1", "p2")):
        found = result.budgets(name)
        assert list(found) == ["error of transmitter", "power"]
        assert found["power"] == tuple(found["power"])
        u = math.sqrt(sum(row.contribution**2 for row in found["power"]))
        assert u == pytest.approx(result.points[n].u_w, rel=1e-9)
        reading = next(row for row in found["error of transmitter"] if row.influence.id == "transmitter.claim")
        assert reading.contribution == pytest.approx(1.0 / math.sqrt(12.0))
    assert result.budgets("p3") == {}


def test_two_references_of_a_source_are_weighed_and_drawn():
    job, rng = without_device("three at once"), np.random.default_rng(2)
    bench = drawn(job, rng)
    for position, channel in enumerate(job.order):
        job = enter(job, Slot("p1", 1, position), shown(job, bench, channel, rng))
    result = reduce(job)
    picture, (point,) = result.voices("p1"), result.points
    assert len(picture.voices) == 3
    assert (picture.low, picture.value, picture.high) == (point.interval_w[0], point.power_w, point.interval_w[1])
    assert next(iter(result.budgets("p1"))) == "power"
    assert len(result.budgets("p1")) == 4
    assert min(item.power_w for item in point.references) < point.power_w < max(
        item.power_w for item in point.references
    )  # fmt: skip


# what is said


def test_a_reading_that_is_ten_decibels_off_the_plan_is_spoken_of():
    job = made("sensor behind a pad", transmitter(), exact_pad(30.0), exact_sensor())
    notes = [note.code for note in judge(read(job, ["0 dBm"]), reduce(read(job, ["0 dBm"])), WHEN.date())]
    fine = [note.code for note in judge(read(job, ["10 dBm"]), reduce(read(job, ["10 dBm"])), WHEN.date())]

    assert "entry.slip" in notes
    assert "entry.slip" not in fine


def test_the_line_begins_with_the_source_in_question():
    job = made("sensor behind a pad", transmitter(), exact_pad(30.0), exact_sensor())
    assert trouble(job, job.bench) == ""
    assert "its left end" in trouble(replace(job, dut="pad"), job.bench)
    bare = replace(job, plan=(replace(job.plan[0], sequence=()),))
    assert list(flaws(job)) == []
    assert "nothing but the source's own claim" in next(iter(flaws(bare)))


# coverage: truths drawn by nodes


@pytest.mark.parametrize("name", SOURCES)
def test_the_power_of_a_source_lies_where_it_is_said_to(name):
    found = misses(name, 150)
    assert 0.85 < np.std(found) < 1.15
    assert abs(np.mean(found)) < 0.25
    assert np.mean(np.abs(found) < 2.0) > 0.91


@pytest.mark.long
@pytest.mark.parametrize("name", SOURCES)
def test_over_five_thousand_benches(name):
    found = misses(name, 5000)
    assert 0.95 < np.std(found) < 1.05
    assert abs(np.mean(found)) < 0.05
    assert 0.94 < np.mean(np.abs(found) < 2.0) < 0.985


@pytest.mark.long
def test_a_control_with_one_inputs_uncertainty_halved_fails():
    assert np.std(misses("sensor behind a pad", 2000, halved="pad.loss")) > 1.05


# on paper


def test_where_nothing_is_claimed_the_certificate_has_no_columns_for_it():
    def page_of(job):
        result = reduce(job)
        return certificate(room_of("output"), Seen(job, AS_FOUND, result), (), "0")

    bare = page_of(read(made("sensor behind a pad", transmitter(), exact_pad(30.0), exact_sensor()), ["10 dBm"]))
    assert bare.columns == ("frequency", "set", "power ± U", "level ± U", "U")
    assert "Nothing is claimed that could be judged" in bare.verdict
    assert "decision rule" not in dict(bare.facts)
    assert not any("p the probability" in text for text in bare.statements)
    job = made("sensor behind a pad", transmitter(own("own", "own meter")), exact_pad(30.0), exact_sensor())
    judged = page_of(read(job, ["10.2", "10 dBm"]))
    assert judged.columns[-3:] == ("T", "p", "verdict")
    assert judged.rows[0][-1] in ("accept", "cannot decide")
    assert "decision rule" in dict(judged.facts)


@pytest.mark.parametrize("claimed", ["0", "10"])
@pytest.mark.parametrize("milliwatts", [("0", "0", "0"), ("4", "-5", "3"), ("-1", "-2", "800"), ("10", "0", "10")])
def test_whatever_shows_nothing_is_worked_out_and_judged(claimed, milliwatts):
    """A claim of nothing is off by all of it; a sensor that shows nothing in the mean says nothing."""
    source = transmitter(own("setting", "its setting"))
    job = made("sensor behind a pad", source, exact_pad(30.0), exact_sensor(), repeats=3)
    job = read(job, *([claimed, f"{text} mW"] for text in milliwatts))
    room = room_of("output")
    result = room.reduce(job, AS_FOUND, {}, None)
    notes = {note.code for note in room.judge(job, result, WHEN.date(), AS_FOUND, None)}
    seen = Seen(job, AS_FOUND, result)
    mean_w = sum(map(float, milliwatts)) / 3.0

    assert ("reference.shows_nothing" in notes) == (mean_w <= 0)
    assert room.page(seen) and room.table(seen) and room.figures(result, "p1") and room.short(result)
    assert room.judge_entries(job, result, AS_FOUND, "p1") is not None
    if mean_w > 0:
        (point,) = result.points
        assert point.power_w == pytest.approx(mean_w, rel=5e-3)  # less what harmonics add
        assert point.claims[0].error_w == pytest.approx(float(claimed) - point.power_w)
