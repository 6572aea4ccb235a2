"""What the comparison adds to the reference, written out: the meter's reading, scatter, drift, harmonics, and U."""

import math
from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest

from fenmist.calibration.decision import Rule, decide
from fenmist.calibration.job import Job, PlanPoint
from fenmist.measurand import Detector
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import Slot
from fenmist.uncertainty.influence import Distribution
from studies.builders import WHEN, enter, job
from support.results import point_result

H = 0.01
"""−40 dBc of volts, second and third harmonic alike."""


def with_detector(made: Job, detector: Detector) -> Job:
    meter = made.part("meter")
    return made.with_part(replace(meter, indicators=(replace(meter.indicators[0], detector=detector),)))


def lines(result):
    return {row.influence.id: row for row in result.log_ratio.budget(0)}


@pytest.mark.parametrize(
    ("detector", "shares"),
    [
        # scope: 2h·cos φ of the third; needle: −2h/3·cos φ of the same phase: together 8/3·h, u of cos φ is 1/2
        (Detector.AVERAGE, {"tx.harmonic_3": 4 / 3 * H}),
        (Detector.PEAK, {"tx.harmonic_3": H, "tx.harmonic_2@meter": H, "tx.harmonic_3@meter": H}),
        (Detector.HOLD, {"tx.harmonic_3": H, "tx.harmonic_2@meter": H, "tx.harmonic_3@meter": H}),
        (Detector.RMS, {"tx.harmonic_3": H}),
        (Detector.THERMAL, {"tx.harmonic_3": H}),
    ],
)
def test_harmonics_move_scope_and_meter_each_in_its_own_way(detector, shares):
    made = lines(reduce(with_detector(job([[("102", "25.6")]], harmonics_dbc=-40.0), detector)))
    found = {name: row for name, row in made.items() if "harmonic" in name and row.contribution > 0}

    assert {name: row.contribution for name, row in found.items()} == pytest.approx(shares, rel=1e-3)
    for name, row in found.items():
        assert row.influence.distribution is Distribution.DISC
        if name.endswith("@meter"):
            order = name.removesuffix("@meter")[-1]
            assert row.influence.label == f"source, harmonic {order} at the meter"
            assert (row.influence.source_id, row.influence.basis) == ("tx", "phase unknown")


def test_a_measured_harmonic_has_its_size_and_only_its_phase_is_open():
    """u of cos φ is 1/√2 where the size is known."""
    made = with_detector(job([[("102", "25.6")]], harmonics_dbc=-40.0), Detector.PEAK)
    source = made.part("tx")
    properties = {name: replace(item, measured="harmonic" in name) for name, item in source.properties.items()}
    found = lines(reduce(made.with_part(replace(source, properties=properties))))

    for name in ("tx.harmonic_3", "tx.harmonic_2@meter", "tx.harmonic_3@meter"):
        assert found[name].contribution == pytest.approx(math.sqrt(2) * H, rel=1e-3)
        assert found[name].influence.distribution is Distribution.U_SHAPED


def test_reading_the_dial_and_the_scatter_of_the_rounds():
    """A quarter of 5 W, rectangular, of three readings one after the other; s/√3 of the logarithms, 2 degrees."""
    made = job([[("102", "25.6"), ("102", "26.4"), ("102", "24.8")], [("102", "25.6")]], frequencies_hz=(7e6, 14e6))
    result = reduce(made)
    found, point = lines(result), result.points[0]
    logs = np.log([25.6, 26.4, 24.8])

    repeat, reading = found["repeat"], found["meter.reading"]
    assert repeat.contribution == pytest.approx(logs.std(ddof=1) / math.sqrt(3), rel=1e-6)
    assert (repeat.influence.dof[0], repeat.influence.kind) == (2.0, "A")
    assert (repeat.influence.label, repeat.influence.basis) == ("repeatability of the ratio", "scatter of the rounds")
    assert reading.contribution == pytest.approx(1.25 / math.sqrt(3) / point.indicated_w, rel=0.01)
    assert (reading.influence.label, reading.influence.unit) == ("meter, reading the dial", "W")
    assert (reading.influence.source_id, reading.influence.basis) == ("meter", "part of the local division")
    assert reading.influence.distribution is Distribution.RECTANGULAR
    for name in ("repeat", "meter.reading", "tx.drift"):
        assert len(set(result.log_ratio.inputs.by_id[name].sharing)) == 2, name  # each point has its own


