"""What a meter shows on modulation: fractions, budgets, detectors told apart, and simulated meters of every kind."""

import math
from dataclasses import replace
from datetime import date

import numpy as np
import pytest

from fenmist.calibration.decision import Verdict
from fenmist.measurand import Detector
from fenmist.methods.detectors import told_apart
from fenmist.procedures.modulation import figures, headline, page
from fenmist.procedures.modulation.asked import job_draft, job_from_draft
from fenmist.procedures.modulation.bench import flaws
from fenmist.procedures.modulation.make import CLAIM, PEP_HELD, SCALE
from fenmist.procedures.modulation.reduction import predict, reduce
from fenmist.procedures.modulation.rules import judge, judge_entries
from fenmist.procedures.procedure import Seen
from fenmist.reading.dial import reading_u
from fenmist.reading.event import AS_FOUND, Reading, Slot
from fenmist.waveform.shapes import Am, TwoTone
from studies.builders import enter
from studies.modulated import DRIVES, WAVES, drawn_circuits, fractions_of, modulated_job, typed

DAY = date(2026, 11, 28)
AVERAGING = {"carrier": 100.0, "two-tone 200 Hz": 40.5, "dots 20 Hz": 25.0, "dots 1 Hz": 25.0}
PEAK = dict.fromkeys(WAVES, 100.0)
HOLD = {"carrier": 100.0, "two-tone 200 Hz": 92.5, "dots 20 Hz": 98.1, "dots 1 Hz": 79.1}
THERMAL = {"carrier": 100.0, "two-tone 200 Hz": 50.0, "dots 20 Hz": 50.0, "dots 1 Hz": 50.0}


def codes(job, result):
    return [note.code for note in judge(job, result, DAY) if note.code.startswith("modulation")]


def test_a_fraction_with_its_budget_written_out():
    """A needle of 200 W on quarter divisions, 0.2 dB, a scale of 3 % of the way between both readings."""
    made = typed(modulated_job(), AVERAGING)
    result = reduce(made)
    item = result.of("p2")
    used = made.range_of(item.point, "wattmeter")
    assert used is not None
    rows = {row.influence.id: row for row in result.budget("p2")}
    root = math.sqrt(3.0)

    assert item.fraction == pytest.approx(0.405)
    assert rows["pep"].contribution == pytest.approx(0.2 * math.log(10) / 10 / root)
    assert rows["scale"].contribution == pytest.approx(0.03 * (1 - 0.405) / root)
    # the same reading error in watts weighs 1/0.405 times as much where less is shown
    assert rows["shown"].contribution > rows["carrier"].contribution > 0.0
    u = math.sqrt(sum(row.contribution**2 for row in rows.values()))
    assert item.u_log == pytest.approx(u)
    low, high = item.interval
    assert (low, high) == pytest.approx((0.405 * math.exp(-item.k * u), 0.405 * math.exp(item.k * u)))
    assert item.stated.value == pytest.approx(-59.5)
    assert item.stated.interval == pytest.approx((100 * (low - 1), 100 * (high - 1)))
    assert item.stated.u == pytest.approx(100 * 0.405 * u)


def test_pep_held_better_and_a_better_scale_make_it_better_known():
    plain = reduce(typed(modulated_job(), AVERAGING)).of("p2").u_log
    parts = {"pep": 0.2 * math.log(10) / 10, "scale": 0.03 * 0.595}
    for name, parameter in (("pep", PEP_HELD), ("scale", SCALE)):
        better = reduce(typed(modulated_job(**{parameter: 0.0}), AVERAGING)).of("p2").u_log
        assert plain**2 - better**2 == pytest.approx((parts[name] / math.sqrt(3)) ** 2)


def test_scatter_counts_at_the_waveform_and_at_the_carrier():
    """Three rounds each: standard deviation of logarithms over √3, two degrees of freedom."""
    made = modulated_job(rounds=3)
    readings = {"p1": (100, 103, 98), "p2": (40.5, 41.5, 39.5)}
    from fenmist.reading.event import Slot
    from studies.builders import enter

    for point, values in readings.items():
        for number, value in enumerate(values, start=1):
            made = enter(made, Slot(point, number, 0), str(value))
    result = reduce(made)
    rows = {row.influence.id: row for row in result.budget("p2")}

    for name, point in (("repeat.carrier", "p1"), ("repeat", "p2")):
        logs = np.log(readings[point])
        assert rows[name].contribution == pytest.approx(np.std(logs, ddof=1) / math.sqrt(3))
        assert rows[name].influence.dof[0] == 2.0
    assert result.of("p2").fraction == pytest.approx(math.exp(np.mean(np.log(readings["p2"]) - np.log(readings["p1"]))))


