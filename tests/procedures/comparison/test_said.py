"""What the comparison says in its rows, cards and sentences, number by number."""

import math
from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest

from fenmist.methods.why import explained, readings
from fenmist.procedures.comparison.apart_rules import _trend
from fenmist.procedures.comparison.bench import trouble
from fenmist.procedures.comparison.card import curve_card
from fenmist.procedures.comparison.curve import CurvePoint
from fenmist.procedures.comparison.figures import figures
from fenmist.procedures.comparison.headline import readings_headline
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.round_rules import transposed_digits, wrong_form
from fenmist.procedures.comparison.surface import _mixed
from fenmist.procedures.comparison.tables import RESULT_HEADINGS, result_rows
from fenmist.procedures.comparison.why import _SHAPED, Deciding, _or, _shaped, why_of
from fenmist.reading.event import Slot
from studies.builders import enter, job
from studies.references import a_better_meter, three_at_once
from support.texts import spaced


def test_a_row_gives_decibels_to_hundredths_and_a_factor_to_thousandths():
    """23.75 for 25 W: −5 %, −0.22 dB, 1.053."""
    (row,) = result_rows(reduce(job([[("100 Vpp", "23.75")]], load="50")))
    named = dict(zip(RESULT_HEADINGS, map(spaced, row), strict=True))

    assert (named["frequency"], named["dB"], named["factor"]) == ("7.125 MHz", "−0.22", "1.053")
    assert named["per cent"].startswith("−5.0 ± ")


@pytest.mark.parametrize(("made", "count"), [(job(), "both"), (three_at_once(), "all")])
def test_an_error_appears_once_both_or_all_were_read(made, count):
    said = readings_headline(made, reduce(made), made.plan[0])
    assert said.endswith(f"the error appears once {count} are entered.")


def test_power_may_be_stated_at_the_device_alone():
    made = job()
    stated = made.bench.stated
    other = next(item.id for item in made.bench.elements if item.id not in (stated.element, "load"))

    assert trouble(made, made.bench) == ""
    for hookup in (
        replace(made.bench, stated=replace(stated, element=other)),
        replace(
            made.bench, joints=tuple(one for one in made.bench.joints if stated.element not in (one.a[0], one.b[0]))
        ),
    ):
        assert trouble(made, hookup) == "power is stated at the device under test, on the line"


def test_a_card_of_a_line_says_that_it_holds_between_its_points_alone():
    read = [[("100 Vpp", watts)] for watts in ("24", "25", "26")]
    made = job(read, load="50", frequencies_hz=(7e6, 14e6, 21e6))
    drawn = curve_card(made, reduce(made))

    assert drawn.title.endswith(": add to the reading, in per cent")
    assert drawn.foot.endswith("; along the line between the points, outside not")
    assert (drawn.columns, drawn.rows, drawn.left_out, drawn.curve.quantity) == ((), (), "", "to be added")
    added = [point.value for point in drawn.curve.series[0].points]
    assert added == pytest.approx([100.0 * (25.0 / watts - 1.0) for watts in (24.0, 25.0, 26.0)], abs=0.3)


def test_between_two_levels_each_side_of_an_interval_is_its_own():
    one, other = CurvePoint(1.0, (0.9, 1.3), True), CurvePoint(1.1, (1.0, 1.2), True)

    assert _mixed(one, other, 0.0).ratio_interval == pytest.approx(one.ratio_interval)
    assert _mixed(one, other, 1.0).ratio_interval == pytest.approx(other.ratio_interval)
    assert _mixed(one, other, 0.5).ratio == pytest.approx(math.sqrt(1.1))


def test_what_it_may_be_is_listed_with_an_or_before_the_last():
    f = np.geomspace(1.8e6, 28e6, 9)
    fits = explained(readings(f, 50.0, -0.1 * (f / 28e6) ** 2, 1e-4 * np.eye(9))).fits
    by_name = {_or([fit]): fit for fit in fits}
    plain = [fit for name, fit in by_name.items() if "," not in name and " or " not in name][:3]
    names = [_or([fit]) for fit in plain]

    assert _or(plain[:2]) == " or ".join(names[:2])
    assert _or(plain) == f"{names[0]}, {names[1]} or {names[2]}"


def test_swapped_digits_of_a_references_watts_count_once():
    """25 for 52 W at a better meter, beside 55 W that can't be swapped: brought back by 52 exactly."""
    made = a_better_meter()
    made = replace(made, plan=tuple(replace(point, repeats=4, target_w=52.0) for point in made.plan))
    for number in range(1, 5):
        for position, name in enumerate(made.plan[0].sequence):
            reference = "25" if number == 3 else "52"
            made = enter(made, Slot(made.plan[0].id, number, position), "55" if made.is_device(name) else reference)
    (note,) = transposed_digits(made, reduce(made))

    assert note.evidence["swapped"] == "52"


@pytest.mark.parametrize(("typed", "said"), [("139", "2 times"), ("71", "1/2 of"), ("100", "")])
def test_volts_taken_for_another_form_say_by_how_much(typed, said):
    """25 W into 50 Ω are 100 Vpp; a little less than √2 times that is still twice the power, near enough."""
    made = job([[(typed, "25")]], load="50", level_w=25.0)
    told = [note.why.removeprefix("Its power is ").split(" what")[0] for note in wrong_form(made, reduce(made))]
    assert told == ([said] if said else [])


@pytest.mark.parametrize("sign", [1.0, -1.0])
def test_what_is_left_of_a_trend_is_left_of_a_straight_line(sign):
    rounds = [SimpleNamespace(log_ratio=sign * 0.04 * number) for number in range(4)]
    found = _trend(SimpleNamespace(rounds=rounds))

    assert (found.change, found.rest, found.one_way) == (
        pytest.approx(sign * 0.12),
        pytest.approx(0.0, abs=1e-12),
        True,
    )


def test_outside_its_physics_the_reference_decides_nothing():
    made = job([[("102 Vpp", "25.6")]], bandwidth_hz=20e6)

    assert "no reference here" in readings_headline(made, reduce(made), made.plan[0])


@pytest.mark.parametrize(("shown", "sign"), [("26", "+"), ("24", "−")])
def test_the_running_error_has_its_sign_in_watts_and_in_decibels(shown, sign):
    """26 or 24 for 25 W into 50 Ω: +0.17 and −0.18 dB (any table)."""
    found = figures(reduce(job([[("100 Vpp", shown)]], load="50")), "p1")
    said = [spaced(text) for text in (found.value, found.second)]

    assert said[0].startswith(f"{sign}1.") or said[0].startswith(f"{sign}0.9")
    assert said[1] == ("+0.17 dB" if sign == "+" else "−0.18 dB")


@pytest.mark.parametrize("offered", [True, False])
def test_a_shape_says_what_helps_and_where_one_reading_would_decide(offered, monkeypatch):
    """What helps is the shape's own; behind it stands what is offered, or nothing."""
    shown = [[("100 Vpp", watts)] for watts in ("24", "22", "19")]
    result = reduce(job(shown, load="50", frequencies_hz=(7e6, 14e6, 28e6)))
    why = why_of(result)
    fit = next(fit for fit in why.fits if fit.shape.id in _SHAPED)
    somewhere = Deciding(result.points[0].point, False) if offered else None
    monkeypatch.setattr("fenmist.procedures.comparison.why.deciding", lambda _: somewhere)
    monkeypatch.setattr("fenmist.procedures.comparison.why._offer", lambda *_: "Read there.")

    assert _shaped(why, fit, result).remedy == _SHAPED[fit.shape.id].remedy + (" Read there." if offered else "")
