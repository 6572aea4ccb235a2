"""Faults planted in live benches are named by a note, benches in order by none (short of docs/method/faults.md)."""

from functools import cache

import pytest

from studies.planted import PLANS, QUIET, by_itself, judged, moved, planted_in, run

SEED = 3

NAMED = {
    # fault, bench: strength, a note that names it
    ("ports", "live"): (1.0, "meter.reversed"), ("port", "live"): (10.0, "errors.corner"),
    ("wet", "live"): (100.0, "line.reflects_more"), ("tuner", "live"): (1.5, "line.reflects_more"),
    ("one", "live"): (0.4, "errors.root"), ("loose", "live"): (5.0, "round.outlier entry.transposed"),
    ("switch", "steps"): (10.0, "errors.constant entry.decimal_slip"),
    ("resistor", "divider"): (30.0, "errors.constant"),
}  # fmt: skip


@cache
def clean(name):
    return judged(run(PLANS[name], SEED, {}))


@pytest.mark.parametrize(("fault", "name"), NAMED)
def test_a_fault_that_moves_a_result_is_named(fault, name):
    strength, codes = NAMED[fault, name]
    found = planted_in(name, SEED, fault, strength, clean(name))

    assert found.counts
    assert set(codes.split()) & set(found.noted)


@pytest.mark.parametrize("name", ["live", "pad", "tap"])
def test_a_bench_in_order_raises_no_alarm(name):
    assert clean(name).alarms - by_itself(name).codes - QUIET == set()


def test_what_two_share_moves_nothing_and_nobody_could_say():
    both = judged(run(PLANS["live"], SEED, {"alike": 0.6}))

    assert moved(clean("live").outcome, both.outcome) < 0.2
