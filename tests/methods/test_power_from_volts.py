"""Power from volts: one request for command and tool."""

import math

import pytest

from fenmist.errors import FenmistError
from fenmist.methods.power_from_volts import Correction, PowerRequest


def _answer(**fields):
    return PowerRequest(**{"volts": "102 Vpp", "load": "57.7", "frequency": "7.125 MHz", **fields})()


def test_the_trades_check_value():
    answer = _answer()

    assert answer.net.value[0] == pytest.approx(22.54, abs=0.005)
    assert answer.incident.value[0] == pytest.approx(22.65, abs=0.005)
    assert answer.vrms_v == pytest.approx(36.06, abs=0.005)
    assert answer.net.k[0] == pytest.approx(2.0, abs=0.001)


def test_with_a_lead_of_0_3_metres_it_is_22_33_watts():
    assert _answer(lead="0.3 m", input_capacitance="16 pF", velocity_factor="0.66").net.value[0] == pytest.approx(
        22.33, abs=0.005
    )


@pytest.mark.parametrize("volts", ["102 Vpp", "51 Vpk", "36.0624 Vrms"])
def test_the_form_of_the_volts_does_not_matter(volts):
    assert _answer(volts=volts).net.value[0] == pytest.approx(22.54, abs=0.005)


@pytest.mark.parametrize(
    ("model", "factor"),
    [("one-pole", 1 + (7.125 / 30) ** 2), ("gaussian", 2 ** ((7.125 / 30) ** 2)), ("flat", 1.0)],
)
def test_the_response_is_undone_by_its_model(model, factor):
    plain = _answer().net.value[0]

    assert _answer(bandwidth="30 MHz", bandwidth_model=model).net.value[0] == pytest.approx(plain * factor)


def test_steps_lead_from_the_raw_volts_to_the_power():
    answer = _answer(lead="0.3 m", bandwidth="100 MHz")
    power = answer.vrms_v**2 / 50 * math.prod(step.factor for step in answer.corrections)

    assert power == pytest.approx(answer.net.value[0], rel=1e-9)
    assert [step.name for step in answer.corrections] == ["load", "bandwidth", "lead"]


def test_what_was_not_given_is_said():
    said = " ".join(_answer().assumptions)

    for word in ("no bandwidth given", "no lead given", "common practice, no source", "reactance taken as zero"):
        assert word in said


def test_a_given_accuracy_is_no_assumption_of_ours():
    assert "common practice" not in " ".join(
        _answer(scope_accuracy="1.5 %", load_u="0.5 %", harmonics="-60 dBc", lead="").assumptions
    )


def test_a_smaller_accuracy_makes_a_smaller_uncertainty():
    assert _answer(scope_accuracy="1 %").net.u[0] < 0.6 * _answer().net.u[0]


@pytest.mark.parametrize(
    ("field", "text", "code"),
    [("bandwidth", "20 MHz", "scope.bandwidth"), ("lead", "1 m", "lead.stub"), ("load", "|57.7|", "load.phase_unknown"),
     ("load", "57.7", "load.not_nominal")],
)  # fmt: skip
def test_the_colleagues_remarks_come_along(field, text, code):
    assert code in [note.code for note in _answer(**{field: text}).notes]


@pytest.mark.parametrize(
    ("field", "text"),
    [
        ("volts", "102"), ("volts", "-5 Vpp"), ("volts", "0 Vpp"), ("volts", "1,250 Vpp"), ("volts", "<5 Vpp"),
        ("volts", "25 W"), ("volts", ""), ("load", "0"), ("load", "|50| swr 0.5"), ("load", "|100| swr 1.05"),
        ("load", "x"), ("frequency", "0"), ("frequency", "7 W"), ("frequency", "9e9 GHz"), ("lead", "-1 m"),
        ("lead", "300 m"), ("bandwidth", "wide"), ("bandwidth_model", "square"), ("velocity_factor", "66"),
        ("input_capacitance", "16 m"), ("scope_accuracy", "150 %"), ("load_u", "-1 %"),
    ],
)  # fmt: skip
def test_bad_input_names_its_field_and_what_to_do(field, text):
    request = {"volts": "102 Vpp", "load": "57.7", "frequency": "7.125 MHz", "lead": "0.3 m", field: text}

    with pytest.raises(FenmistError) as caught:
        PowerRequest(**request, names={field: f"--{field}"})()

    assert caught.value.headline.startswith(f"--{field}: ")
    assert caught.value.hint


