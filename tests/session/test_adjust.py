"""What to turn in a job: settings from its readings, what each leaves, and whether the meter did what was predicted."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.calibration.edit import with_as_left
from fenmist.calibration.planning import points_at
from fenmist.methods.trim import Control, Measure
from fenmist.reading.event import AS_LEFT, Slot
from fenmist.session.adjust import Chosen, best, headline, ranges_of, rows, turned
from fenmist.session.route import route
from fenmist.session.view import View
from studies.builders import WHEN, enter, job
from studies.losses import loss_job
from studies.references import DEVICE_DB, LEVEL, behind_a_pad, drawn, shown

LEVELS = (25.0, 50.0, 100.0)


def read_job(share, phase="as found", made=None):
    """Three levels; the meter shows a share of what the reference says at each."""
    made = made or job(level_w=25.0)
    if len(made.plan) == 1:
        made = replace(made, plan=points_at(replace(made, plan=()), [7.125e6], LEVELS, 1))
    for point, part in zip(made.plan, share, strict=True):
        volts = math.sqrt(8.0 * 50.0 * point.target_w)
        for position, text in enumerate((f"{volts:.4f} Vpp", f"{part * 0.871 * point.target_w:.4f}")):
            made = enter(made, Slot(point.id, 1, position, phase), text)
    return made


def view(made, phase="as found"):
    return View(made, WHEN, phase)


def test_settings_are_those_of_the_readings_of_the_range():
    seen = view(read_job((0.8, 0.9, 1.0)))
    found = turned(seen, Chosen("200"))
    ratios = [item.indicated_w / item.reference_w for item in found.turnable.places]

    assert [item.point.target_w for item in found.turnable.places] == list(LEVELS)
    assert found.answer.minimax.gain == pytest.approx(2 / (min(ratios) + max(ratios)))
    assert found.at.point.target_w == 100.0
    assert found.answer.exact.gain == pytest.approx(1 / ratios[2])
    point = found.turnable.places[1].point.id
    assert turned(seen, Chosen("200", point=point)).answer.exact.gain == pytest.approx(1 / ratios[1])
    table = rows(found)
    assert [row[0] for row in table] == ["as found", "exact at the working level", "least worst case", "least squares"]
    assert table[0][1:3] == ["—", "—"]
    assert table[2][1] == f"{found.answer.minimax.gain:.4f}"
    assert table[1][2].replace("\u202f", " ").endswith(f"at {found.at.reference_w:.2f} W")
    decibels = rows(turned(seen, Chosen("200", Measure.DB)))
    assert "dB ±" in decibels[0][3]
    of_scale = turned(view(read_job((0.8, 0.8, 0.8))), Chosen("200", Measure.FULL_SCALE))
    worst = of_scale.turnable.places[-1]  # a fifth of 100 W is most of the scale's 200 W
    share = 100.0 * (worst.indicated_w / worst.reference_w - 1.0) * worst.reference_w / 200.0
    u = 100.0 * of_scale.u_left(worst) * worst.reference_w / 200.0
    assert [item.replace("\u202f", " ") for item in rows(of_scale)[0][3:5]] == [
        f"−{-share:.1f} % ± {u:.1f} %", "100 W at 7.125 MHz",
    ]  # fmt: skip


def test_the_best_setting_brings_most_readings_inside_and_turning_for_nothing_is_advised_against():
    seen = view(read_job((0.7, 0.7, 0.7)))
    found = turned(seen, Chosen("200"))
    assert best(found)[1].worst == pytest.approx(0.0, abs=0.02)
    assert headline(seen, Chosen("200")).replace("\u202f", " ").startswith("Make it read ")
    assert "all 3 inside the tolerance" in headline(seen, Chosen("200"))
    good = view(read_job((1.0, 1.0, 1.0)))
    assert headline(good, Chosen("200")).startswith("Leave it")
    assert headline(view(job()), Chosen()).startswith("Nothing can be turned yet")


def test_a_question_without_anything_to_turn_offers_no_such_step():
    seen = view(loss_job("two couplers"))
    assert (ranges_of(seen), turned(seen, Chosen())) == ((), None)
    assert headline(seen, Chosen()) == "This question has nothing to be turned."
    (state,) = (item for item in route(seen) if item.title == "Adjust")
    assert not state.is_offered
    (state,) = (item for item in route(view(read_job((1, 1, 1)))) if item.title == "Adjust")
    assert (state.is_offered, state.fill) == (True, 0.0)


@pytest.mark.parametrize(("after", "said"), [
    ((1.0, 1.0, 1.0), "It was turned by +25"), ((1.0, 1.0, 1.5), "moved otherwise"),
])  # fmt: skip
def test_as_left_says_whether_it_moved_as_a_gain_moves_it(after, said):
    made = with_as_left(read_job((0.8, 0.8, 0.8)))
    seen = view(read_job(after, AS_LEFT, made), AS_LEFT)
    text = headline(seen, Chosen("200"))
    assert said in text
    assert ("every reading moved by that, within its U" in text) is (after[2] == 1.0)
    (state,) = (item for item in route(seen) if item.title == "Adjust")
    assert state.fill == 1.0


@pytest.mark.parametrize("times", [200, pytest.param(1000, marks=pytest.mark.long)])
def test_what_is_left_is_covered_as_stated(times):
    """So many adjustments: bench drawn, read, turned by hand until the meter reads what it should; the true error then.

    The meter truly shows 10^(dB/10) of the power; set again against the same reference, with its dial read anew.
    """
    empty, rng, hits = behind_a_pad(), np.random.default_rng(21), []
    for _ in range(times):
        bench, made = drawn(empty, rng), empty
        for position, channel in enumerate(empty.plan[0].sequence):
            made = enter(made, Slot("p1", 1, position), shown(empty, bench, channel, rng))
        found = turned(view(made), Chosen())
        place, setting = found.at, found.answer.exact
        # both are read anew while it is turned: the reference by the same bench, the dial to a part of its division
        again = [shown(empty, bench, channel, rng) for channel in empty.plan[0].sequence]
        dial = float(again[1].split()[0]) / (LEVEL * 10.0 ** (DEVICE_DB / 10.0))
        gain = found.answer.reads(setting) / (LEVEL * 10.0 ** (DEVICE_DB / 10.0) * dial)
        true = gain * 10.0 ** (DEVICE_DB / 10.0) - 1.0
        hits.append(abs(true - found.error(place, setting)) <= found.u_left(place))
    assert 0.93 <= np.mean(hits) <= 1.0


def test_a_gain_and_a_zero_that_were_turned_are_told_apart():
    """As left 1.1 times what it showed and 2 W more: with both controls that is what is said, with a gain alone not."""
    made = read_job((0.8, 0.9, 1.0))
    before = {item.point.id: item.indicated_w for one in ranges_of(view(made)) for item in one.places}
    left = with_as_left(made)
    for point in left.plan:
        volts = math.sqrt(8.0 * 50.0 * point.target_w)
        for position, text in enumerate((f"{volts:.4f} Vpp", f"{1.1 * before[point.id] + 2.0:.4f}")):
            left = enter(left, Slot(point.id, 1, position, AS_LEFT), text)
    seen = view(left, AS_LEFT)
    both = headline(seen, Chosen("200", control=Control.GAIN_AND_ZERO)).replace("\u202f", " ")

    assert both.startswith("It was turned by +10")
    assert "and its zero by +2" in both
    assert both.endswith("every reading moved by that, within its U.")
