"""Notes on a job's parts, plan and uncertainty as they are read, with numbers worked out by hand."""

import math
from dataclasses import replace

import pytest

from fenmist.judgement.job_rules import improvement, improvement_of, letters_on_paper
from fenmist.judgement.run_rules import heat_planned
from fenmist.kit import shelf
from fenmist.kit.spectext import spec_from_text
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import Slot
from studies.builders import enter, job
from support.noted import notes
from support.texts import spaced

READ = [[("102", "25.6")]]


def stated(text: str):
    made = job(READ)
    scope = made.part("scope")
    return made.with_part(replace(scope, indicators=(replace(scope.indicators[0], spec=spec_from_text(text, "V")),)))


@pytest.mark.parametrize(
    ("made", "code", "severity", "about", "what", "why", "remedy"),
    [
        (
            # 10 % rectangular is 11.5 % of power (standard), U 24 % of 22.65 W
            lambda: job([*READ, *READ], frequencies_hz=(2e6, 4e6), accuracy=0.10),
            "tur.low", "watch", "job",
            "The tolerance is less than 4 times the uncertainty at 2 of 2 points.",
            "At worst ±10 W is judged with U = 5.4 W: 1.8 to 1. An error near the limit can't be told from one inside "
            "it.",
            "Improve the largest contribution first: Sedge, accuracy, 92 % of the variance.",
        ),
        (
            lambda: job([*READ, *READ], frequencies_hz=(2e6, 4e6), accuracy=0.5),
            "tur.low", "doubt", "job",
            "The uncertainty is larger than the tolerance at 2 of 2 points.",
            "At worst ±10 W is judged with U = 36 W: 0.28 to 1. An error near the limit can't be told from one inside "
            "it.",
            "Improve the largest contribution first: Sedge, accuracy, 100 % of the variance.",
        ),
        (
            lambda: job(READ, load=None), "load.unknown_here", "doubt", "load",
            "The load was not measured at 7.125 MHz.",
            "Its nominal 50 Ω is taken. Loads of 45 to 58 Ω are met, so the power is uncertain by 8 % (standard) from "
            "this alone.",
            "Measure its impedance at this frequency and type it in the step “parts”.",
        ),
        (
            # 10 % of |Z| at 1.5 times, by the logarithm: ln 1.425/ln 1.5 of it, rectangular, beside 1 %
            lambda: job(READ, load=[(5e6, "57.7")]), "load.unknown_here", "doubt", "load",
            "The load's table has no value at 7.125 MHz.",
            "Its last value is held, with 5.1 % standard uncertainty for it.",
            "Measure the load at this frequency as well.",
        ),
        (
            # (57.7² + 3²)/57.7 over 50 Ω
            lambda: job(READ, load="57.7+j3"), "load.not_nominal", "good to know", "load",
            "The load is 57.7 + j3.0 Ω at 7.125 MHz, not 50 Ω.",
            "Taken for 50 Ω the power would come out wrong by +16 %. The measured value is used.",
            "Nothing to do. Measure it hot as well if it runs long.",
        ),
        (
            # 2·0.2·10^(−25/20) is 2.2 %
            lambda: job(READ, load="80"), "load.poor", "watch", "load",
            "The load has an SWR of up to 1.60 at 7.125 MHz.",
            "A directional meter's error grows with the reflection: 25 dB of directivity at SWR 1.5 is ±2.2 % of "
            "forward power.",
            "Use a load of SWR 1.1 or less for power.",
        ),
        (
            lambda: job(READ, load="120"), "load.poor", "doubt", "load",
            "The load has an SWR of up to 2.40 at 7.125 MHz.",
            "That is no longer a dummy load: an antenna, a broken load, or its wrong range. Volts across a reactance "
            "tell little of power, and a directional meter errs by its directivity.",
            "Use a load of SWR 1.1 or less for power. On the air only with a licence, identified, at the least power "
            "that does the job.",
        ),
        (
            # (7.125/20)² is 12.7 %
            lambda: job(READ, bandwidth_hz=20e6), "scope.bandwidth", "doubt", "scope",
            "Sedge is no reference at 7.125 MHz.",
            "Its bandwidth is 20 MHz, only 2.8 times the carrier; three times is the least. 13 % of power is added for "
            "it, itself uncertain by as much: shown, but left out of the verdict.",
            "Use one of 36 MHz or more, or read lower in frequency.",
        ),
        (
            # cos θ − ωC·50·sin θ with θ = 0.3395 and ωC·50 = 0.0358: 0.931, 15.4 % of power; √(0.005/0.154) of 1.5 m
            lambda: job(READ, lead_m=1.5), "lead.stub", "doubt", "lead",
            "The lead adds 15 % of power at 7.125 MHz.",
            "1.5 m of cable that ends in the oscilloscope's capacitance is an open stub: the screen sees more volts "
            "than the tee has. Corrected from its length, with what that is known to.",
            "Keep the lead below 30 cm, or put a divider probe at the tee.",
        ),
        (
            # ω²LC with 0.15 µH and 12 pF at 28 MHz is 0.0557: 1/(1 − that)² is 12.1 % more
            lambda: job(READ, frequencies_hz=(28e6,), probe=shelf.probe("lead", "probe", ground_m=0.15)),
            "probe.ground", "doubt", "lead",
            "The probe's ground lead adds 12 % of power at 28 MHz.",
            "15 cm of it rings with the tip's capacitance, so the tip sees more volts than the tee has. Corrected from "
            "its length, with what that is known to.",
            "Use a coaxial tip adapter, or a ground lead of a few millimetres.",
        ),
        (
            lambda: stated("3 % of full scale + 2 % of reading"), "spec.not_evaluated", "doubt", "scope",
            "Sedge is stated to 3 % of full scale, and no range of it is known.",
            "±25 % of the reading is taken instead, as for an unknown accuracy: it is in the budget.",
            "State its accuracy as a share of reading, or in volts on the setting used.",
        ),
        (
            # 12 rounds of two readings of 20 s
            lambda: job(level_w=150.0, repeats=12), "load.key_down", "watch", "load",
            "Reedmace stands 150 W for about 5.0 min, from cold.",
            "12 rounds take about 8.0 min of carrier at some 20 s a reading.",
            "Key down for one round at a time and let it rest between them; the clock in the readings says how long.",
        ),
    ],
)  # fmt: skip
def test_a_job_is_told_what_is_wrong_with_it(made, code, severity, about, what, why, remedy):
    assert [
        (note.severity, note.about, *map(spaced, (note.what, note.why, note.remedy))) for note in notes(made(), code)
    ] == [(severity, about, what, why, remedy)]


