"""One meter through the years: against a general-purpose fit."""

from datetime import date, timedelta

import numpy as np
import pytest
from msgspec.structs import replace

from fenmist.calibration.history import RISK, Column, Past, at_point, drift_per_year, drifts, due_again
from fenmist.judgement.drifting import drift_sentence


def past(on, error, u=0.02, as_left=False, f=7e6, level=100.0, tolerance=0.05):
    return Past.of_rows(on, as_left, f"job {on}", [(f, level, error, u, tolerance)])


YEARS = ("2020-03-01", "2021-04-11", "2022-02-20", "2024-05-05", "2026-03-01")


def years_between(first, last):
    return (date.fromisoformat(last) - date.fromisoformat(first)).days / 365.25


def test_slope_and_its_uncertainty_are_those_of_a_weighted_fit():
    """Referee: numpy.polyfit with weights 1/u and cov="unscaled"."""
    errors, us = (0.001, -0.003, -0.004, -0.012, -0.020), (0.02, 0.02, 0.03, 0.015, 0.02)
    line = drifts([past(on, e, u) for on, e, u in zip(YEARS, errors, us, strict=True)])[0]
    days = np.array([np.datetime64(on) for on in YEARS], "datetime64[D]")
    t = (days - days[0]).astype(float) / 365.25

    (slope, _), covariance = np.polyfit(t, errors, 1, w=2.0 / np.array(us), cov="unscaled")

    assert line.per_year == pytest.approx(slope, rel=1e-9)
    assert line.u_per_year == pytest.approx(covariance[0, 0] ** 0.5, rel=1e-9)


def test_an_adjustment_begins_a_new_line():
    found = [past("2020-01-01", -0.06), past("2020-01-01", 0.0, as_left=True), past("2022-01-01", -0.01)]

    line = drifts(found)[0]

    assert (line.since, line.latest_on) == ("2020-01-01", "2022-01-01")
    assert line.per_year == pytest.approx(-0.005, rel=1e-2)


def test_a_line_is_drawn_in_time_in_whatever_order_its_jobs_come():
    """Jobs of the logbook come in the order in which they were begun here; an old one may be taken in last."""
    found = [past(on, error) for on, error in zip(YEARS, (0.001, -0.003, -0.004, -0.012, -0.02), strict=True)]
    left = [*found, past(YEARS[1], 0.0, as_left=True), past(YEARS[3], 0.0, as_left=True)]

    assert drifts(found[::-1]) == drifts([found[2], *found[3:], *found[:2]]) == drifts(found)
    assert (drifts(found[::-1])[0].since, drifts(found[::-1])[0].latest_on) == (YEARS[0], YEARS[4])
    for order in (left, left[::-1]):  # the last adjustment counts, and what was left after what was found that day
        (line,) = drifts(order)
        assert (line.since, line.latest_on) == (YEARS[3], YEARS[4])
        assert line.per_year == pytest.approx(-0.02 / years_between(YEARS[3], YEARS[4]), rel=1e-12)


def test_an_error_that_claims_to_be_known_exactly_is_taken_as_known_to_a_millionth():
    (line,) = drifts([past("2020-01-01", 0.0, u=0.0), past("2021-01-01", 0.01, u=0.0)])
    (same,) = drifts([past("2020-01-01", 0.0, u=1e-6), past("2021-01-01", 0.01, u=1e-6)])

    assert line.u_per_year == pytest.approx(same.u_per_year, rel=1e-9)
    assert line.u_per_year == pytest.approx(0.5e-6 * 2**0.5 * 365.25 / 366, rel=1e-9)


def test_points_of_other_frequency_or_level_are_lines_of_their_own():
    found = [past(on, 0.0, f=f, level=p) for on in YEARS[:2] for f in (7e6, 14e6) for p in (50.0, 100.0)]

    assert len(drifts(found)) == 4


def test_a_point_belongs_to_the_first_that_is_near_whatever_lies_between():
    """7.06 MHz is within a hundredth of 7 MHz; beside both lie points of another level. A line is named by its last."""
    first = [past(YEARS[0], 0.0, level=level, tolerance=0.1) for level in (10.0, 100.0)]
    later = [past(YEARS[1], 0.0, f=7.06e6, level=level) for level in (10.5, 105.0)]

    found = drifts([*first, *later])

    assert [(line.frequency_hz, line.level_w, line.tolerance) for line in found] == [
        (7.06e6, 10.5, 0.05), (7.06e6, 105.0, 0.05),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("f", "level", "lines"), [(7.06e6, 100.0, 1), (7.08e6, 100.0, 0), (7e6, 109.0, 1), (7e6, 112.0, 0)]
)
def test_points_within_a_hundredth_of_frequency_and_a_tenth_of_level_are_one(f, level, lines):
    assert len(drifts([past(YEARS[0], 0.0), past(YEARS[1], 0.0, f=f, level=level)])) == lines


