"""One sensor in the place of another: what both legs share cancels, what each faces doesn't."""

import math
from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pytest

from fenmist.calibration.again import FOR_NOW
from fenmist.calibration.channels import channel_on
from fenmist.kit import generic
from fenmist.kit.part import Property
from fenmist.kit.touchstone import Touchstone, characterisations_from
from fenmist.procedures.comparison.headline import readings_headline
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.reading.event import Slot
from studies.builders import WHEN, enter
from studies.coverage import binomial_limits, observed, predicted
from studies.references import sensor, with_properties
from studies.substitution import AT_COUPLER, ON_GENERATOR, errors, generator, result_of, sensor_job


def typed(job, by_leg, rounds=1):
    """A job with what each instrument showed, by leg and part, in mW (or dBm where it says so)."""
    for point in job.plan:
        for position, name in enumerate(point.sequence):
            text = by_leg[point.leg][job.part_read(name).id]
            for number in range(1, rounds + 1):
                job = enter(job, Slot(point.id, number, position), text if "dBm" in text else f"{text} mW")
    return job


def matched(name: str):
    """A sensor of no reflection, whose factor is exactly 1."""
    return with_properties(sensor(name, swr=1.0), cal_factor=Property(1.0, ""), zero_w=Property(0.0, "W"))


LEGS = {
    "reference": {"ref": "10.0000", "mon": "0.10000"}, "device": {"dev": "11.0000", "mon": "0.12000"},
    "reference again": {"ref": "10.0000", "mon": "0.10000"},
}  # fmt: skip


def test_the_ratio_to_the_monitor_carries_the_power_over():
    """10 mW beside 0.1 mW, then 0.12 mW: 12 mW come in where the device shows 11 (proportion)."""
    (point,) = reduce(typed(sensor_job(AT_COUPLER, ref=matched("ref")), LEGS)).points

    assert point.point.leg == "device"
    assert point.reference_w == pytest.approx(12e-3, rel=2e-4)  # less what harmonics add to each
    assert point.ratio == pytest.approx(11 / 12, rel=2e-4)


def test_what_both_legs_share_cancels_and_what_one_has_counts():
    """The coupler's ratio, ±1 dB, and the monitor's gain, ±3 %, drop out; the reference's own gain, ±3 %, stays."""
    result = reduce(typed(sensor_job(AT_COUPLER), LEGS))
    point = result.points[0]
    rows = {row.influence.id: row.contribution / point.reference_w for row in result.budget(point.point.id)}

    assert max(rows.get(name, 0.0) for name in ("c.coupling", "c.loss", "mon.gain", "mon.cal_factor")) < 1e-9
    assert rows["ref.gain"] == pytest.approx(0.03 / math.sqrt(3.0), rel=0.01)
    assert rows["ref.cal_factor"] == pytest.approx(0.02 / math.sqrt(3.0), rel=0.01)
    digits = 1e-5 / math.sqrt(12.0) / np.array([0.12, 0.1, 0.1])
    assert rows["mon.reading"] == pytest.approx(digits[0], rel=0.02)
    assert rows["mon.reading, reference"] == pytest.approx(digits[1], rel=0.02)


def test_what_the_coupler_shows_of_a_source_is_what_each_sensor_faces():
    """|Γ_GE|² is S22² + 10^(−D/10), here of directivity alone (25 dB, anywhere within: half of it); the pair with a
    sensor of at most SWR 1.4, ρ = 1/6, has u² = 2·(0.00316/2)·(1/36/2) (handbook 3 and 15.9).
    """
    result = reduce(typed(sensor_job(AT_COUPLER), LEGS))
    rows = {row.influence.id: row for row in result.budget(result.points[0].point.id)}
    pair = rows["coupler.out~meter.in.mismatch"]
    other = rows["coupler.out~meter.in.mismatch, reference"]
    stated = result.job.part("c").properties.get("swr")
    own = ((stated.value - 1) / (stated.value + 1)) ** 2 / 2 if stated else 0.0

    assert pair.influence.standard_u[0] == pytest.approx(math.sqrt(2 * (own + 10**-2.5 / 2) * (1 / 36 / 2)), rel=1e-6)
    assert other.influence.standard_u[0] == pytest.approx(
        math.sqrt(2 * (own + 10**-2.5 / 2) * ((0.3 / 2.3) ** 2 / 2)), rel=1e-6
    )


def test_of_a_measured_coupler_what_a_sensor_faces_is_its_own_figure():
    """Γ_GE = S22 − S21·S32/S31 = 0.2 − 1·0.01/0.1 = 0.1 (handbook 15.9), against a sensor of at most ρ = 1/6."""
    s = np.array([[0.0, 1.0, 0.1], [1.0, 0.2, 0.01], [0.1, 0.01, 0.0]], complex) * np.ones((2, 1, 1))
    tables = characterisations_from(Touchstone(np.array([1e6, 100e6]), s, 50.0), "coupler.s3p")
    coupler = replace(generic.coupler("c", "coupler", 20.0, 25.0, 0.1, 200.0), properties={}, characterisations=tables)
    coupler = replace(coupler, ports=coupler.ports[:3])
    result = reduce(typed(sensor_job(AT_COUPLER, c=coupler), LEGS))
    rows = {row.influence.id: row for row in result.budget(result.points[0].point.id)}

    assert rows["coupler.out~meter.in.mismatch"].influence.standard_u[0] == pytest.approx(
        math.sqrt(2.0 * 0.1**2 * (1 / 36 / 2)), rel=1e-6
    )