def test_a_crest_that_is_seen_takes_the_place_of_what_the_source_is_said_to_hold():
    """The oscilloscope shows 2 % fewer volts at the dots: 4 % less PEP, so the same reading is a larger fraction."""
    volts = dict.fromkeys(WAVES, 200.0) | {"dots 20 Hz": 196.0}
    made = typed(modulated_job(seen=True), HOLD, volts)
    result = reduce(made)

    assert result.of("p3").fraction == pytest.approx(0.981 / 0.98**2, rel=1e-4)
    rows = {row.influence.id for row in result.budget("p3")}
    assert "pep" not in rows
    assert {"crest", "crest.carrier"} <= rows
    step = 0.01 / math.sqrt(12) / 196.0  # "196.00 Vpp"
    assert next(r for r in result.budget("p3") if r.influence.id == "crest").contribution == pytest.approx(2 * step)
    assert "seen by" in dict(page.page(Seen(made, "as found", result)).facts)["PEP"]


@pytest.mark.parametrize(("shown_w", "kind", "code", "severity"), [
    (AVERAGING, Detector.AVERAGE, "modulation.averages", "doubt"),
    (THERMAL, Detector.THERMAL, "modulation.averages", "doubt"),
    (HOLD, Detector.HOLD, "modulation.only_a_hold", "doubt"),
    (PEAK, Detector.PEAK, "modulation.honest_peak", "good to know"),
])  # fmt: skip
def test_each_kind_is_called_by_its_name(shown_w, kind, code, severity):
    made = typed(modulated_job(), shown_w)
    result = reduce(made)
    ((some, told),) = result.told
    note = next(item for item in judge(made, result, DAY) if item.code == code)

    assert told.likeliest is kind and told.is_sure
    assert len(some) == 3
    assert str(note.severity) == severity
    assert sum(told.odds.values()) == pytest.approx(1.0)
    assert codes(made, result) == [code]


def test_a_hold_tells_its_decay():
    """HOLD is what τ = 10 ms and T = 1 s show (test_movement.py): 1 s lies within what is said of the decay."""
    ((_, told),) = reduce(typed(modulated_job(), HOLD)).told
    low, middle, high = told.decay_s

    assert low < 1.0 < high and 0.7 < middle < 1.4
    assert told.predicted[Detector.HOLD] == pytest.approx([0.925, 0.981, 0.791], abs=0.03)


def test_what_fits_none_isnt_forced():
    made = typed(modulated_job(), {**AVERAGING, "dots 1 Hz": 90.0})
    result = reduce(made)
    assert result.told[0][1].likeliest is None
    assert codes(made, result) == ["modulation.none_of_them"]
    assert "none of the four kinds" in headline.results_headline(made, result)


def test_without_slow_dots_a_hold_and_a_peak_look_alike():
    made = typed(modulated_job(("carrier", "dots 20 Hz")), {"carrier": 100.0, "dots 20 Hz": 99.0})
    result = reduce(made)
    note = next(item for item in judge(made, result, DAY) if item.code == "modulation.not_told")

    assert not result.told[0][1].is_sure
    assert "dots of one a second" in note.remedy
    assert "can't be told yet" in headline.results_headline(made, result)


@pytest.mark.parametrize(("claim", "at", "accepted"), [
    (0.0, AVERAGING, False), (0.0, PEAK, True), (1.0, THERMAL, True), (1.0, AVERAGING, False), (2.0, AVERAGING, None),
])  # fmt: skip
def test_it_is_judged_by_what_it_claims(claim, at, accepted):
    """PEP: the carrier's reading; the mean: half of it on tones and dots."""
    made = modulated_job(**{CLAIM: claim})
    wider = replace(made, tolerance=replace(made.tolerance, value=0.1))
    for item in reduce(typed(wider, at)).points:
        verdict = item.decision and item.decision.verdict
        assert verdict is {True: Verdict.ACCEPT, False: Verdict.REJECT, None: None}[accepted]
        assert item.tolerance == (0.0 if accepted is None else 0.1)


def test_a_carrier_that_moved_and_a_crest_beyond_it_are_said():
    waves = ("carrier", "two-tone 200 Hz", "carrier again")
    moved = typed(modulated_job(waves), {"carrier": 100.0, "two-tone 200 Hz": 50.0, "carrier again": 85.0})
    assert "modulation.carrier_moved" in codes(moved, reduce(moved))
    stands = typed(modulated_job(waves), {"carrier": 100.0, "two-tone 200 Hz": 50.0, "carrier again": 98.0})
    assert "modulation.carrier_moved" not in codes(stands, reduce(stands))
    beyond = typed(modulated_job(), {**PEAK, "two-tone 200 Hz": 120.0})
    assert "modulation.beyond_pep" in codes(beyond, reduce(beyond))