def test_a_key_down_is_judged_at_the_point_that_heats_most():
    """150 W once (40 s) and 100 W read eight times (320 s): the second takes more out of the load."""
    made = job(level_w=150.0)
    point = made.plan[0]
    longer = replace(point, id="p2", target_w=140.0, repeats=12)
    (note,) = heat_planned(replace(made, plan=(point, longer)))

    assert note.evidence["power_w"] == 140.0
    assert note.evidence["planned_s"] == 480.0
    assert list(heat_planned(replace(made, plan=(point, replace(longer, repeats=1))))) == []


def test_what_to_improve_next_is_the_largest_line_and_what_is_left_without_it():
    result = reduce(job([[("102", "25.6"), ("102", "25.6")]]))
    point, budget = result.points[0], result.budget("p1")
    left = point.expanded_u_w * math.sqrt(sum(row.share for row in budget[1:]))

    said = improvement(result, point.stated)
    assert spaced(said) == (
        f"Improve next: {budget[0].influence.label}. It accounts for {100 * budget[0].share:.0f} % of the variance; "
        f"without it U would be {left:.1f} W instead of {point.expanded_u_w:.1f} W."
    )
    assert improvement(result, None) == improvement_of((), 1.0, "W") == improvement_of(budget, 0.0, "W") == ""


def test_what_letters_stand_as_codes_and_where():
    made = replace(job(), customer="\ue000\ue001\ue002\ue003\ue004", place="\ue000", title="a\ue000")
    (note,) = letters_on_paper(made)

    assert note.what == "Paper shows U+E000, U+E001, U+E002, U+E003 and more as a code, not as a sign."
    assert "(title, customer, place)" in note.why
    (few,) = letters_on_paper(replace(job(), place="\ue000\ue001\ue002\ue003"))
    assert few.what == "Paper shows U+E000, U+E001, U+E002, U+E003 as a code, not as a sign."


# numbers in the wrong unit


@pytest.mark.parametrize(("typed", "count"), [("43.88", 1), ("43.98", 0), ("43.18", 1), ("43.08", 0)])
def test_a_level_in_decibels_typed_as_watts_is_met_to_four_tenths(typed, count):
    """22.54 W are 43.53 dBm."""
    assert len(notes(job([[("102", typed)]], level_w=22.0), "entry.level_as_watts")) == count


def test_readings_that_are_only_bounds_are_no_slips():
    made = enter(enter(job([], level_w=25.0), Slot("p1", 1, 0), "102"), Slot("p1", 1, 1), "<0.25")

    assert notes(made, "entry.decimal_slip") == []
    assert len(notes(job([[("102", "0.25")]], level_w=25.0), "entry.decimal_slip")) == 1
