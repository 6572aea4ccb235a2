"""Notes as they are read: sentence, numbers and remedy of each rule, for a slip whose truth is known."""

from dataclasses import MISSING, fields, replace
from datetime import date

import pytest

from fenmist.calibration.decision import Decision, Verdict, Zone
from fenmist.calibration.edit import with_as_left
from fenmist.calibration.history import Drift, Past
from fenmist.calibration.receipt import FINE, LOOK_OVER, NOT_FINE, Look
from fenmist.findings.note import Note
from fenmist.judgement.entry_rules import reading_shown, slipped_decades
from fenmist.judgement.headline import parts_headline, plan_headline, receive_headline, value_headline, what_if_power
from fenmist.procedures.comparison.headline import error_shown, results_headline, short_headline, what_if_sentence
from fenmist.procedures.comparison.pattern_rules import worse_as_left
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.reading.event import AS_LEFT, Reading, Slot
from fenmist.units.display import count_of
from fenmist.units.typed import Censoring
from studies.builders import enter, job
from support.results import point_result, results
from support.texts import spaced

FREQUENCIES = (2e6, 4e6, 8e6, 16e6, 28e6)


def notes(made, code, phase="as found") -> list[Note]:
    found = reduce(made)
    result = found if phase == "as found" else reduce(made, phase)
    return [note for note in judge(made, result, date(2026, 11, 24), phase, found) if note.code == code]


def one(made, code, phase="as found") -> tuple[str, str, str, str]:
    (note,) = notes(made, code, phase)
    return note.about, spaced(note.what), spaced(note.why), spaced(note.remedy)


def right_at_50_w(shown=lambda f: 50.0):
    """141.421 Vpp in 50 Ω are 50 W; an eye that reads a dial finely."""
    made = replace(job([], frequencies_hz=FREQUENCIES, load="50", level_w=50.0), part_of_division=0.01)
    for point in made.plan:
        made = enter(made, Slot(point.id, 1, 0), "141.421")
        made = enter(made, Slot(point.id, 1, 1), f"{shown(point.frequency_hz):.6g}")
    return made


# single entries


@pytest.mark.parametrize(
    ("volts", "watts", "about", "what", "times", "meant"),
    [
        ("102", "256", "p1/1/1", "“256” looks like a slipped decimal point.", "10 times", "25.6 W"),
        ("102", "25600", "p1/1/1", "“25600” looks like a slipped decimal point or mW for W.", "1000 times", "25.6 W"),
        ("102", "2.56", "p1/1/1", "“2.56” looks like a slipped decimal point.", "a tenth of", "25.6 W"),
        ("102", "0.256", "p1/1/1", "“0.256” looks like a slipped decimal point.", "a 100th part of", "25.6 W"),
        ("10.2", "25.6", "p1/1/0", "“10.2” looks like a slipped decimal point.", "a tenth of", "102 Vpp"),
        ("1020", "25.6", "p1/1/0", "“1020” looks like a slipped decimal point.", "10 times", "102 Vpp"),
    ],
)
def test_a_slipped_point(volts, watts, about, what, times, meant):
    assert one(job([[(volts, watts)]], level_w=25.0), "entry.decimal_slip") == (
        about,
        what,
        f"It is {times} what is planned at 7.125 MHz, 25 W, and no other reading of the round confirms it.",
        f"Was it {meant}? Type it again, or answer “checked”.",
    )


@pytest.mark.parametrize(("ratio", "decades"), [
    (10.0, 1), (12.0, 1), (12.1, 0), (8.4, 1), (8.2, 0), (0.1, -1), (1000.0, 3), (1e4, 0), (1.0, 0), (3.0, 0),
    (0.0, 0), (-10.0, 0), (0.0011, -3),
])  # fmt: skip
def test_a_decade_is_recognised_within_twenty_per_cent(ratio, decades):
    assert slipped_decades(ratio) == decades


