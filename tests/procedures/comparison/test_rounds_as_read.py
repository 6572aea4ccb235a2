"""Notes on rounds as they are read: sentence, numbers and remedy, for a slip whose truth is known."""

import math
from dataclasses import replace
from datetime import date

import pytest

from fenmist.calibration.expected import expected_si
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.reading.event import Slot
from studies.builders import enter, job
from studies.references import BENCHES
from support.noted import notes, one


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


def test_watts_have_no_form_that_could_be_taken_for_another():
    """A sensor behind a tap shows eight times what is planned, and is no Vpp taken for Vrms."""
    made = BENCHES["sensor behind a tap"]()
    point = made.plan[0]
    for place, channel in enumerate(point.sequence):
        value = expected_si(made, point, channel) * (1.0 if made.is_device(channel) else 8.0)
        unit = made.indicator(channel).unit
        shown = f"{10 * math.log10(value / 1e-3):.3f} dBm" if unit == "dBm" else f"{value:.4g} W"
        made = enter(made, Slot(point.id, 1, place), shown)
    assert reduce(made).points and notes(made, "entry.wrong_form") == []


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
    assert "; 24.6 would lie 0 % from it." in why
    assert remedy == "Was it 24.6? Type it again, or answer “checked”."


# the knob, and levels typed as watts


def codes(readings, **more):
    made = job(readings, level_w=80.0, ranges=(50.0, 200.0), range_id="200", **more)
    return [note.code for note in judge(made, reduce(made), date(2026, 11, 25)) if "/" in note.about]


VOLTS = "192"  # about 80 W in 57.7 Ω


@pytest.mark.parametrize(
    ("text", "code"),
    [("20", "entry.wrong_arc"), ("320", "entry.wrong_arc"), ("49", "entry.level_as_watts"), ("79", None), ("60", None)],
)
def test_the_knob_the_arc_and_a_level_are_told_from_a_low_meter(text, code):
    """80 W is 49.0 dBm; the other range's figures read 20 or 320."""
    found = codes([[(VOLTS, text)]])

    assert (code in found) if code else not {"entry.wrong_arc", "entry.level_as_watts"} & set(found)


def test_a_meter_that_reads_low_everywhere_does_not_hide_a_knob_on_the_wrong_range():
    """18 % low at every point: the slip is a quarter of that, not of what the oscilloscope says."""
    low = [[(VOLTS, "65.5"), (VOLTS, "65.5")]] * 4
    slipped = [*low[:2], [(VOLTS, "65.5"), (VOLTS, "16.4")], low[3]]

    assert "entry.wrong_arc" in codes(slipped, frequencies_hz=(2e6, 4e6, 6e6, 8e6))
    assert "entry.wrong_arc" not in codes(low, frequencies_hz=(2e6, 4e6, 6e6, 8e6))


def test_digits_swapped_in_the_first_of_two_rounds_are_found_by_the_neighbours():
    fine = [[("192", "79"), ("193", "79.5")]] * 4
    slipped = [*fine[:1], [("192", "97"), ("193", "79.5")], *fine[2:]]
    made = job(slipped, level_w=80.0, range_id="200", frequencies_hz=(2e6, 4e6, 6e6, 8e6))

    found = [note.about for note in judge(made, reduce(made), date(2026, 11, 25)) if note.code == "entry.transposed"]
    assert found == ["p2/1/1"]