def test_the_crossing_is_where_the_line_meets_the_tolerance():
    line = drifts([past("2020-01-01", 0.0), past("2021-01-01", 0.01), past("2022-01-01", 0.02)])[0]

    assert line.crosses_on.startswith("2024-12") or line.crosses_on.startswith("2025-01")


def test_no_line_through_one_day_and_no_crossing_where_nothing_moves():
    assert drifts([past("2020-01-01", 0.0), past("2020-01-01", 0.01)]) == ()
    assert drifts([past("2020-01-01", 0.0), past("2021-01-01", 0.0)])[0].crosses_on == ""


def test_a_drift_is_only_seen_beyond_twice_its_uncertainty():
    quiet = drifts([past("2020-01-01", 0.0), past("2022-01-01", 0.01)])[0]
    loud = drifts([past("2020-01-01", 0.0, 0.002), past("2022-01-01", 0.01, 0.002)])[0]

    assert (quiet.is_seen, loud.is_seen) == (False, True)


def test_lines_of_many_points_and_jobs_are_those_of_each_point_by_itself():
    """Referee: numpy.polyfit through what was found at one point since the last adjustment there."""
    draw = np.random.default_rng(12)
    days = [(date(2015, 1, 1) + timedelta(days=int(day))).isoformat() for day in draw.choice(4000, 12, replace=False)]
    points = [(hertz, level) for hertz in (3e6, 7e6, 14e6, 28e6) for level in (10.0, 100.0)]
    jobs = []
    for number, on in enumerate(days):
        some = [points[place] for place in draw.permutation(8)[: draw.integers(2, 9)]]
        rows = [(f, w, draw.normal(0.0, 0.02), draw.uniform(0.01, 0.05), 0.05) for f, w in some]
        jobs.append(Past.of_rows(on, number in (3, 8), f"job {number}", rows, "comparison", "%", "ab"[number % 2]))

    made = {(line.frequency_hz, line.level_w, line.since, line.latest_on): line for line in drifts(jobs)}

    expected = set()
    for leg in "ab":
        for hertz, level_w in points:
            found = sorted((at.on, at.as_left, at.error[0], at.expanded_u[0])
                           for at in at_point(jobs, ("comparison", leg), hertz, level_w))  # fmt: skip
            begins = max((place for place, row in enumerate(found) if row[1]), default=0)
            on, _, errors, us = zip(*found[begins:], strict=True)
            if len(on) > 1:
                t = [years_between(on[0], day) for day in on]
                unscaled = np.polyfit(t, errors, 1, w=2.0 / np.array(us), cov="unscaled")
                line = made[hertz, level_w, on[0], on[-1]]
                expected.add((hertz, level_w, on[0], on[-1]))
                assert (line.per_year, line.u_per_year) == pytest.approx((unscaled[0][0], unscaled[1][0, 0] ** 0.5))
                mid = years_between(on[0], line.mean_on)
                assert line.mean == pytest.approx(np.polyval(unscaled[0], mid), abs=abs(line.per_year) / 365.25)
    assert set(made) == expected
    assert len(expected) > 10


def test_what_is_found_at_one_point_is_told_from_what_stands_beside_it():
    rows = [(7e6, 100.0, 0.01, 0.02, 0.05), (7.06e6, 109.0, 0.02, 0.03, 0.06), (14e6, 100.0, 0.03, 0.04, 0.07)]
    job = Past.of_rows("2020-01-01", False, "job", rows)
    loss = Past.of_rows("2020-01-01", False, "job", rows, "loss", "dB", "east")

    (at,) = at_point([job, loss], ("comparison", ""), 7.03e6, 104.0)
    assert [list(column) for column in (at.frequency_hz, at.level_w, at.error, at.expanded_u, at.tolerance)] == [
        [7e6, 7.06e6], [100.0, 109.0], [0.01, 0.02], [0.02, 0.03], [0.05, 0.06],
    ]  # fmt: skip
    assert at_point([job, loss], ("loss", "east"), 14e6, 100.0) == (loss.taken([2]),)
    assert at_point([job, loss], ("loss", "west"), 14e6, 100.0) == at_point([job], ("comparison", ""), 1e6, 1.0) == ()
    assert drifts([]) == ()


