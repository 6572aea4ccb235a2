"""Notes as they are read: sentence, numbers and remedy of each rule, for a slip whose truth is known."""

from dataclasses import MISSING, fields, replace

import pytest

from fenmist.calibration.decision import Decision, Verdict, Zone
from fenmist.calibration.history import Drift
from fenmist.calibration.receipt import FINE, LOOK_OVER, NOT_FINE, Look
from fenmist.judgement.entry_rules import reading_shown, slipped_decades
from fenmist.judgement.headline import parts_headline, plan_headline, receive_headline, value_headline, what_if_power
from fenmist.procedures.comparison.headline import what_if_sentence
from fenmist.reading.event import Reading
from fenmist.units.display import count_of
from fenmist.units.typed import Censoring
from studies.builders import job
from support.noted import notes, one
from support.results import point_result
from support.texts import spaced

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
    lower = job([[("12", "0.39")]], level_w=0.4, range_id="20")  # the same arc for a tenth: 5 printed are 0.5 W
    assert one(lower, "scale.bottom_tenth")[2].startswith("390 mW of 20 W: the needle can be read to 32 % there")
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


# sentences at the top

SAFE = Decision(Zone.INSIDE, Verdict.ACCEPT, 0.999, 0.001, 8.0)
OPEN = Decision(Zone.INSIDE_WITHIN, Verdict.CANNOT_DECIDE, 0.6, None, 0.5)


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

    made = _drift(-0.02, 0.004, "2027-05-01")
    assert (
        spaced(drift_sentence(made))
        == "Since 2022-11 it drifts by −2.0 % a year; at that rate it leaves its tolerance in 2027-05, as likely as "
        "5.0 % already in 2026-11."
    )
    assert spaced(drift_sentence(replace(made, crosses_on="2026-01-01"))).endswith(
        "; by now it is outside its tolerance."
    )
    still = replace(made, crosses_on="", tolerance=0.0)
    assert spaced(drift_sentence(still)) == "Since 2022-11 it drifts by −2.0 % a year."
    assert spaced(drift_sentence(_drift(-0.002, 0.004, ""))) == (
        "Since 2022-11 no drift can be seen: −0.20 % a year with a standard uncertainty of 0.40 %."
    )


def _drift(per_year, u, crosses_on):
    values = {"since": "2022-11-12", "latest_on": "2026-11-12", "tolerance": 0.1}
    values |= {"per_year": per_year, "u_per_year": u, "crosses_on": crosses_on}
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