def test_what_a_drift_may_leave_is_the_references():
    point = job().plan[0]
    around = ("scope", "meter", "scope")
    made = replace(job([], load="50"), plan=(PlanPoint("p1", point.hookup, 7e6, 25.0, "200", around, 2),))
    texts, moment = (("100.0", "25", "98.0"), ("97.0", "24", "96.9")), WHEN
    for number, row in enumerate(texts, start=1):
        for position, text in enumerate(row):
            made = enter(made, Slot("p1", number, position), text)
            event = made.events[-1]
            entry = replace(event.entry, observed_at=moment)
            made = replace(made, events=(*made.events[:-1], replace(event, entry=entry)))
            moment += timedelta(seconds=20)
    result = reduce(made)
    drift = lines(result)["tx.drift"]

    assert result.points[0].drift_limit > 0
    assert drift.contribution == pytest.approx(result.points[0].drift_limit / math.sqrt(3), rel=1e-6)
    assert (drift.influence.label, drift.influence.source_id) == ("drift of the carrier, left over", "tx")
    assert drift.influence.distribution is Distribution.RECTANGULAR
    in_watts = {row.influence.id: row for row in result.budget("p1")}["tx.drift"]
    assert in_watts.contribution == pytest.approx(drift.contribution * result.points[0].reference_w, rel=1e-4)


def test_a_points_numbers_belong_together():
    result = reduce(job([[("102", "25.6"), ("102", "26.4")]]))
    point = result.points[0]

    (only,) = point.references
    assert (only.channel, only.weight, only.is_reference, point.agreement) == ("scope", 1.0, True, None)
    assert only.power_w == pytest.approx(point.reference_w)
    assert point.net_w == pytest.approx(102.0**2 / 8.0 / 57.7, rel=1e-4)  # V²/R in the load
    assert point.indicated_w == pytest.approx(point.reference_w + point.error_w) == pytest.approx(26.0, rel=1e-3)
    assert point.expanded_u_w == pytest.approx(point.k * point.u_error_w)
    assert point.error_interval_w == pytest.approx(
        (point.error_w - point.expanded_u_w, point.error_w + point.expanded_u_w)
    )
    assert point.factor == pytest.approx(1 / point.ratio) and point.error_fraction == point.ratio - 1
    assert point.dof == result.error.dof[0] and point.rounds == 2


def test_shares_of_the_tolerance_and_decibels_at_the_bottom():
    assert point_result(error_w=-2.5).stated.tolerance_used == 0.25
    assert point_result(tolerance_w=0.0).stated.tolerance_used == 0.0  # nothing is claimed
    assert point_result(error_w=-1.0, tolerance_w=0.5).stated.tolerance_used == 2.0
    low, high = point_result(ratio_interval=(0.0, 2.0)).error_db_interval
    assert (low, high) == (pytest.approx(-120.0), pytest.approx(3.0103, abs=1e-4))


@pytest.mark.parametrize(("u", "tolerance", "tur"), [(2.0, 10.0, 5.0), (0.5, 1.0, 2.0), (0.0, 10.0, math.inf)])
def test_how_many_times_the_uncertainty_goes_into_the_tolerance(u, tolerance, tur):
    assert decide(0.1, u / 2, u, tolerance, Rule.SIMPLE, True).tur == tur


def test_neighbours_are_those_beside_a_point_and_no_others():
    f = tuple(1e6 * n for n in range(2, 9))
    result = reduce(job([[("102", "25.6")]] * 7, frequencies_hz=f))

    for place, reach, names in ((0, 2, "p1 p2 p3"), (3, 1, "p3 p4 p5"), (6, 2, "p5 p6 p7"), (3, 0, "p4")):
        near = result.near(f"p{place + 1}", reach)
        assert [item.point.id for item in near.readings] == names.split()
        assert [item.point.id for item in near.points] == names.split()


def test_with_everything_known_exactly_nothing_is_left_and_k_is_two():
    made = job([[("102", "25.6")]])
    names = {row.influence.id for row in reduce(made).budget("p1")}
    point = reduce(made, known=dict.fromkeys(names, 0.0)).points[0]

    assert (point.expanded_u_w, point.u_error_w, point.k) == (0.0, 0.0, 2.0)
    assert point.decision.tur == math.inf


@pytest.mark.parametrize(("bandwidth_hz", "is_reference"), [(7.2e6, True), (7.0e6, False)])
def test_without_limits_of_its_own_a_method_ends_at_the_bandwidth(bandwidth_hz, is_reference):
    made = job([[("102", "25.6")]], bandwidth_hz=bandwidth_hz, lead_m=0.5)
    made = replace(made, method=replace(made.method, parameters={}))

    assert reduce(made).points[0].is_reference is is_reference


def test_results_of_more_points_are_not_those_of_fewer():
    """A point read later: what all points share is worked out anew, over one column more."""
    made = job([[("102", "25.6")], []], frequencies_hz=(7e6, 14e6))
    before = reduce(made)
    assert before.error.value.size == 1
    more = enter(enter(made, Slot("p2", 1, 0), "102"), Slot("p2", 1, 1), "25")
    after = reduce(more, former=before)

    assert after.points[0] is before.points[0]
    assert after.error.value.size == 2 and after.error.value[0] == pytest.approx(before.error.value[0])
