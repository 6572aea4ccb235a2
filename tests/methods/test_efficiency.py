"""DC in, RF out: conservation of energy, what classes can give, and what is made of it for a person."""

import math

import pytest

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.kit.amplifier import CLASSES
from fenmist.methods.efficiency import SLIPS, EfficiencyRequest


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


@pytest.mark.parametrize("times", [2.0, 4.0, 8.0, 10.0, 100.0])
def test_a_slip_is_named_by_how_many_times_it_makes(times):
    """Of a set that makes 39 % of its 276 W, 107 W."""
    request = EfficiencyRequest("13.8 V", "20 A", f"{107.0 * times:.4g} W ± 1 %")
    if times == 2.0:  # 214 W of 276 W could be: an output stage of class A can't
        request = EfficiencyRequest("13.8 V", "20 A", "175 W ± 1 %", of_class="A", feeds="its output stage")
        assert codes(request()) == ["supply.above_class"]
        return
    (note,) = request().notes

    assert note.code == "supply.more_out"
    assert SLIPS[times] in note.why


def test_where_no_slip_makes_it_none_is_named():
    (note,) = EfficiencyRequest("10 V", "10 A", "900 W", drive="")().notes
    (far,) = EfficiencyRequest(
        "10 V", "10 A", "40 W", feeds="its output stage", of_class="switching", heat="20 W"
    )().notes[:1]

    assert "times" in note.why
    assert far.code == "supply.heat"
    assert not any(said in EfficiencyRequest("10 V", "10 A", "1.6 kW")().notes[0].why for said in SLIPS.values())


def test_heat_that_it_may_not_take_stops():
    hot, fine = (EfficiencyRequest("13.8 V", "20 A", "100 W", heat=heat)() for heat in ("120 W", "180 W"))

    assert codes(hot) == ["supply.heat"]
    assert "Key up" in hot.notes[0].remedy
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
