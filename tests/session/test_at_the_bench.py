"""What the run does besides digits, and what it says beside them: each against a run worked out by hand."""

import math
from dataclasses import replace
from datetime import datetime, timedelta

import pytest

from fenmist.calibration.keydown import Carrier
from fenmist.hookup.heat import Keying
from fenmist.procedures.comparison.figures import figures, looked_up_text
from fenmist.procedures.comparison.make import plan_points
from fenmist.reading.event import Slot
from fenmist.session.openjob import OpenJob
from fenmist.session.present import effect_text, entry_text, rounds_text
from fenmist.session.route import route
from fenmist.session.run import Run
from fenmist.session.session import Session
from fenmist.session.steering import COMMANDS, after, next_point, target
from fenmist.session.warmth import Warmth, duration, warmth
from studies.builders import WHEN, job
from support.texts import spaced


class Clock:
    def __init__(self) -> None:
        self.now = WHEN

    def __call__(self) -> datetime:
        self.now += timedelta(seconds=10)
        return self.now


@pytest.fixture
def opened(tmp_path):
    """Two points of two rounds, 25 W into 50 Ω: 100 Vpp."""
    session = Session(tmp_path / "b.fenlog", second_folder=tmp_path, clock=Clock())
    session.logbook.add_job(job(frequencies_hz=(7e6, 14e6), repeats=2, load="50"))
    yield session.open("job")
    session.close()


def slot(point: int, number: int, position: int) -> Slot:
    return Slot(f"p{point}", number, position)


def fill(made: OpenJob, *places: tuple[int, int, int]) -> None:
    for place in places:
        made.enter(slot(*place), "25" if place[2] else "100")


def test_a_point_left_half_read_is_cold_the_next_day_and_a_key_is_one_that_says_on(opened):
    fill(opened, (1, 1, 0))
    assert opened.carrier.is_on
    opened._clock.now += timedelta(days=1)
    assert not opened.carrier.is_on
    assert (opened.warmth(slot(1, 1, 1)).text, opened.warmth(slot(1, 1, 1)).severity) == (
        "off · load about 0\u2009% of its rise", ""
    )  # fmt: skip
    opened.switch_carrier(slot(1, 1, 1))
    assert opened.carrier.is_on


# where it goes on


def test_after_an_entry_the_next_empty_slot_then_those_left_behind_then_simply_the_next(opened):
    fill(opened, (1, 1, 0), (1, 2, 0), (2, 1, 0))
    assert after(opened, slot(1, 1, 0)) == slot(1, 1, 1)
    assert after(opened, slot(1, 1, 1)) == slot(1, 2, 1)
    fill(opened, (2, 1, 1), (2, 2, 0), (2, 2, 1))
    assert after(opened, slot(2, 2, 1)) == slot(1, 1, 1)
    opened.skip(slot(1, 1, 1), "no time")
    assert after(opened, slot(2, 2, 1)) == slot(1, 2, 1)
    fill(opened, (1, 2, 1))
    assert after(opened, slot(1, 1, 0)) == slot(1, 1, 1)
    assert after(opened, slot(2, 2, 1)) == slot(2, 2, 1)


def test_up_and_down_are_held_at_both_ends(opened):
    assert COMMANDS["down"](opened, slot(1, 1, 1)) == slot(1, 2, 0)
    assert COMMANDS["up"](opened, slot(1, 2, 0)) == slot(1, 1, 1)
    assert COMMANDS["back"](opened, slot(1, 1, 0)) == slot(1, 1, 0)
    assert COMMANDS["down"](opened, slot(2, 2, 1)) == slot(2, 2, 1)


def test_another_point_begins_at_its_first_empty_slot(opened):
    fill(opened, (2, 1, 0))
    assert next_point(opened, slot(1, 2, 1), 1) == slot(2, 1, 1)
    assert next_point(opened, slot(2, 1, 0), 1) == slot(2, 1, 1)
    assert next_point(opened, slot(2, 1, 0), -1) == slot(1, 1, 0)
    fill(opened, (1, 1, 0), (1, 1, 1), (1, 2, 0), (1, 2, 1))
    assert COMMANDS["former point"](opened, slot(2, 1, 0)) == slot(1, 1, 0)
    assert COMMANDS["repeat"](opened, slot(1, 1, 0)) == slot(1, 3, 0)
    assert opened.job.plan[0].repeats == 3


def test_a_command_means_its_own_entry_or_the_last_before_it(opened):
    assert target(opened, slot(1, 1, 1)) is None
    assert COMMANDS["strike"](opened, slot(1, 1, 1)) == slot(1, 1, 1)
    fill(opened, (1, 1, 0), (2, 1, 0))
    assert target(opened, slot(1, 2, 1)) == slot(1, 1, 0)
    assert target(opened, slot(2, 1, 0)) == slot(2, 1, 0)
    assert COMMANDS["doubt"](opened, slot(1, 1, 1)) == slot(1, 1, 1)
    assert [event.target for event in opened.job.events if event.reason == "not sure of it"]