def test_a_lead_at_resonance_is_refused():
    with pytest.raises(FenmistError, match="resonance"):
        _answer(lead="2.33 m", frequency="18.4 MHz")


@pytest.mark.parametrize(("load", "engine"), [("57.7", "linear"), ("|57.7|", "linear"), ("52 @ -8", "Monte Carlo")])
def test_where_the_power_bends_within_its_uncertainty_it_is_drawn_and_said(load, engine):
    answer = _answer(load=load, load_u="6 %")
    low, high = answer.net_interval_w

    assert answer.engine == engine
    assert low < answer.net.value[0] < high
    assert ("Monte Carlo" in answer.interval_text) is (engine != "linear")


LEAD = {"lead": "0.3 m", "bandwidth": "100 MHz", "noise": "2 %"}
PROBE = {
    "probe": "10:1", "ground_lead": "150 mm", "bandwidth": "100 MHz", "probe_bandwidth": "150 MHz", "noise": "2 %",
}  # fmt: skip
ROOT_3 = math.sqrt(3.0)


def _known_to(answer):
    return {row.influence.id: float(row.influence.standard_u[0]) for row in answer.budget}


def test_what_each_input_is_known_to_with_a_lead():
    """Half a last digit of volts peak to peak is 1/2√2 of it as rms; usual limits of a lead (common practice)."""
    known = _known_to(_answer(**LEAD))

    assert known == pytest.approx({
        "scope.reading": 0.5 / (2 * math.sqrt(2)) / ROOT_3, "scope.gain": 0.03 / ROOT_3, "scope.noise": 0.5 / ROOT_3,
        "scope.response": 1.0 / ROOT_3, "load.resistance": 0.577, "scope.capacitance": 0.2 * 16e-12 / ROOT_3,
        "lead.length": 0.01 / ROOT_3, "lead.velocity_factor": 0.03 * 0.66 / ROOT_3, "lead.line": 2.0 / ROOT_3,
        "source.harmonic_3": 0.5, "source.harmonic_2": 0.5,
    }, rel=1e-3)  # fmt: skip


def test_a_scope_that_is_stated_in_digits_is_known_to_those_it_was_read_with():
    """2 % and 1 digit of 100 Vpp: 0.02 and 0.01, each rectangular."""
    known = _known_to(PowerRequest("100 Vpp", "50", "7 MHz", scope_accuracy="2 % + 1 digit")())

    assert (known["scope.gain"], known["scope.gain.2"]) == pytest.approx((0.02 / ROOT_3, 0.01 / ROOT_3))


def test_what_each_input_is_known_to_with_a_probe():
    known = _known_to(_answer(**PROBE))

    assert known["probe.ratio"] == pytest.approx(0.2 / ROOT_3)
    assert known["probe.capacitance"] == pytest.approx(0.2 * 12e-12 / ROOT_3)
    assert known["probe.ground"] == pytest.approx(0.3 * 0.15 / ROOT_3)


@pytest.mark.parametrize("fields", [LEAD, PROBE])
def test_leaving_a_correction_out_takes_its_factor_away(fields):
    whole = _answer(**fields)
    names = {step.name for step in whole.corrections}
    assert names == {"load", "bandwidth", "noise", "lead" if fields is LEAD else "ground lead"}
    for step in whole.corrections:
        without = _answer(**fields, left_out=frozenset({step.name}))
        assert without.net.value[0] == pytest.approx(whole.net.value[0] / step.factor, rel=1e-9), step.name
        assert [item.name for item in without.corrections if not item.applied] == [step.name]


