"""Rules that hold readings against each other: each with a case inside, one outside, and a near miss that is silent."""

import math
from dataclasses import replace
from datetime import date

import pytest

from fenmist.findings.note import Severity
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.reading.event import AS_LEFT, Reading, Slot
from studies.builders import enter, job

TODAY = date(2026, 11, 24)


def codes(made, *wanted, phase="as found"):
    found = reduce(made)
    result = found if phase == "as found" else reduce(made, phase)
    notes = judge(made, result, TODAY, phase, found)
    return [note for note in notes if note.code in wanted] if wanted else [note.code for note in notes]


# volts of another form: 102 Vpp are 25 W in 52 Ω, 36.06 Vrms


def test_a_carrier_set_to_twice_the_power_is_no_other_form():
    assert codes(job([[("144", "50")]], load="52"), "entry.wrong_form") == []


# the wrong arc


def _ranged(reading, full_scales=(25.0, 60.0), used="60"):
    made = job([], load="50", level_w=20.0, range_id=used, ranges=full_scales)
    made = enter(made, Slot("p1", 1, 0), "89.4")  # 20 W in 50 Ω
    return enter(made, Slot("p1", 1, 1), reading)


@pytest.mark.parametrize(
    ("reading", "count"), [("8.33", 1), ("8.9", 1), ("20", 0), ("15", 0), ("9.7", 0), ("7", 0)],
    ids=["other arc", "other arc, 7 % high", "right", "far low", "just past", "just short"],
)  # fmt: skip
def test_a_reading_on_the_other_ranges_figures_is_doubted(reading, count):
    """25 and 60 W: the other arc's figures are 0.417 times."""
    assert len(codes(_ranged(reading), "entry.wrong_arc")) == count


def test_ranges_ten_to_one_are_said_as_a_slipped_point_only():
    made = _ranged("2", (20.0, 200.0), "200")

    assert codes(made, "entry.wrong_arc") == []
    assert len(codes(made, "entry.decimal_slip")) == 1


# ports reversed


# another level


@pytest.mark.parametrize(("shown", "count"), [(0.11, 1), (0.09, 0)])
def test_the_device_says_so_too_from_half_of_that_on(shown, count):
    """64 W by the oscilloscope where 50 W are planned (ln 1.284 = 0.25); the device e^0.11 or e^0.09 over the plan."""
    made = job([], load="50", level_w=50.0)
    made = enter(made, Slot("p1", 1, 0), f"{math.sqrt(8 * 50 * 50.0 * math.exp(0.25)):.5g}")
    made = enter(made, Slot("p1", 1, 1), f"{50.0 * math.exp(shown):.4g}")

    assert len(codes(made, "round.other_level")) == count


# digits the other way round


@pytest.mark.parametrize(
    ("third", "place", "swapped"),
    [(("102", "52.6"), "p1/3/1", "25.6"), (("120", "25.6"), "p1/3/0", "102"), (("102", "25.6"), None, None),
     (("102", "27.6"), None, None), (("102", "26.5"), None, None)],
    ids=["meter", "scope", "right", "only off", "swapped, but near"],
)  # fmt: skip
def test_transposed_digits_are_found_by_the_other_rounds(third, place, swapped):
    made = job([[("102", "25.6"), ("102", "25.7"), third]])
    found = codes(made, "entry.transposed")

    assert [note.about for note in found] == ([place] if place else [])
    if place:
        assert found[0].evidence["swapped"] == swapped


def test_transposed_digits_are_found_by_neighbouring_points():
    readings = [[("102", "25.6")], [("102", "25.5")], [("102", "52.5")], [("102", "25.7")]]
    found = codes(job(readings, frequencies_hz=(7e6, 8e6, 9e6, 10e6)), "entry.transposed")

    assert [note.about for note in found] == ["p3/1/1"]


# outliers


def test_two_rounds_have_no_outlier():
    assert codes(job([[("102", "25.6"), ("102", "40")]]), "round.outlier") == []


@pytest.mark.parametrize(("third", "count"), [("25.9", 0), ("28", 1)])
def test_of_three_rounds_one_stands_apart_by_what_rounds_scatter_elsewhere(third, count):
    """Two that happen to lie close, and a point beside it whose rounds scatter by 0.5 %: 1.2 % is as much."""
    rounds = [[("102", text) for text in texts] for texts in (("25.6", "25.6", third), ("25.5", "25.7", "25.5"))]
    made = replace(job(rounds, frequencies_hz=(7e6, 14e6)), part_of_division=0.001)
    assert [note.about for note in codes(made, "round.outlier")] == ["p1/3/1"] * count


