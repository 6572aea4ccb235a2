"""Power from volts: one request for command and tool."""

import math

import pytest

from fenmist.errors import FenmistError
from fenmist.methods.power_from_volts import PowerRequest


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
