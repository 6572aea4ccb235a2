"""DC in, RF out: conservation of energy, what classes can give, and what is made of it for a person."""

import math
from dataclasses import replace

import pytest

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.kit.amplifier import CLASSES, STAGE
from fenmist.methods.efficiency import SLIPS, Amplifier, Converted, EfficiencyRequest, too_much


def codes(answer):
    return [note.code for note in answer.notes]


def test_a_hundred_watts_from_13_8_v_and_20_a():
    """276 W in, 100 W out: 36 %, 176 W heat (derived)."""
    answer = EfficiencyRequest("13.8 V", "20 A", "100 W")()

    assert answer.share == pytest.approx(100.0 / 276.0)
    assert answer.heat_w == pytest.approx(176.0)
    assert codes(answer) == []


def test_a_sine_as_large_as_its_supply_gives_half_in_class_a_and_a_quarter_of_pi_in_b():
    """Summed over a cycle: supply ±1 V, 1 Ω. A draws its rest current of 1 A always, B the half waves."""
    turn = (math.pi * (n + 0.5) / 500.0 for n in range(1000))
    sines = [math.sin(x) for x in turn]
    out = sum(one * one for one in sines) / 1000.0
    in_b = sum(abs(one) for one in sines) / 1000.0

    assert CLASSES["A"].most == pytest.approx(out / 1.0, rel=1e-3)
    assert CLASSES["B"].most == CLASSES["AB"].most == pytest.approx(out / in_b, rel=1e-3)


def test_limits_of_volts_amperes_and_watts_go_into_the_interval():
    answer = EfficiencyRequest("10 V ± 3 %", "10 A ± 4 %", "50 W ± 5 %")()
    dc = 100.0 * 0.05 / math.sqrt(3.0)
    wide = math.exp(2.0 * 0.05 / math.sqrt(3.0))

    assert answer.made.dc_u_w == pytest.approx(dc)
    assert answer.made.ceiling_w == pytest.approx(100.0 + 2.0 * dc)
    assert answer.made.interval == (
        pytest.approx(50.0 / wide / (100.0 + 2.0 * dc)), pytest.approx(50.0 * wide / (100.0 - 2.0 * dc))
    )  # fmt: skip
    assert EfficiencyRequest("10 V", "10 A", "50 W")().made.dc_u_w == pytest.approx(
        100.0 * math.hypot(0.01, 0.02) / 3**0.5
    )


def test_pep_of_two_tones_is_held_as_its_mean():
    """Mean = PEP/2 (any radio handbook): 200 W PEP of 276 W are 36 %."""
    answer = EfficiencyRequest("13.8 V", "20 A", "200 W", sent="two-tone")()

    assert answer.share == pytest.approx(100.0 / 276.0)
    assert codes(EfficiencyRequest("13.8 V", "20 A", "30 W", sent="two-tone")()) == []
    assert codes(EfficiencyRequest("13.8 V", "20 A", "30 W")()) == ["supply.below_usual"]
    wide = EfficiencyRequest("13.8 V", "20 A", "200 W", sent="speech ± 40 %")()
    assert wide.made.out_w[2] / wide.made.out_w[1] > answer.made.out_w[2] / answer.made.out_w[1]


def test_drive_that_passes_through_explains_more():
    alone, driven = (EfficiencyRequest("10 V", "5 A", "60 W", drive=drive)() for drive in ("", "15 W"))

    assert codes(alone) == ["supply.more_out"]
    assert codes(driven) == []
    assert driven.share == pytest.approx(60.0 / 65.0)


@pytest.mark.parametrize("slip", [4.0, 8.0, 10.0, 100.0])
def test_a_slip_is_named_by_how_many_times_it_makes(slip):
    """Of a set that makes √(0.3 · 0.5) of its 276 W, 107 W."""
    (note,) = EfficiencyRequest("13.8 V", "20 A", f"{106.9 * slip:.5g} W ± 1 %")().notes

    assert note.code == "supply.more_out"
    assert SLIPS[slip] in note.why


@pytest.mark.parametrize(("watts", "named"), [("219 W", 2.0), ("163 W", 2.0), ("122 W", 2.0), ("222 W", None)])
def test_twice_is_seen_where_nearly_all_is_usual(watts, named):
    """A switching stage makes √(0.7 · 0.95) = 0.815 of its 100 W: twice that is 163 W, and 1.35 times that 220.1 W."""
    request = EfficiencyRequest("10 V ± 0.1 %", "10 A ± 0.1 %", f"{watts} ± 0.1 %", of_class="switching", feeds=STAGE)
    (note,) = request().notes

    assert note.code == "supply.more_out"
    assert [slip for slip, said in SLIPS.items() if said in note.why] == ([named] if named else [])


def test_where_no_slip_makes_it_none_is_named():
    (note,) = EfficiencyRequest("10 V", "10 A", "1.6 kW")().notes

    assert not any(said in note.why for said in SLIPS.values())
    assert "41 times what is usual" in note.why
    assert note.why.startswith("1.600 ± 0.092")


@pytest.mark.parametrize(
    ("watts", "code"), [(70.0, "supply.above_class"), (120.0, "supply.more_out")]
)  # class A makes half of 100 W at most, nobody more than all
def test_a_note_is_about_the_point_that_it_was_made_at(watts, code):
    amplifier = Amplifier("Quoll", "quoll", "A", STAGE)
    made = Converted(100.0, 1.0, 0.0, (watts - 2.0, watts, watts + 2.0))
    here, anywhere = too_much(replace(made, about="p3", where=" at 7 MHz"), amplifier), too_much(made, amplifier)

    assert (here.code, here.about, anywhere.about) == (code, "p3", "quoll")
    assert "at 7 MHz" in here.what


def test_heat_that_it_may_not_take_stops_where_it_is_sure():
    """276 W in, u 2.3 % of it as rectangles of 1 % and 2 %; 100 W out, at most 105.9: 162.9 W of heat for certain."""
    answer = EfficiencyRequest("13.8 V", "20 A", "100 W")()
    sure = 276.0 - 2.0 * answer.made.dc_u_w - answer.made.out_w[2]
    hot, fine = (EfficiencyRequest("13.8 V", "20 A", "100 W", heat=f"{sure + off:.2f} W")() for off in (-0.5, 0.5))

    assert sure == pytest.approx(162.9, abs=0.1)
    assert codes(hot) == ["supply.heat"]
    assert "Key up" in hot.notes[0].remedy and hot.notes[0].about == "amplifier"
    assert codes(fine) == []


@pytest.mark.parametrize(
    "texts",
    [("0 V", "20 A", "100 W"), ("13.8 V", "", "100 W"), ("13.8 V", "20 A", "−3 W"), ("13.8 V", "20 A", "100 W ± 120 %"),
     ("13.8 V", "20 A", "100 W", "a song"), ("13.8 V", "20 A", "100 W", "", "-2 W"),
     ("13.8 V", "20 A", "100 W", "", "", "Z")],
)  # fmt: skip
def test_what_can_t_be_is_said(texts):
    with pytest.raises((UnreadableError, OutOfRangeError)):
        EfficiencyRequest(*texts)()