@pytest.mark.parametrize("swr", [1.1, 2.0])
def test_without_a_coupler_they_face_the_source_itself(swr):
    """Its level says the same both times: u² = 2·(ρ_g²/2)·(ρ_s²/2) for each sensor; its gain, ±10 %, drops out."""
    nothing = with_properties(generic.attenuator("pad", "pad", 0.0, 0.0, 1.0), swr=Property(1.0, ""))
    job = sensor_job(ON_GENERATOR, g=generator(swr), pad=nothing)
    legs = {leg: {**texts, "g": "10.00 dBm"} for leg, texts in LEGS.items()}
    result = reduce(typed(job, legs))
    rows = {row.influence.id: row for row in result.budget(result.points[0].point.id)}
    rho = (swr - 1) / (swr + 1)

    assert result.points[0].reference_w == pytest.approx(10e-3 / 0.97, rel=1e-3)
    assert rows["generator.out~meter.in.mismatch"].influence.standard_u[0] == pytest.approx(
        math.sqrt(2 * rho**2 / 2 * (1 / 36 / 2)), rel=1e-6
    )
    assert "g.gain" not in rows or rows["g.gain"].contribution < 1e-9


def test_two_monitors_count_as_their_mean():
    """The coupler's says 1.2 times as much beside the device, the source's own level the same: 10 mW·√1.2; the device's
    ratio to both scatters by as much as it does to each.
    """
    job = sensor_job(AT_COUPLER, ref=matched("ref"))
    more = []
    for hookup in job.hookups:
        known = {item.id for item in (*job.channels, *more)}
        more.append(channel_on(hookup, "generator", job.part("g"), known))
    added = {item.hookup: item.id for item in more}
    plan = tuple(replace(point, sequence=(*point.sequence, added[point.hookup])) for point in job.plan)
    job = replace(job, channels=(*job.channels, *more), plan=plan)
    legs = {leg: {**texts, "g": "10.00 dBm"} for leg, texts in LEGS.items()}
    (point,) = reduce(typed(job, legs)).points
    assert point.reference_w == pytest.approx(10e-3 * 1.2**0.5, rel=1e-3)

    moving = {**legs, "device": {**legs["device"]}}
    read = typed(job, moving)
    slot = Slot(read.plan[1].id, 2, 0)
    for position, name in enumerate(read.plan[1].sequence):
        text = {"dev": "11.2 mW", "mon": "0.12000 mW", "g": "10.00 dBm"}[read.part_read(name).id]
        read = enter(read, replace(slot, position=position), text)
    result = reduce(read)
    rows = [row for row in result.budget(result.points[0].point.id) if row.influence.id.startswith("repeat")]
    u = math.log(11.2 / 11.0) / math.sqrt(2.0) / math.sqrt(2.0)  # of the mean of two
    own = [row for row in rows if ", reference" not in row.influence.id]
    assert [row.influence.standard_u[0] for row in own] == pytest.approx([u, u], rel=1e-3)
    assert [row.contribution for row in own] == pytest.approx([u / 2 * result.points[0].indicated_w] * 2, rel=2e-2)


def test_what_moved_between_the_visits_is_a_limit():
    """ln(ref/monitor) moves by 2 % from the first visit to the last: half of it either way, rectangular; where each was
    read once that is the scatter of both.
    """
    legs = {**LEGS, "reference again": {"ref": "10.2020", "mon": "0.10000"}}
    once = reduce(typed(sensor_job(AT_COUPLER), legs))
    assert not [row for row in once.budget(once.points[0].point.id) if row.influence.id.startswith("between")]
    result = reduce(typed(sensor_job(AT_COUPLER), legs, rounds=2))
    row = next(row for row in result.budget(result.points[0].point.id) if row.influence.id.startswith("between"))

    assert row.influence.standard_u[0] == pytest.approx(math.log(1.0202) / 2 / math.sqrt(3.0), rel=1e-6)
    both = {**LEGS, "reference again": {"ref": "10.2020", "mon": "0.10202"}}  # the carrier moved, no ratio did
    result = reduce(typed(sensor_job(AT_COUPLER), both, rounds=2))
    rows = result.budget(result.points[0].point.id)
    assert not any(row.influence.id.startswith("between") and row.influence.standard_u[0] > 1e-6 for row in rows)