def test_the_bottom_of_a_scale():
    """3.9 W of 200 on an arc printed 0 to 20 in 4: a quarter of 5 W is 1.25 W, 32 % of it."""
    made = job([[("40", "3.9")]], level_w=4.0)

    assert one(made, "scale.bottom_tenth") == (
        "dut",
        "The needle is in the bottom tenth of its range at 7.125 MHz, 4 W.",
        "3.9 W of 200 W: the needle can be read to 32 % there, and an error stated of full scale weighs most.",
        "Read it on the lower range, or at a higher level.",
    )
    both = job([[("40", "6.0")], [("40", "3.9")]], level_w=4.0, frequencies_hz=(7e6, 14e6))
    assert one(both, "scale.bottom_tenth")[1] == "The needle is in the bottom tenth of its range at 2 points."
    assert one(both, "scale.bottom_tenth")[2].startswith("3.9 W of 200 W")
    assert notes(job([[("90", "20.0")]], level_w=20.0), "scale.bottom_tenth") == []


def test_above_the_scale():
    assert one(job([[("300", "210")]], level_w=200.0), "scale.off") == (
        "p1/1/1",
        "“210” is above the scale.",
        "The range ends at 200 W; the needle can't show 210 W.",
        "Check range and arc, or type “off scale”.",
    )
    assert notes(job([[("290", "200.1")]], level_w=200.0), "scale.off") == []


def test_an_open_entry_says_why_and_what_it_most_likely_is():
    about, what, why, remedy = one(job([[("1,250", "25.6")]], level_w=25.0), "entry.open")

    assert (about, what) == ("p1/1/0", "“1,250” is not read yet.")
    assert "two ways" in why
    assert remedy == "Most likely 1.25 Vpp: /2 takes it. Type it again in its place, or strike it."
    assert one(job([[("rubbish", "25.6")]]), "entry.open")[3] == "Type it again in its place, or strike it."


@pytest.mark.parametrize(("reading", "shown"), [
    (Reading(25.6, "W", 0.1), "25.6 W"), (Reading(102.0, "Vpp", 1.0), "102 Vpp"), (Reading(0.0, "W", 0.1), "0 W"),
    (Reading(5.0, "W", 0.1, Censoring.BELOW), "below 5.0 W"), (Reading(26.0, "Vrms", 0.0), "26.00 Vrms"),
])  # fmt: skip
def test_a_reading_as_it_is_listed(reading, shown):
    assert spaced(reading_shown(reading)) == shown


# one reading against the others


@pytest.mark.parametrize(("volts", "said", "times"), [
    ("102 Vrms", "Vpp typed as Vrms", "8 times"), ("72 Vrms", "Vpp typed as Vpk", "4 times"),
    ("51 Vrms", "Vpk typed as Vrms", "2 times"), ("36 Vpp", "Vrms typed as Vpp", "1/8 of"),
    ("51 Vpp", "Vpk typed as Vpp", "1/4 of"), ("36 Vpk", "Vrms typed as Vpk", "1/2 of"),
])  # fmt: skip
def test_volts_typed_in_another_form(volts, said, times):
    """In 57.7 Ω 22.5 W are 102 Vpp, 51 Vpk, 36 Vrms: a number in another form is off by 8, 4 or 2 of power."""
    made = job([[(volts, "22.5")]], level_w=22.5)

    assert one(made, "entry.wrong_form") == (
        "p1/1/0",
        f"“{volts}” looks like {said}.",
        f"Its power is {times} what the meter shows and what is planned at 7.125 MHz, 22.5 W.",
        "Type it with its form, such as 102 Vpp or 36.1 Vrms, or answer “checked”.",
    )


@pytest.mark.parametrize(("shown", "what", "ratio", "meant"), [
    ("110", "“110” looks as if the knob stood on the 40 W range.", "4.9", "22 W"),
    ("4.5", "“4.5” looks as if read on the 40 W figures.", "0.2", "22.5 W"),
])  # fmt: skip
def test_the_arc_of_another_range(shown, what, ratio, meant):
    made = job([[("102", shown)]], level_w=22.0, range_id="200", ranges=(40.0, 200.0))

    assert one(made, "entry.wrong_arc") == (
        "p1/1/1",
        what,
        f"It is {ratio} times what is to be expected there; the ranges are 5 to 1.",
        f"The range here is 200 W: was it {meant}?",
    )