def test_the_page_says_what_each_detector_would_show():
    made = typed(modulated_job(), AVERAGING)
    result = reduce(made)
    shown_page = page.page(Seen(made, "as found", result))
    text = [cell.replace("\u202f", " ") for cell in shown_page.rows[0]]

    assert text[2:4] == ["two-tone 200 Hz", "40.5 W"]
    assert text[5:] == ["50 %", "41 %", "2.47", "reject"]
    assert "averaging more than 99" in shown_page.statements[0].replace("\u202f", " ")
    assert "dots, 20 a second" in shown_page.statements[1]
    assert "steady carrier at the same setting" in shown_page.statements[2]
    (headings, *rows) = page.table(Seen(made, "as found", result))
    row = dict(zip(headings, rows[0], strict=True))
    assert (row["fraction"], row["claimed fraction"], row["off / %"]) == pytest.approx((0.405, 1.0, -59.5))
    assert row["averaging would show"] == pytest.approx((2 / math.pi) ** 2)
    assert row["odds of averaging"] > 0.99 and row["verdict"] == "reject"
    lid, bench = page.cards(Seen(made, "as found", result), "7")
    assert lid.rows[0][1:] == ("×2.47", "×4", "×4") and bench.columns[1:] == WAVES[1:]


def test_what_runs_along_and_its_picture():
    made = typed(modulated_job(), {key: AVERAGING[key] for key in ("carrier", "two-tone 200 Hz")})
    result = reduce(made)
    first, second, third, _ = made.plan

    assert "now the other waveforms" in headline.readings_headline(made, result, first)
    assert "On two equal tones it shows 40.5" in headline.readings_headline(made, result, second)
    assert "Send dots, 20 a second, 50 % on, PEP 100" in headline.readings_headline(made, result, third)
    assert figures.figures(result, "p2").value == "40.5\u202f%"
    assert figures.figures(result, "p3").value == "—"
    picture = figures.marks(result, "p2")
    assert [row.name for row in picture.rows] == ["two-tone 200 Hz"]
    assert {mark.name: round(mark.value, 3) for mark in picture.rows[0].marks} == {
        "thermal": 0.5, "averaging": 0.405, "hold": pytest.approx(0.453, abs=0.01), "true peak": 1.0
    }  # fmt: skip
    assert figures.marks(result, "p3") is None
    nothing = reduce(modulated_job())
    assert nothing.points == () and nothing.quantities == {} and nothing.told == ()
    assert "missing before a detector" in headline.results_headline(nothing.job, nothing)


def test_one_more_entry_is_as_the_whole_worked_out_anew():
    part = typed(modulated_job(), {key: HOLD[key] for key in WAVES[:2]})
    before = reduce(part)
    whole = typed(modulated_job(), HOLD)
    step = typed(replace(part, plan=part.plan[2:]), HOLD)
    grown = replace(part, events=step.events)
    again, anew = reduce(grown, "as found", {}, before), reduce(whole)

    assert [item.fraction for item in again.points] == pytest.approx([item.fraction for item in anew.points])
    assert again.told[0][1].odds[Detector.HOLD] == pytest.approx(anew.told[0][1].odds[Detector.HOLD])
    assert judge_entries(grown, again, "as found", "p3") == ()


def test_what_is_asked_comes_back_and_what_makes_no_sense_is_said():
    made = modulated_job()
    draft = job_draft(made)
    assert draft["waveforms"] == "; ".join(WAVES)
    same = job_from_draft(made, draft)
    assert replace(same, tolerance=made.tolerance) == made
    changed = job_from_draft(made, {**draft, "claim": "the mean", "pep_held": "0.1 dB", "scale": "1 %"})
    assert (changed.method.parameters[CLAIM], changed.method.parameters[PEP_HELD]) == (1.0, 0.1)
    assert job_draft(changed)["scale"] == "1 %"
    bare = replace(made, plan=())
    other = job_from_draft(bare, {**draft, "waveforms": "carrier; AM 80 %;  dots 4 Hz"})
    assert [leg.id for leg in other.legs] == ["carrier", "AM 80 %", "dots 4 Hz"]
    for wrong in (
        {"waveforms": "two-tone; carrier"}, {"waveforms": "carrier"}, {"waveforms": "carrier; speech"},
        {"waveforms": "carrier; dots; dots"}, {"waveforms": "carrier; whistle"}, {"pep_held": "x"}, {"scale": "80 %"},
        {"tolerance": "0.3 dB"}, {"tolerance": "5 % of reading + 1 digit"},
    ):  # fmt: skip
        problems = job_from_draft(bare, {**draft, **wrong})
        assert isinstance(problems, tuple) and problems[0].field == next(iter(wrong))
    assert job_from_draft(made, {**draft, "waveforms": "carrier; dots 4 Hz"})[0].field == "waveforms"
    assert list(flaws(made)) == []
    assert list(flaws(replace(made, legs=made.legs[1:])))