def test_the_likeliest_reading_of_an_open_entry_is_taken(opened):
    assert COMMANDS["take"](opened, slot(1, 1, 0)) == slot(1, 1, 0)  # nothing there
    opened.enter(slot(1, 1, 0), "1,250")
    assert COMMANDS["take"](opened, slot(1, 1, 1)) == slot(1, 1, 1)
    assert opened.view.standing[slot(1, 1, 0)].entry.raw_text == "1250 Vpp"  # nearer to the 100 V expected than 1.25 V
    before = len(opened.job.events)
    assert COMMANDS["take"](opened, slot(1, 1, 0)) == slot(1, 1, 0)  # read already
    opened.enter(slot(1, 1, 1), "abc")
    assert COMMANDS["take"](opened, slot(1, 1, 1)) == slot(1, 1, 1)  # nobody knows
    assert len(opened.job.events) == before + 1


def test_a_skipped_round_is_passed_and_asked_for_again_it_is_where_one_stands(opened):
    assert COMMANDS["skip"](opened, slot(1, 1, 0)) == slot(1, 2, 0)
    assert COMMANDS["skip"](opened, slot(1, 1, 0)) == slot(1, 1, 0)


def test_the_run_goes_on_where_something_is_missing_and_holds_its_place(opened):
    run = Run(opened)
    assert not run.is_device(0) and not run.takes_capture(0)  # it stands nowhere yet
    run.settle()
    assert (run.slot, run.is_device(0), run.is_device(1)) == (slot(1, 1, 0), False, True)
    assert (run.first(run.is_device), run.first(run.takes_capture), run.first(lambda _: False)) == (1, 0, 0)
    run.type(0, "100")
    assert run.drafted is None  # the meter's reading is still missing
    run.keep(0, " 100 ")
    run.type(1, "25")
    assert run.drafted.value == pytest.approx(-25 * 50 / 1e6, rel=0.02)  # the input of 1 MΩ draws that
    assert run.whole_draft().result.points[0].point.id == "p1"
    run.go(slot(2, 1, 0))
    run.settle()
    assert (run.slot, run.draft, run.whole_draft()) == (slot(2, 1, 0), None, None)


def test_the_run_stands_where_an_entry_was_taken_back_and_again_where_it_was_with_redo(opened):
    run = Run(opened)
    run.settle()
    for position, text in enumerate(("100", "25")):
        run.keep(position, text)
        run.settle()
    run.go(slot(1, 2, 0))
    places = [run.slot]
    for step in (opened.commands.undo, opened.commands.undo, opened.commands.redo, opened.commands.redo):
        step()
        run.settle()
        places.append(run.slot)

    assert places == [slot(1, 2, 0), slot(1, 1, 1), slot(1, 1, 0), slot(1, 1, 1), slot(1, 2, 0)]


# what is said


def test_what_an_entry_comes_to(opened):
    opened.enter(slot(1, 1, 0), "100")
    assert spaced(entry_text(opened.view, opened.view.standing[slot(1, 1, 0)].entry)) == "100 Vpp"
    opened.enter(slot(1, 1, 1), "25")
    said = [spaced(entry_text(opened.view, opened.view.standing[slot(1, 1, n)].entry)) for n in (0, 1)]
    assert said == ["25 W incident", "±1.2 W"]  # a quarter of the 5 W between two marks
    opened.enter(slot(1, 2, 0), "1,250")
    opened.enter(slot(1, 2, 1), "abc")
    said = [entry_text(opened.view, opened.view.standing[slot(1, 2, n)].entry) for n in (0, 1)]
    assert said == ["open · /2 takes 1250 Vpp", "open"]
    assert entry_text(opened.view, None) == ""
    assert spaced(rounds_text(opened.view, opened.job.plan[0], 1)) == "round 2: open / open"
    assert spaced(rounds_text(opened.view, opened.job.plan[0], 2)) == "round 1: 100 Vpp / 25 W"


def moved(opened: OpenJob) -> list[str]:
    found = figures(opened.view.result, "p1")
    return [spaced(found.scatter), spaced(found.drift)]


def test_scatter_and_drift_as_they_develop(opened):
    """Ratios 25/25 and 25/25.503: 1.4 % between them; 101 V for 100 V are 2.01 % of power."""
    assert moved(opened) == ["—", "—"]
    fill(opened, (1, 1, 0), (1, 1, 1))
    assert moved(opened) == ["—", "—"]
    opened.enter(slot(1, 2, 0), "101")
    opened.enter(slot(1, 2, 1), "25")
    assert moved(opened) == ["1.4 %", "+2.0 %"]


@pytest.mark.parametrize(("low", "high", "said"), [
    (-0.02, 0.02, "±2.0 %"), (0.0, 0.0, "nothing"), (0.01, 0.01, "+1.0 %"), (-0.01, 0.03, "−1.0 % to +3.0 %"),
])  # fmt: skip
def test_what_a_change_of_power_is_said_as(low, high, said):
    assert spaced(effect_text(low, high)) == said


