"""`fenmist tap` and `fenmist pad`: the issue's own numbers, and what is refused."""

import json

import pytest

from fenmist.__main__ import main


def answered(capsys, *arguments):
    assert main([*arguments, "--json"]) == 0
    return json.loads(capsys.readouterr().out)


def test_a_tap_by_its_resistors(capsys):
    """Handbook 4: 39.95 dB, 39.86 by the shortcut, 1.99 W, 0.087 dB, SWR 1.02."""
    made = answered(capsys, "tap", "--r1", "2460", "--r2", "50", "--power", "100 W", "--series", "820 Ω 2 W; 100 Ω 1 W")

    assert (made["r1_ohm"], made["r2_ohm"]) == (2460.0, 50.0)
    assert {name: text.replace("\u202f", " ") for name, text in made["stack"].items()} == {
        "R1": "3 × 820 Ω in series", "R2": "2 × 100 Ω in parallel",
    }  # fmt: skip
    assert made["coupling_db"] == pytest.approx(39.95, abs=0.005)
    assert made["shortcut_db"] == pytest.approx(39.86, abs=0.005)
    assert made["r1_power_w"] == pytest.approx(1.99, abs=0.005)
    assert made["r2_power_w"] == pytest.approx(0.0101, rel=0.02)
    assert made["through_loss_db"] == pytest.approx(0.087, abs=0.0005)
    assert made["through_swr"] == pytest.approx(1.02, abs=0.0005)
    assert made["holds_to_hz"] == pytest.approx(283e6, rel=0.01)
    assert made["trim_pf"] is None


def test_a_tap_by_its_coupling_with_a_wire(capsys):
    made = answered(
        capsys, "tap", "--couple", "40 dB", "--series", "820 Ω; 100 Ω", "--to", "480 MHz", "--stray", "0.2 pF"
    )

    assert made["r1_ohm"] == 2460.0
    assert made["trim_pf"] == pytest.approx(0.153, abs=0.01)
    assert made["trimmed_holds_to_hz"] > 450e6 > made["holds_to_hz"]
    scope = answered(capsys, "tap", "--r1", "2460", "--r2", "50", "--sensor", "1 MΩ 15 pF")
    assert scope["coupling_db"] == pytest.approx(34.0, abs=0.05)
    assert "design.high_end" not in [note["code"] for note in scope["notes"]]


def test_a_tap_in_words(capsys):
    assert main(["tap", "--couple", "40 dB", "--to", "480 MHz", "--series", "820 Ω; 100 Ω"]) == 0

    said = capsys.readouterr().out.replace("\u202f", " ")
    for line in ("Coupling           39.95 dB", "Made of            R1: 3 × 820 Ω in series; R2: 2 × 100 Ω in parallel",
                 "Holds to           283 MHz", "0.15 pF from line to output"):  # fmt: skip
        assert line in said


def test_a_pad_both_ways_and_from_stock(capsys):
    """96.2 and 71.2 Ω; 40.9 and 10.1 Ω at 20 dB (any pad table, from memory)."""
    made = answered(capsys, "pad", "--loss", "10 dB", "--power", "10 W", "--series", "E96 5 W")
    tee = answered(capsys, "pad", "--loss", "20 dB", "--shape", "tee")

    assert made["pi"] == pytest.approx({"shunt_ohm": 96.25, "series_ohm": 71.15}, abs=0.005)
    assert tee["tee"] == pytest.approx({"series_ohm": 40.91, "shunt_ohm": 10.10}, abs=0.005)
    assert made["power_w"]["pi"]["shunt in"] == pytest.approx(5.195, abs=0.002)
    assert sum(made["power_w"]["tee"].values()) == pytest.approx(9.0, rel=1e-6)
    assert set(made["stock"]) == {"shunt in", "series", "shunt out"} and set(tee["stock"]) == {
        "series in", "shunt", "series out",
    }  # fmt: skip
    assert made["loss_db"] == pytest.approx(10.0, abs=0.05)
    assert made["return_loss_db"] > 40.0
    assert main(["pad", "--loss", "10 dB"]) == 0
    assert "Loss" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("arguments", "says"),
    [(("tap",), "by its coupling, or by its resistors"), (("tap", "--couple", "40 dB", "--r1", "9"), "or by its"),
     (("tap", "--couple", "three"), "three"), (("tap", "--couple", "40 dB", "--series", "E7"), "is no resistor"),
     (("pad", "--loss", "0 dB"), "makes no sense"), (("tap", "--couple", "40 dB", "--to", "1 MHz"), "ends below")],
)  # fmt: skip
def test_what_can_not_be_is_said_in_one_line(capsys, arguments, says):
    assert main(arguments) == 2
    assert says in capsys.readouterr().err
