"""What is said of all points together: notes, and the answer at the top."""

import math
from dataclasses import replace

import pytest

from fenmist.calibration.decision import Decision, Verdict, Zone
from fenmist.calibration.edit import with_as_left
from fenmist.procedures.comparison.headline import error_shown, results_headline, short_headline
from fenmist.procedures.comparison.make import plan_points
from fenmist.procedures.comparison.pattern_rules import worse_as_left
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import AS_LEFT, Slot
from studies.builders import enter, job
from support.noted import notes, one
from support.paper import page_of
from support.results import point_result, results
from support.texts import spaced

FREQUENCIES = (2e6, 4e6, 8e6, 16e6, 28e6)


def right_at_50_w(shown=lambda f: 50.0):
    """141.421 Vpp in 50 Ω are 50 W; an eye that reads a dial finely."""
    made = replace(job([], frequencies_hz=FREQUENCIES, load="50", level_w=50.0), part_of_division=0.01)
    for point in made.plan:
        made = enter(made, Slot(point.id, 1, 0), "141.421")
        made = enter(made, Slot(point.id, 1, 1), f"{shown(point.frequency_hz):.6g}")
    return made


# over all points


def test_what_all_points_lean_on():
    about, what, _, _ = one(right_at_50_w(), "result.one_support")

    # 3 % rectangular twice, 3.46 %, beside the load's 1 %: 92 % of the variance
    assert what == "All points lean on Sedge: at least 92 % of the variance is from there."
    assert about == "job"


def test_of_what_all_points_lean_on_the_smallest_share_is_said():
    """A needle at the bottom of its scale adds to one point's variance what the oscilloscope doesn't."""
    made = job([], load="50", level_w=50.0)
    made = replace(made, plan=plan_points((7e6,), (12.0, 50.0), "200"), part_of_division=0.05)
    for point in made.plan:
        made = enter(made, Slot(point.id, 1, 0), f"{math.sqrt(8 * 50 * point.target_w):.6g}")
        made = enter(made, Slot(point.id, 1, 1), f"{point.target_w:g}")
    (note,) = notes(made, "result.one_support")
    result = reduce(made)
    budgets = [result.budget(point.id) for point in made.plan]
    shares = [sum(row.share for row in rows if row.influence.source_id == "scope") for rows in budgets]

    assert max(shares) - min(shares) > 0.05
    assert note.evidence["share"] == pytest.approx(min(shares), abs=0.01)


def test_the_certificate_names_the_largest_error():
    made = right_at_50_w(lambda f: {8e6: 45.0, 28e6: 53.0}.get(f, 50.0))

    assert "The largest error is 0.46 dB low." in map(spaced, page_of(made, reduce(made)).statements)


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


def test_of_what_can_not_be_decided_the_worst_is_told():
    undecided = Decision(Zone.INSIDE_WITHIN, Verdict.CANNOT_DECIDE, 0.6, None, 0.5)
    made = results(
        point_result(decision=replace(undecided, tur=0.9), expanded_u_w=11.0),
        point_result(at_id="p2", decision=undecided, expanded_u_w=20.0),
        point_result(at_id="p3", decision=replace(undecided, tur=0.8), expanded_u_w=12.5),
    )
    assert "at 3 of 3 points: U is 20 W against 10 W." in spaced(results_headline(made.job, made))