@pytest.mark.parametrize(("asked", "said"), [
    ("20 W at 10 MHz", "20.0 ± 1.6 W, range 200, by the curve at 25 W"),
    ("24 W at 8 MHz", "24.0 ± 2.0 W, range 200, between the frequencies read"),
    ("25 W at 7 MHz", "25.0 ± 2.0 W, range 200, as read"),
    ("0 W at 7 MHz", "A power above 0, such as 40 W at 14 MHz."),
    ("0.9 W at 7 MHz", "Nothing was read near 900 mW at 7 MHz. What is known goes from 12.5 W to 50 W shown."),
])  # fmt: skip
def test_what_a_reading_stands_for(opened, asked, said):
    fill(opened, *((p, n, k) for p in (1, 2) for n in (1, 2) for k in (0, 1)))
    number, _, rest = spaced(looked_up_text(opened.view.result, asked)).partition(",")
    assert (number.split(" ± ")[0], rest) == (said.partition(",")[0].split(" ± ")[0], said.partition(",")[2])


# warm


def test_a_clock_shows_minutes_and_seconds():
    assert [duration(s) for s in (-3.0, 0.4, 59.6, 125.0)] == ["0:00", "0:00", "1:00", "2:05"]


@pytest.mark.parametrize(
    ("on", "rise", "left", "rest", "advice", "severity"),
    [
        (True, 1.0, 0.0, 0.0, "Carrier off: the load has reached its rating.", "stop"),
        (True, 0.81, 60.0, 0.0, "Carrier off soon: about 1:00 until the load's rating.", "doubt"),
        (True, 0.3, 14.9, 0.0, "Carrier off soon: about 0:15 until the load's rating.", "doubt"),
        (True, 0.79, 15.1, 0.0, "", ""),
        (False, 1.2, 15.1, 1.0, "Let the load rest for 0:01 before the next point.", "doubt"),
        (False, 0.5, 15.1, 0.9, "", ""),
        (False, 0.5, 0.0, math.inf, "This level is beyond the load's rating, even for one reading.", "doubt"),
    ],
)
def test_what_a_warm_load_asks_for(on, rise, left, rest, advice, severity):
    made = Warmth(on, 75.0, rise, left, rest, 25.0)

    assert (made.advice, made.severity) == (advice, severity)
    assert spaced(made.text).startswith(f"{'on 1:15' if on else 'off'} · load about {100 * rise:.0f} % of its rise")
    assert ("left" in made.text) is on


def test_a_load_warms_while_the_carrier_is_on_and_asks_for_rest_by_what_a_point_usually_takes():
    made = replace(job(load="50"), plan=plan_points([7e6], [100.0, 200.0], "200"))
    cold = warmth(made, Carrier(()), 0.0, Slot("p1", 1, 0))
    assert (cold.on, cold.rise, cold.rest_s, cold.power_w, cold.on_for_s) == (False, 0.0, 0.0, 100.0, 0.0)
    on = warmth(made, Carrier((), 0.0, 200.0), 30.0, None)
    assert (on.on, on.on_for_s, on.power_w, on.rest_s) == (True, 30.0, 200.0, 0.0)
    assert 0.0 < on.rise < 1.0 and math.isfinite(on.left_s)
    nothing = warmth(made, Carrier(()), 0.0, None)
    assert (nothing.power_w, nothing.rest_s) == (0.0, 0.0)
    short, long = (Carrier((Keying(0.0, s, 150.0), Keying(s, s + 1.0, 0.0))) for s in (4.0, 280.0))
    both = Carrier((*short.keyings, *long.keyings))  # of two the longer is the usual one
    rests = [warmth(made, item, 290.0, Slot("p2", 1, 0)).rest_s for item in (short, long, both)]
    assert rests[0] == 0.0 < rests[1] <= rests[2]


# how far it is


def test_how_far_each_step_is(opened):
    def said():
        return [(step.fill, step.needs) for step in route(opened.view)]

    assert [step.title for step in route(opened.view)] == [
        "Receive", "Hook-up", "Parts", "Plan", "Readings", "Results", "Adjust", "Certificate",
    ]  # fmt: skip
    assert said() == [(0.0, ""), (1.0, ""), (1.0, ""), (1.0, ""), (0.0, ""), (0.0, ""), (0.0, ""), (0.0, "")]
    fill(opened, (1, 1, 0), (1, 1, 1))
    assert said()[4:6] == [(0.5, "1 of 4 rounds"), (0.5, "1 of 2 points")]
    fill(opened, *((p, n, k) for p in (1, 2) for n in (1, 2) for k in (0, 1) if (p, n) != (1, 1)))
    assert said()[4:6] == [(1.0, ""), (1.0, "")]
    assert said()[7][0] in (0.5, 1.0)


@pytest.mark.parametrize(("blocked", "needs"), [(True, "all left out"), (False, "nothing planned")])
def test_a_plan_left_out_whole_is_another_thing_than_none(opened, blocked, needs):
    plan = tuple(replace(point, blocked="no time") for point in opened.job.plan) if blocked else ()
    opened.edit(replace(opened.job, plan=plan), "left out")

    assert route(opened.view)[3].needs == needs
