"""The sentence at the top, in every state."""

from dataclasses import replace
from datetime import date

import pytest

from fenmist.calibration.history import Past, drifts
from fenmist.hookup.editing import inserted
from fenmist.hookup.line import Element, HookUp
from fenmist.hookup.templates import Bench
from fenmist.judgement.bench import judge_bench
from fenmist.judgement.drifting import drift_sentence
from fenmist.judgement.headline import (
    certificate_headline,
    hookup_headline,
    parts_headline,
    plan_headline,
    value_headline,
)
from fenmist.kit.generic import attenuator
from fenmist.kit.impedance import table_from_rows
from fenmist.measurand import PlaneRef
from fenmist.procedures.benchwork import with_new_hookup
from fenmist.procedures.comparison.headline import readings_headline, results_headline, short_headline
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from studies.builders import job
from studies.matches import ENDS, match_job
from support.texts import spaced

READ = [[("102 Vpp", "25.6")]]
MEASURED = replace(ENDS[0], characterisations=(table_from_rows([(1e6, "50"), (3e7, "50")], 0.01),))
MEASURED2 = replace(MEASURED, id="r25", label="r25")


def _results(made):
    return results_headline(made, reduce(made)).replace("\u202f", " ")


def test_nothing_read_says_what_is_missing():
    assert _results(job()) == "Two readings are missing before there is an error to state."


def test_an_unfinished_job_says_what_is_still_to_read():
    made = job([[("102 Vpp", "25.6"), ("102 Vpp", "")]])

    assert _results(made).endswith("One round is still to be read.")


@pytest.mark.parametrize(("made", "begins"), [
    (replace(job(), plan=()), "Nothing is planned yet: add points in the step “plan”"),
    (job(), "Read Sedge, then Bittern"),
    (job(READ), "At 7.125 MHz Bittern reads 0.53 dB high so far: inside its"),
    (job(READ, bandwidth_hz=20e6), "At 7.125 MHz Bittern reads"),
])  # fmt: skip
def test_the_run_has_its_own_sentence(made, begins):
    point = made.plan[0] if made.plan else None

    assert readings_headline(made, reduce(made), point).replace("\u202f", " ").startswith(begins)


@pytest.mark.parametrize(
    ("made", "has"),
    [(job(load="50"), "every part is within its rating"), (job(level_w=160.0, load="50"), "over a rating"),
     (replace(job(), plan=()), "Nothing is planned")],
)  # fmt: skip
def test_the_hookup_says_whether_it_bears_the_plan(made, has):
    assert has in hookup_headline(made, judge(made, reduce(made), date(2026, 11, 24)), made.hookups[0])


@pytest.mark.parametrize(
    ("made", "has"),
    [(job(), "is known at every planned frequency"), (job(load=None), "was not measured"),
     (job(load=[(7e6, "50")], frequencies_hz=(7e6, 30e6)), "still unknown at 1 of 2"),
     (replace(job(), plan=()), "Nothing is planned"), (match_job(), "None of the 4 ends of the line is measured"),
     (match_job(ends=(MEASURED, *ENDS[1:])), "1 of 4 ends is measured"),
     (match_job(ends=(MEASURED, *ENDS[1:2])), "1 of 2 ends"), (match_job(ends=(MEASURED,)), "The null is measured."),
     (match_job(ends=(MEASURED, MEASURED2)), "All 2 ends of the line are measured."),
     (match_job(ends=ENDS[:1]), "The null isn't measured: what is stated of it counts.")],
)  # fmt: skip
def test_the_parts_say_whether_they_are_known(made, has):
    assert has in parts_headline(made)


@pytest.mark.parametrize(
    ("made", "has"),
    [(job(), "nothing to certify"), (job(READ), "ready"), (job(READ, load=None), "still open"),
     (job([[("102", "25.6"), ("", "")]]), "one round is still to be read")],
)  # fmt: skip
def test_the_certificate_says_whether_it_can_be_given_away(made, has):
    result = reduce(made)

    assert has in certificate_headline(made, result, judge(made, result, date(2026, 11, 24)))


def test_a_plan_that_is_left_out_whole_isn_t_called_none_or_read():
    """It was “All 0 points are read.” where none is in hand, and “Nothing is planned yet” beside a plan."""
    made = job()
    made = replace(made, plan=tuple(replace(point, blocked="no time") for point in made.plan))

    said_of_it = [readings_headline(made, reduce(made), point) for point in (None, made.plan[0])]
    for said in (plan_headline(made), parts_headline(made), *said_of_it):
        assert said.startswith("All that is planned is left out: ")


def test_short_forms():
    assert short_headline(reduce(job())) == "nothing read yet"
    assert short_headline(reduce(job(READ))).replace("\u202f", " ") == "0.53 dB high at 7.125 MHz; accept 1"
    assert value_headline(22.54, 1.6).replace("\u202f", " ") == "22.5 ± 1.6 W go into the load."


def test_a_drift_is_said_with_where_it_leads_or_that_it_can_not_be_seen():
    def line(errors, u):
        past = [
            Past.of_rows(f"20{20 + n}-01-01", False, f"j{n}", [(7e6, 100.0, e, u, 0.05)]) for n, e in enumerate(errors)
        ]
        return drift_sentence(drifts(past)[0])

    assert "no drift can be seen" in line((0.0, 0.005), 0.05)
    assert "it leaves its tolerance in 2025-01" in line((0.0, 0.01, 0.02), 0.004)
    assert spaced(line((0.0, 0.01, 0.02), 0.004)).startswith("Since 2020-01 it drifts by +1.0 % a year")
    assert line((0.0, -0.03, -0.06), 0.004).endswith("by now it is outside its tolerance.")
    assert line((0.01, 0.01, 0.01), 0.004).startswith("Since 2020-01 no drift")


def test_a_bench_that_stops_is_never_said_to_be_within_its_ratings():
    """A line without a load puts nothing over a rating, and must not be keyed."""
    pad = attenuator("pad", "pad", 30.0, 0.1, 150.0)
    source = job().part("tx")
    line = HookUp("x", "bench", (Element("tx", "tx"),), (), PlaneRef("x", "tx", "out"))
    made = with_new_hookup(job(), Bench(inserted(line, "tx", "out", pad), (source, pad), ()))

    said = hookup_headline(made, judge_bench(made, "line 2"), made.hookups[1])

    assert said.startswith("Don't key this hook-up: The line ends at pad")