def test_a_level_typed_as_watts():
    """22.54 W into the load are 22.65 W incident: 10·log10(22650) = 43.55 dBm."""
    assert one(job([[("102", "43.5")]], level_w=22.0), "entry.level_as_watts") == (
        "p1/1/1",
        "“43.5” looks like dBm typed as W.",
        "About 22.7 W is to be expected, which is 43.6 dBm.",
        "Was it 43.5 dBm? Type it with its unit, or answer “checked”.",
    )


def test_swapped_ports():
    about, what, _, remedy = one(job([[("102", "0.5")]], level_w=22.0), "meter.reversed")

    assert (about, what) == ("p1/1/1", "The meter shows 2.2 % of the power that the oscilloscope sees.")
    assert remedy.startswith("Carrier off, then check which port faces the transmitter")
    assert notes(job([[("102", "1.2")]], level_w=22.0), "meter.reversed") == []  # 5.3 %


def test_a_round_at_another_level_with_and_without_a_point_for_it():
    made = job([[("141.4", "48"), ("199", "97")]], level_w=50.0, load="50", repeats=2)
    assert one(made, "round.other_level") == (
        "p1/2/0",
        "Round 2 was read at about 99 W; 50 W is planned.",
        "Both readings say so. Here it is averaged with what was read at 7.125 MHz, 50 W.",
        "Strike it, plan that level, or answer “checked”.",
    )
    base = made.plan[0]
    made = replace(made, plan=(base, replace(base, id="p2", target_w=80.0), replace(base, id="p3", target_w=100.0)))
    assert one(made, "round.other_level")[2:] == (
        "Both readings say so, and that level is planned there, too. Here it is averaged with what was read at "
        "7.125 MHz, 50 W.",
        "/7 moves the round to 100 W; or answer “checked”.",
    )


def test_a_round_that_stands_apart():
    """28 W where 25.5 to 25.7 W stand: ln(28/25.6) is +9.4 %."""
    rounds = [("102", text) for text in ("25.6", "25.7", "25.5", "25.6", "28")]
    about, what, why, _ = one(job([rounds], level_w=25.0), "round.outlier")

    assert (about, what) == ("p1/5/1", "Round 5 stands apart at 7.125 MHz, 25 W.")
    assert why == "Its ratio lies +9.4 % from the median of 5 rounds; the others scatter by 0.58 %."


def test_two_digits_the_other_way_round():
    """25.6 typed as 52.6: 26.5 fits the others to 3.5 %, 25.6 exactly."""
    rounds = [("102", text) for text in ("24.6", "24.6", "26.4", "24.6")]
    about, what, why, remedy = one(job([rounds], level_w=25.0), "entry.transposed")

    assert (about, what) == ("p1/3/1", "“26.4” may have two digits the other way round.")
    assert "It lies +7.3 % from what the other readings lead to" in why
    assert "24.6 would lie" in why
    assert remedy == "Was it 24.6? Type it again, or answer “checked”."


# over all points


def test_what_all_points_lean_on():
    about, what, _, _ = one(right_at_50_w(), "result.one_support")

    # 3 % rectangular twice, 3.46 %, beside the load's 1 %: 92 % of the variance
    assert what == "All points lean on Sedge: at least 92 % of the variance is from there."
    assert about == "job"


def test_an_adjustment_that_made_it_worse():
    made = with_as_left(right_at_50_w(lambda f: 47.5))
    for point in made.plan:
        made = enter(made, Slot(point.id, 1, 0, AS_LEFT), "141.421")
        made = enter(made, Slot(point.id, 1, 1, AS_LEFT), "35")

    # 2.5 W and 15 W of the 10 W allowed
    about, what, why, _ = one(made, "adjust.worse", AS_LEFT)
    assert (about, what) == ("job", "As left is worse than as found: 150 % of the tolerance instead of 25 %.")
    assert why.startswith("The worst is now −15 W at ")


@pytest.mark.parametrize(("before", "after", "said"), [(2.0, 2.2, 1), (2.0, 2.1, 0), (0.2, 0.4, 0), (0.2, 0.6, 1)])
def test_worse_begins_at_five_per_cent_more_and_a_twentieth_of_the_tolerance(before, after, said):
    found = results(point_result(error_w=-before), point_result(at_id="p2", error_w=0.1))
    left = results(
        point_result(error_w=after), point_result(at_id="p2", error_w=-0.1), point_result(at_id="p3", error_w=9.0)
    )

    assert len(list(worse_as_left(found, left))) == said
    assert list(worse_as_left(results(point_result(at_id="x")), left)) == []


