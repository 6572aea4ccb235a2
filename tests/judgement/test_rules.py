"""Each rule: just inside, just outside, and a near-miss that stays silent. Compared by code, about and evidence."""

from dataclasses import replace
from datetime import date

import pytest

from fenmist.findings.note import Severity
from fenmist.kit.part import CalibrationRecord, SpecKind, SpecTerm
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from studies.builders import bench_kit, job
from support.noted import notes

TODAY = date(2026, 11, 24)


# bandwidth: doubt above a third, watch above a fifth


@pytest.mark.parametrize(
    ("share", "severity"),
    [(0.34, Severity.DOUBT), (0.33, Severity.WATCH), (0.21, Severity.WATCH), (0.199, None)],
    ids=["above a third", "below a third", "above a fifth", "below a fifth"],
)
def test_bandwidth_of_the_scope(share, severity):
    found = notes(job(bandwidth_hz=7.125e6 / share), "scope.bandwidth")

    assert [note.severity for note in found] == ([severity] if severity else [])
    if found:
        assert found[0].evidence["bandwidth_hz"] == pytest.approx(7.125e6 / share)


def test_bandwidth_limits_of_the_method_are_used():
    made = job(bandwidth_hz=30e6)
    method = replace(made.method, parameters={"comfort_limit": 0.5, "reference_limit": 0.9})

    assert notes(replace(made, method=method), "scope.bandwidth") == []


# stub: watch above 1 %, doubt above 5 % of power


@pytest.mark.parametrize(
    ("length", "severity"),
    [(0.31, None), (0.33, Severity.WATCH), (0.84, Severity.WATCH), (0.88, Severity.DOUBT)],
    ids=["just below 1 %", "just above 1 %", "just below 5 %", "just above 5 %"],
)
def test_stub_of_the_lead(length, severity):
    found = notes(job(lead_m=length, frequencies_hz=(7e6,)), "lead.stub")

    assert [note.severity for note in found] == ([severity] if severity else [])


# load: unknown here, held, magnitude only, not nominal


def test_a_load_not_measured_at_all_is_doubted():
    found = notes(job(load=None), "load.unknown_here")

    assert [note.severity for note in found] == [Severity.DOUBT]
    assert found[0].about == "load"


@pytest.mark.parametrize(("measured_at", "count"), [(7.125e6 * 1.01, 1), (7.125e6 * (1 + 1e-8), 0)])
def test_a_table_that_does_not_quite_reach_is_told_from_one_that_does(measured_at, count):
    assert len(notes(job(load=[(measured_at, "50.5+j1")]), "load.unknown_here")) == count


@pytest.mark.parametrize(("ohm", "count"), [("52.4", 0), ("52.6", 1), ("47.4", 1), ("47.6", 0), ("57.7", 1)])
def test_a_load_off_its_nominal_by_more_than_five_per_cent_of_power_is_told(ohm, count):
    assert len(notes(job(load=ohm), "load.not_nominal")) == count


@pytest.mark.parametrize(("text", "count"), [("|50|", 1), ("|50| swr 1.1", 0), ("50", 0)])
def test_a_magnitude_alone_is_doubted(text, count):
    assert len(notes(job(load=text), "load.phase_unknown")) == count


# decimal slips


@pytest.mark.parametrize(
    ("scope", "meter"),
    [("102", "25.6"), ("102", "17"), ("102", "40"), ("32.2", "2.56"), ("322", "190")],
    ids=["right", "a third low", "high", "carrier set to a tenth", "carrier set to ten times"],
)
def test_what_is_only_far_off_or_set_to_another_power_is_no_slip(scope, meter):
    assert notes(job([[(scope, meter)]]), "entry.decimal_slip") == []


# the scale


@pytest.mark.parametrize(("watts", "count"), [("19.9", 1), ("20.1", 0), ("5", 1)])
def test_the_bottom_tenth_of_a_scale_is_watched(watts, count):
    made = job([[("90", watts)]], level_w=18.0)

    assert len(notes(made, "scale.bottom_tenth")) == count


def test_the_bottom_of_the_high_range_is_well_up_the_low_one():
    assert notes(job([[("56", "8")]], level_w=8.0, range_id="20"), "scale.bottom_tenth") == []


@pytest.mark.parametrize(("text", "count"), [("200", 0), ("201", 1), ("off scale", 0)])
def test_a_reading_above_the_scale_is_doubted(text, count):
    made = job([[("283", text)]], level_w=200.0)

    assert len(notes(made, "scale.off")) == count


# test uncertainty ratio


def _with_tur(tur: float):
    made = job([[("102", "25.6")]])
    expanded = reduce(made).points[0].expanded_u_w
    return replace(made, tolerance=SpecTerm(SpecKind.ABSOLUTE, tur * expanded, "W"))


@pytest.mark.parametrize(
    ("tur", "severity"),
    [(4.01, None), (3.99, Severity.WATCH), (1.01, Severity.WATCH), (0.99, Severity.DOUBT)],
)
def test_the_ratio_of_tolerance_to_uncertainty(tur, severity):
    found = notes(_with_tur(tur), "tur.low")

    assert [note.severity for note in found] == ([severity] if severity else [])
    if found:
        assert found[0].evidence["largest"] == "scope.gain"


