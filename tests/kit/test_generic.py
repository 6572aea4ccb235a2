"""What a new logbook begins with: typical data as the kit's forms show it, and what follows from it.

All are common practice, no source: a change here is a change of what newcomers are told.
"""

import math

import numpy as np
import pytest

from fenmist.kit import generic, shelf
from fenmist.kit.draft import draft_from_part
from fenmist.kit.generic import starter_shelf
from fenmist.kit.network import part_network
from fenmist.kit.part import Part
from fenmist.measurand import Detector

NOT_SHOWN = ("label", "serial", "form", "compared_on", "compared_by", "due", "remarks", "swr_is", "foldback_is")

SHOWN = {
    "transmitter": (
        "power 100 W · harmonics_are at most · carrier steady · output transistors · feeds the whole set · "
        "class not said"
    ),
    "wattmeter": (
        "ranges 20 W; 200 W · marks 0 20 40 60 100 140 200 · divisions 4 4 4 4 4 6 · law square root · "
        "accuracy 5 % · shows forward alone · needles one after the other · detector averages volts · "
        "loss 0.05 dB · span 1.8 MHz to 30 MHz"
    ),
    "jumper": "loss 0.02 dB · loss_limit 0.02 dB",
    "tee": "arm 2 cm · body 1 pF",
    "lead": "length 30 cm · velocity_factor 0.66 · line 50 Ω · cable not said",
    "probe": (
        "ratio 10 · setting 10 · accuracy 2 % · capacitance 12 pF · ground 10 cm · bandwidth 200 MHz · "
        "volts_limit 600 V · knee 2 MHz"
    ),
    "scope": "bandwidth 100 MHz · response one-pole · accuracy 3 % · capacitance 16 pF · noise 0 % · volts_limit 300 V",
    "load": "power 100 W · nominal 50 Ω · minutes 5",
    "generator": "power 20 mW · swr 1.5 · accuracy 1 dB",
    "digital": (
        "ranges 20 W; 200 W · accuracy 5 % of reading + 1 digit · shows forward, reflected and SWR · "
        "needles one after the other · detector averages volts · loss 0.05 dB · span 1.8 MHz to 30 MHz · swr 1.1"
    ),
    "crossing": (
        "ranges 20 W; 200 W · marks 0 20 50 100 150 200 · divisions 4 6 5 5 5 · law square root · accuracy 5 % · "
        "shows forward and reflected · needles crossing over one dial · detector averages volts · loss 0.05 dB · "
        "span 1.8 MHz to 30 MHz · swr 1.1"
    ),
    "two-band": (
        "ranges 20 W; 200 W · accuracy 5 % of reading + 1 digit · shows forward alone · "
        "needles one after the other · detector averages volts · loss 0.05 dB · span 1.8 MHz to 60 MHz · swr 1.1"
    ),
    "home-built": (
        "arms forward and reflected · shows volts · span 1.8 MHz to 30 MHz · loss 0.05 dB · loss_limit 0.05 dB · "
        "power 200 W · swr 1.1"
    ),
    "swr-meter": (
        "shows SWR · swr_marks 1 1.2 1.5 2 3 5 · swr_divisions 2 3 5 5 4 · "
        "span 1.8 MHz to 30 MHz · loss 0.05 dB · loss_limit 0.05 dB · power 200 W · swr 1.1 · directivity 25 dB · "
        "set_power 1 W"
    ),
    "ammeter": (
        "ranges 2 A · accuracy 2 % of full scale · heater 0.2 Ω · heater_tolerance 20 % · heater_power 1.152 W · "
        "power 288 W"
    ),
    "cable-5": "cable 50 Ω, 5 mm, solid polyethylene · length 1 m",
    "cable-10": "cable 50 Ω, 10 mm, solid polyethylene · length 10 m",
    "adapter": "length 2.5 cm · line 35 Ω · velocity_factor 0.7",
    "pad-30": "loss 30 dB · loss_limit 0.5 dB · power 100 W · far_power 5 W · swr 1.2 · span 100 Hz to 500 MHz",
    "pad-10": "loss 10 dB · loss_limit 0.3 dB · power 1 W · far_power 1 W · swr 1.2",
    "step": (
        "loss 0 dB · loss_limit 0.3 dB · positions 0 dB: 0 dB; 10 dB: 10 dB; 20 dB: 20 dB; 30 dB: 30 dB · "
        "power 1 W · far_power 1 W · swr 1.2"
    ),
    "built-pad": "series 71.15 Ω · shunt_in 96.25 Ω · shunt_out 96.25 Ω",
    "tap": "r1 2460 Ω · r1_tolerance 5 % · r1_power 3 W · r2 50 Ω · r2_tolerance 5 % · r2_power 250 mW · power 100 W",
    "transformer": "r2 50 Ω · r2_tolerance 5 % · r2_power 2 W · turns 10 · power 200 W · l 100 µH",
    "gap": "gap 0.05 pF · power 200 W",
    "coupler": (
        "coupling 30 dB · coupling_limit 1 dB · directivity 25 dB · loss 0.1 dB · loss_limit 0.1 dB · "
        "power 200 W · swr 1.15 · span 1.8 MHz to 500 MHz"
    ),
    "low-coupler": (
        "coupling 30 dB · coupling_limit 1 dB · directivity 25 dB · loss 0.1 dB · loss_limit 0.1 dB · "
        "power 200 W · swr 1.15 · span 50 kHz to 2 MHz"
    ),
    "tuner": "loss 0.3 dB · loss_limit 0.3 dB · power 200 W · span 1.8 MHz to 30 MHz · swr 1.5",
    "divider": (
        "r1 10000 Ω · r1_tolerance 5 % · r1_power 1 W · r2 1000 Ω · r2_tolerance 5 % · r2_power 250 mW · stray 5 pF"
    ),
    "sensor": (
        "power 10 mW · floor 1 nW · zero 1 nW · ranges 10 dBm · accuracy 0.2 dB · detector averages power · "
        "cal_factor 100 % · cal_limit 2 % · "
        "swr 1.15 · span 100 kHz to 500 MHz"
    ),
    "relative": (
        "power 100 mW · floor 10 nW · zero 10 nW · ranges -20 dBm; -15 dBm; -10 dBm; -5 dBm; 0 dBm; 5 dBm; 10 dBm · "
        "db_marks -10 -8 -6 -5 -4 -3 -2 -1 0 1 2 · accuracy 0.2 dB · detector averages power · cal_factor 100 % · "
        "cal_limit 2 % · swr 1.15 · "
        "span 100 kHz to 500 MHz"
    ),
    "voltmeter": (
        "bandwidth 100 MHz · resistance 100000 Ω · capacitance 3 pF · accuracy 5 % of full scale · "
        "ranges 3 V; 30 V · volts_limit 300 V"
    ),
    "analyser": "power 100 mW · output 1 mW · span 100 kHz to 500 MHz · swr 1.1",
    "mismatch": "power 10 W · nominal 100 Ω · nominal_limit 2 %",
}