def test_what_the_result_does_not_feel_is_no_outlier_of_a_meter_that_shows_a_half_either():
    """A fifth of U = 7.2 % is 1.4 %, whatever the meter shows: 1.2 % is below it."""
    made = replace(job([[("102.00", text) for text in ("12.8", "12.8", "12.8", "12.95")]]), part_of_division=0.001)
    assert codes(made, "round.outlier") == []


# the known trap: the same volts as Vpp/2√2 and as rms


@pytest.mark.parametrize(
    ("rms", "count"), [("35.65", 1), ("35.75", 0), ("36.06", 0), ("36.5", 1)],
    ids=["1.1 % apart", "0.9 % apart", "same", "1.2 % the other way"],
)  # fmt: skip
def test_two_forms_of_the_same_volts_that_differ_by_a_per_cent_are_told(rms, count):
    """102 Vpp is 36.06 Vrms: a per cent between them tells of noise or distortion (common practice, no source)."""
    found = codes(job([[("102", "25.6"), (f"{rms} Vrms", "25.6")]]), "entry.forms_differ")

    assert [note.severity for note in found] == [Severity.WATCH] * count


def test_a_carrier_set_otherwise_for_the_second_form_drops_out():
    """5 % less volts, 10 % less on the meter as well."""
    assert codes(job([[("102", "25.6"), ("34.26 Vrms", "23.1")]]), "entry.forms_differ") == []


@pytest.mark.parametrize(("peak_to_peak", "count"), [(104.0, 1), (102.5, 0)])
def test_a_capture_says_it_of_itself(peak_to_peak, count):
    made = job([[("102", "25.6")]])
    event = made.events[0]
    also = (Reading(peak_to_peak, "Vpp", 0.1),)
    fitted = replace(event.entry, reading=Reading(36.06, "Vrms", 0.01, form="fit", u=0.01, also=also))
    made = replace(made, events=(replace(event, entry=fitted), *made.events[1:]))

    assert len(codes(made, "entry.forms_differ")) == count


# a phase of its own


def test_entries_of_another_phase_are_judged_apart():
    made = job([[("102", "25.6")]])
    made = enter(enter(made, Slot("p1", 1, 0, AS_LEFT), "102"), Slot("p1", 1, 1, AS_LEFT), "256")

    assert codes(made, "entry.decimal_slip") == []
    assert [note.about for note in codes(made, "entry.decimal_slip", phase=AS_LEFT)] == ["p1/1/1/as left"]


# a round at another level


def two_levels(readings, targets=(50.0, 100.0)):
    """Points of one frequency at these levels; `readings` by point."""
    made = job(readings, frequencies_hz=(7e6,) * len(targets), load="50", level_w=targets[0])
    plan = tuple(replace(point, target_w=level) for point, level in zip(made.plan, targets, strict=True))
    return replace(made, plan=plan)


def other_level(made):
    return [note for note in judge(made, reduce(made), date(2026, 11, 24)) if note.code == "round.other_level"]


@pytest.mark.parametrize(
    ("second", "count"),
    [(("157 Vpp", "61.6"), 1), (("155 Vpp", "60"), 0), (("141 Vpp", "97"), 0), (("199 Vpp", "48"), 0)],
    ids=["24 % off", "20 % off", "only the meter says so", "only the screen says so"],
)
def test_only_a_round_whose_readings_agree_on_it_was_read_at_another_level(second, count):
    assert len(other_level(two_levels([[("141 Vpp", "49"), second], []], (50.0, 200.0)))) == count


def test_two_points_are_enough_where_the_first_has_two_rounds():
    """The first point's mean counts at the second, too: 25.6 twice and their mean beside 52.5."""
    made = job([[("102", "25.6"), ("102", "25.6")], [("102", "52.5"), ("102", "25.5")]], frequencies_hz=(7e6, 8e6))

    assert [note.about for note in codes(made, "entry.transposed")] == ["p2/1/1"]


@pytest.mark.parametrize(("last", "count"), [("26.9", 0), ("27.2", 1)])
def test_a_round_is_an_outlier_from_five_robust_deviations_on(last, count):
    """Ratios ±0.7 % and nothing about 25.6: median deviation 0.7 %, five of 1.4826 times it are 5.3 %."""
    made = replace(job([[("102", text) for text in ("25.42", "25.6", "25.78", "25.42", "25.78", last)]]),
                   part_of_division=0.01)  # fmt: skip

    assert len(codes(made, "round.outlier")) == count