@pytest.mark.parametrize(("drifting", "part"), [("reference", 0.5), ("device", 1.0)])
def test_a_carrier_that_drifts_during_either_visit_is_a_limit(drifting, part):
    """5 % a round, read every 20 s: half a round from monitor to sensor; of two visits to the reference half of it."""
    made, moment = sensor_job(AT_COUPLER), WHEN
    for point in made.plan:
        for number in (1, 2, 3):
            for position, name in enumerate(point.sequence):
                factor = 1.05 ** (number - 1) if point.leg == drifting else 1.0
                value = factor * float(LEGS[point.leg][made.part_read(name).id])
                made = enter(made, Slot(point.id, number, position), f"{value:.6f} mW")
                event, moment = made.events[-1], moment + timedelta(seconds=20)
                timed = replace(event, entry=replace(event.entry, observed_at=moment))
                made = replace(made, events=(*made.events[:-1], timed))

    (point,) = reduce(made).points
    assert point.drift_limit == pytest.approx(part * math.log(1.05) / 2.0, rel=1e-3)


def test_the_headline_waits_for_each_visit():
    made = sensor_job(AT_COUPLER)
    device = next(point for point in made.plan if point.leg == "device")

    assert readings_headline(made, reduce(made), device).endswith("the error appears once each visit was read.")
    read = typed(made, LEGS)
    assert readings_headline(read, reduce(read), device).startswith("At ")


def test_one_leg_alone_says_nothing_and_a_change_of_either_is_worked_out_again():
    made = sensor_job(AT_COUPLER)
    part = {leg: texts for leg, texts in LEGS.items() if leg == "device"}
    bare = replace(made, plan=tuple(point for point in made.plan if point.leg in part))
    assert reduce(typed(bare, part)).points == ()

    read = typed(made, LEGS)
    before = reduce(read)
    slot = Slot(read.plan[0].id, 2, 0)
    again = enter(enter(read, slot, "10.1 mW"), replace(slot, position=1), "0.1 mW")
    kept = reduce(again, former=before)
    assert kept.points == reduce(again).points
    assert kept.points != before.points


def test_while_one_types_both_visits_are_worked_out_as_at_rest():
    read = typed(sensor_job(AT_COUPLER), LEGS)
    (now,), (later,) = reduce(read, most=0).points, reduce(read).points

    assert (now.engine, later.engine) == (FOR_NOW, "linear")
    assert (now.error_w, now.expanded_u_w) == (later.error_w, later.expanded_u_w)


def test_one_visit_to_the_reference_is_enough_to_say_what_the_device_shows():
    """Two of three visits: 12 mW come in where the device shows 11."""
    legs = {leg: texts for leg, texts in LEGS.items() if leg != "reference again"}
    made = sensor_job(AT_COUPLER, ref=matched("ref"))
    made = replace(made, plan=tuple(point for point in made.plan if point.leg in legs))
    (point,) = reduce(typed(made, legs)).points

    assert reduce(typed(made, legs), most=0).points[0].ratio == point.ratio
    assert point.ratio == pytest.approx(11 / 12, rel=2e-4)
    assert point.references == ()


def test_scatter_of_the_devices_rounds_counts_as_it_is():
    """The device's ratio to the monitor scatters by s over three rounds: s/√3 of the error, once."""
    read = typed(sensor_job(AT_COUPLER), LEGS, rounds=3)
    device = next(point for point in read.plan if point.leg == "device")
    shown = (11.0, 11.2, 10.9)
    place = next(n for n, name in enumerate(device.sequence) if read.part_read(name).id == "dev")
    for number, value in enumerate(shown, start=1):
        read = enter(read, Slot(device.id, number, place), f"{value} mW")
    result = reduce(read)
    (point,) = result.points
    row = next(row for row in result.budget(device.id) if row.influence.id == "repeat")
    spread = np.log(shown).std(ddof=1) / math.sqrt(3.0)

    assert row.influence.standard_u[0] == pytest.approx(spread, rel=1e-6)
    assert row.contribution == pytest.approx(spread * np.exp(np.log(shown).mean()) * 1e-3, rel=1e-3)
    assert point.rounds == 3


@pytest.mark.parametrize("trials", [80, pytest.param(2000, marks=pytest.mark.long)])
@pytest.mark.parametrize("template", [AT_COUPLER, ON_GENERATOR], ids=lambda item: item.label)
def test_what_is_stated_of_a_sensor_covers_the_truth(template, trials):
    found = errors(template, trials)
    sample = result_of(sensor_job(template), np.random.default_rng(1))
    low, high = binomial_limits(predicted(sample.log_ratio), trials)

    assert low <= observed(found) <= high
    assert found.std() == pytest.approx(1.0, abs=0.05 + 2.0 / math.sqrt(trials))
    assert found.mean() == pytest.approx(0.0, abs=0.05 + 3.0 / math.sqrt(trials))


def test_the_control_with_half_of_the_references_gain_fails():
    assert errors(ON_GENERATOR, 120, halved="ref.gain").std() > 1.2


def test_what_is_read_without_the_device_is_judged_by_what_it_has():
    """Rounds of the reference alone have no ratio: rules on ratios leave them out."""
    made = typed(sensor_job(AT_COUPLER), {**LEGS, "device": {"dev": "1.1", "mon": "0.12000"}})
    found = [note.code for note in judge(made, reduce(made), date(2026, 11, 24)) if note.code.startswith("entry.")]

    assert "entry.decimal_slip" in found or "entry.slip" in found