def test_numbers_are_kept_to_the_last_bit_and_only_where_they_are_numbers():
    """The bytes of 1 and −2 by IEEE 754, the lowest first; 1/3 isn't a short decimal."""
    assert Column("d", [1.0, -2.0]).kept() == "AAAAAAAA8D8AAAAAAAAAwA=="
    assert Column.of_kept("AAAAAAAA8D8AAAAAAAAAwA==") == Column("d", [1.0, -2.0])
    exact = Column("d", [1.0 / 3.0, 1e-300, -0.1])
    assert Column.of_kept(exact.kept()) == exact
    for wrong in (float("nan"), float("inf")):
        with pytest.raises(ValueError, match="finite"):
            Column("d", [0.0, wrong]).kept()


def test_answers_to_different_questions_are_no_line():
    """A meter 0.03 off in 2020, and 0.2 dB of loss in 2021: neither drifts into the other."""
    error = past("2020-01-01", 0.03)
    loss = replace(past("2021-01-01", 0.2), question="loss", unit="dB")
    again = replace(past("2022-01-01", 0.3), question="loss", unit="dB")

    assert drifts([error, loss]) == ()
    (line,) = drifts([error, loss, again])
    assert (line.unit, line.question, line.per_year) == ("dB", "loss", pytest.approx(0.1, rel=2e-3))
    assert "dB a year" in drift_sentence(line).replace("\u202f", " ")


def test_how_likely_it_is_outside_against_many_drawn_lines():
    """Referee: lines drawn from the covariance of numpy.polyfit, counted beyond the tolerance in 2028."""
    errors, us = (0.001, -0.003, -0.004, -0.012, -0.020), (0.02, 0.02, 0.03, 0.015, 0.02)
    line = drifts([past(on, e, u) for on, e, u in zip(YEARS, errors, us, strict=True)])[0]
    days = np.array([np.datetime64(on) for on in YEARS], "datetime64[D]")
    t = (days - days[0]).astype(float) / 365.25
    fit, covariance = np.polyfit(t, errors, 1, w=2.0 / np.array(us), cov="unscaled")
    for on in (date(2028, 3, 1), date(2032, 3, 1), date(2020, 3, 1)):
        years = (np.datetime64(on) - days[0]).astype(float) / 365.25
        drawn = np.random.default_rng(6).multivariate_normal(fit, covariance, 100_000) @ np.array([years, 1.0])

        assert line.chance_outside(on) == pytest.approx(np.mean(np.abs(drawn) > 0.05), abs=0.006)


def test_it_is_due_when_it_is_outside_with_a_chance_of_five_per_cent():
    """On the day found the chance passes 5 %; where it is outside already, that is the day of the last comparison."""
    line = drifts([past(f"{year}-01-01", 0.01 * n, 0.01) for n, year in enumerate((2020, 2021, 2022))])[0]
    on = date.fromisoformat(line.likely_outside_on(RISK))

    assert line.chance_outside(on) >= RISK > line.chance_outside(on - timedelta(days=1))
    assert on.isoformat() < line.crosses_on < line.likely_outside_on(0.6)
    outside = drifts([past("2020-01-01", 0.06), past("2021-01-01", 0.07)])[0]
    assert outside.likely_outside_on(RISK) == "2021-01-01"
    unclaimed = drifts([past("2020-01-01", 0.0, tolerance=0.0), past("2021-01-01", 0.5, tolerance=0.0)])[0]
    assert unclaimed.likely_outside_on(RISK) == ""
    still = drifts([past("2020-01-01", 0.0, 1e-4), past("2026-01-01", 0.0, 1e-4)])[0]
    assert still.likely_outside_on(RISK) == ""
    assert due_again([still, unclaimed]) is None
    assert due_again([still, line]) == (line.likely_outside_on(RISK), line)
    assert f"as likely as 5.0\u202f% already in {on.isoformat()[:7]}" in drift_sentence(line)


def test_what_a_meter_moves_in_a_year_is_the_root_of_the_mean_square_of_slopes_over_half_a_year():
    """3 and 4 % a year are 3.54 together; 9 % in 0.4 years is a scatter rather than a drift."""
    slow = [past("2020-01-01", 0.0), past("2022-01-01", 0.06)]
    slower = [past("2020-01-01", 0.0, f=14e6), past("2022-01-01", 0.08, f=14e6)]
    short = [past("2020-01-01", 0.0, f=21e6), past("2020-05-26", 0.036, f=21e6)]

    assert drift_per_year(drifts([*slow, *slower, *short])) == pytest.approx(0.035355, rel=1e-2)
    assert drift_per_year(drifts(short)) == 0.0