# sentences at the top

REJECTED = Decision(Zone.OUTSIDE, Verdict.REJECT, 0.01, 0.01, 8.0)
NEARLY = Decision(Zone.OUTSIDE_WITHIN, Verdict.REJECT, 0.4, 0.4, 8.0)
SAFE = Decision(Zone.INSIDE, Verdict.ACCEPT, 0.999, 0.001, 8.0)
OPEN = Decision(Zone.INSIDE_WITHIN, Verdict.CANNOT_DECIDE, 0.6, None, 0.5)


def low(at, error, decision=REJECTED, f=7e6, **changes):
    return point_result(at_id=at, at_frequency_hz=f, error_w=error, ratio=1 + error / 50, decision=decision, **changes)


@pytest.mark.parametrize(
    ("points", "sentence"),
    [
        (
            (low("a", -12.0), low("b", -15.0, f=14e6), low("c", -1.0, SAFE)),
            "Bittern reads 1.55 dB low at 14 MHz, outside its ±5 % of full scale by more than the uncertainty, and "
            "outside at one other point.",
        ),
        (
            (low("a", -10.5, NEARLY),),
            "Bittern reads 1.02 dB low at 7 MHz, outside its ±5 % of full scale, but by less than the uncertainty.",
        ),
        (
            (low("a", -1.0, SAFE), low("b", 3.0, SAFE, f=14e6)),
            "Bittern is inside its ±5 % of full scale at both points; at worst it reads 0.25 dB high at 14 MHz.",
        ),
        (
            (low("a", -1.0, SAFE),),
            "Bittern is inside its ±5 % of full scale at the one point read; at worst it reads 0.09 dB low at 7 MHz.",
        ),
        (
            (low("a", -1.0, OPEN, expanded_u_w=20.0), low("b", -1.0, SAFE)),
            "This hook-up cannot decide ±5 % of full scale at 1 of 2 points: U is 20 W against 10 W.",
        ),
        (
            (low("a", -1.0, OPEN, expanded_u_w=20.0),),
            "This hook-up cannot decide ±5 % of full scale here: U is 20 W against 10 W.",
        ),
    ],
)
def test_the_answer_of_a_job(points, sentence):
    made = results(*points)
    said = spaced(results_headline(made.job, made))

    assert said.removesuffix(" No rounds are still to be read.").startswith(sentence)


def test_the_answer_in_few_words():
    made = results(low("a", -12.0), low("b", -15.0, f=14e6), low("c", -1.0, SAFE))

    assert spaced(short_headline(made)) == "1.55 dB low at 14 MHz; reject 2, accept 1"
    assert short_headline(results()) == "nothing read yet"


@pytest.mark.parametrize(("ratio", "interval", "said"), [
    (0.98, (0.956, 1.004), "0.09 dB low"), (1.5, (1.4, 1.6), "1.76 dB high"), (1.5, (0.8, 2.6), "1.8 dB high"),
    (10.0, (0.5, 200.0), "10 dB high"),
    (1.0, (0.99, 1.01), "right, as far as can be seen"), (1.01, (0.6, 1.7), "right, as far as can be seen"),
])  # fmt: skip
def test_an_error_is_said_to_the_place_that_u_supports(ratio, interval, said):
    assert spaced(error_shown(point_result(ratio=ratio, ratio_interval=interval))) == said


def test_small_numbers_are_words():
    assert [count_of(n, "point", "points") for n in (0, 1, 2, 10, 11)] == [
        "no points",
        "one point",
        "two points",
        "ten points",
        "11 points",
    ]


def test_what_came_in():
    made = job()

    def said(looks):
        return receive_headline(replace(made, receipt=replace(made.receipt, looks=looks)))

    every = {name: Look(FINE) for name in LOOK_OVER}
    assert said({}) == "Bittern has not been inspected yet."
    assert said({"case": Look(FINE)}) == "Bittern: seven items are still to be inspected."
    assert said({**every, "zero": Look("")}) == "Bittern: one item is still to be inspected."
    assert said(every) == "Bittern passed inspection: it can be calibrated."
    assert said({**every, "case": Look(NOT_FINE, "cracked")}).startswith("Bittern came in with a fault: ")
    two = {**every, "case": Look(NOT_FINE), "zero": Look(NOT_FINE)}
    assert said(two).startswith("Bittern came in with 2 faults: ")