@pytest.mark.parametrize(
    ("load", "count"),
    [("50+j34", 0), ("|57.7|", 1), ("57.7", 0)],
    ids=["all known", "phase unknown", "taken as a resistance"],
)
def test_monte_carlo_is_said_where_it_took_over(load, count):
    """Of an unknown phase the match with a lead bends within what is known."""
    made = job([[("102", "25.6")]], load=load, lead_m=0.3, frequencies_hz=(28e6,))

    assert len(notes(made, "uncertainty.drawn")) == count


# open entries, ratings, cautions, history


@pytest.mark.parametrize(("text", "count"), [("1,250", 1), ("abc", 1), ("1.250", 0), ("0,250", 0)])
def test_an_entry_that_was_not_read_is_told(text, count):
    found = notes(job([[("102", text)]]), "entry.open")

    assert len(found) == count


@pytest.mark.parametrize(
    ("level", "severity"),
    [(149.0, None), (151.0, Severity.WATCH), (157.0, Severity.WATCH), (158.0, Severity.DOUBT), (187.0, Severity.DOUBT),
     (188.0, Severity.STOP)],
)  # fmt: skip
def test_a_load_over_its_rating_is_graded_by_what_it_does(level, severity):
    """Rated 150 W: within the 5 % that a plan is known to, warm to 1.25 times, and beyond."""
    made = job(level_w=level, load="50")
    source = made.part("tx")
    made = made.with_part(replace(source, ports=tuple(replace(port, power_limit_w=None) for port in source.ports)))
    found = [note for note in notes(made, "part.over_rating") if note.about == "load"]

    assert [note.severity for note in found] == ([severity] if severity else [])


@pytest.mark.parametrize(("volts", "severity"), [(101.0, None), (98.0, Severity.WATCH), (97.0, Severity.STOP)])
def test_an_input_over_its_volts_is_destroyed_not_warmed(volts, severity):
    """100 W in 50 Ω are 100 V peak; 5 % of power are 2.5 % of volts."""
    made = job(level_w=100.0, load="50")
    scope = made.part("scope")
    made = made.with_part(replace(scope, ports=tuple(replace(p, volts_limit_vpk=volts) for p in scope.ports)))

    assert [note.severity for note in notes(made, "part.over_rating")] == ([severity] if severity else [])


@pytest.mark.parametrize(("level", "count"), [(15.0, 0), (20.0, 1)])
def test_volts_that_burn_are_said_with_the_number(level, count):
    """30 V rms are 18 W in 50 Ω."""
    assert len(notes(job(level_w=level, load="50", range_id="20"), "caution.rf_voltage")) == count


@pytest.mark.parametrize(
    ("history", "count"),
    [((), 1), ((CalibrationRecord("2025-11-01", "room", "2026-11-24"),), 0),
     ((CalibrationRecord("2025-11-01", "room", "2026-11-23"),), 1), ((CalibrationRecord("2020-01-01", "room"),), 0)],
    ids=["unknown", "due today", "due yesterday", "no due date asked for"],
)  # fmt: skip
def test_the_past_of_the_reference(history, count):
    made = job()
    scope = replace(made.part("scope"), history=history)

    assert len(notes(made.with_part(scope), "reference.history")) == count


# notes and answers


def test_a_clean_bench_gives_only_what_is_good_to_know_or_lies_in_its_uncertainty():
    kit = bench_kit(load="50")
    assert kit
    made = job([[("100", "25")]], load="50")
    scope = replace(made.part("scope"), history=(CalibrationRecord("2026-01-01", "room", "2027-01-01"),))
    codes = {note.code for note in judge(made.with_part(scope), reduce(made), TODAY)}

    assert codes <= {"tur.low", "caution.rf_voltage", "drift.unseen"}


# letters on paper


@pytest.mark.parametrize(
    ("customer", "codes"),
    [("Lock-keeper \ue000", "U+E000"), ("a\u202eb\u0007", "U+202E U+0007"), ("株式会社 鷺沢 👍\ufe0f", ""), ("", "")],
    ids=["private use", "turned and a bell", "a name in another script", "nothing"],
)
def test_signs_without_a_shape_on_paper_are_named(customer, codes):
    found = notes(replace(job(), customer=customer), "paper.letters")

    assert [note.evidence["codes"] for note in found] == ([codes] if codes else [])
    assert [note.evidence["where"] for note in found] == (["customer"] if codes else [])


def test_a_parts_name_is_looked_at_too():
    made = job()
    odd = replace(made.kit[0], label="Plover \ue001", serial="\x1b")

    (found,) = notes(made.with_part(odd), "paper.letters")

    assert (found.severity, found.about) == (Severity.WATCH, "job")
    assert found.evidence["where"] == "name of Plover [U+E001], serial of Plover [U+E001]"