@pytest.mark.parametrize("part", starter_shelf(), ids=lambda part: part.id)
def test_what_the_form_shows(part):
    shown = {field: text for field, text in draft_from_part(part).items() if text and field not in NOT_SHOWN}

    assert " · ".join(f"{field} {text}" for field, text in shown.items()) == SHOWN[part.id.removeprefix("generic-")]


def by_id(name: str) -> Part:
    return next(part for part in starter_shelf() if part.id == f"generic-{name}")


def known_to(part: Part, name: str) -> float:
    """± of a property."""
    return part.properties[name].u * math.sqrt(3)


@pytest.mark.parametrize(
    ("part", "limits"),
    [
        (shelf.lead("l", "l", 0.5), {"length_m": 0.01, "velocity_factor": 0.03 * 0.66, "line_ohm": 2.0}),
        (shelf.probe("p", "p"), {"ratio": 0.2, "capacitance_f": 2.4e-12, "ground_m": 0.03, "setting": 0.0}),
        (shelf.tee("t", "t"), {"arm_m": 0.01, "capacitance_f": 1e-12}),
        (shelf.oscilloscope("o", "o", 1e8), {"capacitance_f": 3.2e-12, "bandwidth_hz": 0.0}),
        (shelf.jumper("j", "j", 0.1, 0.04), {"loss_db": 0.04}),
        (shelf.inline_meter("m", "m", (20.0,), None, 0.05), {"loss_db": 0.05}),
        (generic.cable("c", "c", "", 10.0), {"length_m": 0.02}),
        (generic.adapter("a", "a", 0.025, 35.0), {"length_m": 0.005, "line_ohm": 3.5}),
        (generic.power_meter("s", "s", noise_w=1e-8), {"cal_factor": 0.02, "zero_w": 1e-8}),
        (by_id("voltmeter"), {"capacitance_f": 0.9e-12, "resistance_ohm": 0.0, "bandwidth_hz": 0.0}),
        (by_id("mismatch"), {"nominal_ohm": 2.0}), (by_id("tuner"), {"loss_db": 0.3}),
        (generic.coupler("c", "c", 30, 25, 0.1, 200), {"coupling_db": 1.0, "loss_db": 0.1, "directivity_db": 0.0}),
    ],
    ids=lambda item: item.kind if isinstance(item, Part) else "",
)  # fmt: skip
def test_how_well_what_is_typical_is_known(part, limits):
    assert {name: known_to(part, name) for name in limits} == pytest.approx(limits, rel=1e-6, abs=0.0)


@pytest.mark.parametrize(("name", "tolerances"), [
    ("tap", (0.05, 0.05)), ("transformer", (0.0, 0.3, 0.05)), ("gap", (0.3,)), ("divider", (0.05, 0.05, 0.5)),
    ("ammeter", (0.2,)), ("built-pad", (0.01, 0.01, 0.01)),
])  # fmt: skip
def test_pieces_inside_are_known_to_their_tolerance(name, tolerances):
    made = by_id(name).components

    assert [item.u * math.sqrt(3) / item.nominal for item in made] == pytest.approx(tolerances)