def test_factors_are_those_of_the_trade():
    """50/57.7 for the load; 1 + (f/B)² of both poles; two per cent of noise lifts peak to peak."""
    factors = {step.name: step.factor for step in _answer(**PROBE).corrections}

    assert factors["load"] == pytest.approx(50 / 57.7)
    assert factors["bandwidth"] == pytest.approx(1 + 7.125**2 * (1 / 100**2 + 1 / 150**2))
    assert factors["noise"] == pytest.approx(1 / 1.04198**2, rel=1e-4)  # peak_to_peak_excess(0.02), test_noise.py
    # series inductance of 1 nH/mm and the tip: |1 - ω²LC|², derived
    ring = (2 * math.pi * 7.125e6) ** 2 * 150e-9 * 12e-12
    assert factors["ground lead"] == pytest.approx((1 - ring) ** 2, rel=1e-6)


def test_a_lead_too_long_for_comfort_says_what_it_adds_and_how_short_it_may_be():
    answer = _answer(lead="1 m", frequency="14.2 MHz")
    (note,) = (item for item in answer.notes if item.code == "lead.stub")
    factor = {step.name: step.factor for step in answer.corrections}["lead"]

    assert note.evidence["added"] == pytest.approx(1 / factor - 1)
    assert note.evidence["length_m"] == 1.0


def test_a_carrier_beyond_a_third_of_the_bandwidth_is_said_as_a_multiple():
    (note,) = (item for item in _answer(bandwidth="20 MHz").notes if item.code == "scope.bandwidth")
    assert "only 2.8 times the carrier" in note.why


def test_the_same_volts_as_rms_are_held_against_peak_to_peak():
    """102 Vpp is 36.06 Vrms; 38 is 5.2 % more."""
    (note,) = (item for item in _answer(also="38 Vrms").notes if item.code == "entry.forms_differ")
    assert note.evidence["difference"] == pytest.approx(math.log(38 / 36.0624), rel=1e-4)
    assert "entry.forms_differ" not in [item.code for item in _answer(also="36.1 Vrms").notes]


def test_how_a_load_is_known_is_said_unless_it_is_whole():
    assert not any("load:" in text for text in _answer(load="57.7+j0").assumptions)
    assert any("load: resistance only" in text for text in _answer().assumptions)
    assert any("load: magnitude" in text for text in _answer(load="|57.7|").assumptions)
    assert any("only rms" in text or "taken as rms" in text for text in _answer(volts="36.06 Vrms").assumptions)


def test_only_one_of_lead_and_probe_hangs_there():
    with pytest.raises(FenmistError, match="only one of the two"):
        _answer(probe="10:1", lead="0.3 m")
    with pytest.raises(FenmistError, match="probe"):
        _answer(probe="110000:1")


def test_what_an_input_would_give_were_it_known_better():
    """u² falls by the share of what is known to nothing."""
    plain = _answer()
    share = next(row.share for row in plain.budget if row.influence.id == "scope.gain")

    better = _answer(known={"scope.gain": 0.0})
    assert better.net.u[0] ** 2 == pytest.approx(plain.net.u[0] ** 2 * (1 - share), rel=1e-6)


def test_a_step_in_decibels():
    assert Correction("probe", 100.0, "").db == pytest.approx(20.0)


@pytest.mark.parametrize(("field", "last", "beyond"), [
    ("lead", "100 m", "101 m"), ("velocity_factor", "1", "1.01"), ("velocity_factor", "0.1", "0.09"),
])  # fmt: skip
def test_a_lead_longer_than_a_hall_and_a_wave_faster_than_light_are_slips(field, last, beyond):
    asked = {"frequency": "10 kHz", "lead": "0.3 m"}
    assert _answer(**{**asked, field: last}).net.value[0] > 0.0
    with pytest.raises(FenmistError):
        _answer(**{**asked, field: beyond})