def test_what_will_be_run():
    made = job(frequencies_hz=(7e6, 14e6), repeats=2)

    assert plan_headline(made) == "2 points, 4 rounds are planned; all of them can be measured."
    blocked = replace(made, plan=(made.plan[0], replace(made.plan[1], blocked="why")))
    assert (
        plan_headline(blocked)
        == "1 point, 2 rounds are planned, 1 left out with a reason; all of them can be measured."
    )
    far = replace(made, plan=(made.plan[0], replace(made.plan[1], frequency_hz=50e6)))
    assert spaced(plan_headline(far)) == (
        "2 points, 4 rounds; one point can't be measured: 50 MHz is outside the span of Bittern."
    )


def test_what_if():
    before, after = point_result(decision=OPEN, expanded_u_w=20.0), point_result(decision=SAFE, expanded_u_w=5.0)

    assert spaced(what_if_sentence(job(), before.stated, after.stated)) == (
        "What if: U would be 5.0 W instead of 20 W; then it is inside its ±5 % of full scale. None of this is kept."
    )
    assert spaced(what_if_sentence(job(), after.stated, after.stated)) == (
        "What if: U would stay 5.0 W; it stays inside its ±5 % of full scale. None of this is kept."
    )
    assert spaced(what_if_power(2.0, 1.0)) == "What if: U would be 1.0 W instead of 2.0 W. None of this is kept."
    assert spaced(value_headline(22.54, 0.78)) == "22.54 ± 0.78 W go into the load."
    assert spaced(value_headline(22.54, 0.78, ("lead", "load"))) == (
        "22.54 ± 0.78 W would go into the load if lead and load were left uncorrected."
    )


def test_drift_through_the_years_in_words():
    from fenmist.judgement.drifting import drift_sentence

    past = tuple(
        Past(f"{year}-11-12", 7e6, 50.0, e, 0.02, 0.1, False, "j") for year, e in ((2022, -0.02), (2026, -0.1))
    )
    made = _drift(past, -0.02, 0.004, "2027-05-01")
    assert (
        spaced(drift_sentence(made))
        == "Since 2022-11 it drifts by −2.0 % a year; at that rate it leaves its tolerance in 2027-05, as likely as "
        "5.0 % already in 2026-11."
    )
    assert spaced(drift_sentence(replace(made, crosses_on="2026-01-01"))).endswith(
        "; by now it is outside its tolerance."
    )
    still = replace(made, crosses_on="", found=tuple(replace(item, tolerance=0.0) for item in past))
    assert spaced(drift_sentence(still)) == "Since 2022-11 it drifts by −2.0 % a year."
    assert spaced(drift_sentence(_drift(past, -0.002, 0.004, ""))) == (
        "Since 2022-11 no drift can be seen: −0.20 % a year with a standard uncertainty of 0.40 %."
    )


def _drift(past, per_year, u, crosses_on):
    values = {"found": past, "per_year": per_year, "u_per_year": u, "crosses_on": crosses_on}
    values |= {"mean": -0.06, "u_mean": 0.007, "mean_on": "2024-11-12"}
    needed = (item.name for item in fields(Drift) if item.default is MISSING)
    return Drift(**{name: values.get(name, 0.0) for name in needed})


@pytest.mark.parametrize(("load", "sentence"), [
    ("57.7", "Reedmace is known at every planned frequency, to 1.0 % (standard) at worst."),
    ([(7e6, "25")], "The impedance of Reedmace is still unknown at 1 of 2 frequencies."),
    (None, "Reedmace was not measured at any planned frequency: its nominal value costs 8 %."),
])  # fmt: skip
def test_whether_the_load_is_known(load, sentence):
    """A per cent of |Z| is a per cent of a resistance."""
    assert spaced(parts_headline(job(load=load, frequencies_hz=(7e6, 28e6)))) == sentence