def test_a_pi_pad_of_ten_decibels_is_built_of_96_and_71_ohms():
    """96.25, 71.15 and 96.25 Ω (any attenuator table); each bears what it is said to, and it is matched."""
    pad = by_id("built-pad")
    s = part_network(pad, {}, np.array([1e6])).scattering[0]

    assert [round(item.nominal, 2) for item in pad.components] == [96.25, 71.15, 96.25]
    assert [item.power_limit_w for item in pad.components] == [1.0] * 3
    assert abs(s) == pytest.approx(np.array([[0, 10**-0.5], [10**-0.5, 0]]), abs=1e-9)


def side_db(name: str, f: float) -> float:
    s = part_network(by_id(name), {}, np.array([f])).scattering[0]
    return float(20 * np.log10(abs(s[1, 0] / s[2, 0])))


def test_taps_take_what_their_pieces_let_through():
    """Ten turns: a tenth of the current into 50 Ω beside 50 Ω, 26 dB; a gap: 6 dB less for each octave."""
    assert side_db("transformer", 7e6) == pytest.approx(26.0, abs=0.1)
    assert side_db("gap", 7e6) - side_db("gap", 14e6) == pytest.approx(6.02, abs=0.01)
    assert side_db("gap", 7e6) == pytest.approx(20 * math.log10(1 / (2 * math.pi * 7e6 * 0.05e-12 * 50)), abs=0.01)
    assert by_id("tap").components[0].pieces == "3 × 820 Ω in series"
    assert by_id("tap").components[1].pieces == "2 × 100 Ω in parallel"


def test_a_tuner_is_bypassed_unless_it_is_switched_in():
    for setting, loss in (({}, 0.05), ({"tuner": "bypassed"}, 0.05), ({"tuner": "in line"}, 0.3)):
        s = part_network(by_id("tuner"), setting, np.array([7e6])).scattering[0]
        assert -20 * np.log10(abs(s[1, 0])) == pytest.approx(loss)


def test_ranges_in_decibels_add_the_needle_and_a_dial_goes_up_to_its_figure():
    ranges = by_id("relative").indicators[0].ranges

    assert [item.pointer_offset_db for item in ranges] == [-20.0, -15.0, -10.0, -5.0, 0.0, 5.0, 10.0]
    assert [item.full_scale for item in ranges] == pytest.approx([1e-3 * 10 ** (dbm / 10) for dbm in range(-20, 15, 5)])
    assert by_id("sensor").indicators[0].can_be_negative and by_id("sensor").indicators[0].detector is Detector.THERMAL


def test_ends_of_one_way_through_are_pairs_and_side_ports_hang():
    pairs = [(port.id, port.pair, port.frequency_max_hz) for port in by_id("two-band").ports]
    assert pairs == [("HF in", "HF", 60e6), ("HF out", "HF", 60e6), ("VHF in", "VHF", 525e6), ("VHF out", "VHF", 525e6)]
    for name, side in (("tap", 1), ("transformer", 1), ("gap", 1), ("coupler", 2), ("tee", 1), ("jumper", 0)):
        assert len(by_id(name).side_ports) == side, name
    assert [port.power_limit_w for port in by_id("coupler").ports] == [200.0, 200.0, None, None]


def test_what_a_maker_is_given_stands_in_its_place():
    meter = shelf.inline_meter("m", "B", (5.0, 20.0), shelf.watt_scale(), 0.05, span_hz=(1e6, 2e6), power_limit_w=30.0)
    assert [(p.id, p.frequency_min_hz, p.frequency_max_hz, p.power_limit_w) for p in meter.ports] == [
        ("in", 1e6, 2e6, 30.0), ("out", 1e6, 2e6, 30.0),
    ]  # fmt: skip
    assert shelf.inline_meter("m", "B", (5.0, 20.0), None, 0.05).ports[0].power_limit_w == 20.0
    load = shelf.dummy_load("d", "R", 100.0, minutes=3.0, cooling_minutes=10.0)
    assert (load.properties["rated_time_s"].value, load.properties["cooling_s"].value) == (180.0, 600.0)
    assert shelf.probe("p", "p", setting=1.0).properties["setting"].value == 1.0
    assert shelf.probe("p", "p").ports[0].volts_limit_vpk == 600.0
    pad = generic.attenuator("p", "p", 20.0, 0.5, 100.0, far_power_w=5.0, swr=1.3, span_hz=(1e6, 2e9))
    assert [(p.power_limit_w, p.frequency_min_hz, p.frequency_max_hz) for p in pad.ports] == [
        (100.0, 1e6, 2e9), (5.0, 1e6, 2e9),
    ]  # fmt: skip
    two = shelf.transmitter("t", "T", 50.0, harmonics_dbc={2: -43.0}, measured=True)
    assert two.properties["harmonic_2_dbc"].value == -43.0 and two.properties["harmonic_2_dbc"].measured


def test_a_mismatch_bears_its_power_for_five_minutes_and_a_wattmeter_shows_nothing_below_nothing():
    assert by_id("mismatch").properties["rated_time_s"].value == 300.0
    assert not by_id("wattmeter").indicators[0].can_be_negative
    assert by_id("voltmeter").indicators[0].detector is Detector.RMS
