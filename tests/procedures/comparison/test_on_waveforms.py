"""A comparison on anything but a steady carrier: like with like, what is known of the shape, what can't be decided."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.calibration.decision import Verdict
from fenmist.calibration.expected import expected_si
from fenmist.calibration.prediction import predicted
from fenmist.calibration.rounds import readings_by_point, scatter
from fenmist.kit.part import Times
from fenmist.measurand import Detector
from fenmist.procedures.comparison.adjust import turnables
from fenmist.procedures.comparison.chart import error_chart
from fenmist.procedures.comparison.correction import correction_table
from fenmist.procedures.comparison.page import cards, page
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.procedures.comparison.surface import stands_for
from fenmist.procedures.comparison.tables import result_rows, result_table
from fenmist.procedures.output.page import page as output_page
from fenmist.procedures.output.reduction import reduce as reduce_output
from fenmist.procedures.procedure import Seen
from fenmist.reading.event import Slot
from studies.builders import WHEN, enter, job, on_many, read
from studies.references import DEVICE, LEVEL, behind_a_pad, drawn, shown, without_device


def sending(made, waveform, detector=Detector.AVERAGE, times=None):
    """The job with a waveform at each point, and a detector in its device."""
    part = made.dut_part
    kept = times or part.indicators[0].times
    part = replace(part, indicators=tuple(replace(i, detector=detector, times=kept) for i in part.indicators))
    made = made.with_part(part)
    return replace(made, plan=tuple(replace(point, waveform=waveform) for point in made.plan))


def across_load(waveform, detector, volts, watts, **plan):
    made = sending(job(level_w=100.0, **plan), waveform, detector)
    return read(made, *[(volts, watts)] * 2)


@pytest.mark.parametrize(
    ("waveform", "detector", "volts", "share"),
    [
        ("two-tone", Detector.AVERAGE, "200 Vpp", (2 / math.pi) ** 2), ("two-tone", Detector.THERMAL, "200 Vpp", 0.5),
        ("two-tone", Detector.PEAK, "200 Vpp", 1.0), ("two-tone", Detector.HOLD, "200 Vpp", 1.0),
        ("two-tone", Detector.AVERAGE, "50 Vrms", (2 / math.pi) ** 2), ("AM", Detector.THERMAL, "200 Vpp", 0.375),
        ("dots 20 Hz 40 %", Detector.AVERAGE, "200 Vpp", 0.16),
    ],
)  # fmt: skip
def test_a_perfect_meter_of_any_kind_has_no_error(waveform, detector, volts, share):
    """100 W PEP of two tones are 200 Vpp, or 50 Vrms (half the power), across 50 Ω; each meter shows its part."""
    plain = reduce(job([[("200 Vpp", "100")] * 2], level_w=100.0)).points[0]
    made = across_load(waveform, detector, volts, f"{plain.reference_w * share:.6g}", repeats=2)
    point = reduce(made).points[0]

    assert point.ratio == pytest.approx(1.0, abs=2e-3)
    assert point.reference_w == pytest.approx(share * plain.reference_w, rel=2e-3)
    assert point.part == pytest.approx(share)
    assert reduce(made).power_at("p1")[1] == pytest.approx(plain.reference_w, rel=2e-3)
    assert point.tolerance_w == pytest.approx(plain.tolerance_w)  # of full scale, in what the meter shows
    codes = {note.code for note in judge(made, reduce(made), WHEN.date())}
    assert not codes & {"round.other_level", "entry.wrong_form", "meter.wrong_arc", "entry.power_off"}


def test_a_peak_button_that_leaks_is_low_by_what_it_leaks():
    true = reduce(job([[("200 Vpp", "100")] * 2], level_w=100.0)).points[0].reference_w
    point = reduce(across_load("two-tone", Detector.HOLD, "200 Vpp", f"{0.9 * true:.6g}", repeats=2)).points[0]

    assert point.error_fraction == pytest.approx(-0.1, abs=1e-4)
    assert point.decision.verdict is not Verdict.CANNOT_DECIDE


@pytest.mark.parametrize(("waveform", "volts"), [("unknown", "200 Vpp"), ("unknown", "50 Vrms")])
def test_what_nobody_knows_decides_nothing_and_a_carrier_is_the_remedy(waveform, volts):
    made = across_load(waveform, Detector.AVERAGE, volts, "40", repeats=2)
    result = reduce(made)
    notes = {note.code: note for note in judge(made, result, WHEN.date())}

    assert result.points[0].decision.verdict is Verdict.CANNOT_DECIDE
    assert not result.points[0].is_reference
    assert "steady carrier at the same setting" in notes["waveform.cannot_decide"].remedy
    assert predicted(made)[0].blocked.endswith("send a steady carrier")


def test_a_hold_is_no_reference_until_its_times_are_known():
    made = without_device("better meter in line")
    held = replace(made.part("b").indicators[0], detector=Detector.HOLD)

    def at(times):
        part = replace(made.part("b"), indicators=(replace(held, times=times),))
        sent = made.with_part(part)
        sent = replace(sent, plan=tuple(replace(point, waveform="two-tone") for point in sent.plan))
        for position, channel in enumerate(sent.order):
            sent = enter(sent, Slot("p1", 1, position), "8" if channel == "b" else "1 V")
        return reduce_output(sent)

    assert not at(Times()).points[0].is_reference
    known = at(Times(0.01, 1.0))
    assert known.points[0].is_reference
    rows = {row.influence.id: row.share for row in known.budget("p1")}
    assert rows["b.waveform"] > 0.01


def test_the_shape_is_one_influence_that_thermal_and_averaging_meters_share():
    """Dots known to ±10 %: mean d, mean volts squared d²; their ratio moves by 10 %, PEP by thermal by as much."""
    made = sending(behind_a_pad(), "dots 20 Hz 50 % ± 10 %")
    bench, rng = drawn(made, np.random.default_rng(3)), np.random.default_rng(4)
    for position, channel in enumerate(made.plan[0].sequence):
        text = shown(made, bench, channel, rng)
        number, _, unit = text.partition(" ")
        share = 0.25 if made.is_device(channel) else 0.5
        made = enter(made, Slot("p1", 1, position), f"{float(number) * share:.6g} {unit}")
    result = reduce(made)
    error, rows = result.points[0], {row.influence.id: row for row in result.budget("p1")}

    steady = reduce(sending(made, "")).points[0]
    assert error.ratio == pytest.approx(steady.ratio * 0.5 / 0.25, rel=1e-6)
    # reference·d²/d: relative change d, 10 % rectangular; both ends of d² are taken, the further one counts
    wanted = error.reference_w * ((0.55**2 - 0.25) / 0.25 - 0.1) / math.sqrt(3)
    assert rows["waveform"].contribution == pytest.approx(wanted, rel=1e-3)
    assert result.log_ratio.u[0] < 0.1


@pytest.mark.parametrize("benches", [120, pytest.param(2000, marks=pytest.mark.long)])
def test_stated_uncertainties_hold_where_the_true_duty_isnt_what_is_said(benches):
    """The sensor truly shows P·d, the meter P·d²·its gain, d anywhere within ±10 % of what is said."""
    empty = sending(behind_a_pad(), "dots 20 Hz 50 % ± 10 %")
    rng, found = np.random.default_rng(8), []

    def read(made, plan):
        bench, duty = drawn(empty, rng), 0.5 * (1.0 + 0.1 * rng.uniform(-1.0, 1.0))
        for position, channel in enumerate(plan[0].sequence):
            number, _, unit = shown(made, bench, channel, rng).partition(" ")
            part = duty**2 if made.is_device(channel) else duty
            made = enter(made, Slot(plan[0].id, 1, position), f"{float(number) * part:.6g} {unit}")
        return made

    for result in map(reduce, on_many(empty, benches, read)):
        for point, log in zip(result.points, result.log_ratio.value, strict=True):
            _, value, high = result.power_at(point.point.id)
            found.append(math.log(value / LEVEL) / math.log(high / value))
            assert point.ratio == pytest.approx(math.exp(log))
    inside = np.mean(np.abs(found) <= 1.0)
    assert inside >= 0.91
    assert np.std(found) > 0.3  # not covered by mere width


def test_what_is_expected_and_predicted_of_each_channel_is_its_part():
    plain, sent = job(level_w=100.0), sending(job(level_w=100.0), "two-tone")

    assert expected_si(sent, sent.plan[0], "meter") == pytest.approx(100.0 * (2 / math.pi) ** 2)
    assert expected_si(sent, sent.plan[0], "scope") == pytest.approx(expected_si(plain, plain.plan[0], "scope"))
    assert predicted(sent)[0].tolerance == pytest.approx(predicted(plain)[0].tolerance / (2 / math.pi) ** 2)


def test_rounds_show_what_was_shown_and_compare_what_it_stands_for():
    made = across_load("two-tone", Detector.THERMAL, "200 Vpp", "50", repeats=2)
    (found,) = readings_by_point(made)
    mean = scatter(made, (found,))

    assert found.rounds[0].log_dut == pytest.approx(math.log(100.0))
    assert mean.device[0].watts == pytest.approx([50.0])
    assert mean.references[0].value == pytest.approx([200.0 / math.sqrt(8.0)])
    vrms = across_load("two-tone", Detector.THERMAL, "50 Vrms", "50", repeats=2)
    assert scatter(vrms, readings_by_point(vrms)).references[0].value == pytest.approx([50.0])


def test_paper_says_waveform_statistic_and_part_with_every_number():
    made = across_load("two-tone", Detector.AVERAGE, "200 Vpp", "40.5", repeats=2)
    result = reduce(made)
    said = page(Seen(made, "as found", result))
    heading, row = result_table(result)

    assert result_rows(result)[0][1].replace("\u202f", " ") == "100 W PEP, two-tone"
    assert dict(zip(heading, row, strict=True))["waveform"] == "two-tone"
    assert dict(zip(heading, row, strict=True))["statistic"] == "mean of volts, squared"
    assert "of the waveforms named" in dict(said.facts)["quantity"]
    assert any(
        "stated as mean of volts, squared, 41 % of its PEP" in text.replace("\u202f", " ") for text in said.statements
    )


def test_of_a_source_alone_pep_is_stated_with_the_mean_beside_it():
    made = without_device("sensor behind a pad")
    sent = replace(made, plan=tuple(replace(point, waveform="two-tone") for point in made.plan))
    rng = np.random.default_rng(5)
    bench = drawn(made, rng)
    for position, channel in enumerate(made.order):
        text = shown(made, bench, channel, rng)
        made, sent = (enter(one, Slot("p1", 1, position), text) for one in (made, sent))

    assert reduce_output(sent).points[0].power_w == pytest.approx(2.0 * reduce_output(made).points[0].power_w)
    said = output_page(Seen(sent, "as found", reduce_output(sent)))
    assert any("stated as PEP. Its mean power is 50" in text for text in said.statements)
    assert DEVICE.id not in sent.order


def test_the_card_carries_waveform_and_statistic():
    made = across_load("two-tone", Detector.AVERAGE, "200 Vpp", "40.5", repeats=2)
    (lid, _) = cards(Seen(made, "as found", reduce(made)), "26-001")
    assert lid.columns[1].replace("\u202f", " ") == "100 W PEP, two-tone (mean of volts, squared)"


def test_what_a_waveform_shows_is_carried_over_to_no_other_reading():
    """Two frequencies on a carrier, the same on two tones with a meter twice as high there."""
    plain = read_at(job(frequencies_hz=(7e6, 14e6), level_w=100.0), "87", "87")
    tones = tuple(replace(point, id=f"t{n}", waveform="two-tone") for n, point in enumerate(plain.plan))
    both = read_at(replace(plain, plan=(*plain.plan, *tones)), "87", "87", "70", "70")
    alone, mixed = reduce(plain), reduce(both)

    assert len(mixed.points) == 4 and mixed.points[3].ratio > 1.9
    assert [item.is_steady for item in mixed.points] == [True, True, False, False]
    assert stands_for(mixed, 87.0, 10e6).value_w == pytest.approx(stands_for(alone, 87.0, 10e6).value_w)
    factors = (correction_table(result, "", "2026-11-28").real for result in (mixed, alone))
    assert next(factors) == pytest.approx(next(factors))
    assert [len(item.places) for item in turnables(mixed)] == [2]
    assert [item.label.replace("\u202f", " ") for item in error_chart(both, mixed).series] == [
        "100 W",
        "100 W, two-tone",
    ]


def read_at(made, *watts):
    made = replace(made, events=())
    for point, text in zip(made.plan, watts, strict=True):
        for position, typed in enumerate(("200 Vpp", text)):
            made = enter(made, Slot(point.id, 1, position), typed)
    return made