def test_what_is_predicted_is_what_is_sent():
    expected = typed(modulated_job(), PEAK)
    assert [item.value for item in predict(expected)] == pytest.approx([0.0, 0.0, 0.0], abs=1e-9)


def test_odds_are_those_of_normal_likelihoods_written_out():
    """Two waveforms, two kinds by hand: the ratio of their odds is that of exp(-r'V⁻¹r/2)."""
    waves, fractions = (TwoTone(), Am(0.5)), np.array([0.46, 0.47])
    covariance = np.array([[4e-3, 1e-3], [1e-3, 5e-3]])
    told = told_apart(waves, fractions, covariance)
    chi = {
        kind: (left := np.log(fractions / np.array(values))) @ np.linalg.solve(covariance, left)
        for kind, values in {
            Detector.THERMAL: (0.5, 1.125 / 2.25), Detector.AVERAGE: ((2 / math.pi) ** 2, 1 / 2.25),
        }.items()
    }  # fmt: skip
    ratio = told.odds[Detector.THERMAL] / told.odds[Detector.AVERAGE]
    assert ratio == pytest.approx(math.exp((chi[Detector.AVERAGE] - chi[Detector.THERMAL]) / 2))
    density = math.exp(-chi[Detector.THERMAL] / 2) / (2 * math.pi * math.sqrt(np.linalg.det(covariance)))
    assert told.odds[Detector.THERMAL] / told.odds[None] == pytest.approx(density * math.log(1.3 / 0.02) ** 2)


CALLED = {"thermal": Detector.THERMAL, "averaging": Detector.AVERAGE, "hold": Detector.HOLD, "peak": Detector.PEAK}


@pytest.mark.parametrize("count", [200, pytest.param(1000, marks=pytest.mark.long)])
def test_simulated_meters_are_called_by_their_names_and_their_fractions_are_covered(count):
    """Circuits stepped through time, read with what a bench is uncertain by; a control of a third of U fails."""
    rng = np.random.default_rng(11)
    circuits = drawn_circuits(count, rng)
    truth = fractions_of(circuits)
    names = list(DRIVES)
    template = typed(modulated_job(), {"carrier": 100.0} | dict.fromkeys(names, 50.0))
    held, scale_u = 0.2 * math.log(10) / 10, 0.03
    right = covered = narrow = 0
    for n in range(count):
        f = np.array([truth[name][n] for name in names])
        carrier = rng.uniform(-1, 1) * 0.25
        scale = rng.uniform(-1, 1) * scale_u
        seen = {
            name: PEAK["carrier"] * value * math.exp(rng.uniform(-1, 1) * held + scale * (1 - value))
            + rng.uniform(-1, 1) * 0.25
            for name, value in zip(names, f, strict=True)
        }
        made = typed(replace(template, events=()), {"carrier": 100.0 + carrier, **seen})
        result = reduce(made)
        ((_, told),) = result.told
        right += told.likeliest is CALLED[str(circuits.kind[n])]
        item = result.points[n % 3]
        covered += item.interval[0] <= f[n % 3] <= item.interval[1]
        narrow += abs(math.log(item.fraction / f[n % 3])) <= item.k * item.u_log / 3.0
    assert right / count >= 0.97
    assert covered / count > 0.9545 - 3 * math.sqrt(0.9545 * 0.0455 / count)
    assert narrow / count < 0.9


def test_where_every_reading_was_replaced_by_what_cannot_be_read_nothing_is_left_and_nothing_breaks():
    made = typed(modulated_job(), AVERAGING)
    former = reduce(made)
    assert former.told
    for point in made.plan:
        for position in range(len(point.sequence)):
            made = enter(made, Slot(point.id, 1, position), "off scale")
    left = reduce(made, former=former)

    assert left.points == left.told == ()
    assert page.page(Seen(made, AS_FOUND, left)).rows == ()


def test_a_meter_that_shows_nothing_shows_what_cannot_be_told_from_nothing():
    """The quarter of a division that an eye can't tell, in W: the fraction is at most a few times that, and said."""
    made = typed(modulated_job(), {**AVERAGING, "dots 1 Hz": 0.0})
    result = reduce(made)
    item = next(one for one in result.points if one.point.leg == "dots 1 Hz")
    used = made.range_of(item.point, "wattmeter")
    least = reading_u(Reading(0.0, "W", 0.0), used, made.part_of_division)

    assert item.fraction == pytest.approx(least / 100.0, rel=1e-6)
    assert item.fraction < item.interval[1] < 10.0 * item.fraction
    assert item.interval[0] > 0.0
    assert judge(made, result, DAY)
    assert item.shown_w == pytest.approx(0.0, abs=1e-12)
